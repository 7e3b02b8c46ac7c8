package cli_test

import (
	"fmt"
	"path/filepath"
	"strings"
	"testing"
)

// A captured twin tells what the machine told, and a masked one no private
// name.
func TestCapture(t *testing.T) {
	dir := layOut(t)
	before := tree(t, filepath.Join(dir, "ELLERY-D07"))
	out := mustRun(t, dir, 0, "capture", "taken", "--machine", "ELLERY-D07", "--key", `HKLM\SOFTWARE\Saltmarsh Quay`).out
	if !strings.HasPrefix(out, "TAKEN taken:") {
		t.Error(out)
	}
	if d := differs(before, tree(t, filepath.Join(dir, "ELLERY-D07"))); len(d) > 0 {
		t.Errorf("the machine was changed: %v", d)
	}
	answers := func(machine string) string {
		var all []string
		for _, c := range decode[struct{ Checks []check }](t, mustRun(t, dir, 3, "ready", "--machine", machine, "--json").out).Checks {
			if c.Name != "cached packages" { // contents are not taken
				all = append(all, c.Name+" "+c.Answer+" "+c.Seen)
			}
		}
		return strings.Join(all, "\n")
	}
	if a, b := answers("ELLERY-D07"), answers("taken"); a != b {
		t.Errorf("the machine:\n%s\nits twin:\n%s", a, b)
	}
	list := mustRun(t, dir, 3, "cache", "--machine", "taken", "--all").out
	if !strings.Contains(list, "MISSING  product  Pilot Roster") || !strings.Contains(list, "NOT KNOWN  product  Wharfage Ledger") {
		t.Errorf("the cache of the twin:\n%s", list)
	}
	if a, b := mustRun(t, dir, 0, "startup", "--machine", "ELLERY-D07").out, mustRun(t, dir, 0, "startup", "--machine", "taken").out; a != b {
		t.Errorf("startup:\n%s\nof the twin:\n%s", a, b)
	}
	if r := mustRun(t, dir, 1, "capture", "taken", "--machine", "ELLERY-D07"); !strings.Contains(r.err, "new folder") {
		t.Error(r.err)
	}
	// Names inside of values that registry text holds in hex.
	reg := filepath.Join(dir, "ELLERY-D07", "registry")
	wide := func(text string) (hex string) {
		for _, r := range text {
			hex += fmt.Sprintf("%02x,00,", r)
		}
		return hex
	}
	secret := wide(`C:\Users\MWhitlow\x`) + "00,00"
	write(t, reg, "more.reg", "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Windows\\CurrentVersion\\Uninstall\\Quay]\r\n\"Icon\"=hex(2):"+
		strings.ToLower(secret)+"\r\n\"Blob\"=hex:"+strings.ToLower(wide("mwhitlow"))+"00\r\n\"Plain\"=hex:01,02\r\n")
	mustRun(t, dir, 0, "capture", "masked", "--machine", "ELLERY-D07", "--mask")
	for name, text := range tree(t, filepath.Join(dir, "masked")) {
		for _, private := range []string{"whitlow", "ellery-d07", "2104885761", strings.TrimSuffix(wide("hitlow"), ",")} {
			if strings.Contains(strings.ToLower(text), private) {
				t.Errorf("%s holds %q", name, private)
			}
		}
	}
	if machine := tree(t, filepath.Join(dir, "masked"))[filepath.FromSlash("registry/machine.reg")]; !strings.Contains(machine,
		"\"Plain\"=hex:01,02") || !strings.Contains(machine, "\"Icon\"=hex(2):") || strings.Contains(machine, "Blob") {
		t.Errorf("values of bytes: %s", machine)
	}
	mustRun(t, dir, 3, "ready", "--machine", "masked")
}
