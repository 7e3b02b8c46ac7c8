package twin_test

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"testing"

	"hollowkey/core/machine/twin/twintest"
)

// Paths are found in any letter case, before and after changes of our own and
// of somebody else's.
func TestNamesFollowChanges(t *testing.T) {
	m := twintest.Make(t, map[string]string{
		"twin.yaml": "name: T\n", "access.yaml": "'C:\\': O:SYG:SYD:(A;OICI;FA;;;WD)\n", "disk/C/Deploy/ReadMe.txt": "tide",
	})
	there := func(path string) bool {
		_, err := m.Stat(path)
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			t.Fatal(err)
		}
		return err == nil
	}
	write := func(path string) {
		t.Helper()
		if err := m.WriteFile(path, func(f *os.File) error { _, err := f.WriteString("x"); return err }); err != nil {
			t.Fatal(err)
		}
	}
	if !there(`c:\DEPLOY\readme.TXT`) || there(`C:\Deploy\new.txt`) {
		t.Fatal("the file is not found, or one that is not there")
	}
	write(`C:\deploy\New.txt`)
	if !there(`C:\Deploy\NEW.TXT`) {
		t.Error("a file that was just written is not found")
	}
	if err := m.MakeFolder(`C:\Deploy\Inner`); err != nil {
		t.Fatal(err)
	}
	write(`C:\Deploy\inner\a.txt`)
	if !there(`C:\DEPLOY\INNER\A.TXT`) {
		t.Error("a file in a new folder is not found")
	}
	for _, p := range []string{`C:\Deploy\Inner\A.txt`, `C:\Deploy\INNER`, `C:\Deploy\new.TXT`} {
		if err := m.RemoveFile(p); err != nil {
			t.Fatal(err)
		}
		if there(p) {
			t.Errorf("%s is found after it was removed", p)
		}
	}
	// Somebody else's change, behind our back.
	if err := os.WriteFile(filepath.Join(m.Folder(), "disk", "C", "Deploy", "Theirs.txt"), nil, 0o600); err != nil {
		t.Fatal(err)
	}
	if !there(`C:\Deploy\theirs.txt`) {
		t.Error("a file of somebody else's is not found")
	}
}

// A folder of many files is read once, not once for each of its files.
func BenchmarkStatInOneFolder(b *testing.B) {
	for _, n := range []int{100, 1000, 10000} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			files := map[string]string{"twin.yaml": "name: T\n"}
			for i := range n {
				files[fmt.Sprintf("disk/C/Deploy/File%d.txt", i)] = ""
			}
			m := twintest.Make(b, files)
			b.ResetTimer()
			for i := range b.N {
				if _, err := m.Stat(fmt.Sprintf(`C:\deploy\FILE%d.TXT`, i%n)); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
