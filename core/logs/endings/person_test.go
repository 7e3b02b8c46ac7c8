package endings

import (
	"os"
	"strings"
	"testing"
)

// TestAPersonStoppedIt holds the lines of a file that tell it, and those that
// only sound like it.
func TestAPersonStoppedIt(t *testing.T) {
	data, err := os.ReadFile("testdata/person.txt")
	if err != nil {
		t.Fatal(err)
	}
	_, text, _ := strings.Cut(string(data), "\n")
	told, others, ok := strings.Cut(text, "\n\n")
	if !ok {
		t.Fatal("no others")
	}
	for line := range strings.Lines(told) {
		if line = strings.TrimSpace(line); !ByPerson(line) && !Read(line).Cancelled {
			t.Errorf("%q is not told as a person's", line)
		}
	}
	for line := range strings.Lines(others) {
		if line = strings.TrimSpace(line); ByPerson(line) || Read(line).Cancelled {
			t.Errorf("%q is told as a person's", line)
		}
	}
}

func TestWhatIsTakenBackUnwinds(t *testing.T) {
	for _, line := range []string{"taking back core.dll", "removing what was copied", "Rolling back", "restored settings.ini", "setup ends", "aufräumen",
		"удаление файлов", "ロールバック", "exit code 5"} {
		if !Unwinds(line) {
			t.Errorf("%q does not", line)
		}
	}
	for _, line := range []string{"copying maps.dll", "indexing charts", "page folder", "starting KelpSvc"} {
		if Unwinds(line) {
			t.Errorf("%q does", line)
		}
	}
}
