// This file lets the goroutine that decodes work out what can be known of a
// line alone.

package textfile

import (
	"bytes"
	"encoding/binary"
	"sync/atomic"
)

// An Ahead is what the goroutine that decodes works out about each line while
// the caller still
// looks at those before. Of text of eight bits it begins at once, of others
// when the caller says [Ahead.On]: what is written in wide letters is most
// often the engine's, which needs none of it.
type Ahead struct {
	// Of works it out from the text of a line, and keeps nothing of it; the
	// caller's own goroutine may call it too. It never gives zeros, which stand
	// for none.
	Of     func(line []byte) Notes
	said   atomic.Int32 // what the caller said last
	always bool         // for blocks that the caller waits for, too: a test wants all
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
	unended bool // the block before ended in the middle of a line
}

// notes are those of the lines that lie in a block as a whole, in their order,
// put into the block's room for them; zeros for a line that the caller has to
// cut or decode. There are none for a block that the caller waits for: to work
// them out is its own work then.
func (n *noter) notes(b *block, inTime bool) []Notes {
	began := n.unended
	n.unended = len(b.text) > 0 && (len(b.ends) == 0 || int(b.ends[len(b.ends)-1]) != len(b.text)-1)
	if n.ahead == nil || !inTime && !n.ahead.always || !n.ahead.begun(b.enc) {
		return nil
	}
	plain := ascii(b.text)
	room, begin := b.notes, 0
	for i, at := range b.ends {
		line := b.text[begin:at]
		begin = int(at) + 1
		if i == 0 && began {
			continue
		}
		line = bytes.TrimRight(line, "\r\x00")
		var of Notes
		if len(line) <= MaxLine && (plain || ascii(line)) {
			of = n.ahead.Of(line)
		}
		room = append(room, of)
	}
	return room
}

// ascii says whether all bytes are below 0x80: such a text is the same in all
// encodings of eight bits.
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
