// This file takes failures out of which the line right behind them says that
// they do not matter: "The network name cannot be found.", "(font server is
// optional)".

package evidence

import (
	_ "embed"
	"strings"
	"sync"
	"unicode"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
)

//go:embed waved.txt
var wavedText string

// waveWords are those of waved.txt.
var waveWords = sync.OnceValue(func() (w struct {
	waves  *pieces.Set
	length []int // of each phrase
	filler map[string]bool
}) {
	w.filler = map[string]bool{}
	var all []string
	for line := range strings.Lines(wavedText) {
		kind, rest, _ := strings.Cut(strings.TrimSpace(line), " ")
		_, rest, _ = strings.Cut(rest, " ") // the language is for people
		switch kind {
		case "wave":
			for p := range strings.SplitSeq(rest, "|") {
				for _, way := range append(pieces.Unmarked(p), p) {
					all = append(all, way)
					w.length = append(w.length, len(way))
				}
			}
		case "filler":
			for _, f := range strings.Fields(rest) {
				w.filler[f] = true
			}
		}
	}
	w.waves = pieces.New(all)
	return w
})

const (
	longestWave = 90 // bytes of such a line: a longer one has something to say of its own
	waveLines   = 4  // messages before it that one failure takes: the OS's tools write two, a program's own error stands above
	leastShared = 4  // letters of a word that lines share: shorter ones are in any
)

// waved are the failures right before a line that waves them off. The run must
// have gone on behind it.
func (r *Run) waved(i int) (failures []*story.Message) {
	l := &r.lines[i]
	text, own := withoutFields(l.Text), 0
	if at := strings.LastIndexByte(text, '\n'); at > 0 { // it may be the last line of the failure itself
		text, own = text[at+1:], 1
	}
	note := pieces.Lower(text)
	fails := own == 0 && (l.Kind <= story.KindError || len(l.clues) > 0)
	if l.pos >= r.end || len(note) > longestWave || fails || own == 0 && l.Repeated > retryLines {
		return nil
	}
	rest, in := unwaved(note)
	if !in {
		return nil
	}
	around := strings.Builder{}
	last, k := l, i-1+own
	for ; k >= max(0, i-waveLines); k-- {
		b := &r.lines[k]
		troubled := b.Kind <= story.KindWarning || len(b.clues) > 0 || b.fails
		if !troubled || last.pos-b.pos > nearCommand || b.Source != l.Source && b.Source != "" && l.Source != "" {
			break
		}
		failures, last = append(failures, b.Message), b
		around.WriteString(b.lower + " " + b.Source + "\n")
	}
	if len(failures) == 0 {
		return nil
	}
	for ; k >= max(0, i-waveLines-1); k-- { // what was being done, too
		if _, waves := unwaved(r.lines[k].lower); !waves {
			around.WriteString(r.lines[k].lower + "\n")
		}
	}
	told := pieces.Lower(around.String())
	for _, w := range rest {
		if !waveWords().filler[w] && !(len([]rune(w)) >= leastShared && strings.Contains(told, stem(w))) {
			return nil
		}
	}
	return failures
}

// unwaved are the words of a line besides those that wave a failure off; in is
// false where there are none of these, or they are denied: "must not be
// ignored".
func unwaved(lower string) (rest []string, in bool) {
	w := waveWords()
	out := []byte(lower)
	denied := false
	w.waves.Find(lower, func(k, stop int) {
		at := stop - w.length[k]
		if !pieces.Begins(lower, at) || !pieces.Ends(lower, stop) {
			return
		}
		if endings.Denied(lower[:at], "") || pieces.Undone(lower[:at]) {
			denied = true
			return
		}
		in = true
		for j := at; j < stop; j++ {
			out[j] = ' '
		}
	})
	return strings.FieldsFunc(string(out), func(c rune) bool { return !unicode.IsLetter(c) && !unicode.IsDigit(c) }), in && !denied
}

// withoutFields is a text without the values that a record has behind its words,
// on the same line or below.
func withoutFields(text string) string {
	for {
		at := strings.LastIndexAny(text, " \n")
		if at <= 0 || strings.IndexByte(text[at+1:], '=') <= 0 {
			return text
		}
		text = strings.TrimRight(text[:at], " ")
	}
}

// stem is a word without what its endings change.
func stem(word string) string {
	letters := []rune(word)
	return string(letters[:max(leastShared, len(letters)-2)])
}
