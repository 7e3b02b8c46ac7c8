package finder

import (
	"errors"
	"io"
	"io/fs"
	"slices"
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
		rest, ok := strings.CutPrefix(path, strings.TrimRight(p, `\`)+`\`)
		if !ok {
			continue
		}
		name, _, below := strings.Cut(rest, `\`)
		if seen[name] {
			continue
		}
		seen[name] = true
		out = append(out, File{Path: strings.TrimRight(p, `\`) + `\` + name, Folder: below, Size: int64(len(text)),
			Time: day.Add(time.Duration(len(text)) * time.Hour)})
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
		`C:\Users\mwhitlow\Documents\diary.txt`:                 "1",
	}
	var names []string
	for _, f := range Find(d, nil, Homes{}) {
		names = append(names, f.Path[strings.LastIndex(f.Path, `\`)+1:])
	}
	if got := strings.Join(names, " "); got != "install.log x.log agent.txt setup.log" {
		t.Errorf("found %s, newest first", got)
	}
	d[`D:\Elsewhere\notes.txt`] = "1"
	if only := Find(d, []string{`D:\Elsewhere`}, Homes{}); len(only) != 1 || only[0].Path != `D:\Elsewhere\notes.txt` {
		t.Errorf("a folder that is named: %+v", only)
	}
}

// Logs are found wherever setups and people leave them, under the names that
// they have; what else lies there is not.
func TestFindEverywhere(t *testing.T) {
	homes := Homes{Temporary: []string{`E:\T`}, Profiles: []string{`C:\Users\tess`, `D:\Profiles\carla`}, Drives: []string{"C:", "D:"}}
	logs := []string{`C:\Program Files\Tidebook\install.log`, `C:\Program Files (x86)\Quay\Tidebook\logs\setup.log`,
		`C:\Program Files\Common Files\Quay\Setup\update.log`, `C:\Windows\Logs\Software\Tide_Install.log`, `C:\Windows\Panther\UnattendGC\setuperr.log`,
		`C:\$WINDOWS.~BT\Sources\Panther\setupact.log`, `C:\Windows\setupact.log`, `C:\Windows\ccmsetup\Logs\ccmsetup.log`,
		`C:\ProgramData\Microsoft\IntuneManagementExtension\Logs\AgentExecutor.log`, `C:\Logs\tide.log`, `D:\Install\logs\tide.log`, `C:\tide-install.log`,
		`C:\Users\tess\Desktop\tide setup.log`, `C:\Users\tess\Downloads\tide.log`, `C:\Users\tess\tide-install.txt`, `C:\Users\Public\Documents\Quay\install.log`,
		`D:\Profiles\carla\AppData\Local\Temp\tide.log`, `D:\Profiles\carla\AppData\Roaming\Quay\logs\tide.log`, `E:\T\{1A2B}\x\tide.log`,
		`E:\T\setup.log.old`, `E:\T\tide.html`, `E:\T\tide.jsonl`, `E:\T\tide.err`, `E:\T\tide.log_20260504`, `E:\T\tide.log~`}
	others := []string{`C:\Users\tess\Documents\diary.txt`, `C:\Users\tess\Desktop\page.html`, `C:\Program Files\Tidebook\changelog.txt`,
		`C:\Program Files\Tidebook\install.exe`, `C:\Program Files\Tidebook\help.html`, `C:\Windows\win.ini`, `C:\Tools\setup.ps1`, `E:\T\readme.txt`,
		`C:\Recovery\setup.log`, `C:\Users\tess\AppData\Local\Temp\setup.exe`}
	d := disk{}
	for n, p := range append(slices.Clone(logs), others...) {
		d[p] = strings.Repeat("x", 1+n)
	}
	found := map[string]bool{}
	for _, f := range Find(d, nil, homes) {
		found[f.Path] = true
	}
	for _, p := range logs {
		if !found[p] {
			t.Errorf("%s is not found", p)
		}
	}
	for _, p := range others {
		if found[p] {
			t.Errorf("%s is found", p)
		}
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
