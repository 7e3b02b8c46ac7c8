package zipped

import (
	"archive/zip"
	"bytes"
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// written is a zip with these entries, in a folder of the test.
func written(t testing.TB, entries map[string]string) string {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range entries {
		w, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: time.Date(2026, 5, 4, 9, 12, 2, 0, time.UTC)})
		if err != nil {
			t.Fatal(err)
		}
		if _, err := io.WriteString(w, text); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	name := filepath.Join(t.TempDir(), "sent.zip")
	if err := os.WriteFile(name, b.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	return name
}

func TestEntries(t *testing.T) {
	name := written(t, map[string]string{"logs/setup.log": "setup failed", "logs/": "", `..\..\a.log`: "x"})
	list, err := List(name)
	if err != nil || len(list) != 2 {
		t.Fatalf("%v, %v", list, err)
	}
	for _, e := range list {
		if strings.Contains(e.Name, `\`) || e.Changed.Year() != 2026 || e.Encrypted {
			t.Errorf("%+v", e)
		}
	}
	f, size, err := Find(name, "logs/setup.log", 1<<20)
	if err != nil || size != 12 {
		t.Fatal(size, err)
	}
	text, err := io.ReadAll(f)
	if f.Close(); err != nil || string(text) != "setup failed" {
		t.Errorf("%q, %v", text, err)
	}
	if f, _, err := Find(name, "logs/setup.log", 5); err != nil {
		t.Error(err)
	} else if text, _ := io.ReadAll(f); string(text) != "setup" {
		t.Errorf("%q is more than was asked for", text)
	}
	if _, _, err := Find(name, "nowhere.log", 1<<20); err == nil {
		t.Error("an entry that is not there is no error")
	}
	if _, err := Open(name, 7, 1<<20); err == nil {
		t.Error("a number that is not there is no error")
	}
}

// A zip that promises far more than it holds is refused, as is one that is
// none.
func TestBounds(t *testing.T) {
	if _, err := List(written(t, map[string]string{"a.log": strings.Repeat("0", 8<<20)})); err == nil || !strings.Contains(err.Error(), "would come out") {
		t.Errorf("a bomb: %v", err)
	}
	none := filepath.Join(t.TempDir(), "none.zip")
	if err := os.WriteFile(none, []byte("PK but no zip"), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := List(none); err == nil {
		t.Error("what is no zip is no error")
	}
}

func TestParts(t *testing.T) {
	for name, want := range map[string][2]string{
		"a.zip!b.log": {"a.zip", "b.log"}, `C:\x!y\A.ZIP!logs/b!c.log`: {`C:\x!y\A.ZIP`, "logs/b!c.log"}, "setup!.log": {}, "a.zip": {},
	} {
		z, inside, ok := Parts(name)
		if z != want[0] || inside != want[1] || ok != (want[0] != "") {
			t.Errorf("%s: %q %q %v", name, z, inside, ok)
		}
	}
}

func FuzzList(f *testing.F) {
	b, err := os.ReadFile(written(f, map[string]string{"a.log": "setup", "b/c.log": "failed"}))
	if err != nil {
		f.Fatal(err)
	}
	f.Add(b)
	f.Fuzz(func(t *testing.T, b []byte) {
		z, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
		if err != nil && !errors.Is(err, zip.ErrInsecurePath) {
			return
		}
		list, err := filesOf(z, int64(len(b)))
		if err != nil {
			return
		}
		const most = 64 << 10
		for _, e := range list[:min(len(list), 8)] {
			in, closer, err := bounded(z.File[e.Number], most)
			if err != nil {
				continue
			}
			n, _ := io.Copy(io.Discard, in)
			closer.Close()
			if n > most || n > e.Bytes {
				t.Errorf("%d bytes of %d promised", n, e.Bytes)
			}
		}
	})
}
