// This file finds what each match of an expression must hold.

package pieces

import (
	"regexp/syntax"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Needs finds sets of texts, of each of which every match of an expression (RE2
// syntax) holds at least one: a text without any of them need not be tried. The
// first is the one whose shortest piece is the longest. With lower, the pieces
// are in small letters, and are to be looked for in small letters.
func Needs(src string, lower bool) [][]string {
	re, err := syntax.Parse(src, syntax.Perl)
	if err != nil {
		return nil
	}
	return sought(re, lower, func(piece string) bool { return len(piece) >= leastPiece })
}

// sought are the sets of which all pieces are worth looking for.
func sought(re *syntax.Regexp, lower bool, worth func(piece string) bool) [][]string {
	needs := slices.DeleteFunc(required(re, lower), func(set []string) bool {
		return len(set) == 0 || slices.ContainsFunc(set, func(piece string) bool { return !worth(piece) })
	})
	slices.SortStableFunc(needs, func(a, b []string) int { return shortest(b) - shortest(a) })
	return needs
}

const (
	leastPiece = 2  // bytes; a single letter stands in every line
	mostPieces = 40 // of one set
)

// required goes down those parts of an expression that no match can do without.
func required(re *syntax.Regexp, lower bool) (needs [][]string) {
	switch re.Op {
	case syntax.OpLiteral:
		if re.Flags&syntax.FoldCase != 0 && !lower {
			return nil
		}
		piece := longestPlain(re.Rune, lower)
		if lower {
			piece = strings.ToLower(piece)
		}
		if piece != "" {
			return [][]string{{piece}}
		}
	case syntax.OpCapture, syntax.OpPlus:
		return required(re.Sub[0], lower)
	case syntax.OpRepeat:
		if re.Min > 0 {
			return required(re.Sub[0], lower)
		}
	case syntax.OpConcat:
		for _, part := range re.Sub {
			needs = append(needs, required(part, lower)...)
		}
	case syntax.OpAlternate:
		var one []string
		for _, part := range re.Sub {
			sets := required(part, lower)
			if len(sets) == 0 {
				return nil
			}
			best := slices.MaxFunc(sets, func(a, b []string) int { return shortest(a) - shortest(b) })
			if one = append(one, best...); len(one) > mostPieces {
				return nil
			}
		}
		return [][]string{one}
	}
	return needs
}

// shortest is the length of the shortest of some pieces, 0 of none.
func shortest(pieces []string) int {
	if len(pieces) == 0 {
		return 0
	}
	return len(slices.MinFunc(pieces, func(a, b string) int { return len(a) - len(b) }))
}

// longestPlain leaves out letters that are not the same in small letters
// whichever way they are written: a small letter of another one's large form,
// as final sigma. What is exact needs no such care.
func longestPlain(runes []rune, lower bool) string {
	runs := strings.FieldsFunc(string(runes), func(r rune) bool { return lower && r >= utf8.RuneSelf && !steady(r) })
	longest := ""
	for _, r := range runs {
		if len(r) > len(longest) {
			longest = r
		}
	}
	return longest
}

// steady says whether all letters that count as the same one have one small
// form.
func steady(r rune) bool {
	small := unicode.ToLower(r)
	for f := unicode.SimpleFold(r); f != r; f = unicode.SimpleFold(f) {
		if unicode.ToLower(f) != small {
			return false
		}
	}
	return true
}
