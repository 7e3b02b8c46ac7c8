package generic

import (
	"regexp"
	"strings"
)

// stageWords are the words for a part of a setup in the languages of the endings.
const stageWords = `stage|step|phase|schritt|étape|etape|paso|etapa|fase|passo|stap|etap|krok|faza|fáze|steg|fas|adım|aşama|шаг|этап|手順|ステップ|段階|단계|步骤|步驟|阶段`

var (
	// A stage's name in marks of quotation: Étape « CopierFichiers » terminée.
	foreignStage = regexp.MustCompile(`(?i)(?:^|[\s'’(\[])(?:` + stageWords + `)\s*\d*\s*[:–-]?\s*[«"“'\[]\s*([^»"”'\]]{2,60}?)\s*[»"”'\]]`)
	// A numbered one: Etap 3: kopiowanie plików; Fase 2/5 CopiarArchivos.
	numberedStage = regexp.MustCompile(`(?i)(?:^|[\s'’(\[])(?:` + stageWords +
		`)\s*(\d+)(?:\s*(?:/|of|von|de|di|z|av|из|sur|van)\s*\d+)?\s*[\]:.)–-]*\s*([\p{L}][^.,;:(«"]{1,60})`)
	// One told by its number alone: [4/6] Opening the firewall; 4/6: Opening …
	countedStage = regexp.MustCompile(`^[\[(]?(\d{1,2})\s*(?:/|of|von|de|sur|di)\s*\d{1,2}[\])]?\s*[:.–-]?\s+(\p{L}[^.,;:(]{2,60})`)
	// One behind its word and a colon: Phase : initialisation du moteur.
	toldStage = regexp.MustCompile(`(?i)^(?:` + stageWords + `)\s*[:：]\s*(\p{L}[^.,;:(]{2,60})`)
	// The begin of one of several things that are done alike: package begin id=x.
	begunStage = regexp.MustCompile(`(?i)\b(?:begin|start|starting|started|processing|running|entering)\b.{0,20}?\b(?:id|name|stage|phase|step|task|component|package)=["']?([\w.-]{3,60})`)
)

// counted says whether a text can begin with a stage's number of all.
func counted(text string) bool {
	t := strings.TrimLeft(text, "[(")
	return len(t) > 2 && t[0] >= '0' && t[0] <= '9' && strings.IndexAny(t[:min(len(t), 5)], "/ ") > 0
}

// stageOf gives the name of the stage that a line speaks of, and its number where
// it has one; empty when it speaks of none.
func stageOf(text, low string, found mark) (name, number string) {
	if counted(text) {
		if m := countedStage.FindStringSubmatch(text); m != nil {
			return strings.TrimSpace(m[2]), m[1]
		}
	}
	if found&begun != 0 && strings.Contains(low, "=") {
		if m := begunStage.FindStringSubmatch(text); m != nil {
			return m[1], ""
		}
	}
	if found&staged == 0 {
		return "", ""
	}
	if m := toldStage.FindStringSubmatch(text); m != nil {
		return strings.TrimSpace(m[1]), ""
	}
	if m := numberedStage.FindStringSubmatch(text); m != nil {
		return strings.TrimSpace(m[2]), m[1]
	}
	if m := foreignStage.FindStringSubmatch(text); m != nil {
		return m[1], ""
	}
	if m := stageName.FindStringSubmatch(text); m != nil {
		return m[1], ""
	}
	return "", ""
}
