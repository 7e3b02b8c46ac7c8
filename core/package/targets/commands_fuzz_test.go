package targets

import "testing"

// A call stands in a stranger's package: however it is written, its commands
// are bounded, and none is empty.
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

// A line of PowerShell and a script stand in a stranger's package, too:
// statements are bounded, none is empty, and a call that is found has its text.
func FuzzScripts(f *testing.F) {
	for _, s := range []string{`Get-Item 'HKLM:\A' | % { Stop-Service "B" }; exit 1`, `$x = "a;b'"`, "CreateObject(\"A.B\")\r\nr.RegRead(\"HKLM\\A\\\")",
		`new ActiveXObject('A.B');`, `Run ""`, `"`, "{|;}"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		list := statements(text)
		if len(list) > mostCommands || len(text) > mostCall && list != nil {
			t.Fatalf("%d statements of %d bytes", len(list), len(text))
		}
		for _, s := range list {
			if len(s.words) == 0 {
				t.Fatalf("%q has an empty statement", text)
			}
			providerKey(s.words[0].text)
		}
		passesOver.MatchString(text)
		for _, m := range called.FindAllStringSubmatch(text, mostCommands) {
			if len(m[3]) < 2 {
				t.Fatalf("%q: a text without its marks: %q", text, m)
			}
		}
	})
}
