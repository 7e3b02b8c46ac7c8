// This file keeps words that are names, and leaves out those that only look so.

package names

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

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
	start += behindOwnScript(r.text[start:end])
	if n := beforeOwnScript(r.text[start:end]); n > 0 {
		end = start + n
	}
	r.at = max(end, start+1)
	w := r.text[start:end]
	small := pieces.Lower(w)
	if controller(small) && r.controlled(end) {
		return
	}
	if len(w) < 3 {
		return
	}
	if n := methodEnd(r.text, end); n > end && accountOrUnsure(w) {
		r.add(Function, r.text[start:n], start)
		r.at = n
		return
	}
	switch q := r.quotedTo(start); {
	case strings.Count(w, "_") > 3 && packageName.MatchString(w),
		strings.Count(w, "_") >= 2 && appPackage.MatchString(w),
		strings.Count(w, "~") > 2 && osPackage.MatchString(w):
		r.add(Package, w, start)
	case systemService[small]:
		r.add(Service, w, start)
	case start == 0 && len(w) > 5 && accountOrUnsure(w) && !fileName(w) && gaveNumber.MatchString(r.text[end:]):
		r.add(Function, w, start)
		r.calledWith(end + 1)
	case called.MatchString(w) && end < len(r.text) && (r.text[end] == ' ' || r.text[end] == ':'):
		r.add(Function, w, start)
		r.calledWith(end + 1)
	case start >= len("version=") && strings.EqualFold(r.text[start-len("version="):start], "version="): // 4.0.0.0 is no address there
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
	case serviceWords[small] && strings.HasPrefix(r.text[end:], ": ") && wordAt(r.text[min(end+2, len(r.text)):]) > 0 &&
		!r.speaks(start, end):
		r.at++ // the blank is the value's equals sign
		r.value(small)
	case accountWords[w] && start > 0 && strings.HasPrefix(r.text[end:], ": ") && wordAt(r.text[min(end+2, len(r.text)):]) > 0:
		r.at++
		r.oneWord(Account)
	case serviceWords[w] && r.serviceBehind(end): // the service Spooler is stopped
	case driveWords[small] && r.driveBehind(end):
	case serviceWords[w] && r.serviceTitled(start):
	case end < len(r.text) && r.text[end] == '=': // a key; its value may be a name
		r.value(small)
	case end < len(r.text) && r.text[end] == '(' && accountOrUnsure(w):
		r.add(Function, w, start)
		r.arguments()
	case strings.HasPrefix(r.text[end:], " = ") && !strings.Contains(w, "_"): // a key
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

// beforeOwnScript is how long a file's or host's name is that a word of a
// script without blanks follows right behind, as particles do in Korean
// (data1.cab을, tide.example에); 0 where none does.
func beforeOwnScript(w string) int {
	at := strings.IndexFunc(w, ownScript)
	if at <= 0 || !strings.Contains(w[:at], ".") || !fileName(w[:at]) && !hostName(w[:at]) {
		return 0
	}
	return at
}

// behindOwnScript is how many bytes of such a script stand right before a
// file's or host's name: 文件data1.cab.
func behindOwnScript(w string) int {
	if c, _ := utf8.DecodeRuneInString(w); !ownScript(c) {
		return 0
	}
	at := strings.IndexFunc(w, func(c rune) bool { return c < utf8.RuneSelf })
	if at < 0 {
		return 0
	}
	name := w[at:]
	if n := beforeOwnScript(name); n > 0 {
		name = name[:n]
	}
	if !fileName(name) && !hostName(name) {
		return 0
	}
	return at
}

// ownScript says whether a letter is of a script that parts no words with
// blanks, or hangs particles on them.
func ownScript(c rune) bool {
	return unicode.In(c, unicode.Hangul, unicode.Han, unicode.Hiragana, unicode.Katakana)
}

// speaks says whether a word before a colon is the part of a program that
// speaks, and what is behind it a sentence: "svc: creating service BerthSync".
func (r *reader) speaks(start, end int) bool {
	first, rest, more := strings.Cut(r.text[end+2:], " ")
	return (start == 0 || strings.HasSuffix(r.text[:start], "::")) && more && !strings.ContainsAny(first, ",;)") && wordAt(rest) > 0
}

// methodEnd is where a class's method behind a byte ends: CSetupHost::Execute;
// the byte itself where none stands there.
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
	// appPackage is an app package by its file's name: name, version,
	// processor.
	appPackage = lazy.MustCompile(`^[A-Za-z][\w.-]*_\d+(?:\.\d+){2,3}_(?:x64|x86|arm64|arm|neutral)$`)
	// osPackage is the identity of a package of the OS: name, publisher,
	// processor, language, version.
	osPackage = lazy.MustCompile(`^[A-Za-z][\w.-]+~[0-9a-f]{16}~\w*~[\w-]*~?[\d.]+$`)
	// called is a function of the OS by its name alone.
	called = lazy.MustCompile(`^(?:(?:Create|Open|Start|Delete|Control|Query|Change|Stop)Service\w*|OpenSCManager\w*|Reg(?:Create|Open|Set|Query|Delete)\w+|` +
		`(?:Create|Copy|Move|Delete|Write|Read|Replace)File\w*|CreateDirectory\w*|CreateProcess\w*|LoadLibrary\w*|ShellExecute\w*|Msi[A-Z]\w+|WinVerifyTrust\w*|Crypt(?:CAT|Acquire|Encrypt|Decrypt|Hash|Import|Export|Verify|Query|Get|Msg)\w+|Cert[A-Z][a-z]\w+|WinHttp[A-Z]\w+|Internet(?:Open|Connect|Read)\w*|Co(?:Create|Get)[A-Z]\w+|(?:Set|Get)(?:Named)?SecurityInfo\w*|SetFileSecurity\w*|SetEntriesInAcl\w*|AdjustTokenPrivileges\w*|LookupAccount\w+|Net(?:User|LocalGroup|Share|Use)[A-Z]\w+|(?:Open|Terminate)Process\w*|WritePrivateProfile\w+|SetCurrentDirectory\w*|GetVolumeInformation\w*|GetDriveType\w*|(?:Set|Get)FileAttributes\w*|FindFirstFile\w*|RemoveDirectory\w*|LogonUser\w*|GetDiskFreeSpace\w*|SetupDi[A-Z]\w+|Setup(?:Copy|Install)[A-Z]\w+)$`)
)

// IsCall says whether a word is a function of the OS: what was called, and not
// what it is about.
func IsCall(w string) bool { return called.MatchString(w) }

// calledWith takes what stands behind a function's name: CreateService
// BerthSync: 5.
func (r *reader) calledWith(start int) {
	rest := r.text[start:]
	if leadsTo.MatchString(rest) { // "WinHttpSendRequest to dl.tide.example": what follows is read as in any sentence
		return
	}
	end := strings.IndexAny(rest, ":,;(=>\"'")
	if end < 0 {
		end = len(rest)
	}
	for _, stop := range []string{" -", " failed", " FAILED", " returned", " error ", " with ", " gave "} {
		if strings.HasPrefix(rest, stop[1:]) { // nothing stands between
			return
		}
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

// leadsTo begins what stands behind a function's name with a word that only
// leads to it.
var leadsTo = lazy.MustCompile(`^ ?(?:to|on|for|of|at|in|from|with|by) `)

// titledService ends what stands before the word for a service with a name of
// several words: "could not start the Tide Watch Agent".
var titledService = lazy.MustCompile(`(?:\b(?:[Tt]he|[Dd]er|[Dd]en|[Ss]tart|[Ss]tarting) |^)((?:\p{Lu}[\p{L}\d&+-]* ){1,6})$`)

// serviceTitled takes such a name.
func (r *reader) serviceTitled(start int) bool {
	before := r.text[max(0, start-quotedBytes):start]
	m := titledService.FindStringSubmatchIndex(before)
	if m == nil || !strings.Contains(strings.TrimSpace(before[m[2]:m[3]]), " ") { // a name of one word is found as one
		return false
	}
	at := start - len(before) + m[2]
	r.found = slices.DeleteFunc(r.found, func(n Name) bool { return n.At >= at }) // its words alone
	r.add(Service, r.text[at:start], at)
	return true
}

// gaveNumber is what stands behind a function at the begin of a line that says
// what it gave: CheckSeal tide.arc -> 0x80096010.
var gaveNumber = lazy.MustCompile(`^ [^ ][^=]{1,80}? (?:->|=>|→|=) (?:0x)?-?[0-9A-Fa-f]+\b`)

// systemService are services of the OS whose names are no words of a sentence.
var systemService = map[string]bool{"msiserver": true, "trustedinstaller": true, "wuauserv": true, "cryptsvc": true, "appxsvc": true,
	"clipsvc": true, "lanmanserver": true, "lanmanworkstation": true, "rpcss": true, "dcomlaunch": true, "gpsvc": true, "mpssvc": true,
	"sppsvc": true, "usosvc": true, "dosvc": true, "winmgmt": true, "windefend": true, "appidsvc": true, "vss": true, "swprv": true, "w32time": true,
	"dnscache": true, "installservice": true, "staterepository": true, "usermanager": true,
	"eventlog": true, "rpceptmapper": true, "nlasvc": true, "netlogon": true, "samss": true, "termservice": true, "audiosrv": true,
	"iphlpsvc": true, "nsi": true, "wlansvc": true, "eventsystem": true, "profsvc": true, "plugplay": true, "winrm": true, "iisadmin": true, "w3svc": true,
	"comsysapp": true, "sdrsvc": true, "wbengine": true, "wsearch": true, "fontcache": true, "uxsms": true, "netman": true}

// plainWord are words behind a function's name that tell what became of it.
var plainWord = map[string]bool{"failed": true, "returned": true, "error": true, "result": true, "gave": true, "ok": true, "succeeded": true, "done": true}

// value takes the value of a key that says what it names: service=BerthSync.
func (r *reader) value(key string) {
	if serviceWords[key] {
		r.oneWord(Service)
	}
}

// oneWord takes what stands behind the sign at r.at, up to a blank or a mark.
func (r *reader) oneWord(kind Kind) {
	start := r.at + 1
	end := start
	for end < len(r.text) && strings.IndexByte(" ,;)\"'", r.text[end]) < 0 {
		end++
	}
	if end > start+2 {
		r.add(kind, r.text[start:end], start)
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
	quotedWords = 5  // of a name; with more it is a sentence
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
	if fileName(in) || hostName(in) || digitsOnly(in) || strings.Count(in, "(") != strings.Count(in, ")") { // a piece of a call
		return false
	}
	if slices.ContainsFunc(strings.Fields(strings.ToLower(in)), func(w string) bool { return saysSo[w] }) {
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

// saysSo are words with which what stands in quotation marks is a sentence:
// 'Cannot connect to proxy'.
var saysSo = map[string]bool{"cannot": true, "can't": true, "could": true, "unable": true, "failed": true, "is": true, "was": true, "does": true,
	"did": true, "must": true, "kann": true, "konnte": true, "ist": true, "wurde": true, "est": true, "peut": true, "puede": true, "può": true}

// digitsOnly says whether a text is a number.
func digitsOnly(s string) bool {
	return strings.Trim(s, "0123456789.,-+ ") == ""
}

// lastWord is the word at the end of a text, without the marks behind it.
func lastWord(s string) string {
	s = strings.TrimRight(s, " =:(\"'")
	return s[strings.LastIndexAny(s, " \t,;{(\"'")+1:]
}

// controller says whether a word is a command of the OS that starts, stops and
// removes services.
func controller(w string) bool {
	switch w {
	case "sc", "sc.exe", "net", "net.exe", "net1":
		return true
	}
	return false
}

// serviceCall is what stands behind such a command, up to the name of the
// service, in marks or of one word.
var serviceCall = lazy.MustCompile(`^["']? (?:\\\\\S+ )?(?:start|stop|delete|config|create|query|queryex|failure|pause|continue) (?:"([^"]{2,80})"|([A-Za-z_][\w.$-]{1,80}))`)

// controlled takes the service that such a command is about: sc delete
// TideSync.
func (r *reader) controlled(end int) bool {
	at := serviceCall.FindStringSubmatchIndex(r.text[end:])
	if at == nil {
		return false
	}
	from, to := at[2], at[3]
	if from < 0 {
		from, to = at[4], at[5]
	}
	r.add(Service, r.text[end+from:end+to], end+from)
	r.at = end + at[1]
	return true
}

// serviceWords are words that stand before a service's name, in small letters.
var serviceWords = map[string]bool{"service": true, "svc": true, "dienst": true, "servicio": true, "servizio": true, "serviço": true, "usługa": true,
	"usługi": true, "služba": true, "službu": true, "tjänsten": true, "hizmet": true, "hizmeti": true, "служба": true, "службу": true, "службы": true}

// accountWords are words that stand before an account's name inside of a line:
// "failed to create user: tidesvc". At its start they tell who runs the setup.
var accountWords = map[string]bool{"user": true, "account": true, "group": true, "benutzer": true, "konto": true, "gruppe": true,
	"utilisateur": true, "compte": true, "usuario": true, "cuenta": true, "grupo": true}

// notServices are words with a large letter that go on with "service" and name
// none, in small letters.
var notServices = map[string]bool{"control": true, "manager": true, "pack": true, "host": true, "start": true, "status": true, "name": true, "account": true,
	"installer": true, "error": true, "failed": true, "failure": true, "could": true, "cannot": true, "is": true, "was": true, "not": true, "the": true,
	"stopped": true, "started": true, "running": true, "disabled": true, "unavailable": true, "type": true, "state": true, "entry": true,
	"worker": true, "level": true, "release": true, "desk": true, "provider": true, "principal": true}

// serviceBehind takes a service's name of one word with a large letter, which
// stands right behind the word for a service where a sentence would go on with
// small ones.
func (r *reader) serviceBehind(end int) bool {
	if end+1 >= len(r.text) || r.text[end] != ' ' || !letter(r.text[end+1]) {
		return false
	}
	n := end + 1
	for n < len(r.text) && (wordByte(r.text[n]) || strings.IndexByte(".$-", r.text[n]) >= 0 && n+1 < len(r.text) && wordByte(r.text[n+1])) {
		n++
	}
	name := r.text[end+1 : n]
	large := name[0] >= 'A' && name[0] <= 'Z'
	if !large && !strings.ContainsAny(name, ".$_0123456789") || fileName(name) { // a word of the sentence
		return false
	}
	if len(name) < 4 || name == strings.ToUpper(name) && !inCapitals.MatchString(name) ||
		notServices[strings.TrimRight(strings.ToLower(name), "0123456789.")] ||
		large && n+1 < len(r.text) && r.text[n] == ' ' && r.text[n+1] >= 'A' && r.text[n+1] <= 'Z' { // a title: Remote Access Service Provider
		return false
	}
	r.add(Service, name, end+1)
	r.at = n
	return true
}

// inCapitals is a service's name in capitals alone, which most such words are
// not: it has an instance behind a dollar sign, or ends as services do.
var inCapitals = lazy.MustCompile(`^[A-Z][A-Z0-9_.-]*\$[A-Z0-9_]+$|^[A-Z0-9]{2,}(?:SVC|SRV|SERVER|AGENT)[A-Z0-9]{0,2}$`)

// driveWords are words behind which a letter stands for a drive, in small
// letters.
var driveWords = map[string]bool{"drive": true, "disk": true, "volume": true, "laufwerk": true, "lecteur": true, "unidad": true, "disco": true,
	"unità": true, "unidade": true, "station": true, "dysk": true, "disku": true, "enhet": true, "sürücü": true, "диск": true, "диске": true}

// driveBehind takes the drive of which only the letter stands behind such a
// word: drive D.
func (r *reader) driveBehind(end int) bool {
	if end+1 >= len(r.text) || r.text[end] != ' ' || r.text[end+1] < 'A' || r.text[end+1] > 'Z' {
		return false
	}
	behind := r.text[end+2:]
	if behind != "" && (wordAt(behind) > 0 || len(behind) > 1 && behind[1] != ' ' && strings.IndexByte(`:\/-.`, behind[0]) >= 0) {
		return false // a word, or a path, which is taken whole
	}
	r.found = append(r.found, Name{Drive, r.text[end+1:end+2] + ":", end + 1})
	r.at = end + 2
	return true
}

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

// file takes a file's name, with the words before it where a quotation holds
// them.
func (r *reader) file(start, end, quoted int) {
	if quoted > end && quoted-start < maxName && extension(afterDot(r.text[start:quoted])) {
		end = quoted
	}
	r.add(File, r.text[start:end], start)
	r.at = end
}

// afterDot is what stands behind the last dot, or all of it.
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
