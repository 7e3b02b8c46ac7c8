package cli_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/cli"
	"hollowkey/core/fix/checkpoint"
	"hollowkey/demo"
)

var program string

// crashAt names the moment at which the test binary, run as the program, ends
// as if the power had gone. The program itself knows no such thing.
const crashAt = "HOLLOWKEY_TEST_CRASH"

// TestMain builds the program once; every test runs it as a person would.
func TestMain(m *testing.M) {
	if moment := os.Getenv(crashAt); moment != "" {
		checkpoint.Reached = func(now string) {
			if now == moment {
				os.Exit(crashed)
			}
		}
		os.Exit(cli.Main(os.Args[1:], os.Stdin, os.Stdout, os.Stderr))
	}
	flag.Parse()
	if flag.Lookup("test.fuzz").Value.String() != "" { // no target runs the program, and each worker would build it
		os.Exit(m.Run())
	}
	dir, err := os.MkdirTemp("", "hollowkey")
	if err != nil {
		panic(err)
	}
	program = filepath.Join(dir, "hollowkey.exe") // the suffix does no harm elsewhere
	if out, err := exec.Command("go", "build", "-o", program, "hollowkey/cmd/hollowkey").CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "go build: %v\n%s", err, out)
		os.Exit(1)
	}
	code := m.Run()
	os.RemoveAll(dir) // os.Exit runs no defers
	os.Exit(code)
}

type result struct {
	out, err string
	code     int
}

// crashed is the exit status of a run that ended at its moment: none of ours.
const crashed = 86

// crash runs the program until a moment, at which it exits immediately.
func crash(t *testing.T, dir, moment string, args ...string) result {
	t.Helper()
	return runAs(t, os.Args[0], dir, []string{crashAt + "=" + moment}, args...)
}

// run runs the program in dir, with more environment.
func run(t *testing.T, dir string, env []string, args ...string) result {
	t.Helper()
	return runAs(t, program, dir, env, args...)
}

func runAs(t *testing.T, program, dir string, env []string, args ...string) result {
	t.Helper()
	cmd := exec.Command(program, args...)
	cmd.Dir = dir
	cmd.Env = append(append(os.Environ(), "NO_COLOR=1"), env...)
	var out, errOut bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errOut
	err := cmd.Run()
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		t.Fatal(err)
	}
	return result{out.String(), errOut.String(), cmd.ProcessState.ExitCode()}
}

// mustRun runs the program and wants an exit status.
func mustRun(t *testing.T, dir string, code int, args ...string) result {
	t.Helper()
	r := run(t, dir, nil, args...)
	if r.code != code {
		t.Fatalf("hollowkey %s: exit status %d, want %d\n%s%s", strings.Join(args, " "), r.code, code, r.out, r.err)
	}
	return r
}

func decode[T any](t *testing.T, text string) (v T) {
	t.Helper()
	if err := json.Unmarshal([]byte(text), &v); err != nil {
		t.Fatalf("%v\n%s", err, text)
	}
	return v
}

// tree reads every file and names every folder below dir.
func tree(t *testing.T, dir string) map[string]string {
	t.Helper()
	files := map[string]string{}
	err := filepath.WalkDir(dir, func(p string, d fs.DirEntry, err error) error {
		rel, _ := filepath.Rel(dir, p)
		if err != nil || d.IsDir() {
			files[rel+"/"] = "folder"
			return err
		}
		b, err := os.ReadFile(p)
		files[rel] = string(b)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return files
}

// onlyFiles leaves the folders of a tree out.
func onlyFiles(tree map[string]string) map[string]string {
	maps.DeleteFunc(tree, func(name, _ string) bool { return strings.HasSuffix(name, "/") })
	return tree
}

func differs(a, b map[string]string) (names []string) {
	for n := range a {
		if was, ok := b[n]; !ok || a[n] != was {
			names = append(names, n)
		}
	}
	for n := range b {
		if _, ok := a[n]; !ok {
			names = append(names, n)
		}
	}
	return names
}

// layOut lays the demo's data into a folder of the test's own.
func layOut(t *testing.T) string {
	t.Helper()
	dir := filepath.Join(t.TempDir(), "d")
	if err := demo.LayOut(dir); err != nil {
		t.Fatal(err)
	}
	return dir
}

// The program is not read by go test's cache; calling it in process makes a
// change of it count.
func TestInProcess(t *testing.T) {
	var out, errOut bytes.Buffer
	if code := cli.Main([]string{"code", "1603"}, strings.NewReader(""), &out, &errOut); code != 0 ||
		!strings.Contains(out.String(), "names no reason") {
		t.Errorf("code 1603: %d\n%s%s", code, out.String(), errOut.String())
	}
}

func write(t *testing.T, dir, name, text string) {
	t.Helper()
	if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
}
