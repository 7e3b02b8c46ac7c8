// This file knows the OS's services by their titles.

package names

import (
	_ "embed"
	"strings"
	"sync"

	"hollowkey/core/logs/pieces"
)

//go:embed services.txt
var servicesText string

// titledServices are the titles of services.txt, with the name of each.
var titledServices = sync.OnceValue(func() (t struct {
	names []string
	set   *pieces.Set
}) {
	var titles []string
	for line := range strings.Lines(servicesText) {
		name, all, ok := strings.Cut(strings.TrimSpace(line), " ")
		if !ok || name == "#" {
			continue
		}
		for title := range strings.SplitSeq(all, "|") {
			titles, t.names = append(titles, title), append(t.names, name)
		}
	}
	t.set = pieces.New(titles)
	return t
})

// ServiceTitled is the service of the OS whose title a text, given in small
// letters, speaks of; empty where it speaks of none.
func ServiceTitled(lower string) (name string) {
	t := titledServices()
	t.set.Find(lower, func(k, end int) {
		if name == "" && pieces.Ends(lower, end) {
			name = t.names[k]
		}
	})
	return name
}
