// This file reads a report that is a page of HTML.

package generic

import (
	"bytes"
	"html"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/story"
)

var (
	rowTag  = lazy.MustCompile(`(?i)^<(?:tr|p|li|div|span|pre|h\d|dd|dt|title|font)\b([^>]*)>`)
	cellTag = lazy.MustCompile(`(?i)<t[dh]\b[^>]*>(.*?)</t[dh]>`)
	anyTag  = lazy.MustCompile(`<[^>]{0,300}>`)
	classIs = lazy.MustCompile(`(?i)class\s*=\s*["']?([\w -]+)`)
)

// page reads a text that is a page of HTML: the rows of its table, or its
// paragraphs.
func page(lines [][]byte) form {
	rows := 0
	for _, l := range lines {
		if rowTag.Match(bytes.TrimSpace(l)) {
			rows++
		}
	}
	if rows*2 < len(lines) || rows < 3 {
		return nil
	}
	return pageRow
}

// pageRow reads one row or paragraph.
func pageRow(line []byte) (e entry, ok bool) {
	t := strings.TrimSpace(string(line))
	m := rowTag.FindStringSubmatch(t)
	if m == nil {
		return e, false
	}
	e = entry{at: -1, kind: story.KindText}
	if c := classIs.FindStringSubmatch(m[1]); c != nil {
		for w := range strings.FieldsSeq(c[1]) {
			if g := peel.Level(w); g != peel.Unknown {
				e.kind, e.level = ofGravity[g], true
			}
		}
	}
	// What a cell holds tells what it is: a time, a level, a part, and all else
	// words.
	cells := cellTag.FindAllStringSubmatch(t, -1)
	if cells == nil {
		e.text = bare(t)
		return e, e.text != ""
	}
	var said []string
	for _, c := range cells {
		text := bare(c[1])
		date, at, n := peel.Stamp([]byte(text))
		switch g := peel.Level(text); {
		case text == "":
		case n > 0 && n == len(text) && e.at < 0:
			e.date, e.at = date, at
		case g != peel.Unknown && len(text) > 1 && !e.level:
			e.kind, e.level = ofGravity[g], true
		case e.source == "" && !strings.Contains(text, " ") && len(said) == 0:
			e.source = text
		default:
			said = append(said, text)
		}
	}
	if len(said) == 0 {
		said, e.source = []string{e.source}, ""
	}
	e.text = strings.Join(said, " ")
	return e, e.text != ""
}

// bare is a text of HTML without its tags.
func bare(t string) string {
	return strings.TrimSpace(html.UnescapeString(anyTag.ReplaceAllString(t, " ")))
}
