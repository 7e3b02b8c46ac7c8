package textfile

import (
	"bytes"
	"encoding/binary"
	"sync/atomic"
)

// An Ahead is what the goroutine that decodes works out about each line while the caller still
// looks at those before. Of text of eight bits it begins at once, of others when the caller says [Ahead.On]: what is written in
// wide letters is most often the engine's, which needs none of it.
type Ahead struct {
	// Of works it out from the text of a line, and keeps nothing of it; the caller's own
	// goroutine may call it too. It never gives zeros, which stand for none.
	Of   func(line []byte) Notes
	said atomic.Int32 // what the caller said last
}

// What the caller said of working ahead.
const (
	saidNothing = iota
	saidOn
	saidOff
)

// Notes are two numbers about a line, whose meaning the caller knows.
type Notes [2]uint64

// On begins it, from one of the next blocks on.
func (a *Ahead) On() { a.said.Store(saidOn) }

// Off ends it.
func (a *Ahead) Off() { a.said.Store(saidOff) }

// begun says whether it is to be worked out now, of a text in an encoding.
func (a *Ahead) begun(enc Encoding) bool {
	said := a.said.Load()
	return said == saidOn || said == saidNothing && enc.bits8()
}

// A noter works out the notes of whole lines, block by block.
type noter struct {
	ahead   *Ahead
	end     byte // that ends a line; 0 before the first block
	unended bool // the block before ended in the middle of a line
}

// notes are those of the lines that lie in a block as a whole, in their order, put into
// room; zeros for a line that the caller has to cut or decode.
func (n *noter) notes(text []byte, enc Encoding, room []Notes) []Notes {
	if n.end == 0 {
		n.end = lineEnd(text)
	}
	began := n.unended
	n.unended = len(text) > 0 && text[len(text)-1] != n.end
	if n.ahead == nil || !n.ahead.begun(enc) {
		return nil
	}
	if began {
		at := bytes.IndexByte(text, n.end)
		if at < 0 {
			return nil
		}
		text = text[at+1:]
	}
	plain := ascii(text)
	for {
		at := bytes.IndexByte(text, n.end)
		if at < 0 {
			return room
		}
		line := bytes.TrimRight(text[:at], "\r\x00")
		var of Notes
		if len(line) <= MaxLine && (plain || ascii(line)) {
			of = n.ahead.Of(line)
		}
		room = append(room, of)
		text = text[at+1:]
	}
}

// ascii says whether all bytes are below 0x80: such a text is the same in all encodings of
// eight bits.
func ascii(b []byte) bool {
	for ; len(b) >= 8; b = b[8:] {
		if binary.LittleEndian.Uint64(b)&0x8080808080808080 != 0 {
			return false
		}
	}
	for _, c := range b {
		if c >= 0x80 {
			return false
		}
	}
	return true
}
