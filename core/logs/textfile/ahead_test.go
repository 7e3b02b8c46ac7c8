package textfile

import (
	"context"
	"fmt"
	"hash/fnv"
	"math/rand/v2"
	"strings"
	"testing"
)

// What is worked out ahead is of the very text that the caller gets, however
// lines lie in blocks, and whenever it is turned on.
func TestAheadIsOfTheLine(t *testing.T) {
	of := func(line []byte) Notes {
		h := fnv.New64a()
		h.Write(line)
		return Notes{h.Sum64(), uint64(len(line))}
	}
	for seed := range uint64(12) {
		r := rand.New(rand.NewPCG(seed, 7))
		var b strings.Builder
		lines := 0
		for b.Len() < 12*blockSize {
			lines++
			fmt.Fprintf(&b, "line %d %s", lines, strings.Repeat("copied ", r.IntN(40)))
			switch r.IntN(60) {
			case 0:
				b.WriteString("größer")
			case 1:
				b.WriteString(strings.Repeat("x", MaxLine+r.IntN(100)))
			case 2:
				b.WriteByte(0xE4) // of Latin-1
			}
			b.WriteString([]string{"\n", "\r\n", "\n\n"}[r.IntN(3)])
		}
		ahead := &Ahead{Of: of, always: true}
		from, noted, wrong := r.IntN(lines/4), 0, 0
		n := 0
		for l, err := range Lines(context.Background(), strings.NewReader(b.String()), Options{Ahead: ahead}, nil) {
			if err != nil {
				t.Fatal(err)
			}
			if n++; n == from {
				ahead.On()
			}
			if l.Notes == nil {
				continue
			}
			noted++
			if *l.Notes != of(l.Text) {
				wrong++
			}
		}
		if wrong > 0 || noted < n/8 {
			t.Errorf("seed %d: of %d lines %d have notes, %d of them of another text", seed, n, noted, wrong)
		}
	}
}

// Of eight bits it begins at once and of wide letters when it is asked for, and
// never of a block that the caller waits for; once it was ended, the blocks
// behind have none.
func TestAheadBegins(t *testing.T) {
	text := []byte("the file was copied\nand one more\n")
	say := map[string]func(*Ahead){"nothing": func(*Ahead) {}, "on": (*Ahead).On, "off": (*Ahead).Off}
	for _, tt := range []struct {
		enc    Encoding
		said   string
		inTime bool
		want   int // lines that have notes
	}{
		{UTF8, "nothing", true, 2},
		{UTF8, "nothing", false, 0},
		{UTF8, "on", true, 2},
		{UTF8, "off", true, 0},
		{UTF16LE, "nothing", true, 0},
		{UTF16LE, "on", true, 2},
		{UTF16LE, "on", false, 0},
	} {
		ahead := &Ahead{Of: func([]byte) Notes { return Notes{1, 1} }}
		say[tt.said](ahead)
		b := block{text: text, enc: tt.enc}
		new(cutter).measure(&b)
		n := noter{ahead: ahead}
		if got := len(n.notes(&b, tt.inTime)); got != tt.want {
			t.Errorf("%+v: %d lines have notes", tt, got)
		}
	}
}
