package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// Logs of a folder per machine are read into a store, asked, and forgotten.
func TestTriage(t *testing.T) {
	dir := layOut(t)
	for _, host := range []string{"ELLERY-D11", "ELLERY-D12", "ELLERY-D13"} {
		at := filepath.Join(dir, "collected", host)
		if err := os.MkdirAll(at, 0o755); err != nil {
			t.Fatal(err)
		}
		for _, log := range []string{"tidebook.log", "roster.log"} {
			b, err := os.ReadFile(filepath.Join(dir, log))
			if err != nil {
				t.Fatal(err)
			}
			if log == "roster.log" && host == "ELLERY-D13" {
				continue
			}
			text := strings.ReplaceAll(string(b), "E\x00L\x00L\x00E\x00R\x00Y\x00-\x00D\x000\x007\x00", wide(host))
			text = strings.ReplaceAll(text, "ELLERY-D07", host)
			write(t, at, log, text)
		}
	}
	type top struct {
		Total  struct{ Attempts, Failed, Machines, Causes int }
		Causes []struct {
			ID, Class, Title   string
			Machines, Attempts int
		}
	}
	if r := mustRun(t, dir, 1, "triage", "top"); !strings.Contains(r.err, "triage add") {
		t.Errorf("without a store: %s", r.err)
	}
	if r := mustRun(t, dir, 0, "triage", "add", "collected"); !strings.Contains(r.out, "5 logs read") {
		t.Error(r.out)
	}
	if r := mustRun(t, dir, 0, "triage", "add", "collected"); !strings.Contains(r.out, "0 logs read, 5 known before") {
		t.Error(r.out)
	}
	list := decode[top](t, mustRun(t, dir, 0, "triage", "top", "--json").out)
	if list.Total.Machines != 3 || list.Total.Failed != 5 || len(list.Causes) != 2 ||
		list.Causes[0].Class != "service" || list.Causes[0].Machines != 3 || list.Causes[1].Machines != 2 {
		t.Fatalf("%+v", list)
	}
	id := list.Causes[0].ID
	text := mustRun(t, dir, 0, "triage", "cause", id[:5], "--machines").out
	for _, want := range []string{"BerthSync", "3 attempts on 3 machines", "ellery-d11, ellery-d12, ellery-d13",
		"Error 1920", "hollowkey why collected"} {
		if !strings.Contains(text, want) {
			t.Errorf("the cause lacks %q:\n%s", want, text)
		}
	}
	if r := mustRun(t, dir, 0, "triage", "machine", "ellery-D12"); strings.Count(r.out, "failed") != 2 {
		t.Error(r.out)
	}
	mustRun(t, dir, 3, "triage", "machine", "ELLERY-D99")
	mustRun(t, dir, 3, "triage", "cause", "zz")
	mustRun(t, dir, 0, "triage", "new")
	mustRun(t, dir, 3, "triage", "new", "--since", "2099-01-01")
	mustRun(t, dir, 2, "triage", "new", "--since", "soon")
	if r := mustRun(t, dir, 0, "triage", "compare", "product=Tidebook*", "product=Pilot*"); !strings.Contains(r.out,
		"3 machines of product=Tidebook*, and 2 machines") {
		t.Error(r.out)
	}
	if r := mustRun(t, dir, 0, "triage", "top", "--product", "pilot*", "--csv"); strings.Count(r.out, "\n") != 2 {
		t.Error(r.out)
	}
	mustRun(t, dir, 0, "triage", "page", "--out", "week.html")
	mustRun(t, dir, 2, "triage", "page", "--out", "week.html")
	b, err := os.ReadFile(filepath.Join(dir, "week.html"))
	if err != nil {
		t.Fatal(err)
	}
	for want, there := range map[string]bool{"5 setups failed on 3 machines": true, "BerthSync": true, id: true,
		"machine 1": true, "ellery-d1": false, "ELLERY-D1": false, "mwhitlow": false, "http://": false, "src=": false} {
		if strings.Contains(string(b), want) != there {
			t.Errorf("the page: %q there: %v", want, !there)
		}
	}
	mustRun(t, dir, 1, "triage", "forget", "--machine-name", "ELLERY-D12")
	mustRun(t, dir, 0, "triage", "forget", "--machine-name", "ELLERY-D12", "--preview")
	mustRun(t, dir, 0, "triage", "forget", "--machine-name", "ELLERY-D12", "--yes")
	if list := decode[top](t, mustRun(t, dir, 0, "triage", "top", "--json").out); list.Total.Machines != 2 {
		t.Errorf("after forgetting: %+v", list.Total)
	}
	write(t, filepath.Join(dir, "collected"), "broken.zip", "PK\x03\x04")
	if r := mustRun(t, dir, 3, "triage", "add", "collected"); !strings.Contains(r.out, "1 file could not be read") ||
		!strings.Contains(r.out, "broken.zip") {
		t.Error(r.out)
	}
}

// wide is a text in UTF-16LE.
func wide(text string) string {
	var b strings.Builder
	for _, c := range []byte(text) {
		b.WriteByte(c)
		b.WriteByte(0)
	}
	return b.String()
}

// Zips in which names are masked still count their machines, by a pseudonym
// that the site's key makes; without a key by the name of the zip.
func TestGatheredZipsCountMachines(t *testing.T) {
	dir := layOut(t)
	b, err := os.ReadFile(filepath.Join(dir, "tidebook.log"))
	if err != nil {
		t.Fatal(err)
	}
	write(t, dir, "site.key", "a made-up key of the harbour office\n")
	if err := os.Mkdir(filepath.Join(dir, "zips"), 0o755); err != nil {
		t.Fatal(err)
	}
	for n, host := range []string{"ELLERY-D21", "ELLERY-D22", "ELLERY-D21"} {
		name := "log-" + string(rune('a'+n))
		write(t, dir, name+".log", strings.ReplaceAll(string(b), wide("ELLERY-D07"), wide(host))+wide("\n; once more "+strings.Repeat("i", n)))
		r := run(t, dir, []string{"HOLLOWKEY_SITE_KEY=" + filepath.Join(dir, "site.key")}, "gather", name+".log",
			"--out", filepath.Join("zips", string(rune('a'+n))+".zip"), "--json")
		var rep struct{ Machine string }
		if rep = decode[struct{ Machine string }](t, r.out); !strings.HasPrefix(rep.Machine, "machine-") || strings.Contains(r.out, host) {
			t.Fatalf("%d: %s%s", r.code, r.out, r.err)
		}
	}
	mustRun(t, dir, 0, "triage", "add", "zips")
	sum := decode[struct {
		Total  struct{ Attempts, Machines, Causes int }
		Causes []struct{ Title string }
	}](t, mustRun(t, dir, 0, "triage", "top", "--json").out)
	if sum.Total.Attempts != 3 || sum.Total.Machines != 2 || sum.Total.Causes != 1 {
		t.Errorf("%+v", sum)
	}
	write(t, dir, "short.key", "abc")
	if r := run(t, dir, []string{"HOLLOWKEY_SITE_KEY=" + filepath.Join(dir, "short.key")}, "gather", "tidebook.log",
		"--out", "x.zip"); r.code != 1 || !strings.Contains(r.err, "at least 16") {
		t.Errorf("%d %s", r.code, r.err)
	}
}

// The demo of many logs runs, and what it shows holds.
func TestDemoFleet(t *testing.T) {
	dir := t.TempDir()
	out := mustRun(t, dir, 0, "demo", "fleet").out
	for _, want := range []string{"300 logs read", "Cases: 2, with 2 tried remedies",
		"The service BerthSync did not start", "helped in 2 of 2", "on this machine on 2026-05-05", "WRITTEN"} {
		if !strings.Contains(out, want) {
			t.Errorf("it lacks %q:\n%s", want, out)
		}
	}
	mustRun(t, dir, 0, "demo", "fleet") // again, over what it made
	if err := os.Remove(filepath.Join(dir, "hollowkey-fleet", "made-by-hollowkey-demo-fleet.txt")); err != nil {
		t.Fatal(err)
	}
	mustRun(t, dir, 1, "demo", "fleet")
	store := filepath.Join("hollowkey-fleet", "fleet.db")
	type top struct {
		Causes []struct {
			ID       string
			Machines int
		}
	}
	list := decode[top](t, mustRun(t, dir, 0, "triage", "top", "--limit", "100", "--store", store, "--json").out)
	first, second, third := list.Causes[0], list.Causes[1], list.Causes[2]
	mustRun(t, dir, 0, "triage", "join", second.ID[:6], third.ID, "--store", store)
	joined := decode[top](t, mustRun(t, dir, 0, "triage", "top", "--limit", "100", "--store", store, "--json").out)
	if len(joined.Causes) != len(list.Causes)-1 || joined.Causes[1].Machines <= second.Machines {
		t.Errorf("joined: %+v", joined)
	}
	if parted := decode[struct {
		Done  string
		Count int
	}](t, mustRun(t, dir, 0, "triage", "part", third.ID, "--store", store, "--json").out); parted.Done != "parted" || parted.Count != 1 {
		t.Errorf("%+v", parted)
	}
	mustRun(t, dir, 3, "triage", "part", third.ID, "--store", store)
	if csv := mustRun(t, dir, 0, "triage", "cause", first.ID,
		"--store", store, "--csv").out; !strings.Contains(csv, "build,22631") || !strings.Contains(csv, "helped,") {
		t.Errorf("the cause as CSV: %s", csv)
	}
	// With a store configured, closing a case teaches it.
	if r := run(t, dir, []string{"HOLLOWKEY_STORE=own.db"}, "case", "close", "--outcome", "solved",
		"--case", filepath.Join("hollowkey-fleet", "logs", "case-2")); r.code != 0 {
		t.Fatalf("%s%s", r.out, r.err)
	}
	if r := run(t, dir, []string{"HOLLOWKEY_STORE=own.db"}, "why",
		filepath.Join("hollowkey-fleet", "logs", "ELLERY-D32", "rollout-00148.log"),
		"--width", "120"); !strings.Contains(r.out, "helped in 1 of 1") {
		t.Errorf("%s%s", r.out, r.err)
	}
	if r := run(t, dir, []string{"HOLLOWKEY_STORE=none.db"}, "why",
		filepath.Join("hollowkey-fleet", "logs", "ELLERY-D32", "rollout-00148.log")); r.code != 3 ||
		!strings.Contains(r.out, "could not be asked") {
		t.Errorf("%d %s", r.code, r.out)
	}
	write(t, dir, "rules.yaml", "rules:\n  - {name: all services, what: 'berthsync|harbourrelay', by: '{service}'}\n")
	if r := mustRun(t, dir, 0, "triage", "fold", "--rules", "rules.yaml", "--store", store); !strings.Contains(r.out, "DONE") {
		t.Error(r.out)
	}
	tried := decode[struct {
		Tried []struct{ Helped, Times int }
		Next  []struct{ Machines int }
	}](t, mustRun(t, dir, 0, "triage", "cause",
		decode[top](t, mustRun(t, dir, 0, "triage", "top", "--store", store, "--json").out).Causes[0].ID, "--store", store, "--json").out)
	if len(tried.Tried) != 1 || tried.Tried[0].Helped != 2 || len(tried.Next) == 0 {
		t.Errorf("after folding anew: %+v (the first was %s)", tried, first.ID)
	}
}
