// This file reads the lines around one line.

package trail

import (
	"context"
	"io"
	"slices"
	"strings"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// sortProperties sorts by name, letter case aside.
func sortProperties(ps []Property) {
	slices.SortFunc(ps, func(a, b Property) int { return strings.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)) })
}

// Around reads the lines before and after one line of a log. Fewer lines come
// at the ends of the log, and none for a line that it has not.
func Around(ctx context.Context, r io.Reader, opt textfile.Options, line, before, after int) ([]Said, error) {
	var out []Said
	for l, err := range textfile.Lines(ctx, r, opt, nil) {
		if err != nil {
			return out, err
		}
		if l.Number > line+after {
			break
		}
		if l.Number >= line-before {
			out = append(out, Said{Line: l.Number, Text: story.Clip(l.Text, story.MaxText)})
		}
	}
	return out, nil
}
