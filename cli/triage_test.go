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
	if list.Total.Machines != 3 || list.Total.Failed != 5 || len(list.Causes) != 2 || list.Causes[0].Class != "service" || list.Causes[0].Machines != 3 || list.Causes[1].Machines != 2 {
		t.Fatalf("%+v", list)
	}
	id := list.Causes[0].ID
	text := mustRun(t, dir, 0, "triage", "cause", id[:5], "--machines").out
	for _, want := range []string{"BerthSync", "3 attempts on 3 machines", "ellery-d11, ellery-d12, ellery-d13", "Error 1920", "hollowkey why collected"} {
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
	if r := mustRun(t, dir, 0, "triage", "compare", "product=Tidebook*", "product=Pilot*"); !strings.Contains(r.out, "3 machines of product=Tidebook*, and 2 machines") {
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
	for want, there := range map[string]bool{"5 setups failed on 3 machines": true, "BerthSync": true, id: true, "machine 1": true, "ellery-d1": false, "ELLERY-D1": false, "mwhitlow": false, "http://": false, "src=": false} {
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
	if r := mustRun(t, dir, 3, "triage", "add", "collected"); !strings.Contains(r.out, "1 file could not be read") || !strings.Contains(r.out, "broken.zip") {
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
