// This file makes names whole that an expression took a part of.

package verdict

import (
	"cmp"
	"net/url"
	"strings"
	"unicode/utf8"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/signs"
)

// What an expression takes out of a line is often a part of a name: here it
// becomes the whole one.

// wholePlace is the file or folder that an expression took out of a line, as
// the line names it: with the path of which it took the end, "data.db" of
// "C:\Tide\tide data.db", and without the quotation mark behind it.
func wholePlace(name string, lines []*story.Message) string {
	bare := strings.TrimRight(name, "\"'`»“”’])>")
	if way, is := strings.CutPrefix(bare, "file:///"); is {
		bare = way
	}
	if plain, err := url.PathUnescape(bare); err == nil && plain != bare {
		bare = strings.ReplaceAll(plain, "/", `\`)
	}
	for _, m := range lines {
		for _, n := range names.In(firstLine(m.Text)) {
			head, is := strings.CutSuffix(n.Text, bare)
			if !is || n.Kind != names.Path && n.Kind != names.File && n.Kind != names.Key {
				continue
			}
			if head == "" || n.Kind == names.Key || strings.ContainsAny(head[len(head)-1:], `\/ :`) || head[len(head)-1] >= utf8.RuneSelf {
				return n.Text
			}
		}
	}
	return name
}

// rootOfKeys begins a key of the registry, which an expression may take for a
// file.
var rootOfKeys = lazy.MustCompile(`^(?:HKLM|HKCU|HKCR|HKU|HKEY_[A-Z_]+):?\\`)

// serviceTitle begins what stands behind the first word of a service's title:
// more words of it, and its name in brackets.
var serviceTitle = lazy.MustCompile(`^(?: \p{Lu}[\w&+-]*){1,6} \(([A-Za-z_][\w.$-]{1,60})\)`)

// wholeService is the service of which an expression took the first word:
// "Kelp" of "Kelp$SYNC", or of "Kelp Sync Service (KelpSync)".
func wholeService(name string, lines []*story.Message) string {
	for _, m := range lines {
		text := firstLine(m.Text)
		at := strings.Index(text, name)
		if at < 0 || name == "" {
			continue
		}
		end := at + len(name)
		if f := serviceTitle.FindStringSubmatch(text[end:]); f != nil {
			return f[1]
		}
		for end+1 < len(text) && strings.IndexByte(".$-", text[end]) >= 0 && ofToken(text[end+1]) {
			for end++; end < len(text) && ofToken(text[end]); end++ {
			}
		}
		if whole := text[at:end]; !unlikelyService(whole) {
			return whole
		}
	}
	return name
}

// ofToken says whether a byte is of a word that is a name.
func ofToken(c byte) bool {
	return c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'z' || c == '_'
}

// plainCaptures takes out of what signs read from their lines the words of the
// sentence: behind a path or key, and in a service's place.
func plainCaptures(hits []signs.Hit) {
	for i := range hits {
		h := &hits[i]
		for name, v := range h.Captures {
			switch {
			case name == "service" && unlikelyService(v):
				h.Captures[name] = cmp.Or(serviceIn(h.Lines), firstService(h.Lines))
			case name == "key":
				h.Captures[name] = keyAlone(v, h.Lines)
			}
		}
	}
}

// keyAlone is a key whole, and without what a sentence goes on with behind it,
// as far as the lines' own form of it tells.
func keyAlone(key string, lines []*story.Message) string {
	bare := strings.TrimLeft(key, `\`)
	for _, m := range lines {
		for _, n := range names.In(firstLine(m.Text)) {
			own := strings.TrimLeft(n.Text, `\`)
			behind, longer := strings.CutPrefix(bare, own)
			more, shorter := strings.CutPrefix(own, bare)
			if n.Kind == names.Key && (longer && behind != "" && behind[0] != '\\' || shorter && strings.HasPrefix(more, " ")) {
				return key[:len(key)-len(bare)] + own
			}
		}
	}
	return key
}
