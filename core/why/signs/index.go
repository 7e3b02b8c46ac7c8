// This file knows by which plain pieces a sign can be seen at all, so that few
// patterns meet few lines.

package signs

import "hollowkey/core/logs/pieces"

// An index knows by which plain pieces a pack's patterns can be told to have a
// chance on a line.
type index struct {
	set    *pieces.Set
	of     []int32          // by a piece's place in the set, the number of its pattern
	number map[string]int32 // by a pattern's source; patterns without pieces have none
}

// Prepare builds what Match looks signs up in.
func (p *Pack) Prepare() { p.indexed() }

// indexed makes the index of the patterns that look at any line, once.
func (p *Pack) indexed() *index {
	p.once.Do(func() {
		x := &index{number: map[string]int32{}}
		var all []string
		for _, s := range p.Signs {
			for _, w := range s.Seen {
				for _, ps := range [][]Pattern{w.Text, w.Also, w.Not} {
					for _, pat := range ps {
						all = x.add(pat, all)
					}
				}
			}
		}
		x.set = pieces.New(all)
		p.index = x
	})
	return p.index
}

// add gives a pattern a number and hands its pieces on. Patterns without a
// piece are no part of the index: they are tried on every line.
func (x *index) add(p Pattern, all []string) []string {
	if _, known := x.number[p.source]; known || len(p.pieces()) == 0 {
		return all
	}
	n := int32(len(x.number))
	x.number[p.source] = n
	for _, piece := range p.pieces() {
		all = append(all, piece)
		x.of = append(x.of, n)
	}
	return all
}

// lines lists for each pattern the lines, in small letters, that hold one of
// its pieces, in their order.
func (x *index) lines(lower []string) [][]int32 {
	where := make([][]int32, len(x.number))
	for i, text := range lower {
		x.set.Find(text, func(piece, _ int) {
			n := x.of[piece]
			if w := where[n]; len(w) == 0 || w[len(w)-1] != int32(i) {
				where[n] = append(w, int32(i))
			}
		})
	}
	return where
}
