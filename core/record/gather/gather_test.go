package gather_test

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
	"unicode/utf16"

	"hollowkey/core/logs/mask"
	"hollowkey/core/machine"
	"hollowkey/core/record/gather"
	"hollowkey/demo/demotest"
)

var now = time.Date(2026, 5, 4, 10, 0, 0, 0, time.UTC)

func write(t *testing.T, path, text string) string {
	t.Helper()
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(path, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	return path
}

// pack writes a zip and reads it back.
func pack(t *testing.T, opt gather.Options) (gather.Report, map[string]string) {
	t.Helper()
	opt.Now = now
	if opt.Mask == nil {
		opt.Mask = mask.New(machine.PrivateNames(opt.Machine))
	}
	var b bytes.Buffer
	rep, err := gather.Write(context.Background(), &b, opt)
	if err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	if err != nil {
		t.Fatal(err)
	}
	files := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		text, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		files[f.Name] = string(text)
	}
	return rep, files
}

// The zip holds what the plan lists, with a manifest whose sizes and hashes are
// those of the files as they lie in it.
func TestManifest(t *testing.T) {
	folder, m := demotest.LayOut(t)
	opt := gather.Options{Logs: []string{filepath.Join(folder, "tidebook.log"), filepath.Join(folder, "roster.log")}, Machine: m}
	rep, files := pack(t, opt)
	var manifest gather.Report
	if err := json.Unmarshal([]byte(files["manifest.json"]), &manifest); err != nil ||
		manifest.Schema != gather.Schema || !manifest.Made.Equal(now) {
		t.Fatalf("%+v, %v", manifest, err)
	}
	if len(files) != len(rep.Files)+1 || len(manifest.Files) != len(rep.Files) {
		t.Errorf("%d files in the zip, %d in the report", len(files), len(rep.Files))
	}
	for _, f := range manifest.Files {
		text, ok := files[f.Name]
		sum := sha256.Sum256([]byte(text))
		if !ok || f.Size != int64(len(text)) || f.SHA256 != hex.EncodeToString(sum[:]) {
			t.Errorf("%+v: %d bytes in the zip", f, len(text))
		}
	}
	for _, want := range []string{"logs/tidebook.log", "logs/roster.log", "machine/facts.json", "machine/ready.json"} {
		if files[want] == "" {
			t.Errorf("%s is missing or empty", want)
		}
	}
	planned, left, err := gather.Plan(opt)
	if err != nil || len(left) != 0 || len(planned) != 2 {
		t.Errorf("%v, %v, %v", planned, left, err)
	}
}

// A name that one log tells is masked in all of them, in their names and in the
// list of what was left out.
func TestNamesAreMaskedEverywhere(t *testing.T) {
	dir := t.TempDir()
	wide := "\xff\xfe"
	for _, u := range utf16.Encode([]rune("opened by wendeline at last\r\n")) {
		wide += string([]byte{byte(u), byte(u >> 8)})
	}
	logs := []string{
		write(t, filepath.Join(dir, "a.log"), `Property(S): LogonUser = wendeline`+"\n"+`C:\Users\wendeline\AppData\Local\Temp\x`+"\n"),
		write(t, filepath.Join(dir, "setup-wendeline.log"), "nothing here\n"),
		write(t, filepath.Join(dir, "wide.log"), wide),
		write(t, filepath.Join(dir, "wendeline.bin"), "\x00\x01\x02\x00\xff\xfe\x00"),
	}
	rep, files := pack(t, gather.Options{Logs: logs, Mask: mask.New([]string{"wendeline"}, nil)})
	for name, text := range files {
		if strings.Contains(name+strings.ReplaceAll(text, "\x00", ""), "wendeline") {
			t.Errorf("%s: %q", name, text)
		}
	}
	if len(rep.LeftOut) != 1 || !strings.Contains(rep.LeftOut[0], "not a text") || rep.Masked[mask.User] == 0 {
		t.Errorf("%q, %v", rep.LeftOut, rep.Masked)
	}
	for name := range files {
		if strings.HasPrefix(name, "logs/wide") && !strings.Contains(strings.ReplaceAll(files[name], "\x00", ""), "opened by") {
			t.Errorf("the wide log: %q", files[name])
		}
	}
}

// Of a case everything goes that is text, but not what was taken away from the
// machine nor a file that is half written; two of one name stay apart.
func TestACase(t *testing.T) {
	dir, other := t.TempDir(), t.TempDir()
	for name, text := range map[string]string{
		"case.yaml": "title: x\n", "notes/deep.txt": "a note\n", "quarantine/7/licence.txt": "secret\n",
		"attempts/0001.json.new": "half", "evidence/photo.png": "\x89PNG\r\n\x1a\n\x00\x00\x00",
	} {
		write(t, filepath.Join(dir, filepath.FromSlash(name)), text)
	}
	logs := []string{write(t, filepath.Join(dir, "setup.log"), "one\n"), write(t, filepath.Join(other, "setup.log"), "two\n"),
		write(t, filepath.Join(other, "sub", "SETUP.log"), "three\n")}
	rep, files := pack(t, gather.Options{Logs: logs, Case: dir, Mask: mask.New(nil, nil)})
	var names []string
	for n := range files {
		names = append(names, n)
	}
	slices.Sort(names)
	want := "case/case.yaml case/notes/deep.txt case/setup.log logs/SETUP-3.log logs/setup-2.log logs/setup.log manifest.json"
	if got := strings.Join(names, " "); got != want {
		t.Errorf("%s", got)
	}
	if left := strings.Join(rep.LeftOut, "\n"); !strings.Contains(left, "quarantine") ||
		!strings.Contains(left, "photo.png") || len(rep.LeftOut) != 2 {
		t.Errorf("left out: %q", rep.LeftOut)
	}
}

// A log that is not there, and a reader who has called it off, end it.
func TestEnds(t *testing.T) {
	gone := gather.Options{Logs: []string{filepath.Join(t.TempDir(), "none.log")}, Mask: mask.New(nil, nil), Now: now}
	if _, err := gather.Write(context.Background(), io.Discard, gone); !errors.Is(err, os.ErrNotExist) {
		t.Errorf("%v", err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	there := gather.Options{Logs: []string{write(t, filepath.Join(t.TempDir(), "a.log"), "x\n")}, Mask: mask.New(nil, nil), Now: now}
	if _, err := gather.Write(ctx, io.Discard, there); !errors.Is(err, context.Canceled) {
		t.Errorf("%v", err)
	}
}
