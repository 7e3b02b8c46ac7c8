// This file follows the parts of a setup that lines speak of.

package generic

import (
	"slices"
	"strings"
	"unicode/utf8"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/steps"
)

// stageWords are the words for a part of a setup in the languages of the
// endings.
const stageWords = `stage|step|phase|schritt|étape|etape|paso|etapa|fase|passo|stap|etap|krok|faza|fáze|steg|fas|adım|aşama|шаг|этап|手順|ステップ|段階|단계|步骤|步驟|阶段`

var (
	// A stage's name in marks of quotation: Étape « CopierFichiers » terminée.
	foreignStage = lazy.MustCompile(`(?i)(?:^|[\s'’(\[])(?:` + stageWords +
		`)\s*\d*\s*[:–-]?\s*[«"“'\[]\s*([^»"”'\]]{2,60}?)\s*[»"”'\]]`)
	// A numbered one: Etap 3: kopiowanie plików; Fase 2/5 CopiarArchivos.
	numberedStage = lazy.MustCompile(`(?i)(?:^|[\s'’(\[])(?:` + stageWords +
		`)\s*(\d+)(?:\s*(?:/|of|von|de|di|z|av|из|sur|van)\s*\d+)?\s*[\]:.)–-]*\s*([\p{L}](?:[^.,;:(«"]|\.\pL){1,60})`)
	// One told by its number alone: [4/6] Opening the firewall; 4/6: Opening …
	countedStage = lazy.MustCompile(`^[\[(]?(\d{1,2})\s*(?:/|of|von|de|sur|di)\s*\d{1,2}[\])]?\s*[:.–-]?\s+(\p{L}[^.,;:(]{2,60})`)
	// One of several things that are installed: package 2 of 3: Quay Core.
	partStage = lazy.MustCompile(`(?i)\b(?:package|component|module|item|part|feature|paket|komponente|paquet|paquete|pacchetto|pacote|pakket|pakiet|balíček|пакет)` +
		`\s+(\d+)\s*(?:/|of|von|sur|de|di|van|z|из)\s*\d+\s*[:.–-]\s*(\p{L}[^,;:("]{2,60})`)
	// The same in Chinese, Japanese and Korean, where the name stands in marks
	// or behind a blank: 製品 2/3「潮見表」開始.
	partSigned = lazy.MustCompile(`(?:^|[\s：:])(?:製品|パッケージ|コンポーネント|部品|項目|产品|產品|软件包|套件|组件|元件|项目|제품|패키지|구성 요소|항목)\s*(\d+)\s*[/／]\s*\d+\s*[:：]?\s*(?:[「『“"]([^」』”"]{1,60})[」』”"]|(\p{L}[\p{L}\d ]{1,60}?)(?:\s|$))`)
	// An operation of the OS's update agent: * START * Finding updates
	// [CallerId = …], ** END ** Agent: Finding updates.
	agentStage = lazy.MustCompile(`^\*{1,2} (START|END) \*{1,2}\s+(?:\w+: )?(\p{Lu}[\w-]*(?: [\w-]+){0,4}?)(?:\s+(?:ClientId|CallerId|failed|succeeded|hr\b|exit|\[|\()|\s*$)`)
	// One in an attribute: <step name="copy files">.
	attributed = lazy.MustCompile(`(?i)(?:^|\W)(?:` + stageWords + `|task|action|job)\s+(?:name|id|title)\s?=\s?["']([^"'<>]{2,60})["']`)
	// One behind its word and a colon: Phase : initialisation du moteur.
	toldStage = lazy.MustCompile(`(?i)^(?:` + stageWords + `)\s*[:：]\s*(\p{L}[^.,;:(]{2,60})`)
	// One whose begin or end is told, with its name behind: stage begin:
	// prepare data folder; Starting task "copy files"; End of step 3: register.
	limitedStage = lazy.MustCompile(`(?i)^(?:[-=*#>\s]*)(?:(?:` + stageWords + `|task|action|job)\s+(?:(begin|begins|beginning|start|starts|started|starting|enter|entering|entered|beginnt|gestartet|début|inicio|inizio|início)|(end|ends|ended|finish|finished|finishes|complete|completed|done|leave|leaving|left|failed|fail|beendet|fin|fine|fim|endet))` +
		`|(begin|beginning|start|starting|entering|running|executing|beginne|starte)(?: of| the)?\s+(?:` +
		stageWords +
		`|task|action|job)|(end|ending|finished|leaving|ende|fin)(?: of| de| der| des)?(?: the)?\s+(?:` + stageWords + `|task|action|job))` +
		`\s*(?:\d+(?:\s*(?:/|of)\s*\d+)?)?\s*[:=–-]?\s*["'«\[]?([\p{L}][^.,;:("'»\]=]{1,60})`)
	// The begin of one of several things that are done alike: package begin
	// id=x.
	begunStage = lazy.MustCompile(`(?i)\b(?:begin|start|starting|started|processing|running|entering)\b.{0,20}?\b(?:id|name|stage|phase|step|task|component|package)=["']?([\w.-]{3,60})`)
)

// counted says whether a text can begin with a stage's number of all.
func counted(text string) bool {
	t := strings.TrimLeft(text, "[(")
	return len(t) > 2 && t[0] >= '0' && t[0] <= '9' && strings.IndexAny(t[:min(len(t), 5)], "/ ") > 0
}

// stageRoom is how many bytes behind its word a stage's name ends.
const stageRoom = 160

// A stageTold is what a line says of one part of a setup.
type stageTold struct {
	name   string // empty when it speaks of none
	number string // where it has one
	ends   bool   // it tells that the stage ended
	quoted bool   // the name stands in marks of quotation behind a foreign word
}

// stageOf tells which stage a line speaks of. at are the bytes at which words
// for a stage begin in low, the text in small letters; the expressions run only
// there.
func stageOf(text, low string, found mark, at []int) stageTold {
	if strings.Contains(low, "scheduled task") || strings.Contains(low, "geplante aufgabe") { // of the OS's, which is no part of a setup
		return stageTold{}
	}
	if strings.HasPrefix(text, "*") {
		if m := agentStage.FindStringSubmatch(text); m != nil {
			return stageTold{name: m[2], ends: m[1] == "END"}
		}
	}
	if counted(text) {
		if m := countedStage.FindStringSubmatch(text); m != nil {
			return stageTold{name: strings.TrimSpace(m[2]), number: m[1]}
		}
	}
	if strings.ContainsAny(low, "0123456789") && strings.Contains(low, ": ") {
		if m := partStage.FindStringSubmatch(text); m != nil {
			return stageTold{name: strings.TrimSpace(m[2]), number: m[1]}
		}
	}
	if strings.ContainsAny(text, "/／") && strings.ContainsAny(text, "「『“\"品包件目지품소") {
		if m := partSigned.FindStringSubmatch(text); m != nil {
			return stageTold{name: strings.TrimSpace(m[2] + m[3]), number: m[1]}
		}
	}
	if found&(staged|begun) != 0 && len(at) > 0 && len(low) == len(text) && at[0] < stageRoom/4 {
		if m := limitedStage.FindStringSubmatch(text); m != nil {
			return stageTold{name: strings.TrimSpace(m[5]), ends: m[2] != "" || m[4] != ""}
		}
	}
	if found&begun != 0 && strings.Contains(low, "=") {
		if m := begunStage.FindStringSubmatch(text); m != nil {
			return stageTold{name: m[1]}
		}
	}
	if len(low) != len(text) { // small letters of another length: places do not agree
		at = at[:min(len(at), 1)]
	}
	// From the surest form to the loosest; each is tried only where a word of
	// it stands.
	find := func(x *lazy.Regexp) []string {
		for _, i := range at {
			if m := x.FindStringSubmatch(around(text, low, i)); m != nil {
				return m
			}
		}
		return nil
	}
	if len(at) > 0 && at[0] == 0 {
		if m := toldStage.FindStringSubmatch(text); m != nil {
			return stageTold{name: strings.TrimSpace(m[1])}
		}
	}
	if m := find(numberedStage); m != nil && !stands(m[2]) {
		name, _, _ := strings.Cut(m[2], " -") // the switches of what it runs
		return stageTold{name: strings.TrimSpace(name), number: m[1]}
	}
	if strings.Contains(low, "=") {
		if m := find(attributed); m != nil {
			return stageTold{name: m[1]}
		}
	}
	plain := find(stageName)
	if plain != nil && stands(plain[1]) {
		plain = nil
	}
	if m := find(foreignStage); m != nil {
		return stageTold{name: m[1], quoted: plain == nil}
	}
	if h, ok := steps.Sure(text); ok {
		return stageTold{name: h.Name, number: h.Number, ends: h.Ends}
	}
	if plain != nil {
		return stageTold{name: plain[1]}
	}
	return stageTold{}
}

// statuses are words behind a stage's name that say how it stands.
var statuses = []string{"started", "starting", "begin", "begins", "begun", "done", "ok", "end", "ended", "ends", "failed", "fails", "aborted", "completed",
	"complete", "finished", "fertig", "erledigt", "beendet", "gestartet", "terminé", "terminée", "démarrée", "hecho", "terminado", "completado",
	"fatto", "completato", "feito", "concluído", "concluída", "klaar", "voltooid", "gotowe", "zakończono", "wykonano", "hotovo", "dokončeno", "klar",
	"klart", "tamam", "tamamlandı", "выполнен", "выполнено", "готово", "завершён", "завершен", "完了", "終了", "完成", "완료", "succeeded", "skipped", "stopped", "running", "cancelled", "rejected", "passed", "broke", "entered", "left"}

// seen are words behind a page's or step's number that tell only that it can be
// looked at.
var seen = []string{"shown", "displayed", "visible", "hidden", "opened", "closed", "reached", "selected", "angezeigt", "gezeigt", "affichée", "affiché",
	"mostrado", "mostrada", "mostrato", "exibido", "exibida", "getoond", "wyświetlono", "zobrazen", "visas", "gösterildi", "показан", "показана"}

// wanted are words behind a step that tell only that one is due: "action
// required: Install".
var wanted = []string{"required", "requested", "needed", "necessary", "pending", "due", "taken", "expected", "planned", "scheduled", "erforderlich", "nötig",
	"requise", "requis", "requerida", "necesaria", "richiesta", "necessaria", "vereist", "wymagana", "vyžadována", "krävs", "gerekli", "требуется"}

// stands says whether what follows a number tells how it stands, and is no
// name: "step 4 shown".
func stands(name string) bool {
	word := strings.ToLower(strings.TrimSpace(name))
	return slices.Contains(statuses, word) || slices.Contains(seen, word) || slices.Contains(wanted, word)
}

// limitedBy is what a line says of a stage when the word for one stands in the
// column of its source: "stage | begin: prepare data folder".
func limitedBy(source, text string) stageTold {
	if !slices.Contains(stageColumn, strings.ToLower(source)) {
		return stageTold{}
	}
	m := limitedStage.FindStringSubmatch(source + " " + text)
	if m == nil || !strings.HasPrefix(m[0], source) {
		return stageTold{}
	}
	return stageTold{name: strings.TrimSpace(m[5]), ends: m[2] != "" || m[4] != ""}
}

// stageColumn are the words for a stage.
var stageColumn = append(strings.Split(stageWords, "|"), "task", "action", "job")

// around is the text from the letter before a byte on, as far as a stage's name
// can go; all of it where the places do not agree.
func around(text, low string, at int) string {
	if len(low) != len(text) {
		return text
	}
	_, before := utf8.DecodeLastRuneInString(text[:at])
	end := min(len(text), at+stageRoom)
	for end < len(text) && !utf8.RuneStart(text[end]) {
		end++
	}
	return text[at-before : end]
}
