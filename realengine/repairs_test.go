//go:build unix

package realengine

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/why/verdict"
)

// exits are the engine's exit codes by their low 8 bits, which is what comes
// through.
var exits = map[int]string{67: "1603", 91: "1627", 76: "1612", 102: "1638"}

// Machines that are really broken, on a real engine: the setup fails, why names
// the cause, fix fixes it where it can, the setup works, undo undoes it, it
// fails again.
func TestRepairs(t *testing.T) {
	b := newBench(t)
	failing = b.compiled("fails.c")
	b.temp()
	var rows []string
	for i, m := range machines {
		t.Run(m.name, func(t *testing.T) {
			b.T = t
			pack := windowsPath(b.edited(fmt.Sprintf("case%02d.msi", i), m.edit))
			defer func() {
				if m.mends != nil {
					m.mends(b)
				}
				b.tidy(pack)
			}()
			if m.breaks != nil {
				m.breaks(b)
			}
			name := fmt.Sprintf("case%02d.log", i)
			log := windowsPath(filepath.Join(b.dir, name))
			code := b.install(log, append([]string{"/i", pack}, m.args...)...)
			if code == 0 {
				t.Fatal("the setup works")
			}
			ask := []string{log}
			if text, err := os.ReadFile(filepath.Join(b.dir, name)); err != nil || len(text) == 0 {
				ask = []string{"--package", pack, "--exit", exits[code]}
			}
			_, said := b.hollowkey(append([]string{"why", "--json"}, ask...)...)
			var v verdict.Verdict
			if err := json.Unmarshal([]byte(said[max(0, strings.IndexByte(said, '{')):]), &v); err != nil {
				t.Fatalf("%v\n%s", err, said)
			}
			subject := ""
			if v.Cause.Subject != nil {
				subject = v.Cause.Subject.Name
			}
			if *v.Cause.Class != m.class || !strings.Contains(subject, m.subject) {
				t.Fatalf("%s, about %q (%.2f); want %s about %q\n%s", *v.Cause.Class, subject, v.Cause.Confidence, m.class, m.subject, v.Cause.Summary)
			}
			status, out := b.hollowkey(append([]string{"fix", "--yes"}, ask...)...)
			if m.by == "person" {
				if status != 3 {
					t.Errorf("fix: %d\n%s", status, out)
				}
				return
			}
			if status != 0 {
				t.Fatalf("fix: %d\n%s", status, out)
			}
			again := func() (int, string) {
				code, out := b.hollowkey("retry", "--yes", pack)
				if strings.Contains(out, "the setup wrote none") { // wine's engine fell before its first line
					b.Logf("once more: %d\n%s", code, out)
					code, out = b.hollowkey("retry", "--yes", pack)
				}
				return code, out
			}
			if code, out := again(); code != 0 {
				t.Fatalf("the setup does not work after the fix: %d\n%s", code, out)
			}
			b.install("tidy.log", "/x", pack)
			if code, out := b.hollowkey("undo", "--yes", "--force"); code != 0 && m.noUndo == "" {
				t.Fatalf("undo: %d\n%s", code, out)
			}
			if m.noUndo == "" {
				if code, said := again(); code == 0 {
					t.Errorf("after undo the setup works still\n%s\n%s", out, said)
				}
			}
		})
		rows = append(rows, fmt.Sprintf("| %s | %s | %s |", m.name, m.class, m.by))
	}
	b.T = t
	doc, err := os.ReadFile(filepath.Join("..", "docs", "repairs.md"))
	must(t, err)
	for _, r := range rows {
		if !strings.Contains(string(doc), r) {
			t.Errorf("docs/repairs.md lacks: %s", r)
		}
	}
}

// What is installed cannot be removed while the engine's copy of its package is
// not good; why says so, cache restore fixes it, undo takes that back.
func TestCachedRepairs(t *testing.T) {
	b := newBench(t)
	doc, err := os.ReadFile(filepath.Join("..", "docs", "repairs.md"))
	must(t, err)
	const code = "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C11}"
	for name, spoil := range map[string]func(path string) error{
		"the engine's copy of the package is missing": os.Remove,
		"the engine's copy of the package is damaged": func(p string) error { return os.WriteFile(p, []byte("no package any more"), 0o644) },
	} {
		t.Run(name, func(t *testing.T) {
			b.T = t
			pack := b.edited("cached.msi", nil)
			if code := b.install("install.log", "/i", windowsPath(pack)); code != 0 {
				t.Fatalf("install: %d", code)
			}
			kept := filepath.Join(b.dir, "kept")
			must(t, os.MkdirAll(kept, 0o755))
			must(t, os.Rename(pack, filepath.Join(kept, "of another name.msi")))
			copies, err := filepath.Glob(filepath.Join(b.on(`C:\windows\Installer`), "*.msi"))
			if err != nil || len(copies) == 0 {
				t.Fatal(copies, err)
			}
			for _, c := range copies {
				must(t, spoil(c))
			}
			exit := b.install("remove.log", "/x", code)
			if exit == 0 {
				t.Fatal("the engine uninstalls all the same")
			}
			_, said := b.hollowkey("why", "--json", "--exit", exits[exit])
			var v verdict.Verdict
			if err := json.Unmarshal([]byte(said[max(0, strings.IndexByte(said, '{')):]), &v); err != nil {
				t.Fatalf("%v\n%s", err, said)
			}
			if *v.Cause.Class != "cached-package" || !strings.Contains(v.Cause.Summary, "Berthline Planner") {
				t.Errorf("%d: %s: %s", exit, *v.Cause.Class, v.Cause.Summary)
			}
			if status, out := b.hollowkey("cache", "restore", "--from", windowsPath(kept), "--yes"); status != 0 {
				t.Fatalf("restore: %d\n%s", status, out)
			}
			if status, out := b.hollowkey("undo", "--yes"); status != 0 {
				t.Fatalf("undo: %d\n%s", status, out)
			}
			if exit := b.install("again.log", "/x", code); exit == 0 {
				t.Fatal("after undo the engine uninstalls")
			}
			b.hollowkey("cache", "restore", "--from", windowsPath(kept), "--yes")
			if exit := b.install("again.log", "/x", code); exit != 0 {
				t.Errorf("the engine does not uninstall: %d", exit)
			}
			if row := "| " + name + " | cached-package | program |"; !strings.Contains(string(doc), row) {
				t.Errorf("docs/repairs.md lacks: %s", row)
			}
		})
	}
	b.T = t
}

// A vendor's program is run again: it leaves before what it started, whose log
// is found, read with the exit code, and compared with that of the next run.
func TestAVendorsProgramAgain(t *testing.T) {
	b := newBench(t)
	must(t, os.MkdirAll(b.on(`C:\Deploy\Nine Fathom`), 0o755))
	must(t, os.WriteFile(b.on(`C:\Deploy\Nine Fathom\sounder setup.exe`), b.compiled("vendor.c"), 0o755))
	b.ours(`C:\Deploy\Nine Fathom`)
	const call = `"C:\Deploy\Nine Fathom\sounder setup.exe" /s`
	code, out := b.hollowkey("retry", call, "--yes")
	if code != 3 || !strings.Contains(out, "space") || !strings.Contains(out, "exit code 23") {
		t.Fatalf("%d\n%s", code, out)
	}
	if log, err := os.ReadFile(filepath.Join(b.dir, "case", "attempts", "0001.log")); err != nil ||
		!strings.Contains(string(log), "Sounder 3.1") || !strings.Contains(string(log), "exit code 23") {
		t.Errorf("its log: %v\n%s", err, log)
	}
	if code, out := b.hollowkey("retry", call, "--yes"); code != 3 || !strings.Contains(out, "SAME") {
		t.Errorf("again: %d\n%s", code, out)
	}
	b.file(`C:\ProgramData\Nine Fathom\licence.txt`, "made up\n")
	if code, out := b.hollowkey("retry", call, "--yes"); code != 0 || !strings.Contains(out, "WORKS") {
		t.Errorf("put right: %d\n%s", code, out)
	}
}
