// This file makes a sign out of a line, for a person to finish.

package workshop

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
	"hollowkey/core/step"
	"hollowkey/core/why/evidence"
	"hollowkey/core/why/lexicon"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

// capture is how a sign captures a name of each kind, and what its subject is
// then.
var capture = map[names.Kind]struct{ name, pattern, subject string }{
	names.Path:    {"file", `[^"'<>|]+?`, "file"},
	names.File:    {"file", `[^\s"'<>|]+`, "file"},
	names.Drive:   {"drive", `[A-Z]:`, "drive"},
	names.Key:     {"key", `[^"']+?`, "key"},
	names.Host:    {"host", `[\w.-]+`, "host"},
	names.URL:     {"url", `\S+`, "host"},
	names.Service: {"service", `[^"']+?`, "service"},
	names.Account: {"account", `[^"']+?`, "account"},
}

const (
	idWords    = 5   // of the line that make a draft's ID
	titleRoom  = 90  // bytes of the line that make its title
	longestHas = 400 // bytes of a line that a pattern is made of
)

// Draft writes a sign for a line of a log, as YAML: the line's words as a
// pattern, what it names as captures, the line as what must match and another
// as what must not. What only a person can know is left to fill in, and said
// so.
func Draft(ctx context.Context, name string, log io.Reader, line int) (string, error) {
	s, err := verdict.Read(ctx, verdict.Input{Name: name, Text: log}, textfile.Options{})
	if err != nil {
		return "", err
	}
	m, other := find(s, line)
	if m == nil {
		return "", fmt.Errorf("%s: line %d tells nothing that a sign could be made of\n"+
			"hint: name one of the lines that are shown by: hollowkey trail %s", name, line, name)
	}
	text, _, _ := strings.Cut(m.Text, "\n")
	if len(text) > longestHas {
		text = text[:longestHas]
	}
	pattern, subject := patternOf(text)
	class := classOf(text)
	d := draft{ID: idOf(text), Title: titleOf(text), Class: class, Says: "root",
		Seen:        []map[string][]string{{"text": {pattern}}},
		Subject:     subject,
		Explanation: "SAY HERE in whole sentences what it means.",
		Remedies:    []remedy{{Class: "advice", Title: "say here how to fix it"}},
		Tests:       tests{Match: []string{m.Raw}, NearMiss: []string{other}},
	}
	if s.Dialect == story.Engine && m.Action != nil {
		d.Tests.Action = m.Action.Name
	}
	b, err := yaml.Marshal([]draft{d})
	if err != nil {
		return "", err
	}
	return fmt.Sprintf("# A draft, from line %d of %s. The class is a guess by its words; explanation and\n"+
		"# remedies are yours to write. Try it with: hollowkey signs test FOLDER\n%s", line, name, b), nil
}

// find finds the message of a line, and another one that is nothing of the kind
// but shares most words with it.
func find(s *story.Story, line int) (m *story.Message, other string) {
	for _, a := range s.Attempts {
		for _, x := range a.Messages {
			if x.Line == line || slices.Contains(x.Further, line) {
				m = x
			}
		}
	}
	if m == nil {
		return nil, ""
	}
	re, err := regexp.Compile("(?i)" + first(patternOf(m.Text)))
	best := -1
	for _, a := range s.Attempts {
		for _, x := range a.Messages {
			if x == m || err == nil && re.MatchString(x.Text) {
				continue
			}
			if n := shared(m.Text, x.Text); n > best && x.Kind > story.KindWarning {
				best, other = n, x.Raw
			}
		}
	}
	if other == "" {
		other = "a line that must not match"
	}
	return m, other
}

// first is the first of two values that a call gives.
func first[A, B any](a A, _ B) A { return a }

// shared is how many words two texts have in common.
func shared(a, b string) (n int) {
	in := strings.Fields(strings.ToLower(a))
	for _, w := range strings.Fields(strings.ToLower(b)) {
		if len(w) > 2 && slices.Contains(in, w) {
			n++
		}
	}
	return n
}

// Numbers of one run stand for any number in the drafted pattern.
var digits = lazy.MustCompile(`\d+`)

// patternOf makes a pattern of a line: its words as they are, what it names
// captured by kind, and numbers that are no codes open.
func patternOf(text string) (pattern string, subject signs.Subject) {
	codes := map[int]bool{} // bytes at which codes begin
	for _, n := range evidence.Numbers(strings.ToLower(text)) {
		codes[n.At] = true
	}
	plain := func(from, to int) string {
		var b strings.Builder
		at := from
		for _, d := range digits.FindAllStringIndex(text[from:to], -1) {
			b.WriteString(regexp.QuoteMeta(text[at : from+d[0]]))
			if codes[from+d[0]] || d[0] > 0 && text[from+d[0]-1] == 'x' {
				b.WriteString(text[from+d[0] : from+d[1]])
			} else {
				b.WriteString(`\d+`)
			}
			at = from + d[1]
		}
		b.WriteString(regexp.QuoteMeta(text[at:to]))
		return b.String()
	}
	var b strings.Builder
	used := map[string]bool{}
	at := 0
	for _, n := range names.In(text) {
		c, ok := capture[n.Kind]
		end := n.At + len(n.Text)
		if !ok || n.At < at || end > len(text) || text[n.At:end] != n.Text {
			continue
		}
		b.WriteString(plain(at, n.At))
		as := c.pattern
		if end == len(text) { // nothing behind it would stop it early
			as = strings.TrimSuffix(as, "?")
		}
		if used[c.name] {
			b.WriteString("(?:" + as + ")")
		} else {
			b.WriteString("(?P<" + c.name + ">" + as + ")")
		}
		if subject.Kind == "" {
			subject = signs.Subject{Kind: c.subject, Name: "{" + c.name + "}"}
		}
		used[c.name] = true
		at = end
	}
	b.WriteString(plain(at, len(text)))
	return b.String(), subject
}

// classOf guesses a cause by a line's words; one that tells none is a program's
// own.
func classOf(text string) string {
	if v, err := verdict.Said(text, nil, verdict.Options{}); err == nil && *v.Cause.Class != "unknown" {
		return *v.Cause.Class
	}
	clues := slices.DeleteFunc(evidence.CluesIn(strings.ToLower(text)), func(c evidence.Clue) bool { return c.Strength == lexicon.Against })
	if len(clues) == 0 {
		return "custom-action"
	}
	return slices.MaxFunc(clues, func(a, b evidence.Clue) int { return cmp.Compare(a.Strength, b.Strength) }).Class
}

// What no identifier may hold.
var noName = lazy.MustCompile(`[^a-z0-9]+`)

// idOf makes an ID of a line's first long words, without numbers: those change
// from log to log.
func idOf(text string) string {
	var words []string
	for _, w := range strings.Fields(noName.ReplaceAllString(strings.ToLower(text), " ")) {
		if len(w) > 2 && digits.FindString(w) == "" && len(words) < idWords {
			words = append(words, w)
		}
	}
	if len(words) == 0 {
		return "a-new-sign"
	}
	return strings.Join(words, "-")
}

// titleOf is a line as a title: short, and without the braces that would be
// captures there.
func titleOf(text string) string {
	return strings.NewReplacer("{", "(", "}", ")").Replace(story.Clip(strings.TrimSpace(text), titleRoom))
}

// A draft is a sign as a person writes it, in that order and without what is
// empty.
type draft struct {
	ID          string                `yaml:"id"`
	Title       string                `yaml:"title"`
	Class       string                `yaml:"class"`
	Says        string                `yaml:"says"`
	Seen        []map[string][]string `yaml:"seen"`
	Subject     signs.Subject         `yaml:"subject,omitempty"`
	Explanation string                `yaml:"explanation"`
	Remedies    []remedy              `yaml:"remedies"`
	Tests       tests                 `yaml:"tests"`
}

type remedy struct {
	Class string       `yaml:"class"`
	Title string       `yaml:"title"`
	Steps []step.Model `yaml:"steps,omitempty"`
}

type tests struct {
	Action   string   `yaml:"action,omitempty"`
	Match    []string `yaml:"match"`
	NearMiss []string `yaml:"nearMiss"`
}
