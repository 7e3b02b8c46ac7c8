package checks

import (
	"strings"
	"testing"

	"hollowkey/core/machine/twin/twintest"
)

// on makes the checks on a twin with some registry text and site needs.
func on(t *testing.T, registry, needs string) map[string][]Finding {
	t.Helper()
	m := twintest.Make(t, map[string]string{
		"twin.yaml":            "name: T\nos: { name: Windows, version: '10.0', build: 22631, architecture: arm64, ring: dev }\ndrives: [{ letter: 'C:', kind: fixed, size: 90 GB, free: 50 GB }]\nhosts: { up.example: true, down.example: false, 'port.example:8530': true }\n",
		"access.yaml":          "'C:\\': O:SYG:SYD:(A;OICI;FA;;;WD)\n",
		"registry/machine.reg": twintest.Registry("[HKEY_LOCAL_MACHINE\\SOFTWARE]\n\n" + registry),
	})
	var err error
	opt := Options{}
	if needs != "" {
		if opt.Needs, err = ReadNeeds("site.yaml", []byte(needs)); err != nil {
			t.Fatal(err)
		}
	}
	out := map[string][]Finding{}
	for _, c := range Ready(m, opt) {
		out[c.Name] = append(out[c.Name], c)
	}
	return out
}

const soft = `[HKEY_LOCAL_MACHINE\SOFTWARE\`

func TestRuntimes(t *testing.T) {
	found := on(t, soft+`Microsoft\NET Framework Setup\NDP\v4\Full]
"Release"=dword:00080eb1

`+soft+`dotnet\Setup\InstalledVersions\arm64\sharedfx\Microsoft.NETCore.App]
"8.0.10"=dword:00000001
"6.0.36"=dword:00000001

`+soft+`WOW6432Node\Microsoft\VisualStudio\14.0\VC\Runtimes\x86]
"Version"="v14.40.33810.00"
`, "runtimes: [{ name: .NET Framework, least: '4.7.2' }, { name: .NET, least: '8.0' }, { name: .NET, least: '9.0' }, { name: C++ runtime x86, least: '14.40' }, { name: C++ runtime x64, least: '14.0' }]\n")
	if c := found["runtimes"][0]; c.Answer != Pass || c.Seen != ".NET 6.0.36, 8.0.10; .NET Framework 4.8; C++ runtime x86 14.40.33810.00" {
		t.Errorf("%+v", c)
	}
	var got []string
	for _, c := range found["site: runtime"] {
		got = append(got, string(c.Answer))
	}
	if strings.Join(got, " ") != "pass pass stop pass stop" {
		t.Errorf("%+v", found["site: runtime"])
	}
}

func TestVersions(t *testing.T) {
	for _, c := range []struct {
		v, least string
		older    bool
	}{{"4.8", "4.8", false}, {"4.8.1", "4.8", false}, {"4.7.2", "4.8", true}, {"10.0", "9.9", false}, {"9.9", "10.0", true},
		{"8", "8.0.1", false}, {"x", "1", true}} {
		if got := older(c.v, c.least); got != c.older {
			t.Errorf("%s older than %s: %v", c.v, c.least, got)
		}
	}
	for release, want := range map[string]string{"528040": "4.8", "533320": "4.8.1", "533325": "4.8.1", "461808": "4.7.2", "378389": "4.5",
		"1": "4", "new": "new"} {
		if got := frameworkVersion(release); got != want {
			t.Errorf("release %s is %s, want %s", release, got, want)
		}
	}
}

func TestHostsAndRest(t *testing.T) {
	found := on(t, soft+`Policies\Microsoft\Windows\Safer\CodeIdentifiers]
"DefaultLevel"=dword:00000000
`, "hosts: [up.example, down.example, 'port.example:8530', elsewhere.example]\n")
	var got []string
	for _, c := range found["site: host"] {
		got = append(got, string(c.Answer))
	}
	if strings.Join(got, ", ") != "pass, stop, pass, unknown" {
		t.Errorf("%+v", found["site: host"])
	}
	for name, want := range map[string]State{"software restriction": Warn, "OS": Warn, "administrator": Unknown, "clock": Unknown,
		"installer service": Stop, "other users": Pass, "PATH": Unknown} {
		if c := found[name]; len(c) != 1 || c[0].Answer != want {
			t.Errorf("%s: %+v, want %s", name, c, want)
		}
	}
	if c := found["installer service"][0]; len(c.Steps) != 1 || c.Steps[0]["installer-service"] == nil {
		t.Errorf("a missing installer service leads to %+v", c.Steps)
	}
	for _, bad := range []string{"free: much\n", "hosts: yes\n", "runtimes: [{ named: x }]\n", "os: [1]\n", strings.Repeat("#", MaxNeeds+1)} {
		if _, err := ReadNeeds("site.yaml", []byte(bad)); err == nil {
			t.Errorf("%.30q was taken", bad)
		}
	}
}

func FuzzNeeds(f *testing.F) {
	f.Add("os: { least build: 1 }\nfree: 20 GB\nruntimes: [{ name: a, least: '1.2' }]\n")
	f.Fuzz(func(t *testing.T, text string) {
		if n, err := ReadNeeds("x", []byte(text)); err == nil && n.free < 0 {
			t.Errorf("%q asks for %d bytes", text, n.free)
		}
	})
}
