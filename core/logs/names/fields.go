// This file reads a record's further values by their names.

package names

import (
	"iter"
	"strings"

	"hollowkey/core/logs/lazy"
)

// fieldHead is the name of one of a record's further values, and what parts the
// two.
var fieldHead = lazy.MustCompile(`(?:^|[\s,;|{(])(?:["']([\pL][\w.-]{0,30})["']: ?|([\pL][\w.-]{0,30})(?:=|: ))`)

// Fields gives the further values of a record, at most so many of them, by
// their names as they are written: drive=C:, "err": 32. A value ends where the
// next name begins, or its line; one that holds others, context=drive=C:, gives
// those.
func Fields(text string, most int) iter.Seq2[string, string] {
	return func(yield func(name, value string) bool) {
		heads := fieldHead.FindAllStringSubmatchIndex(text, most)
		for i, h := range heads {
			end := len(text)
			if i+1 < len(heads) {
				end = heads[i+1][0]
			}
			value, _, _ := strings.Cut(text[h[1]:end], "\n")
			if inner := fieldHead.FindStringIndex(value); inner != nil && inner[0] == 0 {
				for name, v := range Fields(value, most) {
					if !yield(name, v) {
						return
					}
				}
				continue
			}
			if !yield(text[max(h[2], h[4]):max(h[3], h[5])], strings.Trim(value, " \t\r\"',;|{}()")) {
				return
			}
		}
	}
}
