package cabinet

import "encoding/binary"

// An lzxEncoder makes LZX frames for the tests: blocks of every kind, literals,
// matches near and far, repeated offsets.
type lzxEncoder struct {
	data   []byte
	at     int
	recent [3]int
	seen   map[string]int
	main   [496]uint8 // code lengths, of a window of 2^15
	length [249]uint8
	w      bitWriter
}

type lzxBlock struct{ kind, size int }

type bitWriter struct {
	out  []byte
	hold uint32
	have int
}

func (w *bitWriter) bits(v uint32, n int) {
	if n > 16 {
		w.bits(v>>16, n-16)
		v, n = v&0xFFFF, 16
	}
	w.hold = w.hold<<n | v
	for w.have += n; w.have >= 16; w.have -= 16 {
		w.out = binary.LittleEndian.AppendUint16(w.out, uint16(w.hold>>(w.have-16)))
	}
	w.hold &= 1<<w.have - 1
}

func (w *bitWriter) align() {
	if w.have > 0 {
		w.bits(0, 16-w.have)
	}
}

// codes are the canonical codes of lengths.
func codes(lengths []uint8) []uint32 {
	out := make([]uint32, len(lengths))
	code := uint32(0)
	for l := uint8(1); l <= 16; l++ {
		for s, have := range lengths {
			if have == l {
				out[s] = code
				code++
			}
		}
		code <<= 1
	}
	return out
}

// full gives n code lengths that use up all codes: the first ones are a bit
// shorter.
func full(lengths []uint8, long uint8) {
	short := 1<<long - len(lengths)
	for i := range lengths {
		if lengths[i] = long; i < short {
			lengths[i] = long - 1
		}
	}
}

// encode gives the frames of data in the given blocks.
func encode(data []byte, blocks []lzxBlock, intel uint32) (frames [][]byte) {
	e := &lzxEncoder{data: data, recent: [3]int{1, 1, 1}, seen: map[string]int{}}
	odd := false
	if intel == 0 {
		e.w.bits(0, 1)
	} else {
		e.w.bits(1, 1)
		e.w.bits(intel>>16, 16)
		e.w.bits(intel&0xFFFF, 16)
	}
	cut := func() {
		e.w.align()
		frames = append(frames, e.w.out)
		e.w = bitWriter{}
	}
	for _, b := range blocks {
		e.w.bits(uint32(b.kind), 3)
		e.w.bits(uint32(b.size), 24)
		e.header(b.kind)
		for end := e.at + b.size; e.at < end; {
			stop := min(end, (e.at/blockSize+1)*blockSize)
			if b.kind == lzxUncompressed {
				e.w.out = append(e.w.out, data[e.at:stop]...)
				e.at = stop
				odd = b.size%2 != 0 && e.at == end
				if odd {
					e.w.out = append(e.w.out, 0)
				}
			} else {
				for e.at < stop {
					e.token(b.kind, stop)
				}
			}
			if e.at%blockSize == 0 || e.at == len(data) {
				cut()
			}
		}
	}
	return frames
}

func (e *lzxEncoder) header(kind int) {
	if kind == lzxUncompressed {
		e.w.align()
		if e.w.have == 0 && len(e.w.out) == 0 {
			e.w.bits(0, 16)
		}
		for _, r := range e.recent {
			e.w.out = binary.LittleEndian.AppendUint32(e.w.out, uint32(r))
		}
		return
	}
	if kind == lzxAligned {
		for range 8 {
			e.w.bits(3, 3)
		}
	}
	before, beforeLength := e.main, e.length
	full(e.main[:], 9)
	if kind == lzxAligned {
		e.length = [249]uint8{} // no long matches: runs of zeros
	} else {
		full(e.length[:], 8)
	}
	e.lengths(before[:256], e.main[:256])
	e.lengths(before[256:], e.main[256:])
	e.lengths(beforeLength[:], e.length[:])
}

// lengths writes code lengths as differences, and zeros as runs.
func (e *lzxEncoder) lengths(before, now []uint8) {
	var pre [20]uint8
	for _, s := range []int{0, 7, 8, 9, 10, 16, 17, 18} {
		pre[s] = 3
	}
	code := codes(pre[:])
	for _, l := range pre {
		e.w.bits(uint32(l), 4)
	}
	for i := 0; i < len(now); {
		run := 0
		for i+run < len(now) && now[i+run] == 0 && run < 51 {
			run++
		}
		switch {
		case run >= 20:
			e.w.bits(code[18], 3)
			e.w.bits(uint32(run-20), 5)
			i += run
		case run >= 4:
			run = min(run, 19)
			e.w.bits(code[17], 3)
			e.w.bits(uint32(run-4), 4)
			i += run
		default:
			e.w.bits(code[(int(before[i])+17-int(now[i]))%17], 3)
			i++
		}
	}
}

func (e *lzxEncoder) symbol(lengths []uint8, s int) { e.w.bits(codes(lengths)[s], int(lengths[s])) }

// token writes a match where one is seen, else a literal.
func (e *lzxEncoder) token(kind, stop int) {
	most := min(stop-e.at, 257)
	if kind == lzxAligned {
		most = min(most, 8)
	}
	if e.at+3 <= len(e.data) {
		key := string(e.data[e.at : e.at+3])
		from, ok := e.seen[key]
		e.seen[key] = e.at
		if n := 0; ok && e.at-from < 1<<15-3 {
			for n < most && e.data[from+n] == e.data[e.at+n] {
				n++
			}
			if n >= 3 {
				e.match(kind, e.at-from, n)
				e.at += n
				return
			}
		}
	}
	e.symbol(e.main[:], int(e.data[e.at]))
	e.at++
}

func (e *lzxEncoder) match(kind, offset, n int) {
	slot, rest := -1, 0
	for i, r := range e.recent {
		if r == offset && slot < 0 {
			slot = i
		}
	}
	switch {
	case slot >= 0:
		e.recent[0], e.recent[slot] = e.recent[slot], e.recent[0]
	default:
		for slot = 3; slot+1 < len(slotBase) && int(slotBase[slot+1]) <= offset+2; slot++ {
		}
		rest = offset + 2 - int(slotBase[slot])
		e.recent = [3]int{offset, e.recent[0], e.recent[1]}
	}
	short := min(n-2, 7)
	e.symbol(e.main[:], 256+slot<<3+short)
	if short == 7 {
		e.symbol(e.length[:], n-2-7)
	}
	if slot < 3 {
		return
	}
	extra := int(slotBits[slot])
	if kind == lzxAligned && extra >= 3 {
		e.w.bits(uint32(rest>>3), extra-3)
		e.w.bits(uint32(rest&7), 3) // all codes have 3 bits
		return
	}
	e.w.bits(uint32(rest), extra)
}
