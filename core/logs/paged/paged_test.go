package paged

import (
	"context"
	"fmt"
	"os"
	"strings"
	"testing"

	"hollowkey/core/logs/textfile"
)

func TestPages(t *testing.T) {
	var b strings.Builder
	const n = 3000
	for i := 1; i <= n; i++ {
		fmt.Fprintf(&b, "line %d of a log\r\n", i)
		if i == 1500 {
			b.WriteString(strings.Repeat("long ", 200_000) + "\r\n")
		}
	}
	p, err := Copy(context.Background(), strings.NewReader(b.String()), textfile.Options{})
	if err != nil {
		t.Fatal(err)
	}
	if p.Len() != n+1 {
		t.Fatal(p.Len())
	}
	for from, want := range map[int]string{1: "line 1 of", 256: "line 256 ", 257: "line 257 ", 1501: "long long",
		1502: "line 1501 ", 3001: "line 3000 "} {
		lines, err := p.Lines(from, 2)
		if err != nil || len(lines) == 0 || !strings.HasPrefix(lines[0], want) {
			t.Errorf("%d: %.30q %v, want %q", from, lines, err, want)
		}
	}
	if lines, err := p.Lines(4000, 5); err != nil || len(lines) != 0 {
		t.Errorf("behind the end: %q %v", lines, err)
	}
	for _, c := range []struct {
		word string
		from int
		back bool
		want int
	}{{"LINE 700 ", 1, false, 700}, {"line 700 ", 701, false, 0}, {"line 700 ", 3001, true, 700},
		{"line 700 ", 700, true, 0}, {"of a log", 3001, true, 3000}, {"of a log", 1, true, 0}, {"", 1, false, 0}} {
		if got, err := p.Find([]string{c.word}, c.from, c.back); got != c.want || err != nil {
			t.Errorf("%+v: %d %v", c, got, err)
		}
	}
	name := p.f.Name()
	if err := p.Close(); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(name); err == nil {
		t.Error("the scratch file stays")
	}
}
