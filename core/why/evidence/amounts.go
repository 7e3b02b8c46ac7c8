// This file reads how much room is wanted and how much is free, drive by drive,
// in any units and languages.

package evidence

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"

	_ "embed"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/lexicon"
)

// A setup often tells how much room it wants on one line and how much there is
// on another, and never that the first is more.

//go:embed amounts.txt
var amountsText string

// roomWords are the words of amounts.txt, in small letters: for what is wanted,
// for what is there, and for what is no room on a disk.
var roomWords = sync.OnceValue(func() map[string][]string {
	all := map[string][]string{}
	for line := range strings.Lines(amountsText) {
		kind, words, ok := strings.Cut(strings.TrimSpace(line), " ")
		if !ok || kind == "#" {
			continue
		}
		for w := range strings.SplitSeq(words, "|") {
			all[kind] = append(all[kind], strings.TrimSpace(w))
		}
	}
	return all
})

// ofRoom are those of which a line has one that is read.
var ofRoom = sync.OnceValue(func() *pieces.Set { return pieces.New(slices.Concat(roomWords()["wanted"], roomWords()["free"])) })

// amountIn is a number of bytes with its unit: "48 211 MB", "12.5 GB",
// "48,211,233 bytes".
var amountIn = lazy.MustCompile(`(?:^|[^\d.,])(\d{1,3}(?:[ ,.'’\x{a0}\x{202f}]\d{3})+|\d+(?:[.,]\d{1,3})?)\s?([kmgt]i?b|[kmgt]o|[кмгт]б|bytes?|octets|байт)(?:[^\pL]|$)`)

const (
	roomBefore = 36 // bytes before an amount in which the word stands that says what it is of
	roomAfter  = 18 // and behind it
	mostRooms  = 60 // amounts of a run that are looked at; a log with more measures all the time
)

// A room is an amount that a line names.
type room struct {
	bytes float64
	text  string
	line  int    // by its place in the run's lines
	drive string // "d:" where it says of which; empty where it does not
}

// rooms finds what is wanted and what is free, and makes a clue of each that is
// wanted and more than all that is free.
func (r *Run) rooms() {
	var wanted, free []room
	for i := range r.lines {
		l := &r.lines[i]
		if l.noise || !strings.ContainsAny(l.lower, "0123456789") {
			continue
		}
		w, f := roomsIn(l.lower, i)
		wanted, free = append(wanted, w...), append(free, f...)
		if len(wanted)+len(free) > mostRooms {
			return
		}
	}
	// What is wanted is set against what is free on the same drive where drives
	// are named. More room later in the run takes it back.
	for _, w := range wanted {
		here := free
		if of := onDrive(free, w.drive); w.drive != "" && len(of) > 0 {
			here = of
		}
		if len(here) == 0 || slices.ContainsFunc(here, func(f room) bool { return f.bytes >= w.bytes || r.lines[f.line].pos > r.end }) {
			continue
		}
		f := here[len(here)-1]
		l := &r.lines[f.line]
		if w.line == f.line { // it is room that is wanted here, and no version of something
			l.clues = slices.DeleteFunc(l.clues, func(c Clue) bool {
				return (c.Class == "condition" || c.Class == "prerequisite") && c.Strength == lexicon.Root && c.Code == nil
			})
		}
		where := ""
		if w.line != f.line {
			where = fmt.Sprintf(" (line %d)", r.lines[w.line].Line)
		}
		l.clues = append(l.clues, Clue{Class: "space", Strength: lexicon.Root, Compared: true, Name: strings.ToUpper(cmp.Or(w.drive, f.drive)),
			What: fmt.Sprintf("%s is wanted%s, and %s is free", strings.ToUpper(w.text), where, strings.ToUpper(f.text))})
		l.linked = max(l.linked, linkedName)
		l.rated = max(l.rated, KindWeight[story.KindWarning])
		return
	}
}

// onDrive are the amounts of one drive.
func onDrive(all []room, drive string) (of []room) {
	for _, x := range all {
		if x.drive == drive {
			of = append(of, x)
		}
	}
	return of
}

var (
	// driveBefore is the drive that an amount is of, before it in its clause:
	// "required on d: 9210 mb"; driveAfter the one behind it.
	driveBefore = lazy.MustCompile(`(?:^|[ ("'=])([a-z]:)\\?[)"']?[ :=(]{0,3}[^,;a-z\d]{0,3}(?:\pL+[ :=]{1,3}){0,3}$`)
	driveAfter  = lazy.MustCompile(`^ ?(?:free |available |frei |libres? |disponibles? )?(?:on|in|at|of|for|auf|sur|en|su|em|op|na|på|в|на) (?:the )?(?:drive |volume |disk |laufwerk |lecteur |unidad )?["'(]?([a-z]:)`)
)

// driveOf is the drive of an amount by what stands before and behind it, in
// small letters; empty where neither tells.
func driveOf(before, after string) string {
	if at := strings.LastIndexAny(before, ",;"); at >= 0 {
		before = before[at+1:]
	}
	if f := driveBefore.FindStringSubmatch(before); f != nil {
		return f[1]
	}
	if f := driveAfter.FindStringSubmatch(after); f != nil {
		return f[1]
	}
	return ""
}

// roomsIn finds the amounts of a line, in small letters, that are wanted and
// that are free.
func roomsIn(lower string, line int) (wanted, free []room) {
	words := roomWords()
	if !ofRoom().Any(lower) {
		return nil, nil
	}
	for _, m := range amountIn.FindAllStringSubmatchIndex(lower, 6) {
		before, after := lower[max(0, m[2]-roomBefore):m[2]], lower[m[5]:min(len(lower), m[5]+roomAfter)]
		for _, mark := range []string{", ", "、", "，", ";"} { // what follows is of another amount
			after, _, _ = strings.Cut(after, mark)
		}
		if near(before, after, words["other"]) < len(lower) {
			continue
		}
		n, ok := bytesOf(lower[m[2]:m[3]], lower[m[4]:m[5]])
		if !ok {
			continue
		}
		x := room{n, lower[m[2]:m[5]], line, driveOf(before, after)}
		switch {
		// Right before the number stands what it is, in most languages; else
		// the nearer of the two words decides.
		case endsWith(before, words["least"]):
			wanted = append(wanted, x)
			continue
		case endsWith(before, words["only"]):
			free = append(free, x)
			continue
		}
		switch w, f := near(before, after, words["wanted"]), near(before, after, words["free"]); {
		case w < f, w == f && w < len(lower): // "need 2340 MB free"
			wanted = append(wanted, x)
		case f < w:
			free = append(free, x)
		}
	}
	return wanted, free
}

// endsWith says whether a text ends with one of some words.
func endsWith(text string, words []string) bool {
	text = strings.TrimRight(text, " :=")
	return slices.ContainsFunc(words, func(w string) bool {
		return strings.HasSuffix(text, w) && pieces.Begins(text, len(text)-len(w))
	})
}

// near is how far from an amount the nearest of some words stands; far more
// than any line is long when none does.
func near(before, after string, words []string) int {
	best := 1 << 20
	for _, w := range words {
		if at := strings.LastIndex(before, w); at >= 0 {
			best = min(best, len(before)-at-len(w))
		}
		if at := strings.Index(after, w); at >= 0 {
			best = min(best, at)
		}
	}
	return best
}

// bytesOf reads an amount. Marks before three digits part thousands, but in
// gigabytes and terabytes, of which nobody has thousands.
func bytesOf(number, unit string) (float64, bool) {
	shift := 1.0
	k := strings.IndexRune("kmgt", latin(unit))
	if k >= 0 && len(unit) < len("byte") {
		for range k + 1 {
			shift *= 1024
		}
	}
	number = strings.NewReplacer(" ", "", "'", "", "’", "", "\u00a0", "", "\u202f", "").Replace(number)
	if at := strings.LastIndexAny(number, ".,"); at >= 0 && (len(number)-at-1 != 3 || k >= 2) {
		number = strings.NewReplacer(".", "", ",", "").Replace(number[:at]) + "." + number[at+1:]
	} else {
		number = strings.NewReplacer(".", "", ",", "").Replace(number)
	}
	n, err := strconv.ParseFloat(number, 64)
	return n * shift, err == nil
}
