// This file takes up what a log notes by the way and calls no failure:
// policies, values, options of the call.

package evidence

import (
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/lexicon"
)

// Some causes are set down by the way, at the lowest level, in a form and not
// in words: a policy's value, a word of the command line that nobody knows, two
// widths of a processor.

// policyValue is a value under a key of policies, and what it is set to.
var policyValue = lazy.MustCompile(`\\policies\\[^=:]*?(?:(?::| ->|,) ?(?:[\w ]+=\w+, ?){0,6}|\\?)([\pL]\w*)"? ?(?:=|:|is|->) ?"?(?:dword:|reg_dword )?(0x0*)?(\d+|true|false|yes|no|on|off|deny|allow|denied|blocked)\b`)

// How the names of policies begin that forbid when they are set, and when they
// are not.
var (
	forbidding = []string{"disable", "block", "deny", "no", "prevent", "forbid", "restrict", "prohibit", "refuse", "lock"}
	permitting = []string{"allow", "enable", "permit"}
)

// ofSetups are parts of the names of policies and their keys that are about
// what may be installed or run: a managed machine has many others.
var ofSetups = []string{"install", "setup", "msi", "deploy", "sideload", "trusted", "execut", "script", "package", "upgrade",
	"codeidentifiers", "applocker", "deviceinstall"}

// policySet says that a line, given in small letters, shows a policy that
// forbids something.
func policySet(lower string) (c Clue, ok bool) {
	at := strings.Index(lower, `\policies\`)
	if at < 0 {
		return c, false
	}
	m := policyValue.FindStringSubmatch(lower)
	if m == nil || !slices.ContainsFunc(ofSetups, func(w string) bool { return strings.Contains(m[0], w) }) {
		return c, false
	}
	begins := func(heads []string) bool {
		return slices.ContainsFunc(heads, func(h string) bool { return strings.HasPrefix(m[1], h) })
	}
	off := slices.Contains([]string{"0", "false", "no", "off"}, m[3])
	deny := slices.Contains([]string{"deny", "denied", "blocked"}, m[3])
	if !deny && !(off && begins(permitting)) && !(!off && m[3] != "allow" && begins(forbidding)) {
		return c, false
	}
	return Clue{Class: "policy", Strength: lexicon.Root, Quiet: true, Kind: "policy-value", What: "a policy that forbids: " + m[1] + " is " + m[3], At: at}, true
}

var (
	// unknownWord is said of a word that a program does not know, before it or
	// behind it.
	unknownWord = lazy.MustCompile(`\b(?:unknown|unrecogni[sz]ed|not recogni[sz]ed|not known|invalid|not (?:a )?valid|no such|unsupported|not supported|undefined|unexpected|not understood|unbekannte?[rsn]?|nicht bekannt|ungültige?[rsn]?|inconnue?|invalide|desconocid[oa]|no válid[oa]|sconosciut[oa]|non valid[oa]|desconhecid[oa]|onbekende?|nieznan[yae]|neznám[ýáé]|okän[dt]|bilinmeyen|неизвестн\pL+)`)
	// callHead begins a line that repeats the command line.
	callHead = lazy.MustCompile(`\b(?:command ?line|commandline|cmdline|arguments?|args?|argv|parameters?|params?|switches|options|called with|started with|invoked (?:as|with)|befehlszeile|kommandozeile|argumente|parameter|aufruf|ligne de commande|arguments|línea de comandos|argumentos|riga di comando|argomenti|linha de comando|opdrachtregel|wiersz polecenia|příkazový řádek|kommandorad|komut satırı|командная строка|параметры|аргументы)\b(?:\[\d{1,2}\])?[^:=\w]{0,3}[:=]`)
)

// mostAsked is how many words of a call are kept; no setup is called with more.
const mostAsked = 60

// asked are the words with which the setup was called, as far as a line of the
// run repeats them: of /components=core,dialler both parts, and each of what
// the commas part.
func (r *Run) asked() map[string]bool {
	words := map[string]bool{}
	for i := range r.lines {
		at := callHead.FindStringIndex(r.lines[i].lower)
		if at == nil {
			continue
		}
		for w := range strings.FieldsFuncSeq(r.lines[i].lower[at[1]:], callMark) {
			if w = strings.TrimLeft(w, "-/"); len(w) > 1 && len(words) < mostAsked {
				words[w] = true
			}
		}
	}
	return words
}

// misspelt makes a clue of each line that does not know a word of the command
// line.
func (r *Run) misspelt() {
	words := r.asked()
	if len(words) == 0 {
		return
	}
	r.mistaken(words)
	for i := range r.lines {
		l := &r.lines[i]
		at := unknownWord.FindStringIndex(l.lower)
		if at == nil || callHead.MatchString(l.lower) {
			continue
		}
		near := wordsBefore(l.lower[:at[0]])
		behind := strings.FieldsFunc(l.lower[at[1]:], callMark)
		near = append(near, behind[:min(len(behind), mostNear)]...)
		if w := slices.IndexFunc(near, func(w string) bool { return words[strings.TrimLeft(strings.TrimRight(w, ".:)"), "-/")] }); w >= 0 {
			l.clues = append(l.clues, Clue{Class: "command-line", Strength: lexicon.Root,
				What: "the setup was called with it, and does not know it", Name: strings.TrimRight(near[w], ".:)"), At: max(0, strings.Index(l.lower, near[w]))})
		}
	}
}

// mostNear is how many words before and behind "unknown" may be the unknown
// one.
const mostNear = 4

// wordsBefore are the last words of a text.
func wordsBefore(s string) []string {
	all := strings.FieldsFunc(s, callMark)
	return all[max(0, len(all)-mostNear):]
}

// callMark says whether a sign parts the words of a call.
func callMark(c rune) bool { return strings.ContainsRune(" \t\"'«»„“”(),;=", c) }

// width is a name and one width of a processor, and nothing else.
var width = lazy.MustCompile(`^([\pL][\pL\d ._-]{1,40}?) ?(?:[:=]|is|ist|est|es) ?(32|64)[ -]?bits?\.?$`)

// wrongType is a value's type that is not the one that was wanted: "value
// Count: type 1, wanted 4", "REG_SZ where REG_DWORD is expected".
var wrongType = lazy.MustCompile(`\b(?:type|kind|typ|tipo) ?(?:is |=|:|ist |est )?(reg_\w+|\d{1,2})\b[ ,;(]{1,3}(?:but |and )?(?:wanted|want|wants|expected|expects|expecting|should be|must be|needs?|not|instead of|erwartet|soll|attendu|esperado)(?: is| type| be)?:? ?(reg_\w+|\d{1,2})\b|` +
	`\bexpected (reg_\w+)\b.{0,30}?\b(?:found|got|has|is|was|read) (?:an? )?(reg_\w+)\b|\b(reg_(?:sz|dword|qword|multi_sz|expand_sz|binary|none))\b.{1,30}?\b(?:wanted|expected|should be|must be|instead of|not|where|erwartet|statt)\b.{0,12}?\b(reg_\w+)\b|` +
	`\b(?:should be|must be|has to be|expected|wanted|needs to be|soll|attendu|esperado) (?:an? |to be an? )?(?:reg_)?(dword|qword|string|number|integer|sz|binary|multi_sz)\b[ ,;:(-]{1,4}(?:but |and )?(?:found|is|was|got|it is|has|ist|gefunden|trouvé|encontrado|read) ?:?=? ?(?:an? )?(?:reg_)?(dword|qword|string|text|sz|binary|multi_sz|expand_sz)\b`)

// ofWrongType says that a line tells of a registry value of the wrong type.
func ofWrongType(lower string) (c Clue, ok bool) {
	if !slices.ContainsFunc([]string{"typ", "kind", "tipo", "reg_", "word"}, func(w string) bool { return strings.Contains(lower, w) }) {
		return c, false
	}
	m := wrongType.FindStringSubmatchIndex(lower)
	if m == nil {
		return c, false
	}
	return Clue{Class: "registry", Strength: lexicon.Root, Quiet: true, Kind: "value-type", What: "a value of another type than wanted: " + lower[m[0]:m[1]], At: m[0]}, true
}

// twoSizes are two sizes of one thing that should be the same: "payload
// 734003200 bytes, catalogue says 851443712".
var twoSizes = lazy.MustCompile(`(\d{5,}) ?(?:bytes?|octets|b)?[,;(]{0,2} ?(?:but |and |while )?(?:the )?(?:[\pL-]+ ){0,2}?(?:says?|lists?|declares?|expects?|expected|announces?|wants?|should be|must be|instead of|names?|gives?|differs from|!=|≠|<>|vs\.?|sagt|nennt|erwartet|statt|annonce|attendu)(?: size| of| is)?:? ?(\d{5,})\b`)

// sized is a word by which numbers are sizes.
var sized = lazy.MustCompile(`\b(?:bytes?|size|length|octets|größe|länge|taille|tamaño|dimensione|rozmiar)\b`)

// differentSizes says that a line holds two sizes of one thing.
func differentSizes(lower string) (c Clue, ok bool) {
	if !sized.MatchString(lower) {
		return c, false
	}
	m := twoSizes.FindStringSubmatch(lower)
	if m == nil || m[1] == m[2] {
		return c, false
	}
	return Clue{Class: "corrupt", Strength: lexicon.Tells, Quiet: true, What: m[1] + " bytes, and " + m[2] + " are declared", At: strings.Index(lower, m[1])}, true
}

// architecture is a name of a processor's architecture.
var architecture = lazy.MustCompile(`\b(?:(arm64|aarch64|0xaa64)|(x64|amd64|x86[_-]64|x86|i[3-6]86|0x8664|0x14c))\b`)

// widerThan is a line that says that what has 64 bits cannot be had from what
// has 32, or the other way round.
var widerThan = lazy.MustCompile(`\b(?:amd64|x64|64[- ]?bits?)\b.{0,40}?\b(?:cannot|can't|can not|could not|unable|not|nicht|ne peut|no se puede|non può|não pode)\b.{0,50}?\b(?:32[- ]?bits?|x86|i[3-6]86)\b|` +
	`\b(?:32[- ]?bits?|x86|i[3-6]86)\b.{0,30}?\b(?:cannot|can't|can not|could not|unable to|kann nicht|kann kein\w*|ne peut pas|no puede|non può|não pode)\b.{0,50}?\b(?:amd64|x64|64[- ]?bits?)\b`)

// otherArchitecture says that a line tells of two architectures that do not go
// together: "native machine ARM64, payloads: x64". A program of 32 bits on a
// machine of 64 is none of them.
func otherArchitecture(lower string) (c Clue, ok bool) {
	if !strings.Contains(lower, "64") {
		return c, false
	}
	if strings.Contains(lower, "32") || strings.Contains(lower, "86") {
		if at := widerThan.FindStringIndex(lower); at != nil {
			return Clue{Class: "platform", Strength: lexicon.Tells, Quiet: true, Kind: "bits", What: "64 bits where there are 32", At: at[0]}, true
		}
	}
	if !strings.Contains(lower, "arm64") && !strings.Contains(lower, "aarch64") && !strings.Contains(lower, "0xaa64") {
		return c, false
	}
	var arm, intel string
	for _, m := range architecture.FindAllStringSubmatch(lower, mostNear) {
		arm, intel = arm+m[1], intel+m[2]
	}
	if arm == "" || intel == "" {
		return c, false
	}
	return Clue{Class: "platform", Strength: lexicon.Tells, Quiet: true, Kind: "processor", What: "two architectures", At: strings.Index(lower, "64")}, true
}

// leftEmpty is a value of an answer file that is empty: "office.rsp: MapDir=
// (empty)".
var leftEmpty = lazy.MustCompile(`\b(?:[\w.-]+\.(?:rsp|ini|cfg|conf|xml|json|ya?ml|toml|iss|txt)|answers?|responses?|answer file|response file)\b.{0,40}?\b([a-z][\w.]{2,40}) ?[=:] ?(?:\(empty\)|<empty>|\(not set\)|<not set>|not set|is empty|empty|""|\(leer\)|\(vide\)|\(vacío\))\s*$`)

// emptyAnswer says that a line tells of an answer that an answer file leaves
// empty.
func emptyAnswer(lower string) (c Clue, ok bool) {
	if lower == "" || !strings.ContainsAny(lower, "=:") || !strings.ContainsAny(lower[len(lower)-1:], `)>"yt`) {
		return c, false
	}
	m := leftEmpty.FindStringSubmatchIndex(lower)
	if m == nil {
		return c, false
	}
	return Clue{Class: "command-line", Strength: lexicon.Tells, Quiet: true, Kind: "answer", What: "an answer that is left empty: " + lower[m[2]:m[3]], At: m[2]}, true
}

// takenForValue is an option that was taken for the value of the one before it:
// "port: --data=E:\\lic".
var takenForValue = lazy.MustCompile(`^(?:[\w.-]+: )?([a-z][\w-]{1,24}) *[:=] *["']?(?:--?|/)([a-z][\w-]{1,30})`)

// mistaken makes a clue of each line that shows such a value, of an option with
// which the setup was called.
func (r *Run) mistaken(asked map[string]bool) {
	for i := range r.lines {
		l := &r.lines[i]
		m := takenForValue.FindStringSubmatch(l.lower)
		if m == nil || !asked[m[1]] || callHead.MatchString(l.lower) {
			continue
		}
		l.clues = append(l.clues, Clue{Class: "command-line", Strength: lexicon.Tells, Quiet: true, Kind: "value", Name: m[1],
			What: "an option that was taken for the value of " + m[1], At: strings.Index(l.lower, m[2])})
	}
}

// widthsApart is how many lines may stand between two widths that are compared.
const widthsApart = 6

// widths compares, for a failure that says nothing itself, what lines near the
// failure say of widths: "host: 64-bit", "this package: 32-bit".
func (r *Run) widths() {
	if !r.mute() {
		return
	}
	r.processors()
	last := -1
	var before []string
	for i := range r.lines {
		l := &r.lines[i]
		m := width.FindStringSubmatch(strings.TrimSpace(l.lower))
		if m == nil || l.noise {
			continue
		}
		if before != nil && i-last <= widthsApart && before[1] != m[1] && before[2] != m[2] && l.linked >= linkedAround {
			l.clues = append(l.clues, Clue{Class: "platform", Strength: lexicon.Root, Compared: true, Kind: "bits",
				What: before[1] + ": " + before[2] + " bits, " + m[1] + ": " + m[2]})
			l.linked = max(l.linked, linkedMute)
		}
		last, before = i, m
	}
}

var (
	// builtFor is for which processor a package is made:
	// package=merlin-1.3-arm64.pkg.
	builtFor = lazy.MustCompile(`\b(?:package|payload|installer|bundle|image|setup|build|pkg|paket|installer|paquet|paquete|pacchetto|pacote|pakket|pakiet|balíček)\b.{1,60}?(?:\b|_)(arm64|aarch64|x64|amd64|x86)(?:\b|_)`)
	// runsOn is which one the machine has: host cpu=x64.
	runsOn = lazy.MustCompile(`\b(?:host|machine|cpu|processor|native|os|os arch|os architecture|architecture|prozessor|processeur|procesador|processore|processador)\b[^,;]{0,16}?[ =:](arm64|aarch64|x64|amd64|x86)\b`)
)

// unfit says whether a program for one processor cannot run on another: those
// for Intel's run on ARM's, and 32 bits on 64.
func unfit(program, machine string) bool {
	arm := func(p string) bool { return p == "arm64" || p == "aarch64" }
	return arm(program) && !arm(machine) || (program == "x64" || program == "amd64") && machine == "x86"
}

// processors compares, for a failure that says nothing itself, for which
// processor a package is made with the one that is there.
func (r *Run) processors() {
	program, machine := "", ""
	for i := range r.lines {
		l := &r.lines[i]
		if m := builtFor.FindStringSubmatch(l.lower); m != nil && program == "" {
			program = m[1]
		}
		if m := runsOn.FindStringSubmatch(l.lower); m != nil && machine == "" {
			machine = m[1]
		}
		if program != "" && machine != "" {
			if unfit(program, machine) {
				l.clues = append(l.clues, Clue{Class: "platform", Strength: lexicon.Root, Compared: true, Kind: "processor", What: "made for " + program + ", here is " + machine})
				l.linked = max(l.linked, linkedMute)
			}
			return
		}
	}
}

// uncount leaves out the numbers of lines that count: of one form and not
// grave, with many different numbers.
func (r *Run) uncount() {
	type form struct {
		source, head string
		words        int
	}
	// Lines of one form with ever other numbers count something; those numbers
	// are no codes.
	of := func(l *line) form {
		f := strings.Fields(l.lower)
		head := ""
		if len(f) > 0 {
			head = strings.TrimRight(f[0], "0123456789:=.,")
		}
		return form{l.Source, head, len(f)}
	}
	seen := map[form]map[int]bool{}
	for i := range r.lines {
		l := &r.lines[i]
		for _, c := range l.clues {
			if c.Code != nil && c.Loose && l.Kind > story.KindWarning {
				f := of(l)
				if seen[f] == nil {
					seen[f] = map[int]bool{}
				}
				seen[f][*c.Code] = true
			}
		}
	}
	for i := range r.lines {
		l := &r.lines[i]
		if l.Kind > story.KindWarning && len(seen[of(l)]) >= counting {
			l.clues = slices.DeleteFunc(l.clues, func(c Clue) bool { return c.Code != nil && c.Loose })
		}
	}
}

// counting is how many different numbers in lines of one form make them counts.
const counting = 3

// does is a word for what is done with a file, a key or a service.
var does = lazy.MustCompile(`\b(?:open|writ|creat|delet|remov|renam|mov|read|load|replac|copy|copi|prob|touch|start|stop|set|regist|extract|unpack|expand|link|mount|lock|schreib|öffn|lösch|lad|kopier|écri|ouvr|lire|abrir|escrib|crear|leer|aprire|scriv|leggere|откры|запис|созда|удал)\pL*`)

// given marks the numbers behind a thing on which something was done as what
// the OS gave back: "write C:\Tide\x.dll -> 5", "opening codec.dll for a look:
// 225".
func given(text, lower string, clues []Clue) {
	for i := range clues {
		c := &clues[i]
		if !c.Loose || c.Code == nil {
			continue
		}
		before := lower[:min(c.At, len(lower))]
		marks := before[len(strings.TrimRight(before, " :=>-")):]
		_, rated := ratings()["system"][*c.Code]
		called := c.Class != "path" && callHeads.MatchString(text) // what is not there is looked for all the time
		told := strings.Contains(marks, ">") || *c.Code >= leastBehindColon
		if rated && (called || told && does.MatchString(before) && slices.ContainsFunc(names.In(text), onDisk)) {
			c.Loose, c.OwnCode, c.Call = false, false, true
		}
	}
}

// callHeads is the name of a function of the OS at the beginning of a line:
// "RegSetValueEx HKLM\…: 5".
var callHeads = lazy.MustCompile(`^(?:[\w.]{1,16} +)?(?:Reg|Create|Open|Write|Copy|Move|Delete|Load|Set|Get|Find|Remove|Replace)[A-Z][A-Za-z]{3,}\b`)

// onDisk says whether a name is that of a file or of a key.
func onDisk(n names.Name) bool {
	return n.Kind == names.Path || n.Kind == names.File || n.Kind == names.Key
}

// leastBehindColon is the least number that is believed behind a colon alone:
// smaller ones are counts of what was done.
const leastBehindColon = 100

// linkedMute is how surely a cause that is set down elsewhere has to do with a
// failure that says nothing itself: somebody looking for it would stop there.
const linkedMute = 0.85

// NameIn is what a clue for a class says that a message is about; empty where
// none tells.
func (r *Run) NameIn(m *story.Message, class string) string {
	i, ok := r.place[m]
	if !ok {
		return ""
	}
	for _, c := range r.lines[i].clues {
		if c.Class == class && c.Name != "" {
			return c.Name
		}
	}
	return ""
}

// Alike is how many lines have the shape of a message.
func (r *Run) Alike(m *story.Message) int {
	if i, ok := r.place[m]; ok {
		return r.alike[r.lines[i].shape]
	}
	return 0
}

// Besides says whether a message is what another part than a source says all
// the time, or below the usual level, while that one works.
func (r *Run) Besides(m *story.Message, source string) bool {
	return m.Source != "" && m.Source != source && m.Kind > story.KindWarning &&
		(r.Alike(m) >= fewAlike || r.levels && m.Kind == story.KindText)
}

// fewAlike is how many lines of one shape are more than chance.
const fewAlike = 3

// Noise says whether a message is of a shape that comes all the time.
func (r *Run) Noise(m *story.Message) bool {
	i, ok := r.place[m]
	return ok && r.lines[i].noise
}

// mute says whether no line in which the run broke speaks of any cause, but for
// a program of the setup's own that failed, and for what a person is told to
// look at.
func (r *Run) mute() bool {
	return !slices.ContainsFunc(r.burst, func(i int) bool {
		l := &r.lines[i]
		return !l.advises && slices.ContainsFunc(l.clues, func(c Clue) bool { return c.tellsMore() && !c.Guess })
	})
}

// carries says whether a clue is heard from afar. A look for what is not there
// is no failure.
func (c Clue) carries() bool {
	return c.Quiet || c.Call && !(c.Class == "path" && c.Strength == lexicon.Echo)
}

// listen links what is set down elsewhere with a failure that says nothing:
// what the OS gave back, and what forbids.
func (r *Run) listen() {
	if len(r.burst) == 0 || !r.mute() {
		return
	}
	for i := range r.lines {
		l := &r.lines[i]
		made := l.noise || l.otherwise || r.again[l.Message]
		if l.pos <= r.end && !made && slices.ContainsFunc(l.clues, Clue.carries) {
			l.linked = max(l.linked, linkedMute)
			for k := range l.clues {
				if l.clues[k].Quiet {
					l.clues[k].Strength = lexicon.Root
				}
			}
		}
	}
}
