package evidence

import (
	"strings"
	"testing"

	"hollowkey/core/logs/story"
)

// What is wanted and what was found are compared wherever they stand, and
// nothing that cannot be compared is.
func TestCompare(t *testing.T) {
	for _, tt := range []struct {
		name, class string // class is empty where nothing is amiss
		lines       []string
	}{
		{"a range", "condition", []string{"build=25398 ring=slow", "allowed_build=18362-22000"}},
		{"within a range", "", []string{"build=21390", "allowed_build=18362-22000"}},
		{"a least build", "condition", []string{"[Rules] LeastBuild=18363", "os build: 17763"}},
		{"in German", "condition", []string{"Arbeitsspeicher: 4 GB", "Mindest-Arbeitsspeicher: 8 GB"}},
		{"units of two sizes", "", []string{"ram: 16384 MB", "min_ram: 8 GB"}},
		{"units of two sizes, too little", "space", []string{"free disk: 900 MB", "required disk: 2 GB"}},
		{"a unit and none", "", []string{"ram: 8", "min ram: 4096 MB"}},
		{"a bound", "prerequisite", []string{"java: 8", "needs java = >=17"}},
		{"in Russian", "space", []string{"диск: 3 ГБ", "ok", "Минимум disk: 5 ГБ", "disk: 3 ГБ"}},
		{"a product's own build", "", []string{"build: 412", "LeastBuild=18363"}},
		{"another thing", "", []string{"cpu: 2", "min ram: 4"}},
		{"the OS's whole version", "condition", []string{"os build: 10.0.17763", "LeastBuild=18363"}},
		{"the OS's whole version, new enough", "", []string{"Windows 11 Pro 10.0.22631 x64", "LeastBuild=18363"}},
		{"forms that do not fit", "", []string{"setup build: 10.2.177", "LeastBuild=18363"}},
		{"a later find does", "", []string{"runtime: 4", "runtime: 8", "required runtime: 6"}},
		{"at most", "condition", []string{"maxBuild: 19045", "osBuild: 22631"}},
	} {
		a := &story.Attempt{Place: story.Place{File: "x", Line: 1}, LastLine: len(tt.lines), Dialect: story.Generic}
		for i, l := range tt.lines {
			a.Messages = append(a.Messages, &story.Message{Place: story.Place{File: "x", Line: i + 1}, Kind: story.KindInfo, Text: l, At: -1})
		}
		got := ""
		for _, l := range ReadRun(a, nil).lines {
			for _, c := range l.clues {
				if strings.Contains(c.What, "and it is") {
					got = c.Class
				}
			}
		}
		if got != tt.class {
			t.Errorf("%s: %q; want %q", tt.name, got, tt.class)
		}
	}
}
