package cli_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

type hunting struct {
	Round int
	Off   []struct{ ID string }
	Found [][]struct{ ID string }
	Done  bool
	None  bool `json:"none_to_blame"`
}

func TestStartupHold(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	before := tree(t, twin)
	list := mustRun(t, dir, 0, "startup", "--machine", "ELLERY-D07").out
	for _, want := range []string{"service:FairwayRadio", "run:Tide Widget", "run:32:Ledger Reminder", "file:Harbour Clock.lnk",
		"8 items start", "task:Tide Table Download"} {
		if !strings.Contains(list, want) {
			t.Errorf("the list lacks %q:\n%s", want, list)
		}
	}
	if strings.Contains(list, "Spooler") || strings.Contains(list, "SecurityHealth") {
		t.Errorf("the OS's own parts are listed:\n%s", list)
	}
	mustRun(t, dir, 0, "startup", "hold", "--machine", "ELLERY-D07", "--preview")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("the preview changed %v", d)
	}
	if r := mustRun(t, dir, 0, "startup", "hold", "--machine", "ELLERY-D07", "--exempt", "service:QuayWatch",
		"--yes"); !strings.Contains(r.err, "hold in force: startup items off") {
		t.Errorf("no word of the hold: %s", r.err)
	}
	held := mustRun(t, dir, 0, "startup", "--machine", "ELLERY-D07").out
	if !strings.Contains(held, "1 item starts") || !strings.Contains(held, "service:QuayWatch") {
		t.Errorf("held:\n%s", held)
	}
	mustRun(t, dir, 0, "startup", "release", "--yes", "--machine", "ELLERY-D07")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after the release these differ: %v", d)
	}
	mustRun(t, dir, 3, "startup", "release", "--machine", "ELLERY-D07")
	mustRun(t, dir, 2, "startup", "hold", "--machine", "ELLERY-D07", "--exempt", "service:Nobody")
}

// A whole hunt on the twin, for one culprit, for two that count only together,
// and for none.
func TestStartupHunt(t *testing.T) {
	t.Parallel() // it takes long, and most of it is waiting for processes
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	before := tree(t, twin)
	hunt := func(code int, args ...string) hunting {
		return decode[hunting](t, mustRun(t, dir, code,
			append([]string{"startup", "hunt", "--machine", "ELLERY-D07", "--json", "--yes"}, args...)...).out)
	}
	for _, culprits := range [][]string{{"service:FairwayRadio"}, {"file:Harbour Clock.lnk"}, {"run:Tide Widget", "service:QuayWatch"}} {
		h := hunt(0)
		if len(h.Off) != 8 || h.Round != 1 {
			t.Fatalf("the first round: %+v", h)
		}
		for rounds := 0; !h.Done; rounds++ {
			if rounds > 20 {
				t.Fatal("no end")
			}
			broken := true
			for _, c := range culprits {
				for _, o := range h.Off {
					broken = broken && o.ID != c
				}
			}
			if h = hunt(0, map[bool]string{true: "--failed", false: "--worked"}[broken]); h.Done {
				break
			}
			if again := hunt(0); again.Round != h.Round || len(again.Off) != len(h.Off) {
				t.Errorf("called again the round is another: %+v, %+v", again, h)
			}
		}
		found := map[string]bool{}
		for _, i := range h.Found[0] {
			found[i.ID] = true
		}
		if len(h.Found) != 1 || len(found) != len(culprits) || !found[culprits[0]] {
			t.Errorf("culprits %v: found %+v", culprits, h.Found)
		}
		if d := differs(before, tree(t, twin)); len(d) > 0 {
			t.Errorf("after the hunt these differ: %v", d)
		}
	}
	hunt(0)
	if h := hunt(3, "--failed"); !h.None || !h.Done {
		t.Errorf("with everything held it fails: %+v", h)
	}
	hunt(0)
	mustRun(t, dir, 0, "startup", "hunt", "--machine", "ELLERY-D07", "--stop", "--yes")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after the stop these differ: %v", d)
	}
	if r := mustRun(t, dir, 1, "startup", "hunt", "--machine", "ELLERY-D07", "--worked"); !strings.Contains(r.err, "no hunt is under way") {
		t.Error(r.err)
	}
}

// What guards a machine, or lets somebody reach it, is left alone until it is
// named; and nothing is held or released without a yes.
func TestWhatIsLeftAlone(t *testing.T) {
	dir := layOut(t)
	twin := filepath.Join(dir, "ELLERY-D07")
	reg := filepath.Join(twin, "registry", "machine.reg")
	b, err := os.ReadFile(reg)
	if err != nil {
		t.Fatal(err)
	}
	more := ""
	for name, values := range map[string]string{
		"ReefGuard": `"Start"=dword:00000002` + "\n" + `"ImagePath"="C:\\Program Files\\Reef\\guard.exe"` + "\n" +
			`"LaunchProtected"=dword:00000003`,
		"ReefScan": `"Start"=dword:00000000` + "\n" + `"Group"="FSFilter Anti-Virus"`,
		"ReefAgent": `"Start"=dword:00000002` + "\n" + `"ImagePath"="C:\\Program Files\\Reef\\agent.exe"` + "\n" +
			`"DependOnService"=hex(7):52,00,65,00,65,00,66,00,53,00,63,00,61,00,6e,00,00,00,00,00`,
		"PilotLine": `"Start"=dword:00000002` + "\n" + `"ImagePath"="C:\\Program Files\\Line\\line.exe"` + "\n" +
			`"DisplayName"="Pilot Line Remote Support"`,
		"Breakwater": `"Start"=dword:00000002` + "\n" + `"ImagePath"="C:\\Program Files\\Break\\water.exe"` + "\n" +
			`"DisplayName"="Breakwater drive encryption"`,
	} {
		more += "\n[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Services\\" + name + "]\n" + values + "\n"
	}
	if strings.Contains(string(b), "\r\n") {
		more = strings.ReplaceAll(more, "\n", "\r\n")
	}
	write(t, filepath.Dir(reg), "machine.reg", string(b)+more)
	services, err := os.ReadFile(filepath.Join(twin, "services.yaml"))
	if err != nil {
		t.Fatal(err)
	}
	for name, display := range map[string]string{"ReefGuard": "Reef Guard", "ReefAgent": "Reef Agent",
		"PilotLine": "Pilot Line Remote Support", "Breakwater": "Breakwater drive encryption"} {
		services = fmt.Appendf(services, "- name: %s\n  display: %s\n  binary: 'C:\\Program Files\\%s\\a.exe'\n  start: automatic\n  account: LocalSystem\n  state: running\n", name, display, name)
		if name == "ReefAgent" {
			services = append(services, "  depends on: [ReefScan]\n"...)
		}
	}
	write(t, twin, "services.yaml", string(services))
	type listed struct {
		Items []struct{ ID, Concern string }
	}
	concern := map[string]string{}
	for _, i := range decode[listed](t, mustRun(t, dir, 0, "startup", "--machine", "ELLERY-D07", "--json").out).Items {
		concern[i.ID] = i.Concern
	}
	for id, want := range map[string]string{"service:ReefGuard": "security software",
		"service:ReefAgent": "security software", "service:PilotLine": "remote access",
		"service:Breakwater": "disk encryption", "service:QuayWatch": ""} {
		if got, there := concern[id]; !there || got != want {
			t.Errorf("%s: %q, want %q", id, got, want)
		}
	}
	before := tree(t, twin)
	r := mustRun(t, dir, 0, "startup", "hold", "--machine", "ELLERY-D07", "--include", "service:PilotLine", "--preview")
	if strings.Contains(r.out, "ReefGuard") || !strings.Contains(r.out, "PilotLine") ||
		!strings.Contains(r.err, "Left alone: service:ReefGuard, security software: while it is held, nothing guards the machine") {
		t.Errorf("what is left alone: %s\n%s", r.out, r.err)
	}
	for _, call := range [][]string{{"startup", "hold"}, {"startup", "hunt"}, {"logs", "verbose", "on"},
		{"ready", "mend"}, {"leftovers", "clear", "Fairway Radio 1"},
		{"startup", "safe", "minimal"}, {"cache", "restore", "--from", "share"}, {"products", "mend", "Pilot Roster", "--from", "share"}} {
		if r := mustRun(t, dir, 1, append(call, "--machine", "ELLERY-D07")...); !strings.Contains(r.err, "no terminal to ask on") {
			t.Errorf("%v without a yes: %s", call, r.err)
		}
	}
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("without a yes these changed: %v", d)
	}
	mustRun(t, dir, 0, "startup", "hold", "--machine", "ELLERY-D07", "--yes")
	held := tree(t, twin)
	mustRun(t, dir, 1, "startup", "release", "--machine", "ELLERY-D07")
	mustRun(t, dir, 0, "startup", "release", "--machine", "ELLERY-D07", "--preview")
	if d := differs(held, tree(t, twin)); len(d) > 0 {
		t.Errorf("released without a yes: %v", d)
	}
	mustRun(t, dir, 0, "startup", "release", "--machine", "ELLERY-D07", "--yes")
	if d := differs(before, tree(t, twin)); len(d) > 0 {
		t.Errorf("after the release these differ: %v", d)
	}
}
