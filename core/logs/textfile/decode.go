// This file decodes block by block, ahead of whoever reads.

package textfile

import (
	"bytes"
	"encoding/binary"
	"io"
	"unicode/utf16"
	"unicode/utf8"
)

// produce reads r block by block, decodes, and sends what it has until r ends,
// reading fails, or stop is closed.
func produce(r io.Reader, opt Options, blocks chan<- block, spare <-chan block, stop <-chan struct{}) {
	send := func(b block) bool {
		select {
		case blocks <- b:
			return true
		case <-stop:
			return false
		}
	}
	room := blockSize + blockSize/2
	noter := noter{ahead: opt.Ahead}
	var cut cutter
	buffer := func() block {
		select {
		case b := <-spare:
			return b
		default:
			return block{text: make([]byte, 0, room)}
		}
	}
	raw := make([]byte, min(sniffSize, blockSize))
	n, err := io.ReadFull(r, raw)
	if err != nil { // a small file needs no more than this
		room = n + n/2 + utf8.UTFMax
	}
	enc, skip := opt.Encoding, 0
	if enc == Detect {
		enc, skip = Sniff(raw[:n])
	} else {
		skip = bomLength(raw[:n], enc)
	}
	head := raw[skip:n]
	read := int64(n)
	var dec utf16Decoder
	for {
		b := buffer()
		b.raw, b.enc, b.mixed = read, enc, enc.bits8()
		switch enc {
		case UTF16LE, UTF16BE:
			b.text = dec.decode(b.text, head, enc == UTF16BE)
		default:
			b.text = append(b.text, head...)
		}
		ended := err != nil
		if ended {
			if err != io.EOF && err != io.ErrUnexpectedEOF {
				b.err = err
			}
			if enc == UTF16LE || enc == UTF16BE {
				b.text = dec.flush(b.text)
			}
		}
		cut.measure(&b)
		b.notes = noter.notes(&b, len(blocks) > 0)
		if len(b.text) > 0 || b.err != nil || read > 0 {
			if !send(b) {
				return
			}
		}
		if ended {
			return
		}
		if len(raw) < blockSize {
			raw = make([]byte, blockSize)
		}
		n, err = r.Read(raw)
		for n == 0 && err == nil {
			n, err = r.Read(raw)
		}
		head, read = raw[:n], int64(n)
	}
}

// A cutter finds where the lines of blocks end, and their zeros: the goroutine
// that decodes has the time for it, the one that understands the lines has not.
type cutter struct {
	end byte // that ends a line; 0 before the first block
}

// measure finds them in the next block.
func (c *cutter) measure(b *block) {
	if c.end == 0 {
		// What was lost before the first word is no part of the text.
		if said := bytes.TrimLeft(b.text, "\x00"); len(said) > 0 {
			b.zeros = len(said) - len(b.text)
		}
		c.end = lineEnd(b.text)
	}
	said := bytes.TrimRight(b.text, "\x00")
	b.tail = len(b.text) - len(said)
	if b.zeros += bytes.Count(said, []byte{0}); len(said) == 0 {
		b.zeros = 0
	}
	for at := 0; ; at++ {
		next := bytes.IndexByte(b.text[at:], c.end)
		if next < 0 {
			return
		}
		at += next
		b.ends = append(b.ends, int32(at))
	}
}

// utf16Decoder turns UTF-16 into UTF-8 across block borders.
type utf16Decoder struct {
	odd  []byte // the first half of a code unit whose second half is in the next block
	high uint16 // a high surrogate that waits for its low one
}

const asciiMask = 0xFF80FF80FF80FF80 // the bits that are clear in four ASCII code units

// decode appends the UTF-8 of src to dst. Lone surrogates become U+FFFD.
func (d *utf16Decoder) decode(dst, src []byte, big bool) []byte {
	if len(d.odd) > 0 && len(src) > 0 {
		unit := []byte{d.odd[0], src[0]}
		d.odd, src = nil, src[1:]
		dst = d.units(dst, unit, big)
	}
	if len(src)%2 == 1 {
		d.odd = []byte{src[len(src)-1]}
		src = src[:len(src)-1]
	}
	if big || d.high != 0 {
		return d.units(dst, src, big)
	}
	for len(src) >= 16 {
		run := asciiRun(dst, src)
		if run == 0 {
			n := min(len(src), 32)
			dst = d.units(dst, src[:n], false)
			src = src[n:]
			if d.high != 0 && len(src) >= 2 {
				dst = d.units(dst, src[:2], false)
				src = src[2:]
			}
			continue
		}
		dst = dst[:len(dst)+run]
		src = src[2*run:]
		if cap(dst)-len(dst) < 64 {
			dst = append(dst, make([]byte, 4096)...)[:len(dst)]
		}
	}
	return d.units(dst, src, false)
}

// asciiRun narrows the ASCII code units at the start of src into the spare
// capacity of dst, sixteen at a time, and says how many bytes it wrote there.
func asciiRun(dst, src []byte) int {
	out := dst[len(dst):cap(dst)]
	n := 0
	for len(src) >= 32 && len(out) >= 16 {
		from, to := (*[32]byte)(src), (*[16]byte)(out)
		a := binary.LittleEndian.Uint64(from[:])
		b := binary.LittleEndian.Uint64(from[8:])
		c := binary.LittleEndian.Uint64(from[16:])
		d := binary.LittleEndian.Uint64(from[24:])
		if (a|b|c|d)&asciiMask != 0 {
			break
		}
		binary.LittleEndian.PutUint64(to[:], narrow(a)>>32|narrow(b))
		binary.LittleEndian.PutUint64(to[8:], narrow(c)>>32|narrow(d))
		src, out = src[32:], out[16:]
		n += 16
	}
	return n
}

// narrow puts four ASCII code units into the upper half, a byte each: two pairs
// are brought beside each other by one multiplication, which is quicker than
// shifts and masks.
func narrow(units uint64) uint64 {
	pairs := (units | units>>8) & 0x0000FFFF0000FFFF
	return pairs * (1<<32 | 1<<16) & 0xFFFFFFFF00000000
}

// units decodes whole code units one by one.
func (d *utf16Decoder) units(dst, src []byte, big bool) []byte {
	for ; len(src) >= 2; src = src[2:] {
		u := binary.LittleEndian.Uint16(src)
		if big {
			u = binary.BigEndian.Uint16(src)
		}
		if d.high != 0 {
			r := utf16.DecodeRune(rune(d.high), rune(u))
			d.high = 0
			dst = utf8.AppendRune(dst, r)
			if r != utf8.RuneError {
				continue
			}
		}
		switch {
		case u < utf8.RuneSelf:
			dst = append(dst, byte(u))
		case u >= 0xD800 && u < 0xDC00:
			d.high = u
		default:
			dst = utf8.AppendRune(dst, rune(u))
		}
	}
	return dst
}

// flush ends the text: half a character at the end becomes U+FFFD.
func (d *utf16Decoder) flush(dst []byte) []byte {
	if d.high != 0 || len(d.odd) > 0 {
		dst = utf8.AppendRune(dst, utf8.RuneError)
	}
	return dst
}

// bomLength is how many bytes the mark at the beginning takes.
func bomLength(head []byte, enc Encoding) int {
	for _, b := range boms {
		if b.enc == enc && bytes.HasPrefix(head, b.mark) {
			return len(b.mark)
		}
	}
	return 0
}
