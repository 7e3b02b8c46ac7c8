package signs_test

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
	"hollowkey/core/why/workshop"
)

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
	trials, err := workshop.Try(t.Context(), pack, pack.Signs)
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range trials {
		for _, fault := range x.Faults {
			t.Errorf("%s: %s", x.ID, fault)
		}
	}
}

// The embedded signs are those of the YAML files.
func TestPackIsUpToDate(t *testing.T) {
	pack, err := signs.Load(os.DirFS("."))
	if err != nil {
		t.Fatal(err)
	}
	want, texts, err := pack.Pack()
	if err != nil {
		t.Fatal(err)
	}
	for name, want := range map[string][]byte{"pack.json": want, "texts.jsonl": texts, "numbers.txt": pack.Numbers(), "needs.txt": pack.Needs()} {
		if got, err := os.ReadFile(name); err != nil || !bytes.Equal(got, want) {
			t.Errorf("%s is out of date (%v); run: go generate ./core/why/signs", name, err)
		}
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
	v := judge(t, pack, workshop.Frame("CheckLicence", "CheckLicence: no berth licence left for ELLERY-D07"))
	if v.Sign != "berth-licence" || v.Cause.Subject == nil || v.Cause.Subject.Name != "ELLERY-D07" {
		t.Errorf("the site's sign gave %q, %+v", v.Sign, v.Cause)
	}
	for _, tt := range []struct{ name, from, to, want string }{
		{"unknown key", "explanation:", "explanatoin:",
			`port.yaml:7: the key "explanatoin" is not known` + "\nhint: did you mean explanation?"},
		{"unknown class", "class: condition", "class: weather", `the class "weather" is not one of`},
		{"bad expression", "(?P<host>", "(?P<host", "error parsing regexp"},
		{"no tests", "tests: { match: [x], nearMiss: [y] }", "tests: {}", "at least one match and one nearMiss"},
		{"a built-in sign's ID", "id: berth-licence", "id: service-timeout", "is built in"},
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
