// Package fold makes one cause on many machines one key, and keeps different causes apart:
// what is of one machine, one person or one run is folded out of names.
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

	"hollowkey/core/why/verdict"
)

//go:embed rules.yaml
var rulesText []byte

// A Rule folds one kind of thing.
type Rule struct {
	Name    string   `yaml:"name"`
	What    string   `yaml:"what"`    // an expression (RE2 syntax) over small letters
	By      string   `yaml:"by"`      // what stands in its place; $1 is a group
	Classes []string `yaml:"classes"` // of causes; empty: all
	Kinds   []string `yaml:"kinds"`   // of subjects; empty: all
	re      *regexp.Regexp
}

// Rules are those of a store.
type Rules struct {
	Version int    `yaml:"version"`
	Rules   []Rule `yaml:"rules"`
	Site    string `yaml:"-"` // a site's own, as they were given; empty without
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
	if len(own.Rules) > mostRules {
		return all, fmt.Errorf("there are %d rules; at most %d are read", len(own.Rules), mostRules)
	}
	return Rules{Version: all.Version, Rules: slices.Concat(all.Rules, own.Rules), Site: site}, nil
}

func parse(text []byte) (r Rules, err error) {
	if err := yaml.Unmarshal(text, &r); err != nil {
		return r, err
	}
	for i := range r.Rules {
		if r.Rules[i].re, err = regexp.Compile(r.Rules[i].What); err != nil {
			return r, fmt.Errorf("rule %d, %s: %w", i+1, r.Rules[i].Name, err)
		}
	}
	return r, nil
}

// Facts are what a verdict says of a failure, as they stand: folding rules can change
// without reading a log again.
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
	}
	if v.Product.Name != nil {
		f.Product = *v.Product.Name
	}
	if f.Title == "" {
		f.Title = firstSentence(v.Cause.Summary)
	}
	return f, true
}

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

// ofThePackage are the classes in which the package itself is at fault, so that the product
// is part of the key.
var ofThePackage = map[string]bool{"condition": true, "database": true, "platform": true, "cached-package": true, "custom-action": true, "command-line": true}

// unnamed are the classes whose subject is only what the failure happened to meet first: any
// file will do where the space ends.
var unnamed = map[string]bool{"space": true, "elevation": true, "cancelled": true, "busy": true, "installer-service": true}

// Cause folds facts. Of a subject that nobody named, only the kind is part of the key.
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
	said := ""
	if f.Class == "condition" { // each refusal of a package is one of its own
		said = r.Name(f.Said, f)
	}
	result := ""
	if f.Class == "custom-action" && f.Result != nil {
		result = fmt.Sprint(*f.Result)
	}
	c.ID = Hash(fmt.Sprintf("%d|%s|%s|%s|%s|%d|%s|%s|%s|%s|%s", r.Version, c.Class, c.Sign, c.Kind, subject,
		c.Message, c.Action, c.Product, said, result, r.Site))
	return c
}

// Hash is the ID of a key.
func Hash(key string) string {
	h := sha256.Sum256([]byte(key))
	return hex.EncodeToString(h[:6])
}

// Name folds a name: it is in small letters, without the machine and its user, and without
// what another run would write in another way.
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
			t = rule.re.ReplaceAllString(t, rule.By)
		}
	}
	return strings.TrimRight(t, `\`)
}

// Title folds the title of a cause or of a remedy, which may name what it is about; where
// nothing is folded it stays in the letters in which it is shown.
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
