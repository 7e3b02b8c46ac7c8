package live

import (
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"golang.org/x/sys/windows/svc"
	"golang.org/x/sys/windows/svc/mgr"

	"hollowkey/core/machine"
	"hollowkey/core/machine/machinetest"
)

const (
	testService = "HollowKeySuite"
	asService   = "as-service"
)

// The test program is also the service that the suite starts and stops.
func TestMain(m *testing.M) {
	if slices.Contains(os.Args, asService) {
		svc.Run(testService, idle{})
		return
	}
	if os.Getenv("HOLLOWKEY_IDLE") != "" {
		time.Sleep(time.Minute)
		return
	}
	if os.Getenv("HOLLOWKEY_LIVE") == "" {
		os.Stdout.WriteString("skipped: these tests make a service and registry keys; HOLLOWKEY_LIVE=1 runs them\n")
		return
	}
	os.Exit(m.Run())
}

type idle struct{}

func (idle) Execute(_ []string, asked <-chan svc.ChangeRequest, told chan<- svc.Status) (bool, uint32) {
	told <- svc.Status{State: svc.Running, Accepts: svc.AcceptStop}
	for r := range asked {
		if r.Cmd == svc.Stop {
			break
		}
		told <- r.CurrentStatus
	}
	return false, 0
}

func TestSuite(t *testing.T) {
	m, err := Open()
	if err != nil {
		t.Fatal(err)
	}
	program, err := os.Executable()
	if err != nil {
		t.Fatal(err)
	}
	manager, err := mgr.Connect()
	if err != nil {
		t.Fatal(err)
	}
	defer manager.Disconnect()
	s, err := manager.CreateService(testService, program, mgr.Config{StartType: mgr.StartDisabled, DisplayName: "Hollow Key Suite"}, asService)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { s.Delete(); s.Close() }()
	const key = `HKCU\Software\HollowKey Suite`
	if err := m.CreateKey(key); err != nil {
		t.Fatal(err)
	}
	defer m.DeleteKey(key)
	folder, err := os.MkdirTemp("", "hollowkey-suite") // not the test's own: that one cannot be cleared everywhere
	if err != nil {
		t.Fatal(err)
	}
	defer os.Remove(folder)
	user := m.(*Machine).SignedIn()
	machinetest.Run(t, m, machinetest.Fixture{Key: key, Folder: folder, Service: testService, Account: user,
		NoFolder: `C:\Nothing of the suite`})
	if got, err := m.Service("hollow key suite"); err != nil || got.Name != testService {
		t.Errorf("by its display name: %+v, %v", got, err)
	}
}

func TestFacts(t *testing.T) {
	m, err := Open()
	if err != nil {
		t.Fatal(err)
	}
	f := m.Facts()
	if f.OS.Version == "" || f.OS.Build == 0 || f.OS.Architecture != "x64" && f.OS.Architecture != "arm64" || !f.HasDrive("c:") ||
		len(f.Environment) == 0 {
		t.Errorf("%+v", f)
	}
	for _, d := range f.Drives {
		if d.Letter == "C:" && (d.Kind != "fixed" || d.Size == 0 || d.Free == 0) {
			t.Errorf("%+v", d)
		}
	}
}

// A grant repairs a folder that an entry closes.
func TestClosedFolder(t *testing.T) {
	m, err := Open()
	if err != nil {
		t.Fatal(err)
	}
	folder, err := os.MkdirTemp("", "hollowkey-closed")
	if err != nil {
		t.Fatal(err)
	}
	defer os.Remove(folder)
	before, err := m.FileSecurity(folder)
	if err != nil {
		t.Fatal(err)
	}
	if err := m.SetFileSecurity(folder, machine.Security{SDDL: "D:P(D;OICI;GW;;;WD)(A;OICI;FA;;;WD)", Own: true}); err != nil {
		t.Fatal(err)
	}
	probe := filepath.Join(folder, "x")
	if err := os.WriteFile(probe, nil, 0o600); err == nil {
		os.Remove(probe)
		t.Skip("nothing is refused to this account")
	}
	if err := m.SetFileSecurity(folder, machine.Security{SDDL: "D:P(A;OICI;FA;;;WD)", Own: true}); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(probe, nil, 0o600); err != nil {
		t.Error(err)
	}
	os.Remove(probe)
	if err := m.SetFileSecurity(folder, before); err != nil {
		t.Error(err)
	}
}

// What runs is told: this very program, by its number; a program that it starts
// is ended; what the OS does not offer says so.
func TestActivity(t *testing.T) {
	m, err := Open()
	if err != nil {
		t.Fatal(err)
	}
	all, err := m.Processes()
	if err != nil || !slices.ContainsFunc(all, func(p machine.Process) bool { return p.ID == os.Getpid() }) {
		t.Errorf("this process is not in the list: %v, %v", all, err)
	}
	program, err := os.Executable()
	if err != nil {
		t.Fatal(err)
	}
	other := exec.Command(program)
	other.Env = append(os.Environ(), "HOLLOWKEY_IDLE=1")
	if err := other.Start(); err != nil {
		t.Fatal(err)
	}
	if err := m.EndProcess(other.Process.Pid); err != nil {
		t.Error(err)
	}
	other.Wait()
	if err := m.EndProcess(1 << 28); err == nil {
		t.Error("a process that is not there was ended")
	}
	f := m.Facts()
	if f.Time.IsZero() || f.Booted.IsZero() || f.Booted.After(f.Time) {
		t.Errorf("%v, started %v", f.Time, f.Booted)
	}
	var said []string
	if code, err := m.Run(context.Background(), []string{"reg.exe", "query", `HKLM\Software`},
		func(l string) { said = append(said, l) }); err != nil || code != 0 || len(said) == 0 {
		t.Errorf("run: %d, %v, %q", code, err, said)
	}
	if _, err := m.Run(context.Background(), []string{`C:\Deploy\x.exe`}, nil); err == nil {
		t.Error("a program outside of the system folder was run")
	}
	for name, ask := range map[string]func() error{
		"sessions": func() error { _, err := m.Sessions(); return err },
		"holders":  func() error { _, err := m.Holders(program); return err },
		"tasks":    func() error { _, err := m.Tasks(); return err },
		"rights":   func() error { _, err := m.LogonRights("SYSTEM"); return err },
		"users":    func() error { _, err := m.UserNames(); return err },
	} {
		if err := ask(); err != nil {
			t.Logf("%s: %v", name, err) // an engine that stands in for the OS may lack it
		}
	}
	if err := m.Reaches(context.Background(), "nowhere.invalid", 0); err == nil || !strings.Contains(err.Error(), "is not resolved") {
		t.Errorf("a host that does not exist: %v", err)
	}
}
