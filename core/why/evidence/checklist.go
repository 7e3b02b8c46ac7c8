// This file reads lists of checks, of which the rows that failed tell the
// cause.

package evidence

import (
	_ "embed"
	"slices"
	"strings"
	"sync"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/lexicon"
)

// Setups print what they check as a list, a mark on each line: "Windows edition
// ..... FAIL". The mark that differs from the others is the failure, and the
// check's name is what it is about.

//go:embed checks.txt
var checksText string

// A checked is a class and the words of the checks' names that are of it.
type checked struct {
	class string
	words []string
}

var checks = sync.OnceValue(func() (all []checked) {
	for line := range strings.Lines(checksText) {
		class, words, ok := strings.Cut(strings.TrimRight(line, "\n"), " ")
		if !ok || class == "#" {
			continue
		}
		all = append(all, checked{class, strings.Split(words, "|")})
	}
	return all
})

// The marks of a list of checks, in small letters: what went well, and what did
// not.
var (
	goodMarks = marksOf("pass passed ok yes present found met done true good sufficient available v ✓ ✔ √ + ja erfüllt bestanden vorhanden oui réussi présent sí si correcto presente sì superato sim tak ano igen evet да はい 合格 예 是 通过 通過")
	badMarks  = marksOf("fail failed failure no missing false error x ✗ ✘ ❌ ✕ ko nok bad insufficient absent blocked - nein fehlt fehlgeschlagen fehler nicht_erfüllt nicht_ok nicht_bestanden non échec absente manquant fallo falla falta ausente mancante fallito não falhou nee niet_ok nie nej hayır нет ошибка いいえ 不合格 아니요 否 失败 失敗 not_ok not_met not_found not_available too_old too_low too_small too_new too_short outdated unsupported not_satisfied not_supported insufficient zu_alt zu_klein zu_wenig trop_ancien trop_petit insuffisant demasiado_antiguo insuficiente troppo_vecchio insufficiente")
)

// marksOf are the words of a list, parted by blanks; an underscore in one
// stands for a blank.
func marksOf(words string) map[string]bool {
	marks := map[string]bool{}
	for w := range strings.FieldsSeq(words) {
		marks[strings.ReplaceAll(w, "_", " ")] = true
	}
	return marks
}

var (
	// markBehind is a check with its mark behind it.
	markBehind = lazy.MustCompile(`^\W*?((?:[\pL\d.(][^|]{2,70}?))(\s?\.{3,}\s?| ?… ?| {2,}|\t+|: | -+> | => | = | \| | - )\[? ?([^\s\[\]|.:()=>][^|\[\]:()=>]{0,14}?) ?\]?[ |.!]*$`)
	// markBefore is one with its mark in brackets, or a sign, before it.
	markBefore = lazy.MustCompile(`^\s*(?:[-*] )?(?:\[ ?([^\]\s][^\]]{0,13}?) ?\]|([✓✔√✗✘❌✕☐☑☒])|(\[ {0,2}\]))\s+([\pL\d.(].{2,70})$`)
	// ofChecks is a word for checking, in the list's rows or above them.
	ofChecks = lazy.MustCompile(`\b(?:checks?|checking|requirements?|pre-?requisites?|pre-?flight|readiness|suitab\w+|compatib\w+|prüf\w*|voraussetz\w*|anforder\w*|vérif\w*|prérequis|exigences|comprob\w*|requisitos?|verific\w*|controll\w*|requisiti|controle\w*|vereist\w*|kontrol\w*|wymag\w*|požadav\w*|krav|gereksinim\w*)|проверк|требован|確認|チェック|要件|检查|檢查|要求|검사|요구`)
)

// A checkRow is a line of such a list.
type checkRow struct {
	at      int
	name    string
	form    string // how name and mark are set apart
	box     box    // that stands in front as the mark; 0 where another does
	good    bool
	ofCheck bool // it has the word itself
}

// A box is one that is ticked where all is well, and left empty where it is not.
type box byte

// What a box holds.
const (
	empty  box = 1 + iota
	ticked     // with what is a cross where no box of the list is empty
)

// boxOf is what a mark in front of a check is as a box.
func boxOf(mark string) box {
	switch mark {
	case "☐":
		return empty
	case "x", "☒", "☑", "✗", "✘", "*":
		return ticked
	}
	return 0
}

// rowOf reads a row of a list of checks, in small letters.
func rowOf(lower string) (row checkRow, ok bool) {
	mark := ""
	if m := markBefore.FindStringSubmatch(lower); m != nil {
		mark, row.name, row.form = m[1]+m[2], m[4], "before"
		if m[3] != "" {
			mark = "☐"
		}
		row.box = boxOf(mark)
	} else if m := markBehind.FindStringSubmatch(lower); m != nil {
		mark, row.name, row.form = strings.TrimSpace(m[3]), m[1], strings.Trim(m[2], " ")
		if len(row.form) > 2 {
			row.form = row.form[:2] // dots, as many as are needed
		}
	} else {
		return row, false
	}
	if row.good = goodMarks[mark]; !row.good && !badMarks[mark] && row.box == 0 {
		return row, false
	}
	row.name, _, _ = strings.Cut(row.name, "  ") // its values stand in columns of their own
	row.ofCheck = ofChecks.MatchString(row.name)
	row.name = strings.TrimSpace(checkHead.ReplaceAllString(row.name, ""))
	if answers[mark] && unwanted[classOfCheck(row.name)] && !without.MatchString(row.name) { // "old version present: no" is well
		row.good = !row.good
	}
	return row, len(row.name) > 2
}

// answers are marks that answer a question, which may be after something that
// nobody wants; unwanted are the classes of such questions, and without a
// question after its absence.
var (
	answers  = marksOf("yes no true false ja nein oui non si sí sì sim tak nie ano ne evet hayır да нет はい いいえ 예 아니요 是 否 present absent found missing nee não nej")
	unwanted = map[string]bool{"busy": true, "leftover": true, "in-use": true, "security-software": true}
	without  = lazy.MustCompile(`^(?:no|not|none|without|free of|kein\w*|ohne|pas de|aucune?|sans|sin|ning[uú]n\w*|senza|nessun\w*|sem|nenhum\w*|geen|bez|brak|utan|inga?)\b|\b(?:closed|stopped|removed|exclusion|excluded|allowed|free|idle)\b`)
)

// checkHead is what a row begins with before the check's name.
var checkHead = lazy.MustCompile(`^(?:check(?:ing)?(?: for| of| that)?|requirement|test(?:ing)?|prüfe|prüfung|vérification(?: de)?|comprobación(?: de)?|verifica(?: di)?)[ :]+|^\d{1,2}[.)] `)

const (
	leastRows   = 3 // that make a list; fewer are two lines of any kind
	rowsApart   = 2 // lines that may stand between two rows of one list
	aboveChecks = 4 // lines above a list in which a word tells that it is one of checks
)

// checklists takes the checks that failed in the lists of a run for what broke
// it.
func (r *Run) checklists() {
	if r.a.Success != nil && *r.a.Success {
		return
	}
	var rows []checkRow
	for i := max(0, len(r.lines)-longestList); i < len(r.lines); i++ { // nothing is done behind such a list
		l := &r.lines[i]
		if l.pos > r.end || len(l.lower) > longestRow {
			continue
		}
		row, ok := rowOf(l.lower)
		if !ok && l.Kind <= story.KindWarning { // the mark was taken for how grave the line is
			row, ok = rowOf(lower(l.Raw))
		}
		if !ok {
			continue
		}
		row.at = i
		if n := len(rows); n > 0 && (row.form != rows[n-1].form || row.at-rows[n-1].at > rowsApart+1) {
			r.checklist(rows)
			rows = rows[:0]
		}
		rows = append(rows, row)
	}
	r.checklist(rows)
}

// longestRow is how many bytes a row of a list has at most, and longestList how
// many lines such a list and what stands behind it have.
const longestRow, longestList = 110, 120

// checklist takes the rows of one list.
func (r *Run) checklist(rows []checkRow) {
	good, ofChecks := 0, 0
	boxes := slices.ContainsFunc(rows, func(row checkRow) bool { return row.box == empty })
	for i, row := range rows {
		if boxes && row.box == ticked {
			row.good, rows[i].good = true, true
		}
		if row.good {
			good++
		}
		if row.ofCheck {
			ofChecks++
		}
	}
	// A list of which all rows failed, or none, tells nothing apart; and one in
	// the middle of a run that went on stopped nobody.
	if len(rows) < leastRows || good == 0 || good == len(rows) || !r.brokeBehind(rows[len(rows)-1].at) {
		return
	}
	headed := ofChecks > 0
	for i := max(0, rows[0].at-aboveChecks); i < rows[0].at; i++ {
		headed = headed || isCheckHead(r.lines[i].lower)
	}
	// Where a head says that these are checks, each failed one is a condition,
	// whatever it is called.
	for _, row := range rows {
		if row.good {
			continue
		}
		class := classOfCheck(row.name)
		if class == "" && headed {
			class = "condition"
		}
		if class == "" || !headed && class == "condition" {
			continue
		}
		strength := lexicon.Tells
		if headed {
			strength = lexicon.Root
		}
		l := &r.lines[row.at]
		c := Clue{Class: class, Strength: strength, Compared: true, What: "its check of " + row.name + " failed"}
		if at := strings.Index(l.lower, row.name); at >= 0 && at+len(row.name) <= len(l.Text) {
			c.What = "its check of " + l.Text[at:at+len(row.name)] + " failed"
		}
		if !strings.ContainsAny(row.name, `\/`) { // a path in it is what it is about
			if at := strings.Index(l.lower, row.name); at >= 0 && at+len(row.name) <= len(l.Text) {
				c.Name = l.Text[at : at+len(row.name)]
			}
		}
		l.clues = append(l.clues, c)
		l.fails = true
		l.rated = max(l.rated, KindWeight[story.KindError])
	}
}

// anyKey is what a console asks of who looks at it.
var anyKey = lazy.MustCompile(`\b(?:press|hit) (?:any|a|enter|the any) ?key|\bpress (?:enter|return)\b|beliebige taste|appuyez sur une touche|presione (?:una|cualquier) tecla|premere un tasto|pressione qualquer tecla|druk op een toets|naciśnij dowolny|stiskněte libovoln|tryck på (?:en|valfri) tangent|bir tuşa basın|нажмите любую`)

// mostBehind is how many lines stand behind a list of checks that stops a
// setup: a sum, advice, and that it ends.
const mostBehind = 8

// brokeBehind says whether a run was given up right behind a line: nothing was
// done any more.
func (r *Run) brokeBehind(at int) bool {
	behind := 0
	for i := at + 1; i < len(r.lines); i++ {
		l := &r.lines[i]
		said := l.said
		if behind++; behind > mostBehind {
			return false
		}
		over := l.Verdict || l.fails || said.Fails || said.Refuses || said.Advises || said.Cancelled || l.pos >= r.end
		if over || endings.Unwinds(l.Text) || ofChecks.MatchString(l.lower) || anyKey.MatchString(l.lower) {
			continue
		}
		if _, row := rowOf(l.lower); !row && strings.Contains(strings.TrimSpace(l.lower), " ") { // a heading is one word
			return false
		}
	}
	return true
}

// isCheckHead says whether a line is a heading above checks.
func isCheckHead(lower string) bool { return len(lower) < longestRow && ofChecks.MatchString(lower) }

// classOfCheck is what a check is about by its name; empty where no word tells.
func classOfCheck(name string) string {
	for _, c := range checks() {
		for _, w := range c.words {
			if at := strings.Index(name, w); at >= 0 && (pieces.Begins(name, at) || w[0] == '.') {
				return c.class
			}
		}
	}
	return ""
}
