// Package names finds the things that a line of a log speaks of: files and
// folders, registry keys, hosts, services, programs, and other words that are
// names. Each is taken whole — with its blanks, without quotation marks, doubled
// backslashes or the sentence's full stop — and never a word of the sentence.
package names

import (
	"slices"
	"strconv"
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

func (r *reader) add(k Kind, text string, at int) {
	if text = strings.TrimRight(text, ".,;:!?)]}'\"`»”’ \t"); text == "" || len(text) > maxName {
		return
	}
	r.found = append(r.found, Name{k, text, at})
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
	case fresh && letter(c) && len(rest) > 1 && rest[1] == ':' &&
		(len(rest) == 2 || strings.ContainsRune(" ,;.)'\"", rune(rest[2]))) && c >= 'A' && c <= 'Z':
		r.found = append(r.found, Name{Drive, rest[:2], r.at})
		r.at += 2
	case fresh && (c == 'H' || c == 'h') && registry(rest) > 0:
		r.key(registry(rest))
	case fresh && (c == 'S' || c == 's') && r.text[max(r.at-1, 0)] != '\\' && underRoot(rest) > 0:
		r.key(underRoot(rest))
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

func letter(c byte) bool { return c|0x20 >= 'a' && c|0x20 <= 'z' }
func digit(c byte) bool  { return c >= '0' && c <= '9' }

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

// wordAt is the length of the letter, digit or underscore at the start of s, 0 when
// something else stands there.
func wordAt(s string) int {
	c, n := utf8.DecodeRuneInString(s)
	if unicode.IsLetter(c) || unicode.IsDigit(c) || c == '_' || unicode.Is(unicode.Mn, c) {
		return n
	}
	return 0
}

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
		if !r.apostrophe(end) {
			return end
		}
	}
}

// apostrophe says whether the mark at i is one of a person's name, as in o'hara.
func (r *reader) apostrophe(i int) bool {
	return r.text[i] == '\'' && i > 0 && i+1 < len(r.text) && wordByte(r.text[i-1]) && wordByte(r.text[i+1])
}

// path takes a path that begins with lead bytes of root.
func (r *reader) path(lead int) {
	start := r.at
	end := r.quotedTo(start)
	if end < 0 {
		end = start + lead + unquoted(r.text[start+lead:])
	} else if cut := strings.IndexAny(r.text[start+lead:end], "<>|*?\"\t"); cut >= 0 {
		end = start + lead + cut
	}
	text := r.text[start:end]
	if tidied := tidy(text); len(tidied) > 2 && !strings.HasPrefix(tidied, `\\.\`) {
		r.add(Path, tidied, start)
	}
	r.at = max(end, start+lead)
}

// tidy takes doubled backslashes, the extended form's head and the last separator
// out of a path.
func tidy(p string) string {
	if strings.Contains(p, `:\\`) || strings.HasPrefix(p, `\\\\`) {
		p = strings.ReplaceAll(p, `\\`, `\`)
	}
	if rest, ok := strings.CutPrefix(p, `\\?\`); ok {
		if p = rest; strings.HasPrefix(rest, `UNC\`) {
			p = `\` + rest[3:]
		}
	}
	if t := strings.TrimRight(p, `\/ `); len(t) > 2 {
		return t
	}
	return p
}

// unquoted is how long a path goes on that no quotation mark ends: over blanks as
// long as a separator follows, and to the end of the file's extension.
func unquoted(s string) int {
	end := len(s)
	for i := 0; i < len(s); i++ {
		c := s[i]
		stop := strings.IndexByte("\"'<>|*?\t,;=()[]{}", c) >= 0 &&
			!(c == '(' && strings.HasPrefix(s[i:], "(x86)")) && !(c == ')' && strings.HasSuffix(s[:i], "(x86"))
		if c == '\'' && i > 0 && i+1 < len(s) && wordByte(s[i-1]) && wordByte(s[i+1]) { // of a person's name
			stop = false
		}
		// marks of full width
		if strings.HasPrefix(s[i:], "：") || strings.HasPrefix(s[i:], "，") || strings.HasPrefix(s[i:], "。") ||
			strings.HasPrefix(s[i:], "、") {
			stop = true
		}
		if c == ':' { // of another drive, a line number, or the sentence
			stop = true
		}
		if stop || strings.HasPrefix(s[i:], " -> ") || strings.HasPrefix(s[i:], " - ") || strings.HasPrefix(s[i:], " = ") {
			end = i
			break
		}
	}
	s = s[:end]
	// The last segment ends at its extension, or at the first blank.
	last := strings.LastIndexAny(s, `\/`) + 1
	tail := s[last:]
	if blank := strings.IndexByte(tail, ' '); blank >= 0 {
		cut := blank
		if n := extensionEnd(tail); n > 0 {
			cut = n
		}
		tail = tail[:cut]
		// What is behind the first blank was of the path only if a separator follows it.
		if last > 0 && overSentence(s[:last]) >= 0 {
			return overSentence(s[:last])
		}
		return last + len(tail)
	}
	if cut := overSentence(s[:last]); cut >= 0 {
		return cut
	}
	return end
}

// overSentence finds where a path ended though a separator comes later: a blank
// behind an extension, as in "C:\a.dll to D:\b" or "C:\a.dll and/or". -1 when
// the whole is one path.
func overSentence(s string) int {
	for i := 0; i < len(s); i++ {
		if s[i] != ' ' {
			continue
		}
		seg := s[strings.LastIndexAny(s[:i], `\/`)+1 : i]
		if dot := strings.LastIndexByte(seg, '.'); dot > 0 && extension(seg[dot+1:]) {
			return i
		}
	}
	return -1
}

// extensionEnd is where the first word with an extension ends in the last segment of
// a path, 0 when none has one.
func extensionEnd(s string) int {
	for i := 0; i < len(s); i++ {
		if s[i] != '.' || i == 0 {
			continue
		}
		n := i + 1
		for n < len(s) && (letter(s[n]) || digit(s[n])) {
			n++
		}
		if extension(s[i+1:n]) && (n == len(s) || s[n] == ' ' || s[n] == '.') {
			return n
		}
	}
	return 0
}

// longestExtension is of files that setups handle: "manifest".
const longestExtension = 8

// extension says whether s can be a file's extension: no number alone, since that
// is a version's or a sentence's.
func extension(s string) bool {
	if len(s) == 0 || len(s) > longestExtension || !letter(s[0]) && !(len(s) > 1 && letter(s[1])) {
		return false
	}
	for i := range len(s) {
		if !letter(s[i]) && !digit(s[i]) && s[i] != '_' {
			return false
		}
	}
	return true
}

// registry is the length of a registry root's name at the start of s with its
// separator, 0 when there is none.
func registry(s string) int {
	for _, root := range []string{"HKEY_LOCAL_MACHINE", "HKEY_CURRENT_USER", "HKEY_CLASSES_ROOT", "HKEY_USERS",
		"HKLM", "HKCU", "HKCR", "HKU"} {
		if len(s) > len(root) && strings.EqualFold(s[:len(root)], root) {
			n := len(root)
			if strings.HasPrefix(s[n:], "64\\") || strings.HasPrefix(s[n:], "32\\") {
				n += 2
			}
			if s[n] == ':' && n+1 < len(s) {
				n++
			}
			if s[n] == '\\' || s[n] == '/' {
				return n + 1
			}
		}
	}
	return 0
}

// underRoot is the length of what a key begins with whose root is left out, as
// programs print keys that they open below a handle: SOFTWARE\Quay. 0 for others; a
// folder may be called Software, a key's two first names are known.
func underRoot(s string) int {
	for _, begin := range []string{`SYSTEM\CurrentControlSet\`, `SYSTEM\ControlSet001\`, `SOFTWARE\WOW6432Node\`,
		`SOFTWARE\Microsoft\`, `SOFTWARE\Policies\`, `SOFTWARE\Classes\`} {
		if len(s) > len(begin) && strings.EqualFold(s[:len(begin)], begin) {
			return len(begin)
		}
	}
	if strings.HasPrefix(s, `SOFTWARE\`) {
		return len(`SOFTWARE\`)
	}
	return 0
}

// key takes a registry key.
func (r *reader) key(lead int) {
	start := r.at
	end := r.quotedTo(start)
	if end < 0 {
		end = start + lead
		for end < len(r.text) && !strings.ContainsRune("\"'<>|*?\t,;=)]", rune(r.text[end])) {
			if r.text[end] == ':' || r.text[end] == ' ' && !strings.Contains(firstWords(r.text[end+1:]), `\`) {
				break
			}
			end++
		}
	}
	text := r.text[start:end]
	if strings.Contains(text, `\\`) {
		text = strings.ReplaceAll(text, `\\`, `\`)
	}
	r.add(Key, strings.TrimRight(text, `\/`), start)
	r.at = max(end, start+lead)
}

// firstWords are the words up to the next mark; a key whose name has a blank goes
// on with a separator in one of them.
func firstWords(s string) string {
	if i := strings.IndexAny(s, "\"'<>|:,;=()["); i >= 0 {
		s = s[:i]
	}
	words := strings.SplitN(s, " ", 4)
	return strings.Join(words[:min(len(words), 3)], " ")
}

func scheme(s string) int {
	for _, p := range []string{"https://", "http://", "ftp://", "wss://"} {
		if len(s) > len(p) && strings.EqualFold(s[:len(p)], p) {
			return len(p)
		}
	}
	return 0
}

// url takes an address, and its host apart.
func (r *reader) url(lead int) {
	start := r.at
	end := start + lead
	for end < len(r.text) && !strings.ContainsRune(" \t\"'<>|\\`»”’)]},", rune(r.text[end])) {
		end++
	}
	r.add(URL, r.text[start:end], start)
	host := r.text[start+lead : end]
	if i := strings.IndexAny(host, "/?#"); i >= 0 {
		host = host[:i]
	}
	if i := strings.LastIndexByte(host, '@'); i >= 0 {
		host = host[i+1:]
	}
	r.add(Host, host, start+lead)
	r.at = end
}

// envPath is the length of a leading %variable%, 0 when there is none.
func envPath(s string) int {
	end := strings.IndexByte(s[1:], '%')
	if end < 2 || end > 24 {
		return 0
	}
	for i := 1; i <= end; i++ {
		if !letter(s[i]) && s[i] != '_' && !digit(s[i]) && s[i] != '(' && s[i] != ')' {
			return 0
		}
	}
	return end + 2
}

// word takes a word, and keeps it when it is a name.
func (r *reader) word() {
	start := r.at
	end := start
	for end < len(r.text) {
		if n := wordAt(r.text[end:]); n > 0 {
			end += n
		} else if strings.IndexByte(".-+$~", r.text[end]) >= 0 && wordAt(r.text[end+1:]) > 0 {
			end++
		} else if strings.HasPrefix(r.text[end:], "~~") && wordAt(r.text[end+2:]) > 0 {
			end += 2
		} else {
			break
		}
	}
	r.at = max(end, start+1)
	w := r.text[start:end]
	if len(w) < 3 {
		return
	}
	if n := methodEnd(r.text, end); n > end && accountOrUnsure(w) {
		r.add(Function, r.text[start:n], start)
		r.at = n
		return
	}
	switch q := r.quotedTo(start); {
	case strings.Count(w, "_") > 3 && packageName.MatchString(w), strings.Count(w, "~") > 2 && osPackage.MatchString(w):
		r.add(Package, w, start)
	case systemService[strings.ToLower(w)]:
		r.add(Service, w, start)
	case start == 0 && len(w) > 5 && accountOrUnsure(w) && !fileName(w) && gaveNumber.MatchString(r.text[end:]):
		r.add(Function, w, start)
		r.calledWith(end + 1)
	case called.MatchString(w) && end < len(r.text) && (r.text[end] == ' ' || r.text[end] == ':'):
		r.add(Function, w, start)
		r.calledWith(end + 1)
	case hostName(w) && !fileName(w):
		if end < len(r.text) && r.text[end] == ':' {
			n := end + 1
			for n < len(r.text) && digit(r.text[n]) {
				n++
			}
			if n > end+2 && (n == len(r.text) || r.text[n] != ':') {
				w, r.at = r.text[start:n], n
			}
		}
		r.add(Host, w, start)
	case fileName(w):
		r.file(start, end, q)
	case end < len(r.text)-1 && r.text[end] == '\\' && wordByte(r.text[end+1]): // an account, or a path without a root
		r.relative(start, q)
	case serviceWords[strings.ToLower(w)] && strings.HasPrefix(r.text[end:], ": ") && wordAt(r.text[min(end+2, len(r.text)):]) > 0:
		r.at++ // the blank is the value's equals sign
		r.value(strings.ToLower(w))
	case end < len(r.text) && r.text[end] == '=': // a key; its value may be a name
		r.value(strings.ToLower(w))
	case end < len(r.text) && r.text[end] == '(' && accountOrUnsure(w):
		r.add(Function, w, start)
		r.arguments()
	case accountOrUnsure(w):
		kind := Unsure
		for _, went := range []string{" failed", " FAILED", " returned", " error", "失敗"} {
			if strings.HasPrefix(r.text[end:], went) {
				kind = Function
			}
		}
		r.add(kind, w, start)
	}
}

// methodEnd is where a class's method behind a byte ends: CSetupHost::Execute; the byte
// itself where none stands there.
func methodEnd(text string, at int) int {
	for strings.HasPrefix(text[at:], "::") && wordAt(text[at+2:]) > 0 {
		at += 2
		for at < len(text) && wordAt(text[at:]) > 0 {
			at += wordAt(text[at:])
		}
	}
	return at
}

var (
	// packageName is the full name of an app package: name, version, processor,
	// resource, publisher.
	packageName = lazy.MustCompile(`^[A-Za-z][\w.-]+_\d+(?:\.\d+){3}_[a-z0-9]+_[\w-]*_[a-z0-9]{13}$`)
	// osPackage is the identity of a package of the OS: name, publisher, processor,
	// language, version.
	osPackage = lazy.MustCompile(`^[A-Za-z][\w.-]+~[0-9a-f]{16}~\w*~[\w-]*~?[\d.]+$`)
	// called is a function of the OS by its name alone.
	called = lazy.MustCompile(`^(?:(?:Create|Open|Start|Delete|Control|Query|Change|Stop)Service\w*|OpenSCManager\w*|Reg(?:Create|Open|Set|Query|Delete)\w+|` +
		`(?:Create|Copy|Move|Delete|Write|Read|Replace)File\w*|CreateDirectory\w*|CreateProcess\w*|LoadLibrary\w*|ShellExecute\w*|Msi[A-Z]\w+)$`)
)

// calledWith takes what stands behind a function's name: CreateService MgService: 5.
func (r *reader) calledWith(start int) {
	rest := r.text[start:]
	end := strings.IndexAny(rest, ":,;(=>\"'")
	if end < 0 {
		end = len(rest)
	}
	for _, stop := range []string{" -", " failed", " FAILED", " returned", " error ", " with ", " gave "} {
		if i := strings.Index(rest[:end], stop); i >= 0 {
			end = i
		}
	}
	arg := strings.TrimSpace(rest[:end])
	if len(arg) < 3 || len(arg) > quotedBytes || strings.ContainsAny(arg, `\/`) || len(strings.Fields(arg)) > 2 ||
		plainWord[strings.ToLower(arg)] {
		return
	}
	kind := Unsure
	if !strings.Contains(arg, " ") && strings.Contains(arg, ".") {
		kind = File
	}
	r.add(kind, arg, start)
	r.at = start + end
}

// gaveNumber is what stands behind a function at the begin of a line that says what it
// gave: CheckSeal tide.arc -> 0x80096010.
var gaveNumber = lazy.MustCompile(`^ [^ ][^=]{1,80}? (?:->|=>|→|=) (?:0x)?-?[0-9A-Fa-f]+\b`)

// systemService are services of the OS whose names are no words of a sentence.
var systemService = map[string]bool{"msiserver": true, "trustedinstaller": true, "wuauserv": true, "cryptsvc": true, "appxsvc": true,
	"clipsvc": true, "lanmanserver": true, "lanmanworkstation": true, "rpcss": true, "dcomlaunch": true, "gpsvc": true, "mpssvc": true,
	"sppsvc": true, "usosvc": true, "dosvc": true, "winmgmt": true, "windefend": true, "appidsvc": true, "vss": true, "swprv": true, "w32time": true,
	"dnscache": true, "installservice": true, "staterepository": true, "usermanager": true}

// plainWord are words behind a function's name that tell what became of it.
var plainWord = map[string]bool{"failed": true, "returned": true, "error": true, "result": true, "gave": true, "ok": true, "succeeded": true, "done": true}

// value takes the value of a key that says what it names: service=BerthSync.
func (r *reader) value(key string) {
	if !serviceWords[key] {
		return
	}
	start := r.at + 1
	end := start
	for end < len(r.text) && strings.IndexByte(" ,;)\"'", r.text[end]) < 0 {
		end++
	}
	if end > start+2 {
		r.add(Service, r.text[start:end], start)
		r.at = end
	}
}

// quotedFile takes a file's name with blanks when a quotation of nothing else
// opens at r.at.
func (r *reader) quotedFile() bool {
	open, n := utf8.DecodeRuneInString(r.text[r.at:])
	if _, ok := closers[open]; !ok || n == 0 {
		return false
	}
	start := r.at + n
	end := r.quotedTo(start)
	if end < 0 || !strings.Contains(r.text[start:end], " ") || strings.ContainsAny(r.text[start:end], `\/:;,=`) ||
		!fileName(r.text[start:end]) {
		return false
	}
	r.add(File, r.text[start:end], start)
	r.at = end
	return true
}

const (
	quotedBytes = 60 // of a name in quotation marks at most; longer ones are sentences
	quotedWords = 5
)

// quotedName takes what stands in quotation marks and is neither a path nor a
// sentence.
func (r *reader) quotedName() bool {
	open, n := utf8.DecodeRuneInString(r.text[r.at:])
	if !strings.ContainsRune("\"'«„“‘「『", open) || n == 0 || r.at > 0 && !strings.ContainsRune(" (:=,[{\t", rune(r.text[r.at-1])) {
		return false
	}
	start := r.at + n
	end := r.quotedTo(start)
	if end < 0 || end-start > quotedBytes || end-start < 3 {
		return false
	}
	in := r.text[start:end]
	if strings.ContainsAny(in, `\/:;=<>|*?%`) || len(strings.Fields(in)) > quotedWords || strings.Trim(in, " .") != in || wordAt(in) == 0 {
		return false
	}
	if fileName(in) || hostName(in) || digitsOnly(in) {
		return false
	}
	kind := Unsure
	if names := strings.ToLower(lastWord(r.text[:r.at])); serviceWords[names] {
		kind = Service
	}
	r.add(kind, in, start)
	r.at = end
	return true
}

// digitsOnly says whether a text is a number.
func digitsOnly(s string) bool {
	return strings.Trim(s, "0123456789.,-+ ") == ""
}

// lastWord is the word at the end of a text, without the marks behind it.
func lastWord(s string) string {
	s = strings.TrimRight(s, " =:(\"'")
	return s[strings.LastIndexAny(s, " \t,;{(\"'")+1:]
}

// serviceWords are words that stand before a service's name, in small letters.
var serviceWords = map[string]bool{"service": true, "svc": true, "dienst": true, "servicio": true, "servizio": true, "serviço": true, "usługa": true,
	"usługi": true, "služba": true, "službu": true, "tjänsten": true, "hizmet": true, "hizmeti": true, "служба": true, "службу": true, "службы": true}

// arguments takes what a function is called with: QueryServiceStatus(Spooler).
func (r *reader) arguments() {
	rest := r.text[r.at+1:]
	end := strings.IndexAny(rest, "),")
	if end < 3 || end > quotedBytes {
		return
	}
	arg := strings.Trim(rest[:end], `"' `)
	if strings.ContainsAny(arg, `\/:(;=<>|{}`) || wordAt(arg) == 0 || fileName(arg) || digitsOnly(arg) ||
		accountOrUnsure(arg) && !strings.Contains(arg, " ") {
		return // found as a word of its own
	}
	r.add(Unsure, arg, r.at+1+strings.Index(rest, arg))
	r.at += 1 + end
}

// file takes a file's name, with the words before it where a quotation holds them.
func (r *reader) file(start, end, quoted int) {
	if quoted > end && quoted-start < maxName && extension(afterDot(r.text[start:quoted])) {
		end = quoted
	}
	r.add(File, r.text[start:end], start)
	r.at = end
}

func afterDot(s string) string { return s[strings.LastIndexByte(s, '.')+1:] }

// relative takes words with backslashes between them that no root leads.
func (r *reader) relative(start, quoted int) {
	end := start
	for end < len(r.text) {
		if n := wordAt(r.text[end:]); n > 0 {
			end += n
		} else if strings.IndexByte(`\.-+$~`, r.text[end]) >= 0 {
			end++
		} else {
			break
		}
	}
	if quoted > end {
		end = quoted
	}
	text := strings.ReplaceAll(r.text[start:end], `\\`, `\`)
	kind := Account
	if fileName(text[strings.LastIndexByte(text, '\\')+1:]) || strings.Count(text, `\`) != 1 {
		kind = File
	}
	r.add(kind, strings.TrimRight(text, `\`), start)
	r.at = end
}

// fileName says whether a word is a file's name by its extension.
func fileName(w string) bool {
	dot := strings.LastIndexByte(w, '.')
	return dot > 0 && dot < len(w)-1 && extensions[strings.ToLower(w[dot+1:])]
}

// extensions are those of files that setups bring, run and keep. One that is not
// here makes no file of a word: "Setup.Copy" is a logger's name.
var extensions = func() map[string]bool {
	m := map[string]bool{}
	for _, e := range strings.Fields(`exe dll msi msp mst msix appx msixbundle appxbundle cab zip 7z rar tar gz tgz arc pak bin dat db sqlite mdb
		accdb mdf ldf sql sys inf cat drv ocx tlb olb ax cpl com bat cmd ps1 vbs js jar war class py pyd whl xml json yaml yml toml ini cfg
		conf config properties manifest txt log csv pdf chm hlp rtf htm html css ico png jpg bmp svg ttf otf fon reg lic key pem crt cer
		pfx p7b part tmp temp bak old new lock pid sh iso img wim esd vhd vhdx nupkg resx res mui nls rsp xsd xsl resources so lib obj
		pdb idx index qm ts mo po psd1 psm1 mof etl evtx dmp hash sha256 md5 sig asc delta diff patch bundle pkg deb rpm msu uid`) {
		m[e] = true
	}
	return m
}()

// hostName says whether a word is a host: labels in small letters with a letter in
// the last one, or an address of four numbers.
func hostName(w string) bool {
	labels := strings.Split(w, ".")
	if len(labels) < 2 {
		return false
	}
	numbers := 0
	for _, l := range labels {
		if l == "" || len(l) > 63 || l[0] == '-' {
			return false
		}
		all := true
		for i := range len(l) {
			if c := l[i]; c >= utf8.RuneSelf || c >= 'A' && c <= 'Z' || c == '_' || c == '+' || c == '$' {
				return false
			} else if !digit(c) {
				all = false
			}
		}
		if all {
			numbers++
		}
	}
	last := labels[len(labels)-1]
	switch {
	case numbers == 4 && len(labels) == 4: // an address, no version
		return !slices.ContainsFunc(labels, func(l string) bool { n, err := strconv.ParseUint(l, 10, 8); return err != nil || n > 255 })
	case numbers > 0 && numbers >= len(labels)-1:
		return false
	}
	return domains[last]
}

// domains are the ends of hosts' names. Others are taken for names of modules and
// files, which are far more frequent in logs.
var domains = func() map[string]bool {
	m := map[string]bool{}
	for _, d := range strings.Fields(`com net org edu gov int info biz local lan internal corp intra intranet home localdomain example test
		invalid cloud dev app io co eu de at ch fr es it pt nl be pl cz sk se no dk fi is ie uk us ca au nz jp kr cn tw hk sg in br mx ar
		ru ua tr gr hu ro bg hr si ee lv lt il za`) {
		m[d] = true
	}
	return m
}()

// accountOrUnsure says whether a word is a name by its form: capitals inside, an
// underscore, letters with digits.
func accountOrUnsure(w string) bool {
	if len(w) < 4 {
		return false
	}
	inside, digits, letters := false, false, 0
	for i, c := range w {
		switch {
		case unicode.IsUpper(c) && i > 0:
			inside = true
		case c == '_':
			inside = true
		case unicode.IsDigit(c):
			digits = true
		}
		if unicode.IsLetter(c) {
			letters++
		}
	}
	if letters < 3 || strings.HasPrefix(w, "0x") {
		return false
	}
	return inside || digits
}
