// This file reads paths, keys and addresses out of lines, up to where they
// really end.

package names

import (
	"net/url"
	"strings"
	"unicode/utf8"
)

// path takes a path that begins with lead bytes of root.
func (r *reader) path(lead int) {
	start := r.at
	end := r.quotedTo(start)
	if end >= 0 && r.text[start-1] == '(' && strings.Contains(r.text[start:end], "(") { // CreateFile(C:\Program Files (x86)\…)
		if n := strings.IndexByte(r.text[end+1:], ')'); n >= 0 {
			end += 1 + n
		}
	}
	if end < 0 {
		end = start + lead + unquoted(r.text[start+lead:])
	} else if cut := strings.IndexAny(r.text[start+lead:end], "<>|*?\"\t\n"); cut >= 0 {
		end = start + lead + cut
	}
	text := r.text[start:end]
	if last := strings.LastIndexAny(text, `\/`) + 1; last > 0 {
		if n := beforeOwnScript(text[last:]); n > 0 { // C:\Tide\a.dll을
			end, text = start+last+n, text[:last+n]
		}
	}
	if tidied := tidy(text); len(tidied) > 2 && !strings.HasPrefix(tidied, `\\.\`) {
		r.add(Path, tidied, start)
	}
	r.at = max(end, start+lead)
}

// tidy takes doubled backslashes, the extended form's head and the last
// separator out of a path.
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

// mostBracketed is how long a name in brackets is: a GUID, or a word.
const mostBracketed = 64

// bracketed is how many bytes brackets have that are part of a path's name: a
// folder of a run ({8F425050-…}\x.msi, [cache]\x.dll, Tide(2)\x.dll), or a GUID
// at its end. Elsewhere they are the sentence's.
func bracketed(s string, i int) int {
	if i >= len(s) {
		return 0
	}
	closes, ok := map[byte]byte{'{': '}', '[': ']', '(': ')'}[s[i]]
	if !ok || i == 0 || s[i-1] != '\\' && s[i-1] != '/' && s[i-1] != ' ' && !wordByte(s[i-1]) {
		return 0
	}
	if s[i-1] == ' ' && strings.Contains(s[strings.LastIndexAny(s[:i], `\/`)+1:i], ".") { // behind a file
		return 0
	}
	end := strings.IndexByte(s[i:min(len(s), i+mostBracketed)], closes)
	if end < 2 || strings.ContainsAny(s[i+1:i+end], "\\/\"'<>|*?:\t\n([{") {
		return 0
	}
	behind := s[i+end+1:]
	if strings.HasPrefix(behind, `\`) || strings.HasPrefix(behind, "/") {
		return end + 1
	}
	const guid = len("8f425050-fbed-361a-9378-15476d972262")
	if s[i] == '{' && end == guid+1 && strings.Count(s[i:i+end], "-") == 4 && (behind == "" || !wordByte(behind[0])) {
		return end + 1
	}
	return 0
}

// unquoted is how long a path goes on that no quotation mark ends: over blanks
// as long as a separator follows, and to the end of the file's extension.
func unquoted(s string) int {
	end := len(s)
	for i := 0; i < len(s); i++ {
		c := s[i]
		stop := strings.IndexByte("\"'<>|*?\t\n,;=()[]{}", c) >= 0 &&
			!(c == '(' && strings.HasPrefix(s[i:], "(x86)")) && !(c == ')' && strings.HasSuffix(s[:i], "(x86"))
		if n := bracketed(s, i); n > 0 {
			i += n - 1
			continue
		}
		if n := copyNumber(s[i:]); n > 0 && i > 0 && s[i-1] == ' ' { // tide (2).msi
			i += n - 1
			continue
		}
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
		if n := nameGoesOn(s, i); n > 0 {
			i += n - 1
			continue
		}
		if stop || strings.HasPrefix(s[i:], " -> ") || strings.HasPrefix(s[i:], " - ") || strings.HasPrefix(s[i:], " = ") ||
			strings.HasPrefix(s[i:], " /") && i+2 < len(s) && letter(s[i+2]) && !strings.ContainsAny(before(s[i+2:], " "), `\/.`) { // a switch
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
		// What is behind the first blank was of the path only if a separator
		// follows it.
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

// mostGoesOn is how long the rest of a folder's name may be behind a comma or a
// hyphen.
const mostGoesOn = 40

// nameGoesOn is how long a folder's name goes on behind a comma or a hyphen
// that stands between words ("Saltmarsh, Ltd\data", "OneDrive - Port
// Ellery\x.docx"): a few words, the first with a capital, and then a stroke. 0
// where the sentence goes on.
func nameGoesOn(s string, i int) int {
	head := 0
	switch {
	case strings.HasPrefix(s[i:], ", "):
		head = len(", ")
	case strings.HasPrefix(s[i:], " - "):
		head = len(" - ")
	default:
		return 0
	}
	if strings.Contains(s[strings.LastIndexAny(s[:i], `\/`)+1:i], ".") { // a file, or the end of a sentence
		return 0
	}
	rest := s[i+head : min(len(s), i+head+mostGoesOn)]
	end := strings.IndexByte(rest, '\\')
	if end < 2 || rest[0] < 'A' || rest[0] > 'Z' || strings.ContainsAny(rest[:end], ":;,\"'<>|=()[]{}") || len(strings.Fields(rest[:end])) > 4 {
		return 0
	}
	return head + end
}

// copyNumber is the length of the number that a file's name has as the next
// copy of one, with its brackets, where the name goes on behind it: (2).msi; 0
// where there is none.
func copyNumber(s string) int {
	if len(s) < len("(2).x") || s[0] != '(' {
		return 0
	}
	n := 1
	for n < len(s) && digit(s[n]) {
		n++
	}
	const most = 4 // with the opening bracket: 999 copies
	if n == 1 || n > most || n+2 > len(s) || s[n] != ')' || s[n+1] != '\\' && (s[n+1] != '.' || n+2 >= len(s) || !letter(s[n+2])) {
		return 0
	}
	return n + 1
}

// goesOn are words with which a sentence goes on behind a path that no
// quotation mark ends, in the languages that setups speak: verbs, and words
// that deny. No folder's name has one behind a blank that begins small.
var goesOn = func() map[string]bool {
	m := map[string]bool{}
	for w := range strings.FieldsSeq("is was are were has had could cannot can not does did failed denied missing exists already must may should will would " +
		"because since nicht konnte kann wurde wird ist war hat existiert fehlt bereits weil anlegen erstellen schreiben löschen öffnen " +
		"est n'est n'a ne pas été impossible introuvable existe manque no es está fue falta porque non è era esiste manca perché " +
		"não é foi niet kan is werd bestaat ontbreekt omdat nie jest był istnieje nelze není byl neexistuje inte är var finns kunde saknas " +
		"не нет был создать удалось") {
		m[w] = true
	}
	return m
}()

// WithoutSentence is a path without the words of a sentence that an expression
// took along behind it: from the first blank on behind which a word stands that
// only sentences have, and no separator comes any more.
func WithoutSentence(path string) string {
	if strings.HasPrefix(path, "HK") { // the next sentence: of keys' names none ends in a full stop
		path, _, _ = strings.Cut(path, ". ")
	}
	last := strings.LastIndexAny(path, `\/`) + 1
	for i := last; i < len(path); i++ {
		if path[i] != ' ' || i == last {
			continue
		}
		word, _, _ := strings.Cut(path[i+1:], " ")
		if goesOn[strings.TrimRight(word, ".,:;!")] {
			return path[:i]
		}
	}
	return path
}

// before is what stands in front of a sign; all where the sign is not there.
func before(s, sign string) string {
	front, _, _ := strings.Cut(s, sign)
	return front
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

// extensionEnd is where the first word with an extension ends in the last
// segment of a path, 0 when none has one.
func extensionEnd(s string) int {
	for i := 0; i < len(s); i++ {
		if s[i] != '.' || i == 0 {
			continue
		}
		n := i + 1
		for n < len(s) && (letter(s[n]) || digit(s[n])) {
			n++
		}
		if n+1 < len(s) && s[n] == '.' && (letter(s[n+1]) || digit(s[n+1])) { // tide.tar.gz
			continue
		}
		if extension(s[i+1:n]) && (n == len(s) || s[n] == ' ' || s[n] == '.') {
			return n
		}
	}
	return 0
}

// longestExtension is of files that setups handle: "manifest".
const longestExtension = 8

// extension says whether s can be a file's extension: no number alone, since
// that is a version's or a sentence's.
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
// programs print keys that they open below a handle: SOFTWARE\Quay. 0 for
// others; a folder may be called Software, a key's two first names are known.
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

// fullStop says whether a text begins with one of the marks of full width that
// part sentences.
func fullStop(s string) bool {
	if s[0] < utf8.RuneSelf {
		return false
	}
	c, _ := utf8.DecodeRuneInString(s)
	return strings.ContainsRune("：，。、；」』”（）", c)
}

// keyEnds says whether a key ends at a blank: no separator comes any more, and
// no further word of a name.
func (r *reader) keyEnds(at int) bool {
	rest := r.text[at+1:]
	return !strings.Contains(firstWords(rest), `\`) && (r.text[at-1] == '.' || !ofTitle(rest))
}

// ofTitle says whether what follows a blank in a key is a further word of a
// vendor's or product's name, with a capital, behind which the sentence goes
// on: HKCU\Software\Saltmarsh Quay failed.
func ofTitle(s string) bool {
	n := 0
	for n < len(s) && (letter(s[n]) || digit(s[n])) {
		n++
	}
	capital := n > 1 && s[0] >= 'A' && s[0] <= 'Z' && strings.ToUpper(s[:n]) != s[:n]
	return capital && !besideKeys[strings.ToLower(s[:n])] && (n == len(s) || strings.IndexByte(" :,;.)\"'", s[n]) >= 0)
}

// besideKeys are words, in small letters, that begin with a capital behind a
// key and are of the sentence, or of the record.
var besideKeys = func() map[string]bool {
	m := map[string]bool{}
	for w := range strings.FieldsSeq("access error failed failure the could cannot can is was result code status win32 hresult value name data type key and or for with in to from at " +
		"denied not no this that it zugriff fehler wert name typ accès erreur valeur acceso error valor accesso errore valore acesso erro toegang fout dostęp błąd přístup chyba " +
		"delete deleted created opened query returned system wow64 permission reason check see exit setup rolling rollback please verify") {
		m[w] = true
	}
	return m
}()

// key takes a registry key.
func (r *reader) key(lead int) {
	start := r.at
	end := r.quotedTo(start)
	if end >= 0 && r.text[start-1] == '(' && strings.Contains(r.text[start:end], "(") { // CreateFile(C:\Program Files (x86)\…)
		if n := strings.IndexByte(r.text[end+1:], ')'); n >= 0 {
			end += 1 + n
		}
	}
	if end < 0 {
		end = start + lead
		for end < len(r.text) {
			if n := max(bracketed(r.text, end), nameGoesOn(r.text, end)); n > 0 {
				end += n
				continue
			}
			if r.text[end] == ' ' && bracketed(r.text, end+1) > 0 && strings.IndexByte(r.text[end:], ')') > 0 { // Book (x64)\Main
				end += 1 + bracketed(r.text, end+1)
				continue
			}
			if strings.ContainsRune("\"'<>|*?\t,;=)]", rune(r.text[end])) {
				break
			}
			if r.text[end] == ':' || r.text[end] == ' ' && r.keyEnds(end) || fullStop(r.text[end:]) {
				break
			}
			end++
		}
	}
	text := r.text[start:end]
	if strings.Contains(text, `\\`) {
		text = strings.ReplaceAll(text, `\\`, `\`)
	}
	r.add(Key, strings.ReplaceAll(strings.TrimRight(text, `\/`), `\\`, `\`), start)
	r.at = max(end, start+lead)
}

// firstWords are the words up to the next mark; a key whose name has a blank
// goes on with a separator in one of them.
func firstWords(s string) string {
	if i := strings.IndexAny(s, "\"'<>|:,;=()["); i >= 0 {
		s = s[:i]
	}
	words := strings.SplitN(s, " ", 4)
	return strings.Join(words[:min(len(words), 3)], " ")
}

// fileURL is the length of what a file's address has before its path, 0 for
// others: file:///C:/Tide, file://depot/apps.
func fileURL(s string) int {
	const head = "file://"
	if len(s) < len(head)+4 || !strings.EqualFold(s[:len(head)], head) {
		return 0
	}
	if s[len(head)] == '/' && letter(s[len(head)+1]) && s[len(head)+2] == ':' {
		return len(head) + 1
	}
	if letter(s[len(head)]) {
		return len(head)
	}
	return 0
}

// address takes a file's address as the path that it is, as the OS writes it.
func (r *reader) address(lead int) {
	start := r.at
	end := start + lead
	for end < len(r.text) && !strings.ContainsRune(" \t\"'<>|\\`»”’)]},", rune(r.text[end])) {
		end++
	}
	p, err := url.PathUnescape(strings.TrimRight(r.text[start+lead:end], ".,;:!?"))
	if err == nil {
		if p = strings.ReplaceAll(p, "/", `\`); lead == len("file://") {
			p = `\\` + p
		}
		r.add(Path, tidy(p), start)
	}
	r.at = end
}

// scheme is the length of what an address begins with; zero where it is none,
// or nothing stands behind it.
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

// powerPath is the length of a leading variable of the environment as
// PowerShell writes it, with the separator behind it: $env:ProgramData\; 0 when
// there is none.
func powerPath(s string) int {
	const head = "$env:"
	if len(s) < len(head)+2 || !strings.EqualFold(s[:len(head)], head) {
		return 0
	}
	n := len(head)
	for n < len(s) && (letter(s[n]) || s[n] == '_' || digit(s[n])) {
		n++
	}
	if n == len(head) || n >= len(s) || s[n] != '\\' && s[n] != '/' {
		return 0
	}
	return n + 1
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
