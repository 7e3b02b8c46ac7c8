package evidence

import (
	_ "embed"
	"strconv"
	"strings"
	"sync"

	"hollowkey/core/logs/pieces"
)

//go:embed texts.txt
var textsText string

// texts are the OS's own words for its errors, and the set that finds them.
var texts = sync.OnceValue(func() (t struct {
	codes []int
	set   *pieces.Set
}) {
	var all []string
	for line := range strings.Lines(textsText) {
		number, rest, ok := strings.Cut(strings.TrimSpace(line), " ")
		code, err := strconv.Atoi(number)
		if !ok || err != nil {
			continue
		}
		for p := range strings.SplitSeq(rest, "|") {
			p, _, _ = strings.Cut(p, " * ") // what it names stands between
			all, t.codes = append(all, p), append(t.codes, code)
		}
	}
	t.set = pieces.New(all)
	return t
})

// CodeOfText finds the system error whose own words a line, in small letters, holds, when
// it speaks of a cause of this class.
func CodeOfText(lower, class string) (code int, ok bool) {
	t := texts()
	t.set.Find(lower, func(k, _ int) {
		if c, known := SystemError(t.codes[k]); !ok && known && c.Class == class {
			code, ok = t.codes[k], true
		}
	})
	return code, ok
}
