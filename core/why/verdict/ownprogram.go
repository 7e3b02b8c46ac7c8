// This file finds the program that a setup ran when it broke.

package verdict

import (
	"cmp"
	"fmt"
	"path"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/evidence"
	"hollowkey/core/why/signs"
)

// startsProgram is a line that says that a program is started.
var startsProgram = lazy.MustCompile(`(?i)^\W*(?:\w+: )?(?:execut\w*|exec|run(?:ning)?|start(?:ing|ed)?|launch\w*|call(?:ing)?|spawn\w*|invok\w*|ausführen|starte|führe|exécution|lancement|ejecutando|iniciando|avvio|esecuzione|executando|uruchamiam|spouštím|kör|startar|çalıştırılıyor|запуск|実行|起動|실행|执行|启动)\b`)

// ownProgram is the program that the setup started last, when the line in which
// it broke is that program's own: it begins with its name. nil where none is.
func (j *judge) ownProgram() (program string, told *story.Message) {
	defer func() { j.anchor = nil }()
	for _, b := range j.said.Broke() {
		j.anchor = []*story.Message{b}
		low := strings.ToLower(firstLine(b.Text))
		for _, m := range j.before() {
			text := firstLine(m.Text)
			if m.Kind <= story.KindWarning || !startsProgram.MatchString(text) {
				continue
			}
			for _, n := range names.In(text) {
				base := path.Base(strings.ReplaceAll(n.Text, `\`, "/"))
				base = strings.ToLower(strings.TrimSuffix(base, path.Ext(base)))
				rest, own := strings.CutPrefix(low, base)
				if startable.MatchString(n.Text) && own && strings.TrimLeft(rest, ".:([ ") != rest && !endings.IsSetup(base) {
					return n.Text, b
				}
			}
		}
	}
	return "", nil
}

// endedProgram is a line that tells what a program ended with: tidesetup.exe:
// exit 71.
var endedProgram = lazy.MustCompile(`(?i)(?:^|[\s"'\\/:])([\w][\w.-]{0,40}\.(?:exe|cmd|bat|ps1|com))["']?\s?:? .{0,40}?\b(?:exit(?:ed|s)?|ended|ends|returned|returns|terminated|quit|code|beendet|endet|terminé|terminó|terminato|zakończ\w+)\b[^\d-]{0,24}(-?\d{1,10}|0x[0-9a-f]{1,8})\b`)

// endedCommand is one that tells it of a command or a step of the setup's own
// by its name alone: command 'tideconf --init' exited with status 2, custom
// action RegisterTide returned 17.
var endedCommand = lazy.MustCompile(`(?i)\b(?:custom action|command|process|program|script|tool|helper|hook|plug-?in|child process) ["'«“]?([\w.-]{2,60}(?: [/-][^"'»”]{1,60})?)["'»”]? (?:has |was )?(?:exit(?:ed|s)?|ended|ends|returned|returns|terminated|quit|finished|came back)\b[^\d-]{0,24}(-?\d{1,10}|0x[0-9a-f]{1,8})\b`)

// endedBadly is the last program of which a line tells that it ended with a
// number that is none of the good ones. Only the messages kept are looked at:
// it is for logs in which nothing else speaks.
func (j *judge) endedBadly() (program string, code int, told *story.Message) {
	for i := len(j.a.Messages) - 1; i >= 0; i-- {
		m := j.a.Messages[i]
		for line := range strings.Lines(m.Text) {
			f := endedProgram.FindStringSubmatch(line)
			if f == nil {
				f = endedCommand.FindStringSubmatch(line)
			}
			if f == nil {
				f = endedInWords(line)
			}
			if f == nil {
				continue
			}
			n, ok := exitcode.Parse(f[2])
			if ok && strings.Trim(f[1], "0123456789") == "" { // a process by its number
				f[1] = cmp.Or(j.startedBefore(i), f[1])
			}
			if ok && !exitcode.Good(n) && !endings.Read(line).Passed && !isCopier(f[1]) {
				return f[1], n, m
			}
		}
		if program, n := j.ranBefore(i); program != "" {
			return program, n, m
		}
	}
	return "", 0, nil
}

// gaveBehind is a number behind a program's name, at the end of a line, and what
// leads to it: "hook.cmd -> 1", "hook.cmd reported 1".
var gaveBehind = lazy.MustCompile(`(?i)^["'»”)\s]*(?:\.{2,}|…)?\s*(?:(?:->|=>|→|:|=)\s*|(?:\pL+ ){0,3}?(?:returned|returns|gave(?: back)?|gives|reported|reports|reporting|result|rc|status|code|came back with|endete mit|mit|avec|con|com(?: o)?|med|z|s)[ :=]{1,3}(?:(?:code|código|codice|kód|kod|kodem) )?)(-?\d{1,10}|0x[0-9a-f]{1,8})[).\s]*$`)

// endedInWords is a program that a line names, and the number that it ended
// with, in any of the languages that we read; nil where the line has none.
func endedInWords(line string) []string {
	line = strings.TrimRight(line, "\r\n")
	for _, n := range names.In(line) {
		if !startable.MatchString(n.Text) {
			continue
		}
		if m := gaveBehind.FindStringSubmatch(line[n.At+len(n.Text):]); m != nil {
			return []string{line, n.Text, m[1]}
		}
		if said := endings.Read(line[n.At+len(n.Text):]); said.Exit != nil {
			return []string{line, n.Text, strconv.Itoa(*said.Exit)}
		}
	}
	return nil
}

// lastDone says whether nothing was done behind a message but to take back what
// was there: what it tells is what the run broke at.
func (j *judge) lastDone(told *story.Message) bool {
	at := slices.Index(j.a.Messages, told)
	if at < 0 || j.a.Success == nil || *j.a.Success {
		return false
	}
	for _, m := range j.a.Messages[at+1:] {
		text := firstLine(m.Text)
		said := endings.Read(text)
		if !m.Verdict && !said.Fails && !said.Failed && !said.Ends && !endings.Unwinds(text) {
			return false
		}
	}
	return true
}

// loneCode is a line that tells a number and not whose it is: exit code
// -2147023293.
var loneCode = lazy.MustCompile(`(?i)^\W*(?:[\w.-]{1,20}[:>] )?(?:it |process |program |child |which )?(?:has )?(?:exit(?:ed|s)?|return(?:ed|s)?|ended|finished|came back|gave(?: back)?|terminated|left|result|status|code|rc|beendet|ergebnis|rückgabewert|retour|código|codice)(?: (?:code|with|status|value|as|was|is))*[ :=]{1,3}(-?\d{1,10}|0x[0-9a-f]{1,8})\W*$|\((?:process |exit |return |script |child )?(?:result|code|status|rc|exit)[ :=]{1,3}(-?\d{1,10}|0x[0-9a-f]{1,8})\)\W*$`)

// rightBefore ends what stands before the name of a program that is started.
var rightBefore = lazy.MustCompile(`(?i)\b(?:running|runs|starting|starts|executing|launching|calling|invoking|ran|started|called) ["'«“]?$`)

// runsApart is how many messages before such a line stands the one that starts
// the program.
const runsApart = 3

// ranBefore is the program that was started right before a message, which tells
// only the number that it ended with; empty where that is a good one, or
// another program's.
func (j *judge) ranBefore(i int) (program string, code int) {
	f := loneCode.FindStringSubmatch(firstLine(j.a.Messages[i].Text))
	if f == nil {
		return "", 0
	}
	code, ok := exitcode.Parse(f[1] + f[2])
	if !ok || exitcode.Good(code) {
		return "", 0
	}
	for k := i - 1; k >= max(0, i-runsApart); k-- {
		text := firstLine(j.a.Messages[k].Text)
		for _, n := range names.In(text) {
			if !startable.MatchString(n.Text) || isCopier(n.Text) {
				continue
			}
			at := text[:n.At]
			if startsProgram.MatchString(text) || rightBefore.MatchString(at) ||
				strings.Trim(at, ` "'>$`) == "" && switched.MatchString(text[n.At+len(n.Text):]) {
				return n.Text, code
			}
			return "", 0
		}
	}
	return "", 0
}

// startedBefore is the program that was started last before a message; empty
// where none was.
func (j *judge) startedBefore(i int) string {
	for k := i - 1; k >= max(0, i-runsApart); k-- {
		text := firstLine(j.a.Messages[k].Text)
		if !startsProgram.MatchString(text) {
			continue
		}
		for _, n := range names.In(text) {
			if startable.MatchString(n.Text) {
				return n.Text
			}
		}
	}
	return ""
}

// switched is a program's first switch behind its name.
var switched = lazy.MustCompile(`^["']? [/-]{1,2}[A-Za-z]`)

// copiers are tools of the OS that end with other numbers than 0 when all is
// well. Source: their help.
var copiers = []string{"robocopy.exe", "find.exe", "findstr.exe", "fc.exe", "tasklist.exe", "timeout.exe", "choice.exe"}

// isCopier says whether a program is one of those.
func isCopier(program string) bool {
	return slices.Contains(copiers, strings.ToLower(path.Base(strings.ReplaceAll(program, `\`, "/"))))
}

// hearsay is what speaks at most for a cause that a program's own exit code
// outweighs, in nats, and surelyNamed what one point weighs that names a cause
// for sure.
const (
	hearsay     = 1.2
	surelyNamed = 0.8
)

// onlyHearsay says whether nothing but words that stand in many lines speaks
// for a cause.
func onlyHearsay(top evidence.Hypothesis) bool {
	named := func(p evidence.Point) bool { return (p.Root || p.Sign != "") && p.Weight >= surelyNamed }
	return top.Class == "unknown" || top.Total < hearsay && !slices.ContainsFunc(top.Points, named)
}

// ofRuntime is the file of a setup that puts in what other programs need.
var ofRuntime = lazy.MustCompile(`(?i)(?:^|[\\/_ -])(?:vc_?redist|vcruntime|ndp\d|netfx|dotnet|windowsdesktop-runtime|aspnetcore|(?:microsoftedge)?webview2?|sqlncli|msodbc|msoledb|sqlexpr|ssce|directx|dxsetup|dxweb|jre|jdk|openjdk|accessdatabaseengine|reportviewer|vstor|xnafx|msxml|wic_x)[\w.-]*\.(?:exe|msi|msu|cmd|bat)$`)

// byRuntime makes a verdict one on a prerequisite, where the program that
// failed puts in one.
func (j *judge) byRuntime(program string) {
	if !ofRuntime.MatchString(program) {
		return
	}
	c := &j.v.Cause
	c.Class, c.Confidence = new("prerequisite"), bareCustom
	c.Subject = &signs.Subject{Kind: "package", Name: program}
	c.Title = "what the setup needs first could not be installed"
	c.Summary = fmt.Sprintf("the setup started %s, which puts in what it needs first, and that failed", program)
	if c.Message != nil {
		c.Summary += fmt.Sprintf(" with %d", *c.Message)
	}
}

// fromProgram is the verdict when a program of the setup's own failed and said
// no more than that.
func (j *judge) fromProgram(top evidence.Hypothesis) bool {
	program, told := j.ownProgram()
	if told == nil || top.Class != "unknown" {
		var code int
		program, code, told = j.endedBadly()
		// The program's own line tells no end of the setup.
		ofSetup := told != nil && j.a.Exit != nil && j.a.Exit.Code == code && j.a.Exit.Line != told.Line
		if told == nil || top.Class != "unknown" && !ofSetup {
			return false
		}
		j.v.Cause.Message = &code
	}
	// Where the setup itself ended with the program's number, the program is to
	// blame; where not, the setup may have gone on in spite of it.
	own := j.a.Exit != nil && j.v.Cause.Message != nil && j.a.Exit.Code == *j.v.Cause.Message
	if j.v.Cause.Message != nil && !own && told.Kind >= story.KindWarning && !j.lastDone(told) { // it may have been passed over
		code := j.v.Cause.Message
		j.unknown()
		c := &j.v.Cause
		c.Message, c.Subject = code, &signs.Subject{Kind: "program", Name: program}
		c.Summary = fmt.Sprintf("no line says why; the last program that ended badly before was %s, with %d", program, *code)
		j.anchor = []*story.Message{told}
		j.byRuntime(program)
		return true
	}
	j.v.Cause = Cause{Message: j.v.Cause.Message, Class: new("custom-action"), Title: "a program that the setup started failed", Confidence: bareCustom,
		Summary: fmt.Sprintf("the setup started %s, which failed and does not say why: %s", program,
			story.Clip(strings.TrimSpace(firstLine(told.Text)), mostOfLine)),
		Subject: &signs.Subject{Kind: "program", Name: program}}
	j.anchor = []*story.Message{told}
	j.byRuntime(program)
	return true
}
