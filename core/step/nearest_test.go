package step

import "testing"

func TestNearest(t *testing.T) {
	known := []string{"grant", "revoke", "registry", "remove-key", "service"}
	for word, want := range map[string]string{"grnat": "grant", "Registry": "registry", "remove_key": "remove-key",
		"sevice": "service", "xyz": "", "": "", "banana": ""} {
		if got := Nearest(word, known); got != want {
			t.Errorf("%q: %q, want %q", word, got, want)
		}
	}
}

// Every kind and every argument is explained.
func TestHelp(t *testing.T) {
	for _, k := range Kinds() {
		if k.Does() == "" {
			t.Errorf("%s: what does it do", k.Name)
		}
		for _, a := range k.Arguments() {
			if a.Means == "" {
				t.Errorf("%s: what is %s", k.Name, a.Name)
			}
		}
	}
}
