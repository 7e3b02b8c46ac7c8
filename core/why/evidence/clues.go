// This file has what single words and numbers of a line say of causes. A clue
// is small: lines add them up.

package evidence

import (
	_ "embed"
	"math"
	"slices"
	"strconv"
	"strings"
	"sync"

	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/why/codes"
	"hollowkey/core/why/lexicon"
)

// A Clue is what the words or a number of one line say of a cause.
type Clue struct {
	Class    string
	Strength lexicon.Strength
	What     string // the phrase, or what the number means
	Code     *int   // the number, where one said it
	At       int    // where it stands in the line, in small letters
	OwnCode  bool   // it is a number that may be the program's own
	Call     bool   // it is what a function of the OS gave back
	Guess    bool   // it is no phrase, but a thing and a state
	Compared bool   // What tells of two lines, which do not agree
	Name     string // what it is about, where the clue itself tells
	Kind     string // of cause within its class, where that is known: "clock", "length"
	Quiet    bool   // it counts wherever it stands, when the failure itself says nothing
	Thing    bool   // it names a thing, which is the cause only where the line fails or asks for it
	Wanting  bool   // and the line says that there is none
	Set      int    // where the thing's value begins; 0 where it has none
	Loose    bool   // it is a number that only a failure next to it makes a code
}

//go:embed numbers.txt
var numbersText string

// A rating is what numbers.txt says of a number.
type rating struct {
	class    string
	strength lexicon.Strength
}

// ratings are the numbers of numbers.txt by their kind.
var ratings = sync.OnceValue(func() map[string]map[int]rating {
	all := map[string]map[int]rating{}
	strengths := map[string]lexicon.Strength{"echo": lexicon.Echo, "tells": lexicon.Tells, "root": lexicon.Root}
	for line := range strings.Lines(numbersText) {
		f := strings.Fields(line)
		if len(f) < 4 || f[0] == "#" {
			continue
		}
		if all[f[0]] == nil {
			all[f[0]] = map[int]rating{}
		}
		for _, n := range f[3:] {
			if v, err := strconv.Atoi(n); err == nil {
				all[f[0]][v] = rating{f[1], strengths[f[2]]}
			}
		}
	}
	return all
})

// CluesIn finds what a line, given in small letters, says of causes.
func CluesIn(lower string) (clues []Clue) {
	for _, w := range lexicon.Default().In(lower) {
		c := Clue{Class: w.Class, Strength: w.Strength, What: w.Phrase, At: w.At}
		none := !faulty[w.Class] && pieces.Denied(w.Phrase, lower[w.End:]) || pieces.NoneFound(lower[w.End:])
		switch w.Strength {
		case lexicon.Thing:
			c.Strength, c.Thing, c.Wanting = lexicon.Root, true, none && wanted[w.Class]
			if isSet(lower[w.End:]) {
				c.Set = w.End
			}
		case lexicon.Topic:
			c.Strength, c.Thing = lexicon.Tells, isSet(lower[w.End:])
		}
		if w.Class == "platform" && w.At > 0 && lower[w.At-1] == '(' && ofName.MatchString(lower[w.At:]) { // of a product's name
			continue
		}
		if w.Class == "network" && waitSet.MatchString(lower[w.End:]) { // how long is waited at most, and nothing that was waited for
			continue
		}
		if w.Class == "in-use" && portZero.MatchString(lower) { // nobody has it: it stands for a port that was not set
			continue
		}
		if w.Strength != lexicon.Against && (pieces.Undone(lower[:w.At]) || none && !c.Wanting) {
			continue
		}
		clues = append(clues, c)
	}
	clues = unwrapped(bySystem(lower, clues))
	words := len(clues) > 0
	for _, n := range Numbers(lower) {
		if c, ok := n.clue(); ok {
			c.Call = n.Kind == System && !n.Hex && n.Value > 1
			c.OwnCode = (n.Kind == AnError || n.Kind == AnExit || n.Kind == Alone) && n.Value < LeastEngineExit
			c.Loose = !words && (n.Kind == Alone || n.Kind == AnError)
			clues = append(clues, c)
		}
	}
	return ofWriting(lower, reasoned(clues))
}

// lostServers are the OS's numbers for a share or its server that cannot be
// reached. Source: the platform SDK, "System Error Codes".
var lostServers = map[int]bool{51: true, 53: true, 55: true, 59: true, 64: true, 67: true, 1231: true}

// unknownLogons are the OS's numbers for a name or a password that does not
// hold, and ofNet is how the tool says them that connects shares: of a service
// they are said in other words. Source: as above.
var (
	unknownLogons = map[int]bool{86: true, 1326: true, 1327: true, 1330: true, 1331: true, 1907: true, 1909: true}
	ofNet         = lazy.MustCompile(`\b(?:system error|systemfehler|erreur système|error de sistema|errore di sistema|erro de sistema|systeemfout|błąd systemu|systémová chyba|systemfel|sistem hatası|системная ошибка) \d+\b|システム エラー \d+|시스템 오류 ?\d+|系统错误 ?\d+|系統錯誤 ?\d+`)
)

// writes is a word for making or writing something.
var writes = lazy.MustCompile(`\b(?:creat\w*|mkdir|makedirs|writ\w*|sav\w*|anleg\w*|angelegt|erstell\w*|schreib\w*|création|cré\w*|écri\w*|creaci[oó]n|crea\w*|escri\w*|guard\w*|creazione|scriv\w*|cria\w*|gravar|aanmaken|schrijv\w*|tworz\w*|utworz\w*|zapis\w*|vytv\w*|skapa\w*|skriv\w*)|созда|запис`)

// ofWriting takes a server that is gone for the network's where something is
// written to it: it is no source of what is installed then.
func ofWriting(lower string, clues []Clue) []Clue {
	for i := range clues {
		c := &clues[i]
		if c.Class == "service" && c.Code != nil && unknownLogons[*c.Code] && ofNet.MatchString(lower) {
			c.Class = "source"
		}
		if c.Class == "source" && c.Code != nil && lostServers[*c.Code] && writes.MatchString(lower[:min(len(lower), c.At)]) {
			c.Class = "network"
		}
	}
	return clues
}

// waitSet is a time that is set for what may take long: "timeout for user
// input: 30 s".
var waitSet = lazy.MustCompile(`^ ?(?:for|of|to|on) [\pL ]{2,30}?(?: is)? ?[:=] ?\d+ ?(?:s|sec|seconds?|ms|min|minutes?)?\b`)

// portZero is the port that stands for none.
var portZero = lazy.MustCompile(`\bport[ :=]{1,2}0(?:$|[^\d.])`)

// ofName is the processor that a product's name has in brackets:
// "Redistributable (x64) is required".
var ofName = lazy.MustCompile(`^(?:x64|x86|amd64|arm64|32-bit|64-bit)\)`)

// accessDenied is the OS's number for a right that is lacking. Source: the
// platform SDK, "System Error Codes".
const accessDenied = 5

// reasoned leaves out what could not be made, opened or registered where the
// same line gives the number of a lacking right as the reason: "unable to
// create the directory C:\Tide. Error 5".
func reasoned(clues []Clue) []Clue {
	if !slices.ContainsFunc(clues, func(c Clue) bool { return c.Class == "permission" && c.Code != nil && *c.Code == accessDenied }) {
		return clues
	}
	return slices.DeleteFunc(clues, func(c Clue) bool {
		return (c.Class == "path" || c.Class == "registry" || c.Class == "custom-action") && c.Strength == lexicon.Tells && c.Code == nil && !c.Quiet
	})
}

// faulty are the classes whose phrases find fault with a value, which stands
// behind them in any language.
var faulty = map[string]bool{"command-line": true, "database": true, "corrupt": true, "registry": true}

// isSet says whether what stands behind a name gives it a value: "timeout = 30
// s".
func isSet(behind string) bool {
	behind = strings.TrimLeft(behind, `"' `)
	return behind != "" && (strings.ContainsAny(behind[:1], ":=(") || behind[0] >= '0' && behind[0] <= '9' || strings.HasPrefix(behind, "："))
}

// wanted are the classes whose things a setup needs: "AVX2=0" lacks one. Of the
// others it is well that there is none.
var wanted = map[string]bool{"elevation": true, "platform": true, "prerequisite": true, "service": true}

// unwrapped leaves out the names of exceptions behind which the same line says
// something else: FileNotFoundException: C:\a.ini (Access is denied).
func unwrapped(clues []Clue) []Clue {
	return slices.DeleteFunc(clues, func(c Clue) bool {
		return c.Strength == lexicon.Echo && (strings.HasSuffix(c.What, "exception") || strings.HasSuffix(c.What, "error")) &&
			slices.ContainsFunc(clues, func(o Clue) bool { return o.At > c.At && o.Class != c.Class && o.Strength != lexicon.Against })
	})
}

// programEnded says that a line tells of a program that ended with a number of
// its own.
func programEnded(lower string) (c Clue, ok bool) {
	if !strings.Contains(lower, ".exe") {
		return c, false
	}
	for _, n := range Numbers(lower) {
		if n.Kind == AnExit && n.Value != 0 && n.Value < LeastEngineExit {
			v := int(n.Value)
			return Clue{Class: "custom-action", Strength: lexicon.Echo,
				What: strconv.Itoa(v) + ": a program ended with it", Code: &v, At: n.At}, true
		}
	}
	return c, false
}

// SystemIn finds the system error that a text names as one, and what it speaks
// of.
func SystemIn(lower string) (c Clue, ok bool) {
	for _, n := range Numbers(lower) {
		if n.Kind == System && !n.Hex && n.Value > 1 && n.Value <= math.MaxUint16 {
			return n.clue()
		}
	}
	return c, false
}

// SystemError says what a system error speaks of.
func SystemError(code int) (Clue, bool) { return Number{Value: int64(code), Kind: System}.clue() }

// CodeIn finds the number with which a line says what failed: the OS's first,
// then one that may be the program's own.
func CodeIn(lower string) (code int, ok bool) {
	for _, kinds := range [][]NumberKind{{System, Errno, HTTP}, {AnError, Alone}, {AnExit}} {
		for _, n := range Numbers(lower) {
			if !slices.Contains(kinds, n.Kind) || n.Value == 0 || n.Value == 1 || n.Kind == HTTP && n.Value < leastRefusal {
				continue
			}
			if n.Value >= leastStatus || n.Value < -0xFFFF {
				return exitcode.Unwrap(int64(uint32(n.Value))), true
			}
			if _, known := n.clue(); known || n.Kind == System {
				return int(n.Value), true
			}
		}
	}
	return 0, false
}

// clue says what a number speaks of.
func (n Number) clue() (c Clue, ok bool) {
	c.At = n.At
	set := func(class string, s lexicon.Strength, what string, code int) (Clue, bool) {
		c.Class, c.Strength, c.What, c.Code = class, s, strconv.Itoa(code)+": "+what, &code
		return c, class != "" && class != "-"
	}
	v := n.Value
	switch {
	case n.Kind == HTTP:
		if r, known := ratings()["http"][int(v)]; known {
			return set(r.class, r.strength, "HTTP status "+strconv.FormatInt(v, 10), int(v))
		}
		return c, false
	case v >= leastStatus || v < -0xFFFF: // an HRESULT or NTSTATUS, signed or not
		u := uint32(v)
		e, known := codes.Status(u)
		if !known || u>>28 == 8 {
			e, _ = codes.Result(u)
		}
		code := exitcode.Unwrap(int64(u))
		if code >= 0 && code <= math.MaxUint16 && u>>16 == 0x8007 { // a system error in an HRESULT's clothes
			return n.system(set, code)
		}
		if r, rated := ratings()["status"][int(int32(u))]; rated {
			return set(r.class, r.strength, e.Meaning, code)
		}
		return set(e.Class, lexicon.Tells, e.Meaning, code)
	case v < 0: // the C library of programs that count errors downwards
		if r, known := ratings()["uv"][int(v)]; known {
			return set(r.class, r.strength, "error "+strconv.FormatInt(v, 10), int(v))
		}
		return c, false
	case n.Kind == Errno && v < 200:
		if r, known := ratings()["errno"][int(v)]; known {
			return set(r.class, r.strength, "errno "+strconv.FormatInt(v, 10), int(v))
		}
		return c, false
	case n.Kind == AnExit && v < LeastEngineExit:
		return c, false
	case n.Kind == AnExit && v >= leastService && v <= mostService: // some agents end with what the engine said last
		if e, known := codes.EngineMessage(int(v)); known && e.Class != "" {
			return set(e.Class, lexicon.Tells, e.Meaning, int(v))
		}
	case v <= 1 || v > math.MaxUint16:
		return c, false
	case n.Kind == AnError && v >= leastMessage:
		if e, known := codes.EngineMessage(int(v)); known && e.Class != "" {
			return set(e.Class, lexicon.Tells, e.Meaning, int(v))
		}
	case v >= LeastEngineExit && v < 1700:
		if e, known := codes.ExitCode(int(v)); known && e.Class != "" && v != 1603 {
			return set(e.Class, lexicon.Root, e.Meaning, int(v))
		}
	}
	return n.system(set, int(v))
}

// The messages of the engine on services, files of settings and rights, which
// no system errors that a program would end with share their numbers with.
const leastService, mostService = 1901, 1946

// leastMessage is the least of the engine's internal messages, which no other
// errors share their numbers with.
const leastMessage = 2101

// LeastEngineExit is the least number that only the installer engine and those
// who follow it end with; smaller ones are each program's own.
const LeastEngineExit = 1600

// system says what a system error speaks of.
func (n Number) system(set func(string, lexicon.Strength, string, int) (Clue, bool), code int) (Clue, bool) {
	e, known := codes.SystemError(code)
	if r, rated := ratings()["system"][code]; rated {
		if e.Meaning == "" {
			e.Meaning = "system error " + strconv.Itoa(code)
		}
		return set(r.class, r.strength, e.Meaning, code)
	}
	if !known || e.ByName && n.Kind != System || n.Kind == Alone && code < 100 && code > 40 || n.Kind == AnError && code < 100 && code > 40 {
		return Clue{}, false // what few calls give, and many programs count
	}
	return set(e.Class, lexicon.Tells, e.Meaning, code)
}
