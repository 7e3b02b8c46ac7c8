package verdict

import (
	_ "embed"
	"encoding/json"
	"strings"
	"testing"
)

//go:embed testdata/told.txt
var toldText string

// One line that tells a cause is enough, with a level and without, be its words
// phrases of the lexicon or not. A line that tells none stays unknown where no
// level calls it an error.
func TestCausesToldInOneLine(t *testing.T) {
	layouts := map[string]string{
		"without levels": "09:00:01 Kelp 3.1 setup starts\n09:00:02 reading manifest\n09:00:03 stage: prepare\n09:00:05 LINE\n09:00:05 rolling back\n09:00:06 setup failed\n",
		"with levels": "2026-03-03 09:00:01 INFO  Kelp 3.1 setup starts\n2026-03-03 09:00:02 INFO  reading manifest\n2026-03-03 09:00:03 INFO  stage: prepare\n" +
			"2026-03-03 09:00:05 ERROR LINE\n2026-03-03 09:00:05 INFO  rolling back\n2026-03-03 09:00:06 ERROR setup failed\n",
	}
	n := 0
	for row := range strings.Lines(toldText) {
		class, line, ok := strings.Cut(strings.TrimSpace(row), "|")
		if !ok {
			continue
		}
		n++
		for name, layout := range layouts {
			if class == "unknown" && name == "with levels" {
				continue
			}
			if v := reached(t, strings.Replace(layout, "LINE", line, 1)); *v.Cause.Class != class {
				t.Errorf("%s: %q is told as %s with %.2f, want %s", name, line, *v.Cause.Class, v.Cause.Confidence, class)
			}
		}
	}
	if n < 500 {
		t.Errorf("%d lines", n)
	}
}

// What a dialog says in such words is understood too; what says nothing of a
// failure is not taken for one.
func TestSaidInWordsOfItsOwn(t *testing.T) {
	all, right := 0, 0
	for row := range strings.Lines(toldText) {
		class, line, ok := strings.Cut(strings.TrimSpace(row), "|")
		if !ok || class == "unknown" {
			continue
		}
		v, err := Said(line, nil, Options{})
		if err != nil {
			t.Fatal(err)
		}
		if all++; v.Cause.Class != nil && *v.Cause.Class == class {
			right++
		}
	}
	if right*100 < all*90 {
		t.Errorf("%d of %d are right", right, all)
	}
	t.Logf("%d of %d", right, all)
	for _, text := range []string{"hello world", "There was a problem", "Please wait while the wizard prepares the installation.", "The harbour office opens at nine.",
		"Thank you for choosing Kelp.", "Click Next to continue.", "Kelp 3.1 of the Port Ellery harbour office", "Do you want to continue?", "Something went wrong.",
		"The tide table is read from the server every hour.", "Choose a folder for your charts.", "Unknown error", "Oops", "Error", "Setup has ended."} {
		v, err := Said(text, nil, Options{})
		if err != nil {
			t.Fatal(err)
		}
		if v.Cause.Class != nil && *v.Cause.Class != "unknown" {
			t.Errorf("%q is told as %s with %.2f", text, *v.Cause.Class, v.Cause.Confidence)
		}
	}
}

// What an action of a package prints before it fails is read in the engine's
// log as well, where the action is all that else is known.
func TestPrintedByAnAction(t *testing.T) {
	const log = "=== Verbose logging started: 5/4/2026  09:12:01  Build type: SHIP UNICODE 5.00.10011.00  Calling process: x ===\n" +
		"Action 9:12:01: INSTALL. \nAction start 9:12:01: INSTALL.\nAction 9:12:02: ConfigureKelp. \nAction start 9:12:02: ConfigureKelp.\n" +
		`MSI (s) (A4:10) [09:12:02:500]: Invoking remote custom action. DLL: C:\Windows\Installer\MSI3F2.tmp, Entrypoint: Configure` + "\n" +
		"Kelp: reading settings\nKelp: LINE\nKelp: leaving with 1603\n" +
		"CustomAction ConfigureKelp returned actual error code 1603 (note this may not be 100% accurate if translation happened inside sandbox)\n" +
		"Action ended 9:12:03: ConfigureKelp. Return value 3.\nAction ended 9:12:03: INSTALL. Return value 3.\n" +
		"Property(S): ProductName = Kelp\nMSI (c) (B4:5C) [09:12:03:400]: MainEngineThread is returning 1603\n"
	all, right := 0, 0
	for row := range strings.Lines(toldText) {
		class, line, ok := strings.Cut(strings.TrimSpace(row), "|")
		if !ok {
			continue
		}
		v := reached(t, strings.Replace(log, "LINE", line, 1))
		if class == "unknown" {
			if v.Cause.Confidence >= 0.9 && *v.Cause.Class != "custom-action" {
				t.Errorf("%q is told as %s with %.2f", line, *v.Cause.Class, v.Cause.Confidence)
			}
			continue
		}
		if all++; *v.Cause.Class == class {
			right++
		}
	}
	if right*100 < all*88 {
		t.Errorf("%d of %d are right", right, all)
	}
	t.Logf("%d of %d", right, all)
}

// The same lines in the forms of other programs: a bootstrapper of several
// packages, an agent, a table, a result file, a report of names and values.
func TestToldInOtherForms(t *testing.T) {
	forms := map[string]string{
		"chain": "[0A1C:0B2D][2026-05-04T09:12:01]i000: Setting string variable 'BundleName' to value 'Kelp Suite'\n[0A1C:0B2D][2026-05-04T09:12:02]i300: Apply begin\n" +
			`[0A1C:0B2D][2026-05-04T09:12:03]i301: Applying execute package: KelpCore, action: Install, path: C:\Kelp\core.exe, arguments: '"C:\Kelp\core.exe" /q'` + "\n" +
			"[0A1C:0B2D][2026-05-04T09:12:05]e000: LINE\n[0A1C:0B2D][2026-05-04T09:12:06]i319: Applied execute package: KelpCore, result: 0x80070643, restart: None\n" +
			"[0A1C:0B2D][2026-05-04T09:12:06]e000: Error 0x80070643: Failed to execute EXE package.\n" +
			"[0A1C:0B2D][2026-05-04T09:12:07]i399: Apply complete, result: 0x80070643, restart: None, ba requested restart:  No\n" +
			"[0A1C:0B2D][2026-05-04T09:12:07]i007: Exit code: 0x643, restarting: No\n",
		"table": "#Software: Kelp setup 3.1\n#Fields: date time level message\n2026-05-04 09:12:00 INFO \"reading manifest\"\n2026-05-04 09:12:01 ERROR LINE\n2026-05-04 09:12:02 ERROR setup failed, exit code 12\n",
		"two lines": "info: Kelp.Setup[0]\n      Kelp 3.1 setup starts\ninfo: Kelp.Setup[0]\n      reading manifest\nfail: Kelp.Setup.Worker[3]\n      LINE\n" +
			"fail: Kelp.Setup[0]\n      setup failed, exit code 12\n",
		"document": `{` + "\n" + ` "product": {"name": "Kelp", "version": "3.1"},` + "\n" + ` "steps": [{"name": "prepare", "state": "ok"}, {"name": "configure", "state": "failed",` + "\n" +
			` "error": {"text": "JSON"}}],` + "\n" + ` "exitCode": 12, "result": "failed"` + "\n}\n",
		"result": "[Setup]\nProduct=Kelp\nVersion=3.1\nResult=failed\nExitCode=12\n[LastError]\nText=LINE\n",
		"report": "Product: Kelp 3.1\nMachine: ELY-D07\nStarted: 2026-05-04 09:12\nResult: failed\nExit code: 12\nReason: LINE\n",
	}
	for name, form := range forms {
		all, right := 0, 0
		for row := range strings.Lines(toldText) {
			class, line, ok := strings.Cut(strings.TrimSpace(row), "|")
			if !ok || class == "unknown" || all == 250 {
				continue
			}
			quoted, err := json.Marshal(line)
			if err != nil {
				t.Fatal(err)
			}
			log := strings.NewReplacer("LINE", line, `"JSON"`, string(quoted)).Replace(form)
			if all++; *reached(t, log).Cause.Class == class {
				right++
			}
		}
		if right*100 < all*78 {
			t.Errorf("%s: %d of %d are right", name, right, all)
		}
		t.Logf("%s: %d of %d", name, right, all)
	}
}
