package realengine

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hollowkey/core/machine/twin"
)

// build makes a Windows program, or a package's tests as one.
func build(t *testing.T, args ...string) string {
	t.Helper()
	out := filepath.Join(t.TempDir(), "program.exe")
	c := exec.Command("go", append([]string{args[0]}, append([]string{"-o", out}, args[1:]...)...)...)
	c.Env = append(os.Environ(), "GOOS=windows", "GOARCH=amd64", "CGO_ENABLED=0")
	if text, err := c.CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, text)
	}
	return out
}

// The live machine passes the suite that twins pass, and more.
func TestLiveMachine(t *testing.T) {
	if absent != "" {
		t.Skip("no real engine here: " + absent)
	}
	c := wine("wine", build(t, "test", "-c", "hollowkey/core/machine/live"), "-test.v")
	c.Env = append(c.Env, "HOLLOWKEY_LIVE=1")
	text, err := c.CombinedOutput()
	if err != nil || !strings.Contains(string(text), "--- PASS: TestSuite") {
		t.Errorf("%v\n%s", err, text)
	}
}

// The Windows build changes the machine that it runs on, and undoes it.
func TestWindowsBuild(t *testing.T) {
	if absent != "" {
		t.Skip("no real engine here: " + absent)
	}
	program := build(t, "build", "hollowkey/cmd/hollowkey")
	dir := t.TempDir()
	run := func(code int, args ...string) string {
		t.Helper()
		return expect(t, dir, program, code, args...)
	}
	value := func() string {
		out, _ := wine("wine", "reg", "query", `HKCU\Software\Saltmarsh Quay\Berthline`, "/v", "Site").CombinedOutput()
		return string(out)
	}
	step := []string{"fix", "--machine", "live", "--case", "case", "--step", "registry", "--arg",
		`key=HKCU\Software\Saltmarsh Quay\Berthline`, "--arg", "name=Site", "--arg", "type=string", "--arg", "value=Port Ellery"}
	if out := run(0, append(step, "--preview")...); !strings.Contains(out, "- the key is absent") || strings.Contains(value(), "Ellery") {
		t.Errorf("preview: %s", out)
	}
	run(0, append(step, "--yes")...)
	if !strings.Contains(value(), "Port Ellery") {
		t.Errorf("the value was not set: %s", value())
	}
	run(0, "undo", "--yes", "--machine", "live", "--case", "case")
	if strings.Contains(value(), "Port Ellery") {
		t.Error("undo left the value")
	}
	if out := run(0, "journal", "--machine", "live", "--case", "case"); !strings.Contains(out, "undone") {
		t.Errorf("journal: %s", out)
	}
	run(0, "logs", "verbose", "on", "--yes", "--machine", "live", "--case", "case")
	run(0, "logs", "verbose", "off", "--yes", "--machine", "live", "--case", "case")
	path := save(t, open(t, planner(t)), "p.msi")
	// Told by name, the package itself is written over, though we have it open.
	run(0, "package", "alter", windowsPath(path), "--set-property", "SITE=ELLERY", "--copy", "--out", windowsPath(path), "--replace")
	if out := run(0, "package", "rows", windowsPath(path), "Property", "--where", "Property = \"SITE\""); !strings.Contains(out, "ELLERY") {
		t.Errorf("written over: %s", out)
	}
	if out := run(3, "package", "gates", windowsPath(path), "--machine", "live"); !strings.Contains(out, "FAILS  launch condition") ||
		!strings.Contains(out, "VersionNT is 603") {
		t.Errorf("gates: %s", out)
	}
}

// A cached package goes missing, so that the engine cannot uninstall; the
// Windows build finds it again, and then the engine can.
func TestCacheRestoredForTheEngine(t *testing.T) {
	path := planner(t)
	_, copied := altered(t, path, dropCondition, dropProgram)
	program := build(t, "build", "hollowkey/cmd/hollowkey")
	if code := install(t, "/i", windowsPath(copied), "/qn"); code != 0 {
		t.Fatalf("install: %d", code)
	}
	archive := t.TempDir()
	must(t, os.Rename(copied, filepath.Join(archive, "kept under another name.msi")))
	cached, err := filepath.Glob(filepath.Join(prefix, "drive_c", "windows", "Installer", "*.msi"))
	must(t, err)
	for _, f := range cached {
		must(t, os.Remove(f))
	}
	const code = "{7B3D1A60-52C4-4D0E-8F3A-91C2E6B7A031}"
	if exit := install(t, "/x", code, "/qn"); exit == 0 {
		t.Fatal("the engine uninstalls without its cached package")
	}
	run := func(want int, args ...string) string {
		t.Helper()
		return expect(t, archive, program, want, args...)
	}
	if out := run(3, "cache", "--machine", "live"); !strings.Contains(out, "MISSING  product  Berthline Planner 3.1.0") {
		t.Errorf("cache: %s", out)
	}
	if out := run(0, "cache", "restore", "--machine", "live", "--case", windowsPath(filepath.Join(archive, "case")), "--from",
		windowsPath(archive), "--yes"); !strings.Contains(out, "kept under another") {
		t.Errorf("restore: %s", out)
	}
	run(0, "cache", "--machine", "live")
	if exit := install(t, "/x", code, "/qn"); exit != 0 {
		t.Errorf("the engine still cannot uninstall: %d", exit)
	}
}

// A twin taken of the live machine opens on another OS.
func TestCaptureOfTheLiveMachine(t *testing.T) {
	if absent != "" {
		t.Skip("no real engine here: " + absent)
	}
	dir := t.TempDir()
	c := wine("wine", build(t, "build", "hollowkey/cmd/hollowkey"), "capture", "taken", "--machine", "live")
	c.Dir = dir
	if out, err := c.CombinedOutput(); err != nil || !strings.Contains(string(out), "TAKEN taken") {
		t.Fatalf("%v\n%s", err, out)
	}
	m, err := twin.Open(filepath.Join(dir, "taken"))
	must(t, err)
	defer m.Close()
	names, err := m.ServiceNames()
	must(t, err)
	if f := m.Facts(); f.OS.Build == 0 || !f.HasDrive("C:") || len(names) < 5 {
		t.Errorf("%+v, services %v", f, names)
	}
	if s, err := m.Service("MSIServer"); err != nil || s.Start != "manual" {
		t.Errorf("%+v, %v", s, err)
	}
	if v, err := m.Value(`HKLM\SOFTWARE\Microsoft\Windows NT\CurrentVersion`, "CurrentVersion"); err != nil || v.Words() == "" {
		t.Errorf("%q, %v", v.Words(), err)
	}
}

// Steps of many kinds on the live machine, each undone: what the registry, the
// service manager and the disk then show is what they showed before. (The
// stand-in's service manager forgets changed dependencies, so that step is not
// here.)
func TestStepsOnTheLiveMachine(t *testing.T) {
	if absent != "" {
		t.Skip("no real engine here: " + absent)
	}
	program := build(t, "build", "hollowkey/cmd/hollowkey")
	dir := t.TempDir()
	tool := func(args ...string) string {
		out, _ := wine(append([]string{"wine"}, args...)...).CombinedOutput()
		return string(out)
	}
	run := func(args ...string) string {
		t.Helper()
		return expect(t, dir, program, 0, args...)
	}
	const key = `HKLM\Software\Nine Fathom\Fairway Radio 1`
	tool("reg", "add", key, "/v", "Serial", "/d", "PE 1", "/f")
	tool("reg", "add", key+`\Relay`, "/v", "Port", "/t", "REG_DWORD", "/d", "5120", "/f")
	service := func() string { return tool("reg", "query", `HKLM\System\CurrentControlSet\Services\FairwayRelay`) }
	for try := 0; try < 20; try++ { // the service manager there may still start
		tool("sc", "create", "FairwayRelay", "binPath=", `C:\Radio\relay.exe`, "start=", "demand")
		if strings.Contains(service(), "relay.exe") {
			break
		}
		time.Sleep(500 * time.Millisecond)
	}
	t.Cleanup(func() { tool("sc", "delete", "FairwayRelay"); tool("reg", "delete", `HKLM\Software\Nine Fathom`, "/f") })
	radio := filepath.Join(prefix, "drive_c", "Radio")
	must(t, os.MkdirAll(filepath.Join(radio, "lang"), 0o755))
	t.Cleanup(func() { os.RemoveAll(radio) })
	must(t, os.WriteFile(filepath.Join(radio, "lang", "en.txt"), []byte("Fairway"), 0o644))
	must(t, os.WriteFile(filepath.Join(dir, "c.reg"),
		[]byte("REGEDIT4\r\n\r\n[HKEY_LOCAL_MACHINE\\Software\\Nine Fathom\\Fairway Radio 1]\r\n\"Serial\"=-\r\n\"New\"=dword:7\r\n"), 0o644))
	registry := func() string { return tool("reg", "query", key, "/s") }
	disk := func() string {
		b, _ := os.ReadFile(filepath.Join(radio, "lang", "en.txt"))
		return string(b)
	}
	for _, c := range []struct {
		kind string
		args []string
		look func() string
	}{
		{"remove-key", []string{"key=" + key}, registry},
		{"import", []string{"from=c.reg"}, registry},
		{"key", []string{"key=" + key + `\A\B`}, registry},
		{"path-entry", []string{`entry=C:\Radio`, "state=present"}, func() string {
			return tool("reg", "query", `HKLM\System\CurrentControlSet\Control\Session Manager\Environment`)
		}},
		{"remove-service", []string{"name=FairwayRelay"}, service},
		{"quarantine", []string{`path=C:\Radio`}, disk},
		{"folder", []string{`folder=C:\Radio\new\deep`}, func() string {
			_, err := os.Stat(filepath.Join(radio, "new", "deep"))
			return fmt.Sprint(err == nil)
		}},
	} {
		call := []string{"fix", "--machine", "live", "--case", "case", "--step", c.kind}
		for _, a := range c.args {
			call = append(call, "--arg", a)
		}
		before := c.look()
		run(append(call, "--yes")...)
		if c.look() == before {
			t.Errorf("%s changed nothing: %s", c.kind, before)
		}
		run("undo", "--yes", "--machine", "live", "--case", "case")
		if after := c.look(); after != before {
			t.Errorf("%s was not undone:\n%s\nwas\n%s", c.kind, after, before)
		}
	}
	// The same as a command file that the OS's own shell runs, and its way
	// back.
	const value = `a & b %TEMP% ^ (x) 100%`
	run("fix", "--machine", "live", "--step", "registry", "--arg", "key="+key, "--arg", "name=It & he", "--arg", "type=string", "--arg",
		"value="+value, "--script", "cmd")
	script := func(name string) { // what it did counts: the stand-in's shell takes "||" for failed either way
		c := wine("wine", "cmd", "/c", name)
		c.Dir = dir
		c.Run()
	}
	before := registry()
	script("hollowkey-fix.cmd")
	if !strings.Contains(registry(), value) {
		t.Errorf("the script set\n%s", registry())
	}
	script("hollowkey-fix-undo.cmd")
	if registry() != before {
		t.Errorf("the way back left\n%s", registry())
	}
	if out := run("leftovers", "clear", "Fairway Radio 1", "--machine", "live", "--case", "case", "--preview"); !strings.Contains(out,
		`delete the registry key HKLM\SOFTWARE\Nine Fathom\Fairway`) {
		t.Errorf("leftovers: %s", out)
	}
}

// The Windows build runs a setup again with the real engine: it fails, is
// altered, works; the case holds both logs, and they are compared.
func TestRetryWithTheRealEngine(t *testing.T) {
	path := planner(t)
	transform, _ := altered(t, path, dropCondition, dropProgram)
	program := build(t, "build", "hollowkey/cmd/hollowkey")
	dir := t.TempDir()
	retry := func(code int, args ...string) string {
		t.Helper()
		c := wine(append([]string{"wine", program, "retry", "--machine", "live", "--case", "case"}, args...)...) // a path from here
		c.Dir = dir
		out, _ := c.CombinedOutput()
		if c.ProcessState.ExitCode() != code {
			t.Fatalf("%v: exit %d, want %d\n%s", args, c.ProcessState.ExitCode(), code, out)
		}
		return string(out)
	}
	if out := retry(1, windowsPath(path)); !strings.Contains(out, "no terminal to ask on") || !strings.Contains(out, "/qn /norestart") {
		t.Errorf("without a yes: %s", out)
	}
	if out := retry(3, windowsPath(path), "--yes"); !strings.Contains(out, "LaunchConditions") || !strings.Contains(out, "exit code 1603") {
		t.Errorf("untouched: %s", out)
	}
	if out := retry(0, windowsPath(path), "--yes", "--transform", windowsPath(transform)); !strings.Contains(out, "The failure is gone") ||
		!strings.Contains(out, "  InstallFiles") || !strings.Contains(out, "  InstallFinalize") {
		t.Errorf("with the transform: %s", out)
	}
	for _, name := range []string{"0001.log", "0002.log"} {
		if info, err := os.Stat(filepath.Join(dir, "case", "attempts", name)); err != nil || info.Size() < 1000 {
			t.Errorf("%s: %v", name, err)
		}
	}
	if code := install(t, "/x", windowsPath(path), "/qn", "TRANSFORMS="+windowsPath(transform)); code != 0 {
		t.Errorf("uninstall: %d", code)
	}
}
