// This file compares what a file adds up to with what it should.

package evidence

import (
	"cmp"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/why/lexicon"
)

// What a file's bytes add up to is often told in one line, and what they should
// add up to in another, or in a value of its own: "computed sha256=9c1f…",
// "listed sha256=e0b7…".

var (
	// fullSum is such a sum in full, which no word and no size looks like.
	fullSum = lazy.MustCompile(`\b(?:0x)?([0-9a-f]{8,128})\b`)
	// listed is a word by which a sum is the one that is written down.
	listed = lazy.MustCompile(`\b(?:listed|expected?s?|wanted|want|wants|declared|published|recorded|stored|manifest|catalog(?:ue)?|index|remote|server|reference|original|should|must|target|feed|header|erwartet|soll|sollwert|katalog|attendue?|référence|esperad[oa]|attes[oa]|verwacht|oczekiwan[ay]|očekávan[ýá]|förväntad|beklenen|ожида\pL+)\b`)
	// expectedSum is a record's value for what a file should add up to, and
	// actualSum the one for what it does.
	expectedSum = lazy.MustCompile(`\b(?:expected|wanted|want|listed|declared|manifest|catalog|should|soll|erwartet|attendue?|esperad[oa])[\w-]*["']?(?:=|: ?)["']?([0-9a-f]{8,128})\b`)
	actualSum   = lazy.MustCompile(`\b(?:actual|got|found|computed|calculated|have|real|local|received|ist|berechnet|calculée?|obtenid[oa])[\w-]*["']?(?:=|: ?)["']?([0-9a-f]{8,128})\b`)
)

// ofSum says whether eight or more hexadecimal digits are a sum and no count:
// they hold letters and digits.
func ofSum(s string) bool {
	return strings.ContainsAny(s, "0123456789") && strings.ContainsAny(s, "abcdef")
}

// otherSum says that a record holds two sums of one file that are not the same,
// by the names of the values.
func otherSum(lower string) (c Clue, ok bool) {
	want := expectedSum.FindStringSubmatchIndex(lower)
	if want == nil {
		return c, false
	}
	have := actualSum.FindStringSubmatchIndex(lower)
	if have == nil {
		return c, false
	}
	a, b := lower[want[2]:want[3]], lower[have[2]:have[3]]
	if a == b || len(a) != len(b) || !ofSum(a) && !ofSum(b) {
		return c, false
	}
	return Clue{Class: "corrupt", Strength: lexicon.Root, Compared: true, Kind: "sums", What: "two sums that are not the same", At: min(want[0], have[0])}, true
}

// sumsApart is how many lines may stand between two sums of one file.
const sumsApart = 4

// sums compares, for a failure that says nothing itself, what a file adds up to
// with what another line near it has for it.
func (r *Run) sums() {
	if !r.mute() {
		return
	}
	type sum struct {
		at     int
		text   string
		listed bool
		file   string
	}
	var last []sum
	for i := range r.lines {
		l := &r.lines[i]
		if l.pos > r.end || !summed.MatchString(l.lower) {
			continue
		}
		all := fullSum.FindAllStringSubmatch(l.lower, 2)
		if len(all) != 1 || !ofSum(all[0][1]) {
			continue
		}
		s := sum{at: i, text: all[0][1], listed: listed.MatchString(l.lower), file: fileIn(l.Text)}
		for _, o := range last {
			others := !strings.EqualFold(o.file, s.file) // or one names a file, and the other none
			if i-o.at > sumsApart || o.listed == s.listed || len(o.text) != len(s.text) || others {
				continue
			}
			if o.text == s.text {
				last = nil
				break
			}
			l.clues = append(l.clues, Clue{Class: "corrupt", Strength: lexicon.Root, Compared: true, Kind: "sums", Name: cmp.Or(o.file, s.file),
				What: "two sums of one file that are not the same"})
			l.linked = max(l.linked, linkedMute)
		}
		last = append(last, s)
	}
}

// fileIn is the file that a line names; empty when it names none.
func fileIn(text string) string {
	for _, n := range names.In(text) {
		if n.Kind == names.File || n.Kind == names.Path {
			return n.Text
		}
	}
	return ""
}
