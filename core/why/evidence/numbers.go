// This file finds the numbers in a line that are codes. Most numbers are none:
// sizes, counts, versions, times.

package evidence

import (
	_ "embed"
	"strconv"
	"strings"
	"sync"
	"unicode/utf8"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

// A NumberKind says what makes a number in a text a code.
type NumberKind uint8

// The kinds; NoCode is of sizes, counts, ports, versions and the like.
const (
	NoCode  NumberKind = iota
	System             // the OS's own: a system error, an HRESULT, an NTSTATUS
	AnError            // the OS's, or the program's own
	AnExit             // a program ended with it
	Errno              // the C library's
	HTTP               // a web server's answer
	Alone              // at the end of a call or sentence, with no word before it
	weak               // Alone where nothing follows: "came back with 1069"
)

var kindNames = map[string]NumberKind{"system": System, "error": AnError, "exit": AnExit, "errno": Errno, "http": HTTP, "none": NoCode, "weak": weak}

// A Number is a number that the text makes a code.
type Number struct {
	Value int64 // as it is written; hexadecimal ones without a sign
	Hex   bool
	Kind  NumberKind
	At    int // the byte at which it begins
}

//go:embed words.txt
var wordsText string

// codeWords are the words of words.txt.
var codeWords = sync.OnceValue(func() map[string]NumberKind {
	words := map[string]NumberKind{}
	for line := range strings.Lines(wordsText) {
		kind, rest, _ := strings.Cut(strings.TrimSpace(line), " ")
		k, known := kindNames[kind]
		if !known {
			continue
		}
		for w := range strings.SplitSeq(rest, "|") {
			w = strings.TrimSpace(w)
			for _, between := range []string{" ", "", "_", "-"} { // error code, errorcode, error_code, error-code
				if form := strings.ReplaceAll(w, " ", between); words[form] == NoCode {
					words[form] = k
				}
			}
		}
	}
	return words
})

const (
	mostNumbers   = 12  // of one line that are looked at
	mostWords     = 3   // before a number: "exited with code"
	longestBefore = 48  // bytes before a number in which its words stand
	longestCall   = 240 // bytes of a call before what it gave back: a path and three numbers
)

// Numbers finds the codes in a line, given in small letters: as numbers, then
// those that it gives by their names.
func Numbers(lower string) (found []Number) {
	seen := 0
	for i := 0; i < len(lower) && seen < mostNumbers; {
		c := lower[i]
		if c < '0' || c > '9' {
			i++
			continue
		}
		n, end, ok := numberAt(lower, i)
		if ok {
			seen++
			if n.Kind = n.kindBy(lower, end); n.Kind != NoCode {
				found = append(found, n)
			}
		}
		i = max(end, i+1)
	}
	return append(found, constantsIn(lower)...)
}

// numberAt reads a whole number at i, and where it ends; not ok when it is part
// of a word, a version, a time, a path or a share.
func numberAt(s string, i int) (n Number, end int, ok bool) {
	end = i
	for end < len(s) && (s[end] >= '0' && s[end] <= '9' || s[end] >= 'a' && s[end] <= 'z' || s[end] == '_') {
		end++
	}
	word := s[i:end]
	n.At = i
	before := byte(' ')
	if i > 0 {
		before = s[i-1]
	}
	negative := before == '-' && (i == 1 || strings.IndexByte(" =:(\t[", s[i-2]) >= 0)
	// What stands right before makes it a part of a name, path, version or
	// range.
	if before == '.' || before >= 'a' && before <= 'z' || before == '_' || before == '\\' || before == '/' &&
		!strings.HasPrefix(word, "0x") || before == '-' && !negative && !(marked(s[:i-1]) && (end == len(s) || strings.IndexByte(" ", s[end]) < 0)) ||
		before == '#' && !marked(s[:i-1]) || before >= utf8.RuneSelf && !pieces.Begins(s, i) && s[i-1] != 0xbf && !closesMark(s[:i]) {
		return n, end, false
	}
	// What stands right behind makes it a version, a time, a date, a share or a
	// part of a path.
	if end < len(s) {
		switch next := s[end]; {
		case next == '.' && end+1 < len(s) && s[end+1] >= '0' && s[end+1] <= '9', next == ':' && end+1 < len(s) &&
			s[end+1] >= '0' && s[end+1] <= '9',
			next == '%', next == '/' && end+1 < len(s) && s[end+1] >= '0' && s[end+1] <= '9', next == '-' &&
				end+1 < len(s) && s[end+1] >= '0' && s[end+1] <= '9', next == '\\':
			for end < len(s) && strings.IndexByte("0123456789.:-/%\\", s[end]) >= 0 {
				end++
			}
			return n, end, false
		}
	}
	digits, base := word, 10
	switch {
	case strings.HasPrefix(word, "0x"):
		digits, base, n.Hex = word[2:], 16, true
	case strings.HasSuffix(word, "l") && len(word) > 1: // a number as a C program writes it
		digits = word[:len(word)-1]
	case len(word) == 8 && bareStatus(word):
		base, n.Hex = 16, true
	}
	v, err := strconv.ParseUint(digits, base, 32)
	if err != nil {
		return n, end, false
	}
	if n.Value = int64(v); negative {
		n.Value = -n.Value
	}
	return n, end, true
}

// marked says whether a text ends with a word that makes a number behind a mark
// a code: error #5, err-112.
func marked(s string) bool {
	s = strings.TrimRight(s, " ")
	word := s[strings.LastIndexAny(s, " (['\"[:")+1:]
	k := codeWords()[word]
	return k == System || k == AnError
}

// closesMark says whether a text ends with a mark of scripts without blanks: a
// colon or a bracket of full width.
func closesMark(s string) bool {
	return strings.HasSuffix(s, "：") || strings.HasSuffix(s, "（") || strings.HasSuffix(s, "＝")
}

// bareStatus says whether eight letters are an HRESULT or NTSTATUS of a
// failure, written without a mark: 80070005.
func bareStatus(w string) bool {
	for _, head := range []string{"8007", "800f", "8024", "8018", "80073", "80004", "80040", "800b", "8009", "8013", "c000"} {
		if strings.HasPrefix(w, head) {
			return true
		}
	}
	return false
}

// leastMeaning is how many bytes the OS's words for an error behind its number
// have at least.
const leastMeaning = 16

// leastRefusal is the least HTTP status of a request that failed (RFC 9110,
// 15.5).
const leastRefusal = 400

// leastStatus is the least HRESULT or NTSTATUS of a failure.
const leastStatus = 0x80000000

// kindBy tells what the words before a number, or its place, make of it.
func (n Number) kindBy(s string, end int) NumberKind {
	if n.Hex && n.Value >= leastStatus || n.Value < -2000000000 {
		return System
	}
	if _, known := ratings()["uv"][int(n.Value)]; known { // nothing else is counted downwards from there
		return Errno
	}
	if phrase, is := reasons[n.Value]; is && strings.HasPrefix(strings.TrimLeft(s[end:], " -:("), phrase) {
		return HTTP
	}
	from := max(0, n.At-longestBefore)
	before := s[from:n.At]
	before = before[strings.LastIndexByte(before, '\n')+1:] // a record's further fields stand on lines of their own
	trimmed := strings.TrimRight(before, " \t:=(\"'`-[：（＝#>")
	marks := before[len(trimmed):]
	if strings.HasSuffix(marks, "> ") && apiCall.MatchString(s[max(0, n.At-longestCall):n.At-len(marks)]) {
		return System // RegSetValueEx … Version -> 5: the last word is the call's own
	}
	behind := strings.TrimLeft(s[end:], " ).]\"',;")
	atEnd := behind == "" || strings.HasPrefix(s[end:], ")") && strings.TrimLeft(behind, ".") == "" ||
		strings.HasPrefix(strings.TrimLeft(s[end:], " ).]"), "\n") // the fields of a record stand below
	if atEnd && strings.HasSuffix(trimmed, ",") && failedBefore.MatchString(trimmed) { // "rename a -> b failed, 32"
		return Alone
	}
	if strings.HasSuffix(trimmed, "...") && atEnd && n.Value > 1 && atPlace.MatchString(trimmed) { // mount \\srv\pkg ... 53
		return Alone
	}
	if _, known := ratings()["http"][int(n.Value)]; known && answered.MatchString(trimmed) && hostIn(s) {
		return HTTP // cdn.kelp.example returned 503
	}
	if gaveBack.MatchString(trimmed) && n.Value > 1 && atEnd && apiCall.MatchString(s[max(0, n.At-longestCall):n.At-len(marks)]) {
		return System // CreateDirectory("S:\\Tide") returned 3
	}
	if strings.HasSuffix(trimmed, " with") && engineEnded.MatchString(s[max(0, n.At-longestCall):n.At-len(marks)]) {
		return AnExit
	}
	if !n.Hex && n.Value > 1 && n.Value < leastGivenBack*2 && programGave.MatchString(trimmed) {
		return AnExit // custom action RegisterTide returned 17: its own number, which only looks like the OS's
	}
	// The words, from the longest that is known to the last alone.
	for start := wordStart(trimmed, mostWords); start < len(trimmed); start = nextWord(trimmed, start) {
		if k, known := codeWords()[strings.Trim(trimmed[start:], " .")]; known {
			switch asHTTP := n.Value >= leastRefusal && n.Value < 600; {
			case k == AnError && asHTTP && (strings.HasSuffix(trimmed, "status") || ofURL(s)):
				return HTTP
			case k == weak, k == HTTP && n.Value >= 600:
				return n.givenBack(atEnd && strings.TrimSpace(before[:start]) == "") // of what the line before did: "got 1069"
			}
			return k
		}
	}
	if k, known := unspaced(trimmed); known {
		return k
	}
	if k, known := codeWords()[strings.TrimLeft(trimmed[wordStart(trimmed, 1):], typeMarks)]; known && (k == System || k == AnError) {
		return k
	}
	call := strings.HasSuffix(trimmed, ")") && strings.ContainsAny(marks, ":=>")
	arrow := strings.Contains(marks, ">")
	switch {
	case strings.ContainsAny(marks, ":=>") && strings.HasSuffix(marks, " ") &&
		apiCall.MatchString(s[max(0, n.At-longestCall):n.At-len(marks)]):
		return System // RegCreateKeyEx Providers\\Quay -> 5
	case strings.HasSuffix(marks, "(") && atEnd: // … denied. (5)
		return Alone
	case strings.HasSuffix(marks, "(") && strings.HasPrefix(s[end:], ": ") && strings.IndexByte(s[end:], ')') > leastMeaning && n.Value > 1:
		return Alone // … (123: the name of the file is wrong)
	case strings.ContainsAny(marks, ":=>") && (atEnd || call || arrow) && len(marks) > 0 && marks[len(marks)-1] == ' ':
		return Alone // WriteFile(x): 112; CopyFile -> 3 The system …
	}
	return NoCode
}

// ofURL says whether a line, in small letters, names what a web server has.
func ofURL(s string) bool { return strings.Contains(s, "https://") || strings.Contains(s, "http://") }

// typeMarks are what programs write before the name of a number to tell its
// type: dwError, nErr, lResult.
const typeMarks = "dwnliu"

// leastGivenBack is the least number behind a word like "got" that is no count:
// the OS's errors below are told with a word for an error.
const leastGivenBack = 100

// givenBack is what a number behind such a word is.
func (n Number) givenBack(atEnd bool) NumberKind {
	if atEnd && n.Value >= leastGivenBack {
		return Alone
	}
	return NoCode
}

// programGave ends what stands before the number that a program, a script or a
// custom action gave back, in small letters. Small ones are its own.
var programGave = lazy.MustCompile(`(?:\b(?:custom action|script|command|program|process|helper|tool|hook|plug-?in|child|subprocess|executable|batch file|skript|befehl|programm|commande|programme|comando|programma)\b|\.(?:exe|com|cmd|bat|ps1|vbs|vbe|js|wsf|py|pl|sh)\b)` +
	`[^;]{0,60} (?:returned|returns|gave(?: back)?|ended with|finished with|terminated with|came back with|(?:exited|ended|finished|terminated)(?: with)?(?: a| an)? (?:exit )?status|liefert(?:e)?|endete mit|beendet mit|a renvoyé|devolvió|ha restituito)$`)

// engineEnded ends what stands before the number with which the engine ended,
// in small letters: what else ends so has numbers of its own.
var engineEnded = lazy.MustCompile(`(?:\bmsiexec\b|\.ms[ip]\b)[^;]*? (?:ended|ends|finished|finishes|terminated|came back|returned|failed) with$`)

// answered ends what stands before the number with which a server answers.
var answered = lazy.MustCompile(`\b(?:returned|returns|answered|answers|responded|responds|got|gave|gives|received|replied|replies|antwortet|liefert|renvoie|répond|responde|devuelve|risponde|restituisce|retorna|antwoordt|zwraca|vrací|svarade)(?: with| mit| avec| con| com| met)?(?: a| an)?$`)

// gaveBack ends what stands before the number that a call gave back, in small
// letters.
var gaveBack = lazy.MustCompile(`[\s)]+(?:returned|returns|gave(?: back)?|yielded|came back with|ended with|failed with|lieferte|ergab|renvoie|a renvoyé|devolvió|ha restituito|retornou)(?: error)?$`)

// failedBefore ends what stands before a number that is set off: that something
// failed.
var failedBefore = lazy.MustCompile(`(?:failed|refused|denied|not possible|fehlgeschlagen|gescheitert|verweigert|échoué|échec|refusé|falló|denegado|fallit[oa]|negato|falhou|negado|mislukt|geweigerd|odmowa|selhal[oa]?|misslyckades|başarısız|не удалось|отказано),$`)

// reasons are the words with which servers tell a status (RFC 9110, section
// 15), in small letters.
var reasons = map[int64]string{401: "unauthorized", 403: "forbidden", 404: "not found", 407: "proxy authentication", 408: "request timeout",
	410: "gone", 429: "too many", 500: "internal server error", 502: "bad gateway", 503: "service unavailable", 504: "gateway time"}

// atPlace is something done with a file, a folder, a share or a key, behind
// which dots lead to how it went.
var atPlace = lazy.MustCompile(`(?:^|[>|:\])] ?)\W{0,3}\pL[\pL -]{1,24} ["']?(?:\\\\[\w.-]+\\|[a-z]:\\|hk(?:lm|cu|cr|ey_))[^*?]*$`)

// apiCall is a call of the OS's own functions, in small letters: what it gives
// back is the OS's number.
var apiCall = lazy.MustCompile(`\b(?:reg(?:create|open|set|query|delete|load|save)\w+|create(?:file|directory|process|service|mutex|pipe|symboliclink)\w*|(?:open|start|control|delete|query|change)(?:service|scmanager)\w*|` +
	`(?:copy|move|delete|replace|read|write|lock)file\w*|removedirectory\w*|getfileattributes\w*|setfileattributes\w*|shellexecute\w*|loadlibrary\w*|findfirstfile\w*|msi(?:install|configure|open|apply|reinstall)\w+|` +
	`setup(?:di|copy|install)\w+|addprinter\w*|deleteprinter\w*|wnetaddconnection\w*|netuse\w*|logonuser\w*|getdiskfreespace\w*|cert(?:open|add)\w+|(?:set|get)(?:named)?securityinfo\w*|setfilesecurity\w*|setentriesinacl\w*|adjusttokenprivileges\w*|lookupaccount\w*|netuser(?:add|del|getinfo|setinfo)\w*|netlocalgroup\w+|netshareadd\w*|openprocess\w*|terminateprocess\w*|writeprivateprofile\w+|setcurrentdirectory\w*|getvolumeinformation\w*|getfilesize\w*|setfilepointer\w*|internet(?:open|connect|read)\w*|winhttp\w+|co(?:create|get)\w*instance\w*|winverifytrust\w*)\b[^>]*$`)

// unspaced looks for a word of a script without blanks right before a number.
func unspaced(before string) (NumberKind, bool) {
	for _, w := range []string{"終了コード", "エラー", "コード", "失敗", "错误", "代码", "失败", "錯誤", "代碼",
		"退出代码", "退出码",
		"오류", "코드"} {
		if strings.HasSuffix(before, w) {
			return codeWords()[w], true
		}
	}
	return NoCode, false
}

// wordStart is where the last n words of a text begin.
func wordStart(s string, n int) int {
	at := len(s)
	for ; n > 0 && at > 0; n-- {
		for at > 0 && s[at-1] == ' ' {
			at--
		}
		for at > 0 && s[at-1] != ' ' && s[at-1] != ',' && s[at-1] != ';' && s[at-1] != '"' && s[at-1] != '\'' &&
			s[at-1] != '{' && s[at-1] != '(' && s[at-1] != '[' && s[at-1] != '<' {
			at--
		}
	}
	return at
}

// nextWord is where the word after the one at i begins.
func nextWord(s string, i int) int {
	for i < len(s) && s[i] != ' ' && s[i] != ':' && s[i] != '=' {
		i++
	}
	for i < len(s) && (s[i] == ' ' || s[i] == ':' || s[i] == '=') {
		i++
	}
	return i
}
