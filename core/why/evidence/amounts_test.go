package evidence

import (
	"strings"
	"testing"

	"hollowkey/core/logs/ostexts"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/lexicon"
)

// Room that is wanted and room that is free, as lines of one run tell it.
func TestRooms(t *testing.T) {
	for _, c := range []struct {
		lines string
		space bool
	}{
		{"target volume D:, required 48 211 MB|free on D: 12 907 MB", true},
		{"needs 18.4 GB|9.1 GB free on C:", true},
		{"benötigt 18,4 GB|frei auf C: 9,1 GB", true},
		{"espace requis : 2 Go|disponible : 640 Mo", true},
		{"требуется 3 ГБ|свободно 1,5 ГБ", true},
		{"812 MB needed|C:\\Windows\\Temp: 96 MB available", true},
		{"Setup needs at least 2.1 GB free on drive C:, only 0.4 GB are available", true},
		{"at least 500 MB are needed on C:, found 120 MB", true},
		{"mindestens 4 GB frei auf D: nötig, nur 1,2 GB vorhanden", true},
		{"au moins 2 Go requis, seulement 300 Mo", true},
		{"at least 500 MB are needed on C:, found 900 MB", false},
		{"required 12 GB|free on C: 118 GB", false},
		{"required 12 GB|free on T: 3 GB|free on C: 118 GB", false}, // which of them is meant is not said
		{"required 8 GB of memory|4 GB of RAM free", false},
		{"copied 48,211 MB at 90 MB/s|free on D: 12 GB", false},
		{"needs 3 minutes|free of charge", false},
	} {
		a := &story.Attempt{}
		for i, text := range strings.Split(c.lines, "|") {
			a.Messages = append(a.Messages, &story.Message{Place: story.Place{Line: i + 1}, Kind: story.KindInfo, Text: text, Repeated: 1})
		}
		a.LastLine, a.Entries = len(a.Messages), len(a.Messages)
		said := false
		for _, l := range ReadRun(a, nil).lines {
			for _, x := range l.clues {
				said = said || x.Class == "space" && x.Strength == lexicon.Root
			}
		}
		if said != c.space {
			t.Errorf("%q: too little space is %v, want %v", c.lines, said, c.space)
		}
	}
}

// What was found and the least that will do, on one line.
func TestBelowLeast(t *testing.T) {
	for line, class := range map[string]string{
		"graphics driver 472.12, minimum 551.0":       "prerequisite",
		"runtime 4.1 (needs 4.6)":                     "prerequisite",
		"build 19045, required 22621":                 "condition",
		"minimum 551.0, found 472.12":                 "condition",
		"requires: 10.0.22000, has: 10.0.19045":       "condition",
		"build 22631, required 22621":                 "",
		"part 3, expected 5 parts":                    "",
		"size 115343360, expected 571604992":          "",
		"sha1 12ab, expected 77bc":                    "",
		"copied 3, needed 5 files":                    "",
		"no numbers, at least none that tell a thing": "",
	} {
		c, ok := belowLeast(line)
		if c.Class != class || ok != (class != "") {
			t.Errorf("%q: %q, %v", line, c.Class, ok)
		}
	}
}

// The OS's own words name its numbers, and only where the cause is of their
// class.
func TestCodeOfText(t *testing.T) {
	for number, words := range ostexts.All() {
		for _, p := range words {
			if p != strings.ToLower(p) {
				t.Errorf("not in small letters: %s", p)
			}
			p = strings.ReplaceAll(p, " * ", " c:\\tide ")
			found := false
			for _, class := range []string{"path", "permission", "in-use", "network", "space", "source", "prerequisite", "platform", "corrupt", "service",
				"busy", "elevation", "policy", "security-software", "leftover", "cancelled", "command-line", "registry", "custom-action", "component-store"} {
				_, is := CodeOfText("the copy failed: "+p+".", class)
				found = found || is
			}
			if !found {
				t.Errorf("%d: %q is not found in a sentence", number, p)
			}
		}
	}
	if _, ok := CodeOfText("access is denied", "network"); ok {
		t.Error("a number of another cause")
	}
}

// A name of the headers is as good as its number.
func TestConstants(t *testing.T) {
	for line, class := range map[string]string{
		"connect: wsahost_not_found":                   "network",
		"copyfile gave error_disk_full":                "space",
		"createservice: error_service_exists":          "leftover",
		"wintrust: trust_e_bad_digest":                 "corrupt",
		"the error_count is 3, status_ok, wsa_is_fine": "",
	} {
		got := ""
		for _, c := range CluesIn(line) {
			if c.Code != nil {
				got = c.Class
			}
		}
		if got != class {
			t.Errorf("%q: %q, want %q", line, got, class)
		}
	}
}
