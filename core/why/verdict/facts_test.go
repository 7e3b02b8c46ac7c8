package verdict

import (
	"context"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
)

// facts are what setups tell of themselves and of the machine, by language: all
// is well with each.
var facts = map[string][]string{
	"en": {"administrator rights: yes", `command line: "C:\deploy\tide setup.exe" /S`, "antivirus: Sea Guard active", "real-time protection: on",
		"free space on C: 84012 MB", "OS build 22631", "WebView2 Runtime 120.0 found", "vcruntime140.dll 14.38 found in System32", "reboot pending: no",
		"PendingFileRenameOperations: none", "another installation running: no", "firewall: on", "group policy: no restriction for installers",
		"processor: x64, SSE4.2=1 AVX=1", "service account LocalSystem", "timeout = 30 s", "file sharing violations: 0", "locked files: 0", "errors: 0"},
	"de": {"Administratorrechte: ja", "Befehlszeile: TideWatch.exe /S", "Virenschutz: Sea Guard, aktiv", "Systemzeit: 11.05.2026 09:00:00",
		"Laufzeitumgebung 8.0.1 gefunden", "Neustart ausstehend: nein", "Gruppenrichtlinie: keine Einschränkung", "Prozessor: x64, 64-Bit-Version",
		"Netzlaufwerk Z: verbunden", "gesperrte Dateien: 0", "Mindestanforderungen erfüllt", "Kontingent: keines"},
	"fr": {"droits d'administrateur : oui", "ligne de commande : TideWatch.exe /S", "protection en temps réel : activée", "pare-feu : activé",
		"redémarrage en attente : non", "stratégie de groupe : aucune restriction", "délai d'attente : 30 s", "configuration requise : satisfaite"},
	"es": {"privilegios de administrador: sí", "línea de comandos: TideWatch.exe /S", "cortafuegos: activado", "directiva de grupo: sin restricciones",
		"unidad de red Z: conectada", "versión anterior: ninguna", "archivos bloqueados: 0"},
	"it": {"diritti di amministratore: sì", "riga di comando: TideWatch.exe /S", "criteri di gruppo: nessuna restrizione", "timeout: 30 s", "unità di rete Z: connessa"},
	"pt": {"direitos de administrador: sim", "linha de comando: TideWatch.exe /S", "política de grupo: sem restrições", "versão anterior: nenhuma"},
	"nl": {"beheerdersrechten: ja", "opdrachtregel: TideWatch.exe /S", "groepsbeleid: geen beperking", "time-out: 30 s"},
	"pl": {"uprawnienia administratora: tak", "wiersz polecenia: TideWatch.exe /S", "inna instalacja w toku: nie", "zasady grupy: bez ograniczeń"},
	"cs": {"práva správce: ano", "příkazový řádek: TideWatch.exe /S", "jiná instalace probíhá: ne", "zásady skupiny: bez omezení"},
	"sv": {"administratörsrättigheter: ja", "kommandorad: TideWatch.exe /S", "annan installation pågår: nej", "grupprincip: inga begränsningar"},
	"tr": {"yönetici hakları: evet", "komut satırı: TideWatch.exe /S", "grup ilkesi: kısıtlama yok", "kilitli dosyalar: 0"},
	"ru": {"права администратора: да", "командная строка: TideWatch.exe /S", "групповая политика: ограничений нет", "заблокированные файлы: 0"},
	"ja": {"管理者権限: あり", "コマンドライン: TideWatch.exe /S", "C: の空き領域: 84012 MB", "グループ ポリシー: 制限なし", "タイムアウト: 30 秒"},
	"ko": {"관리자 권한: 예", "명령줄: TideWatch.exe /S", "그룹 정책: 제한 없음", "잠긴 파일: 0", "시간 초과: 30초"},
	"zh": {"管理员权限：是", "命令行：TideWatch.exe /S", "代理服务器：无", "组策略：无限制", "超时：30 秒"},
}

// Where nothing else speaks, a fact of which all is well is no cause.
func TestFactsAreNoCauses(t *testing.T) {
	for language, all := range facts {
		for _, fact := range all {
			log := "09:00:01 Tide Watch 3.1 setup starts\n09:00:02 " + fact + "\n09:00:03 unpack tide.cab\n09:00:04 ERROR setup failed\n"
			if v := reached(t, log); *v.Cause.Class != "unknown" {
				t.Errorf("%s: %q is told as the cause, %s with %.2f", language, fact, *v.Cause.Class, v.Cause.Confidence)
			}
		}
	}
}

func reached(t *testing.T, log string) *Verdict {
	t.Helper()
	v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(log)}, Options{})
	if err != nil {
		t.Fatalf("%v\n%s", err, log)
	}
	return v
}

// rightClass says whether a verdict is what somebody who knows the trade says
// of a made-up setup.
func rightClass(c told, v *Verdict) bool {
	if want := c.outcome; want != "" && v.Outcome != want || want == "" && v.Outcome != story.Failed {
		return false
	}
	return c.class == "" || v.Cause.Class != nil && slices.Contains(strings.Fields(c.class), *v.Cause.Class)
}

// The same setups with the facts of a language told at their head: the verdict
// stays in nearly all.
func TestVendorsLogsBehindFacts(t *testing.T) {
	right, all := 0, 0
	languages := []string{"en", "de", "fr", "es", "it", "pt", "nl", "pl", "cs", "sv", "tr", "ru", "ja", "ko", "zh"}
	for i, c := range allVendors() {
		if c.lines == "" || !rightClass(c, reached(t, c.log(chatter))) {
			continue
		}
		first, rest, _ := strings.Cut(strings.TrimLeft(c.lines, "\n\t "), "\n")
		with := c
		with.lines = first + "\n"
		for _, fact := range facts[languages[i%len(languages)]] {
			with.lines += "I env " + fact + "\n"
		}
		with.lines += rest
		all++
		if v := reached(t, with.log(chatter)); rightClass(c, v) {
			right++
		} else if v.Cause.Class != nil && *v.Cause.Class != "unknown" && v.Cause.Confidence >= 0.9 {
			t.Errorf("%s behind facts: %s with %.2f", c.name, *v.Cause.Class, v.Cause.Confidence)
		}
	}
	if share := float64(right) / float64(all); share < 0.97 { // measured: 0.98
		t.Errorf("%d of %d stay right behind facts", right, all)
	}
}

// Each setup in five layouts that are not its own, with levels and without:
// nearly all stay right, and no wrong one is sure.
func TestVendorsLogsInOtherLayouts(t *testing.T) {
	names := slices.Sorted(func(yield func(string) bool) {
		for name := range layouts {
			if !yield(name) {
				return
			}
		}
	})
	right, all := 0, 0
	for i, c := range allVendors() {
		if c.lines == "" || !rightClass(c, reached(t, c.log(chatter))) {
			continue
		}
		for k := range 5 {
			other := c
			other.layout = names[(i*7+k*29)%len(names)]
			all++
			v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(other.log(chatter))}, Options{})
			switch {
			case err != nil: // a few lines without time, level or a word for setups
			case rightClass(c, v):
				right++
			case v.Cause.Class != nil && *v.Cause.Class != "unknown" && v.Cause.Confidence >= 0.9:
				t.Errorf("%s in the layout %q: %s with %.2f", c.name, other.layout, *v.Cause.Class, v.Cause.Confidence)
			}
		}
	}
	if share := float64(right) / float64(all); share < 0.97 { // measured: 0.98
		t.Errorf("%d of %d stay right in other layouts", right, all)
	} else {
		t.Logf("%d of %d", right, all)
	}
}
