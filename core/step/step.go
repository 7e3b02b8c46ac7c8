// Package step holds what a remedy and a step are, as data: a verdict names
// them, and core/fix carries them out. It knows no machine.
package step

// A Model is one typed step as a sign, a check or a person writes it: one kind
// and its arguments, {"grant": {"folder": …, "account": …, "right": "modify"}}.
type Model map[string]map[string]string

// New makes a model of a kind and pairs of argument and value.
func New(kind string, pairs ...string) Model {
	args := map[string]string{}
	for i := 0; i+1 < len(pairs); i += 2 {
		args[pairs[i]] = pairs[i+1]
	}
	return Model{kind: args}
}

// A Remedy is one way to put a cause right. Steps is empty when it is advice
// that a person must follow. In a sign its texts and arguments may hold
// {captures}; in a verdict they are filled.
type Remedy struct {
	Class  string  `yaml:"class" json:"class"`           // of the cause that it is for; advice is for a person
	Title  string  `yaml:"title" json:"title"`           // in one phrase, beginning with a verb
	Target string  `yaml:"target" json:"target"`         // what it changes, where it has one
	Undo   string  `yaml:"undo" json:"undo"`             // how it is undone, in words
	Needs  string  `yaml:"needs" json:"needs,omitempty"` // a capture without which a sign's remedy does not apply
	Steps  []Model `yaml:"steps" json:"steps,omitempty"` // empty for advice
	// OnlyNamed says that nobody should take it without naming it: it only
	// pretends that something is there, or has a price that another way has
	// not.
	OnlyNamed bool   `yaml:"-" json:"only_named,omitempty"`
	From      string `yaml:"-" json:"from,omitempty"` // the file of the site's own sign that names it; empty for the program's own
}

// Classes are the classes of remedies, closed.
var Classes = []string{
	"permission", "elevation", "service", "registry", "condition", "file", "cache", "environment", "startup",
	"restart", "package", "policy", "network", "repair", "advice",
}

// TargetOf is what a step acts on, as its model names it; empty where it has no
// target.
func TargetOf(m Model) string {
	for kind, args := range m {
		if k, ok := KindOf(kind); ok {
			for _, t := range k.Target {
				if args[t] != "" {
					return args[t]
				}
			}
		}
	}
	return ""
}
