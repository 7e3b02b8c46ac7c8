package verdict

import (
	"context"
	"strings"

	"hollowkey/core/logs/story"
	"hollowkey/core/step"
)

// What a dialog says in words of its own is read as a log would be in which it is the one error.

// mostSaid is how many bytes of a text are read so; a dialog says less.
const mostSaid = 4096

// fromWordsSaid judges a text that no sign knows, by its words; it says whether they name a cause.
func (j *judge) fromWordsSaid(text string) bool {
	text = strings.TrimSpace(text)
	if text == "" || len(text) > mostSaid {
		return false
	}
	var log strings.Builder
	log.WriteString("00:00:00 setup begins\n")
	for line := range strings.Lines(text) {
		if line = strings.TrimSpace(line); line != "" {
			log.WriteString("00:00:01 " + line + "\n")
		}
	}
	log.WriteString("00:00:02 setup failed\n")
	of, err := Reach(context.Background(), Input{"what was said", strings.NewReader(log.String())}, j.opt)
	if err != nil || of.Outcome != story.Failed || of.Cause.Class == nil || *of.Cause.Class == "unknown" {
		return false
	}
	v := j.v
	v.Cause, v.Sign, v.Hypotheses, v.Machine = of.Cause, of.Sign, of.Hypotheses, of.Machine
	v.Cause.Confidence = round(of.Cause.Confidence * saidFactor)
	v.Remedies = append([]step.Remedy{}, of.Remedies...)
	v.checkable, v.mayStep = of.checkable, of.mayStep
	return true
}
