package realengine

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/package/installdb"
)

// A product that a real engine installed is broken in each way that leaves
// something to mend. Its fault is told; the engine cannot uninstall it, where
// it should not; after products mend the engine repairs and uninstalls it.
func TestProductsMended(t *testing.T) {
	path := planner(t)
	_, copied := altered(t, path, dropCondition, dropProgram)
	program := build(t, "build", "hollowkey/cmd/hollowkey")
	const code = "{7B3D1A60-52C4-4D0E-8F3A-91C2E6B7A031}"
	packed := installdb.PackCode(code)
	const engineKey = `HKLM\Software\Microsoft\Windows\CurrentVersion\Installer`
	archive := t.TempDir()
	run := func(want int, args ...string) string {
		t.Helper()
		return expect(t, archive, program, want, append(args, "--machine", "live", "--case", windowsPath(filepath.Join(archive, "case")))...)
	}
	forget := func(key string, more ...string) {
		t.Helper()
		if out, err := wine(append([]string{"wine", "reg", "delete", key, "/f"}, more...)...).CombinedOutput(); err != nil {
			t.Fatalf("%s: %v\n%s", key, err, out)
		}
	}
	inCache := func() string {
		t.Helper()
		list, err := filepath.Glob(filepath.Join(prefix, "drive_c", "windows", "Installer", "*.msi"))
		must(t, err)
		if len(list) != 1 {
			t.Fatalf("in the cache: %v", list)
		}
		return list[0]
	}
	health := func() string {
		t.Helper()
		c := wine("wine", program, "products", code, "--machine", "live", "--json")
		out, _ := c.Output()
		var a struct {
			Products []struct{ Health string }
		}
		if err := json.Unmarshal(out, &a); err != nil || len(a.Products) != 1 {
			t.Fatalf("%v: %s", err, out)
		}
		return a.Products[0].Health
	}
	if code := install(t, "/i", windowsPath(copied), "/qn"); code != 0 {
		t.Fatalf("install: %d", code)
	}
	if h := health(); h != "sound" && h != "source gone" {
		t.Fatalf("as it was installed: %s: %s", h, run(3, "products", code))
	}
	install(t, "/x", code, "/qn")
	for _, c := range []struct {
		name, health string
		breakIt      func()
		mend         []string
		stays        bool // the engine works all the same
		anew         bool // it is to be installed anew after mending
	}{
		{name: "its cached package has another name", health: "wrong path",
			breakIt: func() {
				must(t, os.Rename(inCache(), filepath.Join(prefix, "drive_c", "windows", "Installer", "e0e0e.msi")))
			}},
		{name: "its cached package is gone", health: "cached copy missing",
			breakIt: func() { must(t, os.Rename(inCache(), filepath.Join(archive, "kept.msi"))) },
			mend:    []string{"--from", windowsPath(archive)}},
		{name: "its cached package is cut", health: "cached copy damaged", breakIt: func() {
			b, err := os.ReadFile(inCache())
			must(t, err)
			must(t, os.WriteFile(filepath.Join(archive, "kept.msi"), b, 0o644))
			must(t, os.WriteFile(inCache(), b[:900], 0o644))
		}, mend: []string{"--from", windowsPath(archive)}},
		{name: "the engine's list does not have it", health: "half removed", breakIt: func() {
			forget(`HKLM\Software\Classes\Installer\Products\` + packed)
			forget(`HKLM\Software\Classes\Installer\Features\` + packed)
		}},
		{name: "it is not among the installed programs", health: "half removed", stays: true, breakIt: func() {
			forget(`HKLM\Software\WOW6432Node\Microsoft\Windows\CurrentVersion\Uninstall\` + code) // a package of 32 bits
		}},
		{name: "the engine's data is gone", health: "half removed", anew: true, breakIt: func() {
			forget(engineKey + `\UserData\S-1-5-18\Products\` + packed)
		}},
	} {
		source := filepath.Join(t.TempDir(), "planner.msi")
		b, err := os.ReadFile(copied)
		must(t, err)
		must(t, os.WriteFile(source, b, 0o644))
		if exit := install(t, "/i", windowsPath(source), "/qn"); exit != 0 {
			t.Fatalf("%s: install: %d", c.name, exit)
		}
		must(t, os.Remove(source)) // the engine would help itself there
		c.breakIt()
		if h := health(); h != c.health {
			t.Errorf("%s: it is %q, not %q\n%s", c.name, h, c.health, run(3, "products", code))
		}
		if exit := install(t, "/fu", code, "/qn"); exit == 0 && !c.stays {
			t.Logf("%s: the engine repairs it all the same", c.name)
		}
		out := run(0, append([]string{"products", "mend", code, "--yes"}, c.mend...)...)
		if c.anew {
			if exit := install(t, "/i", windowsPath(copied), "/qn"); exit != 0 {
				t.Errorf("%s: installing anew: %d\n%s", c.name, exit, out)
			}
		} else if h := health(); h != "sound" && h != "source gone" {
			t.Errorf("%s: after mending it is %q\n%s", c.name, h, out)
		}
		if exit := install(t, "/x", code, "/qn"); exit != 0 {
			t.Errorf("%s: after mending the engine uninstalls with %d\n%s", c.name, exit, out)
		}
		if left := run(0, "products"); strings.Contains(left, "Berthline Planner") {
			t.Errorf("%s: still listed after uninstalling:\n%s", c.name, left)
		}
	}
}
