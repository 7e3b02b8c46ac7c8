package checks_test

import (
	"strings"
	"testing"

	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/why/checks"
)

// A name that is not known and a host that does not answer are two things to
// mend, and a full drive is another when one beside it has room.
func TestWhatTheNetworkAndTheDrivesLack(t *testing.T) {
	m := twintest.Make(t, map[string]string{
		"twin.yaml": "name: D02\nos: { name: Windows, version: '10.0', build: 19045, architecture: x64 }\n" +
			"drives: [{ letter: 'C:', kind: fixed, size: 100 GB, free: 20 MB }, { letter: 'E:', kind: removable, size: 64 GB, free: 60 GB }, { letter: 'F:', kind: fixed, size: 100 GB, free: 50 GB }]\n" +
			"hosts: { gate.ellery.example: false, tide.ellery.example: true }\nunresolved hosts: [charts.ellery.example]\n",
		"registry/user.reg": "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_CURRENT_USER\\Software\\Microsoft\\Windows\\CurrentVersion\\Internet Settings]\r\n" +
			"\"ProxyEnable\"=dword:00000001\r\n\"ProxyServer\"=\"proxy.ellery.example:8080\"\r\n",
	})
	for _, c := range []struct {
		check, key, value string
		answer            checks.State
		mend, not         string
	}{
		{"host-reachable", "host", "charts.ellery.example", checks.Stop, "name server", "firewall"},
		{"host-reachable", "host", "charts.ellery.example:8443", checks.Stop, "name server", "firewall"},
		{"host-reachable", "host", "gate.ellery.example", checks.Stop, "firewall", "name server"},
		{"host-reachable", "host", "gate.ellery.example", checks.Stop, "proxy.ellery.example:8080; services do not use it", "name server"},
		{"host-reachable", "host", "tide.ellery.example", checks.Pass, "", ""},
		{"host-reachable", "host", "else.ellery.example", checks.Unknown, "", ""},
		{"space-at", "path", `C:\Planner`, checks.Stop, `set TEMP=F:\Temp`, "E:"},
		{"space-at", "path", `F:\Planner`, checks.Pass, "", "TEMP"},
	} {
		f := checks.Ask(m, c.check, map[string]string{c.key: c.value})
		if f.Answer != c.answer || !strings.Contains(f.Mend, c.mend) || c.not != "" && strings.Contains(f.Mend, c.not) {
			t.Errorf("%s %s: %+v; want %s with %q and without %q", c.check, c.value, f, c.answer, c.mend, c.not)
		}
	}
}
