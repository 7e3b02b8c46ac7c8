// This file keeps from a terminal what it would obey. Logs and packages hold
// what anybody wrote into them.

package cli

import (
	"bytes"
	"io"
	"unicode"
	"unicode/utf8"
)

// A safe writer lets nothing through to a terminal that the terminal would
// obey, wherever a text came from: titles, names of machines, packages and
// services are input from strangers. Our own few colours, line ends and nothing
// else pass.
type safe struct {
	w    io.Writer
	rest []byte // of a letter or colour that goes on in the next call
}

// colours are what [Style] writes.
var colours = [][]byte{[]byte("\x1b[0m"), []byte("\x1b[1m"), []byte("\x1b[2m"), []byte("\x1b[1;31m"),
	[]byte("\x1b[1;32m"), []byte("\x1b[1;35m"), []byte("\x1b[36m")}

// longestColour tells how much must be kept back until a colour is known to be
// whole.
const longestColour = len("\x1b[1;31m")

// Write gives the number of bytes that it was given, however many came out of
// them.
func (s *safe) Write(p []byte) (int, error) {
	text := append(s.rest, p...)
	s.rest = nil
	out := make([]byte, 0, len(text))
	for len(text) > 0 {
		// Only the colours that we write ourselves go through.
		if text[0] == 0x1b {
			n := colour(text)
			if n < 0 {
				s.rest = bytes.Clone(text)
				break
			}
			if n > 0 {
				out, text = append(out, text[:n]...), text[n:]
				continue
			}
		}
		// The rest of a letter comes with the next write.
		if !utf8.FullRune(text) {
			s.rest = bytes.Clone(text)
			break
		}
		r, n := utf8.DecodeRune(text)
		if plain(r) {
			out = append(out, text[:n]...)
		} else {
			out = utf8.AppendRune(out, '·')
		}
		text = text[n:]
	}
	_, err := s.w.Write(out)
	return len(p), err
}

// colour is the length of the colour that a text begins with: 0 for none, -1
// when it may go on.
func colour(text []byte) int {
	for _, c := range colours {
		if bytes.HasPrefix(text, c) {
			return len(c)
		}
	}
	if len(text) < longestColour {
		for _, c := range colours {
			if bytes.HasPrefix(c, text) {
				return -1
			}
		}
	}
	return 0
}

// plain says whether a terminal only shows a sign. Marks that change the
// direction of writing, or join signs unseen, are none.
func plain(r rune) bool {
	return r == '\n' || r == '\t' || r == '\r' || r >= ' ' && r < 0x7f || r >= 0xa0 && r != 0x2028 && r != 0x2029 && !unicode.Is(unicode.Cf, r)
}
