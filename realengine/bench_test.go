//go:build unix

package realengine

import (
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"hollowkey/demo"
)

// A bench is a machine of its own under the real engine, worked on by somebody
// who is not the one that owns everything: only so are rights on files enforced
// there.
type bench struct {
	*testing.T
	dir     string // for packages, logs and the case, on drive Z: for programs there
	prefix  string
	program string // hollowkey, built for that OS

	temporary string // the user's temporary folder, on this disk
}

// longestRun is after which a program there hangs.
const longestRun = time.Minute

// nobody is the user and group that no file belongs to.
const nobody = 65534

func (b *bench) wine(args ...string) *exec.Cmd {
	c := exec.Command(args[0], args[1:]...)
	c.Dir = b.dir
	c.Env = append(os.Environ(), "WINEPREFIX="+b.prefix, "WINEDEBUG=-all", "WINEDLLOVERRIDES=mscoree,mshtml=",
		"LC_ALL=C.UTF-8", "HOME="+b.dir, "USER=tess")
	if os.Getuid() == 0 {
		c.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: nobody, Gid: nobody}}
	}
	return c
}

// newBench boots the machine.
func newBench(t *testing.T) *bench {
	t.Helper()
	if absent != "" {
		t.Skip("no real engine here: " + absent)
	}
	dir, err := os.MkdirTemp("", "hollowkey-bench-")
	must(t, err)
	b := &bench{T: t, dir: dir, prefix: filepath.Join(dir, "prefix"), program: filepath.Join(dir, "hollowkey.exe")}
	must(t, os.Chmod(dir, 0o755))
	if os.Getuid() == 0 {
		must(t, os.Chown(dir, nobody, nobody))
	}
	t.Cleanup(func() {
		b.wine("wineserver", "-k").Run()
		_ = filepath.WalkDir(dir, func(p string, d os.DirEntry, err error) error {
			if err == nil && d.IsDir() {
				_ = os.Chmod(p, 0o755)
			}
			return nil
		})
		os.RemoveAll(dir)
	})
	for _, args := range [][]string{{"wineboot", "-i"}, {"winecfg", "-v", "win10"}} {
		if code, out := b.run(args...); code != 0 {
			t.Fatalf("%v: %d\n%s", args, code, out)
		}
	}
	b.wine("wineserver", "-k").Run() // two managers of services would answer in turn
	b.wine("wineserver", "-w").Run()
	for from, to := range map[string]string{
		build(t, "build", "hollowkey/cmd/hollowkey"): b.program,
		filepath.Join(prefix, "drive_c", "windows", "system32", "bcryptprimitives.dll"): filepath.Join(b.prefix,
			"drive_c", "windows", "system32", "bcryptprimitives.dll"),
		host: filepath.Join(dir, "host.exe"),
	} {
		data, err := os.ReadFile(from)
		must(t, err)
		must(t, os.WriteFile(to, data, 0o755))
	}
	return b
}

// run runs a program there and gives its exit code, whole, and what it printed;
// once more where wine itself fell before the program had begun. Where it fell
// behind our last word, what was done is done: a second time there is nothing
// to do.
func (b *bench) run(args ...string) (int, string) {
	b.Helper()
	code, out := b.runOnce(args...)
	if wineFell(out) && strings.Contains(out, "DONE. Each step was checked") {
		return 0, out
	}
	if wineFell(out) {
		b.Logf("wine fell, once more: %v\n%s", args, out)
		code, out = b.runOnce(args...)
	}
	return code, out
}

func (b *bench) runOnce(args ...string) (int, string) {
	b.Helper()
	c := b.wine(append([]string{"wine"}, args...)...)
	said, err := os.Create(filepath.Join(b.dir, "said")) // a pipe would be held open by the services that the first call starts
	must(b.T, err)
	defer said.Close()
	c.Stdout, c.Stderr = said, said
	if err = c.Start(); err == nil {
		late := time.AfterFunc(longestRun, func() { _ = c.Process.Kill() })
		err = c.Wait()
		late.Stop()
	}
	out, _ := os.ReadFile(said.Name())
	var failed *exec.ExitError
	if err != nil && !errors.As(err, &failed) {
		b.Fatalf("%v: %v\n%s", args, err, out)
	}
	return c.ProcessState.ExitCode(), string(out)
}

// install lets the engine run and gives its exit code; the shell sees the low 8
// bits only.
func (b *bench) install(log string, args ...string) int {
	b.Helper()
	code, _ := b.run(append([]string{"msiexec", "/qn", "/l*v", log}, args...)...)
	return code
}

// on is a path of the machine's drive C: on this disk.
func (b *bench) on(path string) string {
	return filepath.Join(b.prefix, "drive_c", filepath.FromSlash(strings.ReplaceAll(strings.TrimPrefix(path, `C:\`), `\`, "/")))
}

// edited is the scenario's planner package, changed, in the bench's folder.
func (b *bench) edited(name string, edit packageEdit) string {
	b.Helper()
	db, err := demo.Package("Berthline.msi")
	must(b.T, err)
	if edit != nil {
		edit(b.T, db)
	}
	path := filepath.Join(b.dir, name)
	f, err := os.Create(path)
	must(b.T, err)
	must(b.T, db.Write(f))
	must(b.T, f.Close())
	must(b.T, os.Chmod(path, 0o644))
	return path
}

// hollowkey runs our program on the machine.
func (b *bench) hollowkey(args ...string) (int, string) {
	b.Helper()
	call := append([]string{b.program, "--machine", "live", "--case", "case", "--no-color", "--width", "120"}, args...)
	code, out := b.run(call...)
	if code != 0 && strings.TrimSpace(out) == "" { // without a word it never fails by itself
		b.Logf("it said nothing, once more: %v", args)
		code, out = b.run(call...)
	}
	return code, out
}

// step takes one step there, to break or to tidy.
func (b *bench) step(kind string, args ...string) {
	b.Helper()
	call := []string{"fix", "--step", kind, "--yes"}
	for _, a := range args {
		call = append(call, "--arg", a)
	}
	if code, out := b.hollowkey(call...); code != 0 {
		b.Fatalf("%v: %d\n%s", call, code, out)
	}
}

// folder makes a folder with a file in it that nobody may write into.
func (b *bench) closed(path string) {
	b.Helper()
	at := b.on(path)
	must(b.T, os.MkdirAll(at, 0o755))
	must(b.T, os.WriteFile(filepath.Join(at, "old.txt"), []byte("old\n"), 0o644))
	b.ours(path)
	must(b.T, os.Chmod(at, 0o555))
}

// file puts a file there.
func (b *bench) file(path, text string) {
	b.Helper()
	must(b.T, os.MkdirAll(filepath.Dir(b.on(path)), 0o755))
	must(b.T, os.WriteFile(b.on(path), []byte(text), 0o644))
	b.ours(path)
}

// ours gives what was made outside to the user who works there.
func (b *bench) ours(path string) {
	b.Helper()
	if os.Getuid() != 0 {
		return
	}
	for at := b.on(path); len(at) > len(b.on(`C:\`)); at = filepath.Dir(at) {
		must(b.T, os.Chown(at, nobody, nobody))
	}
	_ = filepath.WalkDir(b.on(path), func(p string, _ os.DirEntry, err error) error {
		if err == nil {
			_ = os.Chown(p, nobody, nobody)
		}
		return nil
	})
}

const noLists = "this engine keeps no access lists of files"
