// This file says which items are better left alone, and why: a disk that is
// encrypted, a keyboard, a network.

package startup

import (
	_ "embed"
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/machine"
)

// A Concern is why an item is left alone unless somebody asks for it by name.
type Concern string

// The concerns.
const (
	Security   Concern = "security software"
	Remote     Concern = "remote access"
	Encryption Concern = "disk encryption"
)

// Means says what holding such an item means.
func (c Concern) Means() string {
	return map[Concern]string{
		Security:   "security software: while it is held, nothing guards the machine",
		Remote:     "remote access: while it is held, nobody reaches the machine from afar",
		Encryption: "disk encryption: while it is held, encrypted drives may stay closed",
	}[c]
}

// concernText has a line for each word, "concern: word | word"; a word counts
// where it stands in a name, a description or the program's path.
//
//go:embed concerns.txt
var concernText string

// groups are the load order groups of drivers by which the OS tells filters of
// files. Source: the driver kit, "Load order groups and altitudes for
// minifilter drivers".
var groups = map[string]Concern{"fsfilter anti-virus": Security, "fsfilter activity monitor": Security, "fsfilter encryption": Encryption}

// remoteParts are the OS's services that let somebody in; what depends on one
// does, too.
var remoteParts = []string{"termservice", "rasman", "sstpsvc", "ikeext"}

// Services and drivers share it; the Type value tells them apart.
const servicesKey = `HKLM\SYSTEM\CurrentControlSet\Services`

// concerns marks the items that a machine or its people depend on: by what the
// OS notes of services and drivers, and by words.
func concerns(m machine.Machine, items []Item) {
	words := concernWords()
	drivers := map[string]Concern{}
	for _, i := range items {
		if i.Kind == Service {
			drivers = driverConcerns(m)
			break
		}
	}
	for n := range items {
		i := &items[n]
		about := i.Name + " " + i.Runs
		if i.Kind == Service {
			name := strings.TrimPrefix(i.ID, "service:")
			i.Concern = serviceConcern(m, name, drivers)
			about += " " + name + " " + machine.TextOf(m, servicesKey+`\`+name, "Description")
		}
		about = strings.ToLower(about)
		for _, w := range words {
			if i.Concern == "" && strings.Contains(about, w.word) {
				i.Concern = w.concern
			}
		}
	}
}

// driverConcerns are the filters of files on a machine, by their names in small
// letters.
func driverConcerns(m machine.Machine) map[string]Concern {
	found := map[string]Concern{}
	names, err := m.Subkeys(servicesKey)
	if err != nil {
		return found
	}
	for _, n := range names {
		if c := groups[strings.ToLower(machine.TextOf(m, servicesKey+`\`+n, "Group"))]; c != "" {
			found[strings.ToLower(n)] = c
		}
	}
	return found
}

// serviceConcern looks at what the OS notes of a service: that it is protected,
// which only security software may be, or what it depends on.
func serviceConcern(m machine.Machine, name string, drivers map[string]Concern) Concern {
	if v, err := m.Value(servicesKey+`\`+name, "LaunchProtected"); err == nil && v.Words() != "0" {
		return Security
	}
	s, err := m.Service(name)
	if err != nil {
		return ""
	}
	for _, d := range s.DependsOn {
		d = strings.ToLower(d)
		if c := drivers[d]; c != "" {
			return c
		}
		if slices.Contains(remoteParts, d) {
			return Remote
		}
	}
	return ""
}

type concernWord struct {
	word    string
	concern Concern
}

// concernWords reads the list of words: a concern, a colon, and its words with
// strokes between them; lines with # are remarks.
func concernWords() (list []concernWord) {
	for line := range strings.Lines(concernText) {
		concern, words, ok := strings.Cut(strings.TrimSpace(line), ":")
		if !ok || strings.HasPrefix(line, "#") {
			continue
		}
		for w := range strings.SplitSeq(words, "|") {
			list = append(list, concernWord{strings.TrimSpace(w), Concern(concern)})
		}
	}
	return list
}

// Wishes are which items somebody wants held, by their IDs.
type Wishes struct {
	Exempt []string // left alone
	With   []string // held, though they are a concern
	Only   []string // held and no others; empty for all
}

// Choose takes the items that are to be held. Those that are a concern are held
// only where they are named; alone are the others of them. It fails for a name
// that none of the items has: a misspelt one would else be held, or not be
// held, in silence.
func Choose(items []Item, w Wishes) (chosen, alone []Item, err error) {
	named := func(list []string, i Item) bool {
		return slices.ContainsFunc(list, func(n string) bool { return strings.EqualFold(n, i.ID) })
	}
	for _, n := range slices.Concat(w.Exempt, w.With, w.Only) {
		if !slices.ContainsFunc(items, func(i Item) bool { return strings.EqualFold(n, i.ID) }) {
			return nil, nil, fmt.Errorf("%q is no startup item", n)
		}
	}
	for _, i := range items {
		switch {
		case named(w.Exempt, i), len(w.Only) > 0 && !named(w.Only, i):
		case i.Concern != "" && !named(w.With, i) && !named(w.Only, i):
			alone = append(alone, i)
		default:
			chosen = append(chosen, i)
		}
	}
	return chosen, alone, nil
}
