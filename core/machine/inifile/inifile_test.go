package inifile

import (
	"bytes"
	"strings"
	"testing"
	"unicode/utf16"
)

const setupIni = "; the setup of Pilot Roster\r\n[Product]\r\nName=Pilot Roster\r\n\r\n[Gate]\r\n; the newest build\r\nNewestBuild = 18363\r\nRing=\"general\"\r\n\r\n[Last]\r\nEnd=1"

func set(t *testing.T, in []byte, section, key, value string) []byte {
	t.Helper()
	f, err := Parse(in)
	if err != nil {
		t.Fatal(err)
	}
	if !bytes.Equal(f.Bytes(), in) {
		t.Errorf("read and written it is not the same: %q", f.Bytes())
	}
	if err := f.Set(section, key, value); err != nil {
		t.Fatal(err)
	}
	again, err := Parse(f.Bytes())
	if err != nil {
		t.Fatal(err)
	}
	if v, ok := again.Get(section, key); !ok || v != value {
		t.Errorf("%s of %s is %q, %v; want %q", key, section, v, ok, value)
	}
	return f.Bytes()
}

func TestSet(t *testing.T) {
	for name, c := range map[string]struct{ section, key, value, old, new string }{
		"a value":            {"Gate", "NewestBuild", "19045", "NewestBuild = 18363", "NewestBuild = 19045"},
		"in any case":        {"gate", "newestbuild", "19045", "NewestBuild = 18363", "NewestBuild = 19045"},
		"a new key":          {"Gate", "Edition", "Pro", "Ring=\"general\"\r\n", "Ring=\"general\"\r\nEdition=Pro\r\n"},
		"in the last line":   {"Last", "Also", "2", "End=1", "End=1\r\nAlso=2"},
		"a new section":      {"Site", "Code", "ELLERY", "End=1", "End=1\r\n\r\n[Site]\r\nCode=ELLERY"},
		"in an empty file":   {"Site", "Code", "ELLERY", "", ""},
		"over a quoted text": {"Gate", "Ring", "preview", "Ring=\"general\"", "Ring=preview"},
	} {
		in := setupIni
		want := strings.Replace(setupIni, c.old, c.new, 1)
		if c.old == "" {
			in, want = "", "[Site]\r\nCode=ELLERY\r\n"
		}
		if got := string(set(t, []byte(in), c.section, c.key, c.value)); got != want {
			t.Errorf("%s:\n%q\nwant\n%q", name, got, want)
		}
	}
}

// Everything that is not touched keeps its bytes, in every encoding and with
// any line ends.
func TestEncodings(t *testing.T) {
	units := func(text string, big bool) []byte {
		out := []byte{0xFF, 0xFE}
		if big {
			out = []byte{0xFE, 0xFF}
		}
		for _, u := range utf16.Encode([]rune(text)) {
			if big {
				out = append(out, byte(u>>8), byte(u))
			} else {
				out = append(out, byte(u), byte(u>>8))
			}
		}
		return out
	}
	text := strings.Replace(setupIni, "the newest build", "größte 桟橋", 1)
	after := strings.Replace(text, "18363", "19045", 1)
	for name, c := range map[string][2][]byte{
		"UTF-8":           {[]byte(text), []byte(after)},
		"UTF-8 with mark": {[]byte("\xEF\xBB\xBF" + text), []byte("\xEF\xBB\xBF" + after)},
		"UTF-16LE":        {units(text, false), units(after, false)},
		"UTF-16BE":        {units(text, true), units(after, true)},
		"an old page": {[]byte(strings.Replace(setupIni, "newest", "gr\xF6\xDFte\x81", 1)),
			[]byte(strings.Replace(strings.Replace(setupIni, "newest", "gr\xF6\xDFte\x81", 1), "18363", "19045", 1))},
		"LF, final": {[]byte(strings.ReplaceAll(setupIni, "\r\n", "\n") + "\n"),
			[]byte(strings.ReplaceAll(strings.Replace(setupIni, "18363", "19045", 1), "\r\n", "\n") + "\n")},
		"mixed ends": {[]byte("[Gate]\nA=1\r\nNewestBuild=18363\rB=2\n"), []byte("[Gate]\nA=1\r\nNewestBuild=19045\rB=2\n")},
	} {
		if got := set(t, c[0], "Gate", "NewestBuild", "19045"); !bytes.Equal(got, c[1]) {
			t.Errorf("%s:\n%q\nwant\n%q", name, got, c[1])
		}
	}
}

func TestRefused(t *testing.T) {
	f, err := Parse([]byte("[A]\nB=\xF6\n"))
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range [][3]string{{"", "k", "v"}, {"s", "", "v"}, {"s]", "k", "v"}, {"s", "k=", "v"}, {"s", "k", "v\nw"}, {"s", ";k", "v"},
		{"A", "B", "ü"}} {
		if f.Set(c[0], c[1], c[2]) == nil {
			t.Errorf("%q is taken", c)
		}
	}
	if _, err := Parse([]byte("\xFF\xFEa")); err == nil {
		t.Error("half a letter of UTF-16 is taken")
	}
	if _, err := Parse(make([]byte, maxSize+1)); err == nil {
		t.Error("a huge file is taken")
	}
	if s := f.Sections(); len(s) != 1 || f.Readable("\u00F6") != "ö" {
		t.Errorf("%q", s)
	}
}

func FuzzParse(f *testing.F) {
	f.Add([]byte(setupIni), "Gate", "NewestBuild", "19045")
	f.Add([]byte("\xFF\xFE[\x00A\x00]\x00"), "A", "B", "C")
	f.Fuzz(func(t *testing.T, in []byte, section, key, value string) {
		file, err := Parse(in)
		if err != nil {
			return
		}
		if !bytes.Equal(file.Bytes(), in) {
			t.Fatalf("%q comes back as %q", in, file.Bytes())
		}
		section, key, value = strings.TrimSpace(section), strings.TrimSpace(key), strings.TrimSpace(value)
		if strings.ContainsAny(value, "\"'") || strings.HasPrefix(key, "#") || file.Set(section, key, value) != nil {
			return
		}
		if got, ok := file.Get(section, key); !ok || got != value {
			t.Errorf("%q, %q set to %q reads as %q, %v", section, key, value, got, ok)
		}
	})
}

func TestRemove(t *testing.T) {
	for _, c := range []struct{ in, section, key, want string }{
		{"[A]\r\nx=1\r\ny=2\r\n", "a", "X", "[A]\r\ny=2\r\n"},
		{"[A]\nx=1\n[B]\nz=3\n", "A", "x", "[B]\nz=3\n"},
		{"[A]\nx=1\n; kept\n[B]\nz=3\n", "A", "x", "[A]\n; kept\n[B]\nz=3\n"},
		{"[A]\nx=1", "A", "x", ""},
		{"[A]\nx=1\n", "A", "absent", "[A]\nx=1\n"},
		{"[A]\nx=1\n", "B", "x", "[A]\nx=1\n"},
		{"", "A", "x", ""},
	} {
		f, err := Parse([]byte(c.in))
		if err != nil {
			t.Fatal(err)
		}
		f.Remove(c.section, c.key)
		if got := string(f.Bytes()); got != c.want {
			t.Errorf("%q without %s in %s: %q, want %q", c.in, c.key, c.section, got, c.want)
		}
	}
}
