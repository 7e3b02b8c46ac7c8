// This file reads what is set up from the first lines of a log.

package generic

import (
	"strings"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
)

// How the first lines of a log tell what is set up where no version stands
// behind its name.

const (
	// named is a name whose words begin with capitals or are numbers.
	named = `(\p{Lu}[\p{L}\d&+'’-]*(?: (?:[\p{Lu}\d][\p{L}\d&+'’-]*|&))*?)`
	// numberedSo is the version that may stand behind it.
	numberedSo = `(?:[,;]? \(?(?:[Vv]ersion|[Vv]er\.?|[Vv]ersión|[Vv]ersione|[Vv]ersão|[Vv]ersie|[Ww]ersja|[Vv]erze|[Ss]ürüm|[Вв]ерсия)?[:= ]*v?(\d+(?:\.\d+)+)\)?)?`
)

var (
	// asValue is the value of a field for the product: "Product name = Tide
	// Watch".
	asValue = lazy.MustCompile(`^\W*(?i:product(?:[ _-]?name)?|application(?:[ _-]?name)?|app(?:[ _-]?name)?|suite|programm?|software|produkt|produit|producto|prodotto|produto|ürün|продукт|製品|产品|產品|제품)` +
		`["']?\s?[:=：]\s?["']?([\p{L}][\p{L}\d&+'’ -]{2,50}?)["']?` + numberedSo + `["',;.]*$`)
	// asTitle is a name and a word for a setup: "Tide Watch - Setup Log", "Tide
	// Watch: deployment".
	asTitle = lazy.MustCompile(`^[^\pL\d"']*` + named + numberedSo + `[\])>]?\s?[:–-]?\s?(?i:(?:unattended |silent )?(set-?up|install(?:ation|er)?|update|upgrade|deployment|rollout|einrichtung|aktualisierung|kurulum|instalación|installazione|instalação|installatie|instalacja|instalace|mise à jour))` +
		`(?: (?i:log|protocol|log ?file|protokoll|engine|helper|assistant|program|utility|script|wizard|host))?(?: #?\d{1,6})?(?:(?:[,;:]| [-–]) [^\pL]*|\W*)$`)
	// asDone is what a line says is done with it now: "now deploying Tide Watch
	// 4.2 to TILL-04".
	asDone = lazy.MustCompile(`^\W*(?:(?i:now|about to|going to|will|request: ?|task: ?|starting to|begin to) ?)*(?i:deploy(?:ing)?|install(?:ing)?|updat(?:e|ing)|upgrad(?:e|ing)|roll(?:ing)? out|set(?:ting)? up|installation (?:von|de|di|du|av|van|of)|instalación de|instalação (?:de|do|da)|instalando|installazione di|instaluji|instalowanie|installatie van) (?:the )?["']?` +
		named + `["']?(?: v?(\d+(?:\.\d+)+))?(?: (?:to|on|onto|from|in|for|at|as) .*)?[.…!]*$`)
	// asSetupOf is a word for a setup and whose it is: "Setup of Tide Watch",
	// "begin install of Tide Watch", "rollout "Tide Watch" started".
	asSetupOf = lazy.MustCompile(`^\W*(?:(?i:begin(?:ning)?|start(?:ing)?|beginn(?:e)?|target|this will|job \d{1,9}:?|task \d{1,9}:?) ?)?(?:(?:of|the|der|de|la) )?(?:(?i:set-?up|install(?:ation|er)?|update|upgrade|deployment|rollout|migration|provisioning|einrichtung|bereitstellung|aktualisierung|installation|mise à jour|instalación|actualización|installazione|aggiornamento|instalação|atualização|installatie|instalacja|instalace|kurulum) ?)(?:(?:of|for|von|für|der|de|du|d['’]|di|do|da|van|voor|av|för|dla|pro) (?:the )?)?["'“„«]?` +
		named + `["'”“»]?(?: v?(\d+(?:\.\d+)+))?(?: (?i:started|starts|begins|begun|running|beginnt|startet|gestartet|commence|démarrée?|comienza|iniciada|inizia|avviata|iniciado|gestart|rozpoczęta|zahájena|on (?:your|this) (?:computer|machine|pc|system)|now))?[.…:!]*$`)
	// asTarget is a name behind a word that says that it is the product of this
	// run: "target product Tide Watch", "job 12: Tide Watch".
	asTarget = lazy.MustCompile(`^\W*(?i:target product|product to (?:install|update|be installed)|package to (?:install|be installed)|(?:job|task|order|ticket|request) #?\d{1,9}):? ["'“„«]?` + named + `["'”“»]?(?: v?(\d+(?:\.\d+)+))?[.…!]*$`)
	// asOpening is a first line that begins something: "Begin Tide Watch".
	asOpening = lazy.MustCompile(`^\W*(?i:begin|start|opening|beginning|starting):? ["'“„«]?` + named + `["'”“»]?(?: v?(\d+(?:\.\d+)+))?[.…!]*$`)
	// asRising is a name with the whole numbers of two versions: "START Tide
	// Watch 4 -> 5".
	asRising = lazy.MustCompile(`^\W*(?i:start|begin|update|upgrade|updating|upgrading)?:? ?` + named + `:? v?\d+(?:\.\d+)* ?(?:->|=>|→|to) ?v?(\d+(?:\.\d+)*)[.…!]*$`)
	// asBegun is a name and a word for a setup that has begun: "Tide Watch
	// deployment started".
	asBegun = lazy.MustCompile(`^\W*` + named + ` (?i:set-?up|install(?:ation|er)?|update|upgrade|deployment|rollout|migration)(?: (?i:started|starts|begins|begun|is starting)| \((?:build|rev|revision)[ .:]?\d{1,9}\))()[.…!]*$`)
	// asDonePassive is the same the other way round: "Tide Watch will be
	// updated to 4.2".
	asDonePassive = lazy.MustCompile(`^\W*` + named + `(?: v?(\d+(?:\.\d+)+))? (?:(?:is|are) (?:now )?being|will (?:now )?be|is going to be|wird(?: jetzt)?|est en cours d['’]|se va a|sarà|será|wordt|zostanie|bude) ?(?:installed|updated|upgraded|deployed|set up|installiert|aktualisiert|eingerichtet|installation|instalar|actualizar|installat[oa]|aggiornat[oa]|instalad[oa]|atualizad[oa]|geïnstalleerd|bijgewerkt|zainstalowan[ya]|nainstalován)\b`)
	// asCaller is the setup that says so of itself: "This is Tide Watch setup,
	// version 4.2".
	asCaller = lazy.MustCompile(`^\W*(?i:this is|log (?:started|written|made|opened) by|started by|welcome to(?: the)?|you are running) (?:the )?` + named + ` (?i:set-?up|install(?:ation|er)?|updater?)\b` + numberedSo)
)

// introduced reads a line that tells what is set up; in the first lines of a
// log only. A title is any line that holds a name and a word for a setup: it is
// asked for where nothing else tells.
// One word is a name in the very first line alone: later ones put in "Drivers".
func introduced(text string, title, first bool) (name, version string, ok bool) {
	forms := []*lazy.Regexp{asValue, asCaller, asDone, asDonePassive, asTarget, asRising}
	if first {
		forms = append(forms, asOpening)
	}
	if title {
		forms = []*lazy.Regexp{asTitle, asSetupOf, asBegun}
	}
	for _, x := range forms {
		m := x.FindStringSubmatch(text)
		if m == nil {
			continue
		}
		words := trimWords(strings.Fields(m[1]))
		if len(words) == 0 || len(words) > productWords || notProducts[strings.ToLower(words[0])] || generalThings[strings.Join(words, " ")] ||
			x == asOpening && len(words) == 1 || len(words) == 1 && (notAlone[strings.ToLower(words[0])] || x != asValue && m[2] == "" && !first) {
			continue
		}
		if x == asValue && endings.Read(m[1]).Fails {
			continue
		}
		return strings.Trim(strings.Join(words, " "), "'’"), m[2], true
	}
	return "", "", false
}

// setupRoles are words behind one for a setup that say what kind of program it
// is: "Tide Watch setup engine 4.2".
var setupRoles = wordSet("engine helper assistant utility program programme programm script log protocol protokoll " +
	"launcher starter runner bootstrapper executable")

// setupWays are words before one for a setup that say how it runs: "Tide Watch
// unattended setup".
var setupWays = wordSet("unattended silent quiet automatic automated offline online network web full minimal interactive remote unbeaufsichtigte stille silencieuse desatendida silenziosa")

// wordSet is a set of the words of a list, parted by blanks.
func wordSet(words string) map[string]bool {
	m := map[string]bool{}
	for w := range strings.FieldsSeq(words) {
		m[w] = true
	}
	return m
}
