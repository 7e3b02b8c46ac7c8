package twinfile

import (
	"strings"
	"testing"
	"time"

	"go.yaml.in/yaml/v3"
)

func TestBytes(t *testing.T) {
	for in, want := range map[string]int64{
		"237 GB": 237 << 30, "1 TB": 1 << 40, "0.5 gb": 1 << 29, "61 MB": 61 << 20, "7 KB": 7 << 10, "12": 12, "": 0, "many": 0, "3 XB": 3,
	} {
		if got := Bytes(in); got != want {
			t.Errorf("Bytes(%q) = %d; want %d", in, got, want)
		}
	}
	if got := Bytes(Size(5<<30 + 100)); got != 5<<30 {
		t.Errorf("a size reads back as %d", got)
	}
}

// What is not known stays out of the file: a twin then says so, and does not
// claim a zero time or an empty list.
func TestUnknownFactsAreLeftOut(t *testing.T) {
	b, err := yaml.Marshal(About{Name: "D07"})
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"time", "booted", "elevated", "signed in", "users", "hosts", "sessions", "processes", "safe boot"} {
		if strings.Contains(string(b), name+":") {
			t.Errorf("%s stands in the file: %s", name, b)
		}
	}
	yes, now := true, time.Date(2026, 5, 4, 9, 31, 0, 0, time.UTC)
	full := About{Name: "D07", Elevated: &yes, Time: now, SignedIn: "mwhitlow", Drives: []Drive{{"C:", "fixed", "1 GB", "1 MB"}},
		Sessions: []Session{{1, "mwhitlow", "active"}}, Processes: []Process{{ID: 4, Name: "a.exe", Files: []string{`C:\x`}}}}
	if b, err = yaml.Marshal(full); err != nil {
		t.Fatal(err)
	}
	var again About
	if err := yaml.Unmarshal(b, &again); err != nil || !again.Time.Equal(now) || !*again.Elevated || again.Processes[0].Files[0] != `C:\x` ||
		again.Drives[0] != full.Drives[0] || again.Sessions[0] != full.Sessions[0] {
		t.Errorf("%+v, %v\n%s", again, err, b)
	}
}
