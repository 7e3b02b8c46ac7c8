// This file takes for the subject what stands behind words that the telling
// line repeats.

package verdict

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/signs"
)

// A telling line often names what it is about by words that stood before the
// thing itself, further up: "working folder C:\Tide\work", and then "the
// working folder could not be made". That those words are said again is what
// joins the two, in whatever language: with another ending, or run into the
// next word where a script has no blanks.

const (
	farWords     = 600 // lines before the telling one in which the thing may stand: that of a setting stands near the begin
	leastWord    = 4   // letters of a word that joins; shorter ones stand in every sentence
	leastJoining = 2   // words that must be said again, without an article before one alone
	longestEnd   = 3   // letters in which the endings of one word may differ: рабочая, рабочую
	leastRun     = 4   // letters of a name of a thing in a script without blanks: 作業フォルダー
)

// sameWords is what a line before the telling one names behind words that the
// telling one says again; nil where the telling line names something itself, or
// where no words join.
func (j *judge) sameWords(class string) *signs.Subject {
	kinds := wanted[class]
	if !ofFiles[class] && class != "network" && class != "service" && class != "registry" {
		return nil
	}
	said := firstLine(j.anchor[0].Text)
	// Where the telling line names something itself, there is nothing to look
	// for.
	for _, n := range names.In(said) {
		if n.Kind != names.Unsure && n.Kind != names.Function {
			return nil
		}
	}
	words := wordsOf(said)
	if len(words) > mostTold {
		return nil
	}
	var best *signs.Subject
	most := 0
	for i := len(j.a.Messages) - 1; i >= 0; i-- {
		m := j.a.Messages[i]
		if m.Line >= j.anchor[0].Line {
			continue
		}
		if j.ahead(m) > farWords {
			break
		}
		// A line that came many times is a list, and its last entry is no
		// likelier than any other.
		if m.Repeated > mostOfList || !sharesWord(m.Text, words) {
			continue
		}
		if found, n := behindWords(m, words, kinds); n > most {
			best, most = found, n
		}
	}
	return best
}

// mostTold is how many words a line has at most that speaks of one thing; more
// are a text.
const mostTold = 24

// behindWords is what a message names behind words that are said again, and how
// many those are.
func behindWords(m *story.Message, words []string, kinds []names.Kind) (found *signs.Subject, most int) {
	text := firstLine(m.Text)
	for _, k := range kinds {
		if k == names.Unsure {
			continue
		}
		for _, n := range names.In(text) {
			if n.Kind != k || errorName.MatchString(n.Text) {
				continue
			}
			before := wordsOf(text[:n.At])
			if said := saidAgain(before, words); said > most {
				found, most = &signs.Subject{Kind: kindWords[k], Name: strings.TrimRight(n.Text, `\/`)}, said
			}
		}
		if found != nil {
			return found, most
		}
	}
	return nil, 0
}

// saidAgain is how many of the last words before a name stand in the telling
// line in the same order, behind each other; 0 where they are too few. Words
// that only lead to a name, "is", "to", do not count.
func saidAgain(before, words []string) int {
	for len(before) > 0 && !long(before[len(before)-1]) {
		before = before[:len(before)-1]
	}
	most := 0
	for at := range words {
		n := 0
		for n < len(before) && n <= at && sameWord(before[len(before)-1-n], words[at-n]) {
			n++
		}
		if n == 0 {
			continue
		}
		if last := before[len(before)-1]; unspaced(last) && utf8.RuneCountInString(last) >= leastRun {
			most = max(most, leastJoining)
		}
		first := at - n + 1
		if n >= leastJoining && long(words[first]) || n >= leastJoining+1 || len(before) == n && first > 0 && articles[words[first-1]] {
			most = max(most, n)
		}
	}
	return most
}

// articles lead to a thing that was named before, in the languages that have
// them.
var articles = wordSet("the this its der die das den dem le la les el lo il i gli o a os as de het")

// sameWord says whether two words are one, but for how they end; of scripts
// without blanks one may stand within the other.
func sameWord(thing, said string) bool {
	if unspaced(thing) {
		return strings.Contains(said, thing)
	}
	a, b := []rune(thing), []rune(said)
	n := 0
	for n < len(a) && n < len(b) && a[n] == b[n] {
		n++
	}
	return thing == said || n >= leastWord && len(a)-n <= longestEnd && len(b)-n <= longestEnd
}

// unspaced says whether a word is of a script that puts no blanks between them,
// or runs its endings into them.
func unspaced(w string) bool {
	c, _ := utf8.DecodeRuneInString(w)
	return unicode.In(c, unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Hangul)
}

// long says whether a word has enough letters to join; of scripts without
// blanks those of two letters have.
func long(w string) bool {
	return utf8.RuneCountInString(w) >= leastWord || unspaced(w) && utf8.RuneCountInString(w) > 1
}

// sharesWord says whether a text holds a long word of some, however it is
// written and whatever its ending.
func sharesWord(text string, words []string) bool {
	low := strings.ToLower(text)
	for _, w := range words {
		if unspaced(w) { // which of its letters are the thing's is not known
			for _, of := range wordsOf(text) {
				if long(of) && unspaced(of) && strings.Contains(w, of) {
					return true
				}
			}
			continue
		}
		if r := []rune(w); long(w) && strings.Contains(low, string(r[:max(leastWord, len(r)-longestEnd)])) {
			return true
		}
	}
	return false
}

// wordsOf are the words of a text in small letters, without marks and figures.
func wordsOf(text string) []string {
	return strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) })
}
