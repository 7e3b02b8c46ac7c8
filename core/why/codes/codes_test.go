package codes

import (
	"strconv"
	"strings"
	"testing"
)

func TestExplain(t *testing.T) {
	tests := []struct {
		in   string
		kind Kind
		name string
		has  string // in the meaning of the first reading
	}{
		{"1603", Exit, "ERROR_INSTALL_FAILURE", "names no reason"},
		{"3010", Exit, "ERROR_SUCCESS_REBOOT_REQUIRED", "restart is due"},
		{"1920", Message, "", "could not be started"},
		{"5", System, "ERROR_ACCESS_DENIED", "access is denied"},
		{"0x80070005", HResult, "E_ACCESSDENIED", "access is denied"},
		{"80070005", HResult, "E_ACCESSDENIED", "access is denied"},
		{"-2147024891", HResult, "E_ACCESSDENIED", "access is denied"},
		{"2147942405", HResult, "E_ACCESSDENIED", "access is denied"},
		{"-2147287035", HResult, "STG_E_ACCESSDENIED", "denied"},
		{"0xC0000005", NTStatus, "STATUS_ACCESS_VIOLATION", "access violation"},
		{"-1073741819", NTStatus, "STATUS_ACCESS_VIOLATION", "access violation"},
		{"c0000135", NTStatus, "STATUS_DLL_NOT_FOUND", "DLL"},
		{"0x80072ee7", HResult, "", "could not be resolved"},
		{"0xFFFFFFFF80070002", HResult, "", "not there"},
		{"1603.", Exit, "ERROR_INSTALL_FAILURE", "fatal"},
		{"64", System, "ERROR_NETNAME_DELETED", "no longer there"},
		{"65432", System, "", "neither"},
	}
	for _, tt := range tests {
		got, err := Explain(tt.in)
		if err != nil {
			t.Errorf("%s: %v", tt.in, err)
			continue
		}
		e := got[0]
		if e.Kind != tt.kind || tt.name != "" && e.Name != tt.name || !strings.Contains(e.Meaning, tt.has) {
			t.Errorf("%s: got %s %s %q; want %s %s with %q", tt.in, e.Kind, e.Name, e.Meaning, tt.kind, tt.name, tt.has)
		}
	}
	for _, in := range []string{"", "access denied", "0x", "12345678901234", "0x123456789", "--5"} {
		if got, err := Explain(in); err == nil {
			t.Errorf("Explain(%q) = %v, want an error", in, got)
		}
	}
}

func TestHResultParts(t *testing.T) {
	e, _ := Result(0x80070643)
	if p := e.Parts; !p.Failure || p.Facility != 7 || p.Code != 1603 || e.Wraps == nil || e.Wraps.Kind != Exit {
		t.Errorf("0x80070643: %+v wraps %+v", e.Parts, e.Wraps)
	}
	e, _ = Result(0xD0000022)
	if e.Wraps == nil || e.Wraps.Name != "STATUS_ACCESS_DENIED" {
		t.Errorf("0xD0000022 wraps %+v, want STATUS_ACCESS_DENIED", e.Wraps)
	}
	if e, ok := Result(0x8A150011); !ok || e.Meaning == "" || e.Parts.Facility != 0x215 {
		t.Errorf("an unknown facility: %+v", e)
	}
}

// Every row of every table must be whole, and every class known.
func TestTables(t *testing.T) {
	columns := map[string]struct {
		text string
		n    int
	}{"win32": {win32Words, 4}, "engine": {engineWords, 5}, "exit": {exitWords, 6}, "hresult": {hresultWords, 5},
		"ntstatus": {ntstatusWords, 4}}
	classColumn := map[string]int{"win32": 1, "engine": 1, "exit": 2, "hresult": 2, "ntstatus": 1}
	for table, c := range columns {
		seen, explained := map[string]bool{}, 0
		for _, line := range strings.Split(strings.TrimSpace(c.text), "\n") {
			if strings.HasPrefix(line, "#") {
				continue
			}
			cells := strings.Split(line, "|")
			if len(cells) != c.n || seen[cells[0]] {
				t.Errorf("%s: row %q has %d columns, want %d, once", table, line, len(cells), c.n)
				continue
			}
			seen[cells[0]] = true
			explained++
			class := cells[classColumn[table]]
			if _, ok := nextFor[class]; !ok && class != "-" {
				t.Errorf("%s: row %q: class %q is not known", table, line, class)
			}
		}
		if table == "win32" && explained < 300 {
			t.Errorf("win32: %d codes explained, want at least 300", explained)
		}
	}
	for n := 1601; n <= 1654; n++ {
		if _, ok := ExitCode(n); !ok {
			t.Errorf("exit code %d is not explained", n)
		}
	}
}

func FuzzExplain(f *testing.F) {
	f.Add("0x80070005")
	f.Add("-2147024891")
	f.Fuzz(func(t *testing.T, in string) {
		if got, err := Explain(in); err == nil && (len(got) == 0 || got[0].Meaning == "") {
			t.Errorf("Explain(%q) = %v without a meaning", in, got)
		}
	})
}

func BenchmarkExplain(b *testing.B) {
	b.ReportAllocs()
	for b.Loop() {
		if _, err := Explain("0x80070643"); err != nil {
			b.Fatal(err)
		}
	}
}

// What has no words of its own is told by its name, and only as surely as that
// tells.
func TestByName(t *testing.T) {
	for text, want := range map[string]string{
		"0x80240438": "network", "0x80246001": "network", "0x80240020": "", "0x8024000b": "cancelled", "0x80244018": "network",
		"0x80242014": "busy", "0x80248000": "component-store", "0x80240022": "", "0x800f0828": "space", "0x800f0824": "source",
		"0x800f0243": "policy", "0xe0000243": "policy", "0x800f0214": "path", "0x887a0004": "prerequisite", "0x80041003": "permission",
		"0x8013101b": "prerequisite", "0x80131045": "corrupt", "0x80080206": "corrupt", "0x80200010": "network", "0x80041310": "permission",
		"0x8004131b": "", "0x800401f9": "corrupt", "0x80190194": "network", "0x0024000b": "", "0x8028400f": "",
	} {
		entries, err := Explain(text)
		if err != nil || len(entries) == 0 {
			t.Errorf("%s: %v", text, err)
			continue
		}
		if entries[0].Class != want {
			t.Errorf("%s, %s: class %q, want %q", text, entries[0].Name, entries[0].Class, want)
		}
	}
	for _, of := range byNames() {
		if of.class != "" && nextFor[of.class] == "" {
			t.Errorf("class %q of byname.txt has no next step", of.class)
		}
	}
}

func TestHTTPStatus(t *testing.T) {
	for text, want := range map[string]string{"404": "network", "407": "network", "304": ""} {
		entries, err := Explain(text)
		if err != nil || entries[len(entries)-1].Kind != HTTP || entries[len(entries)-1].Class != want {
			t.Errorf("%s: %+v %v", text, entries, err)
		}
	}
	if e, _ := Result(0x80190197); e.Wraps == nil || e.Wraps.Value != 407 {
		t.Errorf("0x80190197: %+v", e)
	}
}

// A number means the same whether it stands alone or in an HRESULT's clothes,
// and never something that another number is.
func TestMeaningsOfTheSameNumber(t *testing.T) {
	for n, words := range map[int]string{336: "folder", 634: "file of the OS", 1221: "domain", 1364: "authentication package", 3012: "printers",
		9560: "sign that is not allowed", 14003: "not in the store", 15606: "registered", 15614: "registration", 15615: "sideloading", 15617: "policy",
		15700: "identity", 14101: "two manifests"} {
		e, ok := SystemError(n)
		if !ok || !strings.Contains(e.Meaning, words) {
			t.Errorf("%d: %q, want %q in it", n, e.Meaning, words)
		}
	}
	for _, line := range strings.Split(hresultWords, "\n") {
		key, _, _ := strings.Cut(line, "|")
		if !strings.HasPrefix(key, "8007") || len(key) != 8 {
			continue
		}
		v, err := strconv.ParseUint(key, 16, 32)
		if err != nil {
			t.Fatal(err)
		}
		whole, _ := Result(uint32(v))
		alone, known := SystemError(int(v & 0xFFFF))
		if known && !alone.ByName && alone.Class != whole.Class {
			t.Errorf("%s: %q as an HRESULT, %q alone", key, whole.Class, alone.Class)
		}
	}
	for name, want := range map[uint32]string{0x800F0241: "SPAPI_E_AUTHENTICODE_TRUSTED_PUBLISHER", 0x800F0231: "SPAPI_E_NOT_DISABLEABLE",
		0x800F0248: "SPAPI_E_DEVICE_INSTALL_BLOCKED", 0x80028018: "TYPE_E_INVDATAREAD", 0x80200013: "BG_E_INSUFFICIENT_RANGE_SUPPORT"} {
		if e, _ := Result(name); e.Name != want {
			t.Errorf("%#x: %s, want %s", name, e.Name, want)
		}
	}
	if e, _ := ExitCode(9009); e.Name != "" || e.Class != "path" {
		t.Errorf("9009 as an exit code: %q, %s", e.Name, e.Class)
	}
}
