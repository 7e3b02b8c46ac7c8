// Package leftovers finds what an earlier install of a product left on a
// machine: folders, registry keys, services, tasks, startup items and
// shortcuts, each with why it is thought to belong and how sure that is.
package leftovers

import (
	"errors"
	"fmt"
	"io/fs"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"hollowkey/core/fix"
	"hollowkey/core/fix/kinds"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/machine"
	"hollowkey/core/step"
)

// Kind is what a leftover is.
type Kind string

// The kinds, in the order in which they are cleared.
const (
	Service  Kind = "service"
	Task     Kind = "task"
	Startup  Kind = "startup item"
	Shortcut Kind = "shortcut"
	Value    Kind = "registry value"
	Key      Kind = "registry key"
	File     Kind = "file"
	Folder   Kind = "folder"
)

// Kinds are all kinds, in the order in which they are cleared.
var Kinds = []Kind{Service, Task, Startup, Shortcut, Value, Key, File, Folder}

// Sureness is how sure it is that a thing belongs to the product.
type Sureness string

// The degrees of sureness.
const (
	Certain Sureness = "certain" // the product's own registration names it
	Likely  Sureness = "likely"  // it has exactly the product's name
	Perhaps Sureness = "perhaps" // its name holds the product's
)

var degrees = []Sureness{Certain, Likely, Perhaps}

// An Item is one thing that was left.
type Item struct {
	Number   int        `json:"number"`              // to choose it by, from 1
	Kind     Kind       `json:"kind"`                // what it is
	Where    string     `json:"where"`               // path, key or name
	Why      string     `json:"why"`                 // by what it is thought to belong
	Sure     Sureness   `json:"sure"`                // how sure that is
	UserData bool       `json:"user_data,omitempty"` // left alone unless asked for by name
	Step     step.Model `json:"step"`                // that clears it
}

// A Report is what a search found.
type Report struct {
	Query     string   `json:"query"`     // as it was asked
	Names     []string `json:"names"`     // that were looked for
	Folders   []string `json:"folders"`   // that registrations name as the product's
	Codes     []string `json:"codes"`     // product codes
	Meant     []string `json:"meant"`     // registered products whose names hold the one that was asked: one of them may be meant
	Installed []string `json:"installed"` // products of these names that look installed: theirs is left alone
	Working   []string `json:"working"`   // of these, those that can still be uninstalled, or nobody can tell: nothing is cleared unless named
	Items     []Item   `json:"items"`     // by kind, the surest of each first
	Notes     []string `json:"notes"`     // what could not be looked at, and what to do first
}

// A product code as a key's name; all other names are products' own.
var codePattern = lazy.MustCompile(`^\{[0-9A-Fa-f]{8}(-[0-9A-Fa-f]{4}){3}-[0-9A-Fa-f]{12}\}$`)

// plain is a name without what is written now this way, now that: case, spaces,
// hyphens, dots.
func plain(name string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || r == '*' {
			return unicode.ToLower(r)
		}
		return -1
	}, name)
}

// patternOf makes of a name with stars what matches plain names.
func patternOf(query string) *regexp.Regexp {
	return regexp.MustCompile("^" + strings.ReplaceAll(regexp.QuoteMeta(plain(query)), `\*`, ".*") + "$")
}

type search struct {
	m        machine.Machine // looked at, never changed
	rep      Report          // filled as the search goes
	pattern  *regexp.Regexp  // of a query with stars, on plain names
	taken    map[string]bool // places that are in the report already, in small letters
	profiles []profile       // of the users whose folders and keys are known
	living   []string        // folders of programs of services that run, or are needed by such
	asked    string          // the query, where it is a folder
	own      []string        // folders that the product's own registration names
	others   []registration  // products that are installed and not meant
}

type profile struct{ user, folder, hive string } // hive is empty where it is not loaded

// leastDepth is how many strokes a product's own folder has: one below
// C:\Program Files.
const leastDepth = 2

// Find looks for what is left of a product. query is its name, its product code
// in braces, a name with stars, or the folder that it was in. Nothing is
// changed.
func Find(m machine.Machine, query string) (Report, error) {
	s := &search{m: m, taken: map[string]bool{}}
	s.rep.Query = query
	_, _, noPath := machine.SplitPath(query)
	// By a code the engine's registrations are found, by a folder what leads
	// there, by a name the rest; each of them teaches the others.
	switch {
	case codePattern.MatchString(query):
		s.rep.Codes = []string{strings.ToUpper(query)}
	case noPath == nil:
		folder := strings.TrimRight(query, `\`)
		if err := ownFolder(folder); err != nil || strings.Count(folder, `\`) < leastDepth {
			return s.rep, errors.Join(err, fmt.Errorf("%s is no product's own folder\nhint: name the one below it that the product was in", query))
		}
		s.rep.Folders, s.asked = []string{folder}, folder
	default:
		p := plain(query)
		if len(strings.ReplaceAll(p, "*", "")) < 4 {
			return s.rep, fmt.Errorf("%q is too short to look for: it would match what belongs to others\n"+
				"hint: give at least four letters of the product's name, or its product code", query)
		}
		if strings.Contains(p, "*") {
			s.pattern = patternOf(query)
		}
		s.rep.Names = []string{query}
	}
	s.users()
	if err := s.registrations(); err != nil {
		return s.rep, err
	}
	s.own = slices.Clone(s.rep.Folders)
	s.alive()
	if len(s.rep.Names) == 0 && s.asked == "" {
		s.note("no registration names the product of this code, so only the engine's own keys can be found")
	}
	// From what surely belongs to it to what only bears its name.
	for _, look := range []func(){s.engine, s.folders, s.shortcuts, s.keys, s.values, s.classes, s.firewall, s.services, s.tasks} {
		look()
	}
	slices.SortStableFunc(s.rep.Items, func(a, b Item) int {
		if d := slices.Index(Kinds, a.Kind) - slices.Index(Kinds, b.Kind); d != 0 {
			return d
		}
		return slices.Index(degrees, a.Sure) - slices.Index(degrees, b.Sure)
	})
	for i := range s.rep.Items {
		s.rep.Items[i].Number = i + 1
	}
	return s.rep, nil
}

// Registration finds what the engine and the list of installed programs hold of
// a product code: its own keys, and its rows in lists that products share. It
// fails only where the registry cannot be read; keys that are not there are no
// error.
func Registration(m machine.Machine, code string) ([]Item, error) {
	s := &search{m: m, taken: map[string]bool{}}
	s.rep.Codes = []string{strings.ToUpper(code)}
	s.users()
	for _, root := range s.uninstallRoots() {
		k := root + `\` + s.rep.Codes[0]
		there, err := m.KeyExists(k)
		if err != nil {
			return nil, err
		}
		if there {
			s.add(Key, k, Certain, "its entry of the installed programs", false, step.New("remove-key", "key", k))
		}
	}
	s.engine()
	return s.rep.Items, nil
}

// ownFolder says whether a folder can be a product's own, by the rule that all
// steps go by: what points into one of the OS's or into everybody's is not the
// product's.
func ownFolder(folder string) error {
	_, err := kinds.New(step.New("quarantine", "path", folder))
	return err
}

// note tells something once.
func (s *search) note(format string, args ...any) {
	if n := fmt.Sprintf(format, args...); !slices.Contains(s.rep.Notes, n) {
		s.rep.Notes = append(s.rep.Notes, n)
	}
}

// absent says whether an error is only about something that is not there;
// another one is noted.
func (s *search) absent(what string, err error) bool {
	if err != nil && !errors.Is(err, fs.ErrNotExist) {
		s.note("%s cannot be read: %v", what, err)
	}
	return err != nil
}

// users looks at each user's folders and keys; those of users who are not
// signed in are not loaded, which is told.
func (s *search) users() {
	names, err := s.m.UserNames()
	s.absent("the list of users", err)
	for _, n := range names {
		a, err := s.m.Account(n)
		if err != nil || a.Profile == "" {
			continue
		}
		s.profiles = append(s.profiles, profile{a.Name, strings.TrimRight(a.Profile, `\`), `HKU\` + string(a.SID)})
	}
}

// match says how well a name fits the product's.
func (s *search) match(name string) (Sureness, string) {
	p := plain(name)
	if s.pattern != nil && s.pattern.MatchString(p) { // and so may another product's
		return Perhaps, "its name fits " + s.rep.Query
	}
	best, why := Sureness(""), ""
	for _, n := range s.rep.Names {
		want := plain(n)
		switch {
		case want == "" || strings.Contains(want, "*"):
		case p == want:
			return Likely, "it has the product's name, " + n
		case strings.Contains(p, want) && !continues(p, want):
			best, why = Perhaps, "its name holds the product's, "+n
		}
	}
	return best, why
}

// continues says whether a name goes on with a digit where the product's ends:
// then it is another version's.
func continues(name, product string) bool {
	rest := name[strings.Index(name, product)+len(product):]
	return rest != "" && unicode.IsDigit(rune(rest[0])) && unicode.IsDigit(rune(product[len(product)-1]))
}

// owned says which of the product's folders a path lies in.
func (s *search) owned(path string) (string, bool) {
	p := strings.ToLower(strings.Trim(path, `" `))
	for _, f := range s.rep.Folders {
		if strings.HasPrefix(p+`\`, strings.ToLower(f)+`\`) && !s.nearer(p, f) {
			// In a folder below it is a neighbour's, where something lives that
			// is not the product's.
			if at := strings.LastIndexByte(p, '\\'); at > len(f) {
				if _, ok := s.lives(p[:at]); ok {
					continue
				}
			}
			return f, true
		}
	}
	return "", false
}

// nearer says whether a path, in small letters, lies in the folder of another
// installed product within one of this product's: some setups register their
// vendor's folder as theirs.
func (s *search) nearer(path, folder string) bool {
	return slices.ContainsFunc(s.others, func(o registration) bool {
		return len(o.folder) > len(folder) && strings.HasPrefix(path+`\`, strings.ToLower(o.folder)+`\`)
	})
}

// leads says which of the product's folders the file lies in that a command
// line runs in the end. user is whose variables count; empty for the machine's.
// The disk is asked only where the line can lead there: there are thousands of
// lines.
func (s *search) leads(line, user string) (string, bool) {
	text := strings.ToLower(machine.CleanPath(machine.Expand(s.m, line, user)))
	if !strings.Contains(text, "~") && !slices.ContainsFunc(s.rep.Folders, func(f string) bool {
		return strings.Contains(text, strings.ToLower(f)+"\\")
	}) {
		return "", false
	}
	program, _ := machine.CommandLine{Text: line, User: user}.Runs(s.m)
	if final, err := s.m.FinalPath(program); err == nil {
		program = final
	}
	return s.owned(program)
}

// foreign says which installed product a path belongs to: it lies in its folder
// or holds it.
func (s *search) foreign(path string) (string, bool) {
	p := strings.ToLower(path) + `\`
	for _, o := range s.others {
		f := strings.ToLower(o.folder) + `\`
		if o.folder != "" && (strings.HasPrefix(p, f) || strings.HasPrefix(f, p)) {
			return o.name, true
		}
	}
	return "", false
}

// add takes a thing in, once. What the kinds of steps refuse is left out with a
// note: a thing that could not be cleared must not look as if it could.
func (s *search) add(kind Kind, where string, sure Sureness, why string, user bool, step step.Model) {
	id := strings.ToLower(where)
	if s.taken[id] {
		return
	}
	s.taken[id] = true
	if _, err := kinds.New(step); err != nil {
		s.note("%s is not offered: %v", where, err)
		return
	}
	s.rep.Items = append(s.rep.Items, Item{Kind: kind, Where: where, Why: why, Sure: sure, UserData: user, Step: step})
}

// Clear drafts the change that clears the chosen items, in the order in which
// nothing holds the next. It fails where one of them may not be touched.
func Clear(m machine.Machine, query string, items []Item) (fix.Plan, error) {
	items = slices.Clone(items)
	slices.SortStableFunc(items, func(a, b Item) int { return slices.Index(Kinds, a.Kind) - slices.Index(Kinds, b.Kind) })
	var steps []step.Model
	for _, i := range items {
		steps = append(steps, i.Step)
	}
	return fix.DraftNamed(m, "clear what is left of "+query, steps...)
}

// Choose gives the items that are cleared: those that are certain or likely and
// no user's data, none while the product can be uninstalled, or only the named
// ones; with adds by number or place, without leaves out.
func (r Report) Choose(only, with, without []string) ([]Item, error) {
	named := func(list []string, i Item) bool {
		return slices.ContainsFunc(list, func(n string) bool { return n == fmt.Sprint(i.Number) || strings.EqualFold(n, i.Where) })
	}
	for _, n := range slices.Concat(only, with, without) {
		if !slices.ContainsFunc(r.Items, func(i Item) bool { return named([]string{n}, i) }) {
			return nil, fmt.Errorf("%q is none of the leftovers\nhint: name one by its number or its place", n)
		}
	}
	var out []Item
	for _, i := range r.Items {
		// Without a word of the person's: only what is sure, no data of users,
		// and nothing while the product works.
		take := i.Sure != Perhaps && !i.UserData && len(r.Working) == 0
		if len(only) > 0 {
			take = named(only, i)
			if take && i.UserData && !slices.ContainsFunc(only, func(n string) bool { return strings.EqualFold(n, i.Where) }) {
				return nil, fmt.Errorf("%s is a user's data, so its number is not enough\nhint: name it by its place: --only '%s'", i.Where, i.Where)
			}
		}
		if named(with, i) {
			if i.UserData && !slices.ContainsFunc(with, func(n string) bool { return strings.EqualFold(n, i.Where) }) {
				return nil, fmt.Errorf("%s is a user's data, so its number is not enough\nhint: name it by its place: --include '%s'", i.Where, i.Where)
			}
			take = true
		}
		if take && !named(without, i) {
			out = append(out, i)
		}
	}
	return out, nil
}
