package verdict

import (
	"fmt"
	"strings"
	"time"
)

func init() {
	forms := map[string]func(at time.Time, word, part, text string) string{
		"de it nl cs tr ko": func(at time.Time, word, part, text string) string {
			return fmt.Sprintf("%s [%s] %s: %s", at.Format("02.01.2006 15:04:05"), word, part, text)
		},
		"es pl ru": func(at time.Time, word, _, text string) string {
			return fmt.Sprintf("%s %-12s %s", at.Format("2006-01-02 15:04:05"), word, text)
		},
		"fr pt sv ja zh": func(at time.Time, word, part, text string) string {
			return fmt.Sprintf("%s | %s | %s | %s", at.Format("2006/01/02 15:04:05"), word, part, text)
		},
		"de2 fr2": func(at time.Time, _, _, text string) string { return at.Format("15:04:05") + "  " + text },
	}
	words := map[string][4]string{
		"de": {"Debug", "Info", "Warnung", "Fehler"},
		"fr": {"Trace", "Info", "Attention", "Erreur"},
		"es": {"Depuración", "Información", "Advertencia", "Error"},
		"it": {"Debug", "Info", "Avviso", "Errore"},
		"pt": {"Depuração", "Informação", "Aviso", "Erro"},
		"nl": {"Debug", "Info", "Waarschuwing", "Fout"},
		"pl": {"Debug", "Informacja", "Ostrzeżenie", "Błąd"},
		"cs": {"Ladění", "Informace", "Varování", "Chyba"},
		"sv": {"Debug", "Info", "Varning", "Fel"},
		"tr": {"Ayıklama", "Bilgi", "Uyarı", "Hata"},
		"ru": {"Отладка", "Инфо", "Предупреждение", "Ошибка"},
		"ja": {"詳細", "情報", "警告", "エラー"},
		"ko": {"디버그", "정보", "경고", "오류"},
		"zh": {"调试", "信息", "警告", "错误"},
	}
	for languages, form := range forms {
		for language := range strings.FieldsSeq(languages) {
			layouts["words "+language] = func(at time.Time, level byte, part, text string) string {
				return form(at, words[language][strings.IndexByte("DIWE", level)], part, text) + "\n"
			}
		}
	}
}

// A thirteenth set of made-up setups, each in its own language down to the
// levels.
var thirteenthVendors = []told{
	{name: "no right to write, in German", layout: "words de", class: "permission elevation",
		subject: `C:\Program Files\Nachtkerze`, action: "Rechte|Schreibprobe", exit: 5, lines: `
		I Kern Nachtkerze Faktura 5.2 wird eingerichtet
		#
		I Rechte Schreibprobe in C:\Program Files\Nachtkerze
		W Rechte Schreibprobe misslungen: Zugriff verweigert
		E Kern ohne Schreibrecht kann nicht weitergemacht werden
		I Kern Ende der Einrichtung, Rückgabewert 5`},
	{name: "a service whose base is off, in French", layout: "words fr", class: "service",
		subject: "MillepertuisAgent|MillepertuisBase", action: "service|démarrage du service MillepertuisAgent", exit: 1058, lines: `
		I noyau Mise en place de Millepertuis Paie 3.0
		#
		I service démarrage du service MillepertuisAgent
		E service le service n'a pas pu démarrer : un service dont il dépend est désactivé
		D service dépend de : RpcSs, MillepertuisBase (désactivé)
		E noyau mise en place interrompue, code 1058`},
	{name: "too little room, in Spanish", layout: "words es", class: "space", subject: "C:", lines: `
		I x Instalación de Hierbabuena TPV 2.4
		#
		I x espacio en C: 212 MB, hacen falta 900 MB
		E x no queda sitio suficiente para los archivos
		E x la instalación ha terminado con errores`},
	{name: "a name that nothing resolves, in Italian", layout: "words it", class: "network",
		subject: "agg.melissa.example|https://agg.melissa.example/8/base.pkg", action: "rete|scarico", lines: `
		I avvio Installazione di Melissa Cassa 8
		#
		I rete scarico https://agg.melissa.example/8/base.pkg
		W rete tentativo 1: il nome remoto non può essere risolto: agg.melissa.example
		W rete tentativo 2: il nome remoto non può essere risolto: agg.melissa.example
		E avvio impossibile scaricare il pacchetto, installazione annullata dal programma`},
	{name: "held by itself, in Portuguese", layout: "words pt", class: "in-use",
		subject: `C:\Program Files\Alecrim\alecrim.exe|alecrim.exe`, action: "ficheiros|a substituir", lines: `
		I base Instalação de Alecrim Gestão 4.1
		#
		I ficheiros a substituir C:\Program Files\Alecrim\alecrim.exe
		E ficheiros o ficheiro está a ser utilizado por outro processo
		D ficheiros processo: alecrim.exe (4412)
		E base a instalação falhou`},
	{name: "a runtime first, in Dutch", layout: "words nl", class: "prerequisite",
		subject: "Nautic Runtime 4.8|Nautic Runtime", action: "vereist|zoeken naar Nautic Runtime 4.8", exit: 5100, lines: `
		I kern Installatie van Kamille Planning 6.3
		#
		I vereist zoeken naar Nautic Runtime 4.8
		W vereist Nautic Runtime 4.8 is niet geïnstalleerd
		E kern eerst moet Nautic Runtime 4.8 worden geïnstalleerd
		I kern installatie gestopt, code 5100`},
	{name: "a sum that does not agree, in Polish", layout: "words pl", class: "corrupt", subject: "baza.cab", exit: 1392, lines: `
		I x Instalacja programu Szałwia Magazyn 2.0
		#
		I x suma kontrolna pakietu baza.cab
		E x suma kontrolna się nie zgadza, plik baza.cab jest uszkodzony
		E x instalacja nie powiodła się, kod 1392`},
	{name: "forbidden by policy, in Czech", layout: "words cs", class: "policy",
		subject: `HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer\DisableMSI|DisableMSI|HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer`, action: "zásady|kontrola zásad skupiny", exit: 1625, lines: `
		I jádro Instalace Heřmánek Sklad 3.5
		#
		I zásady kontrola zásad skupiny
		E zásady instalace aplikací je zakázána správcem systému
		D zásady HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer\DisableMSI = 2
		E jádro instalace skončila chybou 1625`},
	{name: "a drive that is not there, in Swedish", layout: "words sv", class: "path",
		subject: `F:|F:\Program\Rölleka`, action: "sökväg|målmapp", exit: 15, lines: `
		I kärna Installation av Rölleka Bokning 7.1
		#
		I sökväg målmapp F:\Program\Rölleka
		E sökväg enheten F: finns inte
		E kärna installationen avbröts, kod 15`},
	{name: "administrators only, in Turkish", layout: "words tr", class: "elevation",
		action: "yetki|yönetici hakları denetleniyor", exit: 740, lines: `
		I çekirdek Papatya Stok 1.9 kurulumu
		#
		I yetki yönetici hakları denetleniyor
		E yetki kurulum için yönetici hakları gerekiyor
		E çekirdek kurulum başarısız, kod 740`},
	{name: "into quarantine, in Russian", layout: "words ru", class: "security-software",
		subject: `C:\Program Files\Душица\ucheta.exe|ucheta.exe`, exit: 2, lines: `
		I x Установка Душица Учёт 4.7
		#
		I x запись C:\Program Files\Душица\ucheta.exe
		W x антивирус поместил C:\Program Files\Душица\ucheta.exe в карантин
		E x файл ucheta.exe исчез
		E x установка прервана, код 2`},
	{name: "an OS that is too old, in Japanese", layout: "words ja", class: "condition platform",
		action: "条件|OS を確認しています", exit: 21, lines: `
		I 本体 サクラソウ会計 3.2 のインストールを開始します
		#
		I 条件 OS を確認しています
		D 条件 現在のビルド 17763、必要なビルド 19041
		E 条件 このバージョンの Windows では使用できません
		E 本体 インストールを終了します。終了コード 21`},
	{name: "an uninstaller that is gone, in Korean", layout: "words ko", class: "leftover path",
		subject: `C:\Program Files\Jindallae\unins.exe|unins.exe`, action: "이전버전|이전 버전 제거 중", exit: 70, lines: `
		I 본체 진달래 재고 2.3 설치 시작
		#
		I 이전버전 이전 버전 제거 중
		E 이전버전 이전 버전의 제거 프로그램을 찾을 수 없습니다: C:\Program Files\Jindallae\unins.exe
		E 본체 설치에 실패했습니다 (코드 70)`},
	{name: "a key that may not be opened, in Chinese", layout: "words zh", class: "permission elevation registry",
		subject: `HKLM\SOFTWARE\Yingchun\Stock`, action: "注册表|正在写入", exit: 5, lines: `
		I 主程序 开始安装 迎春花库存 5.0
		#
		I 注册表 正在写入 HKLM\SOFTWARE\Yingchun\Stock
		E 注册表 拒绝访问注册表项 HKLM\SOFTWARE\Yingchun\Stock
		E 主程序 安装失败，返回代码 5`},
	{name: "another setup at work, in German", layout: "words de2", class: "busy", exit: 1618, lines: `
		I x Einrichtung von Beifuß Labor 9
		#
		I x eine andere Installation läuft bereits
		I x warte 60 Sekunden
		I x immer noch belegt, die Einrichtung wird beendet (1618)`},
	{name: "a cabinet that is not on the medium, in French", layout: "words fr2", class: "source path",
		subject: `\\bry-srv\logiciels\comptoir\data2.cab|data2.cab`, exit: 1612, lines: `
		I x Installation de Bruyère Comptoir 2.1
		#
		I x ouverture de \\bry-srv\logiciels\comptoir\data2.cab
		I x le fichier data2.cab est introuvable sur le support
		I x fin de l'installation, résultat 1612`},
}
