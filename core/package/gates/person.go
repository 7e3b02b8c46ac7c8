// This file says which gates only a person may open, and why.

package gates

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/package/condition"
	"hollowkey/core/package/sequence"
)

// A gate that refuses may be right: what it asks for is a person's to give. To
// take the gate away then only hides that.

// Names of properties, in words. consent is what a person agrees to by giving
// one, and so is licence where it is no server or key; datum is a value that
// somebody has to know, a toggle needs none, found is what a search of the
// package's own sets.
var (
	consent = lazy.MustCompile(`EULA|ACCEPT|AGREE|CONSENT|(?:^|_)TERMS(?:_|$)`)
	licence = lazy.MustCompile(`LICEN[CS]E`)
	datum   = lazy.MustCompile(`KEY|SERIAL|PID|PASS|PWD|SECRET|TOKEN|USER|ACCOUNT|SERVER|HOST|URL|ADDR|PORT$|SITE|CODE|NAME|PATH|DIR$|FOLDER|FILE|DOMAIN|MAIL|TENANT|COMPANY|DATABASE|^DB|SHARE|CONNECTION|INSTANCE|LOCATION`)
	toggle  = lazy.MustCompile(`^(?:SKIP|ALLOW|ENABLE|DISABLE|FORCE|IGNORE|BYPASS|SUPPRESS|(?:NO|USE|IS|HAS)_)|(?:OK|ALLOWED|ENABLED)$`)
	found   = lazy.MustCompile(`(?:FOUND|INSTALLED|PRESENT|EXISTS?|DETECTED|AVAILABLE)$`)
	// starter is a program that a message names, and that prepares what the
	// package asks for.
	starter = lazy.MustCompile(`(?i)\b([\w-]*(?:setup|install|bootstrap|launch|start)[\w-]*\.exe)\b`)
)

// anyValue ends what a person has to see to where the condition does not say
// which value passes: one that is made up would.
const anyValue = "=VALUE"

// processors are the built-in properties of which a package that is made for
// another machine asks.
var processors = []string{"Intel", "Intel64", "MsiAMD64", "Msix64", "Arm64", "NTProductType", "MsiNTProductType"}

// person is what somebody has to see to before a gate that refuses may pass;
// empty where the gate is out of date, or where only a switch is missing.
func (w *World) person(e condition.Expr, wanted bool, g *Gate) string {
	if g.Kind != Launch && g.Kind != Refusal {
		return ""
	}
	for _, t := range condition.Deciders(e, w.Lookup) {
		_, bare := t.(*condition.Truth)
		for _, s := range condition.Symbols(t) {
			k := w.Know(s)
			switch {
			case k.Origin == BuiltIn && s.Kind == condition.Property:
				if text := w.otherMachine(e, wanted, s, k, bare); text != "" {
					return text
				}
			case k.Origin == Variable && k.Text == "":
				return fmt.Sprintf("set the variable %s of the environment, or install what sets it", s.Name)
			case s.Kind != condition.Property || k.Origin != Nowhere && k.Origin != ByAction:
			case k.Text == "" && !k.Unknown:
				if text := w.notGiven(s.Name, bare || strings.Contains(t.String(), "<>"), g); text != "" {
					return text
				}
			}
		}
	}
	return ""
}

// otherMachine says of an OS's property what a gate wants instead; empty where
// it is only that the gate does not know of a machine so new.
func (w *World) otherMachine(e condition.Expr, wanted bool, s condition.Symbol, k Known, bare bool) string {
	if slices.Contains(processors, s.Name) || s.Name == "VersionNT64" && (bare || k.Text == "") {
		return "take the edition of the package that is made for this machine (" + s.Name + ": " + k.Detail + ")"
	}
	if s.Name != "VersionNT" && s.Name != "VersionNT64" && s.Name != "WindowsBuild" {
		return ""
	}
	passes := func(version, build int) bool {
		with := func(o condition.Symbol) condition.Value {
			switch {
			case o.Kind != condition.Property:
			case o.Name == "VersionNT", o.Name == "VersionNT64" && w.Lookup(o).Text != "":
				return condition.Value{Text: strconv.Itoa(version)}
			case o.Name == "WindowsBuild":
				return condition.Value{Text: strconv.Itoa(build)}
			}
			return w.Lookup(o)
		}
		return condition.Eval(e, with) == map[bool]condition.Answer{true: condition.True, false: condition.False}[wanted]
	}
	os := w.m.Facts().OS
	real := versionNT(os.Version)
	if passes(real, os.Build) { // as it is, and not as the engine tells it
		return ""
	}
	for v := range systems {
		if v <= min(real, newestVersion) && slices.ContainsFunc([]int{2600, 3790, 6002, 7601, 9200, newestBuild, os.Build},
			func(b int) bool { return b <= os.Build && passes(v, b) }) {
			return "" // an older one would do
		}
	}
	return fmt.Sprintf("update the OS, which is older than the package asks for (%s %s build %d)", os.Name, os.Version, os.Build)
}

// notGiven says of a property that nothing sets what it stands for, by what the
// package has that could set it, by its name and by the gate's message. guessed
// says that no value for it stands in the condition.
func (w *World) notGiven(name string, guessed bool, g *Gate) string {
	if why := w.wouldSet(name); why != "" {
		return "install what the package asks for first (" + why + ")"
	}
	if m := starter.FindStringSubmatch(g.Says); m != nil {
		return "start " + m[1] + ", which the package's message names, and not the package by itself"
	}
	switch up := strings.ToUpper(name); {
	case consent.MatchString(up):
		return "read what is agreed to by " + name + ", and give it on the command line if you agree"
	case found.MatchString(up):
		return "install what the package asks for first (nothing here sets " + name + ")"
	case guessed && datum.MatchString(up) && !toggle.MatchString(up):
		return "find out which value belongs there, and give it on the command line: " + name + anyValue
	case licence.MatchString(up):
		return "see to the licence that " + name + " stands for, and give it on the command line then"
	}
	return ""
}

// wouldSet says what a property is waiting for that an action of the package's
// would set, if what that asks for were there; empty where no action sets it.
func (w *World) wouldSet(name string) string {
	t := w.table("CustomAction")
	for _, r := range t.Rows {
		c := sequence.Decode(int(t.Get(r, "Type").Int), t.Get(r, "Source").Text, t.Get(r, "Target").Text)
		if c.Sets != name {
			continue
		}
		action := t.Get(r, "Action").Text
		// The action that would set the property runs under a condition of its
		// own, and that one says what is missing.
		for _, table := range []string{sequence.Execute, sequence.Interface} {
			s := w.table(table)
			for _, row := range s.Rows {
				text := s.Get(row, "Condition").Text
				if s.Get(row, "Action").Text != action || text == "" {
					continue
				}
				e, err := condition.Parse(text)
				if err != nil || condition.Eval(e, w.Lookup) != condition.False {
					continue
				}
				for _, d := range condition.Deciders(e, w.Lookup) {
					for _, sym := range condition.Symbols(d) {
						if k := w.Know(sym); k.Origin == Searched || k.Origin == Related || k.Origin == Variable {
							return k.Detail
						}
					}
				}
			}
		}
	}
	return ""
}
