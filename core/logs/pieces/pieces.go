// Package pieces finds many plain texts in one pass over another: an automaton
// after Aho and Corasick (Efficient string matching, 1975), over bytes.
//
// It is what keeps hundreds of expressions and phrases from being tried on every
// line: each names a piece that it cannot do without, and only where a piece
// stands the rest is looked at.
package pieces

import "slices"

// crowded is how many followers a state has before it gets a table of its own: a
// look through so few is faster than a table that falls out of the cache.
const crowded = 6

// A state is a beginning that pieces have in common.
type state struct {
	first, last int32 // its followers, in edges
	table       int32 // of its followers, in tables; -1 for one that is looked through
	fail        int32 // the longest other beginning that this one ends with
	out         int32 // the piece that ends here, -1 for none
	shorter     int32 // the nearest state by way of fail at which a piece ends, -1 for none
}

// A follower leads on with one byte.
type follower struct {
	b  byte
	to int32
}

// A Set is an automaton; it may be used by several at once.
type Set struct {
	states []state
	edges  []follower
	tables [][256]int32
	same   [][]int32 // for each distinct piece, its places in what New was given
}

// New makes a set of pieces; empty ones are never found.
func New(pieces []string) *Set {
	s := &Set{}
	b := builder{next: []map[byte]int32{{}}, out: []int32{-1}}
	for i, p := range pieces {
		if p == "" {
			continue
		}
		at := b.add(p)
		if b.out[at] < 0 {
			b.out[at] = int32(len(s.same))
			s.same = append(s.same, nil)
		}
		s.same[b.out[at]] = append(s.same[b.out[at]], int32(i))
	}
	b.lay(s)
	return s
}

// A builder grows the beginnings one piece at a time.
type builder struct {
	next []map[byte]int32
	out  []int32
}

func (b *builder) add(p string) int32 {
	at := int32(0)
	for i := range len(p) {
		to, ok := b.next[at][p[i]]
		if !ok {
			to = int32(len(b.next))
			b.next = append(b.next, nil)
			b.out = append(b.out, -1)
			if b.next[at] == nil {
				b.next[at] = map[byte]int32{}
			}
			b.next[at][p[i]] = to
		}
		at = to
	}
	return at
}

// lay puts the beginnings one behind the other, breadth first, with the ways back.
func (b *builder) lay(s *Set) {
	s.states = make([]state, len(b.next))
	for i := range s.states {
		s.states[i].table = -1
		s.states[i].out, s.states[i].shorter = b.out[i], -1
	}
	for queue := []int32{0}; len(queue) > 0; queue = queue[1:] {
		at := queue[0]
		st := &s.states[at]
		st.first = int32(len(s.edges))
		for c, to := range b.next[at] {
			s.edges = append(s.edges, follower{c, to})
		}
		st.last = int32(len(s.edges))
		own := s.edges[st.first:st.last]
		slices.SortFunc(own, func(a, b follower) int { return int(a.b) - int(b.b) })
		if len(own) > crowded || at == 0 {
			st.table = int32(len(s.tables))
			s.tables = append(s.tables, [256]int32{})
			t := &s.tables[st.table]
			for _, f := range own {
				t[f.b] = f.to
			}
		}
		for _, f := range own {
			to := &s.states[f.to]
			if at != 0 {
				to.fail = s.step(st.fail, f.b)
			}
			back := &s.states[to.fail]
			if to.shorter = back.shorter; back.out >= 0 {
				to.shorter = to.fail
			}
			queue = append(queue, f.to)
		}
	}
}

// step goes on with a byte from a state, by way of shorter beginnings where the
// state has no such follower.
func (s *Set) step(at int32, c byte) int32 {
	for {
		st := &s.states[at]
		if st.table >= 0 {
			if to := s.tables[st.table][c]; to != 0 || at == 0 {
				return to
			}
		} else {
			for _, f := range s.edges[st.first:st.last] {
				if f.b == c {
					return f.to
				}
			}
		}
		at = st.fail
	}
}

// Find calls found for each piece in text, in the order of their ends: its place
// in what New was given, and the byte behind it.
func (s *Set) Find(text string, found func(piece, end int)) {
	at := int32(0)
	root := &s.tables[0]
	for i := 0; i < len(text); i++ {
		if at == 0 { // most of a text begins no piece
			if at = root[text[i]]; at == 0 {
				continue
			}
		} else {
			at = s.step(at, text[i])
		}
		for o := at; o >= 0; o = s.states[o].shorter {
			if out := s.states[o].out; out >= 0 {
				for _, p := range s.same[out] {
					found(int(p), i+1)
				}
			}
		}
	}
}

// Any says whether one of the pieces stands in text.
func (s *Set) Any(text []byte) bool {
	at := int32(0)
	for _, c := range text {
		at = s.step(at, c)
		if st := &s.states[at]; st.out >= 0 || st.shorter >= 0 {
			return true
		}
	}
	return false
}
