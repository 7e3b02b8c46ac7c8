// This file writes edits as text, for the journal.

package alter

import "strings"

// EditsText writes edits as the argument of a step: one a line, kind and text
// parted by a blank.
func EditsText(edits []Edit) string {
	var lines []string
	for _, e := range edits {
		lines = append(lines, e.Kind+" "+e.Text)
	}
	return strings.Join(lines, "\n")
}

// ParseEdits reads them back; a line without a kind is passed over.
func ParseEdits(text string) (edits []Edit) {
	for line := range strings.SplitSeq(text, "\n") {
		if kind, rest, ok := strings.Cut(line, " "); ok {
			edits = append(edits, Edit{Kind: kind, Text: rest})
		}
	}
	return edits
}
