// This file passes over lines of a calm run that say nothing new: most of a
// large log is such.

package dialects

import (
	"bytes"
	"encoding/binary"

	"hollowkey/core/logs/textfile"
)

// Most of a large log is one sentence said again and again with other numbers
// and names: a file copied, a package looked at. Once a sentence came often
// enough, its next occurrences wait, and only the last few before something
// else is said reach the reader. What they could tell, their first occurrences
// told.

const (
	calmAfter = 64      // occurrences that the reader sees of each sentence; the story keeps fewer
	waiting   = 4       // lines that are handed on before something else is said: what a line follows may explain it
	maxCalm   = 1 << 15 // different sentences that are counted, 16 bytes each
)

// neverCalm is what a sentence holds whose numbers matter, or that counts.
var neverCalm = [][]byte{[]byte("error"), []byte("fail"), []byte("warn"), []byte("fatal"), []byte("exception"),
	[]byte("code"), []byte("exit"),
	[]byte("return"), []byte("abort"), []byte("cancel"), []byte("roll"), []byte("denied"), []byte("version")}

// A skipper is a reader of lines that can do without those that say nothing
// new.
type skipper interface {
	// CanSkip says whether each line is a record; where records take several
	// lines, none can be left out.
	CanSkip() bool
	// Skipped tells the reader that so many lines were left out.
	Skipped(n int)
}

// A calm holds back what was said before.
type calm struct {
	seen   map[uint64]uint8 // how often each sentence came, up to calmAfter; loud for those that always pass
	held   [waiting]held
	first  int    // of the held ones, the ring's oldest
	n      int    // of lines held
	left   int    // out since the reader heard of it
	moment uint64 // in which the last line was written
}

// A held line waits, and is handed on when it makes room for another where it
// is the last or the first one of a moment: between those may be a silence.
type held struct {
	textfile.Line
	edge bool
}

// loud stands for a sentence that is never held back.
const loud = calmAfter + 1

// line hands a line on, now or when something else was said, or never.
func (c *calm) line(l textfile.Line, hand func(textfile.Line)) {
	if c.seen == nil {
		c.seen = map[uint64]uint8{}
	}
	notes := l.Notes
	if notes == nil {
		n := sentence(l.Text)
		notes = &n
	}
	said, moment := notes[0], notes[1]
	count, known := c.seen[said]
	sameMoment := moment == c.moment
	c.moment = moment
	if count == calmAfter {
		c.hold(l, !sameMoment, hand)
		return
	}
	c.release(hand)
	hand(l)
	switch {
	case count >= calmAfter, !known && len(c.seen) >= maxCalm:
	case count+1 == calmAfter && isLoud(l.Text):
		c.seen[said] = loud
	default:
		c.seen[said] = count + 1
	}
}

// isLoud says whether a line has a word that no line of a calm run has: then it
// is read in full.
func isLoud(text []byte) bool {
	low := bytes.ToLower(text)
	for _, w := range neverCalm {
		if bytes.Contains(low, w) {
			return true
		}
	}
	return false
}

// hold keeps a line back, which may be the first one of its moment. The line
// held longest makes room.
func (c *calm) hold(l textfile.Line, first bool, hand func(textfile.Line)) {
	if first && c.n > 0 {
		c.held[(c.first+c.n-1)%waiting].edge = true
	}
	at := (c.first + c.n) % waiting
	if c.n < waiting {
		c.n++
	} else {
		c.first = (c.first + 1) % waiting
		if h := &c.held[at]; h.edge {
			hand(h.Line)
		} else {
			c.left++
		}
	}
	h := &c.held[at]
	h.Number, h.Cut, h.Text, h.edge = l.Number, l.Cut, append(h.Text[:0], l.Text...), first
}

// release hands on what was held back.
func (c *calm) release(hand func(textfile.Line)) {
	for ; c.n > 0; c.n-- {
		hand(c.held[c.first].Line)
		c.first = (c.first + 1) % waiting
	}
}

// skipped is how many lines were left out since it was asked last.
func (c *calm) skipped() (n int) {
	n, c.left = c.left, 0
	return n
}

// hashPrime is an odd number with many bits set: multiplying with it spreads
// eight bytes over all 64 bits, the same in every run.
const hashPrime = 0x9E3779B97F4A7C15

// basis is the hash of no bytes.
const basis = 14695981039346656037

// mix takes eight bytes into a hash.
func mix(h, v uint64) uint64 {
	h = (h ^ v) * hashPrime
	return h ^ h>>32
}

// hashed takes line[from:to] into a hash, eight bytes at a time.
func hashed(h uint64, line []byte, from, to int) uint64 {
	for ; to-from >= 8; from += 8 {
		h = mix(h, binary.LittleEndian.Uint64(line[from:]))
	}
	n := to - from
	if n == 0 {
		return h
	}
	if from+8 <= len(line) {
		return mix(h, binary.LittleEndian.Uint64(line[from:])&(1<<(8*n)-1))
	}
	var v uint64
	for k := n - 1; k >= 0; k-- {
		v = v<<8 | uint64(line[from+k])
	}
	return mix(h, v)
}

// What a byte is to a sentence; none of these where it stands between words.
const (
	letter  = 1 << iota // of a word
	digit               //
	inner               // a sign within a name: of a path, a file, a version
	nonzero             // a digit that is not 0
)

var classes = func() (t [256]uint8) {
	for c := range t {
		switch {
		case c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c == '_' || c >= 0x80:
			t[c] = letter
		case c == '0':
			t[c] = digit
		case c >= '1' && c <= '9':
			t[c] = digit | nonzero
		case c == '\\' || c == '/' || c == '.' || c == '~' || c == '-':
			t[c] = inner
		}
	}
	return t
}()

// sentence is a line without what changes from one occurrence to the next:
// names that hold a digit, a dot or a slash, and numbers, of which it counts
// whether they are zero, or may be a server's no. moment is the ten seconds in which the line was
// written, by its first time of day or count of seconds, so that no silence is
// overlooked; 0 when it has none.
func sentence(line []byte) textfile.Notes {
	said, moment := uint64(basis), uint64(0)
	signs := uint64(0) // up to eight bytes of what stands between words, which are taken into the hash together
	for i := 0; i < len(line); {
		c := line[i]
		kinds := classes[c]
		i++
		if kinds == 0 {
			if signs >= 1<<56 {
				said, signs = mix(said, signs), 0
			}
			signs = signs<<8 | uint64(c)
			if c == ':' && moment == 0 && i >= 3 && i+3 < len(line) && classes[line[i-2]]&digit != 0 && classes[line[i]]&digit != 0 {
				moment = momentAt(line, i)
			}
			continue
		}
		from := i - 1
		for i < len(line) {
			k := classes[line[i]]
			if k == 0 {
				break
			}
			kinds |= k
			i++
		}
		if kinds == letter {
			if signs != 0 {
				said, signs = mix(said, signs), 0
			}
			said = hashed(said, line, from, i)
			continue
		}
		mark := uint64(aName)
		switch zero := kinds&nonzero == 0; {
		case kinds&letter == 0: // a number, a date, a version
			mark = aNumber
			if zero {
				mark = aZero
			} else if i-from == 3 && (c == '4' || c == '5') && kinds&inner == 0 {
				mark = aStatus
			}
			if moment == 0 && i-from >= epochDigits && kinds&inner == 0 {
				moment = hashed(basis, line, from, from+epochDigits-1)
			}
		case c == '0' && i-from > 2 && line[from+1]|0x20 == 'x':
			mark = aHex
			if zero && len(bytes.Trim(line[from+2:i], "0")) == 0 {
				mark = aZeroHex
			}
		}
		if signs >= 1<<56 {
			said, signs = mix(said, signs), 0
		}
		signs = signs<<8 | mark
	}
	return textfile.Notes{mix(said, signs), moment}
}

// What stands in a sentence for what changes in it; bytes that no text has.
const (
	aName = 1 + iota
	aNumber
	aZero
	aStatus // a number that may be what a server answered to say no (RFC 9110, 15.5 and 15.6)
	aHex
	aZeroHex
)

// epochDigits is how many digits the seconds since 1970 have; 13 with
// milliseconds.
const epochDigits = 10

// momentAt is the date, hour, minute and ten seconds around the colon that ends
// before at.
func momentAt(line []byte, at int) uint64 {
	return hashed(basis, line, max(0, at-len("2006-01-02 15:")), min(len(line), at+len("04:0")))
}
