// This file shows all causes that were weighed, for somebody who doubts the
// verdict.

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
	explainWhere  = 10 // columns for where it stands
	explainIndent = 8  // before the line itself
)

// explainText writes all causes that were weighed, with what speaks for and
// against each, on one screen.
func explainText(w io.Writer, s Style, v *verdict.Verdict) error {
	var b strings.Builder
	hs := v.Explained()
	if len(hs) == 0 {
		_, err := io.WriteString(w, "nothing was weighed: the setup worked\n")
		return err
	}
	fmt.Fprintf(&b, "%s  %s, confidence %s\n", s.bold("WHAT WAS WEIGHED"), *v.Cause.Class, sureness(v.Cause.Confidence))
	b.WriteString(s.faint("weights add up as log-odds: 1 makes a cause about three times as likely") + "\n")
	// The likeliest ones; the rest weigh next to nothing and are in the JSON.
	for _, h := range hs[:min(len(hs), explainCauses)] {
		fmt.Fprintf(&b, "\n%s %+.1f\n", s.bold(pad(h.Class, 18)), h.Weight)
		if len(h.For) == 0 {
			b.WriteString("  what it weighs when nothing else speaks\n")
		}
		for _, p := range h.For[:min(len(h.For), explainPoints)] {
			b.WriteString(explainPoint(s, "+", p))
		}
		for _, p := range h.Against[:min(len(h.Against), explainPoints)] {
			b.WriteString(explainPoint(s, "-", p))
		}
	}
	if n := len(hs) - explainCauses; n > 0 {
		fmt.Fprintf(&b, "\n%d more causes weigh less; --json has them\n", n)
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// explainPoint is one thing that speaks for a cause, or against it: its weight,
// where it stands, and the line.
func explainPoint(s Style, sign string, p verdict.Point) string {
	where := ""
	if p.Line > 0 {
		where = fmt.Sprintf("line %d", p.Line)
	}
	what := p.What
	if p.Sign != "" {
		what = "sign " + p.Sign
	}
	out := s.fit(fmt.Sprintf("  %s%.1f  %s %s", sign, p.Weight, pad(where, explainWhere), what), s.Width) + "\n"
	if p.Text != "" {
		out += strings.Repeat(" ", explainIndent) + s.faint(s.fit(strings.TrimSpace(p.Text), s.Width-explainIndent)) + "\n"
	}
	return out
}
