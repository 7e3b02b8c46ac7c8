package lines

import (
	_ "embed"
	"slices"
	"strconv"
	"strings"
	"sync"

	"hollowkey/core/logs/pieces"
)

//go:embed engine.txt
var engineText string

// engineTexts are the texts of engine.txt, and the set that finds the first part of each.
var engineTexts = sync.OnceValue(func() (t struct {
	numbers []int
	rest    [][]string // what follows the first part, in its order
	set     *pieces.Set
}) {
	var heads []string
	for line := range strings.Lines(engineText) {
		number, rest, ok := strings.Cut(strings.TrimSpace(line), "|")
		n, err := strconv.Atoi(number)
		if !ok || err != nil {
			continue
		}
		for text := range strings.SplitSeq(rest, "|") {
			parts := strings.Split(text, "*")
			heads, t.numbers, t.rest = append(heads, parts[0]), append(t.numbers, n), append(t.rest, parts[1:])
		}
	}
	t.set = pieces.New(heads)
	return t
})

// mostNamed is how many bytes what a text names may have: a path, and what stands around it.
const mostNamed = 600

// The engine's messages have numbers from 1101 on; from 5000 on they are each package's own.
const leastOfEngine, mostOfEngine = 1101, 4999

// OfEngine is the number of the message of the installer engine that a text holds, by the engine's own
// words for it, and its fields, of which the first is that number; 0 when it holds none.
func OfEngine(text string) (number int, fields []string) {
	t := engineTexts()
	for strings.Contains(text, "  ") { // the engine puts two behind each sentence, others one
		text = strings.ReplaceAll(text, "  ", " ")
	}
	low := pieces.Lower(text)
	t.set.Each(low, func(k, at int) bool {
		var named []string
		for _, part := range t.rest[k] {
			end := ending(low[at:min(len(low), at+mostNamed)], part)
			if end < 0 {
				return true
			}
			if len(low) == len(text) { // with another length, the places differ
				named = append(named, strings.Trim(text[at:at+end], `"' `))
			}
			at += end + len(part)
		}
		n := t.numbers[k]
		if n == 0 && len(named) > 0 { // the text names the number itself
			n, _ = strconv.Atoi(named[0])
			named = nil
		}
		if n < leastOfEngine || n > mostOfEngine {
			return true
		}
		number, fields = n, append([]string{strconv.Itoa(n)}, named...)
		return false
	})
	return number, fields
}

// ending is where what is named ends: before what follows in the text, or, at its end, before the
// next sentence.
func ending(rest, part string) int {
	if part != "" {
		return strings.Index(rest, part)
	}
	rest, _, _ = strings.Cut(rest, "\n")
	if i := strings.Index(rest, ". "); i >= 0 {
		return i
	}
	return len(strings.TrimSuffix(rest, "."))
}

// internalMark stands in the text with which the engine tells of an internal message by its number, in most languages that it speaks.
var internalMark = []string{"unexpected error installing this package", "error code is", "unerwarteter fehler aufgetreten", "fehlercode"}

// argumentsMark leads to what that message is about, one thing behind the other.
var argumentsMark = []string{"The arguments are:", "Argumente sind:", "Argumente lauten:", "Les arguments sont", "Los argumentos son:", "Gli argomenti sono:",
	"Os argumentos são:"}

// OfInternal is the number and the fields of one of the engine's internal messages, which it tells in its words for an unexpected error
// and not in a line with the number in front; 0 for any other text.
func OfInternal(text string) (number int, fields []string) {
	low := strings.ToLower(text)
	if !slices.ContainsFunc(internalMark, func(w string) bool { return strings.Contains(low, w) }) {
		return 0, nil
	}
	number, _ = OfEngine(text)
	if number < leastInternal || number > mostInternal {
		return 0, nil
	}
	fields = []string{strconv.Itoa(number)}
	for _, mark := range argumentsMark {
		if _, list, ok := strings.Cut(text, mark); ok {
			for f := range strings.SplitSeq(strings.TrimSpace(list), ", ") {
				fields = append(fields, strings.TrimRight(strings.TrimSpace(f), ","))
			}
			break
		}
	}
	return number, fields
}

// The engine's internal messages. Source: the platform SDK, "Windows Installer Error Messages".
const leastInternal, mostInternal = 2101, 2999
