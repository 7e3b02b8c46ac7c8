package verdict

import (
	"fmt"
	"path"
	"slices"
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

// ownProgram is the program that the setup started last, when the line in which it broke is that
// program's own: it begins with its name. nil where none is.
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

// endedProgram is a line that tells what a program ended with: tidesetup.exe: exit 71.
var endedProgram = lazy.MustCompile(`(?i)(?:^|[\s"'\\/:])([\w][\w.-]{0,40}\.(?:exe|cmd|bat|ps1|com))["']?\s?:? .{0,40}?\b(?:exit(?:ed|s)?|ended|ends|returned|returns|terminated|quit|code|beendet|endet|terminé|terminó|terminato|zakończ\w+)\b[^\d-]{0,24}(-?\d{1,10}|0x[0-9a-f]{1,8})\b`)

// endedBadly is the last program of which a line tells that it ended with a number that is none of the
// good ones. Only the messages kept are looked at: it is for logs in which nothing else speaks.
func (j *judge) endedBadly() (program string, code int, told *story.Message) {
	for i := len(j.a.Messages) - 1; i >= 0; i-- {
		m := j.a.Messages[i]
		for line := range strings.Lines(m.Text) {
			f := endedProgram.FindStringSubmatch(line)
			if f == nil {
				continue
			}
			n, ok := exitcode.Parse(f[2])
			if ok && !exitcode.Good(n) && !endings.Read(line).Passed && !slices.Contains(copiers, strings.ToLower(f[1])) {
				return f[1], n, m
			}
		}
	}
	return "", 0, nil
}

// copiers are tools of the OS that end with other numbers than 0 when all is well. Source: their help.
var copiers = []string{"robocopy.exe", "find.exe", "findstr.exe", "fc.exe", "tasklist.exe", "timeout.exe", "choice.exe"}

// hearsay is what speaks at most for a cause that a program's own exit code outweighs, in nats, and
// surelyNamed what one point weighs that names a cause for sure.
const (
	hearsay     = 1.2
	surelyNamed = 0.8
)

// onlyHearsay says whether nothing but words that stand in many lines speaks for a cause.
func onlyHearsay(top evidence.Hypothesis) bool {
	named := func(p evidence.Point) bool { return (p.Root || p.Sign != "") && p.Weight >= surelyNamed }
	return top.Class == "unknown" || top.Total < hearsay && !slices.ContainsFunc(top.Points, named)
}

// fromProgram is the verdict when a program of the setup's own failed and said no more than that.
func (j *judge) fromProgram(top evidence.Hypothesis) bool {
	program, told := j.ownProgram()
	if told == nil || top.Class != "unknown" {
		var code int
		program, code, told = j.endedBadly()
		if ofSetup := j.a.Exit != nil && j.a.Exit.Code == code; told == nil || top.Class != "unknown" && !ofSetup {
			return false
		}
		j.v.Cause.Message = &code
	}
	if j.v.Cause.Message != nil && (j.a.Exit == nil || j.a.Exit.Code != *j.v.Cause.Message) { // it may have been passed over
		code := j.v.Cause.Message
		j.unknown()
		c := &j.v.Cause
		c.Message, c.Subject = code, &signs.Subject{Kind: "program", Name: program}
		c.Summary = fmt.Sprintf("no line says why; the last program that ended badly before was %s, with %d", program, *code)
		j.anchor = []*story.Message{told}
		return true
	}
	j.v.Cause = Cause{Message: j.v.Cause.Message, Class: new("custom-action"), Title: "a program that the setup started failed", Confidence: bareCustom,
		Summary: fmt.Sprintf("the setup started %s, which failed and does not say why: %s", program,
			story.Clip(strings.TrimSpace(firstLine(told.Text)), mostOfLine)),
		Subject: &signs.Subject{Kind: "program", Name: program}}
	j.anchor = []*story.Message{told}
	return true
}
