// This file has the forms of such notes.

package evidence

import (
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/lexicon"
)

// Notes that a setup makes on its way, none of which it calls a failure: they
// are heard where the failure itself says nothing.

// A quietForm is a note that tells a cause to somebody who knows what to look
// for.
type quietForm struct {
	needs []string // one of these stands in every match, in small letters
	form  *lazy.Regexp
	class string
	kind  string
	sure  bool // it is seldom so where a setup works
	what  string
}

// quietForms are such notes. What they speak of is often all right: none of
// them weighs anything where a line in which it broke speaks of a cause.
var quietForms = []quietForm{
	{[]string{"deny", "medium", "admin", "elevat", "limited", "filtered"},
		lazy.MustCompile(`\bdeny[- ]only\b|\b(?:integrity(?: level)?|il)["']?\s?[:= ]\s?["']?medium\b|\bmedium (?:integrity|mandatory)\b|\b(?:is[_ -]?)?elevat(?:ed|ion)["']?\s?[:=]\s?["']?(?:no|false|0|none|limited)\b|` +
			`\b(?:is[_ -]?)?(?:user ?)?(?:an)?admin(?:istrator)?["']?\s?[:=]\s?["']?(?:no|false|0)\b|\b(?:filtered|limited|standard user) token\b|\btokenelevationtypelimited\b`),
		"elevation", "token", false, "the account's token has no administrator rights"},
	{[]string{"offline", "disconnected", "not connected", "getrennt", "hors ligne", "sin conexión"},
		lazy.MustCompile(`\\\\[\w.$-]+\\[^,;]{1,120}[,;: (]{1,3}.{0,24}?\b(?:offline|disconnected|not connected|getrennt|hors ligne|sin conexión)\b`),
		"source", "share-offline", true, "the share that it is installed from is offline"},
	{[]string{"sql", "odbc", "vcruntime", "redist", "msvcp", "webview", "jre", "jdk", "java", ".net", "dotnet", "msxml", "directx", "framework", "runtime"},
		lazy.MustCompile(`(?:^|[ :"'(])((?:msoledbsql|sqlncli|sqloledb|msodbcsql|odbc driver|vcruntime|msvcp|webview2?|jre|jdk|java|\.net|dotnet|msxml|directx|[\pL+]+ (?:framework|runtime|redist\w*))[\w. -]{0,24}?)(?: ?(?::|=|->|is|was|ist|est) ?)(?:absent|missing|not (?:there|found|installed|present|registered)|none|fehlt|nicht (?:da|gefunden|installiert|vorhanden)|absente?|introuvable|ausente|mancante)(?:\.?$|[,;(])`),
		"prerequisite", "runtime", false, "what other programs need was looked for and not found"},
	{[]string{"pid"},
		lazy.MustCompile(`\b(?:handles?|open(?:ed)?|held|holds|holder|geöffnet|offene?|gehalten|gestionnaires?|ouverte?s?|abiert[oa]s?|aperte?|apert[oi]|abert[oa]s?|geopend|otwart[ey]|otevřen\w*|öppna\w*|открыт\w*)\b.{0,40}\bpid[ :=#]{0,2}\d+\b.{0,60}?([\w.-]+\.exe)\b.{0,40}[a-z]:\\|` +
			`[a-z]:\\.{2,200}\b(?:open(?:ed)?|held|locked|used|geöffnet|gehalten|gesperrt|ouverte?|verrouillée?|abierto|aperto|aberto)\b.{0,24}\bpid[ :=#]{0,2}\d+\b.{0,40}?([\w.-]+\.exe)\b`),
		"in-use", "holder", true, "a program that has it open"},
	{[]string{"switch", "option", "argument", "parameter", "flag", "schalter", "parámetro", "opción", "opzione"},
		lazy.MustCompile(`\b(?:unknown|unrecogni[sz]ed|unsupported|invalid|illegal|unbekannter|inconnue?|desconocid[oa]|sconosciut[oa]) (?:command[- ]line )?(?:switch|option|argument|parameter|flag|schalter|paramètre|parámetro|opción|opzione):? ["']?([/-]{1,2}[\w-]+)`),
		"command-line", "", false, "the setup was called with what it does not know"},
}

// quietIn finds what a line, and the same in small letters, notes by the way.
func quietIn(text, lower string) (clues []Clue) {
	if len(text) != len(lower) { // places do not agree
		text = lower
	}
	for _, q := range quietForms {
		if !slices.ContainsFunc(q.needs, func(w string) bool { return strings.Contains(lower, w) }) {
			continue
		}
		if at := q.form.FindStringSubmatchIndex(lower); at != nil {
			c := Clue{Class: q.class, Strength: lexicon.Tells, Quiet: q.sure, Kind: q.kind, What: q.what, At: at[0]}
			for g := 2; g+1 < len(at) && c.Name == ""; g += 2 {
				if at[g] >= 0 {
					c.Name = text[at[g]:at[g+1]]
				}
			}
			clues = append(clues, c)
		}
	}
	return clues
}

var (
	// foundOf is a thing of which a version was found: "crm client on this
	// machine: 8.1.4", "runtime found: … (x86) 6.1".
	foundOf = lazy.MustCompile(`^\W*((?:[\pL.+#-]{2,20} ){0,3}?[\pL.+#-]{2,20})(?:[:=,]? (?:is|was|have|has|version|on this (?:machine|computer|pc)|here|found|installed|present|detected|in place|currently|there|gefunden|installiert|vorhanden|trouvée?|installée?|encontrad[oa]|instalad[oa]))+ ?[:=]? ?(.*)$`)
	// wantsOf is a word by which a line tells what will do.
	wantsOf = lazy.MustCompile(`\b(?:wanted|wants|needs|needed|requires|required|works with|made for|built for|supports|supported|expects|expected|minimum|at least|or later|or newer|up to|braucht|benötigt|erwartet|mindestens|unterstützt|exige|requiert|attendue?|necesita|requiere|richiede)\b`)
	// versionsIn are numbers with points.
	versionsIn = lazy.MustCompile(`\b\d{1,4}(?:\.\d{1,6}){1,3}\b`)
	// bitsIn is for which processors something is, and of how many bits.
	bitsIn = lazy.MustCompile(`\b(?:(x64|amd64|64[- ]bits?)|(x86|i[3-6]86|32[- ]bits?))\b`)
)

// lostUninstaller is a program for removing an earlier version that is not
// there.
var lostUninstaller = lazy.MustCompile(`\b(?:unins\w*\.exe|uninstaller|uninstall (?:string|command|program)|deinstallationsprogramm|désinstalleur|desinstalador|disinstallatore)\b.{0,80}?\b(?:no such file|not found|does not exist|missing|is gone|not there|not present|nicht gefunden|fehlt|introuvable|no existe|non trovato)\b`)

// ofUninstaller says that a line misses one.
func ofUninstaller(lower string) (c Clue, ok bool) {
	if !slices.ContainsFunc([]string{"unins", "deins", "désins", "desins", "disins"}, func(w string) bool { return strings.Contains(lower, w) }) {
		return c, false
	}
	at := lostUninstaller.FindStringIndex(lower)
	if at == nil {
		return c, false
	}
	return Clue{Class: "leftover", Strength: lexicon.Tells, Quiet: true, Kind: "uninstaller", What: "what should remove the earlier one is not there", At: at[0]}, true
}

// mostFound is how many found things of a run are kept.
const mostFound = 60

// fits compares, for a failure that says nothing itself, what was found of a
// thing with what another line wants of it: its version, and for which
// processors it is.
func (r *Run) fits() {
	if !r.mute() {
		return
	}
	type found struct {
		rest string
		at   int
	}
	have := map[string]found{}
	for i := range r.lines {
		l := &r.lines[i]
		if m := foundOf.FindStringSubmatch(l.lower); m != nil && len(have) < mostFound && !wantsOf.MatchString(l.lower) && !l.noise {
			if _, known := have[m[1]]; !known {
				have[m[1]] = found{m[2], i}
			}
		}
	}
	if len(have) == 0 {
		return
	}
	for i := range r.lines {
		l := &r.lines[i]
		if l.noise || !wantsOf.MatchString(l.lower) || notWanted.MatchString(l.lower) {
			continue
		}
		for name, f := range have {
			at := strings.Index(l.lower, name)
			if at < 0 || f.at == i || strings.EqualFold(name, r.a.Product.Name) {
				continue
			}
			wanted := l.lower[at+len(name):]
			class, what := unfitting(f.rest, wanted)
			if class == "" || !wishNear(l.lower[:at], wanted) {
				continue
			}
			l.clues = append(l.clues, Clue{Class: class, Strength: lexicon.Root, Compared: true, Name: name, Kind: map[string]string{"platform": "bits", "prerequisite": "version"}[class],
				What: fmt.Sprintf("%s: %s (line %d)", name, what, r.lines[f.at].Line)})
			l.linked = max(l.linked, linkedMute)
		}
	}
}

// notWanted is a line that tells of a wish that is met, that is no must, or
// that the setup meets itself.
var notWanted = lazy.MustCompile(`: ?(?:ok|yes|met|fine)$|\b(?:part of|included|comes with|brings|will be (?:installed|updated|upgraded|replaced|added)|instead|optional(?:ly)?|falls? back|skipp\w+|recommended|if (?:it is )?present|is met|satisfied)\b`)

// nearWish is how many bytes behind a name the word for a wish stands at most,
// where it does not stand before it.
const nearWish = 24

// wishNear says whether the word for a wish stands before a name, or right
// behind it: "agent 5.0 is a part that is needed later" is none.
func wishNear(before, behind string) bool {
	at := wantsOf.FindStringIndex(behind)
	return wantsOf.MatchString(before) || at != nil && at[0] <= nearWish
}

// unfitting says what of a thing that was found is not as wanted; no class
// where nothing shows.
func unfitting(found, wanted string) (class, what string) {
	is, should := bitsIn.FindStringSubmatch(found), bitsIn.FindStringSubmatch(wanted)
	if is != nil && should != nil && (is[1] == "") != (should[1] == "") {
		return "platform", should[0] + " is wanted, and it is " + is[0]
	}
	have, want := versionsIn.FindString(found), versionsIn.FindAllString(wanted, 2)
	if have == "" || len(want) == 0 {
		return "", ""
	}
	v, low := version(have), version(want[0])
	if slices.Compare(v, low) < 0 && !strings.HasPrefix(want[0], have) {
		return "prerequisite", want[0] + " is wanted, and it is " + have
	}
	if len(want) == 2 && slices.Compare(v, version(want[1])) > 0 && slices.Compare(version(want[1]), low) > 0 {
		return "prerequisite", "up to " + want[1] + " is wanted, and it is " + have
	}
	return "", ""
}

var (
	// clocks are words by which two times of a line are those of two clocks.
	clocks = lazy.MustCompile(`\b(?:clock|time|uhr|uhrzeit|zeit|heure|hora|ora|tid)\b`)
	// timeIn is a whole time.
	timeIn = lazy.MustCompile(`\b(\d{4}-\d\d-\d\d)[t ](\d\d:\d\d)(?::\d\d)?`)
	// otherClock is a word for somebody else's clock.
	otherClock = lazy.MustCompile(`\b(?:server|domain|dc|kdc|remote|network|ntp|peer|host|portal|gateway|real|actual|expected)\b`)
)

// longestSkew is how far two clocks may be apart for what checks the time:
// Kerberos takes five minutes, and other zones make a day.
const longestSkew = 26 * time.Hour

// twoClocks says that a line tells two times that are no one moment: "device
// time 2019-01-01T00:07, server time 2026-11-02T09:14".
func twoClocks(lower string) (c Clue, ok bool) {
	if !clocks.MatchString(lower) || !otherClock.MatchString(lower) {
		return c, false
	}
	all := timeIn.FindAllStringSubmatch(lower, 3)
	if len(all) != 2 {
		return c, false
	}
	a, err := time.Parse("2006-01-02 15:04", all[0][1]+" "+all[0][2])
	b, bad := time.Parse("2006-01-02 15:04", all[1][1]+" "+all[1][2])
	if apart := a.Sub(b).Abs(); err != nil || bad != nil || apart <= longestSkew {
		return c, false
	}
	return Clue{Class: "network", Strength: lexicon.Tells, Quiet: true, Kind: "clock", What: "two clocks that do not agree"}, true
}

// byTheWay adds what the lines of a run note by the way.
func (r *Run) byTheWay() {
	if !r.mute() {
		return
	}
	for i := range r.lines {
		l := &r.lines[i]
		if l.noise || l.pos > r.end || l.Kind <= story.KindWarning && l.fails {
			continue
		}
		if found := quietIn(l.Text, l.lower); len(found) > 0 {
			l.clues = append(l.clues, found...)
			l.linked = max(l.linked, linkedMute)
		}
		if c, ok := twoClocks(l.lower); ok {
			l.clues = append(l.clues, c)
		}
	}
}

// constrained is something in the version that is asked for as programs' own
// lists of parts write it, with what says that there is none: "requires
// kelp-codec >= 2.4", "kelp-codec>=2.4 was not found".
var constrained = lazy.MustCompile(`\b(?:requires?|needs?|missing|could not find|cannot find|can't find|no match(?:ing)?(?: version)? (?:for|of)|no version of|unsatisfied|unmet|not satisfied:?|depends on|install|satisfies the requirement|benötigt|erfordert|requiert|necesita|richiede)[^;]{0,40}?[ "'(]([a-z][\w.+-]{1,40}?) ?(?:>=|==|~=|~>|<=|\^|=>) ?v?\d+(?:\.\d+)*|` +
	`(?:^|[ "'(])([a-z][\w.+-]{1,40}?) ?(?:>=|==|~=|~>|<=|\^) ?v?\d+(?:\.\d+)*["')]? (?:is |was |are |could )?(?:not (?:be )?(?:found|installed|available|present|met|satisfied|there)|missing|required|needed|unavailable|absent|nicht gefunden|fehlt|introuvable|no encontrado)`)

// operators stand between a thing and the version that is asked for.
var operators = []string{">=", "==", "~=", "~>", "<=", "^", "=>"}

// ofConstraint says that a line asks for something in a version that is not
// there.
func ofConstraint(lower string) (c Clue, ok bool) {
	if !slices.ContainsFunc(operators, func(o string) bool { return strings.Contains(lower, o) }) {
		return c, false
	}
	at := constrained.FindStringSubmatchIndex(lower)
	if at == nil {
		return c, false
	}
	from, to := at[2], at[3]
	if from < 0 {
		from, to = at[4], at[5]
	}
	return Clue{Class: "prerequisite", Strength: lexicon.Tells, What: "something in a version that is asked for", At: at[0], Name: lower[from:to]}, true
}

// fullDrive is a drive that has no space left, said of the drive alone: "D: is
// full", "drive D is full", and not "full of old logs".
var fullDrive = lazy.MustCompile(`(?:\b(?:drive|disk|volume|partition|laufwerk|lecteur|disque|unidad|disco|unità|unidade|schijf|dysk)\b ["']?[a-z]\b|["' (]?\b[a-z]:)[\\"')]{0,3} (?:is|ist|est|está|è|jest|je|är) (?:full|voll|plein|llen[ao]|pien[oa]|chei[oa]|vol|pełny|plný)(?:$|[.,;!)])`)

// lostDrive is a drive that is not there, or does not answer, said of the drive
// alone: "S: is unavailable", "volume S: not mounted".
var lostDrive = lazy.MustCompile(`(?:^|[ "'(])(?:(?:drive|disk|volume|partition|laufwerk|lecteur|unidad|unità|unidade|schijf|stacja|jednotka) )?["']?[a-z]:[\\"')]{0,3} (?:is |was |ist |est |está |è )?(?:unavailable|not (?:available|ready|mounted|there|present|connected|accessible|reachable)|missing|gone|offline|unreachable|disconnected|nicht (?:verfügbar|bereit|vorhanden|da|verbunden)|indisponible|absent|no disponible|non disponibile|indisponível)(?:$|[.,;!)]| \()`)

// inDrive are words for what lies in a drive: it is what is installed that is
// not there.
var inDrive = lazy.MustCompile(`\b(?:media|medium|disc|cd|dvd|insert|source|quelle|datenträger)\b`)

// ofLost are pieces of which a line has one that tells of a drive that is not
// there: what follows its colon.
var ofLost = sync.OnceValue(func() *pieces.Set {
	return pieces.New([]string{": is ", ": not ", ": was ", ": ist ", ": est ", ": un", ": missing", ": gone", ": off", ": dis", ": nicht ", ": ind", ": abs", ": no ", ": non ",
		`:\ is `, `:\ not `, ":' ", ":\" ", ":) "})
})

// ofLostDrive says that a line tells of one.
func ofLostDrive(lower string) (c Clue, ok bool) {
	if !ofLost().Any(lower) { // as most lines
		return c, false
	}
	at := lostDrive.FindStringIndex(lower)
	if at == nil || inDrive.MatchString(lower) {
		return c, false
	}
	return Clue{Class: "path", Strength: lexicon.Tells, What: "a drive that is not there", At: at[0]}, true
}

// startsService is a command that starts a service, with what it ended with.
var startsService = lazy.MustCompile(`\b(?:net1?(?:\.exe)? start|sc(?:\.exe)? start|start-service)\b[^;|&]{1,80}?(?:\b(?:returned|exited|ended|failed|finished)\b(?: with)?(?: (?:exit )?code)?[ :]{0,2}|-> ?|: ?(?:rc|exit code)[ =]{0,2})(?:[1-9]|failed|$)`)

// ofStartedService says that a line tells of one that failed.
func ofStartedService(lower string) (c Clue, ok bool) {
	if !strings.Contains(lower, "start") {
		return c, false
	}
	at := startsService.FindStringIndex(lower)
	if at == nil {
		return c, false
	}
	return Clue{Class: "service", Strength: lexicon.Tells, What: "a service that was to be started", At: at[0]}, true
}

// ofFullDrive says that a line tells of one.
func ofFullDrive(lower string) (c Clue, ok bool) {
	at := fullDrive.FindStringIndex(lower)
	if at == nil {
		return c, false
	}
	return Clue{Class: "space", Strength: lexicon.Root, What: "a drive that is full", At: at[0]}, true
}

var (
	// putsIn begins a line that tells that what is missing is put in now.
	putsIn = lazy.MustCompile(`\b(?:install(?:ing|s)|enabl(?:ing|es)|activat(?:ing|es)|turning on|adding|download(?:ing|s)|fetching|running|starting|launching|installiere|aktiviere|lade|starte|wird (?:installiert|aktiviert)|installation (?:de|du|von)|activation d|instalando|activando|instalo|installo|attivo|installando|attivazione|ativando|installeren van|instaluj\w*|włącz\w*|instalace|povol\w*|installerar|aktiverar|startar|yükleniyor|etkinleştir\w*|устанавлива\w*|включа\w*)\b|/enable-feature|\bvc_?redist|\bdotnet-?(?:install|runtime)|\bndp\d`)
	// soonPutIn is how many lines behind what is missing it is put in.
	soonPutIn = 4
	// putInFactor is what is left of what is missing where it is put in, and
	// that breaks over something else.
	putInFactor = 0.35
)

// putIn weakens what a setup found missing and went on to put in, where that
// failed over a cause of its own.
func (r *Run) putIn() {
	if r.a.Success == nil || *r.a.Success {
		return
	}
	for i := range r.lines {
		l := &r.lines[i]
		missing := func(c Clue) bool {
			return c.Class == "prerequisite" && c.Strength == lexicon.Root && c.Code == nil && !c.Thing
		}
		if l.noise || !slices.ContainsFunc(l.clues, missing) {
			continue
		}
		for k := i + 1; k < len(r.lines) && k <= i+soonPutIn; k++ {
			if putsIn.MatchString(r.lines[k].lower) && r.brokeOtherwise(k) {
				l.linked *= putInFactor
				break
			}
		}
	}
}

// brokeOtherwise says whether a line behind the k-th tells a cause that is no
// prerequisite by more than an echo, or by a number.
func (r *Run) brokeOtherwise(k int) bool {
	other := func(c Clue) bool {
		words := !c.Guess && !c.Thing && !c.Loose && (c.Strength == lexicon.Root || c.Strength == lexicon.Tells || c.Code != nil)
		return c.Class != "prerequisite" && c.tellsMore() && words
	}
	return slices.ContainsFunc(r.lines[k+1:], func(l line) bool { return l.pos <= r.end && !l.passes && slices.ContainsFunc(l.clues, other) })
}
