package evidence

import (
	"strings"
	"testing"
)

// What two values of one line tell, and what only looks like it.
func TestComparedIn(t *testing.T) {
	long := `C:\Quay\` + strings.Repeat(`a long folder\`, 20)
	for line, want := range map[string]string{
		"core.pkg: sha256 is 3f11ab02, manifest says 8ac0dd01":  "corrupt",
		"core.pkg: sha256 is 3f11ab02, manifest says 3f11ab02":  "",
		"core.pkg: sha256 3f11ab02..., listed 3f11ab02ffee0011": "",
		"md5 91ab02 expected 77fe10":                            "corrupt",
		"hash of 12 files done in 41 ms":                        "",
		"crc32 0x1f2e3d4c != 0x1f2e3d4d":                        "corrupt",
		"full.pkg ended after 11842112 of 48211233 bytes":       "corrupt",
		"got 1200 bytes, expected 48000 bytes":                  "corrupt",
		"received 48000 of 48000 bytes":                         "",
		"read 12 mb of 48 mb":                                   "corrupt",
		"copied 12 of 48 files":                                 "",
		"cannot create " + long + "x.txt":                       "path",
		`cannot create \\?\` + long + "x.txt":                   "",
		`cannot create C:\Quay\x.txt`:                           "",
	} {
		got := ""
		for _, c := range comparedIn(line, strings.ToLower(line)) {
			got += c.Class
		}
		if got != want {
			t.Errorf("%s: %q, want %q", line, got, want)
		}
	}
}

// A thing and its state, wherever they stand in the line; words within paths
// are none.
func TestGuessed(t *testing.T) {
	for line, want := range map[string]string{
		"tide.pkg carries no signature":                              "corrupt",
		"cdn.saltmarsh.example: certificate is for *.ellery.example": "network",
		"l'empreinte ne correspond pas":                              "corrupt",
		"the logon of the account failed":                            "service",
		"die anmeldung des dienstkontos ist fehlgeschlagen":          "service",
		"the runtime that is needed is missing":                      "prerequisite",
		"写入文件被拒绝":                                                    "permission",
		`c:\cab\missing\no.txt`:                                      "",
		"everything is in order":                                     "",
		"certificate installed":                                      "",
	} {
		c, ok := guessed(line)
		if c.Class != want || ok != (want != "") || ok && !c.Guess {
			t.Errorf("%s: %q, want %q", line, c.Class, want)
		}
	}
}

// Each class of pairs.txt is one that there is, with things and states that it
// names.
func TestPairsAreWhole(t *testing.T) {
	p := allPairs()
	if len(p.classes) < 20 || len(p.words) < 500 {
		t.Fatalf("%d classes, %d words", len(p.classes), len(p.words))
	}
	for _, c := range p.classes {
		if titleless[c.class] || len(c.things) == 0 || len(c.states) == 0 {
			t.Errorf("%s: %d things, %d states", c.class, len(c.things), len(c.states))
		}
	}
	for i, w := range p.words {
		if w != strings.ToLower(w) || strings.TrimSpace(w) != w {
			t.Errorf("%q is not in small letters, or has blanks around it (meaning %d)", w, p.of[i])
		}
	}
}

// titleless are words that are no class of a cause.
var titleless = map[string]bool{"": true, "thing": true, "state": true}
