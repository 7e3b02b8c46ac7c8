package engine

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
	"hollowkey/demo/enginelog"
)

func read(t testing.TB, log []byte) []*story.Attempt {
	t.Helper()
	r := New("test.log")
	for l, err := range textfile.Lines(context.Background(), bytes.NewReader(log), textfile.Options{}, nil) {
		if err != nil {
			t.Fatal(err)
		}
		r.Line(l)
	}
	return r.Finish()
}

func TestMarksInEveryLanguage(t *testing.T) {
	for _, tt := range []struct{ language, plain, start, end string }{
		{"English", "Action 9:05:31: AppSearch. Searching for installed applications", "Action start 9:05:31: AppSearch.",
			"Action ended 9:05:31: AppSearch. Return value 3."},
		{"German", "Aktion 09:05:31: AppSearch. Installierte Anwendungen werden gesucht", "Aktion gestartet um 09:05:31: AppSearch.",
			"Aktion beendet um 09:05:31: AppSearch. Rückgabewert 3."},
		{"French", "Action 09:05:31 : AppSearch. Recherche des applications installées", "Début de l’action 09:05:31 : AppSearch.",
			"Fin de l’action 09:05:31 : AppSearch. Valeur renvoyée 3."},
		{"Spanish", "Acción 9:05:31: AppSearch. Buscando aplicaciones instaladas", "Acción iniciada 9:05:31: AppSearch.",
			"Acción finalizada 9:05:31: AppSearch. Valor devuelto 3."},
		{"Italian", "Azione 09:05:31: AppSearch. Ricerca delle applicazioni", "Inizio azione 09:05:31: AppSearch.",
			"Fine azione 09:05:31: AppSearch. Valore restituito 3."},
		{"Portuguese", "Ação 09:05:31: AppSearch. Procurando aplicativos", "Início da ação 09:05:31: AppSearch.",
			"Ação concluída 09:05:31: AppSearch. Valor de retorno 3."},
		{"Dutch", "Actie 9:05:31: AppSearch. Zoeken naar toepassingen", "Actie gestart 9:05:31: AppSearch.",
			"Actie beëindigd 9:05:31: AppSearch. Geretourneerde waarde 3."},
		{"Polish", "Akcja 09:05:31: AppSearch. Wyszukiwanie aplikacji", "Rozpoczęcie akcji 09:05:31: AppSearch.",
			"Zakończenie akcji 09:05:31: AppSearch. Wartość zwracana 3."},
		{"Czech", "Akce 9:05:31: AppSearch. Hledají se aplikace", "Zahájení akce 9:05:31: AppSearch.",
			"Konec akce 9:05:31: AppSearch. Návratová hodnota 3."},
		{"Swedish", "Åtgärd 09:05:31: AppSearch. Söker efter program", "Åtgärden startade 09:05:31: AppSearch.",
			"Åtgärden avslutades 09:05:31: AppSearch. Returvärde 3."},
		{"Russian", "Действие 9:05:31: AppSearch. Поиск установленных приложений",
			"Действие начато 9:05:31: AppSearch.",
			"Действие завершено 9:05:31: AppSearch. Возвращаемое значение 3."},
		{"Japanese", "アクション 9:05:31: AppSearch。 アプリケーションの検索", "アクション開始 9:05:31: AppSearch。",
			"アクション終了 9:05:31: AppSearch。戻り値 3。"},
		{"Chinese", "操作 9:05:31: AppSearch。 正在搜索", "操作开始 9:05:31: AppSearch。",
			"操作结束 9:05:31: AppSearch。返回值 3。"},
		{"Chinese, full-width colon", "動作 9:05:31： AppSearch。 正在搜尋", "動作開始 9:05:31： AppSearch。",
			"動作結束 9:05:31： AppSearch。傳回值 3。"},
	} {
		for _, l := range []struct {
			line string
			kind markKind
		}{{tt.plain, markPlain}, {tt.start, markStart}, {tt.end, markEnd}} {
			m, ok := parseMark([]byte(l.line))
			if !ok || m.kind != l.kind || string(m.name) != "AppSearch" || m.at != 9*time.Hour+5*time.Minute+31*time.Second ||
				l.kind == markEnd && m.value != 3 {
				t.Errorf("%s: %q gives %v %q %v, value %d, %v", tt.language, l.line, m.kind, m.name, m.at, m.value, ok)
			}
		}
	}
	for _, line := range []string{"", "plain text", "2026-01-14 10:10:10.024   Log opened.", "Property(S): Time = 06:13:35",
		`C:\x 10:10:10: y.`, "Backup 10:10: INSTALL.", "x 99:10:10: INSTALL."} {
		if m, ok := parseMark([]byte(line)); ok {
			t.Errorf("%q is taken for a mark of %q", line, m.name)
		}
	}
}

func TestNumberedInEveryLanguage(t *testing.T) {
	for _, tt := range []struct {
		line   string
		number int
		kind   story.Kind
	}{
		{"Error 1920. Service", 1920, story.KindError}, {"Fehler 1920. Der Dienst", 1920, story.KindError},
		{"Erreur 1327. Lecteur non valide : Z:", 1327, story.KindError}, {"エラー 1327。 無効なドライブ", 1327, story.KindError},
		{"错误 1335.文件", 1335, story.KindError}, {"Ошибка 1303. Недостаточно", 1303, story.KindError},
		{"Internal Error 2755. 1632", 2755, story.KindError},
		{"Info 1603. The file", 1603, story.KindInfo}, {"Warning 1946. Property", 1946, story.KindWarning},
		{"Upozornění 1946. x", 1946, story.KindWarning},
		{"Предупреждение 1946. x", 1946, story.KindWarning}, {"信息 1603. x", 1603, story.KindInfo},
	} {
		word, number, _, ok := lines.Numbered([]byte(tt.line))
		if !ok || number != tt.number || level(word, number) != tt.kind {
			t.Errorf("%q: %d, %v, %v", tt.line, number, level(word, number), ok)
		}
	}
	for _, line := range []string{"1920. x", "Error 12. x", "Error 1920 x", "Error: 99999. x", "Version 5.00", "Step 1: 2203 x"} {
		if _, n, _, ok := lines.Numbered([]byte(line)); ok {
			t.Errorf("%q is taken for message %d", line, n)
		}
	}
}

func TestRecordAndOperation(t *testing.T) {
	f := record([]byte(`1: 1722 2: InstallHost 3: C:\a 4:b\host.exe 4: /x "1: 2" 5:  `))
	if want := []string{"1722", "InstallHost", `C:\a`, `b\host.exe 4: /x "1: 2"`, ""}; fmt.Sprint(f) != fmt.Sprint(want) {
		t.Errorf("record: %q", f)
	}
	op := []byte(`ServiceControl(,Name=BerthSync,Action=1,XName=no,Wait=1,)`)
	if got := opArgument(op, "Name"); string(got) != "BerthSync" {
		t.Errorf("opArgument: %q", got)
	}
	if got := opArgument(op, "Missing"); got != nil {
		t.Errorf("a missing argument: %q", got)
	}
}

// names lists the failed actions from the outside in.
func names(a *story.Attempt) (out []string) {
	for _, x := range a.Actions {
		if x.Failed {
			out = append(out, fmt.Sprintf("%d %s", x.Depth(), x.Name))
		}
	}
	return out
}

func made(t *testing.T, change func(*enginelog.Setup)) []byte {
	t.Helper()
	s := enginelog.Setup{
		Product: "Tidebook Desk", Version: "2.8.1", Code: "{5D0B1C77-2E9A-4B6B-8C35-0A6C2E5F7D22}", Folder: "Tidebook",
		Package: `C:\Deploy\t.msi`,
		User:    "mwhitlow", Computer: "ELLERY-D07", Started: time.Date(2026, 5, 4, 23, 59, 58, 0, time.UTC), Files: 30,
		Services: []enginelog.Service{{Name: "BerthSync", Display: "Berth Sync"}},
	}
	change(&s)
	var b bytes.Buffer
	if err := enginelog.Write(&b, s); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func TestScriptFailureAndWayBack(t *testing.T) {
	a := read(t, made(t, func(s *enginelog.Setup) {
		s.Failure = enginelog.Failure{Action: "StartServices", Wait: 3 * time.Minute,
			Lines: []string{"Error 1920. Service 'Berth Sync' (BerthSync) failed to start."}}
	}))[0]
	if got, want := fmt.Sprint(names(a)), "[0 INSTALL 1 InstallFinalize 2 StartServices]"; got != want {
		t.Errorf("failed: %s, want %s", got, want)
	}
	if a.Exit == nil || a.Exit.Code != 1603 || a.Rollback == 0 || !a.Closed || a.Product.Name != "Tidebook Desk" ||
		a.Product.Version != "2.8.1" || *a.Success {
		t.Errorf("exit %v, way back %d, closed %v, product %v", a.Exit, a.Rollback, a.Closed, a.Product)
	}
	if len(a.Gaps) == 0 || a.Gaps[0].Length < 179*time.Second {
		t.Errorf("the silence before the error: %v", a.Gaps)
	}
	if a.LastTime < 24*time.Hour {
		t.Errorf("midnight was not passed: %v", a.LastTime)
	}
	for _, m := range a.Messages {
		if m.Line > a.Rollback && !m.Rollback && m.Action != nil && m.Action.Name != "INSTALL" {
			t.Errorf("line %d is on the way back but not marked: %s", m.Line, m.Raw)
		}
	}
}

func TestGoodSetup(t *testing.T) {
	a := read(t, made(t, func(*enginelog.Setup) {}))[0]
	if a.Exit == nil || a.Exit.Code != 0 || !*a.Success || len(names(a)) != 0 {
		t.Errorf("exit %v, success %v, failed %v", a.Exit, a.Success, names(a))
	}
}

func TestAttemptsInOneFile(t *testing.T) {
	bad := made(t, func(s *enginelog.Setup) {
		s.Failure = enginelog.Failure{Action: "LaunchConditions", Lines: []string{"Product: Tidebook Desk -- No."}}
	})
	good := made(t, func(*enginelog.Setup) {})
	attempts := read(t, append(bad, good[2:]...))
	if len(attempts) != 2 || attempts[0].Exit.Code != 1603 || attempts[1].Exit.Code != 0 || attempts[1].Line <= attempts[0].LastLine {
		t.Errorf("%d attempts: %+v", len(attempts), attempts)
	}
}

func TestCutOff(t *testing.T) {
	whole := made(t, func(*enginelog.Setup) {})
	a := read(t, whole[:len(whole)/2&^1])[0]
	open := 0
	for _, x := range a.Actions {
		if x.EndLine == 0 {
			open++
		}
	}
	if a.Exit != nil || a.Closed || open < 2 {
		t.Errorf("a log cut in the middle: exit %v, closed %v, %d open", a.Exit, a.Closed, open)
	}
}

const nested = `=== Verbose logging started: 5/4/2026  9:12:01  Build type: SHIP UNICODE 5.00.10011.00  Calling process: x ===
MSI (s) (A4:10) [09:12:01:000]: ******* RunEngine:
Action 9:12:01: INSTALL. 
Action start 9:12:01: INSTALL.
Action start 9:12:02: RemoveExistingProducts.
MSI (s) (A4:22) [09:12:02:100]: ******* RunEngine:
           ******* Product: {0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C11}
Action start 9:12:02: INSTALL.
Action start 9:12:02: CheckLicence.
CustomAction CheckLicence returned actual error code 1603 (note this may not be 100% accurate if translation happened inside sandbox)
Action ended 9:12:03: CheckLicence. Return value 3.
Action ended 9:12:03: INSTALL. Return value 3.
Property(S): ProductName = Tidebook Desk (old)
MSI (s) (A4:22) [09:12:03:200]: MainEngineThread is returning 1603
Error 1714. The older version of Tidebook Desk cannot be removed.  System Error 1603.
Action ended 9:12:04: RemoveExistingProducts. Return value 3.
Action ended 9:12:04: INSTALL. Return value 3.
Property(S): ProductName = Tidebook Desk
MSI (s) (A4:10) [09:12:05:000]: MainEngineThread is returning 1603
`

func TestNestedSession(t *testing.T) {
	a := read(t, []byte(nested))[0]
	if got, want := fmt.Sprint(names(a)), "[0 INSTALL 1 RemoveExistingProducts 2 INSTALL 3 CheckLicence]"; got != want {
		t.Errorf("failed: %s, want %s", got, want)
	}
	if a.Product.Name != "Tidebook Desk" || a.Exit.Line != 19 {
		t.Errorf("product %q, exit at line %d; want those of the outer run", a.Product.Name, a.Exit.Line)
	}
}

// Value 0 is failure only where the whole run ended with it.
func TestZeroResults(t *testing.T) {
	const zeros = "Action 6:59:05: INSTALL. \nAction start 6:59:05: INSTALL.\nAction start 6:59:05: MigrateFeatureStates.\nAction ended 6:59:05: MigrateFeatureStates. Return value 0.\n" +
		"Action start 6:59:05: CheckSite.\nAction ended 6:59:05: CheckSite. Return value %d.\nAction ended 6:59:05: INSTALL. Return value %d.\n1: Tidebook 2: {80C773ED-839E-50F0-A12C-A6776B51F82C} 3: %d \n"
	for value, want := range map[int]string{0: "[0 INSTALL 1 CheckSite]", 1: "[]"} {
		a := read(t, fmt.Appendf(nil, zeros, value, value, value))[0]
		if got := fmt.Sprint(names(a)); got != want || *a.Success != (value == 1) {
			t.Errorf("value %d: failed %s, want %s; success %v", value, got, want, *a.Success)
		}
	}
}

// A long action costs no more than a short one: only its first and last lines
// are kept.
func TestWindowIsBounded(t *testing.T) {
	var b strings.Builder
	b.WriteString("Action 9:12:01: INSTALL. \nAction start 9:12:01: INSTALL.\nAction start 9:12:02: Chatty.\n")
	for n := range 5000 {
		fmt.Fprintf(&b, "Chatty: said %d\n", n)
	}
	b.WriteString("Action ended 9:12:03: Chatty. Return value 3.\nAction ended 9:12:03: INSTALL. Return value 3.\n")
	a := read(t, []byte(b.String()))[0]
	if n := len(a.Messages); n != windowHead+windowTail || a.Messages[0].Text != "Chatty: said 0" ||
		a.Messages[n-1].Text != "Chatty: said 4999" {
		t.Errorf("%d messages, %q … %q", n, a.Messages[0].Text, a.Messages[n-1].Text)
	}
	for i := 1; i < len(a.Messages); i++ {
		if a.Messages[i].Line <= a.Messages[i-1].Line {
			t.Fatalf("messages are out of order at line %d", a.Messages[i].Line)
		}
	}
}

func FuzzReader(f *testing.F) {
	f.Add([]byte(nested))
	f.Add([]byte("Action start 9:12:02: X.\nAction ended 9:12:02: X. Return value 3.\n1: 2 2: 0 \nProperty(S): A = B\nNote: 1: 2\n"))
	f.Add([]byte("MSI (s) (A4:22) [09:12:03:200]: Note: 1: 1402\nMSI (s) (A4:22) [09:12:03:200]: Executing op: ActionStart(Name=,\n"))
	f.Fuzz(func(t *testing.T, in []byte) {
		for _, a := range read(t, in) {
			if len(a.Messages) > story.MaxMessages+maxLasting || len(a.Actions) > story.MaxActions {
				t.Errorf("%d messages, %d actions", len(a.Messages), len(a.Actions))
			}
			for _, m := range a.Messages {
				if m.Line < 1 || m.Line > bytes.Count(in, []byte("\n"))+bytes.Count(in, []byte("\r"))+1 { // old systems end lines with a CR
					t.Errorf("a message at line %d", m.Line)
				}
			}
		}
	})
}

func BenchmarkReader(b *testing.B) {
	var log bytes.Buffer
	if err := enginelog.Write(&log, enginelog.Setup{Product: "Wharfage Ledger", Folder: "Wharfage", Files: 8000,
		Started: time.Unix(0, 0).UTC()}); err != nil {
		b.Fatal(err)
	}
	b.SetBytes(int64(log.Len()))
	b.ReportAllocs()
	for b.Loop() {
		read(b, log.Bytes())
	}
}
