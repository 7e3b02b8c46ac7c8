// This file tells that what failed was made good: tried again with success, or
// done another way.

package endings

import (
	"strings"
	"sync"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

// LongestTag is how many bytes stand before a colon at most that can name an
// operation: "download attempt 1 of 3:".
const LongestTag = 40

var (
	// Two lines are the same operation where only their numbers differ.
	numbersIn = lazy.MustCompile(`\d+`)
	// named are what lines name: a path, a file, an identifier of two words or
	// with a capital inside.
	named = lazy.MustCompile(`[A-Za-z]:\\[^\s"'<>|,;]+|\b[\w-]+\.[a-z][a-z0-9]{1,4}\b|\b[A-Z][a-z]+[A-Z]\w+\b`)
)

// wellWords are the words with which an operation is told to have worked; those
// behind the bar take such a word back. A word ends with its last letter,
// unless a star stands there.
const wellWords = `done ok okay succeeded successful* running started complete completed finished recovered reconnected resumed restored ` +
	`on_second on_third on_the_second on_the_third on_attempt on_the_attempt after_retry erfolgreich réussi réussie con_éxito riuscita riuscito com_sucesso gelukt vollständig abgeschlossen terminé terminée completado completada completato completata concluído concluída voltooid zakończono dokončeno tamamlandı завершено завершена ` +
	`pomyślnie úspěšně lyckades başarıyla успешно 成功* 完了* 완료* | ` +
	`restored_from restored_to from_backup from_the_backup not no never cannot could_not fail* nicht pas nem nie ne inte не *error*`

// outcomeWords are those words in one set; those from back on take a word back.
var outcomeWords = sync.OnceValue(func() (w struct {
	set  *pieces.Set
	of   []string
	back int
}) {
	for _, word := range strings.Fields(wellWords) {
		if word == "|" {
			w.back = len(w.of)
			continue
		}
		w.of = append(w.of, strings.ReplaceAll(word, "_", " "))
	}
	plain := make([]string, len(w.of))
	for i, word := range w.of {
		plain[i] = strings.Trim(word, "*")
	}
	w.set = pieces.New(plain)
	return w
})

// WentWell says whether a text tells that an operation worked.
func WentWell(text string) bool {
	w := outcomeWords()
	low := pieces.Lower(text)
	well, back := false, false
	w.set.Find(low, func(piece, end int) {
		word := w.of[piece]
		from := end - len(strings.Trim(word, "*"))
		if (word[0] == '*' || pieces.Begins(low, from)) && (word[len(word)-1] == '*' || pieces.Ends(low, end)) {
			well, back = well || piece < w.back, back || piece >= w.back
		}
	})
	return well && !back
}

// Otherwise says whether a line, in small letters, tells that something is done
// another way: "logging to memory instead", "using defaults".
func Otherwise(lower string) bool { return otherwise.MatchString(lower) }

// otherwise is how such a line ends.
var otherwise = lazy.MustCompile(`(?:\binstead\b|\b(?:using|taking|applying|assuming|with|keeping) (?:the |built-in |factory )?defaults?\b|\b(?:verwende|nehme|benutze) (?:die )?(?:vorgaben?|standardwerte?)\b|valeurs? par défaut|valores? predeterminados?|valori predefiniti|standaardwaarden)\W*(?:values?|settings?)?\W*$`)

// Things are the things that a line names, in small letters; the operation in
// front of a colon only where it names none, since "copy: done" of one file
// says nothing of another.
func Things(text string) (names []string) {
	text, _, _ = strings.Cut(text, "\n")
	for _, n := range named.FindAllString(text, 8) {
		names = append(names, strings.ToLower(n))
	}
	if tag, _, ok := strings.Cut(text, ": "); ok && len(names) == 0 && len(tag) <= LongestTag { // which attempt it was does not count
		names = append(names, strings.ToLower(strings.Join(strings.Fields(numbersIn.ReplaceAllString(tag, "")), " ")))
	}
	return names
}
