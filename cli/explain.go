package cli

import (
	"fmt"
	"io"
	"strings"

	"hollowkey/core/why/verdict"
)

const (
	explainCauses = 4  // hypotheses that are shown: those further down are as good as ruled out
	explainPoints = 5  // of each, what speaks for or against it most
	explainLine   = 15 // columns before a point's words: weight and line
)

// explainText writes all causes that were weighed, with what speaks for and
// against each, on one screen.
func explainText(w io.Writer, s Style, v *verdict.Verdict) error {
	var b strings.Builder
	hs := v.Explained()
	if len(hs) == 0 {
		_, err := io.WriteString(w, "nothing was weighed: the set-up worked\n")
		return err
	}
	fmt.Fprintf(&b, "%s  %s, %s\n", s.bold("WHAT WAS WEIGHED"), *v.Cause.Class, sureness(v.Cause.Confidence))
	b.WriteString(s.faint("weights add up as log-odds: 1 makes a cause about three times as likely") + "\n")
	for _, h := range hs[:min(len(hs), explainCauses)] {
		fmt.Fprintf(&b, "\n%s %s\n", s.bold(pad(h.Class, 18)), fmt.Sprintf("%+.1f", h.Weight))
		if len(h.Points) == 0 {
			b.WriteString("  what it weighs when nothing else speaks\n")
		}
		for _, p := range h.Points[:min(len(h.Points), explainPoints)] {
			where := ""
			if p.Line > 0 {
				where = fmt.Sprintf("line %d", p.Line)
			}
			what := p.What
			if p.Sign != "" {
				what = "sign " + p.Sign
			}
			head := fmt.Sprintf("  %+.1f  %s", p.Weight, pad(where, explainLine-8))
			b.WriteString(fit(head+" "+what, s.Width) + "\n")
			if p.Text != "" {
				b.WriteString(strings.Repeat(" ", 8) + s.faint(fit(strings.TrimSpace(p.Text), s.Width-8)) + "\n")
			}
		}
	}
	if n := len(hs) - explainCauses; n > 0 {
		fmt.Fprintf(&b, "\n%d more causes weigh less; --json has them\n", n)
	}
	_, err := io.WriteString(w, b.String())
	return err
}
