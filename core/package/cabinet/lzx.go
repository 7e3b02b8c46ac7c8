// This file decodes LZX, the stronger of the format's two compressions.

package cabinet

import "encoding/binary"

// LZX: literals and matches in Huffman codes, in blocks that go on over the
// frames of 32 KiB that cabinet blocks hold. Source: [MS-PATCH] 2.

const (
	lzxMinMatch   = 2     // bytes; what is shorter stands as it is
	lzxShortLen   = 7     // lengths that the main symbol itself tells
	lzxLengthSyms = 249   // of the second tree: matches of 9 to 257 bytes
	lzxMaxBits    = 16    // of a code: lengths are sent in four bits, by difference
	lzxMaxFrames  = 32768 // after so many no addresses are turned back
)

// The kinds of a block; 2.3.1.1.
const (
	lzxVerbatim     = 1
	lzxAligned      = 2
	lzxUncompressed = 3
)

// slots are the position slots for window sizes of 2^15 to 2^21 bytes.
var slots = [...]int{30, 32, 34, 36, 38, 42, 50}

var slotBase, slotBits = func() (base [51]uint32, bits [51]uint8) {
	at := uint32(0)
	for i := range base {
		switch {
		case i < 4:
		case i < 36:
			bits[i] = uint8(i/2 - 1)
		default:
			bits[i] = 17
		}
		base[i] = at
		at += 1 << bits[i]
	}
	return base, bits
}()

type lzxDecoder struct {
	window []byte    // a ring of what was written last
	at     int       // where the next byte goes
	filled int       // bytes that matches may reach back
	recent [3]uint32 // the last three distances, the newest first

	begun       bool                 // the header of the first block was read
	intel       uint32               // size for turning call addresses back; 0 for none
	frame       int                  // frames of 32 KiB begun so far
	kind        int                  // of the block under way
	left        int                  // bytes of the present block
	odd         bool                 // the byte that pads an uncompressed block of odd length is still to come
	main        []uint8              // code lengths
	length      [lzxLengthSyms]uint8 // lengths of words for lengths; the next block tells the changes
	mainTree    huffman              // bytes and beginnings of matches
	lengthTree  huffman              // rest of long lengths
	alignedTree huffman              // lowest three bits of distances
	in          bitReader            // stands in the block under way
}

// newLZX makes a decoder with a window of 2^bits bytes; the format allows 15 to
// 21. The three recent distances begin as 1, as the format says.
func newLZX(bits int) (*lzxDecoder, error) {
	if bits < 15 || bits > 21 {
		return nil, damaged("an LZX window of 2^%d bytes", bits)
	}
	d := &lzxDecoder{window: make([]byte, 1<<bits), recent: [3]uint32{1, 1, 1}}
	d.main = make([]uint8, 256+8*slots[bits-15])
	return d, nil
}

// block unpacks one frame of n bytes.
func (d *lzxDecoder) block(in []byte, n int) ([]byte, error) {
	d.in = bitReader{b: in}
	if d.kind == lzxUncompressed && (d.left > 0 || d.odd) {
		d.in.startBytes(false)
	}
	// One bit in front of all says whether calls in programs
	// were translated.
	if !d.begun {
		d.begun = true
		if d.in.bits(1) == 1 {
			d.intel = d.in.bits(16) << 16
			d.intel |= d.in.bits(16)
		}
	}
	out := make([]byte, 0, n)
	// A frame may hold several blocks, and a block may reach over frames.
	for len(out) < n {
		if d.left == 0 {
			if err := d.header(); err != nil {
				return nil, err
			}
		}
		want := min(n-len(out), d.left)
		had := len(out)
		var err error
		if d.kind == lzxUncompressed {
			out, err = d.plain(out, want)
		} else {
			out, err = d.coded(out, want, n)
		}
		if err != nil {
			return nil, err
		}
		if d.left -= len(out) - had; d.left < 0 {
			return nil, damaged("a match reaches over the end of its block")
		}
		if d.in.over > 4 {
			return nil, damaged("LZX data end too early")
		}
	}
	if d.odd && d.left == 0 && d.in.at < len(in) { // the padding belongs to the frame that has room for it
		d.odd = false
	}
	d.frame++
	return d.turnBack(out), nil
}

// header reads the head of a block.
func (d *lzxDecoder) header() error {
	if d.odd { // an uncompressed block of odd length is padded
		d.in.take(1)
		d.odd = false
	}
	d.in.endBytes()
	// Kind and length of a block, then the trees that it needs.
	d.kind = int(d.in.bits(3))
	d.left = int(d.in.bits(16) << 8)
	d.left |= int(d.in.bits(8))
	if d.left == 0 {
		return damaged("an empty LZX block")
	}
	switch d.kind {
	case lzxUncompressed:
		d.odd = d.left%2 != 0
		d.in.startBytes(true)
		for i, b := range [3][]byte{d.in.take(4), d.in.take(4), d.in.take(4)} {
			if len(b) < 4 {
				return damaged("an uncompressed LZX block is cut off")
			}
			d.recent[i] = binary.LittleEndian.Uint32(b)
		}
		return nil
	case lzxAligned:
		var lengths [8]uint8
		for i := range lengths {
			lengths[i] = uint8(d.in.bits(3))
		}
		if err := d.alignedTree.build(lengths[:]); err != nil {
			return err
		}
	case lzxVerbatim:
	default:
		return damaged("an LZX block of kind %d", d.kind)
	}
	// Lengths are given as differences to those of the block before, so the old
	// ones stay until they are changed.
	for _, part := range [][]uint8{d.main[:256], d.main[256:], d.length[:]} {
		if err := d.lengths(part); err != nil {
			return err
		}
	}
	if err := d.mainTree.build(d.main); err != nil {
		return err
	}
	return d.lengthTree.build(d.length[:])
}

// lengths reads code lengths, as differences from those of the block before.
func (d *lzxDecoder) lengths(l []uint8) error {
	var pre [20]uint8
	for i := range pre {
		pre[i] = uint8(d.in.bits(4))
	}
	var t huffman
	if err := t.build(pre[:]); err != nil {
		return err
	}
	for i := 0; i < len(l); {
		code, err := t.decode(&d.in)
		if err != nil {
			return err
		}
		run, value := 1, uint8(0)
		switch code {
		// 17 and 18 are runs of zeros, 19 a run of one length.
		case 17:
			run = 4 + int(d.in.bits(4))
		case 18:
			run = 20 + int(d.in.bits(5))
		case 19:
			run = 4 + int(d.in.bits(1))
			if code, err = t.decode(&d.in); err != nil {
				return err
			}
			if code > 16 {
				return damaged("a run of an LZX code length that is none")
			}
			value = uint8((int(l[i]) + 17 - code) % 17)
		default:
			value = uint8((int(l[i]) + 17 - code) % 17)
		}
		if i+run > len(l) {
			return damaged("LZX code lengths run over")
		}
		for ; run > 0; run-- {
			l[i] = value
			i++
		}
	}
	return nil
}

// put writes a byte into window and output.
func (d *lzxDecoder) put(out []byte, c byte) []byte {
	d.window[d.at] = c
	d.at = (d.at + 1) & (len(d.window) - 1)
	d.filled = min(d.filled+1, len(d.window))
	return append(out, c)
}

// plain takes a block over that is not compressed.
func (d *lzxDecoder) plain(out []byte, n int) ([]byte, error) {
	b := d.in.take(n)
	if len(b) < n {
		return nil, damaged("an uncompressed LZX block is cut off")
	}
	for _, c := range b {
		out = d.put(out, c)
	}
	return out, nil
}

// coded unpacks at least want bytes; no match may reach over the frame.
func (d *lzxDecoder) coded(out []byte, want, frame int) ([]byte, error) {
	end := len(out) + want
	for len(out) < end {
		sym, err := d.mainTree.decode(&d.in)
		if err != nil {
			return nil, err
		}
		if sym < 256 {
			out = d.put(out, byte(sym))
			continue
		}
		// The symbol holds the short lengths and the slot of the distance;
		// longer ones follow.
		length := (sym - 256) & 7
		if length == lzxShortLen {
			more, err := d.lengthTree.decode(&d.in)
			if err != nil {
				return nil, err
			}
			length += more
		}
		length += lzxMinMatch
		offset, err := d.offset((sym - 256) >> 3)
		if err != nil {
			return nil, err
		}
		if offset == 0 || int64(offset) > int64(d.filled) || len(out)+length > frame {
			return nil, damaged("an LZX match of %d bytes, %d back", length, offset)
		}
		for range length {
			out = d.put(out, d.window[(d.at-int(offset))&(len(d.window)-1)])
		}
	}
	return out, nil
}

// offset reads how far back a match lies.
func (d *lzxDecoder) offset(slot int) (uint32, error) {
	r := &d.recent
	// Slots 0 to 2 are the three last distances, moved to the front.
	switch slot {
	case 0:
		return r[0], nil
	case 1:
		r[0], r[1] = r[1], r[0]
		return r[0], nil
	case 2:
		r[0], r[2] = r[2], r[0]
		return r[0], nil
	}
	extra := int(slotBits[slot])
	o := slotBase[slot] - 2
	switch {
	case d.kind == lzxAligned && extra >= 3:
		o += d.in.bits(extra-3) << 3
		low, err := d.alignedTree.decode(&d.in)
		if err != nil {
			return 0, err
		}
		o += uint32(low)
	default:
		o += d.in.bits(extra)
	}
	r[2], r[1], r[0] = r[1], r[0], o
	return o, nil
}

// turnBack turns the addresses of calls in programs from absolute back to
// relative. Source: [MS-PATCH] 2.3.3.
func (d *lzxDecoder) turnBack(out []byte) []byte {
	if d.intel == 0 || d.frame > lzxMaxFrames || len(out) <= 10 {
		return out
	}
	base := int32((d.frame - 1) * blockSize)
	size := int32(d.intel)
	for i := 0; i < len(out)-10; i++ {
		if out[i] != 0xE8 {
			continue
		}
		here := base + int32(i)
		absolute := int32(binary.LittleEndian.Uint32(out[i+1:]))
		if absolute >= -here && absolute < size {
			relative := absolute - here
			if absolute < 0 {
				relative = absolute + size
			}
			binary.LittleEndian.PutUint32(out[i+1:], uint32(relative))
		}
		i += 4
	}
	return out
}

// A bitReader reads bits from 16-bit little-endian words, the highest first.
// Past the end it reads zeros and counts them.
type bitReader struct {
	b    []byte // the block
	at   int    // next byte
	hold uint32 // bits, the next one highest
	have int    // how many of them are there; below 0 between blocks
	over int    // words read past the end
}

// need fills up to n bits. Behind the end there are zeros: the last code may be
// shorter than what is looked at; `over` counts them, so that too many are
// told.
func (r *bitReader) need(n int) {
	for r.have < n {
		w := uint32(0)
		if r.at+1 < len(r.b) {
			w = uint32(r.b[r.at]) | uint32(r.b[r.at+1])<<8
		} else {
			r.over++
		}
		r.at += 2
		r.hold |= w << (16 - r.have)
		r.have += 16
	}
}

// peek looks at the next n bits and leaves them.
func (r *bitReader) peek(n int) uint32 {
	r.need(n)
	if n == 0 {
		return 0
	}
	return r.hold >> (32 - n)
}

// drop passes n bits.
func (r *bitReader) drop(n int) {
	r.hold <<= n
	r.have -= n
}

// bits reads up to 17 bits.
func (r *bitReader) bits(n int) uint32 {
	if n > 16 {
		high := r.bits(n - 16)
		return high<<16 | r.bits(16)
	}
	v := r.peek(n)
	r.drop(n)
	return v
}

// startBytes goes over to whole bytes at the next word; with pad there is at
// least one bit of padding before it.
func (r *bitReader) startBytes(pad bool) {
	if pad && r.have == 0 {
		r.at += 2
	}
	r.at -= max(r.have, 0) / 16 * 2
	r.hold, r.have = 0, -1
}

// endBytes goes back to bits.
func (r *bitReader) endBytes() { r.have = max(r.have, 0) }

// bytewise says whether the reader stands between blocks, where bytes are read.
func (r *bitReader) bytewise() bool { return r.have < 0 }

// take gives the next n bytes, fewer at the end.
func (r *bitReader) take(n int) []byte {
	from, end := min(r.at, len(r.b)), min(r.at+n, len(r.b))
	r.at += n
	return r.b[from:end]
}
