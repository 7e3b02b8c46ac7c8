package columns

import (
	"strings"
	"testing"
)

func TestClean(t *testing.T) {
	for in, want := range map[string]string{
		"plain":            "plain",
		"tab\there":        "tab here",
		"\x1b[31mred\x07":  "·[31mred·",
		"a\u202eb\u200bc":  "a·b·c",
		"c1 \u0085 \u009b": "c1 · ·",
		"line\nbreak":      "line\nbreak",
		"größe 日本":         "größe 日本",
		"cut\xff":          "cut\uFFFD",
	} {
		if got := Clean(in); got != want {
			t.Errorf("Clean(%q) = %q, want %q", in, got, want)
		}
	}
}

func TestFit(t *testing.T) {
	for _, tt := range []struct {
		in         string
		n          int
		fit, inner string
	}{
		{"short", 10, "short", "short"},
		{`C:\Users\mwhitlow\AppData\Local\Temp`, 20, `C:\Users\mwhitlow\A…`, `C:\Users\m…ocal\Temp`},
		{"日本語のログ", 7, "日本語…", "日本語…"},
		{"two\nlines", 20, "two lines", "two lines"},
	} {
		if got := Fit(tt.in, tt.n); got != tt.fit {
			t.Errorf("Fit(%q, %d) = %q, want %q", tt.in, tt.n, got, tt.fit)
		}
		if got := FitMiddle(tt.in, tt.n); tt.n >= 8 && got != tt.inner {
			t.Errorf("FitMiddle(%q, %d) = %q, want %q", tt.in, tt.n, got, tt.inner)
		}
	}
}

func TestWrap(t *testing.T) {
	for _, tt := range []struct {
		in            string
		width, indent int
		hang          bool
		want          string
	}{
		{"one two three four five six", 20, 2, false, "  one two three four|  five six"},
		{"one two three four five six", 20, 2, true, "one two three four|  five six"},
		{"", 20, 2, false, ""},
		{`see C:\Program Files\Saltmarsh Quay\Berthline\planner.exe now`, 30, 0, false,
			`see C:\Program Files\Saltmarsh|Quay\Berthline\planner.exe now`},
		{`HKU\S-1-5-21-2104885761-1177238915-682003330-1107\Software`, 30, 0, false,
			`HKU\S-1-5-21-2104885761-117723|8915-682003330-1107\Software`},
	} {
		if got := strings.Join(Wrap(tt.in, tt.width, tt.indent, tt.hang), "|"); got != tt.want {
			t.Errorf("Wrap(%q, %d) = %q, want %q", tt.in, tt.width, got, tt.want)
		}
	}
}

// However odd the text, no line is wider than asked for and no letter is lost.
func FuzzWrap(f *testing.F) {
	f.Add(`see C:\Program Files\Saltmarsh Quay\planner.exe now`, 30, 4)
	f.Add("日本語 のログ", 20, 0)
	f.Fuzz(func(t *testing.T, in string, width, indent int) {
		if width < 20 || width > 200 || indent < 0 || indent > width-16 {
			return
		}
		lines := Wrap(in, width, indent, false)
		for _, l := range lines {
			if w := Width(l); w > width {
				t.Errorf("%d columns of %d: %q", w, width, l)
			}
		}
		letters := func(s string) string { return strings.Join(strings.Fields(s), "") }
		if got, want := letters(strings.Join(lines, " ")), letters(Clean(in)); got != want {
			t.Errorf("Wrap(%q) lost letters: %q, want %q", in, got, want)
		}
	})
}
