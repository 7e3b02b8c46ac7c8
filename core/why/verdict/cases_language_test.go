package verdict

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"testing"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/simplifiedchinese"
	"golang.org/x/text/encoding/traditionalchinese"
	"golang.org/x/text/encoding/unicode"

	"hollowkey/core/logs/story"
)

// A tongue is how the engine says things in one language.
type tongue struct {
	name                     string
	plain, start, end, value string // the words of the action marks
	colon, stop              string
	err, product, failed     string
	service                  string // 1920, %s for display name and name
	folder                   string // 1303, %s for the folder
	drive                    string // 1327, %s for the drive
	ansi                     encoding.Encoding
}

var tongues = []tongue{
	{"English", "Action", "Action start", "Action ended", "Return value", ":", ".", "Error", "Product", "Installation failed.",
		"Service '%s' (%s) failed to start.  Verify that you have sufficient privileges to start system services.",
		"The installer has insufficient privileges to access this directory: %s.  The installation cannot continue.", "Invalid Drive: %s",
		charmap.Windows1252},
	{"German", "Aktion", "Aktion gestartet um", "Aktion beendet um", "Rückgabewert", ":", ".", "Fehler", "Produkt",
		"Die Installation ist fehlgeschlagen.",
		"Der Dienst '%s' (%s) konnte nicht gestartet werden. Überprüfen Sie, ob Sie über ausreichende Rechte verfügen.",
		"Das Installationsprogramm verfügt nicht über ausreichende Zugriffsrechte für das Verzeichnis: %s. Die Installation wird abgebrochen.",
		"Ungültiges Laufwerk: %s", charmap.Windows1252},
	{"French", "Action", "Début de l'action", "Fin de l'action", "Valeur renvoyée", " :", ".", "Erreur", "Produit ",
		"L'installation a échoué.",
		"Le service '%s' (%s) n'a pas pu démarrer. Vérifiez que vous disposez d'autorisations suffisantes.",
		"Le programme d'installation ne dispose pas de privilèges suffisants pour accéder à ce répertoire : %s. L'installation ne peut pas continuer.", "Lecteur non valide : %s", charmap.Windows1252},
	{"Spanish", "Acción", "Acción iniciada", "Acción finalizada", "Valor devuelto", ":", ".", "Error", "Producto", "Error de instalación.",
		"No se pudo iniciar el servicio '%s' (%s). Compruebe que tiene privilegios suficientes.",
		"El instalador no tiene privilegios suficientes para tener acceso al directorio: %s. La instalación no puede continuar.",
		"Unidad no válida: %s", charmap.Windows1252},
	{"Italian", "Azione", "Inizio azione", "Fine azione", "Valore restituito", ":", ".", "Errore", "Prodotto", "Installazione non riuscita.",
		"Impossibile avviare il servizio '%s' (%s). Verificare di disporre dei privilegi sufficienti.",
		"Privilegi insufficienti per accedere alla directory: %s. Impossibile continuare.", "Unità non valida: %s", charmap.Windows1252},
	{"Portuguese", "Ação", "Início da ação", "Ação concluída", "Valor de retorno", ":", ".", "Erro", "Produto",
		"Falha na instalação.",
		"Falha ao iniciar o serviço '%s' (%s). Verifique se você tem privilégios suficientes.",
		"O instalador não tem privilégios suficientes para acessar este diretório: %s. A instalação não pode continuar.",
		"Unidade inválida: %s", charmap.Windows1252},
	{"Dutch", "Actie", "Actie gestart om", "Actie beëindigd om", "Geretourneerde waarde", ":", ".", "Fout", "Product", "Installatie mislukt.",
		"De service '%s' (%s) kan niet worden gestart. Controleer of u over voldoende rechten beschikt.",
		"Het installatieprogramma heeft onvoldoende bevoegdheden voor de map: %s. De installatie kan niet doorgaan.", "Ongeldig station: %s",
		charmap.Windows1252},
	{"Polish", "Akcja", "Rozpoczęcie akcji", "Zakończenie akcji", "Wartość zwracana", ":", ".", "Błąd", "Produkt",
		"Instalacja nie powiodła się.",
		"Nie można uruchomić usługi '%s' (%s). Sprawdź, czy masz wystarczające uprawnienia.",
		"Instalator nie ma wystarczających uprawnień, aby uzyskać dostęp do katalogu: %s. Nie można kontynuować.",
		"Nieprawidłowy dysk: %s",
		charmap.Windows1250},
	{"Czech", "Akce", "Zahájení akce", "Konec akce", "Návratová hodnota", ":", ".", "Chyba", "Produkt", "Instalace se nezdařila.",
		"Službu '%s' (%s) se nepodařilo spustit. Ověřte, zda máte dostatečná oprávnění.",
		"Instalační program nemá dostatečná oprávnění pro přístup k adresáři: %s. Instalace nemůže pokračovat.",
		"Neplatná jednotka: %s",
		charmap.Windows1250},
	{"Swedish", "Åtgärd", "Åtgärden startade", "Åtgärden avslutades", "Returvärde", ":", ".", "Fel", "Produkt",
		"Installationen misslyckades.",
		"Det gick inte att starta tjänsten '%s' (%s). Kontrollera att du har tillräcklig behörighet.",
		"Installationsprogrammet har inte behörighet till katalogen: %s. Installationen kan inte fortsätta.", "Ogiltig enhet: %s",
		charmap.Windows1252},
	{"Russian", "Действие", "Действие начато", "Действие завершено",
		"Возвращаемое значение", ":", ".",
		"Ошибка",
		"Продукт",
		"Установка завершена с ошибкой.",
		"Не удалось запустить службу '%s' (%s). Проверьте, достаточно ли прав.",
		"Недостаточно прав для доступа к папке: %s. Установка не может быть продолжена.", "Неверный диск: %s", charmap.Windows1251},
	{"Japanese", "アクション", "アクション開始", "アクション終了", "戻り値", ":", "。", "エラー", "製品",
		"インストールに失敗しました。",
		"サービス '%s' (%s) を開始できませんでした。システム サービスを開始するための権限を確認してください。",
		"このディレクトリにアクセスするための権限がありません: %s。インストールを続行できません。",
		"無効なドライブ: %s",
		japanese.ShiftJIS},
	{"simplified Chinese", "操作", "操作开始", "操作结束", "返回值", ":", "。", "错误", "产品", "安装失败。",
		"服务 '%s' (%s) 启动失败。请确认您有足够的权限。",
		"安装程序没有足够的权限访问此目录: %s。安装无法继续。",
		"无效的驱动器: %s",
		simplifiedchinese.GBK},
	{"traditional Chinese", "動作", "動作開始", "動作結束", "傳回值", ":", "。", "錯誤", "產品", "安裝失敗。",
		"服務 '%s' (%s) 無法啟動。請確認您有足夠的權限。",
		"安裝程式沒有足夠的權限存取此目錄: %s。安裝無法繼續。",
		"無效的磁碟機: %s",
		traditionalchinese.Big5},
}

// log writes a setup that fails in the script's action with one message.
func (g tongue) log(action string, number int, text string) string {
	var b strings.Builder
	line := func(format string, args ...any) { fmt.Fprintf(&b, format+"\r\n", args...) }
	mark := func(words, name, rest string) { line("%s 09:12:02%s %s%s%s", words, g.colon, name, g.stop, rest) }
	end := func(name string, value int) {
		blank := " "
		if g.stop != "." {
			blank = ""
		}
		line("%s 09:12:03%s %s%s%s%s %d%s", g.end, g.colon, name, g.stop, blank, g.value, value, g.stop)
	}
	line(`=== Verbose logging started: 04.05.2026  09:12:01  Build type: SHIP UNICODE 5.00.10011.00  Calling process: C:\Windows\System32\msiexec.exe ===`)
	mark(g.plain, "INSTALL", " ")
	mark(g.start, "INSTALL", "")
	for _, name := range []string{"AppSearch", "CostFinalize", "InstallInitialize"} {
		mark(g.plain, name, " "+g.failed)
		mark(g.start, name, "")
		end(name, 1)
	}
	mark(g.start, "InstallFinalize", "")
	line("MSI (s) (A4:10) [09:12:02:100]: Executing op: Header(Signature=1,ScriptType=1)")
	mark(g.plain, action, " "+g.failed)
	line("MSI (s) (A4:10) [09:12:02:200]: Executing op: ActionStart(Name=%s,,)", action)
	line("%s %d%s %s", g.err, number, g.stop, text)
	line("MSI (s) (A4:10) [09:12:03:000]: %s: Tidebook Desk -- %s %d%s %s", g.product, g.err, number, g.stop, text)
	end("InstallFinalize", 3)
	line("MSI (s) (A4:10) [09:12:03:100]: Executing op: Header(Signature=1,ScriptType=2)")
	mark(g.plain, "Rollback", " "+g.failed)
	end("INSTALL", 3)
	line("Property(S): ProductName = Tidebook Desk")
	line("MSI (s) (A4:10) [09:12:04:000]: %s: Tidebook Desk -- %s", g.product, g.failed)
	line("MSI (s) (A4:10) [09:12:04:100]: MainEngineThread is returning 1603")
	return b.String()
}

// The verdict does not depend on the language, nor on how the log is encoded.
func TestEveryLanguageAndEncoding(t *testing.T) {
	for _, g := range tongues {
		for _, f := range []struct {
			action, text, class, subject string
			number                       int
		}{
			{"StartServices", fmt.Sprintf(g.service, "Berth Sync", "BerthSync"), "service", "BerthSync", 1920},
			{"CreateFolders", fmt.Sprintf(g.folder, `C:\ProgramData\Quay`), "permission", `C:\ProgramData\Quay`, 1303},
			{"InstallFiles", fmt.Sprintf(g.drive, `Z:\`), "path", "Z:", 1327},
		} {
			text := g.log(f.action, f.number, f.text)
			for name, enc := range map[string]encoding.Encoding{
				"UTF-16":              unicode.UTF16(unicode.LittleEndian, unicode.UseBOM),
				"UTF-16 without mark": unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM),
				"UTF-8":               encoding.Nop, "ANSI": g.ansi,
			} {
				raw, err := enc.NewEncoder().Bytes([]byte(text))
				if err != nil {
					t.Fatalf("%s, %s: %v", g.name, name, err)
				}
				v, err := Reach(context.Background(), Input{"x.log", bytes.NewReader(raw)}, Options{})
				if err != nil {
					t.Errorf("%s, %s, %d: %v", g.name, name, f.number, err)
					continue
				}
				subject := ""
				if v.Cause.Subject != nil {
					subject = v.Cause.Subject.Name
				}
				if v.Outcome != story.Failed || v.BrokeAt.Action == nil || *v.BrokeAt.Action != f.action || *v.Cause.Class != f.class ||
					v.Cause.Message == nil || *v.Cause.Message != f.number || subject != f.subject {
					t.Errorf("%s, %s, %d: %s at %v: %s, %v, %q (sign %s)", g.name, name, f.number, v.Outcome, v.BrokeAt.Action, *v.Cause.Class,
						v.Cause.Message, subject, v.Sign)
				}
			}
		}
	}
}

// Launch conditions are in the vendor's words, in any language.
func TestRefusalsInManyLanguages(t *testing.T) {
	for _, tt := range []struct{ text, class string }{
		{"Zum Installieren sind Administratorrechte erforderlich.", "elevation"},
		{"Vous devez être administrateur pour installer ce produit.", "elevation"},
		{"Debe tener privilegios de administrador.", "elevation"},
		{"È necessario disporre dei privilegi di amministratore.", "elevation"},
		{"U moet over beheerdersrechten beschikken (beheerder).", "elevation"},
		{"Для установки требуются права администратора.", "elevation"},
		{"管理者権限が必要です。", "elevation"},
		{"您必须是管理员才能安装此产品。", "elevation"},
		{"Dieses Produkt wird auf diesem Betriebssystem nicht unterstützt.", "condition"},
		{"Este producto no es compatible con su sistema operativo.", "condition"},
		{"Данная операционная система не поддерживается.", "condition"},
		{"Benötigt wird .NET Framework 4.8.", "prerequisite"},
		{"Нужна Microsoft Visual C++ 2019 Redistributable.", "prerequisite"},
		{"Une version plus récente de ce produit est déjà installée.", "leftover"},
		{"より新しいバージョンが既にインストールされています。", "leftover"},
		{"Veuillez redémarrer l'ordinateur.", "busy"},
		{"Nicht genügend Speicherplatz vorhanden.", "space"},
		{"磁盘空间不足。", "space"},
	} {
		log := engineLog(scenario{action: "LaunchConditions", lines: []string{"Product: Tidebook Desk -- " + tt.text}})
		v, err := Reach(context.Background(), Input{"x.log", strings.NewReader(log)}, Options{})
		if err != nil || *v.Cause.Class != tt.class {
			t.Errorf("%q: %s (sign %s, %v), want %s", tt.text, *v.Cause.Class, v.Sign, err, tt.class)
		}
	}
}
