package pieces

import "testing"

func TestValueBehind(t *testing.T) {
	for s, want := range map[string]string{
		"=0": "0", " = 0": "0", ": no": "no", `": false, "x": 1`: "false", `":"none"}`: "none", ": no.": "no", ": nein (geprüft)": "nein",
		"：なし": "なし", "s: 0": "0", "=0;": "0", ": 0 bytes": "", ": 0.5": "", " no": "", "": "", ": ": "", " = 0 of 14": "", ": yes": "yes",
	} {
		if got := ValueBehind(s); got != want {
			t.Errorf("behind %q stands %q, want %q", s, got, want)
		}
	}
	if !IsNo("false") || IsNo("true") || !IsYes("true") || IsYes("0") || IsNo("") || IsYes("") {
		t.Error("no and yes are mixed up")
	}
}

func TestDenied(t *testing.T) {
	for _, tt := range []struct {
		phrase, behind string
		want           bool
	}{
		{"reboot pending", ": no", true}, {"sharing violation", "s: 0", true}, {"sharing violation", " on a.dll", false},
		{"quarantine", ": 0 files", true}, {"free", ": 0 bytes", false}, {"quarantine", " 0 files", false},
		{"invalid value", ": no", false}, {"cannot find drive", ": n", false}, {"runtime not found", ": none", false},
	} {
		if got := Denied(tt.phrase, tt.behind); got != tt.want {
			t.Errorf("%q with %q behind is denied: %v", tt.phrase, tt.behind, got)
		}
	}
}
