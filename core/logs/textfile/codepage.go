// This file guesses the code page of a text by its letters.

package textfile

import (
	"bytes"
	"strings"
	"unicode"
	"unicode/utf8"
)

const guessLines = 400 // lines with foreign letters that are weighed

// guessPage tells in which Windows code page the text of b is most likely
// written. It decodes the lines that are not UTF-8 with each candidate and
// weighs what comes out: letters of one script that make words are good,
// symbols and letters of mixed scripts in one word are not.
func guessPage(b []byte) Encoding {
	var sample []byte
	for n := 0; n < guessLines && len(b) > 0; {
		line := b
		if at := bytes.IndexByte(b, '\n'); at >= 0 {
			line, b = b[:at], b[at+1:]
		} else {
			b = nil
		}
		if !utf8.Valid(line) {
			sample = append(append(sample, line...), '\n')
			n++
		}
	}
	best, bestWeight := CP1252, weigh(CP1252, sample)
	for _, enc := range []Encoding{CP1250, CP1251, CP1254, CP932, CP936, CP949, CP950, CP850, CP852, CP857, CP866} {
		if w := weigh(enc, sample); w > bestWeight {
			best, bestWeight = enc, w
		}
	}
	return best
}

// Letters that are common in the languages of a code page, and that the same
// bytes in another code page do not give.
var common = map[Encoding]string{
	CP1252: "äöüßéèêàçñóíáúãõåøæîôëïÄÖÜÉ«»’‚‘“”–…°§©®¿¡ìòùâ",
	CP1250: "ąćęłńóśźżŁŚŻáčďéěíňřšťúůýžÁČĎÉĚŘŠŽőűôäľ„”–",
	CP1254: "ğışĞİŞçöüÇÖÜâîû’“”–…",
	CP850:  "äöüßéèêàçñóíáúãõåøæîôëïÄÖÜÉÇÑÅ«»°§©®¿¡ìòùâ",
	CP852:  "ąćęłńóśźżŁŚŻáčďéěíňřšťúůýžÁČĎÉĚŘŠŽőűôäľöüÖÜß",
	CP857:  "ğışĞİŞçöüÇÖÜâîû",
	CP936:  "的一是不了在人有我他这个们中来上大为和国地到以说时要就出会可也你对生能而子那得于着下自之年过发后作里用道行所然家种事成方多经么去法学如都同现当没动面起看定天分还进好小部其些主样理心她本前开但因只从想实日军者意无力它与长把机十民第公此已工使情明性知全三又关点正业外将两高间由问很最重并物手应战向头文体政美相见被利什二等产或新己制身果加西斯月话合回特代内信表化老给世位次度门任常先海通教儿原东声提立及比员解水名真论处走义各入几口认条平系气题活尔更别打女变四神总何电数安少报才结反受目太量再感建务做接必场件计管期市直德资命山金指克许统区保至队形社便空决治展马科司五基眼书非则听白却界达光放强即像难且权思王象完设式色路记南品住告类求据程北边死张该交规万取拉格望觉术领共确传师观清今切院让识候带导争运操序装错误返回值动卸载产品失败文件夹驱动器无效",
	CP950:  "的一是不了在人有我他這個們中來上大為和國地到以說時要就出會可也你對生能而子那得於著下自之年過發後作裡用道行所然家種事成方多經麼去法學如都同現當沒動面起看定天分還進好小部其些主樣理心她本前開但因只從想實日軍者意無力它與長把機十民第公此已工使情明性知全三又關點正業外將兩高間由問很最重並物手應戰向頭文體政美相見被利什二等產或新己制身果加西斯月話合回特代內信表化老給世位次度門任常先海通教兒原東聲提立及比員解水名真論處走義各入幾口認條平系氣題活爾更別打女變四神總何電數安少報才結反受目太量再感建務做接必場件計管期市直德資命山金指克許統區保至隊形社便空決治展馬科司五基眼書非則聽白卻界達光放強即像難且權思王象完設式色路記南品住告類求據程北邊死張該交規萬取拉格望覺術領共確傳師觀清今切院讓識候帶導爭運動操作啟動序錯誤傳回值安裝產品失敗資料夾磁碟機無效",
}

// weigh is the mean worth of a foreign letter when sample is read as enc.
func weigh(enc Encoding, sample []byte) float64 {
	text, err := pages[enc].NewDecoder().Bytes(sample)
	if err != nil {
		return -1
	}
	liked := map[rune]bool{}
	for _, r := range common[enc] {
		liked[r] = true
	}
	sum, foreign, raw := 0.0, 0, 0
	for _, c := range sample {
		if c >= utf8.RuneSelf {
			raw++
		}
	}
	before := ' '
	read := []rune(string(text))
	for i, r := range read {
		if r < utf8.RuneSelf {
			before = r
			continue
		}
		foreign++
		if i+1 < len(read) && partsWords(r) && unicode.IsLetter(before) && unicode.IsLetter(read[i+1]) {
			sum -= 1 // nobody writes „ or … within a word
		} else {
			sum += letterWorth(enc, r, before, liked)
		}
		before = r
	}
	if foreign == 0 {
		return -1
	}
	if foreign*2 <= raw+1 && enc != CP932 {
		sum *= 1.15 // two bytes a letter, all valid: chance seldom does that
	}
	return sum / float64(foreign)
}

// besideWords are signs that stand beside words only, never within one.
const besideWords = "‚„…†‡ˆ‰‹›“”‘•˜™«»¿¡©®§°¶¬±¦¨¤¢£¥¹²³¼½¾÷×ƒ€´¸¯‗ªº■█▀▄░▒▓"

// partsWords says whether a sign is one of those, or of the boxes that consoles
// draw.
func partsWords(r rune) bool {
	const firstBox, lastBox = 0x2500, 0x257F // Source: the Unicode Standard, "Box Drawing"
	return r >= firstBox && r <= lastBox || strings.ContainsRune(besideWords, r)
}

// letterWorth is how well a letter fits a code page's languages: letters that
// are often written there speak for it, signs that nobody writes against it.
func letterWorth(enc Encoding, r, before rune, liked map[rune]bool) float64 {
	switch {
	case r == utf8.RuneError || unicode.IsControl(r) || unicode.Is(unicode.Co, r):
		return -4
	case enc == CP932 && unicode.In(r, unicode.Hiragana, unicode.Katakana):
		if r >= 0xFF61 { // half-width forms: one byte each, which any Latin text gives
			return -0.5
		}
		return 1.3
	case enc == CP932 && unicode.Is(unicode.Han, r):
		return 0.5
	case enc == CP949 && unicode.Is(unicode.Hangul, r):
		return 0.9
	case (enc == CP1251 || enc == CP866) && unicode.Is(unicode.Cyrillic, r):
		if unicode.Is(unicode.Latin, before) {
			return -1
		}
		if unicode.Is(unicode.Cyrillic, before) == unicode.IsLower(r) || before == ' ' {
			return 0.95
		}
		return 0.3
	case liked[r]:
		if unicode.IsUpper(r) && unicode.IsLower(before) {
			return -0.5
		}
		return 1
	case unicode.Is(unicode.Han, r) && (enc == CP936 || enc == CP950):
		return 0.25
	case unicode.IsLetter(r):
		return 0.1
	case unicode.IsPunct(r) || unicode.IsSpace(r):
		return 0.4
	}
	return -0.5
}
