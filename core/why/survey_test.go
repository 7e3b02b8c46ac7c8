package why

import (
	"context"
	"errors"
	"io"
	"io/fs"
	"strings"
	"testing"
	"time"

	"hollowkey/core/logs/finder"
	"hollowkey/core/logs/story"
)

// memory is a machine's disk in memory: path to text.
type memory map[string]string

var day = time.Date(2026, 5, 4, 9, 0, 0, 0, time.UTC)

func (d memory) ReadDir(p string) ([]finder.File, error) {
	seen := map[string]bool{}
	var out []finder.File
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
		out = append(out, finder.File{Path: p + `\` + name, Folder: below, Size: int64(len(text)),
			Time: day.Add(time.Duration(len(text)) * time.Hour)})
	}
	if len(out) == 0 {
		return nil, fs.ErrNotExist
	}
	return out, nil
}

func (d memory) Open(p string) (io.ReadCloser, error) {
	if d[p] == "locked" {
		return nil, errors.New("access is denied")
	}
	return io.NopCloser(strings.NewReader(d[p])), nil
}

const failedLog = "[2026-05-04 09:12:01] [info] Tidebook Desk 2.8.1 setup starting\n[2026-05-04 09:12:02] [error] EBUSY: locked, open 'C:\\x'\n[2026-05-04 09:12:03] [error] setup failed, exit code 4\n"

func TestSurvey(t *testing.T) {
	d := memory{
		`C:\Users\mwhitlow\AppData\Local\Temp\setup.log`:        failedLog,
		`C:\Users\mwhitlow\AppData\Local\Temp\deep\install.log`: failedLog + failedLog,
		`C:\Users\mwhitlow\AppData\Roaming\Tidebook\logs\x.log`: strings.ReplaceAll(failedLog, "Tidebook Desk", "Pilot Roster") + "\n\n\n",
		`C:\ProgramData\Quay\Sync\logs\agent.txt`: strings.Replace(failedLog, "[error] setup failed, exit code 4",
			"[info] installation completed successfully", 1),
		`C:\Windows\Temp\notes.txt`:  "Dear harbour master, no log here.",
		`C:\Windows\Temp\setup.exe`:  failedLog,
		`C:\Windows\Temp\readme.txt`: failedLog,
		`C:\Windows\Temp\empty.log`:  "",
		`C:\Windows\Temp\locked.log`: "locked",
		`C:\Elsewhere\setup.log`:     failedLog,
	}
	found, err := Survey(context.Background(), d, nil, Question{})
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	for i, f := range found {
		names = append(names, f.Path[strings.LastIndex(f.Path, `\`)+1:])
		if i > 0 && f.Time.After(found[i-1].Time) {
			t.Errorf("%s is newer than the one before", f.Path)
		}
	}
	if got := strings.Join(names, " "); got != "install.log agent.txt x.log setup.log" && got != "install.log x.log agent.txt setup.log" {
		t.Errorf("found %s", got)
	}
	for _, f := range found {
		switch {
		case strings.HasSuffix(f.Path, "agent.txt") && (f.Outcome != story.Succeeded || f.Cause != ""),
			strings.HasSuffix(f.Path, "x.log") &&
				(f.Product != "Pilot Roster" || f.Outcome != story.Failed || f.Cause != "in-use" || *f.ExitCode != 4):
			t.Errorf("%+v", f)
		}
	}
	only, err := Survey(context.Background(), d, []string{`C:\Elsewhere`}, Question{})
	if err != nil || len(only) != 1 || only[0].Path != `C:\Elsewhere\setup.log` {
		t.Errorf("a folder that is named: %+v, %v", only, err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := Survey(ctx, d, nil, Question{}); !errors.Is(err, context.Canceled) {
		t.Errorf("after cancelling: %v", err)
	}
}
