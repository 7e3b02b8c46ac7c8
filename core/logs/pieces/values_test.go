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
