package why_test

import (
	"encoding/json"
	"fmt"
	"html"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/logs/textfile"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
	"hollowkey/demo/demotest"
)

// clothes are changes of a log's form that mean nothing.
var clothes = map[string]func(lines []string) []string{
	"stamped": func(ls []string) []string {
		return each(ls, func(i int, l string) string { return fmt.Sprintf("[2026-05-04 09:%02d:%02d.120] %s", i/60%60, i%60, l) })
	},
	"of a deployment": func(ls []string) []string {
		return each(ls, func(i int, l string) string { return "[09:14:02] [deploy] [pid 4420] " + l })
	},
	"of a system log": func(ls []string) []string {
		return each(ls, func(i int, l string) string {
			return fmt.Sprintf("<134>May  4 09:14:%02d d07 runner[4420]: %s", i%60, l)
		})
	},
	"in columns": func(ls []string) []string {
		return each(ls, func(i int, l string) string { return fmt.Sprintf("2026-05-04 09:14:02\tINFO\trunner\t%s", l) })
	},
	"quoted twice": func(ls []string) []string { return each(ls, func(_ int, l string) string { return "> > " + l }) },
	"indented":     func(ls []string) []string { return each(ls, func(_ int, l string) string { return "\t" + l }) },
	"coloured": func(ls []string) []string {
		return each(ls, func(i int, l string) string {
			if i%3 == 0 {
				return "\x1b[31;1m" + l + "\x1b[0m"
			}
			return l
		})
	},
	"with lines between": func(ls []string) (out []string) {
		for _, l := range ls {
			out = append(out, l, "")
		}
		return out
	},
	"without blanks at the ends": func(ls []string) []string {
		return each(ls, func(_ int, l string) string { return strings.TrimRight(l, " \r") })
	},
	"behind another program's output": func(ls []string) []string {
		var head []string
		for i := range 900 {
			head = append(head, fmt.Sprintf("inventory: %d components seen, cache warm", i*7))
		}
		return append(head, ls...)
	},
	"before another program's output": func(ls []string) []string {
		for i := range 200 {
			ls = append(ls, fmt.Sprintf("inventory: %d components seen, cache warm", i*7))
		}
		return ls
	},
	"stamped and behind other output": func(ls []string) []string {
		var head []string
		for i := range 500 {
			head = append(head, fmt.Sprintf("inventory: %d components seen, cache warm", i*7))
		}
		return each(append(head, ls...), func(i int, l string) string { return fmt.Sprintf("09:%02d:%02d | %s", i/60%60, i%60, l) })
	},
	"listed by a search": func(ls []string) []string {
		return each(ls, func(i int, l string) string { return fmt.Sprintf(`C:\logs\setup.log:%d:%s`, i+1, l) })
	},
	"with a viewer's count": func(ls []string) []string {
		return each(ls, func(i int, l string) string { return fmt.Sprintf("%6d\t%s", i+1, l) })
	},
	"in quotation marks": func(ls []string) []string {
		return each(ls, func(_ int, l string) string { return `"` + strings.ReplaceAll(l, `"`, `""`) + `"` })
	},
	"as rows of a table": func(ls []string) []string {
		return each(ls, func(i int, l string) string { return fmt.Sprintf(`%d,"%s"`, i+1, strings.ReplaceAll(l, `"`, `""`)) })
	},
	"as a collector's objects": func(ls []string) []string {
		return each(ls, func(i int, l string) string {
			b, _ := json.Marshal(map[string]any{"time": fmt.Sprintf("2026-05-04T09:%02d:%02dZ", i/60%60, i%60), "level": "info", "message": l})
			return string(b)
		})
	},
	"shown by a page": func(ls []string) []string {
		return append(append([]string{"<html><body><pre>"}, each(ls, func(_ int, l string) string { return html.EscapeString(l) })...), "</pre></body></html>")
	},
	"in a mail": func(ls []string) []string {
		return append(append([]string{"From: desk", "Subject: it won't install", "", "Hello, here it is:", "```"}, ls...), "```", "", "Thanks")
	},
	"behind a name": func(ls []string) []string {
		return each(ls, func(_ int, l string) string { return "d07 | " + l })
	},
	"behind a runner's level": func(ls []string) []string {
		return each(ls, func(i int, l string) string {
			return fmt.Sprintf("2026-05-04 09:%02d:%02d INFO  runner - %s", i/60%60, i%60, l)
		})
	},
	"behind an agent's records": func(ls []string) []string { return append(agent(), ls...) },
	"before an agent's records": func(ls []string) []string { return append(ls, agent()...) },
}

// agent are records of another program, with times and no word of a setup.
func agent() (out []string) {
	for i := range 200 {
		out = append(out, fmt.Sprintf("2026-05-04 08:%02d:%02d,120 [main] DEBUG poller - tick %d, queue 0", i/60, i%60, i))
	}
	return out
}

// strangers are logs of other programs, in forms of their own.
var strangers = map[string]string{
	"records of several lines": "2026-05-04 09:00:01,120 [1] INFO  Kelp.Setup - Kelp Chart 3.1 setup starting\n" +
		strings.Repeat("2026-05-04 09:00:02,120 [1] INFO  Kelp.Files - copied tide.dll\n   at C:\\Kelp\n", 14) +
		"2026-05-04 09:00:09,120 [1] ERROR Kelp.Files - could not write C:\\Kelp\\chart.db\nSystem.UnauthorizedAccessException: Access to the path 'C:\\Kelp\\chart.db' is denied.\n" +
		"   at Kelp.Files.Copy()\n2026-05-04 09:00:10,120 [1] FATAL Kelp.Setup - setup failed, exit code 23\n",
	"a table": "\"Time\",\"Sev\",\"Module\",\"Detail\"\n\"04/05/2026 09:00:00.807\",\"I\",\"Shell\",\"Kelp Chart 3.1 setup\"\n" +
		strings.Repeat("\"04/05/2026 09:00:01.807\",\"I\",\"Files\",\"copied tide.dll\"\n", 20) +
		"\"04/05/2026 09:00:08.001\",\"E\",\"Files\",\"cannot write C:\\Kelp\\chart.db: Access is denied.\"\n" +
		"\"04/05/2026 09:00:09.001\",\"E\",\"Shell\",\"Setup failed with exit code 23\"\n",
	"a console": "Kelp Chart 3.1 setup\n[1/4] Copying files\n" + strings.Repeat("C:\\Kelp\\tide.dll\n", 20) +
		"21 File(s) copied\n[2/4] Checking font server\nSystem error 67 has occurred.\n\nThe network name cannot be found.\n\n(font server is optional)\n" +
		"[3/4] Removing fonts\n12 File(s) removed\n[4/4] Writing chart\ncannot write C:\\Kelp\\chart.db: Access is denied.\n\nSetup failed, exit code 23\n",
	"blocks": strings.Repeat("----------\nTimestamp: 04.05.2026 09:00:01\nMessage: Installed tide.dll\nCategory: Files\nSeverity: Verbose\n", 14) +
		"----------\nTimestamp: 04.05.2026 09:00:08\nMessage: cannot write C:\\Kelp\\chart.db: Access is denied.\nCategory: Files\nSeverity: Error\n" +
		"----------\nTimestamp: 04.05.2026 09:00:09\nMessage: Setup failed with exit code 23\nCategory: Setup\nSeverity: Critical\n----------\n",
}

// What other programs wrote in forms of their own is read in other clothes, too.
func TestStrangersInOtherClothes(t *testing.T) {
	for form, log := range strangers {
		lines := strings.Split(strings.TrimSuffix(log, "\n"), "\n")
		for name, change := range clothes {
			text := strings.Join(change(append([]string{}, lines...)), "\n") + "\n"
			got := ask(t, why.Question{Logs: []string{write(t, "kelp.log", text)}}).Verdict
			subject := ""
			if got.Cause.Subject != nil {
				subject = got.Cause.Subject.Name
			}
			if *got.Cause.Class != "permission" || subject != `C:\Kelp\chart.db` || got.ExitCode == nil || *got.ExitCode != 23 {
				t.Errorf("%s %s: %s about %q, exit %v; want permission about C:\\Kelp\\chart.db, 23", form, name, *got.Cause.Class, subject, got.ExitCode)
			}
		}
	}
}

func each(ls []string, f func(int, string) string) (out []string) {
	for i, l := range ls {
		out = append(out, f(i, l))
	}
	return out
}

// A verdict stays when a log only changes its clothes.
func TestAVerdictStaysInOtherClothes(t *testing.T) {
	folder, _ := demotest.LayOut(t)
	for _, log := range []string{"berthline.log", "tidebook.log", "roster.log", "ledger.log", "planner31.log"} {
		path := filepath.Join(folder, log)
		lines := linesOf(t, path)
		want := ask(t, why.Question{Logs: []string{path}}).Verdict
		for name, change := range clothes {
			text := strings.Join(change(append([]string{}, lines...)), "\n") + "\n"
			got := ask(t, why.Question{Logs: []string{write(t, log, text)}}).Verdict
			if *got.Cause.Class != *want.Cause.Class || fmt.Sprint(got.Cause.Subject) != fmt.Sprint(want.Cause.Subject) ||
				got.Outcome != want.Outcome || *got.ExitCode != *want.ExitCode || *got.BrokeAt.Action != *want.BrokeAt.Action {
				t.Errorf("%s %s: %s %+v, %s at %v; want %s %+v", log, name, *got.Cause.Class, got.Cause.Subject, got.Outcome, got.BrokeAt,
					*want.Cause.Class, want.Cause.Subject)
			}
		}
	}
}

// linesOf reads a log's lines in whichever encoding.
func linesOf(t *testing.T, path string) (lines []string) {
	t.Helper()
	f, err := os.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	for l, err := range textfile.Lines(t.Context(), f, textfile.Options{}, nil) {
		if err != nil {
			t.Fatal(err)
		}
		lines = append(lines, string(l.Text))
	}
	return lines
}

// A verdict stays when a log lies in other company: behind a setup that went
// well, among another program's lines, in the two files of a rotation, with
// other names.
func TestAVerdictStaysInOtherCompany(t *testing.T) {
	folder, _ := demotest.LayOut(t)
	good := linesOf(t, filepath.Join("verdict", "testdata", "labelled", "real-upgrade-good.log"))
	names := strings.NewReplacer("Berthline", "Zinkhaven", "BERTHLINE", "ZINKHAVEN", "Tidebook", "Zinkhaven",
		"TIDEBOOK", "ZINKHAVEN", "tidebook", "zinkhaven",
		"Roster", "Zinkhaven", "roster", "zinkhaven", "Ledger", "Zinkhaven", "ledger", "zinkhaven", "Planner",
		"Zinkhaven", "planner", "zinkhaven")
	for _, log := range []string{"berthline.log", "tidebook.log", "roster.log", "ledger.log", "planner31.log"} {
		lines := linesOf(t, filepath.Join(folder, log))
		dir := t.TempDir()
		file := func(name string, ls []string) string {
			path := filepath.Join(dir, name)
			if err := os.WriteFile(path, []byte(strings.Join(ls, "\n")+"\n"), 0o600); err != nil {
				t.Fatal(err)
			}
			return path
		}
		half := len(lines) / 2
		var merged []string
		for i, l := range lines {
			if merged = append(merged, l); i%4 == 3 {
				merged = append(merged, fmt.Sprintf("heartbeat: %d handles, cache warm", i))
			}
		}
		want := ask(t, why.Question{Logs: []string{file(log, lines)}}).Verdict
		for name, logs := range map[string][]string{
			"behind a good log":         {file("two-"+log, append(append([]string{}, good...), lines...))},
			"among other lines":         {file("merged-"+log, merged)},
			"with other names":          {file("other.log", strings.Split(names.Replace(strings.Join(lines, "\n")), "\n"))},
			"rotated in the middle":     {file("a-"+log+".1", lines[:half]), file("a-"+log, lines[half:])},
			"rotated and told backward": {file("b-"+log, lines[half:]), file("b-"+log+".1", lines[:half])},
			"rotated twice": {file("c-"+log+".2", lines[:half/2]),
				file("c-"+log+".1", lines[half/2:half]), file("c-"+log, lines[half:])},
		} {
			got := ask(t, why.Question{Logs: logs}).Verdict
			for _, e := range got.Evidence { // each line is told by its file
				if text := linesOf(t, e.File); e.Line > len(text) || !strings.Contains(text[e.Line-1], strings.TrimSpace(e.Text)[:20]) {
					t.Errorf("%s %s: line %d of %s is not %q", log, name, e.Line, e.File, e.Text)
				}
			}
			subject := func(v *verdict.Verdict) string {
				if v.Cause.Subject == nil {
					return ""
				}
				return strings.ToLower(names.Replace(v.Cause.Subject.Name))
			}
			if *got.Cause.Class != *want.Cause.Class || subject(got) != subject(want) || got.Outcome != want.Outcome ||
				*got.ExitCode != *want.ExitCode || names.Replace(*got.BrokeAt.Action) != names.Replace(*want.BrokeAt.Action) {
				t.Errorf("%s %s: %s %+v, %s at %v; want %s %+v", log, name, *got.Cause.Class, got.Cause.Subject, got.Outcome, got.BrokeAt,
					*want.Cause.Class, want.Cause.Subject)
			}
		}
	}
}

// A log that stops while its setup is rolled back did not finish, and still
// says what broke.
func TestCutWhileTakenBack(t *testing.T) {
	folder, _ := demotest.LayOut(t)
	seen := 0
	for _, log := range []string{"berthline.log", "tidebook.log", "roster.log", "ledger.log", "planner31.log"} {
		lines := linesOf(t, filepath.Join(folder, log))
		at := slices.IndexFunc(lines, func(l string) bool { return strings.Contains(l, "Rollback. ") || strings.HasPrefix(l, "Rollback: ") })
		if at < 0 {
			continue
		}
		seen++
		want := ask(t, why.Question{Logs: []string{write(t, log, strings.Join(lines, "\n")+"\n")}}).Verdict
		got := ask(t, why.Question{Logs: []string{write(t, log, strings.Join(lines[:at+2], "\n")+"\nMSI (s) (A4:10) [09:1")}}).Verdict
		if *got.Cause.Class != *want.Cause.Class || *got.BrokeAt.Action != *want.BrokeAt.Action {
			t.Errorf("%s: %s at %s; want %s at %s", log, *got.Cause.Class, *got.BrokeAt.Action, *want.Cause.Class, *want.BrokeAt.Action)
		}
	}
	if seen == 0 {
		t.Error("no setup of the scenario was rolled back")
	}
}

// Texts in whichever form tell their end; those that are about no setup are
// still refused.
func TestFormsOfText(t *testing.T) {
	for _, tt := range []struct{ name, text, outcome string }{
		{"a table with tabs",
			"Hora\tNível\tEtapa\tMensagem\n13:22:18,232\tInfo\tInício\tBerthline 3.7 instalador\n13:22:19,100\tErro\tCopiar\tArquivo ausente\n" +
				"13:22:20,100\tErro\tFim\tFalha ao instalar. (código 30)\n", "failed 30"},
		{"a quoted table", "\"Time\",\"Sev\",\"Module\",\"Detail\"\n\"22/01/2026 16:31:12\",\"I\",\"Shell\",\"Berth Suite setup, build 9\"\n" +
			"\"22/01/2026 16:31:13\",\"E\",\"Files\",\"cannot open C:\\x\"\n\"22/01/2026 16:31:14\",\"E\",\"Shell\",\"Setup finished with status 31\"\n", "failed 31"},
		{"elements", "<?xml version=\"1.0\"?>\n<Trace>\n<Event t=\"2026-03-11T10:44:59\" level=\"Info\"><![CDATA[Setup started]]></Event>\n" +
			"<Event t=\"2026-03-11T10:45:59\" level=\"Critical\"><![CDATA[Setup failed, exit code 14]]></Event>\n</Trace>\n", "failed 14"},
		{"a management agent's",
			"<![LOG[Installing Berthline]LOG]!><time=\"09:14:02.123-60\" date=\"05-04-2026\" component=\"Apps\" type=\"1\" thread=\"7\">\n" +
				"<![LOG[Installation failed with exit code 1603]LOG]!><time=\"09:14:09.123-60\" date=\"05-04-2026\" component=\"Apps\" type=\"3\" thread=\"7\">\n", "failed 1603"},
		{"objects with names of their own",
			"{\"l\":\"info\",\"m\":\"setup of Berthline starts\",\"ts\":1767578404.9}\n{\"l\":\"error\",\"m\":\"setup failed\",\"rc\":61}\n" +
				"{\"l\":\"info\",\"m\":\"exit 61\"}\n", "failed 61"},
		{"templates", "{\"@t\":\"2026-03-09T22:05:41Z\",\"@mt\":\"Update agent for {P} started\",\"P\":\"Berthline\"}\n" +
			"{\"@t\":\"2026-03-09T22:06:41Z\",\"@mt\":\"Update to {V} completed, exit {E}\",\"V\":\"8.1.0\",\"E\":0}\n", "succeeded 0"},
		{"a console", "Installing the Berthline package...\nUnpacking files\nerror: cannot open C:\\Berth\\x.dat\nInstallation failed.\nexit code 5\n", "failed 5"},
		{"a console in Polish", "Instalacja programu Berthline\nKopiowanie plików\nInstalacja przerwana, kod wyjścia 1\n", "failed 1"},
	} {
		ans, err := why.Ask(t.Context(), why.Question{Logs: []string{write(t, "x.log", tt.text)}})
		if err != nil {
			t.Errorf("%s: %v", tt.name, err)
			continue
		}
		got := string(ans.Verdict.Outcome)
		if c := ans.Verdict.ExitCode; c != nil {
			got += fmt.Sprint(" ", *c)
		}
		if got != tt.outcome {
			t.Errorf("%s: %s; want %s", tt.name, got, tt.outcome)
		}
	}
	for name, text := range map[string]string{
		"a letter":   "Dear Tess,\nthe lights are on again.\nPlease tell the quay.\n",
		"a program":  "package main\n\nimport \"fmt\"\n\nfunc main() {\n\tfmt.Println(\"setup\")\n}\n",
		"a shopping": "bread 2\nmilk 1\nfish 4\n",
	} {
		if ans, err := why.Ask(t.Context(), why.Question{Logs: []string{write(t, "x.log", text)}}); err == nil {
			t.Errorf("%s is taken for a log: %+v", name, ans.Verdict.Cause)
		}
	}
}
