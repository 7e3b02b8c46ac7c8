package regfile

import (
	"bytes"
	"errors"
	"strings"
	"testing"
)

const sample = "Windows Registry Editor Version 5.00\r\n\r\n; shell folders of the harbour office\r\n" +
	"[HKEY_USERS\\S-1-5-21-1-2-3-1001\\Software\\Berthline]\r\n@=\"default \\\"text\\\"\"\r\n\"Path\"=\"C:\\\\Berth\"\r\n" +
	"\"Expand\"=hex(2):25,00,54,00,45,00,4d,00,50,00,25,00,\\\r\n  00,00\r\n\"Count\"=dword:0000002a\r\n\"Big\"=hex(b):01,00,00,00,00,00,00,80\r\n" +
	"\"List\"=hex(7):61,00,00,00,62,00,00,00,00,00\r\n\"Bytes\"=hex:DE,ad\r\n\"Gone\"=-\r\n\r\n[-HKEY_LOCAL_MACHINE\\Software\\Old]\r\n" +
	"\r\n[HKEY_LOCAL_MACHINE\\Software\\New]\r\n\"Odd\\\\name\"=hex(100):\r\n"

func parse(t *testing.T, b []byte) *File {
	t.Helper()
	f, err := Parse(b)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

func TestReadAllTypes(t *testing.T) {
	wide := append([]byte{0xFF, 0xFE}, utf16Bytes(sample)...)
	for _, raw := range [][]byte{[]byte(sample), wide, append([]byte{0xEF, 0xBB, 0xBF}, sample...),
		[]byte(strings.ReplaceAll(sample, "\r", ""))} {
		f := parse(t, raw)
		if got := f.Bytes(); !bytes.Equal(got, raw) {
			t.Fatalf("bytes changed without a change")
		}
		k := f.Key(`hkey_users\S-1-5-21-1-2-3-1001\software\BERTHLINE`)
		for _, want := range []struct {
			name  string
			typ   Type
			words string
		}{
			{"", String, `default "text"`}, {"path", String, `C:\Berth`}, {"Expand", Expand, "%TEMP%"}, {"Count", DWord, "42"},
			{"Big", QWord, "9223372036854775809"}, {"List", MultiStr, "a\nb"}, {"Bytes", Binary, "dead"},
		} {
			e, ok := k.Value(want.name)
			if !ok || e.Value.Type != want.typ || e.Value.Words() != want.words {
				t.Errorf("%q: got %v %q, %v; want %v %q", want.name, e.Value.Type, e.Value.Words(), ok, want.typ, want.words)
			}
			again, err := Make(want.typ, want.words)
			if err != nil || !again.Equal(e.Value) {
				t.Errorf("%q: Make(%v, %q) = %v, %v; want %v", want.name, want.typ, want.words, again, err, e.Value)
			}
		}
		if _, ok := k.Value("Gone"); ok {
			t.Errorf("a deleted value is there")
		}
		if old := f.Key(`HKEY_LOCAL_MACHINE\Software\Old`); old == nil || !old.Delete {
			t.Errorf("the deleted key: %+v", old)
		}
		if e, ok := f.Key(`HKEY_LOCAL_MACHINE\Software\New`).Value(`odd\name`); !ok || e.Value.Type != 0x100 {
			t.Errorf("a value of an unknown type: %+v, %v", e, ok)
		}
	}
}

func TestChangeAndBack(t *testing.T) {
	const key = `HKEY_USERS\S-1-5-21-1-2-3-1001\Software\Berthline`
	for _, raw := range [][]byte{[]byte(sample), append([]byte{0xFF, 0xFE}, utf16Bytes(sample)...),
		[]byte(strings.TrimRight(sample, "\r\n"))} {
		f := parse(t, raw)
		for _, name := range []string{"", "Expand", "Bytes", "Count", "Path"} {
			before, _ := f.Key(key).Value(name)
			v, _ := Make(Expand, `%USERPROFILE%\x`)
			if err := f.SetValue(key, name, v); err != nil {
				t.Fatal(err)
			}
			if e, _ := f.Key(key).Value(name); !e.Value.Equal(v) {
				t.Errorf("%q was not set: %v", name, e.Value)
			}
			if err := f.SetValue(key, name, before.Value); err != nil || !bytes.Equal(f.Bytes(), raw) {
				t.Errorf("%q was not put back to the byte (%v)", name, err)
			}
		}
		v, _ := Make(DWord, "7")
		if err := errors.Join(f.AddKey(key+`\Fresh`), f.SetValue(key+`\Fresh`, "a", v), f.SetValue(key, "b", v)); err != nil {
			t.Fatal(err)
		}
		if e, ok := f.Key(key + `\fresh`).Value("A"); !ok || e.Value.Words() != "7" {
			t.Errorf("the new key's value: %+v", e)
		}
		if err := errors.Join(f.RemoveValue(key, "b"), f.RemoveKey(key+`\Fresh`)); err != nil || !bytes.Equal(f.Bytes(), raw) {
			t.Errorf("new key and value did not go without a trace (%v)\n%q\n%q", err, f.Bytes(), raw)
		}
	}
}

func TestRefused(t *testing.T) {
	const head = "Windows Registry Editor Version 5.00\n"
	for _, tt := range []struct{ in, want string }{
		{"", "header line is missing"},
		{"Hello\n", "line 1: want the header line"},
		{head + "\"a\"=\"b\"\n", "line 2: a value stands before any key"},
		{head + "[HKEY_X\n", "line 2: the key"},
		{head + "[HKEY_X]\n\"a\"=\"b\n", "closing quotation mark"},
		{head + "[HKEY_X]\n\"a\" \"b\"\n", "equals sign is missing"},
		{head + "[HKEY_X]\n\"a\"=dword:xyz\n", "is no dword"},
		{head + "[HKEY_X]\n\"a\"=hex:zz\n", "is no byte"},
		{head + "[HKEY_X]\n\"a\"=hex(q):00\n", "is no value type"},
		{head + "[HKEY_X]\nnonsense\n", "line 3: \"nonsense\" is no key"},
		{"\xff\xfe\x00", "odd number"},
		{"\xff\x00\xff", "neither"},
	} {
		if _, err := Parse([]byte(tt.in)); !errors.Is(err, ErrSyntax) || !strings.Contains(err.Error(), tt.want) {
			t.Errorf("Parse(%q): %v, want %q", tt.in, err, tt.want)
		}
	}
}

func TestExport(t *testing.T) {
	f := parse(t, []byte(sample))
	k := f.Key(`HKEY_USERS\S-1-5-21-1-2-3-1001\Software\Berthline`)
	again := parse(t, Export(k.Path, k.Values, false))
	for _, e := range k.Values {
		got, ok := again.Key(k.Path).Value(e.Name)
		if ok == e.Delete || !got.Value.Equal(e.Value) {
			t.Errorf("%q exported as %v, want %v", e.Name, got.Value, e.Value)
		}
	}
	if gone := parse(t, Export(`HKEY_X\Y`, nil, true)).Key(`HKEY_X\Y`); gone == nil || !gone.Delete {
		t.Errorf("an absent key is exported as %+v", gone)
	}
}

func FuzzParse(f *testing.F) {
	f.Add([]byte(sample))
	f.Add(append([]byte{0xFF, 0xFE}, utf16Bytes(sample)...))
	f.Fuzz(func(t *testing.T, in []byte) {
		file, err := Parse(in)
		if err != nil || len(file.keys) == 0 {
			return
		}
		if again, err := Parse(file.Bytes()); err != nil || len(again.keys) != len(file.keys) {
			t.Errorf("what was read does not read back: %v", err)
		}
		key := file.keys[len(file.keys)-1]
		if key.Delete {
			return
		}
		v, _ := Make(String, "x\\\"y")
		if err := file.SetValue(key.Path, "fuzz", v); err != nil {
			t.Errorf("SetValue: %v", err)
		}
		if e, ok := file.Key(key.Path).Value("fuzz"); !ok || !e.Value.Equal(v) {
			t.Errorf("the value set is %v", e.Value)
		}
	})
}

// A section that is taken out goes back to its place, whichever it is.
func TestSectionsGoBack(t *testing.T) {
	const text = "Windows Registry Editor Version 5.00\r\n\r\n; about A\r\n[HKEY_LOCAL_MACHINE\\A]\r\n\"x\"=\"1\"\r\n\r\n[HKEY_LOCAL_MACHINE\\A\\B]\r\n@=hex:01,\\\r\n  02\r\n; after B\r\n\r\n[HKEY_LOCAL_MACHINE\\C]\r\n"
	for _, keys := range [][]string{{`HKEY_LOCAL_MACHINE\A`}, {`HKEY_LOCAL_MACHINE\a\b`}, {`HKEY_LOCAL_MACHINE\C`},
		{`HKEY_LOCAL_MACHINE\A`, `HKEY_LOCAL_MACHINE\A\B`, `HKEY_LOCAL_MACHINE\C`}} {
		f, err := Parse([]byte(text))
		if err != nil {
			t.Fatal(err)
		}
		type section struct {
			lines string
			at    int
		}
		var taken []section
		for _, k := range keys { // all are asked for before one is taken
			lines, at, ok := f.Section(k)
			if !ok {
				t.Fatalf("no section %s", k)
			}
			taken = append(taken, section{lines, at})
		}
		for _, k := range keys {
			if err := f.RemoveKey(k); err != nil {
				t.Fatal(err)
			}
			if f.Key(k) != nil {
				t.Errorf("%s is still there", k)
			}
		}
		for _, s := range taken {
			if err := f.PutSection(s.lines, s.at); err != nil {
				t.Fatal(err)
			}
		}
		if got := string(f.Bytes()); got != text {
			t.Errorf("%v: came back as\n%q", keys, got)
		}
	}
	f, err := Parse([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	if err := f.PutSection("rubbish", 0); err == nil || string(f.Bytes()) != text {
		t.Errorf("rubbish was put in: %v", err)
	}
	if err := f.PutSection("\r\n[HKEY_LOCAL_MACHINE\\D]", 8); err != nil { // in the middle of another's value
		t.Error(err)
	} else if k := f.Key(`HKEY_LOCAL_MACHINE\A\B`); len(k.Values) != 1 || len(k.Values[0].Value.Data) != 2 {
		t.Errorf("another key was torn: %+v", k)
	}
}

func TestExportKeys(t *testing.T) {
	v, err := Make(DWord, "7")
	if err != nil {
		t.Fatal(err)
	}
	b := ExportKeys([]KeyEntries{{Key: `HKEY_LOCAL_MACHINE\A "q"`, Values: []Entry{{Name: `n\"`, Value: v}, {Name: "gone", Delete: true}}},
		{Key: `HKEY_LOCAL_MACHINE\B`, Absent: true}})
	f, err := Parse(b)
	if err != nil {
		t.Fatal(err)
	}
	if k := f.Key(`HKEY_LOCAL_MACHINE\A "q"`); k == nil || len(k.Values) != 2 || k.Values[0].Name != `n\"` || !k.Values[0].Value.Equal(v) ||
		!k.Values[1].Delete {
		t.Errorf("%+v", k)
	}
	if k := f.Key(`HKEY_LOCAL_MACHINE\B`); k == nil || !k.Delete {
		t.Errorf("%+v", k)
	}
	if g, err := Parse([]byte(f.Text())); err != nil || len(g.Keys()) != 2 {
		t.Errorf("the text in UTF-8: %v", err)
	}
}

// Whatever the text, a section that can be taken out goes back to the byte.
func FuzzSection(f *testing.F) {
	f.Add([]byte(sample))
	f.Add([]byte("REGEDIT4\n[A]\n\n[A\\B]\n@=\"x\n y\"\n;c\n[A]\n\"z\"=-\n"))
	f.Fuzz(func(t *testing.T, in []byte) {
		file, err := Parse(in)
		if err != nil || len(file.keys) == 0 || len(in) > 1<<16 {
			return
		}
		seen := map[string]int{}
		for _, k := range file.keys {
			seen[fold(k.Path)]++
		}
		for i := range file.keys {
			k := file.keys[i]
			if seen[fold(k.Path)] > 1 { // a key in pieces
				continue
			}
			was := string(file.Bytes())
			lines, at, ok := file.Section(k.Path)
			if !ok {
				t.Fatalf("%q has no section", k.Path)
			}
			if err := file.RemoveKey(k.Path); err != nil {
				return // what stays is no registry text
			}
			if err := file.PutSection(lines, at); err != nil {
				t.Fatalf("%q does not go back: %v", k.Path, err)
			}
			if got := string(file.Bytes()); got != was {
				t.Fatalf("%q came back as\n%q\nwas\n%q", k.Path, got, was)
			}
			if i >= len(file.keys) {
				return
			}
		}
	})
}
