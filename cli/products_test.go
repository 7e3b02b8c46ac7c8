package cli_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

type productList struct {
	Products []struct {
		Name, Health string
		ProductCode  string `json:"product_code"`
		Services     []string
		Faults       []struct{ Health, Seen string }
	}
}

// The demo's machine has one product that is whole and three that are not, each
// in its own way; what is meant is found by name, part of it, stars and code.
func TestProducts(t *testing.T) {
	dir := layOut(t)
	const on = "--machine=ELLERY-D07"
	list := decode[productList](t, mustRun(t, dir, 3, "products", on, "--json").out)
	got := map[string]string{}
	for _, p := range list.Products {
		got[p.Name] = p.Health
	}
	for name, want := range map[string]string{"Buoy Book": "orphan entry", "Fairway Radio 1": "half removed",
		"Pilot Roster": "cached copy missing", "Wharfage Ledger": "sound"} {
		if got[name] != want {
			t.Errorf("%s is %q, want %q", name, got[name], want)
		}
	}
	if len(list.Products) != 4 {
		t.Errorf("%d products", len(list.Products))
	}
	mustRun(t, dir, 0, "products", "Wharfage*", on)
	mustRun(t, dir, 0, "products", "{C41F7E08-93B2-4D6A-8E15-70A2B9D3F644}", on)
	if r := mustRun(t, dir, 3, "products", "buoy", on); !strings.Contains(r.out, "1605") ||
		!strings.Contains(r.out, "products mend '{5E2C9A14") {
		t.Errorf("one product: %s", r.out)
	}
	if r := mustRun(t, dir, 3, "products", "Nobody's", on); !strings.Contains(r.out, "hollowkey leftovers") {
		t.Errorf("none: %s", r.out)
	}
	if r := mustRun(t, dir, 3, "products", on, "--csv"); !strings.HasPrefix(r.out, "name,version,") || strings.Count(r.out, "\n") != 5 {
		t.Errorf("csv: %s", r.out)
	}
	if r := mustRun(t, dir, 2, "products", "mend", "*r*", on); !strings.Contains(r.err, "several products") {
		t.Errorf("several: %s", r.err)
	}
	before := tree(t, filepath.Join(dir, "ELLERY-D07"))
	mustRun(t, dir, 0, "products", "mend", "Buoy Book", on, "--preview")
	mustRun(t, dir, 3, "products", "mend", "Pilot Roster", on, "--yes") // its package is not here
	mustRun(t, dir, 0, "products", "mend", "Wharfage Ledger", on, "--yes")
	same(t, before, tree(t, filepath.Join(dir, "ELLERY-D07")))
	mustRun(t, dir, 0, "products", "mend", "Buoy Book", on, "--yes")
	mustRun(t, dir, 0, "products", "mend", "Pilot Roster", on, "--from", "share", "--yes")
	if list := decode[productList](t, mustRun(t, dir, 3, "products", on, "--broken", "--json").out); len(list.Products) != 1 {
		t.Errorf("broken after mending: %+v", list)
	}
	mustRun(t, dir, 0, "undo", on, "--yes")
	mustRun(t, dir, 0, "undo", on, "--yes")
	same(t, before, tree(t, filepath.Join(dir, "ELLERY-D07")))
}

func same(t *testing.T, a, b map[string]string) {
	t.Helper()
	for name, text := range a {
		if b[name] != text {
			t.Errorf("%s has changed", name)
		}
	}
	if len(a) != len(b) {
		t.Errorf("%d files, then %d", len(a), len(b))
	}
}

// What of a product runs is stopped in order and told with whose it is; a
// program of the same name from elsewhere is left alone, and services come
// back.
func TestProductsStop(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	edit := func(name, from, to string) {
		t.Helper()
		b, err := os.ReadFile(filepath.Join(twin, name))
		if err != nil || !strings.Contains(string(b), from) {
			t.Fatalf("%s: %v", name, err)
		}
		if err := os.WriteFile(filepath.Join(twin, name), []byte(strings.Replace(string(b), from, to, 1)), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	const program = `C:\Program Files\Saltmarsh Quay\Tidebook\tidebook.exe`
	edit("registry/machine.reg", "[HKEY_LOCAL_MACHINE\\SOFTWARE\\WOW6432Node\\Microsoft\\Windows\\CurrentVersion\\Uninstall\\FairwayRadio1]",
		"[HKEY_LOCAL_MACHINE\\SOFTWARE\\Microsoft\\Windows\\CurrentVersion\\Uninstall\\Tidebook]\r\n\"DisplayName\"=\"Tidebook\"\r\n\"InstallLocation\"=\"C:\\\\Program Files\\\\Saltmarsh Quay\\\\Tidebook\"\r\n\r\n"+
			"[HKEY_LOCAL_MACHINE\\SOFTWARE\\WOW6432Node\\Microsoft\\Windows\\CurrentVersion\\Uninstall\\FairwayRadio1]")
	at := filepath.Join(twin, "disk", "C", "Program Files", "Saltmarsh Quay", "Tidebook")
	if err := os.MkdirAll(at, 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(at, "tidebook.exe"), []byte("MZ"), 0o644); err != nil {
		t.Fatal(err)
	}
	services, err := os.ReadFile(filepath.Join(twin, "services.yaml"))
	if err != nil {
		t.Fatal(err)
	}
	more := "- name: TidebookHelper\n  binary: '\"" + program + "\" /service'\n  start: manual\n  account: LocalSystem\n  state: running\n" +
		"- name: TideGate\n  binary: C:\\gate.exe\n  start: manual\n  account: LocalSystem\n  depends on: [TidebookHelper]\n  state: running\n"
	if err := os.WriteFile(filepath.Join(twin, "services.yaml"), append(services, more...), 0o644); err != nil {
		t.Fatal(err)
	}
	edit("twin.yaml", "processes:\n", "processes:\n  - { id: 7001, name: tidebook.exe, user: mwhitlow }\n")
	before := tree(t, twin)
	r := mustRun(t, dir, 0, "products", "stop", "Tidebook", "--machine", "ELLERY-D07", "--preview")
	for _, want := range []string{"TidebookHelper", "TideGate", "process 5204, of dpayne",
		"process 7001, of mwhitlow: where it runs from is"} {
		if !strings.Contains(r.out, want) {
			t.Errorf("the preview lacks %q:\n%s", want, r.out)
		}
	}
	same(t, before, tree(t, twin))
	mustRun(t, dir, 0, "products", "stop", "Tidebook", "--machine", "ELLERY-D07", "--yes")
	after := tree(t, twin)
	if text := after["twin.yaml"]; strings.Contains(text, "5204") || !strings.Contains(text, "7001") {
		t.Errorf("the programs afterwards: %s", text)
	}
	if strings.Count(after["services.yaml"], "running") != strings.Count(before["services.yaml"], "running")-2 {
		t.Errorf("the services afterwards: %s", after["services.yaml"])
	}
	mustRun(t, dir, 0, "undo", "--machine", "ELLERY-D07", "--all", "--yes")
	if tree(t, twin)["services.yaml"] != before["services.yaml"] {
		t.Error("the services are not as they were")
	}
	if r := mustRun(t, dir, 0, "products", "stop", "Wharfage Ledger",
		"--machine", "ELLERY-D07", "--yes"); !strings.Contains(r.out, "Nothing of") {
		t.Errorf("what does not run: %s", r.out)
	}
}
