// This file knows the engine's messages by their texts, where the number was
// left out.

package lines

import (
	_ "embed"
	"strconv"
	"strings"
	"sync"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

//go:embed engine.txt
var engineText string

// engineTexts are the texts of engine.txt, and the set that finds the first
// part of each.
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

// mostNamed is how many bytes what a text names may have: a path, and what
// stands around it.
const mostNamed = 600

// The engine's messages have numbers from 1101 on; from 5000 on they are each
// package's own.
const leastOfEngine, mostOfEngine = 1101, 4999

// OfEngine is the number of the message of the installer engine that a text
// holds, by the engine's own words for it, and its fields, of which the first
// is that number; 0 when it holds none.
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

// ending is where what is named ends: before what follows in the text, or, at
// its end, before the next sentence.
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

// The engine tells an internal message in a sentence for an unexpected error of
// a package, with its number and, behind the last colon, what it is about. The
// sentence is known by these words, in the languages that the OS comes in, and
// by its form.
var (
	internalError   = lazy.MustCompile(`(?i)unexpected|unerwartet|inattendue|inesperad|imprevist|onverwacht|nieoczekiwan|neočekávan|oväntat|oväntad|beklenmeyen|непредвиденн|неожиданн|予期しない|예기치|意外|未预期|未預期|非预期`)
	internalPackage = lazy.MustCompile(`(?i)package|paquete|pakket|paket|pacchetto|pacote|pakiet|balíč|пакет|パッケージ|패키지|程序包|安装包|封裝|套件`)
	internalNumber  = lazy.MustCompile(`(?:^|[^\d])(2[1-9]\d\d)(?:[^\d]|$)`)
)

// mostInternal is the engine's last internal message; they begin at 2101, and
// 2999 is none. Source: the platform SDK, "Windows Installer Error Messages".
const mostInternal = 2998

// OfInternal is the number and the fields of one of the engine's internal
// messages, which it tells in its words for an unexpected error and not in a
// line with the number in front; 0 for any other text.
func OfInternal(text string) (number int, fields []string) {
	all := internalNumber.FindAllStringSubmatch(text, 2)
	if len(all) != 1 || !internalError.MatchString(text) || !internalPackage.MatchString(text) {
		return 0, nil
	}
	if number, _ = strconv.Atoi(all[0][1]); number > mostInternal {
		return 0, nil
	}
	fields = []string{all[0][1]}
	behind := text[strings.Index(text, all[0][1])+len(all[0][1]):]
	if _, list, ok := strings.Cut(behind, ":"); ok {
		for f := range strings.SplitSeq(strings.TrimSpace(list), ", ") {
			fields = append(fields, strings.TrimRight(strings.TrimSpace(f), ","))
		}
	}
	return number, fields
}
