// This file takes what a line says it failed to do for what the cause is about,
// where nothing is named more plainly.

package verdict

import (
	"cmp"
	"slices"
	"strings"
	"unicode/utf8"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/steps"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/evidence"
)

var (
	// called is the function of a program that failed: AddPrinterDriverEx("…")
	// failed.
	called = lazy.MustCompile(`(?:^|[\s\]>])((?:[A-Za-z_]\w*(?:::|\.))*[A-Z][a-z0-9]+[A-Z]\w*|[A-Za-z_]\w*::\w+)(?:\(|\s?(?:FAILED|failed|returned|失敗|失败))`)
	// actionNamed is the engine's action in one of its numbered messages, as
	// events hold them.
	actionNamed = lazy.MustCompile(`(?:^|[.。] )Action:? ([A-Za-z_][\w.]{2,70}), (?:location|entry|source):`)
	// actionBeside is the same in any language: Acción RegistrarPuertos,
	// ubicación: C:\…
	actionBeside = lazy.MustCompile(` ([A-Za-z_][\w.]{2,70}), \p{L}[\p{L} ]{2,30}: ?(?:[A-Za-z]:\\|\\\\|\w+, \p{L}[\p{L} ]{2,30}: )`)
	// failedNamed is the work that a line says failed: Operation failed: Update
	// Boot Code.
	failedNamed = lazy.MustCompile(`(?i)^\W*(?:operation|action|step|stage|task|phase) failed: ["']?(\p{L}[\p{L}\d _-]{2,50}?)["']?(?:[.,;(:]|$)`)
	// stageFailed is a step by its name that a line says failed: step "schema
	// upgrade" failed.
	stageFailed = lazy.MustCompile(`(?i)\b(?:step|stage|phase|task|action|schritt|étape|paso|fase|etap|krok|steg|этап|шаг)(?: \d{1,3}(?:/\d{1,3})?:?)? ["'«“„]?(\p{L}(?:[\p{L}\d _-]|\.[\p{L}\d]){2,50}?)["'»”“]?` +
		`(?: (?:has |was |is |could |did |ist |wurde |ha ))?(?: ?(?:failed|not (?:be )?complete[d]?|aborted|broken off|fehlgeschlagen|gescheitert|a échoué|falló|fallado|non riuscit[oa]|fallit[oa]|falhou|mislukt|nie powiod\pL+|selhal\pL*|misslyckades|başarısız|не выполнен\pL*))`)
	// failedStage is the same in the causes below an error: 0: stage
	// replace_binaries.
	failedStage = lazy.MustCompile(`(?m)^\s*\d{1,2}: (?:stage|step|phase|task|action) ([\w.-]{3,50})$`)
	// failedCall is what an update's log says failed: *FAILED* [80244022] Web
	// service call.
	failedCall = lazy.MustCompile(`^\*?FAILED\*? \[[0-9A-Fa-fx]{6,10}\] ([A-Za-z][\w ]{2,50})`)
	// failedIn is what a line says the run failed in: "upgrade failed in:
	// migrating database".
	failedIn = lazy.MustCompile(`(?i)\b(?:failed|aborted|stopped|broke) (?:in|at|during|while)(?: (?:step|stage|phase|task))?:? ["'‘“]?([\p{L}][\p{L}\d _-]{2,50})["'’”]?[.!]?\s*$`)
	// shellSays is what PowerShell puts before an error: the script or the
	// command that failed.
	shellSays = lazy.MustCompile(`^(?:\.\\)?([\w.-]+\.ps1|[A-Z][a-z]+-[A-Z]\w+) : \S`)
	// pythonFrame and goFrame are the lines of a stack trace that name a
	// function.
	pythonFrame = lazy.MustCompile(`, line \d+, in (\w+)`)
	// A frame of a stack in the manner of "\tpkg/room.(*Type).Func(0x…": the
	// first one is the operation.
	goFrame = lazy.MustCompile(`\n\s*((?:[\w-]+/)*\w+\.(?:\(\*?\w+\)\.)?\w+)\((?:0x|\.\.\.|\))`)
	// inCall is a function's name in a line of a stack trace or a call:
	// QFile::open.
	inCall = lazy.MustCompile(`\b([A-Za-z_]\w*::[A-Za-z_]\w*)\b`)
	// tagged is the part of a program before a colon: update::lock: …
	tagged = lazy.MustCompile(`^([A-Za-z_][\w.:-]{2,40}?): `)
	// worded is a source that is a name, not the number of a thread.
	worded = lazy.MustCompile(`[\p{L}]{2}`)
	// failedAt is what a line says failed, in the words before.
	failedAt = lazy.MustCompile(`(?i)^(?:the )?([\p{L}][\p{L}\d ._-]{2,40}?)(?: attempt(?: \d+)?)?(?: (?:has |was |is )?(?:failed|not (?:started|done|possible)|gave up|aborted|(?:stopped|halted|broke off) at)| fehlgeschlagen| a échoué| no se pudo| non riuscit[oa]| falhou| mislukt| başarısız)`)
)

// wholeSession is the action of a servicing log that stands for all of them.
const wholeSession = "Session"

// failedDoing is what a line says it failed to do: "Failed to pin deployment
// while …".
var failedDoing = lazy.MustCompile(`Failed (?:execution of queue item Installer: ([^(\[]{3,60}?) [(\[]|(?:to |in |executing )?([a-z][a-z ]{3,40}?)(?: (?:for|of|from|at|while|on|due|in|with|because|using)\b|[:.,(\[]|$))`)

// vague are such words that name nothing.
var vague = map[string]bool{"perform operation": true, "process": true, "execute": true, "process package changes": true, "perform": true,
	"finalize": true, "complete": true, "process single phase execution": true, "process command": true, "end": true}

// failedTo is what the lines that tell the cause, or those right before them,
// say was not done; empty where none does.
func (j *judge) failedTo() string {
	for _, m := range append(slices.Clone(j.anchor), j.before()...) {
		if f := failedDoing.FindStringSubmatch(firstLine(m.Text)); f != nil && !vague[f[2]] {
			return cmp.Or(f[1], f[2])
		}
	}
	return ""
}

// operation is the work that a line next to the one that tells the cause says
// failed, where the OS's setup names it.
func (j *judge) operation() string {
	if len(j.anchor) == 0 {
		return ""
	}
	for _, m := range j.a.Messages {
		if j.close(m) {
			if f := failedNamed.FindStringSubmatch(firstLine(m.Text)); f != nil {
				return f[1]
			}
		}
	}
	return ""
}

// engineEnded is the engine's line on an action that failed, as other programs
// copy it out of its log.
var engineEnded = lazy.MustCompile(`\bAction ended [\d:]{6,8}: (\w+)\. Return value 3\b`)

// quoted is the action that a line of the engine's log says failed, which
// stands next to the one that tells the cause: somebody's own tool shows the
// end of that log. Empty where none does.
func (j *judge) quoted() string {
	if len(j.anchor) == 0 {
		return ""
	}
	for _, m := range j.a.Messages {
		if !j.close(m) {
			continue
		}
		if f := engineEnded.FindStringSubmatch(m.Text); f != nil && !story.WholeRun(f[1]) {
			return f[1]
		}
	}
	return ""
}

// before are the messages right before the line that tells the cause, the
// nearest first.
func (j *judge) before() (near []*story.Message) {
	if len(j.anchor) == 0 {
		return nil
	}
	at, _ := slices.BinarySearchFunc(j.a.Messages, j.anchor[0].Line, func(m *story.Message, line int) int { return m.Line - line })
	for i, seen := at-1, 0; i >= 0 && seen < around && j.ahead(j.a.Messages[i]) <= farAround; i-- {
		m := j.a.Messages[i]
		if listed := m.Repeated > mostOfList && m.Kind > story.KindWarning; !listed || j.ahead(m) <= around {
			near = append(near, m)
			if !listed && !j.aside(m) {
				seen++
			}
		}
	}
	return near
}

// aside says whether a message is what another part of the program says while
// the one that tells the cause works.
func (j *judge) aside(m *story.Message) bool {
	return j.said != nil && j.said.Besides(m, j.anchor[0].Source)
}

// farAround is how many lines before the telling one are looked at for such
// messages, among which those of lists do not count.
const farAround = 120

// acting is what was done when a foreign log's run broke: the stage under way,
// the function that failed, the part of the program that spoke, or what the
// line says failed. nil when none of these is told.
func (j *judge) acting() *string {
	if j.compared && len(j.anchor) > 1 { // what is asked for was only read in that line, and found wanting later
		wish := j.anchor[0]
		defer func() { j.anchor = slices.Insert(j.anchor, 0, wish) }()
		if j.anchor = j.anchor[1:]; partOf(j.anchor[0]) && j.anchor[0].Source != wish.Source && j.anchor[0].Action == nil {
			return &j.anchor[0].Source
		}
	}
	lines := append(j.said.Broke(), j.anchor...)
	if len(j.anchor) > 0 && j.anchor[0].Kind <= story.KindWarning { // what proves the cause, when it tells of a failure itself
		lines = append([]*story.Message{j.anchor[0]}, lines...)
	}
	for _, told := range j.actings(lines) {
		for _, name := range told() {
			if name != "" && !j.isProduct(name) && !slices.ContainsFunc(noActions, func(re *lazy.Regexp) bool { return re.MatchString(name) }) {
				return &name
			}
		}
	}
	return nil
}

// noStep is a line that may look like a step, and tells that one is done, or is
// a name in a report.
var noStep = lazy.MustCompile(`(?i)(?:\.\.|…|:|-|=) ?(?:ok|done|yes|no|passed)$|^(?:result|outcome|reason|exit|exit ?code|status|state|error|product|version|ergebnis|grund|résultat|motif|resultado|motivo|risultato|esito)$`)

// noActions are forms of names that are no step's.
var noActions = []*lazy.Regexp{noStep, untouched, wasDone, errno, sourceFile, noWord}

// noWord is what has no two letters behind each other, or a sentence of marks:
// the stroke of a table.
var noWord = lazy.MustCompile(`^\PL*(?:\pL\PL+)*\pL?$`)

// isProduct says whether a name is that of what is installed: the product's,
// with or without its version, or words in capitals with a version behind them.
func (j *judge) isProduct(name string) bool {
	p := j.a.Product
	whole := p.Name != "" && p.Version != "" && strings.EqualFold(name, p.Name+" "+p.Version)
	return whole || versionEnds.MatchString(name) && !doing.MatchString(name)
}

// versionEnds is such a name: "Tide Watch 3.1", "FSM 4.2 SP1".
var versionEnds = lazy.MustCompile(`^(?:\p{Lu}[\pL\d-]*\s)+v?\d+\.\d[\d.]*(?:\s(?:SP|R|U)\d+)?$`)

// actings are the ways to tell what was done, the surest first; lines are those
// that tell of the failure.
func (j *judge) actings(lines []*story.Message) []func() []string {
	one := func(told func() string) func() []string { return func() []string { return []string{told()} } }
	return []func() []string{
		one(j.quoted),
		func() []string { return stepsOf(slices.Concat(j.anchor, lines)) }, // first that in which the cause stands
		one(j.engineAction), one(j.reported), one(j.stageTold),
		func() []string { return j.stepsThatFailed(lines, false) }, one(j.ownForms),
		func() []string { return matched(lines, actionNamed, failedNamed, failedCall, failedIn) },
		func() []string { return stagesBelow(lines) },
		func() []string { return each(slices.Concat(lines, j.before()), inTrace) },
		func() []string { return matched(slices.Concat(j.anchor, lines), shellSays) },
		func() []string { return []string{j.echoed(lines), j.lastHead(), j.begunHead(false), j.underWay()} },
		func() []string { return functionsIn(lines) },
		func() []string { return matched(lines, called, inCall) },
		func() []string { return []string{j.begunHead(true)} },
		func() []string { return j.spokenUnnamed(lines) },
		func() []string { return j.partThatFailed(lines) },
		func() []string { return j.taggedBy(lines) },
		func() []string { return j.stepsThatFailed(j.anchor, true) },
		func() []string { return j.partsThatSpoke(lines) },
		func() []string { return []string{j.handling(), j.aiming} },
		one(j.programOfItsOwn),
	}
}

// each asks every message for a name.
func each(lines []*story.Message, of func(text string) string) (all []string) {
	for _, m := range lines {
		all = append(all, of(m.Text))
	}
	return all
}

// stepsOf are the steps in which messages stand.
func stepsOf(lines []*story.Message) (all []string) {
	for _, m := range lines {
		if m.Action != nil {
			all = append(all, m.Action.Name)
		}
	}
	return all
}

// matched is what the first lines of messages name in these forms, the surest
// form first: no error's class, and not the whole program.
func matched(lines []*story.Message, forms ...*lazy.Regexp) (all []string) {
	for _, re := range forms {
		for _, m := range lines {
			f := re.FindStringSubmatch(firstLine(m.Text))
			if f == nil || (re == called || re == inCall) && (isError(f[1]) || isWhole(f[1])) {
				continue
			}
			all = append(all, f[1])
		}
	}
	return all
}

// isError says whether a name is that of a kind of error.
func isError(name string) bool {
	return strings.HasSuffix(name, "Exception") || strings.HasSuffix(name, "Error")
}

// errno is the name of an error of the C library, which is said and not done:
// ENOSPC.
var errno = lazy.MustCompile(`^E[A-Z]{3,14}$`)

// stagesBelow are the stages that the causes below an error name.
func stagesBelow(lines []*story.Message) (all []string) {
	for _, m := range lines {
		if f := failedStage.FindStringSubmatch(m.Text); f != nil {
			all = append(all, f[1])
		}
	}
	return all
}

// functionsIn are the functions that messages name.
func functionsIn(lines []*story.Message) (all []string) {
	for _, m := range lines {
		for _, n := range names.In(firstLine(m.Text)) {
			if n.Kind == names.Function && !isError(n.Text) {
				all = append(all, n.Text)
			}
		}
	}
	return all
}

// spokenUnnamed is what lines begin with, where no part of the program is named
// that spoke.
func (j *judge) spokenUnnamed(lines []*story.Message) []string {
	if slices.ContainsFunc(lines, func(m *story.Message) bool { return worded.MatchString(m.Source) }) {
		return nil
	}
	return []string{j.spokenOf(slices.Concat(lines, j.before()))}
}

// partThatFailed is the part of the program that told the cause, where it
// failed itself.
func (j *judge) partThatFailed(lines []*story.Message) []string {
	if len(j.anchor) > 0 && partOf(j.anchor[0]) && slices.ContainsFunc(lines, func(m *story.Message) bool {
		return m.Kind <= story.KindWarning && m.Source == j.anchor[0].Source
	}) {
		return []string{j.anchor[0].Source}
	}
	return nil
}

// taggedBy is the part that says that something failed, or what the line begins
// with.
func (j *judge) taggedBy(lines []*story.Message) (all []string) {
	leveled := slices.ContainsFunc(j.a.Messages, func(m *story.Message) bool { return m.Kind == story.KindInfo })
	for _, m := range lines {
		tells := slices.Contains(j.anchor, m)
		if partOf(m) && (m.Kind <= story.KindWarning || !leveled && tells) && (len(j.anchor) == 0 || tells || m.Kind <= story.KindDebug) {
			all = append(all, m.Source)
		}
		for _, re := range []*lazy.Regexp{tagged, failedAt} {
			f := re.FindStringSubmatch(firstLine(m.Text))
			if f == nil || isError(f[1]) || onlySetup(f[1]) || isWhole(f[1]) || isFile(f[1]) {
				continue
			}
			if partOf(m) && !leveled && re == failedAt { // the part that says so, where no level says how grave it is
				all = append(all, m.Source)
			}
			all = append(all, f[1])
		}
	}
	return all
}

// partsThatSpoke are the parts of the program that wrote the lines, first those
// that are not the whole of it.
func (j *judge) partsThatSpoke(lines []*story.Message) (all []string) {
	for _, does := range []func(*story.Message) bool{partOf, speaks} {
		for _, m := range slices.Concat(j.anchor, lines) {
			if m.Kind > story.KindDebug && !slices.Contains(j.anchor, m) && slices.ContainsFunc(j.anchor, speaks) {
				continue // a remark of another part
			}
			if does(m) {
				all = append(all, m.Source)
			}
		}
	}
	return all
}

// programOfItsOwn is the program of the vendor's own that failed, where the
// cause is that it did.
func (j *judge) programOfItsOwn() string {
	if s := j.v.Cause.Subject; s != nil && s.Kind == "program" && *j.v.Cause.Class == "custom-action" {
		return s.Name
	}
	return ""
}

// stageTold is the step that a line from the telling one on says by its name to
// have failed.
func (j *judge) stageTold() string {
	if len(j.anchor) == 0 {
		return ""
	}
	for _, m := range j.a.Messages {
		if n := j.ahead(m); n > 0 || -n > around {
			continue
		}
		if f := stageFailed.FindStringSubmatch(firstLine(m.Text)); f != nil && !onlySetup(f[1]) {
			return f[1]
		}
	}
	return ""
}

// stepsThatFailed are the steps that the lines which tell of the failure name
// as failed, with a word for a step or, bare, without.
func (j *judge) stepsThatFailed(lines []*story.Message, bare bool) (all []string) {
	for _, m := range slices.Concat(j.anchor, lines) {
		all = append(all, steps.Failed(m.Text, bare))
	}
	return slices.DeleteFunc(all, func(name string) bool { return onlySetup(name) || isError(name) || isWhole(name) || isFile(name) })
}

// reported is the step that a report of names and values says it broke in,
// beside the reason; empty for other logs.
func (j *judge) reported() string {
	if !slices.ContainsFunc(j.anchor, func(m *story.Message) bool { return evidence.IsReason(m.Source) }) {
		return ""
	}
	for _, m := range j.a.Messages {
		near := j.close(m)
		if near && stepKeys[strings.ToLower(m.Source)] && len(strings.Fields(m.Text)) <= formWords {
			return strings.TrimSpace(m.Text)
		}
	}
	return ""
}

// stepKeys are names under which a report says what was done.
var stepKeys = wordSet(`step stage phase action task module component package part operation job where schritt phase aktion aufgabe étape phase action tâche
	paso etapa fase acción tarea passo azione attività etapa ação tarefa stap actie taak krok etap akcja zadanie krok fáze akce úloha steg fas åtgärd adım aşama
	eylem шаг этап действие задача 手順 段階 処理 단계 작업 步骤 阶段 操作`)

// handling is what a line before the telling one says is done with the very
// file or key that the cause is about: "copying the template to C:\Tide\a.rpt".
// Empty where none does, or where all lines are of that kind.
func (j *judge) handling() string {
	sub := j.v.Cause.Subject
	if sub == nil || len(sub.Name) < leastHandled {
		return ""
	}
	for _, m := range j.before() {
		text := firstLine(m.Text)
		at := strings.Index(text, sub.Name)
		if low := strings.ToLower(text); at < 0 && len(low) == len(text) { // else places do not agree
			at = strings.Index(low, strings.ToLower(sub.Name))
		}
		if at <= 0 || handled.MatchString(text) {
			continue
		}
		words := strings.Fields(strings.TrimRight(text[:strings.LastIndexByte(text[:at], ' ')+1], ` "'„“«`))
		for len(words) > 1 && utf8.RuneCountInString(words[len(words)-1]) <= longestLink { // to, into, nach, do, в
			words = words[:len(words)-1]
		}
		if len(words) > 0 && len(words) <= mostWords && !strings.ContainsAny(strings.Join(words, ""), `:=\/,;()0123456789`) {
			return strings.Join(words, " ")
		}
	}
	return ""
}

// handled ends a line whose work is done: what broke came after it.
var handled = lazy.MustCompile(`(?i)(?:done|\bok|copied|finished|complete[d]?|fertig|erledigt|terminé|hecho|listo|fatto|concluído|klaar|gotowe|hotovo|klar|tamam|готово|完成|成功|完了|완료|성공)\W*$`)

// What a line says is done with something: so many words at most, behind the
// last of which stand ones of so many letters that only lead to its name. A
// name of fewer bytes stands in other words.
const (
	mostWords    = 4
	longestLink  = 4
	leastHandled = 6
)

// standardAction is the engine's own action that writes a message, where no
// other does. Source: the platform SDK, "Windows Installer Error Messages".
var standardAction = map[int]string{1601: "InstallValidate", 1706: "ResolveSource", 1714: "RemoveExistingProducts", 1904: "SelfRegModules",
	1905: "SelfUnregModules", 1907: "RegisterFonts", 1909: "CreateShortcuts", 1911: "RegisterTypeLibraries", 1913: "WriteIniValues",
	1918: "InstallODBC", 1920: "StartServices", 1921: "StopServices", 1922: "DeleteServices", 1923: "InstallServices",
	1924: "WriteEnvironmentStrings", 1935: "MsiPublishAssemblies", 1303: "CreateFolders", 1304: "InstallFiles", 1306: "InstallFiles",
	1309: "InstallFiles", 1310: "InstallFiles", 1311: "InstallFiles", 1330: "InstallFiles", 1334: "InstallFiles", 1335: "InstallFiles",
	1401: "WriteRegistryValues", 1406: "WriteRegistryValues", 1606: "CostFinalize", 1327: "CostFinalize", 1324: "CostFinalize"}

// engineAction is the action of the engine's message that an event holds: the
// package's own, which the message names, or the engine's that alone writes it.
func (j *judge) engineAction() string {
	if j.a.Dialect != story.Events {
		return ""
	}
	for i := len(j.a.Messages) - 1; i >= 0; i-- {
		m := j.a.Messages[i]
		if m.Number >= 1720 && m.Number <= 1723 {
			if f := actionBeside.FindStringSubmatch(m.Text); f != nil {
				return f[1]
			}
		}
		if name := standardAction[m.Number]; name != "" && m.Kind <= story.KindWarning {
			return name
		}
	}
	return ""
}

// inTrace is the function that a stack trace within a message says broke:
// Python names the innermost last, Go first. Empty without such a trace.
func inTrace(text string) string {
	if all := pythonFrame.FindAllStringSubmatch(text, -1); len(all) > 0 {
		return all[len(all)-1][1]
	}
	if strings.Contains(text, "goroutine ") {
		if f := goFrame.FindStringSubmatch(text); f != nil {
			return f[1]
		}
	}
	return ""
}

// speaks says whether a message tells who wrote it, by a name.
func speaks(m *story.Message) bool { return worded.MatchString(m.Source) }

// sourceFile is a file of a program's source, which says less of what was done
// than a part does.
var sourceFile = lazy.MustCompile(`^[\w-]+\.(?:c|cc|cpp|cxx|cs|go|rs|py|java)(?:\(\d+\)|:\d+)?$`)

// partOf says whether a message was written by a part of the program, not by
// the whole.
func partOf(m *story.Message) bool {
	return speaks(m) && !isWhole(m.Source) && !sourceFile.MatchString(m.Source) && !evidence.IsReason(m.Source)
}

// isFile says whether a name is that of a file: what stands before its colon is
// what was worked on.
func isFile(name string) bool {
	found := names.In(name)
	return len(found) == 1 && found[0].Kind == names.File && len(found[0].Text) == len(name)
}

// onlySetup says whether all words of a name are ones for a setup: "setup
// deployment".
func onlySetup(name string) bool {
	return !slices.ContainsFunc(strings.Fields(strings.ToLower(name)), func(w string) bool { return !endings.IsSetup(w) })
}

// isWhole says whether a name is that of the whole program, by its last part:
// setup::main.
func isWhole(name string) bool {
	return headWords()["whole"][strings.ToLower(name[strings.LastIndexAny(name, ".:")+1:])]
}
