// Package fold makes one cause on many machines one key, and keeps different causes apart:
// what is of one machine, one person or one run is folded out of names.
package fold

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/why/verdict"
)

// Version rises when the rules change what is one cause.
const Version = 1

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
var ofThePackage = map[string]bool{"condition": true, "package": true, "platform": true, "cached-package": true, "custom-action": true, "script": true}

// Of is the cause of a verdict; ok is false where nothing failed.
func Of(v *verdict.Verdict, host, user string) (c Cause, ok bool) {
	if v.Worked() || v.Cause.Class == nil {
		return c, false
	}
	c = Cause{Class: *v.Cause.Class, Sign: v.Sign, Title: v.Cause.Title}
	if v.Cause.Message != nil {
		c.Message = *v.Cause.Message
	}
	if s := v.Cause.Subject; s != nil {
		c.Kind, c.Subject = s.Kind, Name(s.Name, host, user)
	}
	if v.BrokeAt.Action != nil {
		c.Action = Name(*v.BrokeAt.Action, host, user)
	}
	if ofThePackage[c.Class] && v.Product.Name != nil {
		c.Product = strings.ToLower(*v.Product.Name)
	}
	if c.Title == "" {
		c.Title = Name(firstSentence(v.Cause.Summary), host, user)
	}
	h := sha256.Sum256(fmt.Appendf(nil, "%d|%s|%s|%s|%s|%d|%s|%s", Version, c.Class, c.Sign, c.Kind, c.Subject, c.Message, strings.ToLower(c.Action), c.Product))
	c.ID = hex.EncodeToString(h[:6])
	return c, true
}

func firstSentence(text string) string {
	if at := strings.Index(text, ". "); at > 0 {
		return text[:at]
	}
	return strings.TrimRight(text, ".")
}

// A rule folds one kind of thing.
type rule struct {
	what *lazy.Regexp
	by   string
}

// rules are applied in their order to a name in small letters.
var rules = []rule{
	{lazy.MustCompile(`(?:[a-z]:)?\\(?:users|documents and settings)\\[^\\]+`), `%userprofile%`},
	{lazy.MustCompile(`[a-z]:\\users\\[^\\]{1,6}~\d`), `%userprofile%`},
	{lazy.MustCompile(`\bs-1-5-21(?:-\d+){3,}`), `{sid}`},
	{lazy.MustCompile(`\bhk(?:u|ey_users)\\[^\\]+`), `hkcu`},
	{lazy.MustCompile(`(\\te?mp\\(?:[^\\]+\\)*)\{?[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}\}?`), `$1{run}`},
	{lazy.MustCompile(`(\\te?mp\\(?:[^\\]+\\)*)[0-9a-f]{4,8}(\.tmp|\.ipi|\.msi|\\)`), `$1{temp}$2`},
	{lazy.MustCompile(`(\\te?mp\\(?:[^\\]+\\)*)[~_]?[a-z]{1,3}[0-9a-f]{3,}(\.tmp|\\)`), `$1{temp}$2`},
	{lazy.MustCompile(`\b\d{4}[-_.]?\d{2}[-_.]?\d{2}(?:[t_ -]?\d{2}[:._-]?\d{2}(?:[:._-]?\d{2})?)?\b`), `{date}`},
	{lazy.MustCompile(`\b\d{1,2}:\d{2}:\d{2}(?:[.,]\d+)?\b`), `{time}`},
	{lazy.MustCompile(`\b(?:pid|process|session|thread)(?: id)?[ =#:]*\d+`), `{number}`},
	{lazy.MustCompile(`\(\d+\)`), `({number})`},
	{lazy.MustCompile(`\b\d{5,}\b`), `{number}`},
	{lazy.MustCompile(`0x[0-9a-f]{9,}`), `{address}`},
}

// Name folds a name: it is in small letters, without the machine and its user, and without
// what another run would write in another way.
func Name(name, host, user string) string {
	t := strings.ToLower(strings.TrimSpace(name))
	for _, r := range rules {
		t = r.what.ReplaceAllString(t, r.by)
	}
	for _, own := range []struct{ name, by string }{{host, "{machine}"}, {user, "{user}"}} {
		if n := strings.ToLower(own.name); len(n) > 2 { // shorter ones stand in words
			t = replaceWord(t, n, own.by)
		}
	}
	return strings.TrimRight(t, `\`)
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
