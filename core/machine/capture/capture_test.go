package capture_test

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"hollowkey/core/machine"
	"hollowkey/core/machine/capture"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/twin"
	"hollowkey/demo/demotest"
)

// take captures a machine and opens the twin.
func take(t *testing.T, m machine.Machine, opt capture.Options) (*twin.Twin, capture.Report, string) {
	t.Helper()
	folder := filepath.Join(t.TempDir(), "taken")
	rep, err := capture.Take(m, folder, opt)
	if err != nil {
		t.Fatal(err)
	}
	taken, err := twin.Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { taken.Close() })
	return taken, rep, folder
}

// A twin tells what the machine told: facts, services, tasks, who is signed in,
// what runs, registry, access lists.
func TestATwinTellsTheSame(t *testing.T) {
	_, m := demotest.LayOut(t)
	taken, rep, _ := take(t, m, capture.Options{Keys: []string{`HKLM\SOFTWARE\WOW6432Node\Nine Fathom`}, Folders: []string{`C:\Deploy`}})
	a, b := m.Facts(), taken.Facts()
	a.Unknown, b.Unknown, a.Environment, b.Environment = nil, nil, nil, nil
	if !reflect.DeepEqual(a, b) {
		t.Errorf("facts:\n%+v\n%+v", a, b)
	}
	if taken.Name() != m.Name() || taken.SignedIn() != m.SignedIn() {
		t.Errorf("%s, %s is signed in", taken.Name(), taken.SignedIn())
	}
	names, err := m.ServiceNames()
	if err != nil || rep.Services != len(names) {
		t.Errorf("%d services of %d, %v", rep.Services, len(names), err)
	}
	for _, n := range names {
		was, _ := m.Service(n)
		if is, err := taken.Service(n); err != nil || fmt.Sprint(was) != fmt.Sprint(is) { // an empty list and none are the same
			t.Errorf("service %s:\n%+v\n%+v, %v", n, was, is, err)
		}
	}
	x, _ := m.Sessions()
	if y, err := taken.Sessions(); err != nil || !reflect.DeepEqual(x, y) {
		t.Errorf("sessions %v, %v, %v", x, y, err)
	}
	p, _ := m.Processes()
	if q, err := taken.Processes(); err != nil || !reflect.DeepEqual(p, q) {
		t.Errorf("processes %v, %v, %v", p, q, err)
	}
	tasks, err := taken.Tasks()
	if err != nil || len(tasks) == 0 || strings.HasPrefix(strings.ToLower(tasks[0].Path), `\microsoft\`) {
		t.Errorf("tasks %v, %v", tasks, err)
	}
	const key = `HKLM\SOFTWARE\WOW6432Node\Nine Fathom\Fairway Radio 1`
	if v, err := taken.Value(key, "Serial"); err != nil || v.Words() != "PE-0000-1111" {
		t.Errorf("a value of a key that was asked for: %q, %v", v.Words(), err)
	}
	was, _ := m.FileSecurity(`C:\Deploy`)
	if is, err := taken.FileSecurity(`C:\Deploy`); err != nil || is.SDDL != was.SDDL {
		t.Errorf("the access list of a folder that was asked for: %q, %v; want %q", is.SDDL, err, was.SDDL)
	}
	if _, err := taken.Open(`C:\Deploy\readme.txt`); err == nil {
		t.Error("a file's contents were taken")
	}
}

// Nobody's name is left in a masked twin, in any of its files, and the same
// name becomes the same token everywhere.
func TestMasked(t *testing.T) {
	_, m := demotest.LayOut(t)
	_, rep, folder := take(t, m, capture.Options{Mask: true})
	if len(rep.Masked) == 0 {
		t.Error("nothing was masked")
	}
	err := filepath.WalkDir(folder, func(p string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := os.ReadFile(p)
		for _, private := range []string{"mwhitlow", "dpayne", "ellery-d07", "2104885761-1177238915"} {
			if text := strings.ToLower(strings.ReplaceAll(string(b), "\x00", "")); strings.Contains(text, private) {
				t.Errorf("%s holds %s", filepath.Base(p), private)
			}
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

// A halfBlind machine cannot tell some things.
type halfBlind struct{ machine.Machine }

var errRefused = errors.New("access is denied")

func (halfBlind) Tasks() ([]machine.Task, error)       { return nil, errRefused }
func (halfBlind) Sessions() ([]machine.Session, error) { return nil, errRefused }
func (halfBlind) SafeBoot() (machine.SafeBoot, error)  { return "", errRefused }
func (h halfBlind) Values(key string) ([]regfile.Entry, error) {
	if strings.HasSuffix(strings.ToLower(key), `\session manager`) {
		return nil, errRefused
	}
	return h.Machine.Values(key)
}

// What cannot be read is told, and the rest is taken.
func TestGapsAreTold(t *testing.T) {
	_, m := demotest.LayOut(t)
	taken, rep, _ := take(t, halfBlind{m}, capture.Options{})
	for _, want := range []string{"tasks", "sessions", "safe mode", "Session Manager"} {
		if !strings.Contains(strings.Join(rep.Skipped, "\n"), want) {
			t.Errorf("nothing is told of %s: %q", want, rep.Skipped)
		}
	}
	if _, err := taken.Service("BerthSync"); err != nil {
		t.Errorf("what could be read is missing: %v", err)
	}
	if list, err := taken.Sessions(); err != nil || len(list) != 0 {
		t.Errorf("sessions were made up: %v, %v", list, err)
	}
}

// A folder that is there is never written into.
func TestOnlyANewFolder(t *testing.T) {
	_, m := demotest.LayOut(t)
	dir := t.TempDir()
	if _, err := capture.Take(m, dir, capture.Options{}); err == nil || !strings.Contains(err.Error(), "new folder") {
		t.Errorf("got %v", err)
	}
	if list, _ := os.ReadDir(dir); len(list) != 0 {
		t.Errorf("%d files were written", len(list))
	}
}
