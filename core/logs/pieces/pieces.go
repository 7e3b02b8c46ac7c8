// Package pieces finds many plain texts in one pass over another: an automaton
// after Aho and Corasick (Efficient string matching, 1975), over bytes. It knows only
// the first few bytes of each; where they stand, the rest is compared. So it is small,
// is made in a moment, and stays in the processor's cache.
//
// It is what keeps hundreds of expressions and phrases from being tried on every
// line: each names a piece that it cannot do without, and only where a piece
// stands the rest is looked at.
package pieces

import (
	"cmp"
	"slices"
	"strings"
)

// crowded is how many followers a state has before it gets a table of its own: a
// look through so few is faster than a table that falls out of the cache.
const crowded = 6

// deep is how many bytes of a piece the automaton knows. With fewer, many pieces hide
// behind one beginning and are compared in vain; with more, thousands of phrases take
// longer to be made ready than a small log to be read.
const deep = 8

// head is the beginning of a piece that the automaton knows.
func head(p string) string { return p[:min(len(p), deep)] }

// A state is a beginning that the heads of pieces have in common.
type state struct {
	first, last int32 // its followers, in edges
	table       int32 // of its followers, in tables; -1 for one that is looked through
	fail        int32 // the longest other beginning that this one ends with
	out         int32 // the head that ends here, -1 for none
	shorter     int32 // the nearest state by way of fail at which a head ends, -1 for none
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
	same   [][]int32 // for each distinct head, its pieces' places in what New was given, longest first
	pieces []string
}

// New makes a set of pieces; empty ones are never found.
func New(pieces []string) *Set {
	order := make([]int32, 0, len(pieces))
	for i, p := range pieces {
		if p != "" {
			order = append(order, int32(i))
		}
	}
	slices.SortFunc(order, func(a, b int32) int {
		return cmp.Or(strings.Compare(head(pieces[a]), head(pieces[b])), len(pieces[b])-len(pieces[a]), int(a-b))
	})
	s := &Set{pieces: pieces}
	t := tree{nodes: make([]node, 1, 4*len(order)+1)}
	before := ""
	for n := 0; n < len(order); {
		end, first := head(pieces[order[n]]), n
		for n < len(order) && head(pieces[order[n]]) == end {
			n++
		}
		s.same = append(s.same, order[first:n])
		t.nodes[t.add(before, end)].out = int32(len(s.same))
		before = end
	}
	t.lay(s)
	return s
}

// A tree grows the beginnings one head at a time, in the order of the alphabet.
type tree struct {
	nodes []node
	way   []int32 // the nodes of the head before, from the root's child on
}

// A node is a beginning; its children hang in the order of their bytes.
type node struct {
	child, last, next int32 // first and last child, next sibling; 0 for none
	out               int32 // number of the head that ends here, from 1
	b                 byte  // that leads here
}

// add puts a head in behind the one before, with which it shares a beginning.
func (t *tree) add(before, p string) int32 {
	shared := 0
	for shared < min(len(before), len(p)) && before[shared] == p[shared] {
		shared++
	}
	t.way = t.way[:shared]
	at := int32(0)
	if shared > 0 {
		at = t.way[shared-1]
	}
	for i := shared; i < len(p); i++ {
		n := int32(len(t.nodes))
		t.nodes = append(t.nodes, node{b: p[i]})
		if parent := &t.nodes[at]; parent.child == 0 {
			parent.child, parent.last = n, n
		} else {
			t.nodes[parent.last].next = n
			parent.last = n
		}
		t.way = append(t.way, n)
		at = n
	}
	return at
}

// lay numbers the beginnings breadth first, so that those that are met most lie
// together, and finds the ways back.
func (t *tree) lay(s *Set) {
	s.states = make([]state, 1, len(t.nodes))
	s.edges = make([]follower, 0, len(t.nodes))
	s.states[0] = state{table: -1, out: -1, shorter: -1}
	queue := make([]int32, 1, len(t.nodes)) // the node of each state
	for at := int32(0); int(at) < len(queue); at++ {
		first := int32(len(s.edges))
		for c := t.nodes[queue[at]].child; c != 0; c = t.nodes[c].next {
			to := int32(len(s.states))
			s.edges = append(s.edges, follower{t.nodes[c].b, to})
			s.states = append(s.states, state{table: -1, out: t.nodes[c].out - 1, shorter: -1})
			queue = append(queue, c)
		}
		s.states[at].first, s.states[at].last = first, int32(len(s.edges))
		own := s.edges[first:]
		if len(own) > crowded || at == 0 {
			s.states[at].table = int32(len(s.tables))
			s.tables = append(s.tables, [256]int32{})
			table := &s.tables[len(s.tables)-1]
			for _, f := range own {
				table[f.b] = f.to
			}
		}
		for _, f := range own {
			to := &s.states[f.to]
			if at != 0 {
				to.fail = s.step(s.states[at].fail, f.b)
			}
			back := &s.states[to.fail]
			if to.shorter = back.shorter; back.out >= 0 {
				to.shorter = to.fail
			}
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

// Find calls found for each piece in text: its place in what New was given, and the
// byte behind it. They come in the order in which their heads end.
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
					piece := s.pieces[p]
					if rest := piece[min(deep, len(piece)):]; strings.HasPrefix(text[i+1:], rest) {
						found(int(p), i+1+len(rest))
					}
				}
			}
		}
	}
}

// Any says whether one of the pieces stands in text.
func (s *Set) Any(text []byte) bool {
	at := int32(0)
	for i, c := range text {
		at = s.step(at, c)
		for o := at; o >= 0; o = s.states[o].shorter {
			if out := s.states[o].out; out >= 0 && s.follows(text[i+1:], out) {
				return true
			}
		}
	}
	return false
}

// follows says whether the rest of one of the pieces that share a head comes next.
func (s *Set) follows(text []byte, head int32) bool {
	return slices.ContainsFunc(s.same[head], func(p int32) bool {
		rest := s.pieces[p][min(deep, len(s.pieces[p])):]
		return len(text) >= len(rest) && string(text[:len(rest)]) == rest
	})
}
