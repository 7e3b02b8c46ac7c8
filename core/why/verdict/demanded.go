// This file finds what a setup asked for by name and did not get.

package verdict

import (
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/signs"
)

// demanding are the classes that are about something the setup asks for, by a
// name of plain words: "Nautic Runtime: found 4.1, needed 4.6".
var demanding = map[string]bool{"prerequisite": true, "condition": true}

// demanded is such a thing at the begin of a line, with what says that it is
// one.
var demanded = lazy.MustCompile(`^(?:[\w ]{0,30}?\b(?:requires|needs|required|missing|wanted|looking for|searching for|checking for)[: ]+)?(\.?[\p{Lu}][\p{L}\d.+#&-]*(?: [\p{Lu}\d][\p{L}\d.+#&-]*){0,4}?)(?: ?[:=(]| v?\d+(?:\.\d+)+| (?i:is not installed|not installed|not found|is missing|missing|required|needed|wanted|fehlt|nicht gefunden|nicht installiert|manquant|introuvable|no encontrado|non trovato|ontbreekt))`)

// demandedIn finds what the lines ask for. A line that tells neither a version
// nor that something is missing asks for nothing.
func (j *judge) demandedIn(lines []*story.Message) *signs.Subject {
	for _, m := range lines {
		text := firstLine(m.Text)
		f := demanded.FindStringSubmatch(text)
		if f == nil || len(f[1]) < 3 || j.holdsProduct(f[1]) || !asked.MatchString(strings.Replace(text, f[1], "", 1)) {
			continue
		}
		return &signs.Subject{Kind: "program", Name: f[1]}
	}
	return j.properName(lines[:min(len(lines), 1)])
}

// holdsProduct says whether a name is that of the product, maybe with other
// words: "Deploying Tide Watch".
func (j *judge) holdsProduct(name string) bool {
	own := strings.ToLower(j.a.Product.Name)
	return own != "" && strings.Contains(strings.ToLower(name), own)
}

// proper is what a line names by words that begin with capitals: "no suitable
// ODBC driver", "Visual C++ 2015-2022 (x64) isn't installed".
var proper = lazy.MustCompile(`(?:\.NET|\p{Lu}[\p{L}\d.+#&-]*)(?: (?:\p{Lu}[\p{L}\d.+#&-]*|\d[\d.-]*\b|(?i:runtime|framework|driver|redistributable|library|role|engine)\b))*`)

// properName finds what lines name so: the longest that is more than the first
// word of a sentence, and not the product.
func (j *judge) properName(lines []*story.Message) *signs.Subject {
	best := ""
	for _, m := range lines {
		text := firstLine(m.Text)
		for _, at := range proper.FindAllStringIndex(text, mostProper) {
			name := article.ReplaceAllString(strings.TrimRight(text[at[0]:at[1]], " .-"), "")
			before, behind := text[:at[0]], text[at[1]:]
			begins := before == "" || strings.HasSuffix(before, ". ") || strings.HasSuffix(before, ": ")
			inside := before != "" && !strings.ContainsRune(` ([{"'`, rune(before[len(before)-1])) ||
				behind != "" && strings.ContainsRune(`(.\/=_:`, rune(behind[0]))
			if inside || begins && !strings.ContainsAny(name, " .") || strings.EqualFold(name, j.a.Product.Name) || sentence.MatchString(name) {
				continue
			}
			if len(name) > len(best) && len(name) >= leastProper {
				best = name
			}
		}
	}
	if best == "" {
		return nil
	}
	return &signs.Subject{Kind: "program", Name: best}
}

// article stands before a name.
var article = lazy.MustCompile(`^(?:The|An?|Die|Der|Das|Les?|La|El|Los|Las|Il|Lo|O|Os|As|De|Het) `)

const (
	mostProper  = 8 // names of a line that are looked at
	leastProper = 3 // letters: "PC" and "OS" name nothing in particular
)

// sentence is a word that begins a sentence, or names the machine or the OS
// itself.
var sentence = lazy.MustCompile(`^(?i:this|the|that|an?|no|please|setup|error|warning|windows|could|cannot|required?|missing|install|not|it)(?: \d+)?$`)

// asked is a version, or a word for something that is wanted and not there.
var asked = lazy.MustCompile(`(?i)\d+\.\d+|missing|not (?:found|installed|present)|required|needed|fehlt|nicht|manqu|introuvable|no encontrad|non trovat|ontbreekt|brak|chybí|saknas|eksik|не найден`)
