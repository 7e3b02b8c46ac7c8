package verdict

import (
	"fmt"
	"path"
	"strings"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/signs"
)

// startsProgram is a line that says that a program is started.
var startsProgram = lazy.MustCompile(`(?i)^\W*(?:\w+: )?(?:execut\w*|exec|run(?:ning)?|start(?:ing|ed)?|launch\w*|call(?:ing)?|spawn\w*|invok\w*|ausführen|starte|führe|exécution|lancement|ejecutando|iniciando|avvio|esecuzione|executando|uruchamiam|spouštím|kör|startar|çalıştırılıyor|запуск|実行|起動|실행|执行|启动)\b`)

// ownProgram is the program that the setup started last, when the line in which it broke is that
// program's own: it begins with its name. nil where none is.
func (j *judge) ownProgram() (program string, told *story.Message) {
	broke := j.said.Broke()
	if len(broke) == 0 {
		return "", nil
	}
	j.anchor = broke[:1]
	defer func() { j.anchor = nil }()
	for _, m := range j.before() {
		text := firstLine(m.Text)
		if m.Kind <= story.KindWarning || !startsProgram.MatchString(text) {
			continue
		}
		for _, n := range names.In(text) {
			if !startable.MatchString(n.Text) {
				continue
			}
			base := path.Base(strings.ReplaceAll(n.Text, `\`, "/"))
			base = strings.ToLower(strings.TrimSuffix(base, path.Ext(base)))
			for _, b := range broke {
				low := strings.ToLower(firstLine(b.Text))
				if rest, ok := strings.CutPrefix(low, base); ok && strings.TrimLeft(rest, ".:(["+" ") != rest && !endings.IsSetup(base) {
					return n.Text, b
				}
			}
		}
	}
	return "", nil
}

// fromProgram is the verdict when a program of the setup's own failed and said no more than that.
func (j *judge) fromProgram() bool {
	program, told := j.ownProgram()
	if told == nil {
		return false
	}
	j.v.Cause = Cause{Class: new("custom-action"), Title: "a program that the setup started failed", Confidence: bareCustom,
		Summary: fmt.Sprintf("the setup started %s, which failed and does not say why: %s", program,
			story.Clip(strings.TrimSpace(firstLine(told.Text)), mostOfLine)),
		Subject: &signs.Subject{Kind: "program", Name: program}}
	j.anchor = []*story.Message{told}
	return true
}
