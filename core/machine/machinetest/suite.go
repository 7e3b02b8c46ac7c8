// Package machinetest is the suite that every kind of machine passes: whatever
// two kinds could disagree on is a case here.
package machinetest

import (
	"context"
	"errors"
	"io"
	"io/fs"
	"os"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/sddl"
)

// A Fixture says what the machine under test has for the suite to work on.
type Fixture struct {
	Key      string // an existing key that may be changed
	Folder   string // an existing folder whose access list may be changed
	Service  string // a stopped, disabled service that starts once it is enabled
	Account  string // a user
	NoFolder string // a path where nothing is
}

// Run runs the suite on a machine.
func Run(t *testing.T, m machine.Machine, f Fixture) {
	t.Run("registry", func(t *testing.T) { registry(t, m, f) })
	t.Run("files", func(t *testing.T) { files(t, m, f) })
	t.Run("services", func(t *testing.T) { services(t, m, f) })
	t.Run("new services", func(t *testing.T) { newServices(t, m, f) })
	t.Run("accounts", func(t *testing.T) { accounts(t, m, f) })
	t.Run("activity", func(t *testing.T) { activity(t, m) })
}

// registry tries values of every type, with texts that are hard to write down,
// and keys that are there, absent or refused.
func registry(t *testing.T, m machine.Machine, f Fixture) {
	for _, v := range []struct {
		typ   regfile.Type
		words string
	}{
		{regfile.String, `C:\Berth "line" äöü`}, {regfile.Expand, `%TEMP%\x`}, {regfile.DWord, "4294967295"},
		{regfile.QWord, "18446744073709551615"},
		{regfile.MultiStr, "a\nb"}, {regfile.Binary, "00ff7f"}, {regfile.String, ""}, {regfile.MultiStr, ""},
	} {
		want, err := regfile.Make(v.typ, v.words)
		if err != nil {
			t.Fatal(err)
		}
		if err := m.SetValue(f.Key, "Suite Value", want); err != nil {
			t.Fatalf("%v %q: %v", v.typ, v.words, err)
		}
		got, err := m.Value(strings.ToUpper(f.Key), "suite value") // in any case
		if err != nil || !got.Equal(want) {
			t.Errorf("%v %q: got %v %q, %v", v.typ, v.words, got.Type, got.Words(), err)
		}
	}
	if err := m.DeleteValue(f.Key, "Suite Value"); err != nil {
		t.Error(err)
	}
	if _, err := m.Value(f.Key, "Suite Value"); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("a deleted value: %v", err)
	}
	if _, err := m.Value(f.Key+`\nowhere`, "x"); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("a value of an absent key: %v", err)
	}
	below := f.Key + `\Suite Key`
	if err := m.CreateKey(below); err != nil {
		t.Fatal(err)
	}
	if err := m.CreateKey(below); err != nil {
		t.Errorf("making a key twice: %v", err)
	}
	sub, err := m.Subkeys(f.Key)
	if err != nil || !slices.Contains(sub, "Suite Key") {
		t.Errorf("keys below: %v, %v", sub, err)
	}
	if s, err := m.KeySecurity(below); err != nil || s.SDDL == "" {
		t.Errorf("security of a key: %+v, %v", s, err)
	}
	if err := m.DeleteKey(below); err != nil {
		t.Error(err)
	}
	if there, err := m.KeyExists(below); there || err != nil {
		t.Errorf("a deleted key is there: %v, %v", there, err)
	}
	if _, err := m.Value(`NOROOT\x`, "y"); err == nil {
		t.Error("a key without a root is taken")
	}
}

// files tries paths that lead astray beside those that do not: every machine
// has to refuse the same ones.
func files(t *testing.T, m machine.Machine, f Fixture) {
	info, err := m.Stat(strings.ToUpper(f.Folder) + `\`)
	if err != nil || !info.Folder {
		t.Errorf("Stat: %+v, %v", info, err)
	}
	if _, err := m.Stat(f.NoFolder); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("Stat of nothing: %v", err)
	}
	for _, bad := range []string{`..\x`, `C:\..\x`, `relative`, `C:\a<b`} {
		if _, err := m.Stat(bad); err == nil || errors.Is(err, fs.ErrNotExist) {
			t.Errorf("Stat(%q): %v", bad, err)
		}
	}
	before, err := m.FileSecurity(f.Folder)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := sddl.Parse(before.SDDL); err != nil {
		t.Errorf("%q: %v", before.SDDL, err)
	}
	if err := m.SetFileSecurity(f.Folder, before); err != nil {
		t.Errorf("setting what is there: %v", err)
	}
	if after, err := m.FileSecurity(f.Folder); err != nil || after != before {
		t.Errorf("security %+v became %+v, %v", before, after, err)
	}
	writing(t, m, f)
}

// writing makes files and folders, and takes them away again.
func writing(t *testing.T, m machine.Machine, f Fixture) {
	folder, file := f.Folder+`\Suite Folder`, f.Folder+`\Suite Folder\Größe.txt`
	if err := m.MakeFolder(folder); err != nil {
		t.Fatal(err)
	}
	if err := m.MakeFolder(folder); !errors.Is(err, fs.ErrExist) {
		t.Errorf("a folder made twice: %v", err)
	}
	for _, text := range []string{"first", "a second, longer text", ""} {
		err := m.WriteFile(file, func(out *os.File) error {
			_, err := out.WriteString(text)
			return err
		})
		if err != nil {
			t.Fatal(err)
		}
		in, err := m.Open(strings.ToUpper(file))
		if err != nil {
			t.Fatal(err)
		}
		got, err := io.ReadAll(in)
		in.Close()
		if err != nil || string(got) != text {
			t.Errorf("written %q, read %q, %v", text, got, err)
		}
	}
	failed := errors.New("no")
	if err := m.WriteFile(file, func(*os.File) error { return failed }); !errors.Is(err, failed) {
		t.Errorf("a write that fails: %v", err)
	}
	if list, err := m.ReadDir(folder); err != nil || len(list) != 1 {
		t.Errorf("a write that fails leaves %v, %v", list, err)
	}
	if err := m.WriteFile(f.NoFolder+`\x`, func(*os.File) error { return nil }); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("a file in no folder: %v", err)
	}
	if err := m.RemoveFile(folder); err == nil {
		t.Error("a folder with a file in it is removed")
	}
	if err := errors.Join(m.RemoveFile(file), m.RemoveFile(folder)); err != nil {
		t.Error(err)
	}
	if err := m.RemoveFile(folder); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("removed twice: %v", err)
	}
	for _, bad := range []string{`C:\..\x`, `C:\`, `relative`} {
		if err := errors.Join(m.WriteFile(bad, func(*os.File) error { return nil })); err == nil || m.RemoveFile(bad) == nil ||
			m.MakeFolder(bad) == nil {
			t.Errorf("%q is written, made or removed", bad)
		}
	}
}

// services tries start types, starting and stopping, and the numbers with which
// the OS refuses.
func services(t *testing.T, m machine.Machine, f Fixture) {
	s, err := m.Service(strings.ToUpper(f.Service))
	if err != nil || s.Start != machine.StartDisabled || s.Running {
		t.Fatalf("service: %+v, %v", s, err)
	}
	if names, err := m.ServiceNames(); err != nil ||
		!slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, f.Service) }) {
		t.Errorf("%s is not among the services %v, %v", s.Name, names, err)
	}
	var se machine.SystemError
	if err := m.StartService(f.Service); !errors.As(err, &se) || se.Code != 1058 {
		t.Errorf("starting a disabled service: %v, want system error 1058", err)
	}
	if err := errors.Join(m.SetStartType(f.Service, machine.StartManual), m.StartService(f.Service)); err != nil {
		t.Fatal(err)
	}
	if s, _ := m.Service(f.Service); s.Start != machine.StartManual || !s.Running {
		t.Errorf("after the start: %+v", s)
	}
	if err := errors.Join(m.StopService(f.Service), m.SetStartType(f.Service, machine.StartDisabled)); err != nil {
		t.Error(err)
	}
	if _, err := m.Service("no such service"); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("an absent service: %v", err)
	}
}

// newServices makes a service and deletes it again.
func newServices(t *testing.T, m machine.Machine, f Fixture) {
	want := machine.Service{Name: "SuiteNew", Display: "Suite's new one", Binary: `"C:\Program Files\Suite\new.exe" /run`,
		Account: "LocalSystem", Start: machine.StartManual}
	if err := m.CreateService(want); err != nil {
		t.Fatal(err)
	}
	if err := m.CreateService(want); !errors.Is(err, fs.ErrExist) {
		t.Errorf("a service made twice: %v", err)
	}
	got, err := m.Service("suite's NEW one")
	if err != nil || got.Name != want.Name || got.Binary != want.Binary || got.Start != want.Start || got.Running ||
		!strings.EqualFold(got.Account, want.Account) {
		t.Errorf("%+v, %v; want %+v", got, err, want)
	}
	if err := m.DeleteService("SuiteNew"); err != nil {
		t.Error(err)
	}
	if _, err := m.Service("SuiteNew"); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("a deleted service: %v", err)
	}
	if err := m.DeleteService("SuiteNew"); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("deleted twice: %v", err)
	}
	want.Account = f.Account
	if err := m.CreateService(want); !errors.Is(err, machine.ErrUnsupported) {
		t.Errorf("a service whose password nobody knows: %v", err)
		m.DeleteService("SuiteNew")
	}
}

// activity asks what every machine must answer or refuse in the same way.
func activity(t *testing.T, m machine.Machine) {
	if list, err := m.Processes(); err != nil || len(list) == 0 {
		t.Errorf("processes: %v, %v", list, err)
	}
	if err := m.EndProcess(1 << 28); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("ending a process that is not there: %v", err)
	}
	if _, err := m.Run(context.Background(), []string{"no-such-program-of-the-suite.exe"}, nil); err == nil {
		t.Error("a program that is not there was run")
	}
	if err := m.Reaches(context.Background(), "host-of-the-suite.invalid", 0); err == nil {
		t.Error("a host that is not there answers")
	}
	if f := m.Facts(); f.Time.IsZero() != (f.Unknown["time"] != "") || !f.Booted.IsZero() && f.Booted.After(f.Time) {
		t.Errorf("time %v, started %v, unknown %v", f.Time, f.Booted, f.Unknown)
	}
	if names, err := m.UserNames(); err == nil {
		for _, n := range names {
			if _, err := m.Account(n); err != nil {
				t.Errorf("the user %s is not known: %v", n, err)
			}
		}
	}
}

// accounts tries names, security IDs and well-known accounts.
func accounts(t *testing.T, m machine.Machine, f Fixture) {
	a, err := m.Account(f.Account)
	if err != nil || !strings.HasPrefix(string(a.SID), "S-1-") || !slices.Contains(a.SIDs(), sddl.Everyone) {
		t.Errorf("%s: %+v, %v", f.Account, a, err)
	}
	again, err := m.Account(string(a.SID))
	if err != nil || again.SID != a.SID {
		t.Errorf("by security ID: %+v, %v", again, err)
	}
	if sys, err := m.Account("SYSTEM"); err != nil || sys.SID != sddl.System {
		t.Errorf("SYSTEM: %+v, %v", sys, err)
	}
	if _, err := m.Account("nobody at all"); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("an unknown account: %v", err)
	}
}
