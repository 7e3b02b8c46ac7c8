// This file judges what a dialog said, or a number, where there is no log.

package verdict

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/dialects/engine"
	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/step"
	"hollowkey/core/why/codes"
	"hollowkey/core/why/signs"
)

const saidFactor = 0.85 // a dialog's text shows less than a log

// Said judges what a dialog said, or the number that a setup ended with, when
// there is no log: with less confidence, with the causes that could be behind
// it in the order of their likelihood, and with how to get the log that
// decides.
func Said(text string, exit *int, opt Options) (*Verdict, error) {
	// "error 1605" in a dialog is a number that somebody read off, and means
	// what the number does.
	if n, ok := systemError(text); ok && exit == nil {
		exit = &n
		text = ""
	}
	s := engine.Said(text, exit)
	j := judge{a: s.Last(), opt: opt, v: &Verdict{Schema: Schema, Chain: []Line{}, Evidence: []Line{}, Remedies: []step.Remedy{},
		Logs: []Log{}}}
	j.pack = opt.Signs
	if j.pack == nil {
		var err error
		if j.pack, err = signs.Default(); err != nil {
			return nil, err
		}
	}
	v := j.v
	v.Outcome, v.ExitCode = outcome(j.a), exitCode(j.a)
	if v.Outcome == story.Succeeded || v.Outcome == story.Restart {
		j.succeeded()
		return v, nil
	}
	j.weigh()
	for _, m := range j.a.Messages { // a dialog's own words, where they refuse something
		if m.Number == 0 && endings.Read(m.Text).Refuses {
			j.scene.Refusal = &signs.Weighed{Message: m, Weight: 1}
			break
		}
	}
	// A dialog's words are judged as a log's would be, and trusted less: they
	// are typed by hand, and one line of many.
	j.cause()
	v.Cause.Confidence = round(v.Cause.Confidence * saidFactor)
	if c, ok := namedByCode(text); ok && *v.Cause.Class == "unknown" {
		v.Cause = c
	} else if *v.Cause.Class == "unknown" && endings.Read(text).Cancelled {
		v.Outcome = story.Cancelled
		v.Cause = stopped()
		v.Cause.Confidence = round(v.Cause.Confidence * saidFactor)
	} else if (*v.Cause.Class == "unknown" || refusedVaguely(v)) && j.fromWordsSaid(text) {
		v.Remarks = append(v.Remarks, onlyALog)
		return v, nil
	} else if text != "" && *v.Cause.Class == "unknown" {
		v.Cause.Title, v.Cause.Summary = "these words name no cause that is known",
			"Nobody here knows these words; they name no cause by themselves"
	}
	if bareNumber(text, exit, opt.Machine != nil) {
		j.likely()
	}
	j.place()
	if v.Cause.Subject == nil && text != "" && *v.Cause.Class != "unknown" {
		v.Cause.Subject = subjectSaid(text, *v.Cause.Class, opt)
	}
	j.chain()
	j.remedies()
	v.Remarks = append(v.Remarks, onlyALog)
	return v, nil
}

// refusedVaguely says whether all that is known is that the words refuse
// something: "must be", "requires".
func refusedVaguely(v *Verdict) bool { return v.Sign == "refused-by-package" }

// onlyALog is said of what a number or a few words may mean.
const onlyALog = "only a log decides; run the setup once more with: msiexec /i PACKAGE /l*v setup.log, then: hollowkey why setup.log"

// namedByCode is the cause that a number in hexadecimal names by itself, as
// HRESULTs of one part of the OS do: 0x80070005 is always "access denied",
// while 5 alone can be anything.
func namedByCode(text string) (c Cause, ok bool) {
	text = strings.TrimSpace(text)
	if !strings.HasPrefix(strings.ToLower(text), "0x") {
		return c, false
	}
	entries, err := codes.Explain(text)
	if err != nil {
		return c, false
	}
	for _, e := range entries {
		if e.Class != "" {
			return Cause{Class: &e.Class, Title: e.Meaning, Confidence: bareExit, Summary: fmt.Sprintf("%s means: %s; usual: %s", text,
				e.Meaning, e.Causes)}, true
		}
	}
	return c, false
}

// numberSaid is a number as dialogs put it before their words: Error 1605. …
var numberSaid = lazy.MustCompile(`(?i)^\s*(?:error|fehler|erreur|errore|erro|błąd|ошибка|エラー)\s*:?\s*(\d{1,5})\b[.:]?\s*(.*)`)

// systemError reads words with a number that is the OS's, not the engine's.
// Both count from 1601 on, and mean other things: 1605 is "not installed" to
// the OS and "no space" to the engine. The words say which.
func systemError(text string) (int, bool) {
	m := numberSaid.FindStringSubmatch(text)
	if m == nil {
		return 0, false
	}
	n, err := strconv.Atoi(m[1])
	if err != nil {
		return 0, false
	}
	ofSystem, _ := codes.ExitCode(n)
	ofEngine, known := codes.EngineMessage(n)
	if ofSystem.Meaning == "" || !known {
		return 0, false
	}
	return n, shared(m[2], ofSystem.Meaning) > shared(m[2], ofEngine.Meaning)
}

// leastShared is the length of words that are compared; shorter ones stand in
// any sentence.
const leastShared = 5

// shared counts the words that two texts have in common, by their first
// letters, since endings differ.
func shared(a, b string) (n int) {
	b = strings.ToLower(b)
	for w := range strings.FieldsSeq(strings.ToLower(a)) {
		if w = strings.Trim(w, ".,:;()\"'"); len(w) >= leastShared && strings.Contains(b, w[:leastShared]) {
			n++
		}
	}
	return n
}

// bareNumber says whether all that is known is a number that names no reason.
func bareNumber(text string, exit *int, onMachine bool) bool {
	return text == "" && exit != nil &&
		(*exit == 1603 || *exit == 1627 || *exit == 1 || onMachine && (notFoundCode(*exit) || noSourceCode(*exit)))
}

// A suspect is a cause that could be behind a number that names none, with how
// often it is in practice, roughly, and what to ask a machine.
type suspect struct {
	class, title string
	often        float64
	check        string
	with         map[string]string
}

// suspects stand in the order of their likelihood without further evidence.
var suspects = []suspect{
	{"permission", "an account lacks rights on a folder or key of the setup", 0.22, "temp-writable", nil},
	{"custom-action", "a program or script of the vendor's failed", 0.18, "", nil},
	{"prerequisite", "a runtime or component is missing", 0.13, "", nil},
	{"leftover", "an older version is in the way or cannot be removed", 0.1, "", nil},
	{"service", "a service does not start or stop", 0.09, "", nil},
	{"in-use", "a file is held by a program", 0.07, "", nil},
	{"path", "a shell folder or path leads to a drive that is not there", 0.06, "shell-folders", nil},
	{"space", "too little space on a drive", 0.05, "space", nil},
	{"installer-service", "the installer service is disabled", 0.04, "service-startable", map[string]string{"service": "msiserver"}},
	{"source", "the package or its cabinet cannot be read where it lies", 0.03, "", nil},
	{"cached-package", "the OS's own copy of a package is missing, damaged or another's", 0.02, "cached-copies", nil},
}

// What a setup ends with that did not find something, a shell's own number
// among them. Source: the OS's system errors; the command shell.
const (
	notFoundFile    = 2
	notFoundPath    = 3
	notFoundCommand = 9009
)

// The engine's numbers for a package that it does not find: its source, or its
// own copy. Source: the platform SDK, "Error Codes".
const (
	noSource      = 1612
	noPackage     = 1635
	unknownStatus = 1642
)

// noSourceCode says whether a number means that the package's own files were
// not found.
func noSourceCode(n int) bool { return n == noSource || n == noPackage || n == unknownStatus }

// noSourceSuspects are behind those.
var noSourceSuspects = []suspect{
	{"cached-package", "the OS's own copy of the package is missing, damaged or another's", 0.4, "cached-copies", nil},
	{"source", "the package is not where it was installed from", 0.4, "", nil},
}

// notFoundCode says whether a number means that a file, path or command is not
// there.
func notFoundCode(n int) bool { return n == notFoundFile || n == notFoundPath || n == notFoundCommand }

// notFoundSuspects are behind those numbers.
var notFoundSuspects = []suspect{
	{"path", "a program of the OS is not found, as PATH lacks its folder", 0.2, "path-variable", nil},
	{"source", "a file of the setup is not where it is looked for", 0.2, "", nil},
	{"path", "the temporary folder is not there", 0.1, "temp-writable", nil},
	{"path", "a shell folder or path leads to a drive that is not there", 0.1, "shell-folders", nil},
}

// likely lists the suspects; a machine raises or strikes them.
func (j *judge) likely() {
	v := j.v
	type ranked struct {
		suspect
		score float64
		f     *signs.Finding
		caps  map[string]string
	}
	// Which causes are usual depends on what kind of number it is.
	list := suspects
	switch n := *v.ExitCode; {
	case notFoundCode(n):
		list = notFoundSuspects
	case noSourceCode(n):
		list = noSourceSuspects
	}
	var all []ranked
	for _, s := range list {
		r := ranked{suspect: s, score: s.often}
		if j.opt.Machine != nil && s.check != "" {
			// A number that names no reason is where the machine helps most.
			f, caps := j.opt.Machine.Check(s.check, s.with)
			switch f.Answer {
			case "yes":
				r.score, r.f, r.caps = 0.75, &f, caps
			case "no":
				r.score *= 0.3
			}
		}
		all = append(all, r)
	}
	slices.SortStableFunc(all, func(a, b ranked) int {
		switch {
		case a.score > b.score:
			return -1
		case a.score < b.score:
			return 1
		}
		return 0
	})
	v.Others = nil
	for _, r := range all {
		v.Others = append(v.Others, Other{Class: r.class, Title: r.title, Confidence: round(r.score)})
	}
	// Without a yes of the machine nothing is more than frequent, and a
	// frequency is no verdict.
	top := all[0]
	if top.f == nil {
		e, _ := codes.ExitCode(*v.ExitCode)
		v.Cause = Cause{Class: new("unknown"), Message: v.ExitCode, Title: "the number alone names no reason", Confidence: 0.2,
			Summary: fmt.Sprintf("%d means %s", *v.ExitCode, e.Meaning)}
		v.Remedies, v.Sign = nil, ""
		return
	}
	v.Machine = append(v.Machine, *top.f)
	top.class = cmp.Or(top.f.Class, top.class)
	v.Cause = Cause{Class: new(top.class), Message: v.ExitCode, Title: top.title, Confidence: round(top.score * saidFactor),
		Summary: fmt.Sprintf("%d by itself names no reason, but the machine shows one: %s", *v.ExitCode, top.f.Text)}
	v.Cause.Subject = seenIn(top.f.Text)
	v.Sign = ""
	for k, x := range top.caps {
		j.caps[k] = x
	}
	v.Remedies = nil
	v.byMachine(*top.f)
}

// seenIn is what a look at the machine speaks of; nil where it names nothing.
func seenIn(finding string) *signs.Subject {
	for _, kinds := range [][]names.Kind{{names.Path, names.Key}, {names.Service, names.File, names.Drive}} {
		for _, n := range names.In(finding) {
			if slices.Contains(kinds, n.Kind) {
				return &signs.Subject{Kind: kindWords[n.Kind], Name: n.Text}
			}
		}
	}
	return nil
}

// Compare notes whether what was told beside a log agrees with it.
func (v *Verdict) Compare(said string, exit *int) {
	if exit != nil && (v.ExitCode == nil || *v.ExitCode != *exit) {
		have := "none"
		if v.ExitCode != nil {
			have = fmt.Sprint(*v.ExitCode)
		}
		v.Remarks = append(v.Remarks, fmt.Sprintf("the exit code told is %d, that in the log is %s: perhaps this is the log of another attempt",
			*exit, have))
	}
	if said == "" {
		return
	}
	for _, m := range engine.Said(said, nil).Last().Messages {
		if m.Number != 0 && (v.Cause.Message == nil || *v.Cause.Message != m.Number) {
			v.Remarks = append(v.Remarks, fmt.Sprintf("the dialog told of message %d, which is not the cause found in this log", m.Number))
		}
	}
}
