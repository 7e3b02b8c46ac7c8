package story_test

import (
	"strings"
	"testing"

	"hollowkey/core/logs/story"
)

func TestCall(t *testing.T) {
	for _, tt := range []struct{ line, properties, transforms string }{
		{`DESK=7 SITE="Port Ellery" CURRENTDIRECTORY=C:\Windows CLIENTUILEVEL=3 CLIENTPROCESSID=4711 `, "DESK=7|SITE=Port Ellery", ""},
		{`TRANSFORMS="C:\Deploy\a b.mst;C:\c.mst" REBOOT=ReallySuppress`, "REBOOT=ReallySuppress", `C:\Deploy\a b.mst|C:\c.mst`},
		{`QUOTE="he said ""no""" EMPTY= LAST=1`, `QUOTE=he said "no"|EMPTY=|LAST=1`, ""},
		{`PASSWORD=********** PATCH=\\quay-fs\x.msp Mixed=1`, "", ""},
		{`/qn SITE=1`, "SITE=1", ""},
		{``, "", ""}, {`no properties at all`, "", ""}, {`OPEN="without an end`, "OPEN=without an end", ""},
	} {
		p, with := story.Call(tt.line)
		if got := strings.Join(p, "|"); got != tt.properties || strings.Join(with, "|") != tt.transforms {
			t.Errorf("%s: %s, %v; want %s, %s", tt.line, got, with, tt.properties, tt.transforms)
		}
	}
}

func FuzzCall(f *testing.F) {
	f.Add(`A=1 B="x""y" TRANSFORMS=a;b`)
	f.Fuzz(func(t *testing.T, line string) {
		p, _ := story.Call(line)
		for _, one := range p {
			if name, _, ok := strings.Cut(one, "="); !ok || name == "" || name != strings.ToUpper(name) {
				t.Errorf("%q of %q", one, line)
			}
		}
	})
}
