// Package textfile turns the bytes of a log, in whatever encoding it was
// written, into numbered lines of UTF-8.
//
// It reads once, from front to back, in bounded memory: one goroutine reads and
// decodes blocks while the caller looks at the lines of the block before.
package textfile

import (
	"bytes"
	"context"
	"errors"
	"io"
	"iter"
	"unicode/utf8"
)

// Limits of a reading. A log that breaks them is still read to its end.
const (
	MaxLine   = 64 << 10  // bytes of UTF-8 that are kept of one line
	blockSize = 128 << 10 // bytes read at a time
	inFlight  = 4         // blocks between the decoder and the caller
)

// A Line is one line of a text file.
type Line struct {
	Number int    // from 1, as an editor counts
	Text   []byte // UTF-8 without the line end; good until the next line is asked for
	Cut    bool   // it was longer than MaxLine and the rest was dropped
	Notes  *Notes // worked out ahead; nil where they were not
}

// Options steer a reading; the zero value detects everything.
type Options struct {
	Encoding Encoding // Detect unless the caller knows better
	Ahead    *Ahead   // what to work out about each line ahead; nil for nothing
}

// Info says what was found out about a text while it was read.
type Info struct {
	Encoding Encoding // given or found out
	Bytes    int64    // raw bytes read
	Lines    int      // how many were read
	NULs     int64    // zero bytes in what was taken for text; many mean a binary file
	Unended  bool     // the last line has no line end: the writer may still be at work
}

// Lines yields the numbered lines of r. Lines end with LF or CR LF, or with CR
// alone where the first block has no LF. Only a
// read error, or the end of ctx, ends it early; that error comes with the last
// pair. info, which may be nil, is filled as the reading goes on.
func Lines(ctx context.Context, r io.Reader, opt Options, info *Info) iter.Seq2[Line, error] {
	return func(yield func(Line, error) bool) {
		if info == nil {
			info = new(Info)
		}
		*info = Info{}
		stop := make(chan struct{})
		blocks := make(chan block, inFlight)
		spare := make(chan block, inFlight+2)
		done := make(chan struct{})
		go func() {
			defer close(done)
			defer close(blocks)
			produce(r, opt, blocks, spare, stop)
		}()
		defer func() { <-done }()
		defer close(stop)
		consume(ctx, blocks, spare, info, yield)
	}
}

// A block is a piece of decoded text. It may end in the middle of a line.
type block struct {
	text  []byte   // decoded to UTF-8
	ends  []int32  // where in it lines end
	zeros int      // zero bytes in it, without those at its end
	tail  int      // zero bytes at its end
	notes []Notes  // of its first whole lines
	raw   int64    // bytes of the file up to its end
	enc   Encoding // found out by the first block
	mixed bool     // 8-bit text that may hold lines that are not UTF-8
	err   error    // ends the reading
}

// consume cuts blocks into lines. A line may begin in one block and end in
// another; one that is too long is cut and told.
func consume(ctx context.Context, blocks <-chan block, spare chan<- block, info *Info, yield func(Line, error) bool) {
	var (
		carry  []byte // the unfinished line of the blocks before
		cut    bool
		number int
		dec    = lineDecoder{}
		zeros  int64 // that end the text so far
	)
	// emit hands out one line whose end was seen.
	emit := func(text []byte, mixed bool, notes *Notes) bool {
		number++
		info.Lines = number
		for n := len(text); n > 0 && (text[n-1] == '\r' || text[n-1] == 0); n = len(text) {
			text = text[:n-1]
		}
		l := Line{Number: number, Text: text, Cut: cut, Notes: notes}
		if len(l.Text) > MaxLine {
			l.Text, l.Cut = trimToRune(l.Text[:MaxLine]), true
		}
		if mixed && notes == nil {
			l.Text = dec.decode(l.Text)
		}
		cut = false
		return yield(l, nil)
	}
	for b := range blocks {
		if err := ctx.Err(); err != nil {
			yield(Line{Number: number}, err)
			return
		}
		all := b.notes
		info.Bytes += b.raw
		info.Encoding = b.enc
		switch {
		case b.enc == ANSI:
			dec.learn(b.text)
			info.Encoding = dec.encoding()
		case b.enc > ANSI && dec.dec == nil:
			dec = newLineDecoder(b.enc)
		}
		text := b.text
		// What a machine was writing when it lost its power ends with zeros:
		// they make no binary file of a text.
		if b.tail < len(text) {
			info.NULs += zeros + int64(b.zeros)
			zeros = 0
		}
		zeros += int64(b.tail)
		begin := 0
		for i, at := range b.ends {
			line := text[begin:at]
			begin = int(at) + 1
			if i == 0 && (len(carry) > 0 || cut) {
				carry, cut = extend(carry, line, cut)
				if !emit(carry, b.mixed, nil) {
					return
				}
				carry = carry[:0]
				continue
			}
			var notes *Notes
			if len(b.notes) > 0 {
				if b.notes[0] != (Notes{}) {
					notes = &b.notes[0]
				}
				b.notes = b.notes[1:]
			}
			if !emit(line, b.mixed, notes) {
				return
			}
		}
		if begin < len(text) {
			carry, cut = extend(carry, text[begin:], cut)
		}
		select {
		case spare <- block{text: b.text[:0], ends: b.ends[:0], notes: all[:0]}:
		default:
		}
		if b.err != nil && !errors.Is(b.err, io.EOF) {
			yield(Line{Number: number}, b.err)
			return
		}
	}
	if len(carry) > 0 || cut {
		info.Unended = true
		if carry = bytes.TrimRight(carry, "\x00"); len(carry) == 0 && zeros > 0 {
			return
		}
		emit(carry, info.Encoding.bits8(), nil)
	}
}

// leastCRs is how many carriage returns a first block without a line feed must
// have to be taken for lines that end with them.
const leastCRs = 2

// lineEnd is what ends the lines of a text that begins so: CR where there are
// several and no LF at all.
func lineEnd(text []byte) byte {
	if bytes.IndexByte(text, '\n') < 0 && bytes.Count(text, []byte{'\r'}) >= leastCRs {
		return '\r'
	}
	return '\n'
}

// extend keeps at most MaxLine bytes of a line that runs over several blocks.
func extend(carry, more []byte, cut bool) ([]byte, bool) {
	room := MaxLine - len(carry)
	if len(more) > room {
		more, cut = more[:max(room, 0)], true
	}
	return append(carry, more...), cut
}

// trimToRune drops a rune that was cut in the middle at the end of b.
func trimToRune(b []byte) []byte {
	for i := 1; i <= utf8.UTFMax && i <= len(b); i++ {
		if c := b[len(b)-i]; utf8.RuneStart(c) {
			if !utf8.FullRune(b[len(b)-i:]) {
				return b[:len(b)-i]
			}
			break
		}
	}
	return b
}
