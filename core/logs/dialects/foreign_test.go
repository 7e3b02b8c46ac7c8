package dialects

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// TestNoLogs: texts about setups, and programs that speak of them, are no logs
// of one.
func TestNoLogs(t *testing.T) {
	top := filepath.Join("..", "..", "..")
	var names []string
	for _, pattern := range []string{"README.md", "docs/*.md", "cmd/hollowkey/*.go", "cli/*.go", "core/fix/*.go",
		"core/prove/retry/*.go", "scripts/bench", "scripts/*.py"} {
		found, err := filepath.Glob(filepath.Join(top, filepath.FromSlash(pattern)))
		if err != nil || len(found) == 0 {
			t.Fatal(pattern, err)
		}
		names = append(names, found...)
	}
	taken := 0
	for _, name := range names {
		b, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		s, err := Read(context.Background(), name, strings.NewReader(string(b)), textfile.Options{})
		if errors.Is(err, ErrNoLog) {
			continue
		}
		if err != nil {
			t.Fatal(err)
		}
		taken++
		if a := s.Last(); a != nil && a.Success != nil {
			t.Errorf("%s is taken for the log of a setup that went well or not: %v", name, *a.Success)
		}
	}
	if taken*20 > len(names) { // one that quotes a whole log can hardly be told from one
		t.Errorf("%d of %d texts are taken for logs", taken, len(names))
	}
}

// TestCutLogs: a log that was cut is still what it is, and did not work because
// other parts of it did.
func TestCutLogs(t *testing.T) {
	numbered := strings.Repeat("1 silly place dep omtoror@9.4.9 OK for: studio\n2 verbose no lock file beside the profile\n3 http fetch GET 200\n", 40) +
		"4 info setup of the studio\n5 verbose stack FetchError: request failed, reason: connect ECONNREFUSED 127.0.0.1:443\n6 verbose stack     at Client"
	servicing := strings.Repeat("2026-05-04 09:12:01, Info                  CBS    Appl: detectParent: package: Harbour-Client~31bf~amd64~~10.0, no parent found\n", 60) +
		"2026-05-04 09:12:02, Info                  CBS    Appl: detectPa"
	for name, c := range map[string]struct {
		log     string
		dialect story.Dialect
	}{"numbered lines": {numbered, story.Generic}, "servicing": {servicing, story.Servicing}} {
		s, err := Read(context.Background(), name, strings.NewReader(c.log), textfile.Options{})
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if a := s.Last(); s.Dialect != c.dialect || a.Success != nil && *a.Success || !s.Sources[0].Unended {
			t.Errorf("%s: read as %s, success %v", name, s.Dialect, a.Success)
		}
	}
}

// TestBehindAnotherProgram: what stands behind another program's output, or in
// other clothes, is read as what it is.
func TestBehindAnotherProgram(t *testing.T) {
	var head strings.Builder
	for i := range 420 {
		if i%3 == 0 {
			head.WriteString("inventory: 7 components seen, cache warm\n")
		} else {
			head.WriteString("deploy: step 2 of 400 prepared\n")
		}
	}
	table := `"Time","Sev","Module","Event","Detail"` + "\n" +
		strings.Repeat(`"04/05/2026 09:12:01.807","I","Shell","COPY","tide.dll copied"`+"\n", 20) +
		`"04/05/2026 09:12:09.001","E","Shell","END","Setup failed with exit code 1603"` + "\n"
	document := "{\n  \"product\": \"Tidebook Desk\",\n  \"events\": [\n" +
		strings.Repeat("    {\"t\": \"2026-05-04T09:12:01\", \"severity\": \"info\", \"text\": \"copied\"},\n", 20) +
		"    {\"t\": \"2026-05-04T09:12:09\", \"severity\": \"error\", \"text\": \"Setup failed with exit code 1603\"}\n  ]\n}\n"
	chain := strings.Repeat("[0B1C:1F04][2026-05-04T09:12:01]i100: Detected package: Tidebook, state: Absent, cached: None\n", 20) +
		"[0B1C:1F04][2026-05-04T09:12:09]e000: Error 0x80070643: Failed to execute package.\n[0B1C:1F04][2026-05-04T09:12:09]i007: Exit code: 0x643, restarting: No\n"
	before := func(prefix, log string) string {
		return prefix + strings.ReplaceAll(strings.TrimSuffix(log, "\n"), "\n", "\n"+prefix) + "\n"
	}
	for name, c := range map[string]struct {
		log     string
		dialect story.Dialect
	}{
		"a table behind output":      {head.String() + table, story.Generic},
		"a document behind output":   {head.String() + document, story.Generic},
		"a chain behind output":      {head.String() + chain, story.Chain},
		"a quoted document":          {before("> ", document), story.Generic},
		"an indented document":       {before("    ", document), story.Generic},
		"a document behind a stamp":  {before("[09:14:02] [deploy] ", document), story.Generic},
		"a chain behind a stamp":     {before("[2026-03-02 09:14:02.001] ", chain), story.Chain},
		"a chain behind two columns": {before("Mar  2 09:14:02 pc07 runner[4420]: ", chain), story.Chain},
	} {
		s, err := Read(context.Background(), name, strings.NewReader(c.log), textfile.Options{})
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if a := s.Last(); s.Dialect != c.dialect || a.Exit == nil || a.Exit.Code != 1603 {
			t.Errorf("%s: read as %s, exit %+v", name, s.Dialect, a.Exit)
		}
	}
}

// A report that is nothing but names and values is read where it tells of which
// product it is and how it ended, in any of the forms in which such are
// written; a list of other facts is no log.
func TestReportsOfNamesAndValues(t *testing.T) {
	for text, want := range map[string]string{
		"Product: Smew Chart\nElevated: yes\nReason: disk D: is full\nExit code: 5\n":                  "Smew Chart 5",
		"product: Smew Chart\nreason: the service SmewSync is disabled\nexit_code: 5\n":                "Smew Chart 5",
		"- Product: Smew Chart\n- Reason: certificate of cdn.smew.example has expired\n- Exit: 5\n":    "Smew Chart 5",
		"Product ........: Smew Chart\nReason .........: disk D: is full\nExit code ......: 5\n":       "Smew Chart 5",
		"Produkt: Möwe Kasse 3\nErgebnis: fehlgeschlagen\nGrund: Datenträger voll\nRückgabewert: 12\n": "Möwe Kasse 3 12",
		"製品: カモメ\n結果: 失敗\n原因: ディスクの空き領域が足りません\n終了コード: 5\n":                                             "カモメ 5",
		`{"product":"Smew Chart","reason":"the service SmewSync is disabled","exitCode":5}` + "\n":     "Smew Chart 5",
		"Product: Smew Chart\nError: disk D: is full\n":                                                "Smew Chart failed",
		"Product: Smew Chart\nVersion: 2\nResult: success\n":                                           "Smew Chart worked",
		"Product: Blue paint\nReason: wrong colour\nPrice: 12\nCustomer: 14\n":                         "",
		"Name: Alice\nCity: Ellery\nReason: holiday\n":                                                 "",
		`{"product":"Blue paint","price":12,"reason":"wrong colour"}` + "\n":                           "",
	} {
		s, err := Read(context.Background(), "report.txt", strings.NewReader(text), textfile.Options{})
		is := ""
		if a := lastOf(s, err); a != nil {
			is = a.Product.Name
			switch {
			case a.Exit != nil:
				is += fmt.Sprintf(" %d", a.Exit.Code)
			case a.Success != nil:
				is += map[bool]string{true: " worked", false: " failed"}[*a.Success]
			}
		}
		if is != want {
			t.Errorf("%q is read as %q (%v), want %q", text, is, err, want)
		}
	}
}

// lastOf is the last attempt of what was read; nil where nothing was.
func lastOf(s *story.Story, err error) *story.Attempt {
	if err != nil {
		return nil
	}
	return s.Last()
}
