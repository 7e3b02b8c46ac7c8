// This file finds names by the forms of sentences that are known: a module, a
// database, a program that runs.

package verdict

import (
	"cmp"
	"regexp"
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/signs"
)

// ofForms is what sentences of a known form name: the module that a program
// lacks, a service, an option, a field of a record.
func (j *judge) ofForms(class string, near []*story.Message) *signs.Subject {
	switch class {
	case "prerequisite":
		for _, m := range j.anchor {
			if f := lackedModule.FindStringSubmatch(firstLine(m.Text)); f != nil {
				return &signs.Subject{Kind: "file", Name: cmp.Or(f[1:]...)}
			}
			if f := missingModule.FindStringSubmatch(m.Text); f != nil {
				return &signs.Subject{Kind: "module", Name: cmp.Or(f[1:]...)}
			}
		}
	case "service":
		if name := serviceIn(j.anchor); name != "" {
			return &signs.Subject{Kind: "service", Name: name}
		}
	case "command-line":
		for _, m := range slices.Concat(j.anchor, near) {
			if f := unquoted.FindStringSubmatch(firstLine(m.Text)); f != nil {
				return &signs.Subject{Kind: "property", Name: f[1]}
			}
		}
	}
	for _, m := range j.anchor {
		if name := j.said.NameIn(m, class); name != "" {
			return &signs.Subject{Kind: kindOf[class], Name: name}
		}
	}
	if found := j.inFields(class); found != nil {
		return found
	}
	name := ""
	switch class {
	case "in-use":
		name = j.runningIn()
	case "path":
		name = j.tool()
	}
	if name == "" {
		return nil
	}
	return &signs.Subject{Kind: "program", Name: name}
}

// thrownAt is the line of PowerShell below an error that tells in which script
// it was thrown.
var thrownAt = lazy.MustCompile(`^(?:ps[:>] )?(?:At|In|En|In riga:|Em|Bij|W|На|発生場所|위치|所在位置|Au caractère) ?(?:line |Zeile )?((?:[A-Za-z]:\\|\\\\)[^:"<>|]{3,200}\.psm?1):\s?\d+ `)

// thrownIn is the script in which the error was thrown that tells the cause,
// which stands below it.
func (j *judge) thrownIn() string {
	for _, m := range j.a.Messages {
		if n := j.ahead(m); n <= 0 && -n <= around {
			for _, l := range strings.Split(m.Text, "\n") {
				if f := thrownAt.FindStringSubmatch(strings.TrimSpace(l)); f != nil {
					return f[1]
				}
			}
		}
	}
	return ""
}

// databaseFile is the file of a database.
var databaseFile = lazy.MustCompile(`(?i)\.(?:db|db3|sqlite3?|mdb|accdb|mdf|sdf|fdb|gdb|edb|ndf|s3db)$`)

// ofDatabase is the file of the database that the telling line calls damaged,
// full or locked without its name: the one that stands nearest.
func (j *judge) ofDatabase() *signs.Subject {
	if !databaseWord.MatchString(firstLine(j.anchor[0].Text)) {
		return nil
	}
	best, far := "", farAround
	for _, m := range j.a.Messages {
		away := max(j.ahead(m), -j.ahead(m))
		if away >= far {
			continue
		}
		for _, n := range names.In(m.Text) {
			if (n.Kind == names.Path || n.Kind == names.File) && databaseFile.MatchString(n.Text) {
				best, far = n.Text, away
			}
		}
	}
	if best == "" {
		return nil
	}
	return &signs.Subject{Kind: "file", Name: best}
}

// databaseWord is the word for one.
var databaseWord = lazy.MustCompile(`(?i)\bdatabase\b|\bdatenbank|\bbase de (?:données|datos)|\bbanco de dados|\bbaza danych|\bdatabáz|\bveritaban|баз[аы] данных|データベース|数据库|資料庫|데이터베이스`)

// aProgram is a program by its name: words that begin with capitals, or are
// versions.
const aProgram = `(\p{Lu}[\p{L}\d+&-]*(?: (?:\p{Lu}[\p{L}\d+&-]*|v?\d+(?:\.\d+)*))*)`

// runningIn is the program that the telling lines say runs, or ask to close;
// empty where they name a file, or none.
func (j *judge) runningIn() string {
	text := firstLine(j.anchor[0].Text)
	for _, n := range names.In(text) {
		if n.Kind == names.Path || n.Kind == names.File {
			return ""
		}
	}
	for _, form := range []*lazy.Regexp{withID, anInstance, stillRuns, toClose} {
		for _, f := range form.FindAllStringSubmatch(text, mostProper) {
			words := strings.Fields(f[1])
			for len(words) > 0 && noProgram[strings.ToLower(words[0])] {
				words = words[1:]
			}
			if len(words) > 0 {
				return strings.Join(words, " ")
			}
		}
	}
	return ""
}

// inTheWayForms are a product of which another version is there, or that is
// there already.
var inTheWayForms = []*lazy.Regexp{
	lazy.MustCompile(`(?i:(?:newer|older|earlier|previous|later|lower|higher|different|another|existing) (?:version|release|installation) of (?:the )?|(?:neuere|ältere|frühere|andere|vorherige) version von |` +
		`version (?:plus récente|plus ancienne|antérieure|précédente) de |versión (?:más reciente|más nueva|más antigua|anterior|posterior) de |versione (?:più recente|precedente|successiva) di |` +
		`versão (?:mais recente|mais nova|mais antiga|anterior) d[eoa] |(?:nieuwere|oudere|eerdere|vorige) versie van |(?:nowsza|starsza|poprzednia) wersja (?:programu )?|(?:novější|starší|předchozí) verze (?:programu |aplikace )?|` +
		`(?:nyare|äldre|tidigare) version av |(?:новая|старая|предыдущая) версия (?:программы )?)["'«“„]?` + aProgram),
	lazy.MustCompile(aProgram + `["'»”“]? (?:\S* )?(?:(?:is|was|has been) (?:already|still) (?:installed|there|present|registered|on th)|(?:has to|must|needs to) be (?:removed|uninstalled|taken off)\b|ist bereits (?:installiert|vorhanden)|est déjà installée?|ya está instalad[oa]|è già installat[oa]|já está instalad[oa]|is al geïnstalleerd|jest już zainstalowan|je již nainstalován|är redan installera|zaten yüklü|уже установлен)`),
}

// inTheWay is such a product in a line that names no file and no key, which
// would say more; empty where it names none.
func inTheWay(text string) string {
	for _, n := range names.In(text) {
		if n.Kind == names.Path || n.Kind == names.Key || n.Kind == names.Service {
			return ""
		}
	}
	for _, form := range inTheWayForms {
		if f := form.FindStringSubmatch(text); f != nil {
			if words := strings.Fields(f[1]); !noProgram[strings.ToLower(words[0])] {
				return f[1]
			}
		}
	}
	return ""
}

// splitOption is the option of the call as it is echoed whose value has blanks
// and no quotation marks, of which a word was taken for an argument:
// "/site=Port Ellery" and "unknown argument Ellery". Empty where the word is
// its own.
func (j *judge) splitOption(word string) string {
	if word == "" || strings.ContainsAny(word[:1], "-/") {
		return ""
	}
	split, err := regexp.Compile(`(?:^|\s)([/-]{1,2}[\pL][\pL\d-]*)[=: ][^\s"'/-][^"'=/]*\s` + regexp.QuoteMeta(word) + `(?:\s|$)`)
	if err != nil {
		return ""
	}
	for _, m := range j.a.Messages {
		if m.Line < j.anchor[0].Line {
			if f := split.FindStringSubmatch(firstLine(m.Text)); f != nil {
				return f[1]
			}
		}
	}
	return ""
}

// unquoted is a property in a call of the engine whose value has blanks and no
// quotation marks: INSTALLDIR=C:\Program Files\Tide /qn.
var unquoted = lazy.MustCompile(`(?i:msiexec).* ([A-Z][A-Z0-9_]{2,40})=(?:[A-Za-z]:|\\\\)[^"=/]* [^"=/]*(?: [/-]|$| [A-Z_]+=)`)

// aModule is a file with code by its name.
const aModule = `([\w][\w.-]*\.(?:dll|ocx|exe|sys|drv|cpl|jar|so))`

// lackedModule is such a file right beside the words that say it is not there:
// what needs it may stand in the same line.
var lackedModule = lazy.MustCompile(`(?i)` + aModule + `["'”»」』]? ?(?:is |was |were |could )?(?:missing|not (?:be )?found|fehlt|(?:wurde )?nicht gefunden|introuvable|(?:est )?manquante?|no encontrad|falta|mancante|non trovat|ontbreekt|niet gevonden|nie znaleziono|nebyl nalezen|saknas|bulunamad|не найден|отсутствует|が見つかり|がありません|がない|을 찾을|이 없|缺失|丢失|未找到)|` +
	`(?:missing|fehlende[rs]?|falta|manca|brakuje|chybí|отсутствует|找不到|缺少|丢失|缺失) ?["'“「]?` + aModule)

// missingModule is how runtimes name what a program of theirs lacks.
var missingModule = lazy.MustCompile(`(?i)(?:no module named|missing (?:module|library|package|assembly)|could not load file or assembly|shared object file:?|cannot load library|no package called|requires? the (?:module|package)) ['"“‘]?([\w@][\w.@/+-]*\w)|(?:more recent|newer|later) version of (?:the )?([A-Z][\w.]+(?: [A-Z][\w.]+){0,2})`)
