// This file finds the OS's own words for its errors, in the languages that it
// speaks.

package evidence

import (
	"slices"

	"hollowkey/core/logs/ostexts"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/why/lexicon"
)

// bySystem puts what the OS's own words in a line tell into the place of what
// single words in them seem to: "the directory or file cannot be created" is a
// number, whatever else speaks of folders.
func bySystem(lower string, clues []Clue) []Clue {
	for _, s := range ostexts.In(lower) {
		c, ok := Number{Value: int64(s.Code), Kind: System, At: s.From}.clue()
		if !ok || pieces.Undone(lower[:s.From]) || pieces.Denied(lower[s.From:s.To], lower[s.To:]) {
			continue
		}
		same := false
		clues = slices.DeleteFunc(clues, func(o Clue) bool {
			inside := o.Code == nil && o.At >= s.From && o.At < s.To && o.Strength != lexicon.Against
			same = same || inside && o.Class == c.Class
			return inside && o.Class != c.Class
		})
		if !same {
			c.Code = nil // the words are there, and no number
			clues = append(clues, c)
		}
	}
	return clues
}

// CodeOfText finds the system error whose own words a line, in small letters,
// holds, when it speaks of a cause of this class.
func CodeOfText(lower, class string) (code int, ok bool) {
	for _, s := range ostexts.In(lower) {
		if c, known := SystemError(s.Code); known && c.Class == class {
			return s.Code, true
		}
	}
	return 0, false
}
