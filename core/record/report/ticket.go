// This file writes a verdict as text to paste.

package report

import (
	"fmt"
	"io"
	"path/filepath"
	"strings"

	"hollowkey/core/logs/mask"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/verdict"
)

const (
	ticketLines    = 60  // of a ticket at most: what is longer nobody reads in a chat
	ticketEvidence = 10  // lines of the log in it
	ticketRemedies = 4   // remedies in it
	ticketWidth    = 200 // bytes of a line of the log in it
)

// Ticket writes a verdict as Markdown to paste into a ticket or a chat: how it
// ended, why, the lines that prove it, and what to do, without names of persons
// and machines. hidden knows names beforehand; those that the texts show are
// learned from them.
func Ticket(w io.Writer, v *verdict.Verdict, hidden *mask.Masker) error {
	var b strings.Builder
	name := "Setup"
	if v.Product.Name != nil {
		name = *v.Product.Name
		if v.Product.Version != nil {
			name += " " + *v.Product.Version
		}
	}
	fmt.Fprintf(&b, "## %s: %s\n\n", name, v.Outcome)
	if v.ExitCode != nil {
		fmt.Fprintf(&b, "- exit code: %d\n", *v.ExitCode)
	}
	if c := v.Cause; c.Class != nil {
		fmt.Fprintf(&b, "- cause: **%s**", *c.Class)
		if c.Message != nil {
			fmt.Fprintf(&b, ", number %d", *c.Message)
		}
		if c.Subject != nil {
			fmt.Fprintf(&b, ", %s `%s`", c.Subject.Kind, code(c.Subject.Name))
		}
		fmt.Fprintf(&b, " (confidence %.0f %%)\n", c.Confidence*100)
	}
	if at := v.BrokeAt; at.Action != nil || at.Line != nil {
		b.WriteString("- broke at:")
		if at.Action != nil {
			fmt.Fprintf(&b, " `%s`", code(*at.Action))
		}
		if at.Line != nil {
			fmt.Fprintf(&b, " line %d", *at.Line)
		}
		b.WriteString("\n")
	}
	fmt.Fprintf(&b, "\n%s\n", oneLine(v.Cause.Summary))
	if len(v.Evidence) > 0 {
		b.WriteString("\n```\n")
		for _, l := range v.Evidence[:min(len(v.Evidence), ticketEvidence)] {
			fmt.Fprintf(&b, "%6d  %s\n", l.Line, strings.ReplaceAll(story.Clip(oneLine(l.Text), ticketWidth), "```", "'''"))
		}
		b.WriteString("```\n")
	}
	if len(v.Remedies) > 0 {
		b.WriteString("\nTo try, in this order:\n\n")
		for i, r := range v.Remedies[:min(len(v.Remedies), ticketRemedies)] {
			fmt.Fprintf(&b, "%d. %s\n", i+1, oneLine(r.Title))
		}
	}
	if len(v.More) > 0 {
		b.WriteString("\nThe logs tell of other setups too:\n\n")
		for _, m := range v.More[:min(len(v.More), ticketRemedies)] {
			other := "a setup"
			if m.Product.Name != nil {
				other = *m.Product.Name
			}
			fmt.Fprintf(&b, "- %s: %s; %s\n", other, m.Outcome, oneLine(m.Summary))
		}
	}
	var logs []string
	for _, l := range v.Logs[:min(len(v.Logs), ticketRemedies)] {
		logs = append(logs, fmt.Sprintf("`%s` (%d lines)", code(filepath.Base(strings.ReplaceAll(l.File, `\`, "/"))), l.Lines))
	}
	if len(logs) > 0 {
		fmt.Fprintf(&b, "\nRead from %s.\n", strings.Join(logs, ", "))
	}
	text := b.String()
	hidden.Learn(text)
	lines := strings.SplitAfter(hidden.Mask(text), "\n")
	_, err := io.WriteString(w, strings.Join(lines[:min(len(lines), ticketLines)], ""))
	return err
}

// code is a text that can stand between the marks of code.
func code(s string) string { return strings.ReplaceAll(oneLine(s), "`", "'") }

// oneLine is a text without line ends and control signs.
func oneLine(s string) string {
	return strings.Join(strings.FieldsFunc(s, func(c rune) bool { return c < ' ' || c == 0x7f || c == ' ' }), " ")
}
