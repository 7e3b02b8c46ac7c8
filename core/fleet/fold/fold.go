// Package fold makes one cause on many machines one key, and keeps different
// causes apart: what is of one machine, one person or one run is folded out of
// names.
package fold

import (
	"crypto/sha256"
	_ "embed"
	"encoding/hex"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"sync"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/verdict"
)

//go:embed rules.yaml
var rulesText []byte

// A Rule folds one kind of thing.
type Rule struct {
	Name    string   `yaml:"name"`
	What    string   `yaml:"what"`    // an expression (RE2 syntax) over small letters
	By      string   `yaml:"by"`      // what stands in its place; $1 is a group
	Apart   bool     `yaml:"apart"`   // not within a GUID, whose figures are no date and no number
	Classes []string `yaml:"classes"` // of causes; empty: all
	Kinds   []string `yaml:"kinds"`   // of subjects; empty: all
	re      *regexp.Regexp
}

// Rules are those of a store.
type Rules struct {
	Version int    `yaml:"version"`
	Rules   []Rule `yaml:"rules"`
	// Marks are words of the line that proves a cause which tell causes of one
	// class and subject apart: By is the mark. The first that matches counts.
	Marks []Rule `yaml:"marks"`
	Site  string `yaml:"-"` // a site's own, as they were given; empty without
}

const (
	mostRules   = 500     // of a site
	mostRuleSet = 1 << 20 // bytes of a site's rules
)

// builtin are the rules that ship with the program.
var builtin = sync.OnceValue(func() Rules {
	r, err := parse(rulesText)
	if err != nil {
		panic(err) // a test reads them
	}
	return r
})

// Load gives the rules that ship with the program and a site's own behind them.
// Errors name the file, and the rule whose pattern is none.
func Load(site string) (Rules, error) {
	all := builtin()
	if strings.TrimSpace(site) == "" {
		return all, nil
	}
	if len(site) > mostRuleSet {
		return all, fmt.Errorf("the rules have %d bytes; at most %d are read", len(site), mostRuleSet)
	}
	own, err := parse([]byte(site))
	if err != nil {
		return all, err
	}
	if len(own.Rules)+len(own.Marks) > mostRules {
		return all, fmt.Errorf("there are %d rules; at most %d are read", len(own.Rules)+len(own.Marks), mostRules)
	}
	return Rules{Version: all.Version, Rules: slices.Concat(all.Rules, own.Rules),
		Marks: slices.Concat(own.Marks, all.Marks), Site: site}, nil
}

// parse reads the rules and compiles their patterns; an error names the rule,
// since a site may write its own.
func parse(text []byte) (r Rules, err error) {
	if err := yaml.Unmarshal(text, &r); err != nil {
		return r, err
	}
	for _, list := range [][]Rule{r.Rules, r.Marks} {
		for i := range list {
			if list[i].re, err = regexp.Compile(list[i].What); err != nil {
				return r, fmt.Errorf("rule %d, %s: %w", i+1, list[i].Name, err)
			}
		}
	}
	return r, nil
}

// Facts are what a verdict says of a failure, as they stand: folding rules can
// change without reading a log again.
type Facts struct {
	Class    string `json:"class"`
	Sign     string `json:"sign,omitempty"`
	Kind     string `json:"kind,omitempty"`     // of the subject
	Subject  string `json:"subject,omitempty"`  // as the log writes it
	Inferred bool   `json:"inferred,omitempty"` // no line names the subject
	Message  int    `json:"message,omitempty"`
	Action   string `json:"action,omitempty"`
	Result   *int   `json:"result,omitempty"` // of the action
	Server   string `json:"server,omitempty"`
	Said     string `json:"said,omitempty"` // by the package
	Product  string `json:"product,omitempty"`
	Title    string `json:"title,omitempty"`
	Step     bool   `json:"step,omitempty"`  // the action is a step that the log names in its own words, and no name
	Proof    string `json:"proof,omitempty"` // the line that proves it
	Host     string `json:"host,omitempty"`
	User     string `json:"user,omitempty"`
}

// FactsOf takes the facts of a verdict; ok is false where nothing failed.
func FactsOf(v *verdict.Verdict, host, user string) (f Facts, ok bool) {
	if v.Worked() || v.Cause.Class == nil {
		return f, false
	}
	f = Facts{Class: *v.Cause.Class, Sign: v.Sign, Title: v.Cause.Title, Result: v.Result, Server: v.Server,
		Said: v.Said, Host: host, User: user}
	if v.Cause.Message != nil {
		f.Message = *v.Cause.Message
	}
	if s := v.Cause.Subject; s != nil {
		f.Kind, f.Subject, f.Inferred = s.Kind, s.Name, s.Inferred
	}
	if v.BrokeAt.Action != nil {
		f.Action = *v.BrokeAt.Action
		f.Step = len(v.Logs) > 0 && v.Logs[0].Dialect == story.Generic
	}
	if f.Proof = v.ProofLine().Text; len(f.Proof) > mostProof {
		f.Proof = strings.ToValidUTF8(f.Proof[:mostProof], "")
	}
	if f.User == "" {
		f.User = v.Host.Person
	}
	if v.Product.Name != nil {
		f.Product = *v.Product.Name
	}
	if f.Title == "" {
		f.Title = firstSentence(v.Cause.Summary)
	}
	return f, true
}

// firstSentence is a title without what follows it: the later sentences are
// about one machine.
func firstSentence(text string) string {
	if at := strings.Index(text, ". "); at > 0 {
		return text[:at]
	}
	return strings.TrimRight(text, ".")
}

// A Cause is what failed, without what is of one machine alone.
type Cause struct {
	ID      string `json:"id"`      // a hash of the rest
	Class   string `json:"class"`   // of the cause
	Sign    string `json:"sign"`    // that decided; may be empty
	Kind    string `json:"kind"`    // of the subject
	Subject string `json:"subject"` // folded; may be empty
	Message int    `json:"message"` // engine message or system error; 0 without one
	Action  string `json:"action"`  // that broke; may be empty
	Product string `json:"product"` // where the package itself is at fault; else empty
	Title   string `json:"title"`   // one phrase
}

// ofThePackage are the classes in which the package itself is at fault, so that
// the product is part of the key.
var ofThePackage = map[string]bool{"condition": true, "database": true, "platform": true, "cached-package": true, "custom-action": true, "command-line": true}

// unnamed are the classes whose subject is only what the failure happened to
// meet first: any file will do where the space ends.
var unnamed = map[string]bool{"space": true, "elevation": true, "cancelled": true, "busy": true, "installer-service": true}

// mostProof is how many bytes of the line that proves a cause are kept: more is
// a dump.
const mostProof = 400

// Cause folds facts. Of a subject that nobody named, only the kind is part of
// the key. A step in a log's own words is none of it: where the same failure is
// met depends on what the machine had done before. Where nothing else tells the
// cause, the words of the line do.
func (r Rules) Cause(f Facts) Cause {
	c := Cause{Class: f.Class, Sign: f.Sign, Kind: f.Kind, Message: f.Message, Title: r.Title(f.Title, f)}
	c.Subject, c.Action = r.Name(f.Subject, f), r.Name(f.Action, f)
	if ofThePackage[f.Class] {
		c.Product = strings.ToLower(f.Product)
	}
	subject := c.Subject
	if f.Inferred || unnamed[f.Class] {
		subject = ""
	}
	kind := c.Kind
	if unnamed[f.Class] {
		kind = ""
	}
	ownAccount := f.Kind == "account" && f.Class != "service" // whoever ran it; a service's is the same on all machines
	if onlyFolded.MatchString(c.Subject) || ownAccount {      // whatever it is called, it is this machine's own
		subject, kind = "", ""
	}
	mark := r.mark(f)
	if f.Step {
		c.Action = ""
		if subject == "" && c.Message == 0 && c.Sign == "" && !unnamed[f.Class] {
			mark = r.template(f)
		}
	}
	said := ""
	if f.Class == "condition" { // each refusal of a package is one of its own
		said = r.Name(f.Said, f)
	}
	result := ""
	if f.Class == "custom-action" && f.Result != nil {
		result = fmt.Sprint(*f.Result)
	}
	c.ID = Hash(fmt.Sprintf("%d|%s|%s|%s|%s|%d|%s|%s|%s|%s|%s|%s", r.Version, c.Class, c.Sign, kind, subject,
		c.Message, c.Action, c.Product, said, result, mark, r.Site))
	return c
}

// onlyFolded is a name of which nothing is left but what every machine has
// another of.
var onlyFolded = lazy.MustCompile(`^\{(?:user|machine|key|number|date|time|temp|run|sid)\}$`)

// mark is what the words of the proving line say of the cause's sort; empty
// where they say nothing.
func (r Rules) mark(f Facts) string {
	text := strings.ToLower(f.Proof)
	for _, m := range r.Marks {
		if (len(m.Classes) == 0 || slices.Contains(m.Classes, f.Class)) && m.re.MatchString(text) {
			return m.By
		}
	}
	return ""
}

// template is the proving line without its figures.
func (r Rules) template(f Facts) string {
	var b strings.Builder
	for _, c := range strings.ReplaceAll(r.Name(f.Proof, f), "{number}", "0") {
		switch last := strings.HasSuffix(b.String(), "#"); {
		case c >= '0' && c <= '9' && !last:
			b.WriteByte('#')
		case c >= '0' && c <= '9':
		default:
			b.WriteRune(c)
		}
	}
	return strings.Join(strings.Fields(b.String()), " ")
}

// Hash is the ID of a key.
func Hash(key string) string {
	h := sha256.Sum256([]byte(key))
	return hex.EncodeToString(h[:6])
}

// Name folds a name: it is in small letters, without the machine and its user,
// and without what another run would write in another way.
func (r Rules) Name(name string, f Facts) string {
	t := strings.ToLower(strings.TrimSpace(name))
	for _, own := range []struct{ name, by string }{{f.Host, "{machine}"}, {f.User, "{user}"}} {
		n := strings.ToLower(own.name)
		if _, behind, ok := strings.Cut(n, `\`); ok { // DOMAIN\user
			n = behind
		}
		if len(n) > 2 { // shorter ones stand in words
			t = replaceWord(t, n, own.by)
		}
	}
	for _, rule := range r.Rules {
		if (len(rule.Classes) == 0 || slices.Contains(rule.Classes, f.Class)) && (len(rule.Kinds) == 0 || slices.Contains(rule.Kinds, f.Kind)) {
			t = rule.fold(t)
		}
	}
	return strings.TrimRight(t, `\`)
}

// guid is a GUID in small letters.
var guid = lazy.MustCompile(`[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}`)

// fold puts what a rule says in the place of what it is about.
func (r Rule) fold(t string) string {
	if !r.Apart {
		return r.re.ReplaceAllString(t, r.By)
	}
	var b strings.Builder
	from := 0
	for _, at := range guid.FindAllStringIndex(t, -1) {
		b.WriteString(r.re.ReplaceAllString(t[from:at[0]], r.By) + t[at[0]:at[1]])
		from = at[1]
	}
	return b.String() + r.re.ReplaceAllString(t[from:], r.By)
}

// Title folds the title of a cause or of a remedy, which may name what it is
// about; where nothing is folded it stays in the letters in which it is shown.
func (r Rules) Title(title string, f Facts) string {
	if t := r.Name(title, f); !strings.EqualFold(t, title) {
		return t
	}
	return title
}

// replaceWord replaces a word where no letter or digit stands beside it.
func replaceWord(t, word, by string) string {
	letter := func(b byte) bool { return b >= 'a' && b <= 'z' || b >= '0' && b <= '9' }
	for from := 0; ; {
		at := strings.Index(t[from:], word)
		if at < 0 {
			return t
		}
		at += from
		end := at + len(word)
		if (at > 0 && letter(t[at-1])) || (end < len(t) && letter(t[end])) {
			from = end
			continue
		}
		t = t[:at] + by + t[end:]
		from = at + len(by)
	}
}
