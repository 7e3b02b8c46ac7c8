package cli_test

import (
	"archive/zip"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// zipUp writes a zip with these entries.
func zipUp(t *testing.T, name string, entries map[string][]byte) {
	t.Helper()
	f, err := os.Create(name)
	if err != nil {
		t.Fatal(err)
	}
	z := zip.NewWriter(f)
	for entry, text := range entries {
		w, err := z.Create(entry)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := w.Write(text); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	if err := f.Close(); err != nil {
		t.Fatal(err)
	}
}

// Logs that somebody sent in a zip are read where they are: all setups are
// told, and each call that is printed works.
func TestLogsInAZip(t *testing.T) {
	dir := layOut(t)
	sent := map[string][]byte{"readme.txt": []byte("these are the logs of D07")}
	for _, name := range []string{"tidebook.log", "ledger.log"} {
		text, err := os.ReadFile(filepath.Join(dir, name))
		if err != nil {
			t.Fatal(err)
		}
		sent["logs/"+name] = text
	}
	zipUp(t, filepath.Join(dir, "sent by mail.zip"), sent)
	out := mustRun(t, dir, 3, "why", "sent by mail.zip").out
	for _, want := range []string{"Tidebook Desk", "BerthSync", "2 setups", "Wharfage Ledger", "1 file was passed over"} {
		if !strings.Contains(out, want) {
			t.Errorf("no %q in\n%s", want, out)
		}
	}
	for line := range strings.Lines(out) {
		_, call, is := strings.Cut(strings.TrimSpace(line), "next        hollowkey ")
		if at := strings.Index(line, "hollowkey "); !is && strings.HasPrefix(line, "next") && at > 0 {
			call, is = strings.TrimSpace(line[at+len("hollowkey "):]), true
		}
		if !is {
			continue
		}
		args := []string{}
		for i, part := range strings.Split(call, "'") {
			if i%2 == 1 {
				args = append(args, part)
			} else {
				args = append(args, strings.Fields(part)...)
			}
		}
		if r := run(t, dir, nil, args...); r.err != "" || r.out == "" {
			t.Errorf("%q: %d, %s", call, r.code, r.err)
		}
	}
	if r := run(t, dir, nil, "why", "sent by mail.zip!logs/nowhere.log"); r.code != 1 || !strings.Contains(r.err, "has no logs/nowhere.log") {
		t.Errorf("an entry that is not there: %d, %s", r.code, r.err)
	}
	mustRun(t, dir, 0, "case", "open", "--case", "of-zip", "--title", "zip")
	mustRun(t, dir, 3, "why", "sent by mail.zip", "--case", "of-zip")
	mustRun(t, dir, 0, "fix", "sent by mail.zip", "--machine", "ELLERY-D07", "--case", "of-zip", "--preview")
	for _, name := range []string{"tidebook.log", "ledger.log"} {
		want, err := os.ReadFile(filepath.Join(dir, name))
		if err != nil {
			t.Fatal(err)
		}
		if kept, err := os.ReadFile(filepath.Join(dir, "of-zip", "evidence", name)); err != nil || string(kept) != string(want) {
			t.Errorf("%s in the case: %v", name, err)
		}
	}
	if r := run(t, dir, nil, "gather", "sent by mail.zip"); r.code != 2 || !strings.Contains(r.err, "is a zip already") {
		t.Errorf("gather of a zip: %d, %s", r.code, r.err)
	}
	for name, want := range map[string]string{"a.msi": "an installer package", "a.png": "a picture", "a.7z": "an archive", "a.exe": "a program"} {
		if err := os.WriteFile(filepath.Join(dir, name), []byte("\x00\x01\x02\xff\xfe\x00binary\x00"), 0o600); err != nil {
			t.Fatal(err)
		}
		if r := run(t, dir, nil, "why", name); r.code != 1 || !strings.Contains(r.err, want) || !strings.Contains(r.err, "hint: ") {
			t.Errorf("%s: %d, %s", name, r.code, r.err)
		}
	}
}

// What strangers put into a zip is refused by its reason, and no name in it
// leads anywhere.
func TestHostileZips(t *testing.T) {
	dir := layOut(t)
	log, err := os.ReadFile(filepath.Join(dir, "ledger.log"))
	if err != nil {
		t.Fatal(err)
	}
	zipUp(t, filepath.Join(dir, "bomb.zip"), map[string][]byte{"a.log": []byte(strings.Repeat("0", 16<<20))})
	zipUp(t, filepath.Join(dir, "nested.zip"), map[string][]byte{"inner.zip": []byte("PK")})
	zipUp(t, filepath.Join(dir, "none.zip"), nil)
	for name, want := range map[string]string{"bomb.zip": "would come out of it", "nested.zip": "it holds another zip, inner.zip", "none.zip": "no log in it"} {
		if r := run(t, dir, nil, "why", name); r.code != 1 || !strings.Contains(r.err, want) || !strings.Contains(r.err, "\nhint: ") {
			t.Errorf("%s: %d, %s", name, r.code, r.err)
		}
	}
	zipUp(t, filepath.Join(dir, "names.zip"), map[string][]byte{"../../up\x1b[31m\n.log": log})
	mustRun(t, dir, 0, "case", "open", "--case", "of-names", "--title", "names")
	r := mustRun(t, dir, 3, "why", "names.zip", "--case", "of-names")
	if strings.Contains(r.out, "\x1b[31m") {
		t.Errorf("an escape of a name came through: %q", r.out)
	}
	kept, err := os.ReadDir(filepath.Join(dir, "of-names", "evidence"))
	if err != nil || len(kept) != 1 || kept[0].Name() != "up_[31m_.log" {
		t.Errorf("kept: %v, %v", kept, err)
	}
}
