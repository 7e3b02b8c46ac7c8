package checks

import (
	"strings"
	"testing"

	"hollowkey/core/machine/twin/twintest"
)

// gates is an INI file as a vendor's setup reads it.
const gatesINI = "; which machines are let in\r\n[Versions]\r\nOldest=17763\r\nNewest=19045\r\n\r\n" +
	"[Rights]\r\nAllowServer=no\r\nAllowLaptop=yes\r\nForce=\r\n\r\n[Names]\r\nSite=Harbour\r\nNewest=beta\r\n"

// What an INI gate says, and what it offers to set.
func TestINIGate(t *testing.T) {
	m := twintest.Make(t, map[string]string{"twin.yaml": "name: T\nelevated: true\n",
		"disk/C/Deploy/gate.ini": gatesINI, "disk/C/Deploy/odd.ini": "[A\r\nno pair at all\r\n",
		"disk/C/Deploy/truth.ini": "[Gate]\r\nSkipSpace=false\r\nBypass=\r\n"})
	for _, tt := range []struct {
		name string
		with map[string]string
		want State
		set  string // section|key|value of the step
		seen string // a part of what it saw
	}{
		{"a limit, by section and key", map[string]string{"section": "Versions", "key": "Newest", "found": "26100"}, Stop,
			"Versions|Newest|26100", "is 19045"},
		{"the key that holds the bound", map[string]string{"bound": "17763", "found": "16299"}, Stop, "Versions|Oldest|16299", "is 17763"},
		{"a bound that no key holds", map[string]string{"bound": "15063", "found": "14393"}, Unknown, "", "no key"},
		{"nothing to go by", map[string]string{"found": "14393"}, Unknown, "", "no key"},
		{"a key that one section has", map[string]string{"key": "Oldest", "found": "16299"}, Stop, "Versions|Oldest|16299", "[Versions]"},
		{"a key that two sections have", map[string]string{"key": "Newest", "found": "26100"}, Unknown, "", "no key"},
		{"a yes in the file's own words", map[string]string{"section": "Rights", "key": "AllowServer"}, Stop, "Rights|AllowServer|yes", "is no"},
		{"a yes that is there already", map[string]string{"section": "Rights", "key": "AllowLaptop"}, Pass, "", "already"},
		{"an empty value beside yes and no", map[string]string{"section": "Rights", "key": "Force"}, Stop, "Rights|Force|yes", `is `},
		{"a key that is not there yet", map[string]string{"section": "Rights", "key": "SkipMemory"}, Stop, "Rights|SkipMemory|yes", "is not set"},
		{"true and false", map[string]string{"file": "truth.ini", "section": "Gate", "key": "SkipSpace"}, Stop,
			"Gate|SkipSpace|true", "is false"},
		{"a limit and nothing found", map[string]string{"section": "Versions", "key": "Newest"}, Unknown, "", "not known"},
		{"a name is no gate", map[string]string{"section": "Names", "key": "Site", "found": "Quay"}, Unknown, "", "not known"},
		{"no such file", map[string]string{"file": "none.ini", "section": "A", "key": "B"}, Unknown, "", "none.ini"},
		{"a file that is none", map[string]string{"file": "odd.ini", "section": "A", "key": "AllowB"}, Stop, "A|AllowB|1", "is not set"},
	} {
		with := map[string]string{"file": `C:\Deploy\gate.ini`}
		for k, v := range tt.with {
			if k == "file" {
				v = `C:\Deploy\` + v
			}
			with[k] = v
		}
		f := Ask(m, "ini-gate", with)
		if f.Answer != tt.want || !strings.Contains(f.Seen, tt.seen) {
			t.Errorf("%s: %s, %q; want %s, %q", tt.name, f.Answer, f.Seen, tt.want, tt.seen)
		}
		set := ""
		if len(f.Steps) == 1 {
			ini := f.Steps[0]["ini"]
			set = ini["section"] + "|" + ini["key"] + "|" + ini["value"]
		}
		if set != tt.set {
			t.Errorf("%s: sets %q, want %q", tt.name, set, tt.set)
		}
	}
}

// Where administrators may not write the file, no step is offered that would
// fail: a copy of the folder is.
func TestINIGateThatNobodyMayWrite(t *testing.T) {
	m := twintest.Make(t, map[string]string{"twin.yaml": "name: T\nelevated: true\n", "disk/C/Deploy/gate.ini": gatesINI,
		"access.yaml": "'C:\\Deploy\\gate.ini': O:SYG:SYD:P(A;;FA;;;SY)(A;;FR;;;BA)\n"})
	f := Ask(m, "ini-gate", map[string]string{"file": `C:\Deploy\gate.ini`, "section": "Versions", "key": "Newest", "found": "26100"})
	if f.Answer != Stop || len(f.Steps) != 0 || !strings.Contains(f.Seen, "may not write") || !strings.Contains(f.Mend, "copy=FOLDER") {
		t.Errorf("%s, %q, %q, %d steps", f.Answer, f.Seen, f.Mend, len(f.Steps))
	}
}
