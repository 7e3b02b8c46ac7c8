// Package names finds the things that a line of a log speaks of: files and
// folders, registry keys, hosts, services, programs, and other words that are
// names. Each is taken whole — with its blanks, without quotation marks,
// doubled backslashes or the sentence's full stop — and never a word of the
// sentence.
package names

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/lazy"
)

// A Kind is what sort of thing a name names.
type Kind uint8

// The kinds. Unsure is of words that are names of something: of a table, a
// function, a step.
const (
	Unsure Kind = iota
	Path        // of a file or folder, from its drive or share on
	File        // a file's name alone
	Drive       // a drive's letter with a colon
	Key         // of the registry
	Host        // with its port, where one is given
	URL
	Service
	Account
	Function // of a program: what is called, not what it is about
	Package  // the full name of an app package
	Option   // of a command: /silent, --site
)

// A Name is one thing that is named.
type Name struct {
	Kind Kind
	Text string // as the log writes it, without what stands around it
	At   int    // the byte at which it begins
}

const (
	maxLine  = 2000 // bytes of a line that are looked at
	maxNames = 24   // of one line; a list of a hundred files names none in particular
	maxName  = 400  // bytes; a longest path of the extended form is cut here
)

// In lists what a line names, in the order of the line.
func In(text string) []Name {
	if len(text) > maxLine {
		text = text[:maxLine]
	}
	r := reader{text: text}
	for r.at < len(text) && len(r.found) < maxNames {
		r.next()
	}
	return r.found
}

// A reader goes through a line once.
type reader struct {
	text  string
	at    int
	found []Name
}

// add keeps a name that was found, without the marks around it. Too long ones
// are none, and rights of accounts look like names of things but are none.
func (r *reader) add(k Kind, text string, at int) {
	text, _, _ = strings.Cut(text, "\n")                                    // a name ends with its line
	if _, name, titled := strings.Cut(text, " ("); k == Service && titled { // its title, and its name in brackets
		if word := strings.TrimRight(name, ")'\" "); word != "" && !strings.ContainsAny(word, " ()") {
			text = word
		}
	}
	if text = withoutMarks(text); text == "" || len(text) > maxName ||
		strings.HasPrefix(text, "Se") && (strings.HasSuffix(text, "Right") || strings.HasSuffix(text, "Privilege")) { // of an account, no thing
		return
	}
	r.found = append(r.found, Name{k, text, at})
}

// withoutMarks is a name without the sentence's marks behind it. A bracket that
// the name itself opened is its own.
func withoutMarks(text string) string {
	for {
		trimmed := strings.TrimRight(text, ".,;:!?'\"`»”’ \t")
		if trimmed == "" {
			return ""
		}
		open, closing := "", trimmed[len(trimmed)-1:]
		switch closing {
		case ")":
			open = "("
		case "]":
			open = "["
		case "}":
			open = "{"
		}
		if open == "" || strings.Count(trimmed, open) >= strings.Count(trimmed, closing) {
			return trimmed
		}
		text = trimmed[:len(trimmed)-1]
	}
}

// next takes what begins at r.at, or goes on by a letter or a word.
func (r *reader) next() {
	rest := r.text[r.at:]
	c := rest[0]
	before, _ := utf8.DecodeLastRuneInString(r.text[:r.at])
	fresh := r.at == 0 || !unicode.IsLetter(before) && !unicode.IsDigit(before) && before != '_'
	switch {
	case c == '\\' && strings.HasPrefix(rest, `\\`) && fresh:
		r.path(2)
	case fresh && letter(c) && len(rest) > 2 && rest[1] == ':' && (rest[2] == '\\' || rest[2] == '/' && !strings.HasPrefix(rest[2:], "//")):
		r.path(3)
	case fresh && c >= 'A' && c <= 'Z' && driveRelative.MatchString(rest[:min(len(rest), maxName)]): // somebody forgot the stroke
		r.path(2)
	case fresh && letter(c) && len(rest) > 1 && rest[1] == ':' &&
		(len(rest) == 2 || strings.ContainsRune(" ,;.)'\"", rune(rest[2]))) && c >= 'A' && c <= 'Z':
		r.found = append(r.found, Name{Drive, rest[:2], r.at})
		r.at += 2
	case fresh && (c == 'H' || c == 'h') && registry(rest) > 0:
		r.key(registry(rest))
	case fresh && c == '\\' && !strings.ContainsRune(`\:.%`, before) && underRoot(rest[1:]) > 0: // below a handle, as the engine has it
		r.key(1 + underRoot(rest[1:]))
	case fresh && (c == 'S' || c == 's') && r.text[max(r.at-1, 0)] != '\\' && underRoot(rest) > 0:
		r.key(underRoot(rest))
	case fresh && (c == 'f' || c == 'F') && fileURL(rest) > 0:
		r.address(fileURL(rest))
	case c == '$' && powerPath(rest) > 0:
		r.path(powerPath(rest))
	case fresh && (c == 'h' || c == 'H' || c == 'f' || c == 'w') && scheme(rest) > 0:
		r.url(scheme(rest))
	case wordAt(rest) == 0 && (r.quotedFile() || r.quotedName()):
	case (c == '/' || c == '-') && option(r.text, r.at) > 0:
		n := option(r.text, r.at)
		r.add(Option, rest[:n], r.at)
		r.at += n
	case c == '%' && envPath(rest) > 0:
		r.path(envPath(rest))
	case wordAt(rest) > 0:
		r.word()
	default:
		_, n := utf8.DecodeRuneInString(rest)
		r.at += n
	}
}

// driveRelative begins a path that is relative to where its drive stands.
var driveRelative = lazy.MustCompile(`^[A-Z]:\w[\w .-]*\\\w`)

// letter says whether a byte is an ASCII letter of either case.
func letter(c byte) bool { return c|0x20 >= 'a' && c|0x20 <= 'z' }

// digit says whether a byte is a figure.
func digit(c byte) bool { return c >= '0' && c <= '9' }

// option is the length of an option of a command at a place, 0 when none stands
// there: a stroke or dashes behind a blank or a mark, and a word.
func option(text string, at int) int {
	if at > 0 && strings.IndexByte(" \t\"'(:[=,", text[at-1]) < 0 {
		return 0
	}
	s := text[at:]
	n := 1
	if strings.HasPrefix(s, "--") {
		n = 2
	}
	if n >= len(s) || !letter(s[n]) {
		return 0
	}
	for n < len(s) && (letter(s[n]) || digit(s[n]) || s[n] == '-' || s[n] == '_') {
		n++
	}
	if n < len(s) && strings.IndexByte(`/\.`, s[n]) >= 0 && n+1 < len(s) && wordByte(s[n+1]) { // a path
		return 0
	}
	return n
}

// wordAt is the length of the letter, digit or underscore at the start of s, 0
// when something else stands there.
func wordAt(s string) int {
	c, n := utf8.DecodeRuneInString(s)
	if unicode.IsLetter(c) || unicode.IsDigit(c) || c == '_' || unicode.Is(unicode.Mn, c) {
		return n
	}
	return 0
}

// wordByte says whether a byte can stand within a name; those beyond ASCII are
// parts of letters.
func wordByte(c byte) bool { return letter(c) || digit(c) || c == '_' || c >= utf8.RuneSelf }

// closers are the marks that close what others open.
var closers = map[rune]string{'"': `"`, '\'': `'`, '`': "`'", '«': "»", '„': "“”\"", '“': "”\"", '‘': "’", '‚': "‘",
	'「': "」", '『': "』",
	'<': ">", '(': ")", '[': "]", '{': "}"}

// quotedTo is where the quotation that opens right before at ends; -1 when none
// opens there, or it does not close.
func (r *reader) quotedTo(at int) int {
	before, n := utf8.DecodeLastRuneInString(r.text[:at])
	close, ok := closers[before]
	if n == 0 || !ok {
		return -1
	}
	for end := at; ; end++ {
		next := strings.IndexAny(r.text[end:], close)
		if end += next; next < 0 || end == at {
			return -1
		}
		if !r.apostrophe(end) && !(before == '(' && copyNumber(r.text[max(at, strings.LastIndexByte(r.text[:end], '(')):]) > 0) {
			return end
		}
	}
}

// apostrophe says whether the mark at i is one of a person's name, as in
// o'hara.
func (r *reader) apostrophe(i int) bool {
	return r.text[i] == '\'' && i > 0 && i+1 < len(r.text) && wordByte(r.text[i-1]) && wordByte(r.text[i+1])
}
