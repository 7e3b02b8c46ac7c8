package startup

import (
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/demo/demotest"
)

func clock() time.Time { return time.Date(2026, 5, 4, 10, 0, 0, 0, time.UTC) }

func ids(items []Item) (out []string) {
	for _, i := range items {
		out = append(out, i.ID)
	}
	return out
}

// What starts beside the OS's own parts is listed, of all four kinds; what the
// OS brings, what is off and what nobody starts is not.
func TestItems(t *testing.T) {
	_, m := demotest.LayOut(t)
	const run = `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Run`
	for name, command := range map[string]string{"Pier Lamp": `"C:\Program Files\Pier\lamp.exe" -tray`, "Own": `C:\Windows\system32\own.exe`,
		"Own too": `%windir%\x.exe`} {
		v, err := regfile.Make(regfile.String, command)
		if err == nil {
			err = m.SetValue(run, name, v)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	for _, name := range []string{"lamp.lnk", "desktop.ini"} {
		if err := m.WriteFile(commonStartup+`\`+name, func(f *os.File) error { _, err := f.WriteString("x"); return err }); err != nil {
			t.Fatal(err)
		}
	}
	items, notes, err := Items(m)
	if err != nil {
		t.Fatal(err)
	}
	got := ids(items)
	for _, want := range []string{"service:BerthSync", "service:QuayWatch", "run:Pier Lamp", "file:lamp.lnk", "task:Tide Table Download"} {
		if !slices.Contains(got, want) {
			t.Errorf("%s is not listed: %q", want, got)
		}
	}
	for _, not := range []string{"service:Spooler", "service:TideClock", "service:FairwayRelay", "run:Own", "run:Own too", "file:desktop.ini",
		"task:Fairway Update"} {
		if slices.Contains(got, not) {
			t.Errorf("%s is listed", not)
		}
	}
	if last := notes[len(notes)-1]; !strings.Contains(last, "drivers") {
		t.Errorf("notes: %q", notes)
	}
	sorted := slices.Clone(got)
	slices.Sort(sorted)
	if len(slices.Compact(sorted)) != len(got) {
		t.Errorf("two items have one name: %q", got)
	}
}

// All that is held comes back exactly, whatever else was changed meanwhile, and
// holding twice holds once.
func TestHoldAndRelease(t *testing.T) {
	_, m := demotest.LayOut(t)
	j, err := fix.OpenJournal(t.TempDir(), clock)
	if err != nil {
		t.Fatal(err)
	}
	items, _, err := Items(m)
	if err != nil || len(items) < 4 {
		t.Fatal(items, err)
	}
	p, _, err := Hold(m, items)
	if err != nil || p.Hold != HoldName || len(p.Changes) != len(items) {
		t.Fatalf("%d changes of %d items, %v", len(p.Changes), len(items), err)
	}
	if err := p.Apply(m, j); err != nil {
		t.Fatal(err)
	}
	held, _, err := Items(m)
	if err != nil || len(held) != 0 {
		t.Errorf("%q still start, %v", ids(held), err)
	}
	if s, err := m.Service("QuayWatch"); err != nil || !s.Running || s.Start != machine.StartDisabled {
		t.Errorf("a service that runs was stopped: %+v, %v", s, err)
	}
	again, _, err := Hold(m, items[:1])
	if err != nil || again.Pending() {
		t.Errorf("held twice: %v", err)
	}
	n, err := Release(m, j)
	if err != nil || n != len(items) {
		t.Errorf("%d of %d were released, %v", n, len(items), err)
	}
	back, _, err := Items(m)
	if err != nil || !slices.Equal(ids(back), ids(items)) {
		t.Errorf("back are %q; want %q", ids(back), ids(items))
	}
	if n, err := Release(m, j); n != 0 || err != nil {
		t.Errorf("released again: %d, %v", n, err)
	}
}

// A deaf machine does not tell its tasks nor one of its services.
type deaf struct{ machine.Machine }

func (deaf) Tasks() ([]machine.Task, error) { return nil, errors.New("the scheduler does not answer") }
func (d deaf) Service(name string) (machine.Service, error) {
	if name == "QuayWatch" {
		return machine.Service{}, errors.New("access is denied")
	}
	return d.Machine.Service(name)
}

func TestWhatCannotBeReadIsTold(t *testing.T) {
	_, m := demotest.LayOut(t)
	items, notes, err := Items(deaf{m})
	if err != nil || slices.Contains(ids(items), "service:QuayWatch") || !slices.Contains(ids(items), "service:BerthSync") {
		t.Errorf("%q, %v", ids(items), err)
	}
	if all := strings.Join(notes, "\n"); !strings.Contains(all, "QuayWatch cannot be read") ||
		!strings.Contains(all, "scheduler's tasks cannot be read") {
		t.Errorf("notes: %q", notes)
	}
}

// A hunt is picked up as it was left; one that was changed by hand is refused.
func TestAHuntIsKept(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "case")
	if c, err := Load(dir); c != nil || err != nil {
		t.Errorf("a hunt that never began: %+v, %v", c, err)
	}
	c := &Case{Machine: "D07", Items: []Item{{ID: "service:A"}, {ID: "run:B"}, {ID: "task:C"}},
		Rounds: []Round{{nil, Worked}, {[]int{0, 2}, Failed}}}
	if err := c.Save(dir); err != nil {
		t.Fatal(err)
	}
	got, err := Load(dir)
	if err != nil || !slices.Equal(ids(got.Items), ids(c.Items)) || len(got.Rounds) != 2 || got.Rounds[1].Outcome != Failed {
		t.Errorf("%+v, %v", got, err)
	}
	if off := ids(got.Off([]int{0, 2})); !slices.Equal(off, []string{"run:B"}) {
		t.Errorf("held back: %q", off)
	}
	if r := got.Result(); r.Done != Hunt(3, c.Rounds).Done {
		t.Errorf("%+v", r)
	}
	for name, text := range map[string]string{"no JSON": "{", "an item that is not there": `{"items":[{"id":"a"}],"rounds":[{"on":[1]}]}`,
		"a negative one": `{"items":[{"id":"a"}],"rounds":[{"on":[-1]}]}`} {
		if err := os.WriteFile(filepath.Join(dir, stateName), []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
		if _, err := Load(dir); err == nil || !strings.Contains(err.Error(), stateName) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if err := End(dir); err != nil {
		t.Error(err)
	}
	if err := End(dir); err != nil {
		t.Errorf("ended twice: %v", err)
	}
}

// Whether an item is the OS's own is told by what it runs in the end, and not
// by the host that runs it.
func TestWhatRunsInTheEnd(t *testing.T) {
	_, m := demotest.LayOut(t)
	const vendor = `C:\Program Files\Mast\m`
	for line, own := range map[string]bool{
		`C:\Windows\System32\rundll32.exe "` + vendor + `.dll",Start`: false, `C:\Windows\System32\cmd.exe /c start "" "` + vendor + `.exe"`: false,
		`%windir%\system32\wscript.exe ` + vendor + `.vbs`: false, `C:\Windows\Temp\m.exe`: false, `%LOCALAPPDATA%\Mast\m.exe`: false,
		`C:\Windows\..\Program Files\Mast\m.exe`: false, `m.exe /tray`: false,
		`C:\Windows\System32\rundll32.exe shell32.dll,Run`: true, `rundll32.exe "C:\Windows\System32\x.dll",a`: true, `"C:/Windows/System32/x.exe"`: true,
		`%SystemRoot%\explorer.exe`: true, `\SystemRoot\System32\x.exe`: true, `"%ProgramFiles%\Windows Defender\x.exe"`: true,
	} {
		if got := ofTheOS(m, line, m.SignedIn()); got != own {
			t.Errorf("%s is the OS's own: %v", line, got)
		}
	}
}
