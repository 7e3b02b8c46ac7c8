package cli

import (
	"bytes"
	"strings"
	"testing"
)

func TestQuoteArgument(t *testing.T) {
	for in, want := range map[string]string{"setup.log": "setup.log", "my setup.log": "'my setup.log'", "it's.log": `'it'\''s.log'`,
		"": "''", "a;b": "'a;b'"} {
		if got := quoteArgument(in); got != want {
			t.Errorf("quoteArgument(%q) = %s, want %s", in, got, want)
		}
	}
}

func TestSmallTexts(t *testing.T) {
	for in, want := range map[string]string{"the service stopped": "The service stopped.", "Done.": "Done.", `it said "x"`: `It said "x"`,
		"": "", "setup.exe failed": "setup.exe failed."} {
		if got := sentence(in); got != want {
			t.Errorf("sentence(%q) = %q, want %q", in, got, want)
		}
	}
	for in, want := range map[float64]string{-1: "", 0.05: "0.1 s", 31: "31.0 s", 75: "1 m 15 s", 7300: "2 h 01 m"} {
		if got := seconds(in); got != want {
			t.Errorf("seconds(%v) = %q, want %q", in, got, want)
		}
	}
	for in, want := range map[int64]string{5: "5 B", 2048: "2 KB", 5 << 20: "5.0 MB"} {
		if got := bytesText(in); got != want {
			t.Errorf("bytesText(%d) = %q, want %q", in, got, want)
		}
	}
	for in, want := range map[float64]string{0.97: "97 %, proven by the log", 0.8: "80 %, very likely", 0.6: "60 %, likely",
		0.45: "45 %, possible", 0.2: "20 %, a guess"} {
		if got := sureness(in); got != want {
			t.Errorf("sureness(%v) = %q, want %q", in, got, want)
		}
	}
	if got := unstamped("MSI (s) (A4:10) [09:12:02:500]: Note: 1: 1303"); got != "Note: 1: 1303" {
		t.Errorf("unstamped: %q", got)
	}
	for name, want := range map[string]string{"DBPASSWORD": "(hidden)", "ProductName": "x", "PIDKEY": "(hidden)"} {
		if got := masked(name, "x"); got != want {
			t.Errorf("masked(%s) = %q", name, got)
		}
	}
}

func TestDiffLines(t *testing.T) {
	var b strings.Builder
	writeDiff(&b, Style{Width: 80}, []string{"owner SYSTEM", "start type disabled"}, []string{"owner SYSTEM", "start type manual"})
	if want := "  - start type disabled\n  + start type manual\n    owner SYSTEM\n"; b.String() != want {
		t.Errorf("got\n%swant\n%s", b.String(), want)
	}
}

// Without a terminal there is neither colour nor progress.
func TestPlainWhenNobodyLooks(t *testing.T) {
	s := newStyle(&bytes.Buffer{}, false, 0)
	if s.Color || s.Width != widthElse || s.bad("x") != "x" {
		t.Errorf("%+v", s)
	}
	a := &app{err: &bytes.Buffer{}}
	r := bytes.NewReader(nil)
	if p := a.progress(1 << 40); p.reader(r) != r {
		t.Error("a progress bar without a terminal")
	}
	if s := (Style{Color: true}); s.bad("x") == "x" || s.bad("") != "" {
		t.Errorf("colours: %q %q", s.bad("x"), s.bad(""))
	}
}

// Every colour that we set passes the writer that takes all other codes out.
func TestOurColoursPass(t *testing.T) {
	s := Style{Color: true}
	for name, set := range map[string]func(string) string{"bold": s.bold, "faint": s.faint, "bad": s.bad,
		"good": s.good, "mind": s.mind, "key": s.key} {
		var b bytes.Buffer
		if _, err := (&safe{w: &b}).Write([]byte(set("tides"))); err != nil || b.String() != set("tides") {
			t.Errorf("%s: %q, want %q", name, b.String(), set("tides"))
		}
	}
}
