// This file finds what was being done when it broke, by words that the failing
// lines repeat.

package verdict

import (
	_ "embed"
	"strings"
	"sync"
	"unicode"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/steps"
	"hollowkey/core/logs/story"
)

// Many programs name what they do in no form that a reader could know, and yet
// name it twice: "enrol device at https://…" when it begins, and "enrol device:
// handshake failed" when it broke. What both begin with is what was done.

const (
	echoBack  = 600 // messages before the failure in which it must have begun
	echoOften = 8   // more lines that begin alike are a list, not a beginning and an end
	echoWords = 6   // of such a name at most
)

//go:embed heads.txt
var headsText string

// headWords are the words of heads.txt by their kind.
var headWords = sync.OnceValue(func() map[string]map[string]bool {
	all := map[string]map[string]bool{}
	for line := range strings.Lines(headsText) {
		words := strings.Fields(line)
		if len(words) < 2 || words[0] == "#" {
			continue
		}
		all[words[0]] = map[string]bool{}
		for _, w := range words[1:] {
			all[words[0]][w] = true
		}
	}
	return all
})

// wordOf is one word of a head: letters, figures and what joins them in names.
var wordOf = lazy.MustCompile(`^[\p{L}][\p{L}\d_.+&-]*$`)

// headOf are the words with which a text begins as far as they could name what
// is done.
func headOf(text string) (words []string, called bool) {
	text = strings.TrimLeft(text, "=-*#>~_.·•→!<[( \t")
	for i, f := range strings.Fields(text) {
		if i > echoWords+2 {
			break
		}
		w := strings.TrimRight(f, ":,;…)]")
		if !wordOf.MatchString(strings.TrimRight(w, ".")) || strings.Contains(w, "..") && len(w) > 2 {
			break
		}
		words = append(words, strings.TrimRight(w, "."))
		if w != f { // its end
			return words, strings.HasPrefix(f[len(w):], ":")
		}
	}
	return words, false
}

// unled takes the words for a beginning off the front.
func unled(words []string) []string {
	for len(words) > 0 && headWords()["lead"][strings.ToLower(words[0])] {
		words = words[1:]
	}
	return words
}

// echoed is what was done by the lines that tell that it broke and by one
// before them that told that it began; empty where no two lines begin alike.
func (j *judge) echoed(broke []*story.Message) string {
	for _, m := range broke {
		if m.Kind > story.KindWarning || endings.Read(m.Text).Failed {
			continue
		}
		words, called := headOf(firstLine(m.Text))
		words = unled(words)
		sentence := len(words) > 0 && headWords()["sentence"][strings.ToLower(words[0])] &&
			!(called && len(words) > 1 && endings.IsSetup(strings.ToLower(words[0]))) // "install driver: "
		if len(words) == 0 || sentence || j.ofProduct(words[0]) ||
			len(words) == 1 && (isFile(words[0]) || headWords()["whole"][strings.ToLower(words[0])]) {
			continue
		}
		if name := j.begunAs(m, words, called); name != "" && !isFile(name) {
			return name
		}
	}
	return ""
}

// ofProduct says whether a word is the first of the product's name.
func (j *judge) ofProduct(word string) bool {
	first, _, _ := strings.Cut(j.a.Product.Name, " ")
	return first != "" && strings.EqualFold(first, word)
}

// spokenOf is what the lines right before and at the failure begin with and end
// with a colon, more than once: "copy charts: volume 1 done", "copy charts:
// waiting for volume 2". Where nothing else tells what was done, and of such
// lines the nearest.
func (j *judge) spokenOf(lines []*story.Message) string {
	heads := map[string]int{}
	for _, m := range j.a.Messages {
		if name := calledHead(m); name != "" {
			heads[name] += max(1, m.Repeated)
		}
	}
	for _, m := range lines {
		if name := calledHead(m); heads[name] > 1 && heads[name] <= echoOften {
			return name
		}
	}
	for _, m := range lines { // what runs says so with dots: "Creating the folder C:\Tide ..."
		if text := firstLine(m.Text); m.Kind > story.KindWarning && (strings.HasSuffix(text, "...") || strings.HasSuffix(text, "…")) {
			for _, n := range names.In(text) {
				text = text[:min(len(text), n.At)]
			}
			if words := strings.Fields(strings.TrimRight(text, ".… :\"'")); len(words) > 0 && len(words) <= echoWords {
				return strings.Join(words, " ")
			}
		}
	}
	return ""
}

// begunHead is the step that the nearest line before the failure says begins,
// in the words or under the signs that
// are usual for that, and that no line says is over: "copy fonts: begin", "===
// copy fonts ==="; or the one that it only leads to: "start copying".
func (j *judge) begunHead(led bool) string {
	over := map[string]bool{}
	for _, m := range j.before() {
		text := firstLine(m.Text)
		if m.Kind <= story.KindWarning || goesOn(m) {
			continue
		}
		if partOf(m) && len(strings.Fields(text)) == 1 { // "[copy-fonts] start"
			text = m.Source + ": " + text
		}
		h, ok := steps.Read(text)
		switch name := strings.ToLower(h.Name); {
		case !ok || j.ofProduct(strings.Fields(h.Name)[0]) || headWords()["idle"][name]:
		case h.Ends:
			over[name] = true
		case !over[name] && h.Led == led:
			return h.Name
		}
	}
	return ""
}

// doing is a line that says what is under way by its first word alone.
var doing = lazy.MustCompile(`^(?:(?:[A-Za-z][a-z]{2,}(?:ing|ando|endo)|Starting to \w+|` +
	`(?i:kopiere|entpacke|registriere|starte|stoppe|schreibe|lese|prüfe|lade|installiere|erstelle|ersetze|aktualisiere|lösche|entferne|beende|konfiguriere|verschiebe|lege|richte|öffne|suche|sichere|übertrage|migriere|importiere|verbinde|` +
	`(?:copie|création|enregistrement|extraction|suppression|démarrage|arrêt|écriture|lecture|vérification|remplacement|téléchargement|configuration) d(?:e|u|es)|` +
	`(?:copia|creazione|registrazione|estrazione|scrittura|lettura|verifica|sostituzione|avvio|arresto|rimozione|configurazione) d(?:i|el|ella|ei|elle)|a (?:copiar|extrair|criar|registar|gravar|iniciar|parar|remover|substituir|configurar|verificar)|` +
	`(?:kopiëren|uitpakken|registreren|aanmaken|starten|stoppen|schrijven|vervangen|verwijderen|configureren) van|bezig met \pL+|` +
	`\pL{3,}(?:owanie|ywanie|anie|enie)|kopíruji|rozbaluji|registruji|vytvářím|spouštím|zastavuji|zapisuji|nahrazuji|odstraňuji|kontroluji|kopierar|packar|registrerar|skapar|startar|stoppar|skriver|ersätter|tar|konfigurerar|` +
	`\pL{3,}(?:ание|ение|ация|вка|пуск)))(?:\s[^=:;!?]{3,60})|[A-Z][a-z]{4,}ing)$`)

// aCommand is the call of a program.
var aCommand = lazy.MustCompile(`(?i)^["']?(?:[\w.:\\-]+\.(?:exe|msi|cmd|bat|ps1)|msiexec|rundll32|regsvr32|pnputil|powershell|cmd|net|sc|reg|dism)\b`)

// aimed is what is done, where nothing but a path stands behind it.
var aimed = lazy.MustCompile(`^[A-Za-z][a-z]{3,}ing$`)

// driveMark is the colon of a path, which ends no words: "unpacking to
// D:\Pintail".
var driveMark = lazy.MustCompile(`:\\`)

// underWay is what the nearest line before the failure says is under way:
// "Compiling the shim", "WriteManifest"; empty where none does, or it says that
// it is done.
func (j *judge) underWay() string {
	if name := j.ownHead(); name != "" {
		return name
	}
	seen := 0
	// The nearest line that says what is being done names the step; too far
	// back it is the step before.
	for _, m := range j.before() {
		if j.said.Noise(m) || m.Text == j.anchor[0].Text || tries.MatchString(m.Text) {
			continue
		}
		if seen++; seen > nearestDone {
			return ""
		}
		if j.elsewhere(m) {
			continue
		}
		text := firstLine(m.Text)
		if goesOn(m) {
			text = lastLine(m.Text)
		}
		text = strings.TrimRight(text, " .…")
		first, _, _ := strings.Cut(text, " ")
		if m.Kind <= story.KindWarning || j.ofProduct(text) || headWords()["idle"][strings.ToLower(first)] || headWords()["state"][strings.ToLower(first)] {
			continue
		}
		if noStep.MatchString(text) || untouched.MatchString(text) {
			continue
		}
		head, command, more := strings.Cut(text, ": ")
		if more && doing.MatchString(head) && aCommand.MatchString(command) { // "removing 7.2: msiexec /x …"
			text = strings.TrimSpace(head)
		}
		whole := text
		if text = unaimed(text); text != whole && aimed.MatchString(text) { // "applying to C:\…"
			j.aiming = text
			return ""
		}
		if words := strings.Fields(text); len(words) == 1 && isName(text) && wordOf.MatchString(text) && !strings.Contains(text, ".") ||
			len(words) <= echoWords && doing.MatchString(driveMark.ReplaceAllString(text, `\`)) {
			return text
		}
	}
	return ""
}

// tries is a line that tells that the same is tried once more: it tells nothing
// of what is done.
var tries = lazy.MustCompile(`(?i)^\W*(?:retry(?:ing)?|attempt|try|trying again|versuch|essai|intento|tentativ[oa])\b[^:=]{0,12}\d`)

// ownHead is what the message that tells the cause begins with, where that only
// tells what is done, and a line behind it how it went.
func (j *judge) ownHead() string {
	if len(j.anchor) == 0 {
		return ""
	}
	head, rest, more := strings.Cut(j.anchor[0].Text, "\n")
	head = strings.TrimRight(strings.TrimSpace(head), " .…")
	if !more || strings.TrimSpace(rest) == "" || endings.Read(head).Fails {
		return ""
	}
	if head = unaimed(head); len(strings.Fields(head)) <= echoWords && doing.MatchString(head) && !j.ofProduct(head) {
		return head
	}
	return ""
}

// lastLine is the last line of a message that goes on over several: on a
// console what is done last stands there.
func lastLine(text string) string {
	text = strings.TrimRight(text, "\n ")
	return strings.TrimSpace(text[strings.LastIndexByte(text, '\n')+1:])
}

// elsewhere says whether another part of the program said a message than told
// the cause.
func (j *judge) elsewhere(m *story.Message) bool {
	return len(j.anchor) > 0 && speaks(m) && partOf(j.anchor[0]) && m.Source != j.anchor[0].Source
}

// unaimed leaves a path, and the word that leads to it, off what is done:
// "unpacking to C:\Tide".
func unaimed(text string) string {
	for _, n := range names.In(text) {
		if n.Kind == names.Path || n.Kind == names.URL || n.Kind == names.Key {
			words := strings.Fields(text[:min(len(text), n.At)])
			for len(words) > 1 && headWords()["tail"][strings.ToLower(words[len(words)-1])] {
				words = words[:len(words)-1]
			}
			return strings.TrimRight(strings.Join(words, " "), " \"'")
		}
	}
	return text
}

// nearestDone is how many messages before the failure tell what was under way
// when it broke.
const nearestDone = 6

// calledHead is what a message begins with and ends with a colon; empty where
// that is no name of something done.
func calledHead(m *story.Message) string {
	words, called := headOf(firstLine(m.Text))
	if !called || len(words) > echoWords || headWords()["sentence"][strings.ToLower(words[0])] || headWords()["lead"][strings.ToLower(words[0])] {
		return ""
	}
	if len(words) == 1 && headWords()["whole"][strings.ToLower(words[0])] {
		return ""
	}
	return strings.Join(words, " ")
}

// begunAs looks for the line before m that begins with the most of its first
// words.
func (j *judge) begunAs(m *story.Message, words []string, called bool) string {
	best, times := 0, 0
	for i, seen := len(j.a.Messages)-1, 0; i >= 0 && seen < echoBack; i-- {
		o := j.a.Messages[i]
		if o.Line >= m.Line {
			continue
		}
		seen++
		if o.Kind <= story.KindWarning {
			continue
		}
		head, _ := headOf(firstLine(o.Text))
		n := common(words, unled(head))
		if n > best {
			best, times = n, 0
		}
		if n == best && n > 0 {
			times += max(1, o.Repeated)
		}
	}
	// Words that only join are no part of a name: "Register service for".
	for best > 0 && headWords()["tail"][strings.ToLower(words[best-1])] {
		best--
	}
	// What many lines begin with is how this program writes, and no step.
	if best == 0 || times > echoOften || best > echoWords {
		return ""
	}
	name := strings.Join(words[:best], " ")
	said := best == len(words) && (called || best > 1) || best < len(words) && headWords()["broken"][strings.ToLower(words[best])]
	if !said && !(best == 1 && isName(name)) {
		return ""
	}
	return name
}

// common is how many words two heads begin with alike.
func common(a, b []string) (n int) {
	for n < len(a) && n < len(b) && strings.EqualFold(a[n], b[n]) {
		n++
	}
	return n
}

// isName says whether a word is a name that somebody made up: with a capital or
// a figure within, or words joined.
func isName(w string) bool {
	return strings.ContainsAny(w, "_-.") || strings.IndexFunc(w[1:], unicode.IsUpper) >= 0
}
