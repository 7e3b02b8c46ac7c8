// This file decodes canonical Huffman codes.

package cabinet

// A huffman decodes canonical codes of up to 16 bits through one table.
type huffman struct {
	table []uint32 // for each next bits: symbol<<8 | length; 0 where no code is
	bits  int      // longest word, in bits
	empty bool     // no symbol has a word
}

// build makes the table of a code out of the lengths of its words. Lengths that
// do not fill the tree are damage: some bits would mean nothing.
func (h *huffman) build(lengths []uint8) error {
	var count [lzxMaxBits + 2]int
	h.bits = 0
	for _, l := range lengths {
		if l > lzxMaxBits {
			return damaged("a code of %d bits", l)
		}
		if l > 0 {
			count[l]++
			h.bits = max(h.bits, int(l))
		}
	}
	h.empty = h.bits == 0
	if h.empty {
		h.table = nil
		return nil
	}
	h.table = make([]uint32, 1<<h.bits)
	var next [lzxMaxBits + 2]int
	// Canonical: shorter codes come first, those of one length in the order of
	// their symbols.
	code := 0
	for l := 1; l <= h.bits; l++ {
		next[l] = code
		code = (code + count[l]) << 1
	}
	for sym, l := range lengths {
		if l == 0 {
			continue
		}
		first := next[l] << (h.bits - int(l))
		next[l]++
		n := 1 << (h.bits - int(l))
		if first+n > len(h.table) {
			return damaged("more codes than bits allow")
		}
		// Each code fills all places that begin with it, so that one look
		// decodes a symbol.
		for i := first; i < first+n; i++ {
			h.table[i] = uint32(sym)<<8 | uint32(l)
		}
	}
	return nil
}

// decode reads one symbol.
func (h *huffman) decode(in *bitReader) (int, error) {
	if h.empty || in.bytewise() {
		return 0, damaged("a code of an empty tree")
	}
	e := h.table[in.peek(h.bits)]
	if e == 0 {
		return 0, damaged("bits that are no code")
	}
	in.drop(int(e & 0xFF))
	if in.over > 4 {
		return 0, damaged("LZX data end too early")
	}
	return int(e >> 8), nil
}
