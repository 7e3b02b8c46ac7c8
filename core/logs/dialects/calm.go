package dialects

import (
	"bytes"

	"hollowkey/core/logs/textfile"
)

// Most of a large log is one sentence said again and again with other numbers and
// names: a file copied, a package looked at. Once a sentence came often enough, its
// next occurrences wait, and only the last few before something else is said reach
// the reader. What they could tell, their first occurrences told.

const (
	calmAfter = 64      // occurrences that the reader sees of each sentence; the story keeps fewer
	waiting   = 4       // lines that are handed on before something else is said: what a line follows may explain it
	maxCalm   = 1 << 15 // different sentences that are counted, 16 bytes each
)

// neverCalm is what a sentence holds whose numbers matter, or that counts.
var neverCalm = [][]byte{[]byte("error"), []byte("fail"), []byte("warn"), []byte("fatal"), []byte("exception"),
	[]byte("code"), []byte("exit"),
	[]byte("return"), []byte("abort"), []byte("cancel"), []byte("roll"), []byte("denied"), []byte("version")}

// A skipper is a reader of lines that can do without those that say nothing new.
type skipper interface {
	// CanSkip says whether each line is a record; where records take several lines,
	// none can be left out.
	CanSkip() bool
	// Skipped tells the reader that so many lines were left out.
	Skipped(n int)
}

// A calm holds back what was said before.
type calm struct {
	seen   map[uint64]uint8 // how often each sentence came, up to calmAfter; loud for those that always pass
	held   [waiting]textfile.Line
	first  int    // of the held ones, the ring's oldest
	n      int    // of lines held
	left   int    // out since the reader heard of it
	moment uint64 // in which the last line was written
}

// loud stands for a sentence that is never held back.
const loud = calmAfter + 1

// line hands a line on, now or when something else was said, or never.
func (c *calm) line(l textfile.Line, hand func(textfile.Line)) {
	if c.seen == nil {
		c.seen = map[uint64]uint8{}
	}
	said, moment := sentence(l.Text)
	count, known := c.seen[said]
	sameMoment := moment == c.moment
	c.moment = moment
	if count == calmAfter && sameMoment {
		c.hold(l)
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

func isLoud(text []byte) bool {
	low := bytes.ToLower(text)
	for _, w := range neverCalm {
		if bytes.Contains(low, w) {
			return true
		}
	}
	return false
}

// hold keeps a line back. The line held longest makes room.
func (c *calm) hold(l textfile.Line) {
	at := (c.first + c.n) % waiting
	if c.n == waiting {
		c.first = (c.first + 1) % waiting
		c.left++
	} else {
		c.n++
	}
	h := &c.held[at]
	h.Number, h.Cut, h.Text = l.Number, l.Cut, append(h.Text[:0], l.Text...)
}

// release hands on what was held back.
func (c *calm) release(hand func(textfile.Line)) {
	for ; c.n > 0; c.n-- {
		hand(c.held[c.first])
		c.first = (c.first + 1) % waiting
	}
}

// skipped is how many lines were left out since it was asked last.
func (c *calm) skipped() (n int) {
	n, c.left = c.left, 0
	return n
}

// FNV-1a, 64 bits: quick on short texts, and the same in every run.
const (
	fnvBasis = 14695981039346656037
	fnvPrime = 1099511628211
)

// What a byte is to a sentence.
const (
	other  = iota
	letter // of a word
	digit
	inner // a sign within a name: of a path, a file, a version
)

var classes = func() (t [256]uint8) {
	for c := range t {
		switch {
		case c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c == '_' || c >= 0x80:
			t[c] = letter
		case c >= '0' && c <= '9':
			t[c] = digit
		case c == '\\' || c == '/' || c == '.' || c == '~' || c == '-':
			t[c] = inner
		}
	}
	return t
}()

// sentence is a line without what changes from one occurrence to the next: names
// that hold a digit, a dot or a slash, and numbers, of which it counts whether they are
// zero. moment is the ten seconds in which the line was written, by its first time of
// day or count of seconds, so that no silence is overlooked; 0 when it has none.
func sentence(line []byte) (said, moment uint64) {
	said = fnvBasis
	for i := 0; i < len(line); {
		c := line[i]
		if classes[c] == other {
			said = (said ^ uint64(c)) * fnvPrime
			i++
			if c == ':' && moment == 0 && i >= 3 && i+3 < len(line) && classes[line[i-2]] == digit && classes[line[i]] == digit {
				moment = momentAt(line, i)
			}
			continue
		}
		from, kinds, zero := i, 0, true
		for ; i < len(line) && classes[line[i]] != other; i++ {
			kinds |= 1 << classes[line[i]]
			zero = zero && (line[i]-'1' > '9'-'1')
		}
		switch word := line[from:i]; {
		case kinds == 1<<letter:
			for _, c := range word {
				said = (said ^ uint64(c)) * fnvPrime
			}
		case kinds&(1<<letter) == 0: // a number, a date, a version
			said = (said ^ '#') * fnvPrime
			if zero {
				said = (said ^ '0') * fnvPrime
			}
			if moment == 0 && len(word) >= epochDigits && kinds == 1<<digit {
				moment = momentOf(word[:epochDigits-1])
			}
		case word[0] == '0' && len(word) > 2 && word[1]|0x20 == 'x':
			said = (said ^ 'x') * fnvPrime
			if zero && len(bytes.Trim(word[2:], "0")) == 0 {
				said = (said ^ '0') * fnvPrime
			}
		default: // a name
			said = (said ^ '*') * fnvPrime
		}
	}
	return said, moment
}

// epochDigits is how many digits the seconds since 1970 have; 13 with milliseconds.
const epochDigits = 10

// momentAt is the date, hour, minute and ten seconds around the colon that ends
// before at.
func momentAt(line []byte, at int) uint64 {
	from := max(0, at-len("2006-01-02 15:"))
	end := min(len(line), at+len("04:0"))
	return momentOf(line[from:end])
}

func momentOf(text []byte) uint64 {
	h := uint64(fnvBasis)
	for _, c := range text {
		h = (h ^ uint64(c)) * fnvPrime
	}
	return h
}
