// This file learns names from where they are certain, so that they can be
// masked where they are not.

package mask

import (
	"net/url"
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
)

// Learn takes names out of a text. Nothing is replaced.
func (m *Masker) Learn(text string) {
	low := strings.ToLower(text)
	// Each pattern is tried only where a word of it stands: this is asked of
	// every line.
	if holds(low, folderWords) {
		for _, f := range profilePattern.FindAllStringSubmatch(text, -1) {
			name := f[1]
			if plain, err := url.PathUnescape(name); err == nil {
				name = plain
			}
			if !strings.Contains(name, ".") || len(name) < 30 { // a sentence is no folder
				m.learn(User, strings.TrimRight(name, ". "))
			}
		}
	}
	if strings.Contains(text, `\\`) {
		for _, f := range uncPattern.FindAllStringSubmatch(text, -1) {
			m.learn(Host, f[1])
		}
	}
	if holds(low, hostWords) || strings.Contains(low, "server") {
		for _, p := range []*lazy.Regexp{addressHost, dottedHost} {
			for _, f := range p.FindAllStringSubmatch(text, -1) {
				m.learnHost(f[1])
			}
		}
	}
	if holds(low, valueWords) {
		for _, f := range valuePattern.FindAllStringSubmatch(text, -1) {
			m.learnValue(strings.ToLower(strings.ReplaceAll(f[1], "_", "")), strings.TrimSpace(f[2]))
		}
	}
	if strings.Contains(low, "/user:") {
		for _, f := range netUsePattern.FindAllStringSubmatch(text, -1) {
			m.learn(Host, f[1])
			m.learn(User, f[2])
		}
	}
	m.learnAround(text, low)
	if strings.Contains(text, `\`) {
		for _, f := range domainPattern.FindAllStringSubmatch(text, -1) {
			m.learnAccount(f[1], f[2])
		}
	}
}

// learnHost takes a host in, and its first label apart. One that every machine
// asks is nobody's.
func (m *Masker) learnHost(name string) {
	low := strings.ToLower(strings.Trim(name, "."))
	if slices.ContainsFunc(everybodysHosts,
		func(h string) bool { return low == h || strings.HasSuffix(low, "."+h) }) || strings.Trim(low, "0123456789.") == "" {
		return
	}
	m.learn(Host, low)
	if label, rest, dotted := strings.Cut(low, "."); dotted && strings.Count(rest, ".") > 0 &&
		len(label) > leastName && label != "download" && label != "update" {
		m.learn(Host, label)
	}
}

// learnValue takes in what a value of a known name says; a sentence, or a
// program's own account, is nobody's name.
func (m *Masker) learnValue(name, value string) {
	kind, known := valueKinds[name]
	if !known {
		kind = User
	}
	value, _, _ = strings.Cut(value, "(") // what is said of somebody is not the name
	value = strings.TrimSpace(strings.TrimLeft(value, `\`))
	if domain, user, is := strings.Cut(value, `\`); is {
		m.learnAccount(domain, user)
		return
	}
	most := 3 // words of a person's or company's name
	if name == "computer" || name == "owner" || name == "author" || name == "contact" || name == "company" || name == "organization" {
		most = 4
	}
	if len(strings.Fields(value)) <= most && len(value) <= 60 {
		m.learn(kind, value)
	}
}

// learnAccount takes DOMAIN\user in: a user who is known already, or a domain
// in capital letters, as the OS writes it.
func (m *Masker) learnAccount(domain, user string) {
	low := strings.ToLower(domain)
	_, known := m.names[strings.ToLower(user)]
	if slices.Contains(noDomains, low) || slices.Contains(everybodys, low) || !known &&
		domain != strings.ToUpper(domain) || strings.Contains(user, ".") && len(user)-strings.LastIndexByte(user, '.') <= 4 {
		return
	}
	m.learn(Host, domain)
	m.learn(User, user)
}
