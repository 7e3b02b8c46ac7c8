package cli_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"strings"
	"testing"
)

// fence is a block of a page: its language, the file that it is, its text.
var fence = regexp.MustCompile("(?ms)^```(\\w+)(?: file=(\\S+))?\n(.*?)^```$")

// The pages of tasks do what they say: their files are copied out, and every
// command runs.
func TestTaskPages(t *testing.T) {
	t.Parallel() // it takes long, and most of it is waiting for processes
	if runtime.GOOS == "windows" {
		t.Skip("a POSIX shell is needed")
	}
	pages, err := filepath.Glob(filepath.Join("..", "docs", "tasks", "*.md"))
	if err != nil || len(pages) < 5 {
		t.Fatal(pages, err)
	}
	bin := filepath.Join(t.TempDir(), "bin")
	if err := os.Mkdir(bin, 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.Symlink(program, filepath.Join(bin, "hollowkey")); err != nil {
		t.Fatal(err)
	}
	ran := 0
	for _, page := range pages {
		b, err := os.ReadFile(page)
		if err != nil {
			t.Fatal(err)
		}
		dir := layOut(t)
		for _, m := range fence.FindAllStringSubmatch(string(b), -1) {
			if m[2] != "" {
				if err := os.MkdirAll(filepath.Join(dir, filepath.Dir(m[2])), 0o755); err != nil {
					t.Fatal(err)
				}
				write(t, dir, m[2], m[3])
			}
			if m[1] != "sh" {
				continue
			}
			for line := range strings.Lines(m[3]) {
				ran++
				sh := exec.Command("sh", "-c", line)
				sh.Dir = dir
				sh.Env = append(os.Environ(), "PATH="+bin+string(os.PathListSeparator)+os.Getenv("PATH"))
				out, _ := sh.CombinedOutput()
				if code := sh.ProcessState.ExitCode(); code != 0 && code != 3 {
					t.Errorf("%s: %s ends with %d:\n%s", page, strings.TrimSpace(line), code, out)
				}
			}
		}
	}
	if ran < 15 {
		t.Errorf("only %d commands were run", ran)
	}
}
