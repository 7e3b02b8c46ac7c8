// This file tells how a text is encoded.

package textfile

import (
	"bytes"
	"fmt"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/korean"
	"golang.org/x/text/encoding/simplifiedchinese"
	"golang.org/x/text/encoding/traditionalchinese"
	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
)

// An Encoding says how characters stand in a file.
type Encoding uint8

// The encodings that setup logs come in. ANSI is 8-bit text of which it is not
// yet known which code page it is in, because no line needed one so far.
const (
	Detect Encoding = iota
	UTF8
	UTF16LE
	UTF16BE
	ANSI
	CP1250
	CP1251
	CP1252
	CP932
	CP936
	CP949
	CP950
	CP1254
	CP850 // this and what follows is what the OS's console writes: batch files, and tools that redirect it
	CP852
	CP857
	CP866
)

var names = [...]string{"detect", "UTF-8", "UTF-16LE", "UTF-16BE", "ANSI",
	"CP1250", "CP1251", "CP1252", "CP932", "CP936", "CP949", "CP950", "CP1254", "CP850", "CP852", "CP857", "CP866"}

// String is the name by which people know the encoding.
func (e Encoding) String() string { return names[e] }

// bits8 says whether ASCII stands in it byte for byte, so that most lines need
// no decoding at all.
func (e Encoding) bits8() bool { return e == UTF8 || e >= ANSI }

// ParseEncoding reads a name as [Encoding.String] gives it, in any case and
// with or without hyphens. The error lists the names that there are.
func ParseEncoding(name string) (Encoding, error) {
	plain := func(s string) string { return strings.ToLower(strings.ReplaceAll(s, "-", "")) }
	for i, n := range names {
		if plain(n) == plain(name) {
			return Encoding(i), nil
		}
	}
	return Detect, fmt.Errorf("encoding %q is not known; one of %s", name, strings.Join(names[:], ", "))
}

const sniffSize = 64 << 10 // bytes looked at to tell the encoding

var boms = []struct {
	mark []byte
	enc  Encoding
}{
	{[]byte{0xEF, 0xBB, 0xBF}, UTF8},
	{[]byte{0xFF, 0xFE}, UTF16LE},
	{[]byte{0xFE, 0xFF}, UTF16BE},
}

// Sniff tells the encoding of a text from its first bytes, and how many of them
// are a byte order mark. Without a mark, zero bytes in every other place mean
// UTF-16; all else is 8-bit text, of which each line shows by itself whether it
// is UTF-8.
func Sniff(head []byte) (enc Encoding, skip int) {
	for _, b := range boms {
		if bytes.HasPrefix(head, b.mark) {
			return b.enc, len(b.mark)
		}
	}
	var zero [2]int
	for i, c := range head {
		if c == 0 {
			zero[i%2]++
		}
	}
	half := len(head) / 2
	switch {
	case half > 0 && zero[1] > half/2 && zero[0] < half/16+1:
		return UTF16LE, 0
	case half > 0 && zero[0] > half/2 && zero[1] < half/16+1:
		return UTF16BE, 0
	}
	return ANSI, 0
}

var pages = map[Encoding]encoding.Encoding{
	CP1250: charmap.Windows1250, CP1251: charmap.Windows1251, CP1252: charmap.Windows1252,
	CP932: japanese.ShiftJIS, CP936: simplifiedchinese.GBK, CP949: korean.EUCKR, CP950: traditionalchinese.Big5,
	CP1254: charmap.Windows1254,
	CP850:  charmap.CodePage850, CP852: charmap.CodePage852, CP857: turkishConsole{}, CP866: charmap.CodePage866,
}

// turkishConsole is CP857, which the encodings at hand lack: CP850 with the
// letters of Turkish in some places, and what stood there in others. Source:
// the OS's table of code page 857.
type turkishConsole struct{}

// ofTurkish are the letters of CP850 that stand for others there.
var ofTurkish = map[rune]rune{'ì': 'ı', 'ÿ': 'İ', '×': 'Ş', 'ƒ': 'ş', 'ª': 'Ğ', 'º': 'ğ', 'ð': 'º',
	'Ð': 'ª', 'Þ': '×', 'ý': 'ì', 'Ý': 'ÿ', 'ı': utf8.RuneError, 'þ': utf8.RuneError, '‗': utf8.RuneError}

// NewDecoder reads the page as the western one with some letters in other
// places, which is all that the two differ in.
func (turkishConsole) NewDecoder() *encoding.Decoder {
	read := runes.Map(func(r rune) rune {
		if t, ok := ofTurkish[r]; ok {
			return t
		}
		return r
	})
	return &encoding.Decoder{Transformer: transform.Chain(charmap.CodePage850.NewDecoder(), read)}
}

// NewEncoder is the other way round: a masked copy is written as it was read.
func (turkishConsole) NewEncoder() *encoding.Encoder {
	write := runes.Map(func(r rune) rune {
		for of850, t := range ofTurkish {
			if t == r && r != utf8.RuneError {
				return of850
			}
		}
		return r
	})
	return &encoding.Encoder{Transformer: transform.Chain(write, charmap.CodePage850.NewEncoder())}
}

// lineDecoder decodes the lines of an 8-bit text that are not UTF-8. Its code
// page is guessed from the first text that has such lines.
type lineDecoder struct {
	enc Encoding          // the page in use
	dec *encoding.Decoder // nil for UTF-8 and UTF-16
}

// newLineDecoder reads lines of an encoding; it is kept for a whole file, since
// making one costs more than a line.
func newLineDecoder(enc Encoding) lineDecoder {
	return lineDecoder{enc: enc, dec: pages[enc].NewDecoder()}
}

// learn looks at a block before its lines are decoded.
func (d *lineDecoder) learn(text []byte) {
	if d.dec != nil || utf8.Valid(text) || utf8.Valid(trimToRune(text)) {
		return
	}
	*d = newLineDecoder(guessPage(text))
}

// decode gives line as UTF-8.
func (d *lineDecoder) decode(line []byte) []byte {
	if utf8.Valid(line) {
		return line
	}
	if d.dec == nil {
		*d = newLineDecoder(guessPage(line))
	}
	out, err := d.dec.Bytes(line)
	if err != nil {
		return bytes.ToValidUTF8(line, []byte("\uFFFD"))
	}
	return out
}

// encoding is that of the lines; without one that was told apart they are ANSI.
func (d *lineDecoder) encoding() Encoding {
	if d.dec == nil {
		return ANSI
	}
	return d.enc
}
