package verdict

import (
	"fmt"
	"strings"
	"time"

	"hollowkey/core/logs/story"
)

func init() {
	words := map[byte]string{'D': "DBG", 'I': "INF", 'W': "AVR", 'E': "ERR"}
	for name, layout := range map[string]func(at time.Time, level byte, part, text string) string{
		"a day and no part": func(at time.Time, _ byte, _, text string) string { return at.Format("02.01.2006 15:04:05  ") + text },
		"a clock and a part in brackets": func(at time.Time, _ byte, part, text string) string {
			return at.Format("15:04:05 [") + part + "] " + text
		},
		"days with slashes": func(at time.Time, level byte, part, text string) string {
			return at.Format("2006/01/02 15:04:05 ") + words[level] + " " + part + ": " + text
		},
		"the level before the time": func(at time.Time, _ byte, part, text string) string {
			return "INFO " + at.Format("15:04:05.000000 ") + part + " " + text
		},
		"three names of an object": func(at time.Time, _ byte, part, text string) string {
			return fmt.Sprintf(`{"@t":%q,"@mt":%q,"unit":%q}`, at.Format(time.RFC3339), text, part)
		},
		"a part between bars": func(at time.Time, _ byte, part, text string) string {
			return fmt.Sprintf("%s | %-8s| %s", at.Format("Jan 02 15:04:05"), part, text)
		},
		"signs of four kinds": func(_ time.Time, level byte, _, text string) string {
			return string(" +?-"[strings.IndexByte("DIWE", level)]) + " " + text
		},
	} {
		layouts[name] = func(at time.Time, level byte, part, text string) string { return layout(at, level, part, text) + "\n" }
	}
}

// An eighteenth set of made-up setups: facts that sound like causes stand at
// their heads.
var eighteenthVendors = []told{
	{name: "German, facts before a file in use", layout: "a day and no part", class: "in-use service", subject: `D:\Kasse\druck.dll|druck.dll|SchieferDruck`, exit: 17, lines: `
		I x Schiefer Kasse 5.2 Installation
		I x Betriebssystem: Windows 11 Pro, Build 22631
		I x Benutzer: KASSE\wirt, Administratorrechte: ja
		I x Virenschutz: aktiv, Echtzeitschutz ein
		I x Befehlszeile: SchieferKasse.exe /still /ziel="D:\Kasse"
		I x Freier Speicherplatz auf D: 118 GB
		#
		I x Dienst SchieferDruck wird beendet
		I x Dienst SchieferDruck hat nicht innerhalb von 60 s angehalten
		I x Ersetzen von D:\Kasse\druck.dll nicht möglich: Die Datei wird von einem anderen Prozess verwendet
		I x Änderungen werden zurückgenommen
		I x Installation ohne Erfolg beendet (17)`},
	{name: "French, facts before a denied database", layout: "a clock and a part in brackets", class: "permission", subject: `C:\ProgramData\Gres\planning.mdb|planning.mdb`, action: "base|ouverture", lines: `
		I init Installation de Grès Planning 3.0
		I env droits d'administrateur : oui
		I env pare-feu : actif
		I env ligne de commande : install.exe /silencieux
		I env stratégie de groupe : aucune restriction
		#
		I base ouverture de C:\ProgramData\Gres\planning.mdb
		I base échec de l'ouverture : accès refusé
		I init l'installation n'a pas abouti`},
	{name: "facts before a proxy that asks", layout: "the level before the time", class: "network", lines: `
		I setup Feldspar Notes 7.4 setup
		I env elevated: yes
		I env reboot pending: no
		I env antivirus: Sea Guard active
		I env .NET Framework 4.8 present
		I env proxy: none
		#
		I get https://files.feldspar.example/notes/core.pak
		I get status 407 from proxy01.corp.example:8080
		I get core.pak not fetched
		I setup cannot go on without core.pak
		I setup Feldspar Notes was not installed`},
	{name: "a key that is marked for deletion", layout: "three names of an object", class: "registry leftover busy", subject: `HKLM\SOFTWARE\Gabbro\Studio\12|HKLM\SOFTWARE\Gabbro\Studio`, action: "mig|RegCreateKeyEx", exit: 1018, lines: `
		I main Gabbro Studio 12.1 update
		I env admin=true, uac=on
		I env sharing violations: 0
		I env disk C: 41 GB free, quota none
		#
		I mig opening HKLM\SOFTWARE\Gabbro\Studio
		I mig RegCreateKeyEx HKLM\SOFTWARE\Gabbro\Studio\12: 1018
		I mig key is marked for deletion
		I main undoing
		I main update ended with 1018`},
	{name: "Spanish, an account that may not log on", layout: "none", class: "service", subject: `BasaltoImpresora|.\basalto`, lines: `
		I x Instalador de Basalto Caja 2.8
		I x privilegios de administrador: sí
		I x sistema operativo: Windows 10, compilación 19045
		I x cortafuegos: activado
		#
		I x iniciando el servicio BasaltoImpresora
		I x error 1069: el servicio no se inició debido a un error de inicio de sesión
		I x la cuenta .\basalto no puede iniciar sesión como servicio
		I x deshaciendo los cambios
		I x la instalación no se completó`},
	{name: "a share that goes away", layout: "a part between bars", class: "source network", subject: `\\fs02\rollout\marl\payload.cab|payload.cab|fs02|\\fs02\rollout\marl`, exit: 5, lines: `
		I setup Marl Dispatch 4.0 deployment
		I pre administrator: yes
		I pre windows build 22631, min build 19041: ok
		I pre other installation running: no
		I pre timeout = 120 s
		#
		I stage copying \\fs02\rollout\marl\payload.cab to C:\Windows\Temp\marl
		I stage payload.cab: 18874368 of 41943040 bytes
		I stage the specified network name is no longer available
		I stage next try in 20 s
		I stage payload.cab: cannot open \\fs02\rollout\marl\payload.cab
		I setup deployment given up (5)`},
	{name: "Japanese, a device that is not ready", layout: "a day and no part", class: "path source", subject: `D:\帳簿\data|D:`, exit: 21, lines: `
		I x セットアップ 片岩帳簿 6.1 を開始します
		I x 管理者権限: あり
		I x ウイルス対策: 有効
		I x C: の空き領域: 84 GB
		I x 保留中の再起動: なし
		#
		I x D:\帳簿\data を作成しています
		I x デバイスの準備ができていません
		I x セットアップを続行できません
		I x 終了コード 21`},
	{name: "Russian, an issuer nobody knows", layout: "days with slashes", class: "network", subject: "upd.slanets.example", action: "net", lines: `
		I setup Установка Сланец Учёт 4.4
		I env права администратора: да
		I env антивирус: включён
		I env командная строка: setup.exe /тихо
		I env брандмауэр: включён
		#
		I net соединение с upd.slanets.example
		W net сертификат upd.slanets.example выдан неизвестным центром
		E net загрузка прервана
		E setup установка не завершена`},
	{name: "a higher version behind requirements that are met", layout: "a clock and a part in brackets", class: "condition leftover", exit: 1638, lines: `
		I setup Onyx Field 3.3 installer
		I env minimum version: met
		I env service account: LocalSystem
		I env certificate store: 41 roots
		#
		I scan product {9C2E1B7A-0F44-4C56-9B1E-7A5C33D0A2F1} Onyx Field 3.5 found
		I scan this package: 3.3
		I setup a lower version does not replace a higher one
		I setup leaving with 1638`},
	{name: "two sums behind an access list that is well", layout: "the level before the time", class: "corrupt", subject: "assets.zip|maps/l4.bin|l4.bin", exit: 13, lines: `
		I setup Pumice Board 2.0 setup
		I env firewall: on
		I env access list of target: ok
		#
		I unpack assets.zip: entry maps/l4.bin: stored crc 7be1904c, computed 2f60a3d9
		I unpack assets.zip left unusable
		I setup nothing further is done
		I setup result 13`},
	{name: "French, no room behind a quota of none", layout: "a day and no part", class: "space", subject: "C:", exit: 112, lines: `
		I x Mise à jour de Tuffeau Caisse 8.1
		I x mémoire : 16384 Mo, espace libre sur C: 412 Mo
		I x configuration requise : 2 Go libres
		I x quota : aucun
		#
		I x décompression de caisse.7z
		I x plus de place sur C: après 398 Mo
		I x nettoyage
		I x mise à jour abandonnée, code 112`},
	{name: "a good end by name behind troubles", layout: "a clock and a part in brackets", outcome: story.Succeeded, lines: `
		I setup Slate Radio 5.5 setup
		I env antivirus: Sea Guard active
		I env proxy: none
		#
		W net mirror1 refused the connection, mirror2 taken
		I net all parts fetched
		#
		W svc SlateOld: service does not exist (1060), nothing to stop
		I setup success: true
		I setup rebootRequired=false`},
	{name: "no administrator, as a fact", layout: "three names of an object", class: "elevation permission", subject: `C:\Program Files\Chalk\viewer.exe|viewer.exe`, action: "copy|CreateFile", lines: `
		I main Chalk Viewer 1.9 install
		I env isadmin=false, uac=on
		#
		I copy C:\Program Files\Chalk\viewer.exe
		I copy CreateFile C:\Program Files\Chalk\viewer.exe: 5
		I main install aborted`},
	{name: "Portuguese, an older runtime", layout: "days with slashes", class: "prerequisite", subject: ".NET Desktop Runtime 8.0|.NET Desktop Runtime|.NET", lines: `
		I inst Instalação do Calcário Ponto 6.6
		I env direitos de administrador: sim
		I env antivírus: ativo
		I env linha de comando: setup.exe /silencioso
		#
		I pre procurando .NET Desktop Runtime 8.0
		E pre .NET Desktop Runtime 8.0 não encontrado; encontrado 6.0.25
		E inst pré-requisitos ausentes, nada foi instalado`},
	{name: "German, a key for another edition", layout: "a part between bars", class: "condition", exit: 44, lines: `
		I setup Tonschiefer Lager 3.1 Einrichtung
		I env Neustart ausstehend: nein
		I env andere Installation aktiv: nein
		I env Netzlaufwerk L: verbunden
		#
		I lic Schlüssel gelesen: TSL3-STD
		I lic Ausgabe: Professional verlangt, Schlüssel gilt für Standard
		I setup Einrichtung wird nicht fortgesetzt
		I setup Ende mit 44`},
}
