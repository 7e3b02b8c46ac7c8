// Package mask puts tokens in the place of private data in texts that leave a
// machine: the same user is the same token everywhere. A first pass learns the
// names, a second one replaces them.
package mask

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
)

// Kind is a kind of private data.
type Kind string

// The kinds.
const (
	User   Kind = "user"
	Host   Kind = "host"
	SID    Kind = "security ID"
	Mail   Kind = "mail address"
	Serial Kind = "serial number"
	Secret Kind = "secret"
)

// A Masker knows which names are private. It is not safe for use by several at
// once.
type Masker struct {
	names  map[string]string // in small letters → token
	counts map[Kind]int      // how often something was replaced
	next   map[Kind]int      // last number given to a token of each kind
	kinds  map[string]Kind   // of tokens
	words  *regexp.Regexp    // all names; nil when they changed
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
	"trustedinstaller", "unknown", "user", "none", "root", "owner", "service"}

// Everybodys says whether a name is one that machines have in common, so that it
// tells nothing about a person.
func Everybodys(name string) bool { return slices.Contains(everybodys, strings.ToLower(name)) }

const leastName = 3 // letters; shorter names would hit too much

// learn takes a name in and gives its token. Short names and those that every
// machine has are left out: masking "User" or "all" would tear words apart.
func (m *Masker) learn(kind Kind, name string) string {
	name = strings.TrimSpace(strings.Trim(name, `"'`))
	low := strings.ToLower(name)
	if t, ok := m.names[low]; ok {
		return t
	}
	if len(low) < leastName || slices.Contains(everybodys, low) || strings.ContainsAny(low, "%[]") || m.kinds[name] != "" {
		return ""
	}
	m.next[kind]++
	token := fmt.Sprintf("%s%d", map[Kind]string{User: "user", Host: "host", Mail: "mail", Serial: "serial"}[kind], m.next[kind])
	if kind == Mail {
		token += "@masked.invalid"
	}
	if kind == SID {
		token = fmt.Sprintf("S-1-5-21-0-0-0-%d", 1000+m.next[kind])
	}
	m.names[low], m.kinds[token], m.words = token, kind, nil
	return token
}

// What is learned from, and how it is recognised.
var (
	sidPattern     = regexp.MustCompile(`\bS-1-5-21(?:-\d+){3,4}\b`)
	mailPattern    = regexp.MustCompile(`\b[\w.+%-]+@[\w-]+(?:\.[\w-]+)+\b`)
	profilePattern = regexp.MustCompile(`(?i)[a-z]:\\{1,2}(?:Users|Documents and Settings)\\{1,2}([^\\/:*?"<>|\r\n]+)`)
	uncPattern     = regexp.MustCompile(`(?:^|[^\\\w:])\\\\(?:\\\\)?([A-Za-z0-9][\w.-]{1,62})\\`)
	valuePattern   = regexp.MustCompile(`(?i)\b(LogonUser|USERNAME|ComputerName|COMPUTERNAME|UserDomain|USERDOMAIN|CLIENTNAME|LOGONSERVER)\b(?: property\. Its (?:current )?value is '|\s*[=:]\s*['"]?)([^'"\r\n;,\x00]+)`)
	domainPattern  = regexp.MustCompile(`\b([A-Za-z][\w-]{2,14})\\([A-Za-z][\w.-]{2,19})\b`)
	serialPattern  = regexp.MustCompile(`\b[A-Z0-9]{5}(?:-[A-Z0-9]{5}){3,5}\b`)
	bearerPattern  = regexp.MustCompile(`(?i)\b(bearer|basic)\s+[A-Za-z0-9._~+/=-]{8,}`)
	jwtPattern     = regexp.MustCompile(`\beyJ[\w-]{10,}\.[\w-]+\.[\w-]*`)
	urlPattern     = regexp.MustCompile(`(?i)(://)([^/\s:@]+):([^/\s@]+)@`)
)

// secretName tells names of properties, switches and fields that hold secrets;
// serialName those that hold licences.
const (
	secretName = `[\w.-]*(?:PASS(?:WORD|WD|PHRASE)?|PWD|SECRET|TOKEN|API_?KEY|ACCESS_?KEY|PRIVATE_?KEY|CREDENTIAL)[\w.-]*`
	serialName = `[\w.-]*(?:SERIAL|PIDKEY|PID_?KEY|PRODUCTID|LICEN[CS]E_?(?:KEY|CODE)?|PRODUCT_?KEY|ACTIVATION)[\w.-]*`
	itsValue   = `(?:"[^"]*"|'[^']*'|[^\s;,"']+)`
)

var (
	secretValue    = regexp.MustCompile(`(?i)\b(` + secretName + `)(\s*[=:]\s*|"\s*:\s*)` + itsValue)
	secretProperty = regexp.MustCompile(`(?i)\b(` + secretName + `)( property\. Its (?:current )?value is )'[^']*'`)
	secretChange   = regexp.MustCompile(`(?i)\b(` + secretName + `)( property\..*Its new value: )'[^']*'`)
	serialValue    = regexp.MustCompile(`(?i)\b(` + serialName + `)(\s*[=:]\s*|"\s*:\s*| property\. Its (?:current )?value is )` + itsValue)
	secretSwitch   = regexp.MustCompile(`(?i)([/-](?:p|pass|password|pwd|token|key)(?:[:=]|\s+))` + itsValue)
)

// Most lines hold nothing private. A few words, looked for first, tell which of
// the patterns can match at all.
var (
	secretWords = []string{"pass", "pwd", "secret", "token", "key", "credential"}
	switchWords = []string{"/p", "-p", "/token", "-token", "/key", "-key"}
	serialWords = []string{"serial", "pidkey", "pid_key", "productid", "licen", "product_key", "productkey", "activation"}
	valueWords  = []string{"logonuser", "username", "computername", "userdomain", "clientname", "logonserver"}
	folderWords = []string{`users\`, `documents and settings\`}
)

// holds says whether a text holds one of some words.
func holds(low string, words []string) bool {
	return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(low, w) })
}

// Learn takes names out of a text. Nothing is replaced.
func (m *Masker) Learn(text string) {
	low := strings.ToLower(text)
	if holds(low, folderWords) {
		for _, f := range profilePattern.FindAllStringSubmatch(text, -1) {
			m.learn(User, f[1])
		}
	}
	if strings.Contains(text, `\\`) {
		for _, f := range uncPattern.FindAllStringSubmatch(text, -1) {
			m.learn(Host, f[1])
		}
	}
	if holds(low, valueWords) {
		for _, f := range valuePattern.FindAllStringSubmatch(text, -1) {
			kind := Host
			if strings.EqualFold(f[1], "LogonUser") || strings.EqualFold(f[1], "USERNAME") {
				kind = User
			}
			m.learn(kind, strings.TrimLeft(strings.TrimSpace(f[2]), `\`))
		}
	}
	if strings.Contains(text, `\`) && m.known(low) {
		for _, f := range domainPattern.FindAllStringSubmatch(text, -1) {
			if _, known := m.names[strings.ToLower(f[2])]; known { // DOMAIN\user of a user who is known
				m.learn(Host, f[1])
			}
		}
	}
}

// known says whether a text in small letters holds one of the names.
func (m *Masker) known(low string) bool {
	for n := range m.names {
		if strings.Contains(low, n) {
			return true
		}
	}
	return false
}

// Mask gives a text with tokens in the place of private data.
func (m *Masker) Mask(text string) string {
	low := strings.ToLower(text)
	hide := func(kind Kind, t string) string {
		m.counts[kind]++
		return t
	}
	if strings.Contains(text, "@") && strings.Contains(text, "://") {
		text = urlPattern.ReplaceAllStringFunc(text, func(string) string { return hide(Secret, "://(masked)@") })
	}
	if strings.Contains(text, "eyJ") {
		text = jwtPattern.ReplaceAllStringFunc(text, func(string) string { return hide(Secret, "(masked)") })
	}
	if strings.Contains(low, "bearer") || strings.Contains(low, "basic") {
		text = bearerPattern.ReplaceAllStringFunc(text, func(t string) string { return hide(Secret, strings.Fields(t)[0]+" (masked)") })
	}
	if holds(low, secretWords) || holds(low, switchWords) {
		for _, p := range []*regexp.Regexp{secretProperty, secretChange, secretValue, secretSwitch} {
			text = p.ReplaceAllStringFunc(text, func(t string) string {
				f := p.FindStringSubmatch(t)
				return hide(Secret, strings.Join(f[1:], "")+"(masked)")
			})
		}
	}
	if holds(low, serialWords) {
		text = serialValue.ReplaceAllStringFunc(text, func(t string) string {
			f := serialValue.FindStringSubmatch(t)
			value := strings.Trim(t[len(f[1])+len(f[2]):], `"'`)
			if strings.HasPrefix(value, "{") {
				return t // a product code, which says nothing of its owner
			}
			return hide(Serial, f[1]+f[2]+orMasked(m.learn(Serial, value)))
		})
	}
	if strings.Count(text, "-") > 2 {
		text = serialPattern.ReplaceAllStringFunc(text, func(t string) string { return hide(Serial, orMasked(m.learn(Serial, t))) })
	}
	if strings.Contains(text, "@") {
		text = mailPattern.ReplaceAllStringFunc(text, func(t string) string { return hide(Mail, orMasked(m.learn(Mail, t))) })
	}
	if strings.Contains(low, "s-1-5-21") {
		text = sidPattern.ReplaceAllStringFunc(text, func(t string) string {
			if strings.HasPrefix(t, "S-1-5-21-0-0-0-") {
				return t
			}
			return hide(SID, orMasked(m.learn(SID, t)))
		})
	}
	if p := m.pattern(); p != nil && m.known(strings.ToLower(text)) {
		text = p.ReplaceAllStringFunc(text, func(t string) string {
			token := m.names[strings.ToLower(t)]
			return hide(m.kinds[token], token)
		})
	}
	return text
}

// orMasked stands for a secret whose token is not known.
func orMasked(token string) string {
	if token == "" {
		return "(masked)"
	}
	return token
}

// pattern matches all names, the longest first, with nothing of a word around
// them.
func (m *Masker) pattern() *regexp.Regexp {
	if m.words != nil || len(m.names) == 0 {
		return m.words
	}
	names := slices.SortedFunc(maps.Keys(m.names), func(a, b string) int { return len(b) - len(a) })
	var quoted []string
	for _, n := range names {
		q := regexp.QuoteMeta(n)
		if isWord(n[0]) {
			q = `\b` + q
		}
		if isWord(n[len(n)-1]) {
			q += `\b`
		}
		quoted = append(quoted, q)
	}
	m.words = regexp.MustCompile(`(?i)` + strings.Join(quoted, "|"))
	return m.words
}

// isWord says whether a byte belongs to a word, so that names are found whole only.
func isWord(b byte) bool {
	return b == '_' || b >= '0' && b <= '9' || b >= 'a' && b <= 'z' || b >= 'A' && b <= 'Z'
}

// Counts says how often each kind was replaced.
func (m *Masker) Counts() map[Kind]int { return maps.Clone(m.counts) }
