package endings

import (
	"fmt"
	"slices"
	"strings"
	"testing"
)

// ofLastLines are the kinds of words that are looked for in the last lines of a
// log alone.
var ofLastLines = []string{"last", "also", "all", "bad", "over", "leaving", "undone", "stays"}

// Every language has words for everything, and all of them are in small
// letters.
func TestLanguagesAreWhole(t *testing.T) {
	have := map[string]map[string]bool{}
	for line := range strings.Lines(text) {
		f := strings.Fields(line)
		if len(f) == 0 || strings.HasPrefix(line, "#") {
			continue
		}
		if kinds[f[0]] == 0 && !slices.Contains(ofLastLines, f[0]) || len(f) < 3 || line != strings.ToLower(line) {
			t.Errorf("the line %q", line)
			continue
		}
		if have[f[1]] == nil {
			have[f[1]] = map[string]bool{}
		}
		have[f[1]][f[0]] = true
	}
	any := have["any"] // names that no language translates
	delete(have, "any")
	for lang, kinds2 := range have {
		if len(kinds2)+len(any) != len(kinds)+len(ofLastLines) {
			t.Errorf("%s has %d kinds of %d", lang, len(kinds2)+len(any), len(kinds)+len(ofLastLines))
		}
	}
	if len(have) < 15 {
		t.Errorf("%d languages", len(have))
	}
}

func TestRead(t *testing.T) {
	for _, tt := range []struct{ line, want string }{
		{"Setup failed, exit code 14", "exit 14 failed"},
		{"exit 17", "exit 17"},
		{"Reboot required=no.", ""},
		{"Neustart erforderlich: nein", ""},
		{"restart needed = 0", ""},
		{"Reboot required: yes", "restart refuses"},
		{`"rebootRequired": true,`, "restart"},
		{`"rebootRequired": false,`, ""},
		{"setup cancelled: false", ""},
		{"the installation was not interrupted", ""},
		{"no installation was abandoned", ""},
		{"La instalación no se completó", "failed"},
		{"Обновление прервано", "failed"},
		{"更新は中断されました", "failed"},
		{"result = FAIL", "failed"},
		{"Erfolg: nein", "failed"},
		{"success: true", "worked"},
		{"installed: true", ""},
		{"overall result: ok", "worked"},
		{"feature NetFx3 could not be enabled, stopping", "failed"},
		{"stopping", ""},
		{"setup was not installed, 8", "exit 8 failed"},
		{"setup finished with errors (6)", "exit 6 failed"},
		{"setup done with errors in 3 files", "failed"},
		{"setup finished with errors: 0", ""},
		{"update done: refused (3)", "exit 3 failed"},
		{"setup returned refused connections 0", ""},
		{"Installation wurde nicht installiert, 5", "exit 5 failed"},
		{"setup ended with exit code: -1", "exit -1"},
		{"process exited with 0x80070005", "exit -2147024891"},
		{"Setup finished with status 31 (Broken)", "exit 31"},
		{"Ende mit Rückgabewert 4", "exit 4"},
		{"Die Installation ist fehlgeschlagen (Code 12)", "exit 12 failed"},
		{"Fin de la mise en place, code 12", "exit 12"},
		{"Actualización NO completada. Código de salida 41", "exit 41 failed"},
		{"Instalacja przerwana, kod wyjścia 1", "exit 1 failed"},
		{"завершение, код 7", "exit 7"},
		{"fine, codice di uscita 20", "exit 20"},
		{"Falha ao instalar. Contate o suporte. (código 30)", "exit 30 failed advice"},
		{"セットアップは完了しませんでした。(終了コード 9)", "exit 9 failed"},
		{"安装失败,退出代码 3", "exit 3 failed"},
		{"설치가 완료되지 않았습니다 (종료 코드 5)", "exit 5 failed"},
		{"Kurulum tamamlanamadı, çıkış kodu: 8", "exit 8 failed"},
		{"Installationen misslyckades. Slutkod 2", "exit 2 failed"},
		{"Instalace selhala, návratový kód 6", "exit 6 failed"},
		{"Installatie mislukt met afsluitcode 11", "exit 11 failed"},
		{"Die Aktualisierung wurde erfolgreich abgeschlossen", "worked"},
		{"L'installation s'est terminée avec succès", "worked"},
		{"インストールが完了しました", "worked"},
		{"Cancelled by the operator", "cancelled"},
		{"Update der Statistik fehlgeschlagen, wird ignoriert", "failed passed"},
		{"Berthline Planner requires Windows 11 or later.", "refuses"}, {"Für dieses Programm wird Windows 11 benötigt", "refuses"},
		{"Требуется Windows 10 или новее", "refuses"}, {"Windows 11 以上が必要です", "refuses"},
		{"Aborted", "failed"}, {"Abgebrochen!", "failed"}, {"failed over to node 2", ""},
		{"files in place, no restart needed", ""}, {"files in place, restart needed", "restart"},
		{"kein Neustart erforderlich", "refuses"}, {"Neustart erforderlich", "restart refuses"},
		// none of these is an end
		{"copied 17 files", ""}, {"exit hatch 3 of the quay is closed", ""}, {"HTTP status 404 for /x", ""}, {"rc 2.1.0 found", ""},
		{"exit 85% done", ""}, {"updated the code 7 times", ""}, {"Statuscode 12:30", ""}, {"", ""},
	} {
		r := Read(tt.line)
		var got []string
		if r.Exit != nil {
			got = append(got, fmt.Sprintf("exit %d", *r.Exit))
		}
		for _, x := range []struct {
			is   bool
			word string
		}{{r.Failed, "failed"}, {r.Worked, "worked"}, {r.Cancelled, "cancelled"}, {r.Passed, "passed"},
			{r.Again, "again"}, {r.GivesUp, "way"}, {r.Advises, "advice"}, {r.Restart, "restart"}, {r.Refuses, "refuses"}} {
			if x.is {
				got = append(got, x.word)
			}
		}
		if g := strings.Join(got, " "); g != tt.want {
			t.Errorf("%q: %q; want %q", tt.line, g, tt.want)
		}
	}
}

func FuzzRead(f *testing.F) {
	f.Add("Ende mit Rückgabewert 4")
	f.Add("終了コード 9")
	f.Fuzz(func(t *testing.T, line string) { Read(line) })
}

func BenchmarkRead(b *testing.B) {
	line := `2026-05-04 09:12:24 wrote C:\Program Files\Berth Sync\lib\tide-table.dll (816817 bytes) in 17 ms`
	b.SetBytes(int64(len(line)))
	for b.Loop() {
		Read(line)
	}
}

// What refuses a connection is not what refuses a setup.
func TestRefusals(t *testing.T) {
	for line, failed := range map[string]bool{"update server: connection refused, another one is asked": false,
		"setup: telemetry refused by policy": false, "setup refused": true, "update refused": true, "upgrade refused": true} {
		if got := Read(line).Failed; got != failed {
			t.Errorf("%s: %v", line, got)
		}
	}
}

func TestLastWord(t *testing.T) {
	for line, want := range map[string]int{"fin, code 3": 3, "end of run (21)": 21, "コード 23 で終了しました": 23, "結束，代碼 5": 5, "kurulum sona erdi (2)": 2,
		"-> 8": 8, "result: 0x17 (precheck)": 23, "*** setup ended with -3 ***": -3, "Programmende mit Code 4": 4, "stopped at step 2, code 23": 23,
		"설치가 중단되었습니다 (3)": 3, "выход с кодом 12": 12, "installation terminée en erreur (3)": 3} {
		if code, ok := LastWord(line); !ok || code != want {
			t.Errorf("%q: %d, %v; want %d", line, code, ok, want)
		}
	}
	for line, want := range map[string]int{
		"onboarding ended with 17: the package list is empty, please refresh it": 17, "stick maker ended 21: the download is broken": 21,
		"agent not healthy, deploy ended 55, check proxy settings": 55, "stop with 31, check the cable": 31, "update not done (36), try again": 36,
		"Einrichtung endet mit 17: die Liste ist leer": 17, "сопровождение завершено с кодом 14: обновите список": 14,
		"コード 17 で終了しました。管理者に連絡してください": 17, "setup ends with 77: the disk may be full": 77} {
		if code, ok := LastClause(line, true); !ok || code != want {
			t.Errorf("%q: %d, %v; want %d", line, code, ok, want)
		}
	}
	for _, line := range []string{"failed: 3", "copied 3 files", "done in 4.2 s", "finished at 10:31", "progress 80 %", "end of step 3 of 7",
		"not installed: 3", "version 3", "a.dll could not be written (5)", "service ended with error 5", "session 7714 ended: failure", "job 3 done",
		"gave up after 3 attempts", "server returned 503, retry later", "copied 3 files, closed", "queue worker stopped 5, restarting",
		"onboarding ended, 3 of 4 parts failed", "step ended at 12:30:11", "helper.exe ended with 5, going on"} {
		if code, ok := LastWord(line); ok {
			t.Errorf("%q: %d", line, code)
		}
		if code, ok := LastClause(line, true); ok {
			t.Errorf("%q, by its clauses: %d", line, code)
		}
	}
}

// A number without a word that leads to it ends nothing where it is not known
// that the run failed.
func TestLastClauseOfAnyRun(t *testing.T) {
	if code, ok := LastClause("stop with 31, check the cable", false); !ok || code != 31 {
		t.Errorf("%d, %v", code, ok)
	}
	for _, line := range []string{"timer stopped 1200, idle", "stick maker ended 21: fetch it again"} {
		if code, ok := LastClause(line, false); ok {
			t.Errorf("%q: %d", line, code)
		}
	}
}

// That nothing was to be done is neither: an updater says so that found its
// product current.
func TestNothingToDoIsNoEnd(t *testing.T) {
	for _, line := range []string{"update skipped", "nothing changed", "no changes were made", "keine Änderungen", "sin cambios",
		"error: false", "with errors: false", "failed: no", "setup complete, errors: none", "erreurs : 0", "settings restored"} {
		if well, bad, _ := AllDone(line, "Tide Watch"); well || bad {
			t.Errorf("%q: well %v, bad %v", line, well, bad)
		}
	}
}

// Whatever the last line of a log holds, it tells no number that it does not
// hold, and no good end and a bad one at once.
func FuzzLastWord(f *testing.F) {
	for _, seed := range []string{"fin, code 3", "コード 23 で終了しました", "-> 0x17", "done (-3)", "failed: 3", "2 of 7 steps failed", "Tide Watch 4.2 installed", "→→7"} {
		f.Add(seed, "Tide Watch")
	}
	f.Fuzz(func(t *testing.T, line, product string) {
		if code, ok := LastWord(line); ok && !strings.ContainsAny(line, "0123456789") {
			t.Errorf("%q: %d", line, code)
		}
		if well, bad, _ := AllDone(line, product); well && bad {
			t.Errorf("%q is good and bad", line)
		}
	})
}

// A result as the last line, in all languages, with what is advised behind it.
func TestResultsAtTheEnd(t *testing.T) {
	for want, list := range map[string][]string{
		"well": {"Ergebnis ........... erfolgreich", "Ergebnis ........... erfolgreich, Neustart empfohlen", "Ergebnis: erfolgreich", "Gesamtergebnis: erfolgreich", "Résultat : succès", "Résultat final : réussi", "Resultado: correcto", "Resultado ....... con éxito", "Esito: riuscito", "Resultaat: geslaagd", "Wynik: sukces", "Výsledek: úspěch", "Resultat: lyckat", "Sonuç: başarılı", "Результат: успешно", "結果: 成功", "Result: success, restart recommended", "Outcome: ok (reboot required)"},
		"bad":  {"Ergebnis ........... fehlgeschlagen", "Résultat ......... échec", "Resultado: con errores", "Esito: non riuscito", "Resultaat: mislukt", "Wynik: niepowodzenie", "Výsledek: neúspěch", "Resultat: misslyckades", "Sonuç: başarısız", "Результат: неудачно", "結果: 失敗", "Gesamtergebnis: fehlgeschlagen", "Résultat final : échoué"},
		"":     {"Result: pending", "Neustart empfohlen", "Ergebnis: 17 Dateien", "restart required", "Download result: success of part 3"},
	} {
		for _, line := range list {
			well, bad, _ := AllDone(line, "Tide Watch")
			if got := map[bool]string{true: "well"}[well] + map[bool]string{true: "bad"}[bad]; got != want {
				t.Errorf("%q: %q, want %q", line, got, want)
			}
		}
	}
}
