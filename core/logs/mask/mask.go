// Package mask puts tokens in the place of private data in texts that leave a
// machine: the same user is the same token everywhere. A first pass learns the
// names, a second one replaces them.
//
// What a verdict is reached by stays: numbers, versions, times, paths but for
// the names in them, product codes, and words for a state.
package mask

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"hollowkey/core/logs/pieces"
)

// Kind is a kind of private data.
type Kind string

// The kinds.
const (
	User    Kind = "user"
	Host    Kind = "host"
	Company Kind = "company"
	SID     Kind = "security ID"
	Mail    Kind = "mail address"
	Address Kind = "network address"
	Phone   Kind = "phone number"
	Serial  Kind = "serial number"
	Secret  Kind = "secret"
)

// A Masker knows which names are private. It is not safe for use by several at
// once.
type Masker struct {
	names  map[string]string // in small letters → token
	counts map[Kind]int      // how often something was replaced
	next   map[Kind]int      // last number given to a token of each kind
	kinds  map[string]Kind   // of tokens
	forms  []form            // all ways in which the names may be written
	set    *pieces.Set       // of the forms in built
	built  int               // so many forms are in the set
}

// A form is one way in which a name is written.
type form struct {
	text, token string // the text in small letters, but for what must be exact
	exact       string // of an encoding in which letters' case counts; empty where it does not
	whole       bool   // nothing of a word stands around it
}

// New makes a masker that knows some names from the start.
func New(users, hosts []string) *Masker {
	m := &Masker{names: map[string]string{}, counts: map[Kind]int{}, next: map[Kind]int{}, kinds: map[string]Kind{}}
	for _, u := range users {
		m.learn(User, u)
	}
	for _, h := range hosts {
		m.learn(Host, h)
	}
	return m
}

// everybodys are names that say nothing about a person or a machine.
var everybodys = []string{"system", "public", "default", "default user", "all users", "administrator", "administrators", "users",
	"localservice", "networkservice", "local service", "network service",
	"everyone", "guest", "nt authority", "builtin", "localhost", "desktop", "windows", "appdata", "temp", "defaultapppool",
	"trustedinstaller", "unknown", "user", "none", "root", "owner", "service", "nt service", "iis apppool",
	"font driver host", "window manager",
	"admin", "test", "setup", "install", "software", "program", "files", "local", "server", "client", "host",
	"domain", "workgroup", "null", "true", "false"}

// Everybodys says whether a name is one that machines have in common, so that
// it tells nothing about a person.
func Everybodys(name string) bool { return slices.Contains(everybodys, strings.ToLower(name)) }

const leastName = 3 // letters; shorter names would hit too much

// words are what tokens begin with.
var words = map[Kind]string{User: "user", Host: "host", Company: "company", Mail: "mail", Serial: "serial"}

// learn takes a name in and gives its token. Short names and those that every
// machine has are left out: masking "User" or "all" would tear words apart.
func (m *Masker) learn(kind Kind, name string) string {
	name = strings.TrimSpace(strings.Trim(name, `"'`))
	low := pieces.Lower(name)
	if t, ok := m.names[low]; ok {
		return t
	}
	if len(low) < leastName || slices.Contains(everybodys, low) || strings.ContainsAny(low, "%[]") || m.kinds[name] != "" || state(low) {
		return ""
	}
	m.next[kind]++
	n := m.next[kind]
	token := fmt.Sprintf("%s%d", words[kind], n)
	switch kind {
	case Mail:
		token += "@masked.invalid"
	case SID:
		token = fmt.Sprintf("S-1-5-21-0-0-0-%d", 1000+n)
	case Address: // of the blocks that are kept for texts such as ours; RFC 5737
		token = fmt.Sprintf("%s.%d", []string{"192.0.2", "198.51.100", "203.0.113"}[(n-1)/254%3], (n-1)%254+1)
	case Phone:
		token = fmt.Sprintf("(phone%d)", n)
	}
	m.names[low], m.kinds[token] = token, kind
	if kind == User || kind == Host || kind == Company { // the others are found by how they look
		m.forms = append(m.forms, formsOf(name, token)...)
	}
	return token
}

// rebuildAt is how many forms may be looked for one by one before they are put
// into the set; more as it grows, so that all its making together is linear.
func (m *Masker) rebuildAt() int { return max(16, m.built/4) }

// Mask gives a text with tokens in the place of private data.
func (m *Masker) Mask(text string) string {
	return m.hideNames(m.hideLooks(text))
}

// A found is a form in a text.
type found struct{ from, to, form int }

// hideNames puts tokens in the place of names, the longest of several that
// begin together.
func (m *Masker) hideNames(text string) string {
	if len(m.forms) == 0 {
		return text
	}
	// The set is made anew once enough names came; until then the new ones are
	// looked for one by one.
	if len(m.forms)-m.built > m.rebuildAt() || m.set == nil {
		texts := make([]string, len(m.forms))
		for i, f := range m.forms {
			texts[i] = f.text
		}
		m.set, m.built = pieces.New(texts), len(texts)
	}
	if strings.ContainsFunc(text, func(r rune) bool { return unicode.Is(unicode.Mn, r) }) { // marks that are put on letters
		text = norm.NFC.String(text)
	}
	low := pieces.Lower(text)
	if len(low) != len(text) { // letters whose small form has another length: places would differ
		text = low
	}
	var all []found
	hit := func(k, end int) {
		f := m.forms[k]
		from := end - len(f.text)
		if f.whole && (insideWord(low, from) || goesOnAt(low, end)) || f.exact != "" && text[from:end] != f.exact {
			return
		}
		all = append(all, found{from, end, k})
	}
	m.set.Find(low, hit)
	for k := m.built; k < len(m.forms); k++ {
		f := m.forms[k].text
		for at := 0; ; {
			i := strings.Index(low[at:], f)
			if i < 0 {
				break
			}
			hit(k, at+i+len(f))
			at += i + 1
		}
	}
	if len(all) == 0 {
		return text
	}
	// From left to right, of those that begin together the longest first.
	slices.SortFunc(all, func(a, b found) int {
		if a.from != b.from {
			return a.from - b.from
		}
		return b.to - a.to
	})
	var b strings.Builder
	at := 0
	for _, f := range all {
		if f.from < at {
			continue
		}
		token := m.forms[f.form].token
		b.WriteString(text[at:f.from] + token)
		at = f.to
		m.counts[m.kinds[token]]++
	}
	return b.String() + text[at:]
}

// hide counts what is replaced.
func (m *Masker) hide(kind Kind, token string) string {
	m.counts[kind]++
	return token
}

// orMasked stands for a secret whose token is not known.
func orMasked(token string) string {
	if token == "" {
		return "(masked)"
	}
	return token
}

// Counts says how often each kind was replaced.
func (m *Masker) Counts() map[Kind]int { return maps.Clone(m.counts) }
