// This file puts tokens in the place of private names before anything is
// written.

package capture

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"hollowkey/core/logs/mask"
)

// masks lists what is replaced.
func (c *capture) masks() {
	if !c.opt.Mask {
		return
	}
	c.tokens = map[string]string{}
	var names []string
	add := func(kind, text, token string) {
		if len(text) >= 3 {
			names = append(names, regexp.QuoteMeta(text))
			c.tokens[strings.ToLower(text)] = token
			c.rep.Masked[kind]++
		}
	}
	domains := 0
	// Users get numbers in the order in which they were met, so that one stays
	// one.
	for n, name := range c.people() {
		add("user", name, fmt.Sprintf("user%d", n+1))
		a, err := c.m.Account(name)
		sid := string(a.SID)
		if err != nil || !strings.HasPrefix(sid, "S-1-5-21-") {
			continue
		}
		prefix := sid[:strings.LastIndexByte(sid, '-')]
		if c.tokens[strings.ToLower(prefix)] == "" {
			domains++
			add("security ID", prefix, fmt.Sprintf("S-1-5-21-%d-%d-%d", domains, domains, domains))
		}
	}
	add("machine", c.m.Name(), "PC1")
	if names != nil {
		slices.SortStableFunc(names, func(a, b string) int { return len(b) - len(a) })
		c.mask = regexp.MustCompile("(?i)" + strings.Join(names, "|"))
	}
}

// people are all users that the machine tells of, the signed-in one first.
func (c *capture) people() (names []string) {
	add := func(name string) {
		if _, short, ok := strings.Cut(name, `\`); ok {
			name = short
		}
		if name != "" && !mask.Everybodys(name) && !strings.HasSuffix(name, "$") &&
			!slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, name) }) {
			names = append(names, name)
		}
	}
	// The signed-in user comes first and is user1.
	add(c.user.Name)
	if list, err := c.m.UserNames(); err == nil {
		for _, n := range list {
			add(n)
		}
	}
	if list, err := c.m.Sessions(); err == nil {
		for _, s := range list {
			add(s.User)
		}
	}
	if list, err := c.m.Processes(); err == nil {
		for _, p := range list {
			add(p.User)
		}
	}
	return names
}

// hide puts tokens in the place of private names.
func (c *capture) hide(text string) string {
	if c.mask == nil {
		return text
	}
	return c.mask.ReplaceAllStringFunc(text, func(name string) string { return c.tokens[strings.ToLower(name)] })
}
