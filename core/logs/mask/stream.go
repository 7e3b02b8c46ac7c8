// This file goes through a text of any encoding, and writes it again as it was.

package mask

import (
	"bufio"
	"bytes"
	"errors"
	"io"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

const (
	sniffed = 64 << 10  // bytes looked at to tell the encoding
	maxLine = 256 << 10 // bytes held at once, so that a log without line ends cannot fill the memory
	overlap = 4 << 10   // bytes at the end of a piece in which it is cut between words, so that no name is torn apart
)

// encodingOf tells how a text is encoded, from its beginning.
func encodingOf(head []byte) encoding.Encoding {
	switch {
	case bytes.HasPrefix(head, []byte{0xFF, 0xFE}):
		return unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM)
	case bytes.HasPrefix(head, []byte{0xFE, 0xFF}):
		return unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM)
	}
	even, odd := 0, 0
	for i, b := range head {
		if b == 0 && i%2 == 0 {
			even++
		} else if b == 0 {
			odd++
		}
	}
	switch {
	case odd > len(head)/4:
		return unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM)
	case even > len(head)/4:
		return unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM)
	case utf8.Valid(cutRune(head)):
		return encoding.Nop
	}
	return charmap.ISO8859_1 // each byte comes back as it was
}

// cutRune leaves out a character that the end of the head cut in two.
func cutRune(head []byte) []byte {
	for n := 1; n < utf8.UTFMax && n < len(head); n++ {
		if utf8.RuneStart(head[len(head)-n]) {
			if !utf8.FullRune(head[len(head)-n:]) {
				return head[:len(head)-n]
			}
			break
		}
	}
	return head
}

// lines goes through a text of any encoding, a line at a time with its end;
// very long ones come in pieces.
func lines(r io.Reader, do func(line string) error) (encoding.Encoding, error) {
	b := bufio.NewReaderSize(r, sniffed)
	head, err := b.Peek(sniffed)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, bufio.ErrBufferFull) {
		return nil, err
	}
	enc := encodingOf(head)
	text := bufio.NewReaderSize(transform.NewReader(b, enc.NewDecoder()), maxLine)
	var kept string // of a piece, from where it was cut
	for {
		line, err := text.ReadSlice('\n')
		piece := kept + string(line)
		kept = ""
		if errors.Is(err, bufio.ErrBufferFull) {
			// A line of any length goes through, in pieces that part no name.
			piece, kept = cutPiece(piece)
		}
		if len(piece) > 0 {
			if bad := do(piece); bad != nil {
				return enc, bad
			}
		}
		if errors.Is(err, bufio.ErrBufferFull) {
			continue
		}
		if errors.Is(err, io.EOF) {
			return enc, nil
		}
		if err != nil {
			return enc, err
		}
	}
}

// cutPiece parts a piece of a very long line at the last sign near its end that
// no name, and no value, has in it.
func cutPiece(piece string) (now, later string) {
	from := max(0, len(piece)-overlap)
	for _, marks := range []string{"\r\n\x00;,{}<>", " \t\"'&|", `\/`} {
		if i := strings.LastIndexAny(piece[from:], marks); i >= 0 {
			return piece[:from+i], piece[from+i:]
		}
	}
	for from < len(piece) && !utf8.RuneStart(piece[from]) {
		from++
	}
	return piece[:from], piece[from:]
}

// LearnFrom takes names out of a text of any encoding.
func (m *Masker) LearnFrom(r io.Reader) error {
	_, err := lines(r, func(line string) error { m.Learn(line); return nil })
	return err
}

// Copy writes a text with its private data masked, in the encoding that it came
// in. An error is one of reading or writing; what was written until then is
// masked.
func (m *Masker) Copy(w io.Writer, r io.Reader) error {
	b := bufio.NewReaderSize(r, sniffed)
	head, err := b.Peek(sniffed)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, bufio.ErrBufferFull) {
		return err
	}
	out := transform.NewWriter(w, encodingOf(head).NewEncoder())
	if _, err := lines(b, func(line string) error {
		_, err := io.Copy(out, strings.NewReader(m.Mask(line)))
		return err
	}); err != nil {
		return err
	}
	return out.Close()
}

// IsText says whether the beginning of a file is that of a text.
func IsText(head []byte) bool {
	enc := encodingOf(head)
	if len(head)%2 != 0 && enc != encoding.Nop {
		head = head[:len(head)-1]
	}
	plain, _, err := transform.Bytes(enc.NewDecoder(), head)
	if err != nil && len(plain) == 0 {
		return len(head) == 0
	}
	odd := 0
	for _, r := range string(plain) {
		if r < ' ' && r != '\n' && r != '\r' && r != '\t' && r != '\f' && r != 0x1B || r == utf8.RuneError {
			odd++
		}
	}
	return odd <= len(plain)/50
}
