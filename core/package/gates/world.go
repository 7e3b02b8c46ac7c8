// Package gates finds everything in a package that can stop its setup, works
// it out for one machine, and says why it stops and what would let it pass.
package gates

import (
	"errors"
	"io/fs"
	"strconv"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/condition"
	"hollowkey/core/package/installdb"
)

// A Machine is what the gates need of one.
type Machine interface {
	Name() string
	Facts() machine.Facts
	machine.Files
	machine.Registry
}

// A World is what conditions are worked out in: a package, a machine or none,
// and the properties of the command line.
type World struct {
	db    *installdb.Database        // the package, with its transforms
	m     Machine                    // nil when none is named
	given map[string]string          // properties of the command line
	known map[condition.Symbol]Known // what was worked out already
	busy  map[condition.Symbol]bool  // being worked out, against circles
	last  *Found                     // that the search under way looked at
	found map[string]*Found          // registry values that searches took, by property
	err   error                      // the first one of reading the package

	directories *installdb.Directories // read when the first is asked for
}

// NewWorld makes the world of a package. m may be nil.
func NewWorld(db *installdb.Database, m Machine, given map[string]string) *World {
	return &World{db: db, m: m, given: given, known: map[condition.Symbol]Known{},
		busy: map[condition.Symbol]bool{}, found: map[string]*Found{}}
}

// Err is the first error that reading the package gave.
func (w *World) Err() error { return w.err }

// table reads a table of the package; the first one that cannot be read is kept
// as the world's error.
func (w *World) table(name string) *installdb.Table {
	t, err := w.db.TableOrEmpty(name)
	if err != nil {
		if w.err == nil {
			w.err = err
		}
		return &installdb.Table{Name: name}
	}
	return t
}

// Origin is where a symbol's value comes from.
type Origin string

// The origins.
const (
	Given    Origin = "command line"
	BuiltIn  Origin = "built-in"
	Stored   Origin = "Property table"
	Searched Origin = "AppSearch"
	Related  Origin = "Upgrade table"
	ByAction Origin = "custom action"
	Variable Origin = "environment"
	Choice   Origin = "features"
	Nowhere  Origin = "not set"
)

// Known is a symbol's value, where it comes from, and how that is known.
type Known struct {
	condition.Value
	Origin Origin // where the value comes from
	Detail string // one phrase: what was looked at and found
	Missed bool   // a search found nothing, and the value is what the package gives for that

	ini *IniKey // from which a search took it as it stands there
}

// An IniKey is a key of an INI file, and a value for it.
type IniKey struct {
	File    string `json:"file"`    // its path on the machine
	Section string `json:"section"` // without brackets
	Key     string `json:"key"`     // its name
	Value   string `json:"value"`   // what it is to have
}

// A Found is the registry value from which a search took a property.
type Found struct{ Key, Name, Detail string }

// Found is the registry value that a property was taken from; nil where no
// search took it from one.
func (w *World) Found(property string) *Found {
	if k := w.Know(condition.Symbol{Name: property}); k.Origin != Searched || k.Text == "" {
		return nil
	}
	return w.found[property]
}

// Lookup gives the value of a symbol; a [condition.Lookup].
func (w *World) Lookup(s condition.Symbol) condition.Value { return w.Know(s).Value }

// Know works a symbol out, once.
func (w *World) Know(s condition.Symbol) Known {
	if k, ok := w.known[s]; ok {
		return k
	}
	if w.busy[s] {
		return unknown(ByAction, "its value depends on itself")
	}
	w.busy[s] = true
	var k Known
	switch s.Kind {
	case condition.Property:
		k = w.property(s.Name)
	case condition.Environment:
		k = w.variable(s.Name)
	default:
		k = w.state(s)
	}
	delete(w.busy, s)
	w.known[s] = k
	return k
}

// property works a property out in the engine's order of precedence: what a
// search finds, what was given, what an action sets, what the package says.
func (w *World) property(name string) Known {
	searched, found := w.search(name)
	switch {
	case found && (searched.Text != "" || searched.Unknown):
		return searched // what is found replaces what was given
	case w.given[name] != "":
		return known(w.given[name], Given, "given")
	}
	if b, ok := w.builtIn(name); ok {
		return b
	}
	if u, ok := w.related(name); ok {
		return u
	}
	stored, has := w.stored(name)
	if set, ok := w.byAction(name); ok && (has || set.Unknown || set.Text != "") {
		if set.Unknown && has {
			set.Detail += "; before that it is " + strconv.Quote(stored)
		}
		return set
	}
	if has && found { // a default for what is not there: "0" where a search finds no runtime
		return Known{Value: condition.Value{Text: stored}, Origin: Searched, Missed: true,
			Detail: searched.Detail + "; without it the package has " + strconv.Quote(stored)}
	}
	if has {
		return known(stored, Stored, "the package sets it")
	}
	if found {
		return searched
	}
	return Known{Origin: Nowhere, Detail: "nothing sets it"}
}

// known is a value, where it comes from, and how that is known.
func known(text string, from Origin, detail string) Known {
	return Known{Value: condition.Value{Text: text}, Origin: from, Detail: detail}
}

// unknown is a value that can only be known when the setup runs.
func unknown(from Origin, detail string) Known {
	return Known{Value: condition.Value{Unknown: true}, Origin: from, Detail: detail}
}

// stored is a property of the package's own table.
func (w *World) stored(name string) (string, bool) {
	t := w.table("Property")
	for _, r := range t.Rows {
		if t.Get(r, "Property").Text == name {
			return t.Get(r, "Value").Text, true
		}
	}
	return "", false
}

// byAction finds the custom actions that set a property. A plain text under a
// condition that can be worked out is a value; all else is known at run time
// only.
func (w *World) byAction(name string) (Known, bool) {
	t := w.table("CustomAction")
	for _, r := range t.Rows {
		kind := int(t.Get(r, "Type").Int) & 0x3F
		if kind != 51 && kind != 35 || t.Get(r, "Source").Text != name {
			continue
		}
		action, target := t.Get(r, "Action").Text, t.Get(r, "Target").Text
		runs := w.runs(action)
		switch runs {
		case condition.False:
			continue
		case condition.CannotTell:
			return unknown(ByAction, "the action "+action+" may set it"), true
		}
		if text, ok := w.Format(target); ok {
			return known(text, ByAction, "the action "+action+" sets it"), true
		}
		return unknown(ByAction, "the action "+action+" sets it to "+target), true
	}
	return Known{}, false
}

// runs says whether an action runs before the setup does its work.
func (w *World) runs(action string) condition.Answer {
	answer := condition.False
	for _, table := range []string{"InstallExecuteSequence", "InstallUISequence"} {
		t := w.table(table)
		for _, r := range t.Rows {
			if t.Get(r, "Action").Text != action || t.Get(r, "Sequence").Int <= 0 {
				continue
			}
			e, err := condition.Parse(t.Get(r, "Condition").Text)
			if err != nil {
				return condition.CannotTell
			}
			if a := condition.Eval(e, w.Lookup); a != condition.False {
				answer = a
			}
		}
	}
	return answer
}

// variable is an environment variable of the machine.
func (w *World) variable(name string) Known {
	if w.m == nil {
		return unknown(Variable, "an environment variable of the machine")
	}
	for k, v := range w.m.Facts().Environment {
		if strings.EqualFold(k, name) {
			return known(v, Variable, "set on "+w.m.Name())
		}
	}
	return Known{Origin: Variable, Detail: "not set on " + w.m.Name()}
}

// state gives the states of features and components at a first install, as the
// numbers that conditions compare with.
func (w *World) state(s condition.Symbol) Known {
	const absent, local, none = "2", "3", "-1"
	feature := s.Kind == condition.FeatureAction || s.Kind == condition.FeatureState
	if feature && !w.has("Feature", "Feature", s.Name) || !feature && !w.has("Component", "Component", s.Name) {
		return Known{Origin: Nowhere, Detail: "the package has none of this name"}
	}
	switch s.Kind {
	case condition.FeatureState, condition.ComponentState:
		return known(absent, Choice, "not installed yet")
	case condition.FeatureAction:
		if w.chosen(s.Name) {
			return known(local, Choice, "chosen by its level")
		}
		return known(none, Choice, "not chosen by its level")
	}
	t := w.table("FeatureComponents")
	for _, r := range t.Rows {
		if t.Get(r, "Component_").Text == s.Name && w.chosen(t.Get(r, "Feature_").Text) {
			return known(local, Choice, "part of a chosen feature")
		}
	}
	return known(none, Choice, "in no chosen feature")
}

// has says whether a table has a row with a value in a column.
func (w *World) has(table, column, value string) bool {
	t := w.table(table)
	for _, r := range t.Rows {
		if t.Get(r, column).Text == value {
			return true
		}
	}
	return false
}

// chosen says whether a feature is installed when nobody chooses otherwise.
func (w *World) chosen(feature string) bool {
	level := 1
	if n, err := strconv.Atoi(w.Know(condition.Symbol{Name: "INSTALLLEVEL"}).Text); err == nil {
		level = n
	}
	t := w.table("Feature")
	for _, r := range t.Rows {
		if t.Get(r, "Feature").Text == feature {
			n := int(t.Get(r, "Level").Int)
			return n > 0 && n <= level
		}
	}
	return false
}

const maxFormat = 20 // properties within one another

// Format puts values into a text with [Property] and [%VARIABLE] in it. ok is
// false when something in it is known at run time only.
func (w *World) Format(text string) (out string, ok bool) {
	for range maxFormat {
		// From the inside out: a name in brackets may hold another.
		open := strings.LastIndexByte(text, '[')
		if open < 0 {
			return text, true
		}
		end := strings.IndexByte(text[open:], ']')
		if end < 0 {
			return text, true
		}
		name := text[open+1 : open+end]
		s := condition.Symbol{Name: name}
		switch {
		case strings.HasPrefix(name, "%"):
			s = condition.Symbol{Kind: condition.Environment, Name: name[1:]}
		case strings.HasPrefix(name, `\`) && len(name) > 1:
			text = text[:open] + name[1:] + text[open+end+1:]
			continue
		case name == "" || strings.ContainsAny(name[:1], "#$!~"):
			return text, false
		}
		v := w.Know(s)
		if v.Origin == Nowhere && s.Kind == condition.Property {
			if path, ok := w.Folder(name); ok {
				v = Known{Value: condition.Value{Text: path}}
			}
		}
		if v.Unknown {
			return text, false
		}
		text = text[:open] + v.Text + text[open+end+1:]
	}
	return text, false
}

// BuiltIn gives a property that the engine itself sets; ok is false for others.
func (w *World) BuiltIn(name string) (k Known, ok bool) { return w.builtIn(name) }

// Search looks up what AppSearch finds for a property; ok is false when no
// search is for it.
func (w *World) Search(property string) (k Known, ok bool) { return w.search(property) }

// Related gives the product code that FindRelatedProducts puts into a property;
// ok is false when no row of the Upgrade table is for it.
func (w *World) Related(property string) (k Known, ok bool) { return w.related(property) }

// Folder works out where a folder of the Directory table is on the machine,
// with a backslash at its end; ok is false when that cannot be told.
func (w *World) Folder(name string) (path string, ok bool) {
	if w.directories == nil {
		d, err := w.db.Directories()
		if err != nil {
			w.err = err
			return "", false
		}
		w.directories = d
	}
	return w.directories.Resolve(name, func(key string) (string, bool) {
		v := w.Know(condition.Symbol{Name: key})
		return v.Text, !v.Unknown
	})
}

// there says whether a file or folder is on the machine; ok is false when that
// cannot be told.
func (w *World) there(path string) (there, ok bool) {
	if w.m == nil {
		return false, false
	}
	_, err := w.m.Stat(strings.TrimRight(path, `\`))
	if errors.Is(err, fs.ErrNotExist) {
		return false, true
	}
	return err == nil, err == nil
}
