package generic

import (
	"bytes"
	"context"
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"time"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

func TestForms(t *testing.T) {
	clock := func(h, m, s int) time.Duration {
		return time.Duration(h)*time.Hour + time.Duration(m)*time.Minute + time.Duration(s)*time.Second
	}
	for _, tt := range []struct {
		line   string
		kind   story.Kind
		source string
		text   string
	}{
		{"[2026-03-02 09:12:24] [debug] (install) stat x", story.KindText, "install", "stat x"},
		{"[2026-03-02 09:12:24] [error] Error: broke", story.KindError, "", "Error: broke"},
		{"2026-03-02 09:12:24,619 ERROR [main] quay.Setup - step failed", story.KindError, "quay.Setup", "step failed"},
		{"2026-03-02 09:12:24 WARN Setup: low", story.KindWarning, "", "Setup: low"},
		{"2026-03-02 09:12:24 [error] EBUSY: locked, open 'x'", story.KindError, "", "EBUSY: locked, open 'x'"},
		{"2026-03-02T09:12:24Z INFO all well", story.KindInfo, "", "all well"},
		{"2026-03-02 09:12:24.100 [ERR] Update failed", story.KindError, "", "Update failed"},
		{"2026-03-02 09:12:24 [12] FATAL cannot go on", story.KindError, "12", "cannot go on"},
		{"2026-03-02 09:12:24 | ERROR | disk full", story.KindError, "", "disk full"},
		{"09:12:24 <Error> broke", story.KindError, "", "broke"},
		{"03/02/2026 09:12:24 Warning: odd", story.KindWarning, "", "odd"},
		{"E0302 09:12:24.000000    1234 copy.go:12] cannot copy", story.KindError, "copy.go", "cannot copy"},
		{`{"time":"2026-03-02T09:12:24Z","level":"error","msg":"broke","logger":"quay"}`, story.KindError, "quay", "broke"},
		{`{"@t":"2026-03-02T09:12:24Z","@l":"Warning","@mt":"odd"}`, story.KindWarning, "", "odd"},
		{`{"ts":"2026-03-02T09:12:24Z","level":50,"msg":"pino","err":{"type":"Error","message":"x"}}`, story.KindError, "", "pino err=Error: x"},
		{`time=2026-03-02T09:12:24Z level=warning msg="a \"quoted\" word" path=C:\x`, story.KindWarning, "", `a "quoted" word path=C:\x`},
	} {
		e, ok := parse([]byte(tt.line))
		if !ok || e.kind != tt.kind || e.source != tt.source || e.text != tt.text || !e.level ||
			e.at != clock(9, 12, 24) && e.at != clock(9, 12, 24)+619*time.Millisecond && e.at != clock(9, 12, 24)+100*time.Millisecond {
			t.Errorf("%s\ngot  %v %q %q level %v at %v (%v)\nwant %v %q %q", tt.line, e.kind, e.source, e.text, e.level, e.at, ok, tt.kind,
				tt.source, tt.text)
		}
	}
	for _, line := range []string{"just words", "   at Quay.Run()", "{ not json", "name=value other=thing", "http://x/y: z"} {
		if e, ok := parse([]byte(line)); ok {
			t.Errorf("%q is taken for an entry: %+v", line, e)
		}
	}
	if e, ok := parse([]byte("2026-03-02 09:12:24 plain text without a level")); !ok || e.level || e.text != "plain text without a level" {
		t.Errorf("a stamped line without a level: %+v, %v", e, ok)
	}
}

func read(t *testing.T, log string) []*story.Attempt {
	t.Helper()
	r := New("x.log")
	for l, err := range textfile.Lines(context.Background(), strings.NewReader(log), textfile.Options{}, nil) {
		if err != nil {
			t.Fatal(err)
		}
		r.Line(l)
	}
	return r.Finish()
}

const head = "2026-05-04 09:12:01 INFO Tidebook Desk 2.8.1 setup starting\n"

func TestOutcomes(t *testing.T) {
	for _, tt := range []struct {
		name, log string
		success   string // yes, no, unknown
		exit      int
		cancelled bool
		restart   bool
	}{
		{"a sentence of success", head + "2026-05-04 09:12:02 INFO installation completed successfully\n", "yes", 0, false, false},
		{"an exit code", head + "2026-05-04 09:12:02 INFO exit code: 0\n", "yes", 0, false, false},
		{"another exit code", head + "2026-05-04 09:12:02 INFO setup ended with exit code 12\n", "no", 12, false, false},
		{"in hexadecimal", head + "2026-05-04 09:12:02 ERROR process exited with code 0x80070005\n", "no", -2147024891, false, false},
		{"a sentence of failure", head + "2026-05-04 09:12:02 ERROR update failed\n", "no", 0, false, false},
		{"failure, then tried again", head + "2026-05-04 09:12:02 ERROR update failed, exit code 7\n2026-05-04 09:12:09 INFO update installed successfully\n", "yes", 0, false, false},
		{"success, then it broke", head +
			"2026-05-04 09:12:02 INFO download complete, installation completed\n2026-05-04 09:12:09 ERROR setup failed\n", "no", 0, false, false},
		{"what is only planned", head + "2026-05-04 09:12:02 INFO update will be installed if the check succeeded\n", "unknown", 0, false, false},
		{"not installed is no success", head + "2026-05-04 09:12:02 INFO previous version not installed\n", "unknown", 0, false, false},
		{"a failure that does not matter", head +
			"2026-05-04 09:12:02 WARN telemetry setup failed (ignored)\n2026-05-04 09:12:03 INFO setup finished\n", "yes", 0, false, false},
		{"cancelled", head + "2026-05-04 09:12:02 WARN cancelled by user\n", "no", 0, true, false},
		{"a restart is due", head + "2026-05-04 09:12:02 INFO installation completed successfully\n2026-05-04 09:12:02 INFO restart required\n",
			"yes", 0, false, true},
		{"an error at the very end", head + "2026-05-04 09:12:02 ERROR cannot open C:\\x\n", "no", 0, false, false},
		{"the last word with a number", "Tidebook Desk 2.8.1 setup\n09:12:02 copy a.dll\n09:12:03 stopped: 21\n", "no", 21, false, false},
		{"a count in a summary is no exit code", "Tidebook Desk 2.8.1 setup\n09:12:02 copy a.dll\n09:12:03 failed: 0\n", "yes", 0, false, false},
		{"a banner at the end", head + "2026-05-04 09:12:02 WARN stub.exe did not run\n=== deployment failed ===\n", "no", 0, false, false},
		{"a last word of failing behind a warning", head + "2026-05-04 09:12:02 WARN a.dll is missing\n2026-05-04 09:12:03 INFO add-on was not installed\n",
			"no", 0, false, false},
		{"a good end by name, in brackets", "09:12:01 [setup] Tidebook Desk 2.8.1 setup\n09:12:02 [f] copied a.dll\n09:12:03 [setup] success: true\n",
			"yes", 0, false, false},
		{"a count of errors is none", "Tidebook Desk 2.8.1 setup\n09:12:02 Fehler: 0\n09:12:03 copy a.dll\n", "unknown", 0, false, false},
		{"daily work", head + "2026-05-04 09:12:02 INFO ready\n2026-05-04 09:12:03 INFO ready\n", "unknown", 0, false, false},
	} {
		a := read(t, tt.log)[0]
		got := "unknown"
		if a.Success != nil {
			got = map[bool]string{true: "yes", false: "no"}[*a.Success]
		}
		exit := 0
		if a.Exit != nil {
			exit = a.Exit.Code
		}
		if got != tt.success || exit != tt.exit || a.Cancelled != tt.cancelled || a.Restart != tt.restart {
			t.Errorf("%s: success %s, exit %d, cancelled %v, restart %v; want %s, %d, %v, %v", tt.name, got, exit, a.Cancelled, a.Restart,
				tt.success, tt.exit, tt.cancelled, tt.restart)
		}
		if a.Product.Name != "Tidebook Desk" || a.Product.Version != "2.8.1" {
			t.Errorf("%s: product %+v", tt.name, a.Product)
		}
	}
}

func TestStages(t *testing.T) {
	a := read(t, head+"2026-05-04 09:12:02 INFO stage unpack\n2026-05-04 09:12:03 INFO step 2/3: migrate\n2026-05-04 09:12:09 ERROR broke\n2026-05-04 09:12:10 ERROR step migrate failed\n")[0]
	if len(a.Actions) != 2 || a.Actions[0].Name != "unpack" || a.Actions[0].Failed || a.Actions[1].Name != "migrate" ||
		!a.Actions[1].Failed || a.Actions[1].EndLine != 5 {
		t.Fatalf("actions: %+v", a.Actions)
	}
	if d := a.Actions[1].End - a.Actions[1].Start; d != 7*time.Second {
		t.Errorf("migrate took %v, want 7 s", d)
	}
	for _, m := range a.Messages {
		if m.Text == "broke" && m.Action != a.Actions[1] {
			t.Errorf("the error is not in its stage but in %v", m.Action)
		}
	}
}

func TestStackTraces(t *testing.T) {
	a := read(t, head+"2026-05-04 09:12:02 ERROR setup failed\njava.lang.RuntimeException: outer\n\tat a.b(C.java:1)\nCaused by: java.nio.file.AccessDeniedException: C:\\x\n\tat d.e(F.java:2)\n"+
		"2026-05-04 09:12:03 ERROR again\nSystem.Exception: outer ---> System.IO.IOException: inner\n   at A.B()\n ---> System.UnauthorizedAccessException: root\n")[0]
	var texts []string
	for _, m := range a.Messages {
		if m.Kind == story.KindError {
			texts = append(texts, strings.SplitN(m.Text, "\n", 2)[0])
		}
	}
	got := strings.Join(texts, " | ")
	for _, want := range []string{"java.lang.RuntimeException: outer", `Caused by: java.nio.file.AccessDeniedException: C:\x`,
		"System.Exception: outer", "---> System.UnauthorizedAccessException: root"} {
		if !strings.Contains(got, want) {
			t.Errorf("%q is not among the errors: %s", want, got)
		}
	}
}

func TestRuns(t *testing.T) {
	bad := head + "2026-05-04 09:12:02 ERROR update failed\n"
	good := strings.ReplaceAll(head+"2026-05-04 09:12:03 INFO idle\n2026-05-04 09:12:04 INFO update installed successfully\n", "05-04",
		"05-06")
	if as := read(t, bad+"2026-05-04 09:12:03 INFO idle\n"+good); len(as) != 2 || *as[0].Success || !*as[1].Success || as[1].Line != 4 {
		t.Errorf("%d runs: %+v", len(as), as)
	}
	daily := strings.ReplaceAll(head+"2026-05-04 09:12:03 INFO idle\n2026-05-04 09:12:04 INFO idle\n", "05-04", "05-06")
	if as := read(t, bad+"2026-05-04 09:12:03 INFO idle\n"+daily); len(as) != 1 || *as[0].Success {
		t.Errorf("a run of daily work after a failed one must not decide: %d runs", len(as))
	}
}

func TestScore(t *testing.T) {
	split := func(s string) [][]byte { return bytes.Split([]byte(s), []byte("\n")) }
	for _, tt := range []struct {
		log  string
		want bool
	}{
		{head + "2026-05-04 09:12:03 INFO idle", true},
		{"ERROR: one line\nWARNING: another", true},
		{"Dear harbour master,\nthe ERROR was mine.\n2026-05-04 09:12:03 and so on\nyours", false},
		{"package main\n\nimport \"fmt\"\n\nfunc main() {\n\tfmt.Println()\n}", false},
		{"", false},
	} {
		if got := Score(split(tt.log)) > 0; got != tt.want {
			t.Errorf("Score(%q) > 0 is %v", tt.log, got)
		}
	}
}

// Lines of pairs, whatever their keys are called; and what only looks like
// such.
func TestPairs(t *testing.T) {
	for _, tt := range []struct{ line, text, source string }{
		{`t=2026-05-04T09:12:01Z severity=error component=svc text="BerthSync did not start"`, "BerthSync did not start", "svc"},
		{`when=09:12:01 sev=W src=net message="mirror 2 is slow" attempt=3`, "mirror 2 is slow attempt=3", "net"},
		{`uhrzeit=09:12:01 schweregrad=Fehler modul=dienst meldung="Dienst startet nicht"`, "Dienst startet nicht", "dienst"},
		{`A=1 B=2 C=3`, "", ""}, {`TEMP=C:\Temp PATH=C:\Windows`, "", ""}, {`level is 3 = high`, "", ""},
	} {
		e, ok := logfmt([]byte(tt.line), false)
		if ok != (tt.text != "") || e.text != tt.text || e.source != tt.source {
			t.Errorf("%s: %v, %q of %q; want %q of %q", tt.line, ok, e.text, e.source, tt.text, tt.source)
		}
	}
}

// An envelope's inner names are those of the record; an error's are a value.
func TestEnvelopes(t *testing.T) {
	for _, tt := range []struct{ line, text, source string }{
		{`{"meta":{"time":"2026-05-04T09:12:01Z","level":"error"},"data":{"component":"svc","message":"did not start"}}`, "did not start", "svc"},
		{`{"a":{"b":{"@t":"2026-05-04T09:12:01Z","@l":"Error","@m":"deep down"}}}`, "deep down", ""},
		{`{"time":"09:12:01","level":"error","msg":"cannot write","error":{"code":5,"message":"denied"}}`, "cannot write error=5: denied", ""},
	} {
		e, ok := object([]byte(tt.line))
		if !ok || e.text != tt.text || e.source != tt.source || e.kind != story.KindError {
			t.Errorf("%s: %v, %q of %q, kind %v; want %q of %q", tt.line, ok, e.text, e.source, e.kind, tt.text, tt.source)
		}
	}
}

// Blocks end at strokes, at blank lines and where the first name comes again;
// what has no name goes on with the value above.
func TestBlocks(t *testing.T) {
	block := func(level, text, end string) string {
		return "Time: 04.05.2026 09:12:01\nLevel: " + level + "\nSource: svc\nText: " + text + "\n" + end
	}
	for _, end := range []string{"----\n", "\n", "=====\n-----\n", ""} {
		text := block("Info", "Tidebook Desk 4.1.0 setup", end) + block("Info", "starting", end) +
			block("Error", "BerthSync did not start\n  at Service.Start()", end) + block("Error", "setup failed", "")
		lines := bytes.Split([]byte(text), []byte("\n"))
		b := NewBlocks("x.log", lines)
		if b == nil {
			t.Fatalf("%q: no blocks", end)
		}
		for i, l := range lines {
			b.Line(textfile.Line{Number: i + 1, Text: l})
		}
		as := b.Finish()
		if len(as) != 1 || as[0].Product.Name != "Tidebook Desk" || as[0].Success == nil || *as[0].Success {
			t.Fatalf("%q: %+v", end, as)
		}
		found := false
		for _, m := range as[0].Messages {
			found = found || m.Kind == story.KindError && strings.HasPrefix(m.Text, "BerthSync did not start") && m.Source == "svc" &&
				strings.Contains(string(lines[m.Line-1]), "BerthSync")
		}
		if !found {
			t.Errorf("%q: the error is not told with its line", end)
		}
	}
	if b := NewBlocks("x", bytes.Split([]byte("Name: a\nSize: 3\nName: b\nSize: 4\nName: c\nSize: 5\n"), []byte("\n"))); b != nil {
		t.Error("a list without time, level and words is taken for a log")
	}
}

// What is read the short way reads as with the standard decoder.
func TestFlatObjects(t *testing.T) {
	for _, c := range []struct {
		text string
		flat bool
	}{
		{`{"ts":"2026-05-04T09:12:01Z","lvl":30,"msg":"copied tide.dll","ok":true,"err":null}`, true},
		{` { "a" : "b" , "n" : -1.5e3 , "f" : false } `, true},
		{`{"a":"C:\\Tide\/x \"y\"\n\t"}`, true}, {`{"a":"\u0041"}`, false}, {`{"a":"\x"}`, false}, {`{"a":"\`, false}, {`{"a":{"b":1}}`, false}, {`{"a":[1]}`, false}, {`{}`, false}, {`{"a":01}`, false},
		{`{"a":tru}`, false}, {`{"a":1,}`, false}, {`{"a" 1}`, false}, {`{"a":"b"`, false}, {`{"a":"b"}}`, false},
		{"{\"a\":\"\xff\"}", false}, {"{\"a\":\"tab\tin it\"}", false}, {`{"a":1 2}`, false}, {`{"a":"x","a":"y"}`, true}, {`{"a":"潮"}`, true},
	} {
		fast, ok := flatObject([]byte(c.text))
		if ok != c.flat {
			t.Errorf("%s: read the short way: %v", c.text, ok)
			continue
		}
		if slow, valid := decoded([]byte(c.text)); ok && (!valid || !slices.Equal(fast, slow)) {
			t.Errorf("%s: %v, the decoder %v", c.text, fast, slow)
		}
	}
}

func FuzzFlatObject(f *testing.F) {
	f.Add([]byte(`{"ts":"2026-05-04T09:12:01Z","lvl":30,"msg":"copied","ok":true,"err":null}`))
	f.Fuzz(func(t *testing.T, text []byte) {
		fast, ok := flatObject(text)
		if slow, valid := decoded(text); ok && valid && !slices.Equal(fast, slow) {
			t.Errorf("%q: %v, the decoder %v", text, fast, slow)
		} else if ok && !json.Valid(text) {
			t.Errorf("%q is none", text)
		}
	})
}

// What a setup calls itself in the languages in which that is several words.
func TestTitles(t *testing.T) {
	for text, want := range map[string]string{
		"Programme d'installation de Martinet Paie 12.0": "Martinet Paie", "Programa de instalación de Martinet Paie 12.0": "Martinet Paie",
		"Programma di installazione di Martinet Paie 12.0": "Martinet Paie", "Instalační program Martinet Paie 12.0": "Martinet Paie",
		"Essai 1 sur 3 : mise à jour de Martinet Paie vers 12.1": "Martinet Paie", "Aggiornamento di Martinet Paie alla versione 12.1": "Martinet Paie",
		"Upgrade of Martinet Paie to 12.1": "Martinet Paie", "Update Martinet Paie auf Version 12.1": "Martinet Paie",
		"Road to Quay 4.2 setup": "Road to Quay",
	} {
		if name, _, _ := productOf(text); name != want {
			t.Errorf("%s: %q, want %q", text, name, want)
		}
	}
}

// A sentence about the product is one about its setup.
func TestAboutSetup(t *testing.T) {
	for text, want := range map[string]string{
		"Tide Watch 3.1 was not installed, 8": "setup was not installed, 8", "Tide Watch was not installed": "setup was not installed",
		"Tide Watch could not be updated, 5": "setup could not be updated, 5", "Tide Watch wurde nicht installiert": "setup wurde nicht installiert",
		"Tide Watch failed to load the viewer":  "Tide Watch failed to load the viewer",
		"Tide Watch was stopped (3)":            "Tide Watch was stopped (3)",
		"Tide Watch service could not be found": "Tide Watch service could not be found",
		"Tide Watcher was not installed":        "Tide Watcher was not installed", "tidefont was not installed": "tidefont was not installed",
	} {
		if got := aboutSetup(text, "Tide Watch"); got != want {
			t.Errorf("%s: %q, want %q", text, got, want)
		}
	}
}

// On a console a shell is asked what the last program ended with.
func TestConsolesExit(t *testing.T) {
	for text, want := range map[string]int{
		"C:\\Deploy>echo %errorlevel%\n1603": 1603, "C:\\Deploy> ECHO %ERRORLEVEL% \n\n-2146498529": -2146498529,
		"PS C:\\Deploy> $LASTEXITCODE\n17": 17, "PS C:\\Deploy> echo $LASTEXITCODE\n17": 17, "root@quay:/opt# echo $?\n3": 3,
		"C:\\Deploy>echo %errorlevel% of setup\n1603": 0, "C:\\Deploy>echo done\n1603": 0, "C:\\Deploy>echo %errorlevel%\nfine": 0,
	} {
		log := "C:\\Deploy>tidesetup.exe /quiet\nTide Watch 3.1 setup\ncopying tide.dll\nerror: access to C:\\Tide denied\n" + text + "\n"
		s := read(t, log)
		got := 0
		if a := s[len(s)-1]; a.Exit != nil {
			got = a.Exit.Code
		}
		if got != want {
			t.Errorf("%q: %d, want %d", text, got, want)
		}
	}
}

// A run that failed without a line graver than info is read by its words.
func TestLevelsThatTellNothing(t *testing.T) {
	a := read(t, head+"2026-05-04 09:12:02 INFO cannot open C:\\x: access denied\n2026-05-04 09:12:03 INFO setup failed, exit code 4\n")[0]
	if m := a.Messages[1]; m.Kind > story.KindWarning {
		t.Errorf("%q is no failure, its kind is %v", m.Text, m.Kind)
	}
	a = read(t, head+"2026-05-04 09:12:02 INFO icon missing\n2026-05-04 09:12:02 ERROR disk full\n2026-05-04 09:12:03 INFO setup failed, exit code 4\n")[0]
	if m := a.Messages[1]; m.Kind != story.KindInfo {
		t.Errorf("%q is told as info, and read as %v", m.Text, m.Kind)
	}
}

// What a program hands on of the installer engine's messages keeps their
// numbers; its own numbers stay its own.
func TestMessagesOfTheEngine(t *testing.T) {
	for text, want := range map[string]int{
		"Product: Tide Watch -- Error 1402. Could not open key: UNKNOWN. System error 5.": 1402,
		"Produkt: Tide Watch -- Fehler 1303. Keine Rechte für C:\\x":                      1303,
		"Error 1402. Could not open the shop":                                             0,
		"Product: Tide Watch -- ready":                                                    0,
	} {
		if got := ofEngine(text); got != want {
			t.Errorf("%q has the number %d, want %d", text, got, want)
		}
	}
}

// The causes of a failure that a logger writes as entries of their own go with
// it.
func TestCausesAsEntries(t *testing.T) {
	a := read(t, head+"2026-05-04 09:12:02 ERROR cannot update\n2026-05-04 09:12:02 ERROR Caused by:\n2026-05-04 09:12:02 ERROR     0: stage replace\n"+
		"2026-05-04 09:12:02 ERROR     1: C:\\lock: file exists\n2026-05-04 09:12:03 ERROR update failed\n")[0]
	if m := a.Messages[1]; !strings.Contains(m.Text, "1: C:\\lock: file exists") || len(a.Messages) != 3 {
		t.Errorf("%d messages; the failure is %q", len(a.Messages), m.Text)
	}
}

// Titles of setups make a log of a text; titles of books do not.
func TestTitlesOfSetups(t *testing.T) {
	for line, want := range map[string][2]bool{
		"Tide Watch 3.1 installer":               {true, true},
		"==> Hawthorn Studio 11 setup":           {true, true},
		"main> Godwit Print Manager 5 installer": {true, true},
		"Quayline Atlas 7.2.0":                   {true, false},
		"GIT v1.5.1.5 Release Notes":             {false, false},
		"reading settings from defaults":         {false, false},
		"Copying 14 files":                       {false, false},
	} {
		if named, ofSetup := title(line); named != want[0] || ofSetup != want[1] {
			t.Errorf("%q: a product %v, a setup %v; want %v", line, named, ofSetup, want)
		}
	}
}

// console reads what a console showed.
func console(text string) *story.Attempt {
	p := NewPlain("x.txt", nil, nil)
	n := 0
	for line := range strings.Lines(text) {
		n++
		p.Line(textfile.Line{Number: n, Text: []byte(strings.TrimRight(line, "\n"))})
	}
	all := p.Finish()
	return all[len(all)-1]
}

// A batch shows its questions with the values of its variables: they tell what
// the program before ended with.
func TestPromptsTell(t *testing.T) {
	ends := func(question string) []*story.Action {
		a := console("C:\\deploy>echo Tide Watch setup\nTide Watch setup\nC:\\deploy>\"Z:\\tide\\setup.exe\" /quiet\n" + question + "\nTide Watch setup is over\n")
		return a.Actions
	}
	for question, failed := range map[string]bool{"C:\\deploy>if 5 NEQ 0 goto bad": true, "C:\\deploy>if not 5==0 goto bad": true,
		"C:\\deploy>if \"1603\"==\"0\" goto ok": true, "C:\\deploy>set rc=5": true, "C:\\deploy>set \"ERR=5\"": true,
		"C:\\deploy>echo setup ended with 5": true, "C:\\deploy>if 0 NEQ 0 goto bad": false, "C:\\deploy>if 3010 EQU 0 goto ok": false,
		"C:\\deploy>if 5 GEQ 1 goto bad": true, "C:\\deploy>if 1618 == 3010 goto reboot": true, "C:\\deploy>set SETUP_RC=1603": true} {
		all := ends(question)
		if len(all) != 1 || all[0].Name != `Z:\tide\setup.exe` || all[0].Failed != failed {
			t.Errorf("%s: %+v", question, all)
		}
	}
	for _, question := range []string{"C:\\deploy>if 19045 LSS 22000 goto old", "C:\\deploy>if 3 GEQ 5 goto giveup", "C:\\deploy>set codepage=850",
		"C:\\deploy>set retries=3", "C:\\deploy>set rc=1", "C:\\deploy>echo Using code 850", "C:\\deploy>if 4 EQU 8 goto ok", "C:\\deploy>if exist x.txt goto ok", "C:\\deploy>set count=5", "C:\\deploy>echo done", "C:\\deploy>rem 5 NEQ 0"} {
		if all := ends(question); len(all) != 0 {
			t.Errorf("%s: %+v", question, all[0])
		}
	}
	for command, want := range map[string]string{`call tidy.cmd /s`: "tidy.cmd", `start "" /wait setup.exe /s`: "setup.exe", `@msiexec /i a.msi`: "msiexec",
		`cmd /c tide.bat`: "tide.bat", `echo x`: "", `if exist a b`: "", `cd \`: "", `:label`: "", `ping -n 5 127.0.0.1`: "", ``: ""} {
		if got := programOf(command); got != want {
			t.Errorf("%s: %q, want %q", command, got, want)
		}
	}
}

// A row of a list of steps that ends with its failure is a step that failed.
func TestRowsThatFailed(t *testing.T) {
	a := console("Tide Watch rollout 2.2\nStep 1  copy payload ........... OK\nStep 2  stop client ............ OK\nStep 3  register printer ....... FAILED\n" +
		"        the port is not known (1796)\nStep 4  clean up ............... skipped\nRESULT: NOT OK\n")
	for _, x := range a.Actions {
		if x.Failed != (x.Name == "register printer") {
			t.Errorf("%+v", x)
		}
	}
	if len(a.Actions) < 3 {
		t.Errorf("%d steps", len(a.Actions))
	}
}
