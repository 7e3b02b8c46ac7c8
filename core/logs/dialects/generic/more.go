// This file takes lines that go on with the entry above.

package generic

import (
	"bytes"
	"strings"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// wentWell has the words that end a part in the other languages.
var wentWell = pieces.New([]string{"erfolgreich", "réussi", "correcto", "riuscit", "concluíd", "geslaagd", "zakończon", "dokončen", "klar", "tamam", "успешно",
	"成功", "完了", "終了", "完成", "성공", "완료"})

const maxTrace = 60 // lines of a stack trace that are looked at

// more takes a line that belongs to the entry above.
func (r *Reader) more(l textfile.Line) {
	if r.trace++; r.trace > maxTrace {
		return
	}
	text := string(bytes.TrimRight(l.Text, " \t"))
	r.bare = r.bare || r.b.Last() == nil
	r.b.Ensure(l.Number)
	if r.speaksForItself(text) {
		// Where levels are told, words alone make no failure of what a program
		// only printed: a licence, a summary.
		r.entry(l, entry{at: -1, kind: story.KindText, level: r.leveled || r.grave, text: text})
		r.loose = true
		return
	}
	if m := r.b.Last(); r.trace == 1 && m != nil && headOnly(m.Text) { // the logger stands on a line of its own
		if g, rest := levelWord(text); g != peel.Unknown {
			m.Kind, text = ofGravity[g], rest
		}
		m.Source, m.Text, m.Raw, m.Line = m.Text, story.Clip(strings.TrimSpace(text), story.MaxText),
			story.Clip(string(l.Text), story.MaxText), l.Number
		e := entry{at: -1, kind: m.Kind, level: m.Kind != story.KindText, source: m.Source, text: m.Text}
		low := pieces.Lower(e.text)
		found, stages := marksIn(low)
		r.entries++
		r.product(e)
		r.stages(l.Number, e, low, found, stages)
		r.outcome(l.Number, e, m, low, found)
		return
	}
	if r.entries <= productLines && text != "" && (text[0] > ' ' || speaksOfSetups([]byte(text))) { // a title in a layout of its own
		r.product(entry{text: strings.TrimSpace(text)})
	}
	if said := endings.Read(text); len(text) > 0 && text[0] != ' ' && text[0] != '\t' {
		switch banner := strings.Trim(text, " =-*#~_"); {
		case said.Exit != nil && said.Firm:
			r.b.Exit(l.Number, *said.Exit, text)
			r.said, r.firm = new(exitcode.Good(*said.Exit)), true
		case len(banner) < len(text) && !said.Passed && said.Failed: // "=== deployment failed ==="
			r.tell(l.Number, false)
		case len(banner) < len(text) && said.Worked:
			r.tell(l.Number, true)
		}
	}
	if !r.inner(l.Number, text) {
		r.b.More(l.Number, strings.TrimSpace(text))
	}
}

// speaksForItself says whether a line without a stamp is an entry of its own,
// as a script writes them between those of the programs that it calls: it
// begins at the margin with a word and holds a sentence, and no failure stands
// above it that it could go on with.
func (r *Reader) speaksForItself(text string) bool {
	m := r.b.Last()
	// Where no line has a time, and the first had no level either, most lines
	// have none.
	apart := r.loose || r.bare && !r.timed && r.trace == 1 && tellsEnd(text)
	if m == nil || r.rows || !apart && (r.trace > 1 || m.Kind <= story.KindDebug) || !r.loose && headOnly(m.Text) {
		return false
	}
	first, _ := utf8.DecodeRuneInString(text)
	return (unicode.IsLetter(first) || unicode.IsDigit(first)) && strings.Contains(text, " ") && !exception.MatchString(text)
}

// tellsEnd says whether a line tells how all of it ended, or what to do now.
func tellsEnd(text string) bool {
	said := endings.Read(text)
	stops, _ := endings.Stops(text)
	return stops || said.Ends || said.Failed || said.Worked || said.GivesUp || said.Restart || said.Advises || said.Cancelled
}

// headOnly says whether an entry's text is a logger's name alone, with the
// number of the event: "Quay.Sync.Installer[15]".
func headOnly(text string) bool {
	// and its method
	if class, method, ok := strings.Cut(text, " "); ok && strings.Count(class, ".") > 1 && !strings.ContainsAny(method, " :=.") {
		return true
	}
	return len(text) > 3 && !strings.ContainsAny(text, " :=") && strings.Count(text, ".") > 0 && !strings.HasSuffix(text, ".")
}

// inner takes the cause within a stack trace: "Caused by: …", "---> …", or an
// exception that stands on a line of its own.
func (r *Reader) inner(line int, text string) bool {
	t := strings.TrimSpace(text)
	switch {
	case strings.HasPrefix(t, "Caused by: "), strings.HasPrefix(t, "---> "), strings.HasPrefix(t, "Inner exception: "),
		exception.MatchString(t):
		kind := story.KindError
		if last := r.b.Last(); last != nil && last.Kind > story.KindWarning {
			kind = last.Kind
		}
		r.b.Add(lines.Entry{Line: line, At: -1, Kind: kind, Text: t, Raw: text})
		return true
	}
	return false
}

var exception = lazy.MustCompile(`^(?:[A-Za-z_][\w]*\.)+[A-Z]?\w*(?:Exception|Error)\b(?::|$)`)
