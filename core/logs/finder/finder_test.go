package finder

import (
	"errors"
	"io"
	"io/fs"
	"strings"
	"testing"
	"time"
)

// disk is a machine's disk in memory: path to text.
type disk map[string]string

var day = time.Date(2026, 5, 4, 9, 0, 0, 0, time.UTC)

func (d disk) ReadDir(p string) ([]File, error) {
	seen := map[string]bool{}
	var out []File
	for path, text := range d {
		rest, ok := strings.CutPrefix(path, p+`\`)
		if !ok {
			continue
		}
		name, _, below := strings.Cut(rest, `\`)
		if seen[name] {
			continue
		}
		seen[name] = true
		out = append(out, File{Path: p + `\` + name, Folder: below, Size: int64(len(text)), Time: day.Add(time.Duration(len(text)) * time.Hour)})
	}
	if len(out) == 0 {
		return nil, fs.ErrNotExist
	}
	return out, nil
}

func (d disk) Open(p string) (io.ReadCloser, error) {
	if d[p] == "locked" {
		return nil, errors.New("access is denied")
	}
	return io.NopCloser(strings.NewReader(d[p])), nil
}

func TestFind(t *testing.T) {
	d := disk{
		`C:\Users\mwhitlow\AppData\Local\Temp\setup.log`:        "1",
		`C:\Users\mwhitlow\AppData\Local\Temp\deep\install.log`: "1234",
		`C:\Users\mwhitlow\AppData\Roaming\Tidebook\logs\x.log`: "123",
		`C:\ProgramData\Quay\Sync\logs\agent.txt`:               "12",
		`C:\Windows\Temp\setup.exe`:                             "12",
		`C:\Windows\Temp\readme.txt`:                            "12",
		`C:\Windows\Temp\empty.log`:                             "",
		`C:\Elsewhere\setup.log`:                                "1",
	}
	var names []string
	for _, f := range Find(d, nil) {
		names = append(names, f.Path[strings.LastIndex(f.Path, `\`)+1:])
	}
	if got := strings.Join(names, " "); got != "install.log x.log agent.txt setup.log" {
		t.Errorf("found %s, newest first", got)
	}
	if only := Find(d, []string{`C:\Elsewhere`}); len(only) != 1 || only[0].Path != `C:\Elsewhere\setup.log` {
		t.Errorf("a folder that is named: %+v", only)
	}
}

func TestExpand(t *testing.T) {
	d := disk{`C:\Users\a\AppData\x`: "1", `C:\Users\b\AppData\y`: "1", `C:\Users\file`: "1"}
	got := expand(d, `C:\Users\*\AppData`)
	if len(got) != 2 || !strings.Contains(strings.Join(got, " "), `C:\Users\a\AppData`) {
		t.Errorf("got %v", got)
	}
	if got := expand(d, `C:\Nobody\*\x`); got != nil {
		t.Errorf("a folder that is not there: %v", got)
	}
}
