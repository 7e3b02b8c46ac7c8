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
		`)\s*(\d+)(?:\s*(?:/|of|von|de|di|z|av|из|sur|van)\s*\d+)?\s*[:.)–-]?\s*([\p{L}][^.,;:(«"]{1,60})`)
)

// stageOf gives the name of the stage that a line speaks of, and its number where
// it has one; empty when it speaks of none.
func stageOf(text string) (name, number string) {
	if !hasAny(strings.ToLower(text), stagePieces) {
		return "", ""
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
