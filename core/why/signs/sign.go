// Package signs holds what is known about failures: each sign says what is
// seen in a story, what it means, how to confirm it on a machine and what puts
// it right. Signs are data; this package reads and matches them.
//
// The format is described in docs/signs.md.
package signs

import (
	"maps"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/logs/story"
	"hollowkey/core/step"
)

// A Sign is one piece of diagnostic knowledge.
type Sign struct {
	ID       string  `yaml:"id" json:"id,omitzero"`             // never changes: reports and sites refer to it
	Title    string  `yaml:"title" json:"title,omitzero"`       // with captures in braces
	Class    string  `yaml:"class" json:"class,omitzero"`       // of the cause
	Strength float64 `yaml:"strength" json:"strength,omitzero"` // 0 to 1, how sure the cause is once this is seen; 0 means 0.85
	Says     string  `yaml:"says" json:"says,omitzero"`         // how near the cause it is: one of [Nearness]; empty means root
	Seen     []Seen  `yaml:"seen" json:"seen,omitzero"`         // one of them suffices
	// what the verdict names, when it is not the message that was seen
	Message     int           `yaml:"message" json:"message,omitzero"`
	Subject     Subject       `yaml:"subject" json:"subject,omitzero"`         // what the cause is about
	Explanation string        `yaml:"explanation" json:"explanation,omitzero"` // in whole sentences, with captures in braces
	Confirm     []Confirm     `yaml:"confirm" json:"confirm,omitzero"`         // asked of the machine, when there is one
	Remedies    []step.Remedy `yaml:"remedies" json:"remedies,omitzero"`       // in the order in which to try them
	Tests       Tests         `yaml:"tests" json:"tests,omitzero"`             // run with our own tests
	// a site's own: it takes the place of the built-in one with its ID
	Replaces bool `yaml:"replaces" json:"replaces,omitzero"`

	OfProgram string `yaml:"-" json:"-"` // whose number it is, for a sign made of a site's list of numbers

	from  string // file and line, for messages
	later *later // the texts of a built-in one; nil when they are read
}

// Seen is one way in which a sign shows: everything that is set must hold.
type Seen struct {
	Dialect  []story.Dialect    `yaml:"dialect" json:"dialect,omitzero"`   // empty: all
	Message  []int              `yaml:"message" json:"message,omitzero"`   // an engine message with one of these numbers
	Fields   map[int]Pattern    `yaml:"fields" json:"fields,omitzero"`     // on the fields of that message
	Said     []Pattern          `yaml:"said" json:"said,omitzero"`         // or on its text: one of them
	Text     []Pattern          `yaml:"text" json:"text,omitzero"`         // on any line that counts: one of them
	Also     []Pattern          `yaml:"also" json:"also,omitzero"`         // on other lines: all of them
	Not      []Pattern          `yaml:"not" json:"not,omitzero"`           // on no line
	Action   Pattern            `yaml:"action" json:"action,omitzero"`     // on the name of the action that broke
	Result   []int              `yaml:"result" json:"result,omitzero"`     // what that action's program returned
	Exit     []int              `yaml:"exit" json:"exit,omitzero"`         // what the setup ended with
	Property map[string]Pattern `yaml:"property" json:"property,omitzero"` // on properties' values
	Policy   map[string]Pattern `yaml:"policy" json:"policy,omitzero"`     // on policy values
	Product  Pattern            `yaml:"product" json:"product,omitzero"`   // on the product's name, where the log tells one
	Quiet    bool               `yaml:"quiet" json:"quiet,omitzero"`       // the action that broke wrote no message of its own
	// on the words with which the package refused the machine: one of them
	Refusal  []Pattern `yaml:"refusal" json:"refusal,omitzero"`
	Strength float64   `yaml:"strength" json:"strength,omitzero"` // in place of the sign's
}

// Subject is what the cause is about; Name may hold {captures}.
type Subject struct {
	Kind string `yaml:"kind" json:"kind"` // such as folder, service or key
	Name string `yaml:"name" json:"name"` // with captures in braces

	Inferred bool `yaml:"-" json:"inferred,omitempty"` // no line of the evidence names it
}

// Confirm is a look at the machine that raises or strikes the cause. A check
// may bring captures of its own.
type Confirm struct {
	Check string            `yaml:"check" json:"check,omitzero"` // name of the check
	With  map[string]string `yaml:"with" json:"with,omitzero"`   // its arguments, with captures in braces
}

// A Checker looks at a machine for signs; it knows the checks that they name.
type Checker interface {
	// Check answers one question. captures are filled into later texts and
	// steps.
	Check(name string, with map[string]string) (f Finding, captures map[string]string)
}

// A Finding is what a look at the machine brought.
type Finding struct {
	Check  string `json:"check"`  // name of the check
	Answer string `json:"answer"` // yes, no, unknown
	Text   string `json:"text"`   // in one sentence

	Class  string       `json:"-"` // of the cause that a yes shows, where it is another than was asked about
	Mend   string       `json:"-"` // how to fix it, in one phrase
	Steps  []step.Model `json:"-"` // that fix it; none where only a person can
	Unread bool         `json:"-"` // what was asked about is not there, or could not be read: that shows nothing
}

// Same says whether two findings say the same.
func (f Finding) Same(o Finding) bool {
	return f.Check == o.Check && f.Answer == o.Answer && f.Text == o.Text
}

// Tests are log excerpts that a sign must match, and near misses that it must
// not. An excerpt that holds no action of its own is taken for what Action said
// before it failed.
type Tests struct {
	Action   string   `yaml:"action" json:"action,omitzero"`     // in which the lines stand
	Match    []string `yaml:"match" json:"match,omitzero"`       // logs by which it is seen
	NearMiss []string `yaml:"nearMiss" json:"nearMiss,omitzero"` // logs by which it is not
}

// Classes are the cause classes, closed. Source: docs/verdicts.md.
var Classes = []string{
	"permission", "elevation", "service", "registry", "condition", "prerequisite", "custom-action", "source",
	"cached-package", "corrupt", "in-use", "busy", "space", "path", "policy", "installer-service",
	"component-store", "security-software", "network", "platform", "leftover", "command-line", "database",
	"cancelled", "unknown",
}

// Nearness are the words for how near the cause a sign is, closed: it says
// nothing but that something failed; a failure in which many causes show;
// something that speaks of the cause; or the cause itself.
var Nearness = []string{"nothing", "echo", "tells", "root"}

// Vague says whether the sign tells only that something else failed.
func (s *Sign) Vague() bool { return s.Says == "nothing" }

// Own says whether the sign is a site's, not one that ships with the program.
func (s *Sign) Own() bool { return s.from != "" && !strings.HasPrefix(s.from, builtInFrom) }

// From is where the sign stands: its file, or that it is built in.
func (s *Sign) From() string {
	if s.Own() {
		file, _, _ := strings.Cut(s.from, ": ")
		return file
	}
	return "built in"
}

// SubjectKinds are the kinds of subjects, closed.
var SubjectKinds = []string{
	"file", "folder", "key", "value", "service", "package", "patch", "property", "condition", "program", "host",
	"drive", "product", "account", "assembly",
}

// everywhere are the captures that are there for every sign, where the log
// tells them. Source: docs/signs.md.
var everywhere = []string{"product", "version", "package", "user", "usersid", "computer", "temp", "personal", "action", "result", "exit",
	"doing", "program", "programpath", "service", "key", "folder", "file", "productcode", "build", "versionnt", "systemfolder", "os", "target"}

// Captured are the names that a sign's texts and steps can be filled with, but
// for those that its checks capture.
func (s *Sign) Captured() map[string]bool {
	all := map[string]bool{}
	for _, name := range everywhere {
		all[name] = true
	}
	for _, w := range s.Seen {
		w.Not = nil // it catches nothing
		for _, p := range w.patterns() {
			for _, name := range p.re().SubexpNames() {
				all[name] = true
			}
		}
	}
	return all
}

// patterns are all of a way of being seen.
func (w Seen) patterns() []Pattern {
	all := slices.Concat(w.Said, w.Text, w.Also, w.Not, w.Refusal, []Pattern{w.Action})
	for _, m := range []map[string]Pattern{w.Property, w.Policy} {
		all = slices.AppendSeq(all, maps.Values(m))
	}
	all = slices.AppendSeq(all, maps.Values(w.Fields))
	return slices.DeleteFunc(all, Pattern.IsZero)
}

// Text is all that a search for words looks through.
func (s *Sign) Text() string {
	text, err := s.YAML()
	if err != nil { // what was read can be written
		return s.ID + s.Title
	}
	return text
}

// YAML is the sign as a person writes it, without keys that it does not use.
func (s *Sign) YAML() (string, error) {
	var tree yaml.Node
	if err := tree.Encode([]*Sign{s}); err != nil {
		return "", err
	}
	prune(&tree)
	b, err := yaml.Marshal(&tree)
	return string(b), err
}

// prune takes keys without a value out of a tree, and says whether anything is
// left.
func prune(n *yaml.Node) bool {
	if n.Kind == yaml.MappingNode {
		kept := n.Content[:0]
		for i := 0; i+1 < len(n.Content); i += 2 {
			if prune(n.Content[i+1]) {
				kept = append(kept, n.Content[i], n.Content[i+1])
			}
		}
		n.Content = kept
		return len(kept) > 0
	}
	if n.Kind == yaml.SequenceNode {
		for _, c := range n.Content {
			prune(c)
		}
		return len(n.Content) > 0
	}
	return n.Kind != yaml.ScalarNode || n.Value != "" && n.Value != "null" && !(n.Value == "0" && n.Tag == "!!int") && n.Value != "false"
}
