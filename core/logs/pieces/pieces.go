// Package pieces finds many plain texts in one pass over another. At each byte
// it looks the next four up in a small filter; where they begin a piece, the
// pieces that begin with the next eight are compared. Of a few pieces two bytes
// are looked up, and those that begin with the first are compared. Its tables
// are made in a moment and stay in the processor's cache.
//
// It is what keeps hundreds of expressions and phrases from being tried on
// every line: each names a piece that it cannot do without, and only where a
// piece stands the rest is looked at.
package pieces

import (
	"math/bits"
	"slices"
	"strings"
)

const (
	// long is how many bytes of a piece choose where it is looked up: with
	// fewer, thousands of phrases share few beginnings ("could not …") and are
	// compared in vain.
	long = 8
	// short is how many bytes the filter knows, and what pieces of fewer than
	// long are looked up by. Pieces shorter than that are few: they hang at
	// their first byte.
	short = 4
	// filterBits is the logarithm of the filter's size: 8 KB, a quarter of the
	// cache that is nearest. Ten thousand phrases have some 2,500 beginnings,
	// which is a false hit on one byte in twenty-five.
	filterBits = 16
	// few is how many pieces are looked up by pairs of bytes: a hundred words
	// have a quarter of the pairs that letters make.
	few = 100
	// pairBits are those bits of a byte that tell letters apart: large and
	// small ones are the same.
	pairBits = 31
	// spread is 2^64 divided by the golden ratio, which puts neighbours far
	// apart (Knuth, The Art of Computer Programming, volume 3, section 6.4).
	spread = 0x9E3779B97F4A7C15
)

// none ends a chain of pieces.
const none = -1

// A Set is what is looked for; it may be used by several at once.
type Set struct {
	pieces []string
	filter []uint64   // whether a piece begins so, a bit for each hash of four bytes
	chains []int32    // the first piece of each hash of a beginning, none for none
	next   []int32    // the next piece of the same chain
	first  [256]int32 // the first piece of fewer than four bytes that begins with a byte
	shift  int        // leaves of a hash as many bits as there are chains
	pairs  []uint64   // whether a piece of few begins with two bytes, a bit for each pair of their pairBits
	tiny   bool       // there are pieces of fewer than four bytes
}

// New makes a set of pieces; empty ones are never found.
func New(pieces []string) *Set {
	s := &Set{pieces: pieces, next: make([]int32, len(pieces))}
	if len(pieces) <= few {
		s.pairUp()
		return s
	}
	chains := bits.Len(uint(2*len(pieces) + 1)) // twice as many as pieces: most chains hold one beginning
	s.shift, s.filter, s.chains = 64-chains, make([]uint64, 1<<filterBits/64), make([]int32, 1<<chains)
	for i := range s.chains {
		s.chains[i] = none
	}
	for i := range s.first {
		s.first[i] = none
	}
	for i := len(pieces) - 1; i >= 0; i-- { // a chain is walked in the order of its pieces
		p := pieces[i]
		if p == "" {
			continue
		}
		chain := &s.first[p[0]]
		if len(p) >= short {
			w := window(p)
			f := filterAt(w)
			s.filter[f/64] |= 1 << (f % 64)
			if len(p) < long {
				w = uint64(uint32(w))
			}
			chain = &s.chains[w*spread>>s.shift]
		} else {
			s.tiny = true
		}
		s.next[i] = *chain
		*chain = int32(i)
	}
	return s
}

// window gives the first bytes of a text as a number, the first one lowest.
func window(text string) (w uint64) {
	for i := range min(len(text), long) {
		w |= uint64(text[i]) << (8 * i)
	}
	return w
}

// filterAt is the bit of the filter for a beginning.
func filterAt(w uint64) uint64 { return uint64(uint32(w)) * spread >> (64 - filterBits) }

// pairUp makes the tables of a set of few pieces.
func (s *Set) pairUp() {
	s.pairs = make([]uint64, (pairBits+1)*(pairBits+1)/64)
	for i := range s.first {
		s.first[i] = none
	}
	for i := len(s.pieces) - 1; i >= 0; i-- {
		p := s.pieces[i]
		if p == "" {
			continue
		}
		s.next[i], s.first[p[0]] = s.first[p[0]], int32(i)
		if len(p) > 1 {
			s.mark(pairOf(p, 0))
			continue
		}
		for second := range uint(pairBits + 1) { // whatever follows
			s.mark(pairOf(p, 0) | second)
		}
	}
}

// mark notes that a pair of bytes begins a piece.
func (s *Set) mark(pair uint) { s.pairs[pair/64] |= 1 << (pair % 64) }

// pairOf is the place of the two bytes at i of a text; behind the last there is
// none.
func pairOf(text string, i int) uint {
	pair := uint(text[i]&pairBits) << 5
	if i+1 < len(text) {
		pair |= uint(text[i+1] & pairBits)
	}
	return pair
}

// Find calls found for each piece in text: its place in what New was given, and
// the byte behind it. They come in the order in which they begin.
func (s *Set) Find(text string, found func(piece, end int)) {
	s.Each(text, func(p, end int) bool {
		found(p, end)
		return true
	})
}

// Any says whether one of the pieces stands in text.
func (s *Set) Any(text string) (any bool) {
	s.Each(text, func(int, int) bool {
		any = true
		return false
	})
	return any
}

// Begin says whether text begins with one of the pieces.
func (s *Set) Begin(text string) bool {
	if s.pairs != nil && (text == "" || s.pairs[pairOf(text, 0)/64]>>(pairOf(text, 0)%64)&1 == 0) {
		return false
	}
	return slices.ContainsFunc(s.pieces, func(p string) bool { return p != "" && strings.HasPrefix(text, p) })
}

// Each is as Find, until found says to stop.
func (s *Set) Each(text string, found func(piece, end int) bool) {
	if s.pairs != nil {
		for i := range len(text) {
			if pair := pairOf(text, i); s.pairs[pair/64]>>(pair%64)&1 != 0 && !s.walk(s.first[text[i]], text[i:], i, found) {
				return
			}
		}
		return
	}
	w := window(text)
	for i := range len(text) {
		if f := filterAt(w); s.filter[f/64]>>(f%64)&1 != 0 {
			a, b := w*spread>>s.shift, uint64(uint32(w))*spread>>s.shift
			if !s.walk(s.chains[a], text[i:], i, found) || a != b && !s.walk(s.chains[b], text[i:], i, found) {
				return
			}
		}
		if s.tiny && !s.walk(s.first[text[i]], text[i:], i, found) {
			return
		}
		w >>= 8
		if i+long < len(text) {
			w |= uint64(text[i+long]) << (8 * (long - 1))
		}
	}
}

// walk compares the pieces of a chain with what begins at byte at of a text,
// until found says to stop.
func (s *Set) walk(p int32, text string, at int, found func(piece, end int) bool) bool {
	for ; p != none; p = s.next[p] {
		if piece := s.pieces[p]; strings.HasPrefix(text, piece) && !found(int(p), at+len(piece)) {
			return false
		}
	}
	return true
}
