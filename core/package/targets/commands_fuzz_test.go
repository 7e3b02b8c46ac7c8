package targets

import "testing"

// A call stands in a stranger's package: however it is written, its commands are bounded, and none is empty.
func FuzzCommands(f *testing.F) {
	for _, s := range []string{`/c net start Spooler || exit 2`, `add "HKLM\Software\Quay" /v A /d "1 & 2" /f`, `/c "sc start A & (reg add B) "`, `"`, `a"b`, "&&||", "\t"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, call string) {
		commands := commandsIn(call)
		if len(commands) > mostCommands || len(call) > mostCall && commands != nil {
			t.Fatalf("%d commands of %d bytes", len(commands), len(call))
		}
		for _, c := range commands {
			if len(c.words) == 0 {
				t.Fatalf("%q has an empty command", call)
			}
			nameOf(c.words[0].text)
			isTool(c.words[0].text)
		}
	})
}
