// Package signs holds what is known about failures: each sign says what is
// seen in a story, what it means, how to confirm it on a machine and what puts
// it right. Signs are data; this package reads and matches them.
//
// The format is described in docs/signs.md.
package signs

import "hollowkey/core/story"

// A Sign is one piece of diagnostic knowledge.
type Sign struct {
	ID          string        `yaml:"id"` // never changes: reports and sites refer to it
	Title       string        `yaml:"title"`
	Class       string        `yaml:"class"`
	Strength    float64       `yaml:"strength"` // 0 to 1, how sure the cause is once this is seen; 0 means 0.85
	Seen        []Seen        `yaml:"seen"`     // one of them suffices
	Message     int           `yaml:"message"`  // what the verdict names, when it is not the message that was seen
	Subject     Subject       `yaml:"subject"`
	Explanation string        `yaml:"explanation"`
	Confirm     []Confirm     `yaml:"confirm"`
	Remedies    []RemedyModel `yaml:"remedies"`
	Tests       Tests         `yaml:"tests"`

	from string // file and line, for messages
}

// Seen is one way in which a sign shows: everything that is set must hold.
type Seen struct {
	Dialect  []story.Dialect    `yaml:"dialect"`
	Message  []int              `yaml:"message"`  // an engine message with one of these numbers
	Fields   map[int]Pattern    `yaml:"fields"`   // on the fields of that message
	Said     []Pattern          `yaml:"said"`     // or on its text: one of them
	Text     []Pattern          `yaml:"text"`     // on any line that counts: one of them
	Also     []Pattern          `yaml:"also"`     // on other lines: all of them
	Not      []Pattern          `yaml:"not"`      // on no line
	Action   Pattern            `yaml:"action"`   // on the name of the action that broke
	Result   []int              `yaml:"result"`   // what that action's program returned
	Exit     []int              `yaml:"exit"`     // what the set-up ended with
	Property map[string]Pattern `yaml:"property"` // on properties' values
	Policy   map[string]Pattern `yaml:"policy"`   // on policy values
	Quiet    bool               `yaml:"quiet"`    // the action that broke wrote no message of its own
	Refusal  []Pattern          `yaml:"refusal"`  // on the words with which the package refused the machine: one of them
	Strength float64            `yaml:"strength"` // in place of the sign's
}

// Subject is what the cause is about; Name may hold {captures}.
type Subject struct {
	Kind string `yaml:"kind" json:"kind"`
	Name string `yaml:"name" json:"name"`
}

// Confirm is a look at the machine that raises or strikes the cause. A check
// may bring captures of its own.
type Confirm struct {
	Check string            `yaml:"check"`
	With  map[string]string `yaml:"with"`
}

// RemedyModel is a remedy whose texts and step arguments may hold {captures}.
type RemedyModel struct {
	Class  string      `yaml:"class"`
	Title  string      `yaml:"title"`
	Target string      `yaml:"target"`
	Undo   string      `yaml:"undo"`
	Needs  string      `yaml:"needs"` // a capture without which this remedy does not apply
	Steps  []StepModel `yaml:"steps"`
}

// StepModel is one typed step: its kind and its arguments.
type StepModel map[string]map[string]string

// Tests are log excerpts that a sign must match, and near misses that it must
// not. An excerpt that holds no action of its own is taken for what Action said
// before it failed.
type Tests struct {
	Action   string   `yaml:"action"`
	Match    []string `yaml:"match"`
	NearMiss []string `yaml:"nearMiss"`
}

// Classes are the cause classes, closed. Source: docs/verdicts.md.
var Classes = []string{
	"permission", "elevation", "service", "registry", "condition", "prerequisite", "custom-action", "source",
	"cached-package", "corrupt", "in-use", "busy", "space", "path", "policy", "installer-service",
	"component-store", "security-software", "network", "platform", "leftover", "command-line", "database",
	"cancelled", "unknown",
}

// RemedyClasses are the classes of remedies, closed.
var RemedyClasses = []string{
	"permission", "elevation", "service", "registry", "condition", "file", "cache", "environment", "startup",
	"restart", "package", "policy", "network", "repair", "advice",
}

// SubjectKinds are the kinds of subjects, closed.
var SubjectKinds = []string{
	"file", "folder", "key", "value", "service", "package", "patch", "property", "condition", "program", "host",
	"drive", "product", "account", "assembly",
}
