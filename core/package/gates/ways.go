// This file works out the smallest changes that would let a gate pass.

package gates

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/package/condition"
)

// A Way is one smallest change that would let a gate pass. Property and Alter
// are what a command would do; Text says it for people.
type Way struct {
	Class    string  `json:"class"`              // property, machine, package
	Text     string  `json:"text"`               // in one phrase, for a person
	Property string  `json:"property,omitempty"` // NAME=VALUE on the command line
	Ini      *IniKey `json:"ini,omitempty"`      // with the value that it is to have
	Alter    []Edit  `json:"alter,omitempty"`    // options of package alter
}

// An Edit is one option of package alter with its value.
type Edit struct {
	Option string `json:"option"` // as package alter takes it
	Value  string `json:"value"`  // as package alter takes it
}

// maxWaysShown is what a person weighs against each other before giving up.
const maxWaysShown = 4

// ways works out what would let a gate pass: first properties on the command
// line, then changes of the machine, then of the package.
func (w *World) ways(e condition.Expr, wanted bool, g *Gate) (list []Way) {
	var machineWays []Way
	// Each smallest set of changes is a way, if all of it can be done: by the
	// command line, or by changing the machine.
	for _, wishes := range condition.Ways(e, wanted, w.Lookup) {
		settings, ok := w.fulfil(e, wanted, wishes)
		if !ok {
			continue
		}
		var texts, given []string
		class := "property"
		if slices.ContainsFunc(settings, func(s condition.Setting) bool { return w.Know(s.Symbol).Origin == BuiltIn && unset[s.Symbol.Name] }) {
			continue // a first install has none of these
		}
		if slices.ContainsFunc(settings, w.unworkable) {
			continue
		}
		for _, s := range settings {
			text, fits := w.describe(s)
			texts = append(texts, text)
			if fits {
				given = append(given, s.Symbol.Name+"="+quoteProperty(s.Value))
			} else {
				class = "machine"
			}
		}
		way := Way{Class: class, Text: strings.Join(texts, ", and ")}
		if class == "property" {
			way.Property = strings.Join(given, " ")
			list = append(list, way)
		} else {
			if k := w.Know(settings[0].Symbol); len(settings) == 1 && k.ini != nil && k.Origin == Searched && !settings[0].Clear {
				set := *k.ini
				set.Value = settings[0].Value
				way.Ini = &set
			}
			machineWays = append(machineWays, way)
		}
	}
	list = append(list, machineWays...)
	list = list[:min(len(list), maxWaysShown-1)]
	return append(list, w.alter(e, wanted, g)...)
}

// unworkable says whether a setting asks for another machine than the one that
// is looked at: an older OS or another processor. An update is workable, and
// that no OS would do is worth knowing.
func (w *World) unworkable(s condition.Setting) bool {
	if w.m == nil || w.Know(s.Symbol).Origin != BuiltIn {
		return false
	}
	have, err := strconv.Atoi(w.Lookup(s.Symbol).Text)
	want, bad := strconv.Atoi(s.Value)
	switch s.Symbol.Name {
	case "VersionNT", "VersionNT64":
		return s.Clear || err != nil || bad != nil || want < have
	case "WindowsBuild":
		return s.Clear || err != nil || bad != nil || want < have
	case "Intel", "Intel64", "Msix64", "MsiAMD64", "MsiNTProductType", "Version9X":
		return true
	}
	return false
}

// fulfil finds values for the symbols of the terms that must turn, and checks
// that the whole condition then comes out as wanted.
func (w *World) fulfil(e condition.Expr, wanted bool, wishes []condition.Wish) ([]condition.Setting, bool) {
	var settings []condition.Setting
	with := func(s condition.Symbol) condition.Value {
		for _, set := range settings {
			if set.Symbol == s {
				return condition.Value{Text: set.Value}
			}
		}
		return w.Lookup(s)
	}
	for _, wish := range wishes {
		s, ok := condition.Fulfil(wish, w.Lookup)
		if !ok {
			return nil, false
		}
		settings = append(settings, s)
	}
	return settings, len(settings) > 0 && condition.Eval(e, with) == map[bool]condition.Answer{true: condition.True,
		false: condition.False}[wanted]
}

// describe says how a symbol gets a value; onLine is true when a property on
// the command line does it.
func (w *World) describe(s condition.Setting) (text string, onLine bool) {
	k := w.Know(s.Symbol)
	name := s.Symbol.String()
	value := quoteProperty(s.Value)
	switch {
	case k.Origin == BuiltIn && !settable[name]:
		return osWords(s), false
	case s.Symbol.Kind == condition.Environment:
		return fmt.Sprintf("set the environment variable %s to %s", s.Symbol.Name, value), false
	case s.Symbol.Kind != condition.Property:
		return fmt.Sprintf("choose the features so that %s is %s", name, s.Value), false
	case k.Origin == Searched && s.Clear && !k.Missed:
		return "remove what the search found: " + k.Detail, false
	case k.Origin == Searched && k.Text != "" && !k.Missed:
		return fmt.Sprintf("change what the search finds (%s) to %s", k.Detail, value), false
	case k.Origin == Related:
		return "remove the other version: " + k.Detail, false
	case public(name):
		if s.Clear {
			return fmt.Sprintf("give %s as empty on the command line: %s=\"\"", name, name), true
		}
		return fmt.Sprintf("give it on the command line: %s=%s", name, value), true
	}
	return fmt.Sprintf("%s would have to be %s; only the package itself can set it", name, value), false
}

// public says whether a property may stand on the command line: all its letters
// are capitals. Source: the platform SDK, "Public Properties".
func public(name string) bool { return name == strings.ToUpper(name) }

// quoteProperty writes a value as the engine's command line wants it.
func quoteProperty(v string) string {
	if v == "" || strings.ContainsAny(v, " \t\"") {
		return `"` + strings.ReplaceAll(v, `"`, `""`) + `"`
	}
	return v
}

// osWords says which machine has a built-in property's value.
func osWords(s condition.Setting) string {
	n, err := strconv.Atoi(s.Value)
	switch {
	case s.Symbol.Name == "VersionNT" || s.Symbol.Name == "VersionNT64":
		if s.Clear || err != nil {
			return s.Symbol.Name + " would have to be unset: no such Windows is in use"
		}
		if system, ok := systems[n]; ok {
			return fmt.Sprintf("run it on %s (%s %d)", system, s.Symbol.Name, n)
		}
		if n > newestVersion {
			return fmt.Sprintf("%s would have to be %d, which no Windows tells a package: the newest says %d", s.Symbol.Name, n, newestVersion)
		}
		// A value between two systems stands for all up to the older one.
		older := ""
		for _, v := range []int{500, 501, 502, 600, 601, 602, 603} {
			if v <= n {
				older = systems[v]
			}
		}
		return fmt.Sprintf("run it on %s or older (%s at most %d)", older, s.Symbol.Name, n)
	case s.Clear:
		return s.Symbol.Name + " would have to be unset"
	case s.Symbol.Name == "WindowsBuild" && n > newestBuild:
		return fmt.Sprintf("WindowsBuild would have to be %d, which no Windows tells a package: the newest says %d", n, newestBuild)
	}
	return fmt.Sprintf("%s would have to be %s, which the machine decides", s.Symbol.Name, s.Value)
}

// alter gives the alterations of the package that let the gate pass: a
// condition without the part that failed, else the row removed.
func (w *World) alter(e condition.Expr, wanted bool, g *Gate) []Way {
	if g.Kind == Launch {
		if rest := w.without(e); rest != "" {
			return []Way{{Class: "package", Text: "take the failing part out of the condition: " + rest,
				Alter: []Edit{{"set-condition", g.Table + "," + g.Row + "," + rest}}}}
		}
		return []Way{{Class: "package", Text: "remove the condition from the package", Alter: []Edit{{"remove-row", g.Table + "," + g.Row}}}}
	}
	way := Way{Class: "package", Text: "remove the action from the sequence"}
	for _, table := range []string{"InstallExecuteSequence", "InstallUISequence"} {
		if w.has(table, "Action", g.Row) {
			way.Alter = append(way.Alter, Edit{"remove-row", table + "," + g.Row})
		}
	}
	return []Way{way}
}

// without gives the condition with the sides of its outer ANDs that are not
// true left out; empty when nothing is left or it is no AND.
func (w *World) without(e condition.Expr) string {
	var keep []string
	var split func(condition.Expr)
	split = func(e condition.Expr) {
		if l, ok := e.(*condition.Logic); ok && l.Op == "AND" {
			split(l.Left)
			split(l.Right)
			return
		}
		if condition.Eval(e, w.Lookup) == condition.True {
			text := e.String()
			if l, ok := e.(*condition.Logic); ok && l.Op != "AND" {
				text = "(" + text + ")"
			}
			keep = append(keep, text)
		}
	}
	split(e)
	return strings.Join(keep, " AND ")
}
