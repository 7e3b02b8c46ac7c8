// This file finds the INI file, section and key by which a setup refused.

package verdict

import (
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
)

// An iniGate is a key of an INI file by which a setup of a vendor's own refused
// the machine, as far as its log tells.
type iniGate struct{ file, section, key, bound, found string }

var (
	// unset is a key that a refusal names: "AllowPreview is not set".
	unset = lazy.MustCompile(`\b([A-Z][A-Za-z0-9_]{2,}|[a-z]+[A-Z][A-Za-z0-9_]+)\s*(?:is not set|not set|is missing|=\s*\(?(?:not set|null|none|false|0)\)?)`)
	// setSo is a key that a refusal tells to set: "set AllowOld=1 in [Limits]".
	setSo = lazy.MustCompile(`(?i:\bset|\bsetting|\badd|\bchange|\bneeds?|\brequires?|setzen|setze|définir|poner) "?([A-Za-z][A-Za-z0-9_]{2,40})"?\s?(?:=|(?i:to|auf|à|a)\b)\s?["']?(?i:1|true|yes|on)\b`)
	// inSection names a section: "section [OSGate]", "[OSGate]:".
	inSection = lazy.MustCompile(`(?i)(?:section\s+\[?|\[)([A-Za-z][\w .-]{0,60}?)\]?\s*[:\]]`)
	// Versions of two to four parts. A number without a full stop may be a
	// count or a year.
	dotted = lazy.MustCompile(`\b\d+(?:\.\d+){1,3}\b`)
)

// nearGate is how many lines before a refusal tell what it compared.
const nearGate = 6

// iniGate finds the file, section and key of a gate; ok is false where the log
// names no such file before it refused.
func (j *judge) iniGate() (g iniGate, ok bool) {
	if len(j.anchor) == 0 {
		return g, false
	}
	// The file is the last one that was read before the refusal; key and
	// section stand in the lines right before, or in the refusal itself.
	at := slices.IndexFunc(j.a.Messages, func(m *story.Message) bool { return m.Line >= j.anchor[0].Line })
	if at < 0 {
		return g, false
	}
	for _, m := range slices.Backward(j.a.Messages[:at+1]) {
		for _, n := range names.In(m.Text) {
			if n.Kind == names.Path && strings.HasSuffix(strings.ToLower(n.Text), ".ini") {
				g.file = n.Text
			}
		}
		if g.file != "" {
			break
		}
	}
	if g.file == "" {
		return g, false
	}
	said := firstLine(j.a.Messages[at].Text)
	if m := unset.FindStringSubmatch(said); m != nil {
		g.key = m[1]
	}
	near := j.a.Messages[max(0, at-nearGate):at]
	if m := setSo.FindStringSubmatch(said); m != nil && g.key == "" {
		g.key = m[1]
		if s := inSection.FindStringSubmatch(said + " "); s != nil {
			g.section = s[1]
		}
	}
	for _, m := range slices.Backward(near) {
		if s := inSection.FindStringSubmatch(m.Text); s != nil && g.section == "" && (g.key == "" || strings.Contains(m.Text, g.key)) {
			g.section = s[1]
		}
	}
	// A version in the refusal is the bound; what was found has as many parts,
	// and stands just before.
	if bounds := dotted.FindAllString(said, -1); len(bounds) > 0 {
		g.bound = bounds[len(bounds)-1]
		for _, m := range slices.Backward(near) {
			for _, v := range dotted.FindAllString(m.Text, -1) {
				if g.found == "" && v != g.bound && strings.Count(v, ".") == strings.Count(g.bound, ".") {
					g.found = v
				}
			}
		}
	}
	return g, g.key != "" || g.bound != ""
}
