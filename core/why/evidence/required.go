// This file finds what had to be there first and was not.

package evidence

import (
	"slices"
	"strings"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/lexicon"
)

// That a product must be there first, or in another version, is told by the
// form of a sentence, whatever its name: "Draft 22 is not supported by this
// pack", "want Draft 23, have 22.1", "Tidebook Desk ist nicht installiert".

const (
	// hostOf is what another product is put into, and addedPart what is put in.
	hostOf = `(?:host(?:s| app\w*| program| product)?|(?:base|parent|core|full|target|main|required|installed) (?:product|package|program|version|app\w*)|product to be (?:patched|updated|upgraded)|` +
		`grundprodukt|hauptprogramm|basisprodukt|vollversion|zielprodukt|produit de base|logiciel hôte|application hôte|producto base|programa principal|prodotto base|programma principale|produto base|basisproduct|hoofdprogramma|program główny|hlavní program|huvudprogram\w*|ana program)`
	addedPart = `(?:pack|add-?[io]n|plug-?in|extension|patch|update|upgrade|hotfix|service pack|language pack|module|connector|erweiterung|zusatz\w*|module complémentaire|extensión|complemento|estensione|componente)`
	ofVersion = `v?\d+(?:\.[\dx]+)*`
)

var (
	// noHost says that what the setup adds to is not there, or not as it has to
	// be; it names no product.
	noHost = lazy.MustCompile(`\bno (?:(?:compatible|supported|suitable|matching|valid|usable|known|installed) )?` + hostOf + `(?: (?:to|was|were|is|found|for|could|installed|version))|` +
		`\b` + hostOf + ` (?:[\d.]+ )?(?:(?:is|was)(?: not|n['’]t) |not |nicht |n['’]est pas |no está |non è |não está )?(?:found|installed|there|present|available|on this|missing|absent|could not be (?:found|located)|fehlt|gefunden|installiert|vorhanden|introuvable|installée?|encontrado|instalado|trovato|installato)|` +
		`\b` + hostOf + `(?: ` + ofVersion + `)? (?:is|was) (?:too (?:old|new|low)|not (?:supported|compatible)|older than)|` +
		`\b(?:0|zero) (?:compatible|supported|suitable|matching) (?:hosts?|products?|versions?|installations?|targets?)\b|` +
		`\bno (?:installed )?(?:product|program|version|application)s? (?:that|which|to which|for which) (?:this|the) ` + addedPart + `\b|\bnothing (?:to plug into|to (?:update|upgrade|patch)\b|that this ` + addedPart + ` (?:is for|fits|applies to))|\bthis is only an? (?:extension|add-?on|add-?in|update|patch)\b|` +
		`\b(?:this |the )?` + addedPart + `(?: ` + ofVersion + `)? (?:needs|is only for|can only be (?:applied|added|installed)|(?:does|will) not (?:fit|match|apply|go with|work with)|is not (?:for|meant for|made for|applicable))\b|\b(?:update|patch|upgrade) (?:is )?not applicable\b|` +
		`\b(?:base|minimum|least|client|product|program|host|old|installed) version (?:is |of )?` + ofVersion + `.{0,24}\b(?:expected|needed|required|wanted|but|this (?:one )?is|older than)|` +
		`\b(?:direct|in-?place) (?:upgrade|update|migration) (?:from ` + ofVersion + ` )?(?:is )?(?:not (?:possible|supported|allowed)|impossible)|\bcannot (?:upgrade|update|migrate) (?:directly )?from ` + ofVersion + `|\bupgrade path\b.{0,30}\bnot (?:supported|possible|allowed)|\b(?:upgrade|update) to ` + ofVersion + ` first\b|` +
		`\b(?:api|interface|plug-?in|protocol)(?: level| version)? \d+(?:\.\d+)*\b.{0,24}\b(?:needed|required|wanted|offers|provides)|\bhost (?:offers|provides|has) (?:api|interface|plug-?in|protocol)|\b(?:plug-?in|add-?in|programming) (?:interface|api) of .{2,40} (?:is|was) (?:too (?:old|new)|missing)|` +
		`\b[a-z][a-z\d]*_home\b ?(?:(?:is|was)(?: not|n['’]t) (?:set|defined)|not (?:set|defined)|is (?:empty|unset|undefined))|\b(?:iis|hyper-v|windows feature [\pL\d-]+|optional feature [\pL\d-]+|role [\pL\d-]+) (?:is|was) (?:not (?:enabled|installed|available|active)|off|disabled)|\b(?:driver|runtime|tool)s? (?:must|has to|have to|needs to) be installed (?:first|before|beforehand)`)
	// lacks is that something is not there, or has to be, in all languages that
	// we read.
	lacks = lazy.MustCompile(`\b(?:not|never|n['’]t|cannot be|could not be) (?:be )?(?:installed|found|detected|present|there|available|located|on (?:this|the) (?:machine|computer|pc|system)|here|satisfied|met|supported|compatible|new enough|recent enough|enabled)\b|\b(?:is|was|are) (?:absent|missing|unsupported|incompatible|too old|outdated|below)\b|\b(?:absent|missing)$|` +
		`\b(?:missing|unmet|unsatisfied|unsupported|incompatible|outdated) |\b(?:did not|could not|cannot|can't|unable to) (?:find|detect|locate) |\bfound no |\bno .{2,50} (?:found|installed|present|detected|available|on this (?:machine|computer|pc|system)|here)\b|\bno .{2,40} (?:installation|version) |\bthere is no |: none$|\.{2,} ?(?:none|no|not found)$|` +
		`\b(?:needs?|requires?|required|wants?|wanted|need to|must be installed|has to be|have to be|depends on|dependency|prerequisite|goes with|is for|extends|expects?|expected|minimum|at least|or (?:later|newer|higher))\b|\binstall .{2,50} (?:first|before|and)\b|[<>]=? ?\d|` +
		`\bfehlt\b|\bnicht (?:installiert|gefunden|vorhanden|verfügbar)|\bkein\w* .{2,50} (?:gefunden|installiert|vorhanden)|\b(?:benötigt|erforderlich|zuerst|voraussetzung)\b|n['’]est pas (?:installé|présent)|\bnon (?:installé|trouvé)|introuvable|\bd['’]abord |\brequise?\b|nécessaire|absente?\b|` +
		`\bno (?:está|se encontró|se ha encontrado|se encuentra)|\bprimero\b|\brequier|necesari|\bfalta\b|\bnon (?:è|trovat|installat)|\bprima\b|richiest|mancante|\bmanca\b|\bnão (?:está|foi|encontrad)|\bprimeiro\b|necessári|` +
		`\bniet (?:geïnstalleerd|gevonden|aanwezig)|ontbreekt|\beerst\b|\bvereist|\bnie (?:jest|znaleziono|został)|\bbrak\b|\bnajpierw\b|\bwymaga|\bnení (?:nainstalován|k dispozici)|\bchybí\b|\bnejprve\b|\bvyžad|\binte (?:installera|hitta)|\bsaknas\b|\bförst\b|\bkräv|(?:yüklü|kurulu|mevcut) değil|bulunamadı|gerekli|` +
		`не (?:установлен|найден|обнаружен)|отсутствует|требуется|сначала|インストールされていません|見つかりません|必要|설치되어 있지|찾을 수 없|필요|未安装|未安裝|未找到|找不到|没有安装|需要|请先`)
	// proper is a product's name by its form: two or more words with capital
	// letters, or one with a number, or one of capitals and digits.
	proper = lazy.MustCompile(`(?:\p{Lu}[\pL\d&+#.-]*[\pL\d+#](?: (?:\p{Lu}[\pL\d&+#.-]*[\pL\d+#]|of|for))* (?:\p{Lu}[\pL\d&+#-]*[\pL\d+#]|\d+(?:\.\d+)*)|\.NET(?: [\pL\d.]+){0,3}|\p{Lu}[\p{Ll}\d]+(?:-\p{Lu}[\pL\d]+)+)`)
	// asked is a need with the product's name right behind it, or before it
	// with its version.
	asked = lazy.MustCompile(`(?:\b(?:requires?|needs?|expects|wants?|need|benötigt|erfordert|braucht|requiert|exige|nécessite|requiere|necesita|richiede|requer|exige|vereist|wymaga|vyžaduje|kräver)|требует) (?:the |an? |das |den |le |la |el |il |o )?\p{Lu}[\pL\d&+#.-]+(?: \p{Lu}[\pL\d&+#.-]+)*(?: v?\d+(?:\.\d+)*)?(?:$|[ .,;:(])|` +
		`\p{Lu}[\pL\d&+#.-]+(?: \p{Lu}[\pL\d&+#.-]+)* v?\d+(?:\.\d+)*\+? (?:or (?:later|newer|higher) )?(?:is |was |wird |est |es |è )?(?:required|needed|wanted|expected|benötigt|erforderlich|requise?|nécessaire|requerid[oa]|necesari[oa]|richiest[oa]|necessári[oa])|` +
		`\bno (?:compatible|supported|suitable|matching) \p{Lu}|\p{Lu}[\pL\d&+#.-]+ v?\d+(?:\.\d+)+ is (?:below|too old|not supported|older|outdated|unsupported)\b|\bdependency \p{Lu}|\b(?:could|can) ?not be found on this (?:system|machine|computer|pc)\b|` +
		`\bnot supported by this ` + addedPart + `\b|\binstalled \p{Lu}[\pL\d ]+: v?\d+(?:\.\d+)* \((?:at least|min|minimum|needs|requires|wanted)`)
	// oneWord is a name of one word that stands where only a product does.
	oneWord = lazy.MustCompile(`(?:\b(?:no|compatible|supported|unsupported|incompatible|outdated|wrong|(?:service pack|hotfix|update|patch|sp) \d+ (?:of|for)|install|installation of|version of|dependency:?|requires?|needs?|prerequisite:?) )(\p{Lu}[\pL\d+#.-]*[\pL\d+#])|^\W*(\p{Lu}[\pL\d+#.-]*[\pL\d+#])(?:: (?:want|need|expect|require)| (?:hotfix|service pack|sp|update|patch) ?\d)`)
	// noNeed is a line in which such a form tells of no trouble: of what is
	// removed, optional, or done without.
	noNeed = lazy.MustCompile(`\b(?:optional(?:ly)?|skipp\w*|ignor\w*|instead|will be installed|nothing to (?:remove|uninstall|do)|no need|recommended|fresh install|uninstall\w*|remov\w*|fall(?:s|ing)? back|proceed\w*|continu(?:e|es|ing)|bundled|built-in|included)\b`)
	// ofOS are names that are of the machine, its OS, and what all setups speak
	// of, and no product's.
	ofOS = lazy.MustCompile(`(?i)^(?:the |this |der |die |das |le |la |el |il |o |a )?(?:microsoft )?(?:windows|os|operating|system|machine|computer|memory|ram|processor|cpu|gpu|build|edition|screen|file|folder|path|key|registry|hk\w+|service|server|user|account|driver signature|certificate|database|schema|disk|drive|version|setup|installer|installation|package|source|network|connection|product|policy|licen[cs]e|internet|proxy|port|backup|error|warning|failed|fatal|exit|code|step|check|access|admin\w*|gb|mb|kb|ok|url|http\w*|tcp|dns|vpn|tls|ssl|cd|dvd|usb|uac|ntfs|acl|msi|exe|dll|` +
		`datei|ordner|verzeichnis|schlüssel|dienst|benutzer|konto|datenbank|laufwerk|quelle|netzwerk|lizenz|fehler|sie|bitte|es|fichier|dossier|clé|utilisateur|archivo|carpeta|clave|usuario|cartella|chiave|utente)\b`)
)

// A need is what a line says of something that must be there first; it is sure
// where the sentence is about what is put into a product, or asks for the
// product by its name.
func required(text, product string) (c Clue, sure, ok bool) {
	lower := lower(text)
	if len(lower) > longestNeed || endings.NotInstalled(text, product) {
		return c, false, false
	}
	c = Clue{Class: "prerequisite", Strength: lexicon.Root, Name: productIn(text, product), What: "a product that must be there first, or its version"}
	at := noHost.FindStringIndex(lower)
	host := at != nil
	if !host && c.Name != "" { // the longest expressions last: most lines have no such name
		at = lacks.FindStringIndex(lower)
	}
	if at == nil || noNeed.MatchString(lower) || !host && slices.ContainsFunc(names.In(text), otherThing) {
		return c, false, false
	}
	c.At = at[0]
	return c, host || asked.MatchString(text), true
}

// otherThing says whether a name is one of a file, key, host or service, which
// lacks in other ways.
func otherThing(n names.Name) bool {
	return n.Kind != names.Unsure && n.Kind != names.Package && n.Kind != names.Option
}

// longestNeed is how many bytes a line has at most that is such a sentence.
const longestNeed = 200

// productIn is the first name of a product in a line that is not the one that
// is set up; empty when there is none.
func productIn(text, product string) string {
	all := proper.FindAllString(text, mostNear)
	for _, m := range oneWord.FindAllStringSubmatch(text, mostNear) {
		all = append(all, m[1]+m[2])
	}
	for _, name := range all {
		low, its := strings.ToLower(name), strings.ToLower(product)
		own := product != "" && (strings.HasPrefix(low, its) || strings.HasPrefix(its, low))
		if !own && !ofOS.MatchString(name) && !ofMachine.MatchString(name) && !camel.MatchString(name) {
			return name
		}
	}
	return ""
}

// ofMachine is a word of a name that is of the machine's own parts.
var ofMachine = lazy.MustCompile(`(?i)\b(?:ram|memory|space|cpu|processor|gpu|screen|resolution|battery|domain|workgroup|licen[cs]e|speicher|arbeitsspeicher)\b`)

// camel is a function's name with its number, which looks like a product with
// its version.
var camel = lazy.MustCompile(`^\p{Lu}\p{Ll}+\p{Lu}\pL* \d+$`)

// needs takes what the lines say of products that must be there first, where
// the run was given up over it: behind such a line nothing is done any more,
// and no other cause is told in it.
func (r *Run) needs() {
	if r.a.Success != nil && *r.a.Success {
		return
	}
	for i := max(0, len(r.lines)-mostNeeds); i < len(r.lines); i++ {
		l := &r.lines[i]
		near := i >= len(r.lines)-mostBehind && r.brokeBehind(i)
		if l.pos > r.end || l.noise || l.passes || l.Number != 0 || l.Kind > story.KindWarning && !near ||
			slices.ContainsFunc(l.clues, func(o Clue) bool { return !yields(o, true) }) {
			continue
		}
		text, _, _ := strings.Cut(l.Text, "\n")
		c, sure, ok := required(text, r.a.Product.Name)
		if !ok || slices.ContainsFunc(l.clues, func(o Clue) bool { return !yields(o, sure) }) {
			continue
		}
		l.clues = slices.DeleteFunc(l.clues, func(o Clue) bool { return o.Strength != lexicon.Against })
		if c.Guess = !sure; c.Guess {
			c.Strength = lexicon.Tells
		}
		l.clues = append(l.clues, c)
		l.fail()
	}
}

// mostNeeds is how many lines before the end of a run are looked at: a setup
// that lacks something says so, and stops.
const mostNeeds = 300

// yields says whether another clue of a line gives way to such a need: a
// condition, the network of a host, a file that is not found.
func yields(o Clue, sure bool) bool {
	if o.Code != nil || o.Compared {
		return false
	}
	return o.Strength == lexicon.Against || o.Class == "condition" && (sure || o.Guess) || sure && o.Class == "path" && o.Strength == lexicon.Echo ||
		o.Guess && (o.Class == "network" || o.Class == "service" || o.Class == "custom-action")
}
