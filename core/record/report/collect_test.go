package report_test

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hollowkey/core/fix"
	"hollowkey/core/machine/twin"
	"hollowkey/core/record/casefile"
	"hollowkey/core/record/report"
	"hollowkey/core/why"
	"hollowkey/demo/demotest"
)

func clock() time.Time { return time.Date(2026, 5, 4, 10, 0, 0, 0, time.UTC) }

func standOf(t *testing.T, dir string) casefile.Stand {
	t.Helper()
	j, err := fix.OpenJournal(dir, clock)
	if err != nil {
		t.Fatal(err)
	}
	st, err := casefile.StandOf(dir, j, clock)
	if err != nil {
		t.Fatal(err)
	}
	return st
}

// newCase opens a case.
func newCase(t *testing.T) (dir string) {
	t.Helper()
	dir = filepath.Join(t.TempDir(), "case")
	if _, err := casefile.Make(dir, casefile.About{Title: "Tidebook of mwhitlow", Machine: "ELLERY-D07"}, clock); err != nil {
		t.Fatal(err)
	}
	return dir
}

// pageOf writes the page of a case on a machine.
func pageOf(t *testing.T, r report.Request) (report.Input, string) {
	t.Helper()
	r.Made = clock()
	in, err := report.Collect(context.Background(), r)
	if err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	if err := report.Markdown(&b, report.Make(in)); err != nil {
		t.Fatal(err)
	}
	return in, b.String()
}

func onDesktop(m *twin.Twin) why.Question { return why.Question{Machine: m} }

// The page of a case has its title, its machine, and names in it only when that
// is asked for.
func TestCollectOfACase(t *testing.T) {
	folder, m := demotest.LayOut(t)
	dir := newCase(t)
	log := filepath.Join(folder, "tidebook.log")
	pageOf(t, report.Request{Stand: standOf(t, dir), Log: log, Question: onDesktop(m)})
	st := standOf(t, dir)
	in, page := pageOf(t, report.Request{Stand: st, Question: onDesktop(m)})
	if in.Title != "Tidebook of mwhitlow" || in.Trail == nil || in.Machine != "ELLERY-D07" || in.Facts == nil || in.Facts.OS.Build != 19045 {
		t.Errorf("%q on %q, %+v", in.Title, in.Machine, in.Facts)
	}
	for _, private := range []string{"mwhitlow", "dpayne", "ELLERY-D07"} {
		if strings.Contains(page, private) {
			t.Errorf("the page names %s", private)
		}
	}
	_, open := pageOf(t, report.Request{Stand: st, Question: onDesktop(m), Names: true})
	if !strings.Contains(open, "ELLERY-D07") {
		t.Error("a page that was asked to leave names in has none")
	}
}

// A log that is named is judged once; later pages show that verdict even when
// the machine has been mended since.
func TestTheVerdictBeforeStays(t *testing.T) {
	folder, m := demotest.LayOut(t)
	dir := newCase(t)
	log := filepath.Join(folder, "tidebook.log")
	first, _ := pageOf(t, report.Request{Stand: standOf(t, dir), Log: log, Question: onDesktop(m)})
	if first.Verdict == nil || first.Trail == nil || !strings.Contains(first.Verdict.Cause.Summary, "TideClock") {
		t.Fatalf("%q: %+v", first.Title, first.Verdict)
	}
	if err := m.SetStartType("TideClock", "manual"); err != nil {
		t.Fatal(err)
	}
	second, page := pageOf(t, report.Request{Stand: standOf(t, dir), Log: log, Question: onDesktop(m)})
	if second.Verdict.Cause.Summary != first.Verdict.Cause.Summary || !strings.Contains(page, "TideClock") {
		t.Errorf("the verdict was reached anew: %s", second.Verdict.Cause.Summary)
	}
	if list, err := casefile.Verdicts(dir); err != nil || len(list) != 1 {
		t.Errorf("%d verdicts are kept, %v", len(list), err)
	}
}

// A log that is gone leaves the page without its picture, and nothing else.
func TestALogThatIsGone(t *testing.T) {
	folder, _ := demotest.LayOut(t)
	dir := newCase(t)
	text, err := os.ReadFile(filepath.Join(folder, "roster.log"))
	if err != nil {
		t.Fatal(err)
	}
	log := filepath.Join(t.TempDir(), "roster.log")
	if err := os.WriteFile(log, text, 0o644); err != nil {
		t.Fatal(err)
	}
	pageOf(t, report.Request{Stand: standOf(t, dir), Log: log})
	if err := os.RemoveAll(filepath.Join(dir, "evidence")); err != nil {
		t.Fatal(err)
	}
	if err := os.Remove(log); err != nil {
		t.Fatal(err)
	}
	in, page := pageOf(t, report.Request{Stand: standOf(t, dir)})
	if in.Trail != nil || in.Verdict == nil || !strings.Contains(page, "Pilot Roster") {
		t.Errorf("%+v\n%s", in.Verdict, page)
	}
	if _, err := report.Collect(context.Background(), report.Request{Stand: standOf(t, t.TempDir()), Log: log}); err == nil {
		t.Error("a page of a log that is not there")
	}
}

// A folder that no case was opened in takes its title from the verdict.
func TestTitleOfNoCase(t *testing.T) {
	folder, _ := demotest.LayOut(t)
	in, _ := pageOf(t, report.Request{Stand: standOf(t, t.TempDir()), Log: filepath.Join(folder, "tidebook.log")})
	if in.Title != "Tidebook Desk does not install" || in.About != nil {
		t.Errorf("%q, %+v", in.Title, in.About)
	}
}

// An empty case makes an empty page rather than a false one.
func TestNothingToTell(t *testing.T) {
	in, page := pageOf(t, report.Request{Stand: standOf(t, t.TempDir())})
	if in.Verdict != nil || in.Trail != nil || strings.Contains(page, "does not install") {
		t.Errorf("%+v\n%s", in, page)
	}
}
