package signs_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

// frame makes a whole log of an excerpt: what an action said before it failed.
func frame(action, excerpt string) string {
	if strings.Contains(excerpt, "=== Verbose logging started") || !engineText(excerpt) {
		return excerpt
	}
	if action == "" {
		action = "InstallExecute"
	}
	exit := "MainEngineThread is returning 1603"
	var lines []string
	for line := range strings.SplitSeq(strings.TrimSpace(excerpt), "\n") {
		switch {
		case strings.HasPrefix(line, "Note: "):
			line = "MSI (s) (A4:10) [09:12:02:500]: " + line
		case strings.HasPrefix(line, "MainEngineThread"):
			exit = line
			continue
		}
		lines = append(lines, line)
	}
	return fmt.Sprintf(`=== Verbose logging started: 5/4/2026  9:12:01  Build type: SHIP UNICODE 5.00.10011.00  Calling process: C:\Windows\System32\msiexec.exe ===
MSI (s) (A4:10) [09:12:01:000]: Doing action: INSTALL
Action 9:12:01: INSTALL. 
Action start 9:12:01: INSTALL.
MSI (s) (A4:10) [09:12:02:000]: Doing action: %[1]s
Action start 9:12:02: %[1]s.
%[2]s
Action ended 9:12:03: %[1]s. Return value 3.
Action ended 9:12:03: INSTALL. Return value 3.
MSI (s) (A4:10) [09:12:04:000]: %[3]s
=== Verbose logging stopped: 5/4/2026  9:12:04 ===
`, action, strings.Join(lines, "\n"), exit)
}

// otherLog begins an excerpt that is a whole log of another dialect.
var otherLog = regexp.MustCompile(`^(?:\[|\{|\d{4}[-/]|>>>|time=|Add-|<Event|Level,|Log Name)`)

func engineText(excerpt string) bool { return !otherLog.MatchString(excerpt) }

func judge(t *testing.T, pack *signs.Pack, text string) *verdict.Verdict {
	t.Helper()
	v, err := verdict.Reach(context.Background(), verdict.Input{Name: "excerpt.log", Text: strings.NewReader(text)},
		verdict.Options{Signs: pack})
	if err != nil {
		t.Fatalf("%v\n%s", err, text)
	}
	return v
}

// Every sign is shown what it must see and what it must not.
func TestEverySign(t *testing.T) {
	pack, err := signs.Load(os.DirFS("."))
	if err != nil {
		t.Fatal(err)
	}
	if len(pack.Signs) < 150 {
		t.Errorf("%d signs, want at least 150", len(pack.Signs))
	}
	for _, s := range pack.Signs {
		for i, excerpt := range s.Tests.Match {
			v := judge(t, pack, frame(s.Tests.Action, excerpt))
			if v.Sign != s.ID {
				t.Errorf("%s: match %d was taken for %q (%s, %.2f)", s.ID, i+1, v.Sign, v.Cause.Summary, v.Cause.Confidence)
				continue
			}
			if *v.Cause.Class != s.Class || len(v.Remedies) == 0 || strings.Contains(v.Cause.Summary, "{") {
				t.Errorf("%s: match %d: class %s, %d remedies, summary %q", s.ID, i+1, *v.Cause.Class, len(v.Remedies), v.Cause.Summary)
			}
			if strings.Contains(v.Cause.Summary+v.Cause.Title, "?") && !strings.Contains(excerpt, "?") && !strings.Contains(s.Explanation, "?") {
				t.Errorf("%s: match %d leaves a gap: %q, %q", s.ID, i+1, v.Cause.Title, v.Cause.Summary)
			}
		}
		for i, excerpt := range s.Tests.NearMiss {
			if v := judge(t, pack, frame(s.Tests.Action, excerpt)); v.Sign == s.ID {
				t.Errorf("%s: near miss %d was taken for it", s.ID, i+1)
			}
		}
	}
}

// The embedded signs are those of the YAML files.
func TestPackIsUpToDate(t *testing.T) {
	pack, err := signs.Load(os.DirFS("."))
	if err != nil {
		t.Fatal(err)
	}
	want, err := pack.Pack()
	if err != nil {
		t.Fatal(err)
	}
	if got, err := os.ReadFile("pack.json"); err != nil || string(got) != string(want) {
		t.Errorf("pack.json is out of date (%v); run: go generate ./core/why/signs", err)
	}
	if got, err := os.ReadFile("numbers.txt"); err != nil || string(got) != string(pack.Numbers()) {
		t.Errorf("numbers.txt is out of date (%v); run: go generate ./core/why/signs", err)
	}
	if known := signs.ForNumber(1327); len(known) < 2 || known[0].Class != "path" {
		t.Errorf("behind 1327: %v", known)
	}
}

func TestSiteFolder(t *testing.T) {
	const site = `- id: berth-licence
  title: No licence for {product|Berthline}
  class: condition
  strength: 0.99
  seen: [{ text: ['no berth licence left for (?P<host>\S+)'] }]
  subject: { kind: host, name: '{host}' }
  explanation: All licences are taken.
  remedies: [{ class: advice, title: free a licence }]
  tests: { match: [x], nearMiss: [y] }
`
	dir := t.TempDir()
	write := func(text string) {
		if err := os.WriteFile(filepath.Join(dir, "port.yaml"), []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	write(site)
	pack, err := signs.WithSite(dir)
	if err != nil {
		t.Fatal(err)
	}
	v := judge(t, pack, frame("CheckLicence", "CheckLicence: no berth licence left for ELLERY-D07"))
	if v.Sign != "berth-licence" || v.Cause.Subject == nil || v.Cause.Subject.Name != "ELLERY-D07" {
		t.Errorf("the site's sign gave %q, %+v", v.Sign, v.Cause)
	}
	for _, tt := range []struct{ name, from, to, want string }{
		{"unknown key", "explanation:", "explanatoin:",
			`port.yaml:7: the key "explanatoin" is not known` + "\nhint: the nearest known key is \"explanation\""},
		{"unknown class", "class: condition", "class: weather", `the class "weather" is not one of`},
		{"bad expression", "(?P<host>", "(?P<host", "error parsing regexp"},
		{"no tests", "tests: { match: [x], nearMiss: [y] }", "tests: {}", "at least one match and one nearMiss"},
		{"broken YAML", "seen: [", "seen: [[", "port.yaml:"},
	} {
		write(strings.Replace(site, tt.from, tt.to, 1))
		if _, err := signs.WithSite(dir); err == nil || !strings.Contains(err.Error(), tt.want) {
			t.Errorf("%s: got %v, want %q", tt.name, err, tt.want)
		}
	}
}

func TestFill(t *testing.T) {
	caps := map[string]string{"service": "BerthSync"}
	for _, tt := range []struct{ in, want, missing string }{
		{"{service} stopped", "BerthSync stopped", ""},
		{"{host|a host} and {service|x}", "a host and BerthSync", ""},
		{"{host|{service|x}}", "BerthSync", ""},
		{"{host|{drive|}}", "", ""},
		{"{drive}: gone", "?: gone", "drive"},
		{"{7AAF4542-E6AE} {", "{7AAF4542-E6AE} {", ""},
	} {
		got, missing := signs.Fill(tt.in, caps)
		if got != tt.want || strings.Join(missing, " ") != tt.missing {
			t.Errorf("Fill(%q) = %q, %v; want %q, %s", tt.in, got, missing, tt.want, tt.missing)
		}
	}
}

func FuzzLoad(f *testing.F) {
	f.Add("- id: a\n  title: b\n")
	f.Fuzz(func(t *testing.T, in string) {
		dir := t.TempDir()
		if err := os.WriteFile(filepath.Join(dir, "a.yaml"), []byte(in), 0o600); err != nil {
			t.Skip()
		}
		if p, err := signs.Load(os.DirFS(dir)); err == nil {
			p.Match(signs.Scene{Attempt: nil})
		}
	})
}
