// This file reads the sentence with which setups in all languages say that
// nothing came of it: "the program was not installed".

package endings

import (
	"strings"
	"unicode"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

var (
	// notInstalled is what did not happen to what is set up, in small letters.
	notInstalled = lazy.MustCompile(`(?:was|were|is|has|have|could|can|will) ?(?:not|n['’]t)(?: been| be)? (?:installed|updated|upgraded|set up|deployed)|cannot be (?:installed|updated|upgraded|set up)|(?:unable|failed) to (?:install|update|upgrade|set up)|could ?n[o'’]t (?:install|update|upgrade|set up)|not installed|` +
		`(?:wurden?|wird|konnten?|kann|ist|sind) nicht (?:installiert|aktualisiert|eingerichtet)(?: werden| worden)?|nicht installiert|` +
		`n['’](?:a|ont) pas (?:été|pu être) (?:installée?s?|mise?s? à jour)|n['’]est pas installée?|impossible d['’]installer|` +
		`no (?:se ha|se han|ha sido|fue|se|está) (?:podido )?(?:instalad[oa]|instaló|instalar|actualizad[oa]|actualizó)|no se (?:pudo|puede) (?:instalar|actualizar)|imposible instalar|` +
		`non è stat[oa] (?:possibile )?(?:installat[oa]|installare|aggiornat[oa]|aggiornare)|non è installat[oa]|impossibile (?:installare|aggiornare)|` +
		`não (?:foi|está|pôde ser) (?:possível )?(?:instalad[oa]|instalar|atualizad[oa]|atualizar)|impossível instalar|` +
		`(?:is|werd|kon|kan) niet (?:worden )?(?:geïnstalleerd|bijgewerkt)(?: worden)?|niet geïnstalleerd|(?:er is )?niets geïnstalleerd|` +
		`nie (?:został[ao]?|jest|udało się|można) (?:zainstalowan[yaeą]|zainstalować|zaktualizowan[yae]|zaktualizować)|nie zainstalowano|` +
		`(?:nebyl[aoy]?|není|nelze) (?:nainstalován[aoy]?|nainstalovat|aktualizován[ao]?|aktualizovat)|se nepodařilo nainstalovat|nepodařilo se nainstalovat|` +
		`(?:har|kunde|kan) inte (?:installerats|installeras|uppdaterats|uppdateras)|(?:har )?installera[td]?e?s inte|blev inte installera[td]|är inte installera[td]|inget (?:har )?installera(?:ts|des)|` +
		`kurulmadı|kurulamadı|yüklenmedi|yüklenemedi|kurulu değil|güncellenmedi|güncellenemedi|` +
		`не (?:был[аои]? )?(?:установлен[аоы]?|обновлен[аоы]?)|не удалось (?:установить|обновить)|невозможно установить|` +
		`インストール(?:され(?:ませんでした|ていません|なかった)|できません(?:でした)?|していません)|` +
		`설치(?:되지 않았습니다|하지 못했습니다|할 수 없(?:습니다|었습니다)|되지 않음)|` +
		`(?:未|没有|沒有|无法|無法|不能|未能)(?:被)?(?:安装|安裝)(?:成功)?`)
	// ownNoun is a word for what is set up, or beside it.
	ownNoun = lazy.MustCompile(`(?:^|[^\pL])(?:the|this|it|program|programs?|software|application|app|product|package|update|upgrade|suite|any ?thing|das|die|der|es|programm|anwendung|applikation|produkt|paket|aktualisierung|nichts|le|la|les|l|il|elle|programme|logiciel|application|produit|mise à jour|rien|el|los|programa|aplicación|producto|actualización|nada|` +
		`lo|programma|applicazione|prodotto|aggiornamento|nulla|niente|o|a|os|as|aplicação|aplicativo|produto|atualização|het|de|een|toepassing|applicatie|niets|er|pakiet|aplikacja|produkt|nic|zostało|to|aplikace|balíček|nebylo|programmet|applikationen|produkten|paketet|inget|bir|uygulama|yazılım|ürün|hiçbir|şey|программа|приложение|продукт|пакет|обновление|ничего)(?:$|[^\pL])|` +
		`プログラム|アプリケーション|アプリ|ソフトウェア|製品|何も|は|が|を|프로그램|응용|소프트웨어|제품|아무것도|이\(가\)|을\(를\)|[이가은는을를]|程序|程式|应用|應用|软件|軟體|产品|產品|任何内容|任何內容|该|本|已|仍`)
)

// NotInstalled says whether a line tells that what is set up, by such words or
// by the product's name, did not come to be installed, and nothing else: of
// another thing it would be what the setup needs.
func NotInstalled(line, product string) bool {
	low := strings.TrimSpace(pieces.Lower(line))
	if len(low) > lastWordRoom {
		return false
	}
	at := notInstalled.FindStringIndex(low)
	if at == nil {
		return false
	}
	rest := low[:at[0]] + " " + low[at[1]:]
	if product = pieces.Lower(product); product != "" {
		rest = strings.ReplaceAll(rest, product, " ")
		if first, _, more := strings.Cut(product, " "); more && len(first) >= len("kelp") {
			rest = strings.ReplaceAll(rest, first, " ")
		}
	}
	for range 2 { // words beside each other share the blank between
		rest = ownNoun.ReplaceAllString(rest, " ")
	}
	rest = versions.ReplaceAllString(rest, " ")
	return !strings.ContainsFunc(rest, unicode.IsLetter) || ofWhole(rest, "") // "end of setup, not installed"
}
