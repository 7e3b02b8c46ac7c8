package evidence

import (
	"regexp"
	"strings"

	"hollowkey/core/logs/story"
)

const (
	recoveredFactor = 0.2 // what is left of a failure whose operation went well later
	longestTag      = 40  // bytes before a colon that can name an operation: "download attempt 1 of 3:"
)

var (
	// wentWell are the words with which an operation is told to have worked.
	wentWell = regexp.MustCompile(`(?i)\b(?:done|ok|okay|succeeded|successful(?:ly)?|running|started|completed?|finished|recovered|reconnected|resumed|restored|` +
		`on (?:the )?(?:second|third|attempt \d+)|after retry|erfolgreich|réussie?|con éxito|riuscit[oa]|com sucesso|gelukt|pomyślnie|úspěšně|lyckades|başarıyla|успешно)\b|成功|完了|완료`)
	// notYet are words that take such a word back.
	notYet = regexp.MustCompile(`(?i)\b(?:not|no|never|cannot|could not|fail\w*|nicht|pas|nem|nie|ne|inte|не)\b|error`)
	counts = regexp.MustCompile(`\d+`)
	// named are what lines name: a path, a file, an identifier of two words or with a capital inside.
	named = regexp.MustCompile(`[A-Za-z]:\\[^\s"'<>|,;]+|\b[\w-]+\.(?:dll|exe|msi|cab|ocx|sys|inf|dat|db|zip|xml|bin|jar)\b|\b[A-Z][a-z]+[A-Z]\w+\b`)
)

// recovered finds the failures whose operation went well later, before the run was
// given up: the same tag in front of a colon, or the same thing by its name, with a
// word for success. Only logs without numbered messages need it; the engine says
// itself which failures it went on after.
func recovered(ms []*story.Message, end int, pos func(line int) int) map[*story.Message]bool {
	open := map[string][]*story.Message{} // failures by what they name
	found := map[*story.Message]bool{}
	for _, m := range ms {
		switch {
		case pos(m.Line) > end || m.Rollback || m.Verdict:
		case m.Kind <= story.KindWarning:
			for _, k := range namesIn(m.Text) {
				open[k] = append(open[k], m)
			}
		case wentWell.MatchString(m.Text) && !notYet.MatchString(m.Text):
			for _, k := range namesIn(m.Text) {
				for _, failure := range open[k] {
					found[failure] = true
				}
				delete(open, k)
			}
		}
	}
	return found
}

// namesIn are the things that a line names, in small letters; the operation in
// front of a colon only where it names none, since "copy: done" of one file says
// nothing of another.
func namesIn(text string) (names []string) {
	text, _, _ = strings.Cut(text, "\n")
	for _, n := range named.FindAllString(text, 8) {
		names = append(names, strings.ToLower(n))
	}
	if tag, _, ok := strings.Cut(text, ": "); ok && len(names) == 0 && len(tag) <= longestTag { // which attempt it was does not count
		names = append(names, strings.ToLower(strings.Join(strings.Fields(counts.ReplaceAllString(tag, "")), " ")))
	}
	return names
}
