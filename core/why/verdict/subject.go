// This file settles what a cause is about: of all names near it, the one that
// its class wants.

package verdict

import (
	"cmp"
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/signs"
)

// What a cause is about: the file, key, service, host or option that the
// telling lines name, or those right before them.

// wanted are the kinds of names that a class is about, the likeliest first.
var wanted = map[string][]names.Kind{
	"permission": {names.Path, names.Key, names.File}, "in-use": {names.Path, names.File},
	"service":   {names.Service, names.Unsure, names.Account},
	"elevation": {names.Path, names.File}, "cancelled": {names.Path, names.File}, "unknown": {names.Path, names.File},
	"network": {names.Host, names.Unsure}, "space": {names.Drive, names.Path}, "source": {names.Path, names.Drive, names.File},
	"path": {names.Path, names.File, names.Drive}, "security-software": {names.Path, names.File}, "registry": {names.Key},
	"component-store": {names.Unsure},
	"cached-package":  {names.Path, names.File},
	"policy":          {names.Key, names.Path, names.File},
	"prerequisite":    {names.File, names.Path, names.Unsure}, "corrupt": {names.File, names.Path},
	"leftover": {names.Service, names.Path, names.Key, names.File, names.Unsure},
	"platform": {names.File, names.Path}, "condition": {names.Unsure, names.File}, "command-line": {names.Option, names.Unsure, names.Path, names.File},
	"custom-action": {names.File, names.Path, names.Unsure}, "busy": {names.File, names.Unsure}, "database": {names.Unsure, names.File},
}

var kindWords = map[names.Kind]string{names.Package: "package", names.Path: "file", names.File: "file",
	names.Key: "key", names.Host: "host", names.Service: "service",
	names.Drive: "drive", names.Account: "account", names.Unsure: "program",
	names.Option: "option"}

// around is how many lines before the telling one are searched for a name of
// the wanted kind when it has none itself.
const around = 12

// ahead is how many lines a message stands before the telling one; less than 0
// behind it.
func (j *judge) ahead(m *story.Message) int { return j.a.Apart(m, j.anchor[0]) }

// close says whether a message stands around the telling line.
func (j *judge) close(m *story.Message) bool { n := j.ahead(m); return n <= around && -n <= around }

// subject is what the lines of a cause name, or those right before them: of a
// host the name without its port, and never the name of an error.
func (j *judge) subject(class string) *signs.Subject {
	if len(j.anchor) == 0 {
		return nil
	}
	return plainSubject(j.namedFor(class))
}

// plainSubject is what a cause is about without what stands beside its name.
func plainSubject(s *signs.Subject) *signs.Subject {
	switch {
	case s == nil, errorName.MatchString(s.Name):
		return nil
	case s.Kind == "" && hasExtension.MatchString(s.Name): // what a function was called with
		s.Kind = kindWords[names.File]
	case s.Kind == "":
		s.Kind = kindWords[names.Unsure]
	case s.Kind == "host" && strings.Count(s.Name, ":") == 1: // of more it is an address of IP 6
		s.Name, _, _ = strings.Cut(s.Name, ":")
	}
	return s
}

// errorName is the name of an error as the platform SDK has it.
var errorName = lazy.MustCompile(`^(?:ERROR|STATUS|WSA|RPC_S|E)_?[A-Z][A-Z0-9_]*_[A-Z0-9_]+$`)

// namedFor is subject before it is made plain: what a sentence names outright
// comes first, then what its lines name, then what those right before them
// handled.
func (j *judge) namedFor(class string) *signs.Subject {
	near := j.before()
	if class == "cancelled" { // a person stopped it, whatever was handled then; or refused to let a program start
		started := slices.DeleteFunc(near[:min(len(near), justBegun)], func(m *story.Message) bool {
			return !startsProgram.MatchString(firstLine(m.Text))
		})
		return j.subjectIn(append(j.anchor[:1:1], started...), []names.Kind{names.File, names.Path}, anything)
	}
	for _, found := range []func(string, []*story.Message) *signs.Subject{j.ofForms, j.ofSameThing, j.ofTelling} {
		if s := found(class, near); s != nil {
			return s
		}
	}
	if s := j.ofHandled(class, near); s != nil {
		return s
	}
	return j.ownFile(class)
}

// ownFiles are classes that are about files of any kind, also one that only the
// vendor's own program knows: base.qpk.
var ownFiles = map[string]bool{"corrupt": true, "source": true, "in-use": true, "security-software": true}

// ownFileForm is such a name: one dot, behind which few letters stand.
var ownFileForm = lazy.MustCompile(`(?:^|[\s"'(\[])([A-Za-z0-9][\w-]{1,60}\.(?:[a-z][a-z0-9]{1,4}|[A-Z][A-Z0-9]{1,4}))(?:["')\],:;]|\s|\.?$)`)

// ownFile is such a file in the telling line, where nothing else is named that
// the cause could be about: it begins the line, or another line names it, too.
func (j *judge) ownFile(class string) *signs.Subject {
	if !ownFiles[class] {
		return nil
	}
	text := firstLine(j.anchor[0].Text)
	for _, f := range ownFileForm.FindAllStringSubmatch(text, 4) {
		again := func(m *story.Message) bool { return m != j.anchor[0] && strings.Contains(m.Text, f[1]) }
		if strings.HasPrefix(text, f[1]) || slices.ContainsFunc(j.a.Messages, again) {
			return &signs.Subject{Kind: "file", Name: f[1]}
		}
	}
	return nil
}

// ofSameThing is what the telling lines name in words that they share with
// others, or in words of their class.
func (j *judge) ofSameThing(class string, near []*story.Message) *signs.Subject {
	if found := j.sameWords(class); found != nil {
		return found
	}
	if f := lackedIn.FindStringSubmatch(firstLine(j.anchor[0].Text)); f != nil && ofFiles[class] {
		return &signs.Subject{Kind: "file", Name: f[1]}
	}
	for _, m := range j.anchor {
		// What an older version is called stands in the refusal itself.
		if class == "leftover" {
			if f := firstRemove.FindStringSubmatch(firstLine(m.Text)); f != nil {
				return &signs.Subject{Kind: "product", Name: cmp.Or(f[1:]...)}
			}
			if name := inTheWay(firstLine(m.Text)); name != "" {
				return &signs.Subject{Kind: "product", Name: name}
			}
		}
		if class != "prerequisite" && class != "registry" {
			continue
		}
		if f := classID.FindStringSubmatch(firstLine(m.Text)); f != nil {
			return &signs.Subject{Kind: "key", Name: cmp.Or(f[1:]...)}
		}
		if notRegistered.MatchString(firstLine(m.Text)) { // what was asked for stands right before
			for _, b := range slices.Concat(j.samePart(near), j.rightBefore(near)) {
				if id := bareClassID.FindString(firstLine(b.Text)); id != "" {
					return &signs.Subject{Kind: "key", Name: id}
				}
			}
		}
	}
	// What was refused is the script, whatever command in it was.
	if class == "policy" || class == "custom-action" || class == "elevation" {
		if script := j.thrownIn(); script != "" {
			return &signs.Subject{Kind: "file", Name: script}
		}
	}
	if found := j.spokenOfIn(slices.Concat(j.anchor, near), class); found != nil {
		return found
	}
	if only := certain[class]; only != nil { // any word can be a name; a host is a host
		return cmp.Or(j.subjectIn(j.anchor, only, anything), j.subjectIn(near, only, anything))
	}
	if class == "space" { // a drive or a folder that was just written to says more than a file in another line
		for _, lines := range [][]*story.Message{j.anchor[:1], j.samePart(near), j.anchor} {
			if found := j.subjectIn(lines, wanted[class], anything); found != nil {
				return found
			}
		}
	}
	return nil
}

// anyThing are the kinds of what the telling line of a class may name, those
// first that it is likely to be about.
func anyThing(class string) []names.Kind {
	kinds := slices.Concat([]names.Kind{names.Package}, wanted[class], []names.Kind{names.Path, names.File, names.Host, names.Key})
	if !besideWords[class] {
		kinds = append(kinds, names.Unsure)
	}
	return kinds
}

// ofTelling is any name in the telling lines.
func (j *judge) ofTelling(class string, near []*story.Message) *signs.Subject {
	if found := j.justBefore(near, class); found != nil {
		return found
	}
	found := j.subjectIn(j.anchor, anyThing(class), started(class))
	switch {
	case found == nil && ofFiles[class]:
		return j.ofDatabase()
	case found == nil:
		return nil
	case class == "source" && found.Kind == kindWords[names.Path] && !hasExtension.MatchString(found.Name): // where it was looked for
		return cmp.Or(j.subjectIn(j.anchor[:1], []names.Kind{names.File}, started(class)), found)
	case class == "registry" && found.Kind == kindWords[names.Unsure]: // what was in it
		return cmp.Or(j.subjectIn(slices.Concat(j.samePart(near), j.rightBefore(near)), wanted[class], anything), found)
	case class != "prerequisite":
		return found
	}
	text, whole := firstLine(j.anchor[0].Text), j.properName(j.anchor[:1])
	if whole == nil {
		return found
	}
	// What the telling line itself asks for comes before a program that ended
	// badly in another one.
	if len(j.anchor) > 1 && startable.MatchString(found.Name) && !strings.Contains(j.anchor[0].Text, found.Name) &&
		strings.ContainsAny(whole.Name, " .0123456789") {
		return whole
	}
	if found.Kind == kindWords[names.Unsure] && // a word of a longer name
		(strings.Contains(whole.Name, found.Name) || wantedSo.MatchString(afterName(text, whole.Name))) {
		return whole
	}
	return found
}

// ofHandled is what the lines right before the telling ones handled.
func (j *judge) ofHandled(class string, near []*story.Message) *signs.Subject {
	// What is known to be done, or was another part's, is not what broke.
	near = slices.DeleteFunc(near, func(m *story.Message) bool {
		if m.Kind <= story.KindWarning {
			return false
		}
		if class != "leftover" && untouched.MatchString(m.Text) {
			return true
		}
		if (class == "leftover" || ofFiles[class]) && wasDone.MatchString(m.Text) { // what was done is not what is in the way, nor what could not be done
			return true
		}
		elsewhere := j.said.Alike(m) >= fewOfList && j.elsewhere(m) // what another part did
		return elsewhere || (m.Repeated > mostOfList || j.said.Noise(m)) && !ofFiles[class]
	})
	if ofAsking[class] { // of these a file that was handled before tells nothing
		last := j.rightBefore(near)
		near = slices.DeleteFunc(near, func(m *story.Message) bool {
			same := partOf(m) && m.Source == j.anchor[0].Source && j.ahead(m) <= nearby
			right := j.ahead(m) <= 1 || m.Source == j.anchor[0].Source &&
				(len(last) > 0 && m == last[0] || m.Source != "" && startsProgram.MatchString(firstLine(m.Text)))
			before := !same && (!right || j.anchor[0].Action != nil)
			return (before && !j.inStep(m) || handled.MatchString(m.Text) || wasDone.MatchString(m.Text)) && m.Kind > story.KindWarning
		})
	}
	// First what the same part of the program handled, then what the class is
	// about wherever it stands.
	things := slices.Concat(wanted[class], []names.Kind{names.Path, names.Key, names.File, names.Host})
	if found := j.subjectIn(j.samePart(near), things, started(class)); found != nil {
		return found
	}
	if found := j.subjectIn(near, wanted[class], started(class)); found != nil {
		return found
	}
	if besideWords[class] {
		if found := j.subjectIn(j.anchor, []names.Kind{names.Unsure}, started(class)); found != nil {
			return found
		}
	}
	// These are about a thing of plain words: "a licence file", "the service
	// pack".
	if demanding[class] {
		return j.demandedIn(slices.Concat(j.anchor, near))
	}
	if class == "unknown" {
		return nil
	}
	if ofPrograms[class] {
		if found := j.subjectIn(j.anchor, anyThing(class), anything); found != nil {
			return found
		}
	}
	if found := j.subjectIn(slices.Concat(j.anchor, near), []names.Kind{names.Service}, started(class)); found != nil || class != "service" {
		return found
	}
	return j.ofServices()
}

// untouched is a line about what nothing was done with.
var untouched = lazy.MustCompile(`(?i)\b(?:not changed|unchanged|up[ -]to[ -]date|skip(?:ped|ping|s)?|already (?:there|current)|unverändert|übersprungen|inchangée?|ignorée?|sin cambios|invariat[oa]|inalterad[oa]|ongewijzigd|bez zmian|beze změny|oförändrad|(?:is|ist) aktuell|al día|aggiornat[oa]|em dia|is bij|aktualn[yae]|je aktuální|güncel)\b|är aktuell\b|à jour\b|актуал|без изменений|最新|変更なし|未更改|변경 없음`)

// wasDone is a line that begins with what was done, or goes well: "copied
// tide.dll".
var wasDone = lazy.MustCompile(`(?i)^\W*(?:copied|checked|opened|loaded|verified|skipped|queued|scanned|installed|extracted|unpacked|removed|deleted|verified|registered|created|wrote|written|updated|replaced|kopiert|installiert|entpackt|gelöscht|geschrieben|copiée?|installée?|extraite?|supprimée?|copiad[oa]|instalad[oa]|extraíd[oa]|eliminad[oa]|copiat[oa]|installat[oa]|estratt[oa]|rimoss[oa]|gekopieerd|geïnstalleerd|skopiowano|zainstalowano|zkopírován|kopierade|kopyalandı|скопирован|установлен)\b`)

// inStep says whether a message stands in the step that broke.
func (j *judge) inStep(m *story.Message) bool {
	return m.Action != nil && m.Action == j.anchor[0].Action
}

// nearby is how many lines before and behind the telling one the same part
// still speaks of the same thing.
const nearby = 3

// rightBefore are the last messages before the telling one, without what other
// parts of the program say all the time.
func (j *judge) rightBefore(near []*story.Message) (last []*story.Message) {
	for _, m := range near {
		if len(last) < justBegun && !j.aside(m) {
			last = append(last, m)
		}
	}
	return last
}

// samePart are the messages next to the telling one, the nearest first, in
// which the same part of the program speaks: "opening C:\Tide", "access
// denied", "owner of C:\Tide is unknown". What was begun stands before what was
// found out.
func (j *judge) samePart(near []*story.Message) (own []*story.Message) {
	at := slices.IndexFunc(j.anchor, partOf)
	if at < 0 {
		return nil
	}
	m := j.anchor[at]
	is := func(o *story.Message) bool { return o.Source == m.Source && j.said.Alike(o) < fewOfList }
	others := 0 // lines that are not counted
	for _, o := range near {
		if j.aside(o) {
			others++
		}
		if is(o) && len(own) < nearby && j.a.Apart(o, m) <= around+others {
			own = append(own, o)
		}
	}
	next, _ := slices.BinarySearchFunc(j.a.Messages, m.Line+1, func(o *story.Message, line int) int { return o.Line - line })
	for i := next; i < len(j.a.Messages) && i < next+nearby && j.a.Apart(m, j.a.Messages[i]) <= around; i++ {
		if is(j.a.Messages[i]) {
			own = append(own, j.a.Messages[i])
		}
	}
	return own
}

var (
	// lackedIn is a file that a line says is not in a folder, which is not what
	// it is about.
	lackedIn = lazy.MustCompile(`([\w][\w.-]*\.[A-Za-z][\w]{1,5})["'”»]? (?:was |is |could )?(?:not (?:be )?found|missing|absent|not there|not present|nicht gefunden|fehlt|introuvable|no encontrado|non trovato) (?:in|at|on|from|under|beside|below|inside|within|auf|unter|dans|sur|en|nel|su) `)
	// firstRemove is a product that a line says must go first, or is there
	// already.
	firstRemove = lazy.MustCompile(`(?:[Uu]ninstall|[Rr]emove) ((?:\p{Lu}[\p{L}\d&+-]*)(?: [\p{Lu}\d][\p{L}\d.&+-]*){0,5}) (?:first|before)\b|already (?:installed|there|present|registered): (\{[0-9A-Fa-f-]{36}\})`)
	// notRegistered is what a call says of a COM class, and bareClassID is one
	// by its number.
	notRegistered = lazy.MustCompile(`(?i)\b0x80040154\b|\bREGDB_E_CLASSNOTREG\b|\bclass (?:is |was )?not registered\b|^klasse nicht registriert|classe non (?:enregistrée|registrata)|clase no (?:está )?registrada`)
	bareClassID   = lazy.MustCompile(`\{[0-9A-Fa-f]{8}-[0-9A-Fa-f]{4}-[0-9A-Fa-f-]{22}\}`)
	// classID is a COM class that a line says is not registered, before those
	// words or in the call for it.
	classID = lazy.MustCompile(`(\{[0-9A-Fa-f]{8}-[0-9A-Fa-f-]{27}\})["')]? (?:is |was )?not registered|` +
		`(?:(?i:clsid|class(?: id)?|coclass)|Co(?:CreateInstance|GetClassObject)\w*)[ :=("']{1,4}(\{[0-9A-Fa-f]{8}-[0-9A-Fa-f-]{27}\})[^\r\n]*(?i:80040154|not registered|classnotreg|nicht registriert|non enregistrée|no registrada)`)
)

var (
	// toClose asks to close a program: "Please close Tidebook before
	// continuing".
	toClose = lazy.MustCompile(`(?:[Cc]lose|[Qq]uit|[Ee]xit|[Ee]nd|[Ss]chließen Sie|[Bb]eenden Sie|[Ff]ermez|[Ff]ermer|[Cc]ierre|[Cc]errar|[Cc]hiudere|[Cc]hiudi|[Ff]eche|[Ff]echar|[Ss]luit|[Zz]amknij|[Zz]avřete|[Uu]končete|[Ss]täng|[Зз]акройте) ` +
		`(?i:(?:all )?(?:running |open )?(?:instances|copies) of |the (?:following )?(?:applications?|programs?)[: ]+|die (?:folgenden )?(?:anwendung(?:en)?|programme?)[: ]+)?["'«“„]?` + aProgram)
	// stillRuns tells that one runs: "Tidebook is currently running".
	stillRuns = lazy.MustCompile(aProgram + `["'»”“]? (?:(?:is|are) (?:still |currently |already )?(?:running|open)\b|(?:must|has to|needs to|should) be closed|läuft|wird (?:noch |gerade |derzeit )?ausgeführt|est (?:encore |en cours d['’])|está (?:en ejecución|em execução|abiert|abert)|è (?:ancora )?in esecuzione|is nog (?:actief|geopend)|jest uruchomion|je spuštěn|körs|çalışıyor|запущен)`)
	// anInstance speaks of a running instance: "an instance of Tidebook is
	// running".
	anInstance = lazy.MustCompile(`(?i:\b(?:instance|copy|instanz|kopie|instancia|istanza|instância)) (?i:of|von|de|di|do) (?i:the )?["'«“„]?` + aProgram)
	// withID is one with its process: "Tidebook (Process Id: 4312)".
	withID = lazy.MustCompile(aProgram + ` \((?i:process id|processus|prozess-id|pid)[:= ] ?\d+\)`)
	// noProgram are words that stand where a program's name does.
	noProgram = wordSet("es il ce esta este questa this dienst datei ordner schlüssel verzeichnis file folder key directory task driver database fichier dossier clé archivo carpeta clave servicio servizio cartella chiave version product " +
		"setup the this please all any other another it them and or installer installation application applications program programs windows " +
		"service der die das alle bitte les l' la le los las el il lo i gli o os a as het de and dann then click retry cancel")
)

// wantedSo begins what stands behind a name that is asked for: ".NET Framework
// 4.8 or newer is needed".
var wantedSo = lazy.MustCompile(`(?i)^ ?(?:or (?:later|newer|higher|above) )?(?:is |are |must be |has to be )?(?:needed|required|missing|wanted|not installed|not found|installed first|not there)\b`)

// afterName is what stands behind a name in a text.
func afterName(text, name string) string {
	_, after, _ := strings.Cut(text, name)
	return after
}

// justBefore is what the line right before the telling one says is done, where
// that one names nothing and others that tell the cause, further on, name what
// was tried instead: "source \\depot\apps\tide.cab", "network path not found",
// "no local copy C:\apps\tide.cab".
func (j *judge) justBefore(near []*story.Message, class string) *signs.Subject {
	if len(j.anchor) < 2 || len(near) == 0 || !ofFiles[class] || len(names.In(firstLine(j.anchor[0].Text))) > 0 {
		return nil
	}
	m := near[0]
	if m.Kind <= story.KindWarning || j.ahead(m) > 1 || handled.MatchString(m.Text) || untouched.MatchString(m.Text) ||
		wasDone.MatchString(m.Text) {
		return nil
	}
	return j.subjectIn([]*story.Message{m}, wanted[class], started(class))
}

// kindOf is what a class is about where a clue gives its name.
var kindOf = map[string]string{"space": "drive", "command-line": "option", "condition": "condition"}

// certain are the kinds of names that a class is about so surely that one right
// before the telling line outweighs any other word in it.
var certain = map[string][]names.Kind{"network": {names.Host}}

// mostOfList is how often lines of one shape come at most that are no list; a
// list's last line is only what was done when it broke, which tells something
// where files are concerned.
const mostOfList = 5

// fewOfList is the same for lines of another part than the one that tells the
// failure.
const fewOfList = 3

// ofFiles are the classes that are about the very file that was handled.
var ofFiles = map[string]bool{"permission": true, "in-use": true, "path": true, "corrupt": true, "source": true, "security-software": true,
	"space": true, "leftover": true, "unknown": true}

// besideWords are the classes that are about a file so surely that one right
// before the telling line outweighs a word in it.
var besideWords = map[string]bool{"platform": true, "corrupt": true}

// ofAsking are the classes that are about what is asked for, of the machine or
// of who calls, and seldom about a file.
var ofAsking = map[string]bool{"prerequisite": true, "condition": true, "policy": true, "command-line": true, "platform": true, "database": true, "busy": true}

// ofPrograms are the classes that are about a program that was to be started.
var ofPrograms = map[string]bool{"elevation": true, "cancelled": true, "unknown": true}

// ofThings are the classes that are about what a tool of the OS was to handle,
// never about the tool.
var ofThings = map[string]bool{"corrupt": true, "permission": true, "registry": true, "leftover": true, "source": true, "space": true,
	"in-use": true, "network": true, "service": true}

// osTools are tools of the OS that setups call.
var osTools = map[string]bool{"pnputil.exe": true, "msiexec.exe": true, "dism.exe": true, "sc.exe": true, "reg.exe": true, "regsvr32.exe": true,
	"rundll32.exe": true, "cmd.exe": true, "powershell.exe": true, "wusa.exe": true, "net.exe": true, "netsh.exe": true, "schtasks.exe": true,
	"certutil.exe": true, "icacls.exe": true, "robocopy.exe": true, "xcopy.exe": true, "expand.exe": true, "takeown.exe": true, "bcdedit.exe": true}

// started takes only what can be started, for a class that is about that.
func started(class string) func(names.Name) bool {
	if ofThings[class] {
		return func(n names.Name) bool {
			return !osTools[strings.ToLower(n.Text[strings.LastIndexAny(n.Text, `\/`)+1:])] && !(class == "service" && aboutThem.MatchString(n.Text))
		}
	}
	if !ofPrograms[class] {
		return anything
	}
	return func(n names.Name) bool { return startable.MatchString(n.Text) }
}

// anything is the filter that lets each name pass.
func anything(names.Name) bool { return true }

// startable is a file that a setup starts.
var startable = lazy.MustCompile(`(?i)\.(?:exe|ms[ipu]|cmd|bat|ps1|com|inf)$`)

// subjectIn finds the name of the first kind of which there is one: that in
// most of the lines, of several the first.
func (j *judge) subjectIn(lines []*story.Message, kinds []names.Kind, fits func(names.Name) bool) *signs.Subject {
	for _, k := range kinds {
		var best *signs.Subject
		most := 0
		for _, m := range lines {
			for _, n := range names.In(m.Text) {
				ofSource := strings.HasPrefix(m.Text[min(len(m.Text), n.At+len(n.Text)):], `", line `) || inFrame(m.Text, n.At) // in a trace
				if ofSource || knownFrom(m.Text[:n.At]) {
					continue
				}
				named := k == names.Unsure && n.At == 0 && strings.HasPrefix(m.Text[len(n.Text):], ": ") // what is done, not to what
				if n.Kind != k || n.Text == m.Source || named || k == names.Unsure && !tellsOne(n.Text) ||
					k == names.Service && (names.IsCall(n.Text) || errorName.MatchString(n.Text)) || !fits(n) {
					continue
				}
				if in := max(1, mentions(lines, n.Text)); in > most && (best == nil || k == names.Unsure) {
					word := kindWords[k]
					if k == names.Unsure && strings.Contains(m.Text, "ervice") {
						word = "service"
					}
					best, most = &signs.Subject{Kind: word, Name: strings.TrimRight(n.Text, `\/`)}, in
				}
			}
		}
		if best != nil {
			return best
		}
	}
	return nil
}
