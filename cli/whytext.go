// This file writes a verdict for a person: one screen, the outcome and the
// cause on top, then the proof, then what to type.

package cli

import (
	"cmp"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/zipped"
	"hollowkey/core/why/verdict"
)

const (
	screenHeight = 24 // lines of the screen that a verdict is to fit on
	factIndent   = 12 // the longest name of a fact and two blanks
)

// verdictText writes a verdict for a person: how it ended and why on top, then
// the proof, then what to do and the command to type next.
func verdictText(w io.Writer, s Style, v *verdict.Verdict, next []string) error {
	head := verdictHead(s, v)
	var tail []string
	for i, n := range next {
		label := "next"
		switch {
		case strings.HasPrefix(n, "or "):
			label = ""
		case i > 0:
			label = "then"
		}
		tail = append(tail, s.bold(pad(label, factIndent))+s.key(n))
	}
	remedies := remedyLines(s, v)
	for _, r := range v.Remarks {
		head = append(head, wrap("note: "+r, s.Width, 2, false)...)
	}
	// The proof takes what is left of one screen: outcome, cause and the next
	// command must be on it.
	room := screenHeight - 1 - len(head) - len(remedies) - len(tail) - 3 // blank lines between
	proof := proofLines(s, v, max(room, 2))
	var b strings.Builder
	for i, part := range [][]string{head, proof, remedies, tail, otherSetups(s, v)} {
		if len(part) == 0 {
			continue
		}
		if i > 0 {
			b.WriteString("\n")
		}
		b.WriteString(strings.Join(part, "\n") + "\n")
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// otherSetups are the further setups that the logs are of, each with its cause
// and the call that tells more.
func otherSetups(s Style, v *verdict.Verdict) (lines []string) {
	if len(v.More) == 0 {
		return nil
	}
	lines = append(lines, s.bold(fmt.Sprintf("%d setups; the newest stands above. The others:", len(v.More)+1)))
	for _, m := range v.More {
		title := outcomeWord(s, m.Outcome)
		if m.Product.Name != nil {
			title += "  " + s.bold(s.fit(*m.Product.Name, s.Width-30))
		}
		if m.Class != nil {
			title += ", " + *m.Class
		}
		lines = append(lines, "", title)
		lines = append(lines, wrap(sentence(m.Summary), s.Width, 2, false)...)
		if len(m.Logs) > 0 {
			lines = append(lines, s.bold(pad("next", factIndent))+s.key("hollowkey why "+quoteArgument(m.Logs[0].File)))
		}
	}
	return lines
}

// hereText is what the site's store knows: how often, what helped, and this
// machine's past.
func hereText(v *verdict.Verdict) (lines []string) {
	h := v.Here
	if h == nil {
		return nil
	}
	seen := "not seen before"
	if len(h.Tried) > 0 {
		seen = "known from cases"
	}
	if h.Machines > 0 {
		seen = fmt.Sprintf("seen on %s, %s to %s", counted(h.Machines, "machine", "machines"), h.First, h.Last)
		if h.First == h.Last {
			seen = fmt.Sprintf("seen on %s, on %s", counted(h.Machines, "machine", "machines"), h.First)
		}
	}
	for n, t := range h.Tried {
		if n == 2 {
			break
		}
		what := fmt.Sprintf("remedy %d", t.Remedy)
		if t.Remedy == 0 {
			what = "“" + t.Title + "”"
		}
		seen += fmt.Sprintf("; %s helped in %d of %d", what, t.Helped, t.Times)
	}
	lines = append(lines, seen)
	if len(h.Earlier) > 0 {
		e := h.Earlier[0]
		what := "the same failure"
		if !e.Same {
			what = "another failure (" + e.Title + ")"
		}
		lines = append(lines, fmt.Sprintf("%s on this machine on %s", what, e.Happened))
	}
	return lines
}

// outcomeWord is the outcome in the first word of the screen.
func outcomeWord(s Style, o story.Outcome) string {
	switch o {
	case story.Succeeded:
		return s.good("WORKED")
	case story.Restart:
		return s.mind("WORKED, RESTART DUE")
	case story.Cancelled:
		return s.mind("CANCELLED")
	case story.Unfinished:
		return s.mind("NOT FINISHED")
	case story.Unknown:
		return s.mind("NOT KNOWN")
	}
	return s.bad("FAILED")
}

// verdictHead is the upper part of the screen: how it ended, why, where it
// broke and how sure that is. It is kept short, since what proves it and what
// to do must be on the same screen.
func verdictHead(s Style, v *verdict.Verdict) []string {
	title := outcomeWord(s, v.Outcome)
	if v.Product.Name != nil {
		title += "  " + s.bold(s.fit(*v.Product.Name, s.Width-40))
		if v.Product.Version != nil {
			title += " " + s.fit(*v.Product.Version, 20)
		}
	}
	if v.ExitCode != nil {
		title += fmt.Sprintf(", exit code %d", *v.ExitCode)
	}
	lines := []string{title, ""}
	summary := wrap(sentence(v.Cause.Summary), s.Width, 2, false)
	lines = append(lines, summary...)
	if v.Worked() {
		return lines
	}
	lines = append(lines, "")
	fact := func(name, text string) {
		for i, part := range wrap(text, s.Width, factIndent, true) {
			if i == 0 {
				part = s.faint(pad(name, factIndent)) + part
			}
			lines = append(lines, part)
		}
	}
	switch {
	case v.BrokeAt.Action != nil && v.BrokeAt.Line != nil:
		fact("broke at", fmt.Sprintf("%s, line %d", *v.BrokeAt.Action, *v.BrokeAt.Line))
	case v.BrokeAt.Line != nil && len(v.Logs) > 0: // what a dialog said has no lines to look up
		fact("broke at", fmt.Sprintf("line %d", *v.BrokeAt.Line))
	}
	cause := *v.Cause.Class
	if v.Cause.Message != nil {
		cause += fmt.Sprintf(", message %d", *v.Cause.Message)
	}
	if sub := v.Cause.Subject; sub != nil {
		cause += ", " + sub.Kind + " " + sub.Name
	}
	fact("cause", cause)
	if v.Cause.Confidence > 0 {
		fact("confidence", surenessOf(v))
	}
	for _, f := range v.Machine {
		fact("machine", f.Text)
	}
	for n, text := range hereText(v) {
		fact(map[bool]string{true: "here"}[n == 0], text)
	}
	// A number that names no reason: what it could be is all that there is to
	// say.
	if *v.Cause.Class == "unknown" && len(v.Logs) == 0 {
		for i, o := range v.Others[:min(len(v.Others), 6)] {
			name := ""
			if i == 0 {
				name = "could be"
			}
			fact(name, fmt.Sprintf("%2.0f %%  %s: %s", o.Confidence*100, o.Class, o.Title))
		}
		return lines
	}
	for i, o := range v.Others {
		if i == 0 && v.Cause.Confidence < 0.85 && o.Class != *v.Cause.Class {
			fact("or else", fmt.Sprintf("%s: %s", o.Class, o.Title))
		}
	}
	return lines
}

// sentence begins a text with a capital and ends it with a full stop.
func sentence(t string) string {
	t = strings.TrimSpace(t)
	if t == "" {
		return t
	}
	if c := t[0]; c >= 'a' && c <= 'z' && !strings.Contains(strings.SplitN(t, " ", 2)[0], ".") {
		t = string(c-'a'+'A') + t[1:]
	}
	if !strings.HasSuffix(t, ".") && !strings.HasSuffix(t, `"`) && !strings.HasSuffix(t, "?") {
		t += "."
	}
	return t
}

// sureness says in words what the number means, as a percentage alone looks
// like a measurement.
func sureness(c float64) string {
	word := "a guess"
	switch {
	case c >= 0.9:
		word = "proven by the log"
	case c >= 0.75:
		word = "very likely"
	case c >= 0.55:
		word = "likely"
	case c >= 0.4:
		word = "possible"
	}
	return fmt.Sprintf("%.0f %%, %s", c*100, word)
}

// surenessOf is the same for a verdict: without a log it is the machine that
// proves it.
func surenessOf(v *verdict.Verdict) string {
	text := sureness(v.Cause.Confidence)
	if len(v.Logs) == 0 {
		text = strings.Replace(text, "proven by the log", "proven by the machine", 1)
	}
	return text
}

// proofLines shows the evidence with line numbers, whole: the line that proves
// it in any case, and of the others what fits into room lines.
func proofLines(s Style, v *verdict.Verdict, room int) []string {
	several := len(v.Logs) > 1
	proof := v.ProofLine()
	shown := make([][]string, len(v.Evidence))
	left := room - 1 // without the heading
	take := func(i int) {
		e := v.Evidence[i]
		where := fmt.Sprintf("%8d  ", e.Line)
		if several {
			where = pad(fit(filepath.Base(e.File), 18), 18) + fmt.Sprintf("%7d  ", e.Line)
		}
		parts := wrap(unstamped(e.Text), s.Width, len(where), true)
		if len(parts) > mostProof && !s.Whole {
			parts = append(parts[:mostProof-1], strings.Repeat(" ", len(where))+"…")
		}
		if len(parts) == 0 || e != proof && len(parts) > left && !s.Whole {
			return
		}
		left -= len(parts)
		parts[0] = s.faint(where) + parts[0]
		shown[i] = parts
	}
	// The line that proves it goes in first, whatever room there is; the others
	// in their order as far as they fit.
	for i, e := range v.Evidence {
		if e == proof {
			take(i)
		}
	}
	for i, e := range v.Evidence {
		if e != proof && (s.Whole || !says(proof, e)) {
			take(i)
		}
	}
	lines := []string{s.bold("proof")}
	for _, parts := range shown {
		lines = append(lines, parts...)
	}
	if len(lines) == 1 {
		return nil
	}
	return lines
}

// mostProof is how many lines of a screen one line of a log may take.
const mostProof = 8

// says tells whether a line only repeats another one, behind the name of the
// product.
func says(proof, e verdict.Line) bool {
	_, again, ok := strings.Cut(unstamped(e.Text), " -- ")
	return ok && strings.Contains(unstamped(proof.Text), strings.TrimSpace(again)) && e.Line != proof.Line
}

// unstamped is a line without the stamp that the installer engine puts in front
// of its own: who wrote it and when.
func unstamped(line string) string {
	if !strings.HasPrefix(line, "MSI (") {
		return line
	}
	head, text, ok := strings.Cut(line, "]: ")
	if !ok || len(head) > 40 {
		return line
	}
	return text
}

// remedyLines are the first remedies, with the command that takes one.
func remedyLines(s Style, v *verdict.Verdict) []string {
	if len(v.Remedies) == 0 {
		return nil
	}
	lines := []string{s.bold("how to fix it")}
	for i, r := range v.Remedies {
		if i == 3 && len(v.Remedies) > 4 {
			lines = append(lines, s.faint(fmt.Sprintf("     … and %d more", len(v.Remedies)-i)))
			break
		}
		text := wrap(r.Title, s.Width, 5, true)
		lines = append(lines, fmt.Sprintf("  %s  %s", s.bold(fmt.Sprint(i+1)), strings.Join(text, "\n")))
	}
	return strings.Split(strings.Join(lines, "\n"), "\n")
}

// nextCommands are the commands to type next.
func (a *app) nextCommands(v *verdict.Verdict, logs []string, opt whyOptions) []string {
	names := quoteAll(logs)
	where := a.whereToLook() + opt.again()
	next := v.Next(a.machine != "")
	// No machine was named, so the next command cannot know on which to look.
	if a.machine == "" && !strings.Contains(where, "--machine") && (next == verdict.NextFix || next == verdict.NextLook) {
		var lines []string
		switch {
		case len(logs) == 0: // what was said is no file
			lines = nextLog(v)
		case v.ProofLine().Line > 0:
			lines = a.nextRead(v, logs)
		}
		return append(lines, "or add --machine and a twin's folder, to look there as well")
	}
	switch next {
	case verdict.NextFix:
		return []string{"hollowkey fix" + names + where + " --preview"}
	case verdict.NextNamed:
		return []string{fmt.Sprintf("hollowkey fix%s%s --remedy %d --preview", names, where, v.FirstNamed()+1)}
	case verdict.NextLook:
		return []string{"hollowkey why" + names + where}
	case verdict.NextRead:
		return a.nextRead(v, logs)
	case verdict.NextLog:
		return nextLog(v)
	case verdict.NextRetry:
		return []string{"hollowkey retry " + quoteArgument(v.Package) + a.whereToLook()}
	}
	return nil
}

// nextLog are the call that makes the log which decides, and the one that reads
// it.
func nextLog(v *verdict.Verdict) []string {
	return []string{"msiexec /i " + quoteArgument(cmp.Or(v.Package, "PACKAGE")) + " /l*v setup.log", "hollowkey why setup.log"}
}

// nextRead is the command that shows the log around the line that proves a
// verdict.
func (a *app) nextRead(v *verdict.Verdict, logs []string) []string {
	l := v.ProofLine()
	return []string{fmt.Sprintf("hollowkey trail %s --around %d", quoteArgument(fileNamed(logs, l.File)), l.Line)}
}

// fileNamed is the log of the call that a line's file stands for.
func fileNamed(logs []string, file string) string {
	for _, l := range logs {
		if filepath.Base(l) == filepath.Base(file) {
			return l
		}
	}
	if info, err := os.Stat(file); err == nil && info.Mode().IsRegular() { // of a pattern
		return file
	}
	if strings.Contains(file, zipped.Sign) && len(logs) == 1 && zipped.Is(logs[0]) {
		return file
	}
	if len(logs) == 1 { // a folder
		return filepath.Join(logs[0], filepath.Base(file))
	}
	return file
}

// quoteAll joins arguments, each with a blank before it.
func quoteAll(args []string) (text string) {
	for _, a := range args {
		text += " " + quoteArgument(a)
	}
	return text
}
