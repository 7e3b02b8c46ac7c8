// This file compares what a machine is with the choices that a setup allows,
// where a log tells both in words.

package evidence

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/lexicon"
)

// "Edition: Home", and some lines on "Editions that will do: Pro, Enterprise":
// no line says that the two do not fit.

// askedKinds are the things of which a setup allows some kinds, in small letters,
// and the class of the cause where it is another one.
var askedKinds = map[string]string{"edition": "condition", "sku": "condition", "language": "condition", "locale": "condition", "region": "condition", "country": "condition",
	"channel": "condition", "role": "condition", "product type": "condition", "os": "condition", "system": "condition", "operating system": "condition", "os type": "condition",
	"installation type": "condition", "licence": "condition", "license": "condition", "ring": "condition", "domain": "condition",
	"architecture": "platform", "arch": "platform", "cpu": "platform", "processor": "platform", "platform": "platform", "bitness": "platform"}

const (
	wishWord = `supported|allowed|accepted|permitted|valid|possible|required|expected|wanted|suitable|known|unterstützte?|erlaubte?|zulässige?|permitid[oa]s?|admitid[oa]s?|ammess[ei]|permess[ei]|autorisée?s?|toegestane?`
	// mostChoices is how many kinds a list has at most, and longestChoice how
	// many bytes each: longer ones are sentences.
	mostChoices, longestChoice = 20, 30
)

var (
	// choice is a thing and the kinds of it that are allowed.
	choice = lazy.MustCompile(`^\W*(?:(` + wishWord + `) )?([\pL ]{2,24}?)(?: (` + wishWord + `|that will do|that would do|we support|we allow|may be|must be|has to be|should be|must be one of|one of))?(?: is| are)?\s?[:=]?\s(?:one of:? )?([\pL\d].{2,200})$`)
	// kindOf is a thing and which it is.
	kindOf = lazy.MustCompile(`^\W*(?:this |the |found |detected |current |actual |our |my )?([\pL ]{2,24}?)(?: found| detected| is| here)?\s?(?:[:=]\s?|\.{3,}\s?)([\pL\d][\pL\d ._-]{0,30}?)[.\s]*$`)
	// choiceEnd parts the kinds of a list.
	choiceEnd = lazy.MustCompile(`\s*(?:[,;|/]| or | oder | ou | o | and | und | et | y )\s*(?:or |and |oder |und )?`)
)

// choices finds the lists of allowed kinds that what the machine is told to be
// is not in.
func (r *Run) choices() {
	if r.a.Success != nil && *r.a.Success {
		return
	}
	is := map[string]int{} // the line that tells a thing's kind
	for i := range r.lines {
		l := &r.lines[i]
		if len(l.lower) > longestRow || l.Kind <= story.KindDebug || l.noise {
			continue
		}
		if m := kindOf.FindStringSubmatch(l.lower); m != nil && askedKinds[thingOf(m[1])] != "" && !strings.ContainsAny(m[2], ",;|") {
			if _, told := is[thingOf(m[1])]; !told {
				is[thingOf(m[1])] = i
			}
		}
	}
	if len(is) == 0 {
		return
	}
	for i := range r.lines {
		l := &r.lines[i]
		if l.noise || len(l.lower) > 2*longestRow {
			continue
		}
		m := choice.FindStringSubmatch(l.lower)
		if m == nil || m[1]+m[3] == "" {
			continue
		}
		thing := thingOf(m[2])
		at, told := is[thing]
		if !told || at == i || r.end-l.pos > longestList {
			continue
		}
		kind := strings.TrimSpace(kindOf.FindStringSubmatch(r.lines[at].lower)[2])
		allowed := choiceEnd.Compiled().Split(strings.TrimRight(m[4], " .!"), mostChoices)
		tooLong := slices.ContainsFunc(allowed, func(c string) bool { return len(c) > longestChoice })
		fits := slices.ContainsFunc(allowed, func(c string) bool { return c == "" || strings.Contains(kind, c) || strings.Contains(c, kind) })
		if tooLong || fits {
			continue
		}
		l.clues = append(l.clues, Clue{Class: askedKinds[thing], Strength: lexicon.Root, Compared: true, Name: thing,
			What: fmt.Sprintf("%s, and it is %s (line %d)", strings.TrimSpace(m[4]), kind, r.lines[at].Line)})
		l.fails = true
		l.rated = max(l.rated, KindWeight[story.KindError])
	}
}

// thingOf is the name of a thing for one of it.
func thingOf(name string) string {
	name = strings.TrimSpace(name)
	if one, many := strings.CutSuffix(name, "s"); many && askedKinds[one] != "" {
		return one
	}
	return name
}
