// This file makes of an expression how its matches are found fast.

package pieces

import (
	"regexp/syntax"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"
)

// A Plan is how the matches of one expression are found without trying it at
// every letter.
type Plan struct {
	// Needs are sets of texts, of each of which every match holds one, as of
	// the func of that name; a single mark is one, too: where one expression is
	// looked at and not thousands, a byte is found faster than a word.
	Needs [][]string
	// Heads are the texts of which every match begins with one; none when that
	// is not known.
	Heads []string
	// Cut is how many bytes of the expression stand in front of what begins
	// with a head; the flags are not counted.
	Cut int
	// Edge says that a word has to begin or end in front of the head.
	Edge bool
	// First says that a match begins where the text does.
	First bool
	// Front is, when a match begins with a sign in front of its head or with
	// the text, the expression of that sign; "" for all others.
	Front string
	// Small says that needs and heads are in small letters, and to be looked
	// for in such.
	Small bool
}

// PlanOf makes the plan of an expression (RE2 syntax); an empty one for what is
// none.
func PlanOf(src string) (p Plan) {
	re, err := syntax.Parse(src, syntax.Perl)
	if err != nil {
		return p
	}
	for _, p.Small = range []bool{false, true} {
		if p.Needs = sought(re, p.Small, worthAlone); p.headed(re, src) || len(p.Needs) > 0 {
			return p
		}
	}
	return Plan{}
}

// between stands between the texts of a set in a plan that is written down;
// none of ours holds it.
const between = "\x1f"

// Line writes the plan as [Listed] reads it: what is true of it, what is cut
// off, the sign in front, heads and needs, with tabs between; "" when a text in
// it holds what stands between.
func (p Plan) Line() string {
	what := ""
	for i, is := range []bool{p.Edge, p.First, p.Small} {
		if is {
			what += planMarks[i : i+1]
		}
	}
	cells := []string{what, strconv.Itoa(p.Cut), p.Front}
	for _, set := range append([][]string{p.Heads}, p.Needs...) {
		if slices.ContainsFunc(set, func(text string) bool { return strings.ContainsAny(text, between+"\t\n") }) {
			return ""
		}
		cells = append(cells, strings.Join(set, between))
	}
	return strings.Join(cells, "\t")
}

// planMarks say that a plan has an edge, is of a text's beginning, and looks
// for small letters.
const planMarks = "efs"

// Listed reads a plan that [Plan.Line] wrote.
func Listed(line string) (p Plan, ok bool) {
	cells := strings.Split(line, "\t")
	if len(cells) < 4 {
		return p, false
	}
	p.Edge, p.First, p.Small = strings.Contains(cells[0], "e"), strings.Contains(cells[0], "f"), strings.Contains(cells[0], "s")
	cut, err := strconv.Atoi(cells[1])
	p.Cut, p.Front = cut, cells[2]
	if cells[3] != "" {
		p.Heads = strings.Split(cells[3], between)
	}
	for _, set := range cells[4:] {
		p.Needs = append(p.Needs, strings.Split(set, between))
	}
	return p, err == nil
}

// rareMarks are those that many lines do not have: no blank, no point and no
// comma.
const rareMarks = "!\"#$%&'()*+;<=>?@[\\]^`{|}~"

// worthAlone says whether a piece tells lines apart by itself: it is long
// enough, or a sign that is rare in logs.
func worthAlone(piece string) bool {
	return len(piece) >= leastPiece || len(piece) == 1 && strings.Contains(rareMarks, piece)
}

// AtHead is, of the expression that the plan was made of, the one of a match by
// a text's beginning, when there are heads: it is to be tried where one of them
// stands.
func (p *Plan) AtHead(src string) string {
	flags, src := flagsOf(src)
	return flags + "^(?:" + src[p.Cut:] + ")"
}

// AtFront is likewise the one of a match that begins with the sign in front of
// its head.
func (p *Plan) AtFront(src string) string {
	flags, src := flagsOf(src)
	return flags + "^" + p.Front + "(?:" + src[p.Cut:] + ")"
}

// flagsOf parts an expression from the flag in front of it, the only one that
// ours begin with.
func flagsOf(src string) (flags, rest string) {
	if rest, ok := strings.CutPrefix(src, "(?i)"); ok {
		return "(?i)", rest
	}
	return "", src
}

// headed finds out how matches begin.
func (p *Plan) headed(re *syntax.Regexp, src string) bool {
	_, src = flagsOf(src)
	if re.Op == syntax.OpConcat {
		rest, cut := src, false
		switch first := re.Sub[0]; {
		case first.Op == syntax.OpWordBoundary:
			rest, cut = strings.CutPrefix(src, `\b`)
			p.Edge = cut
		case first.Op == syntax.OpBeginText:
			rest, cut = strings.CutPrefix(src, "^")
			p.First = cut
		case first.Op == syntax.OpAlternate && len(first.Sub) == 2 && first.Sub[0].Op == syntax.OpBeginText:
			p.Front, rest, cut = frontSign(src)
		}
		if cut {
			p.Cut = len(src) - len(rest)
			re = &syntax.Regexp{Op: syntax.OpConcat, Sub: re.Sub[1:], Flags: re.Flags}
		}
	}
	heads, _ := headsOf(re, p.Small)
	if shortest(heads) < leastPiece {
		p.Edge, p.First, p.Front, p.Cut = false, false, "", 0
		return false
	}
	slices.Sort(heads)
	p.Heads = slices.Compact(heads)
	return true
}

// frontSign parts an expression that begins with (?:^|[…]), or another single
// sign in place of the class, into that sign and what follows.
func frontSign(src string) (sign, rest string, ok bool) {
	rest, ok = strings.CutPrefix(src, "(?:^|")
	if !ok {
		return "", src, false
	}
	for end := 1; end <= len(rest) && end <= longestClass; end++ {
		one, err := syntax.Parse(rest[:end], syntax.Perl)
		if err != nil || end == len(rest) || rest[end] != ')' {
			continue
		}
		if one.Op == syntax.OpCharClass || one.Op == syntax.OpLiteral && len(one.Rune) == 1 {
			return rest[:end], rest[end+1:], true
		}
	}
	return "", src, false
}

// longestClass is how many bytes a class of signs is written with, at most.
const longestClass = 60

const (
	// mostHeads is how many ways to begin are kept apart; an expression of more
	// is one of many words.
	mostHeads = 300
	// fewLetters is how many letters of a class are each a way to begin.
	fewLetters = 4
)

// headsOf are texts with which every match of an expression begins, and whether
// they are the whole of it; none when one of them may be anything.
func headsOf(re *syntax.Regexp, small bool) (heads []string, whole bool) {
	switch re.Op {
	case syntax.OpEmptyMatch:
		return []string{""}, true
	case syntax.OpLiteral:
		if re.Flags&syntax.FoldCase == 0 {
			return []string{cased(string(re.Rune), small)}, true
		}
		if !small {
			return nil, false
		}
		plain := slices.IndexFunc(re.Rune, func(r rune) bool { return r >= utf8.RuneSelf && !steady(r) })
		if plain < 0 {
			return []string{strings.ToLower(string(re.Rune))}, true
		}
		if plain > 0 { // up to a letter that is written in more ways
			return []string{strings.ToLower(string(re.Rune[:plain]))}, false
		}
		return nil, false
	case syntax.OpCharClass:
		for i := 0; i < len(re.Rune); i += 2 {
			for r := re.Rune[i]; r <= re.Rune[i+1]; r++ {
				if heads = append(heads, cased(string(r), small)); len(heads) > fewLetters {
					return nil, false
				}
			}
		}
		return heads, true
	case syntax.OpCapture:
		return headsOf(re.Sub[0], small)
	case syntax.OpPlus:
		heads, _ = headsOf(re.Sub[0], small)
		return heads, false
	case syntax.OpRepeat:
		if re.Min > 0 {
			heads, _ = headsOf(re.Sub[0], small)
		}
		return heads, false
	case syntax.OpQuest:
		if heads, whole = headsOf(re.Sub[0], small); heads != nil {
			heads = append(heads, "")
		}
		return heads, whole
	case syntax.OpAlternate:
		whole = true
		for _, part := range re.Sub {
			of, all := headsOf(part, small)
			if of == nil || len(heads)+len(of) > mostHeads {
				return nil, false
			}
			heads, whole = append(heads, of...), whole && all
		}
		return heads, whole
	case syntax.OpConcat:
		return headsInRow(re.Sub, small)
	}
	return nil, false
}

// headsInRow are the heads of what follows one another.
func headsInRow(parts []*syntax.Regexp, small bool) (heads []string, whole bool) {
	heads = []string{""}
	for _, part := range parts {
		of, all := headsOf(part, small)
		if of == nil || len(heads)*len(of) > mostHeads {
			return heads, false
		}
		var longer []string
		for _, h := range heads {
			for _, o := range of {
				longer = append(longer, h+o)
			}
		}
		if heads = longer; !all {
			return heads, false
		}
	}
	return heads, true
}

// cased is a piece as it is looked for: in small letters where the pattern does
// not regard case.
func cased(s string, small bool) string {
	if small {
		return strings.ToLower(s)
	}
	return s
}
