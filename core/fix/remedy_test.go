package fix

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hollowkey/core/machine"
	"hollowkey/core/machine/twin"
	"hollowkey/core/step"
	"hollowkey/demo"
)

func onTwin(t *testing.T) (machine.Machine, *Journal, string) {
	t.Helper()
	dir := t.TempDir()
	if err := demo.LayOut(filepath.Join(dir, "d")); err != nil {
		t.Fatal(err)
	}
	folder := filepath.Join(dir, "d", demo.Machine)
	m, err := twin.Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { m.Close() })
	clock := func() time.Time { return time.Date(2026, 5, 4, 9, 0, 0, 0, time.UTC) }
	j, err := OpenJournal(filepath.Join(dir, "case"), clock)
	if err != nil {
		t.Fatal(err)
	}
	return m, j, folder
}

func allFiles(t *testing.T, folder string) string {
	t.Helper()
	var b strings.Builder
	for _, pattern := range []string{"*.yaml", "registry/*"} {
		names, _ := filepath.Glob(filepath.Join(folder, pattern))
		for _, n := range names {
			text, err := os.ReadFile(n)
			if err != nil {
				t.Fatal(err)
			}
			b.WriteString(n + string(text))
		}
	}
	return b.String()
}

const berthKey = `HKLM\SOFTWARE\Saltmarsh Quay\Berthline`

func TestEveryKindThereAndBack(t *testing.T) {
	for _, tt := range []struct {
		name   string
		models []step.Model
	}{
		{"grant on a folder of its own list", []step.Model{step.New("grant", "folder", `C:\Windows\Temp\`, "account", "LOCAL SERVICE", "right",
			"modify")}},
		{"grant where all comes from above", []step.Model{step.New("grant", "folder", `C:\Deploy`, "account", "LOCAL SERVICE", "right", "full")}},
		{"grant on a file", []step.Model{step.New("grant", "file", `C:\Deploy\readme.txt`, "account", "LOCAL SERVICE", "right", "read")}},
		{"grant on a key", []step.Model{step.New("grant", "key", berthKey, "account", "LOCAL SERVICE", "right", "full")}},
		{"start type alone", []step.Model{step.New("service", "name", "Spooler", "start", "disabled")}},
		{"stop", []step.Model{step.New("service", "name", "Spooler", "state", "stopped")}},
		{"enable and start, with what it depends on",
			[]step.Model{step.New("service", "name", "TideClock", "start", "manual", "state", "running"),
				step.New("service", "name", "BerthSync", "state", "running")}},
		{"change a value", []step.Model{step.New("registry", "key", berthKey, "name", "Slips", "type", "dword", "value", "7")}},
		{"change its type", []step.Model{step.New("registry", "key", berthKey, "name", "Slips", "type", "multi", "value", "a\nb")}},
		{"a new value", []step.Model{step.New("registry", "key", berthKey, "name", "Tide", "type", "string", "value", "high")}},
		{"a new value below new keys", []step.Model{step.New("registry", "key", berthKey+`\A\B`, "name", "", "type", "expand", "value",
			"%TEMP%")}},
	} {
		m, j, folder := onTwin(t)
		before := allFiles(t, folder)
		p, err := Draft(m, tt.name, tt.models)
		if err != nil {
			t.Errorf("%s: %v", tt.name, err)
			continue
		}
		if allFiles(t, folder) != before || !p.Pending() {
			t.Errorf("%s: drafting changed the machine, or found nothing to do", tt.name)
		}
		for _, c := range p.Changes {
			if c.Words() == "" || strings.Join(c.Before.Lines(m), "") == strings.Join(c.After.Lines(m), "") {
				t.Errorf("%s: the preview shows no difference: %q %v", tt.name, c.Words(), c.After.Lines(m))
			}
		}
		if err := p.Apply(m, j); err != nil {
			t.Errorf("%s: %v", tt.name, err)
			continue
		}
		if again, err := Draft(m, tt.name, tt.models); err != nil || again.Pending() {
			t.Errorf("%s: after it was applied there is still something to do (%v)", tt.name, err)
		}
		for _, i := range j.LastPlan(m.Name()) {
			if err := j.Undo(m, i.Change, false); err != nil {
				t.Errorf("%s: %v", tt.name, err)
			}
		}
		if allFiles(t, folder) != before {
			t.Errorf("%s: taking it back left traces", tt.name)
		}
	}
}

// nearest is a machine that keeps the nearest to an access list that it has, as
// some file systems do: who may read and write a key may also enumerate what is
// below, whatever was asked.
type nearest struct{ machine.Machine }

func (n nearest) SetKeySecurity(key string, s machine.Security) error {
	s.SDDL = strings.ReplaceAll(s.SDDL, "0x2001f", "0x2011f")
	return n.Machine.SetKeySecurity(key, s)
}

// Where a machine keeps the nearest to what was planned, the next step of the
// plan on the same target goes on from that, and all of it comes back.
func TestStepsGoOnFromWhatWasReached(t *testing.T) {
	twin, j, folder := onTwin(t)
	m, before := nearest{twin}, allFiles(t, folder)
	p, err := Draft(m, "two accounts", []step.Model{step.New("grant", "key", berthKey, "account", "LOCAL SERVICE", "right", "modify"),
		step.New("grant", "key", berthKey, "account", "NETWORK SERVICE", "right", "full"), step.New("grant", "key", berthKey, "account", "svc-berth", "right", "full")})
	if err != nil {
		t.Fatal(err)
	}
	if err := p.Apply(m, j); err != nil {
		t.Fatal(err)
	}
	s, err := m.KeySecurity(berthKey)
	if err != nil || !strings.Contains(s.SDDL, "LS") || !strings.Contains(s.SDDL, "NS") {
		t.Errorf("not both have a right: %s, %v", s.SDDL, err)
	}
	list := j.LastPlan(m.Name())
	for _, i := range list {
		if err := j.Undo(m, i.Change, false); err != nil {
			t.Error(err)
		}
	}
	if allFiles(t, folder) != before || len(list) != 3 {
		t.Errorf("undoing %d changes left traces", len(list))
	}
}

func TestRefused(t *testing.T) {
	for _, tt := range []struct {
		model step.Model
		want  string
	}{
		{step.New("grant", "folder", `C:\`, "account", "SYSTEM", "right", "full"), "belongs to the whole system"},
		{step.New("grant", "folder", `C:\Windows`, "account", "SYSTEM", "right", "full"), "belongs to the whole system"},
		{step.New("grant", "key", `HKLM\SOFTWARE`, "account", "SYSTEM", "right", "full"), "whole hive"},
		{step.New("grant", "folder", `C:\Deploy`, "account", "SYSTEM", "right", "everything"), "is not read, modify or full"},
		{step.New("grant", "folder", `C:\Deploy`, "account", "nobody", "right", "full"), "is not known"},
		{step.New("grant", "folder", `C:\Nowhere`, "account", "SYSTEM", "right", "full"), "not exist"},
		{step.New("service", "name", "Spooler", "state", "asleep"), "is not running or stopped"},
		{step.New("service", "name", "Ghost", "start", "manual"), "not exist"},
		{step.New("service", "start", "manual"), "service needs name"},
		{step.New("registry", "key", berthKey, "name", "x", "type", "dword", "value", "many"), "is no number"},
		{step.New("registry", "key", berthKey, "name", "x", "type", "colour", "value", "red"), "value type"},
		{step.New("registry", "key", berthKey, "colour", "x"), "takes no"},
		{step.New("explode", "name", "x"), "is not known"},
	} {
		m, _, _ := onTwin(t)
		if _, err := Draft(m, "x", []step.Model{tt.model}); err == nil || !strings.Contains(err.Error(), tt.want) {
			t.Errorf("%v: %v, want %q", tt.model, err, tt.want)
		}
	}
}

// A plan whose second step fails leaves nothing of the first.
func TestFailureTakesBackWhatWasDone(t *testing.T) {
	m, j, folder := onTwin(t)
	before := allFiles(t, folder)
	p, err := Draft(m, "two steps", []step.Model{
		step.New("registry", "key", berthKey, "name", "Slips", "type", "dword", "value", "7"),
		step.New("service", "name", "BerthSync", "state", "running"), // TideClock is disabled
	})
	if err != nil {
		t.Fatal(err)
	}
	err = p.Apply(m, j)
	var se machine.SystemError
	if !errors.As(err, &se) || se.Code != 1068 || !strings.Contains(err.Error(), "step 2 of 2") ||
		!strings.Contains(err.Error(), "undone") {
		t.Errorf("got %v", err)
	}
	if allFiles(t, folder) != before {
		t.Error("the first step was not undone")
	}
	var states []string
	for _, i := range j.Items() {
		states = append(states, i.Status)
	}
	if got := strings.Join(states, " "); got != "undone failed" {
		t.Errorf("the journal says %q", got)
	}
}

// Between preview and yes somebody changed the target.
func TestChangedSincePreview(t *testing.T) {
	m, j, _ := onTwin(t)
	p, err := Draft(m, "x", []step.Model{step.New("service", "name", "Spooler", "start", "manual")})
	if err != nil {
		t.Fatal(err)
	}
	if err := m.SetStartType("Spooler", machine.StartDisabled); err != nil {
		t.Fatal(err)
	}
	if err := p.Apply(m, j); !errors.Is(err, ErrChanged) {
		t.Errorf("got %v, want ErrChanged", err)
	}
	if s, _ := m.Service("Spooler"); s.Start != machine.StartDisabled {
		t.Errorf("it was overwritten: %+v", s)
	}
}

func FuzzJournal(f *testing.F) {
	f.Add([]byte(`{"seq":1,"phase":"begin","machine":"x","step":{"kind":"service","target":"a","args":{}},"before":{"service":{"start":"manual","running":false}},"after":{"service":{"start":"manual","running":true}}}` + "\n" + `{"seq":2,"of":1,"phase":"done"}` + "\n"))
	f.Add([]byte(`{"seq":1,"phase":"begin"}` + "\n{"))
	f.Fuzz(func(t *testing.T, in []byte) {
		dir := t.TempDir()
		if err := os.WriteFile(filepath.Join(dir, journalName), in, 0o600); err != nil {
			t.Skip()
		}
		if j, err := ShowJournal(dir, time.Now); err == nil {
			j.Items()
			for _, i := range j.LastPlan("x") {
				i.Before.Lines(nil)
			}
		}
	})
}
