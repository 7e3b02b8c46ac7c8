// This file walks along a log: its actions, its silences, the lines around a
// place.

package cli

import (
	"context"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/trail"
	"hollowkey/core/why"
)

type trailOptions struct {
	trail.Options
	why      whyOptions    // how the log is read and judged
	around   int           // a line; 0: the whole course
	context  int           // lines on either side of it
	follow   bool          // go on as the log grows
	view     bool          // on a full screen
	patience time.Duration // how long a log may be silent before it counts as ended
}

// newTrail is the command that walks along a log.
func (a *app) newTrail() *cobra.Command {
	opt := trailOptions{}
	c := &cobra.Command{
		Use:   "trail [LOG]",
		Short: "shows the course of a setup: actions, times, results, silences",
		Long: `Shows what a setup did, as a tree of actions with times, durations and results,
after a summary. Where it broke is marked.

It reads the log and changes nothing. Exit status: 0 shown, 1 the file could not be
read or is no setup log, 2 wrong call; with --follow 3 when the setup did not work.`,
		Example: "  hollowkey trail setup.log --failed\n  hollowkey trail setup.log --around 2442\n" +
			"  hollowkey trail setup.log --properties 'Product*'\n  hollowkey trail setup.log --follow",
		Args: cobra.MaximumNArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			m, closeMachine, err := a.openNamedMachine()
			if err != nil {
				return err
			}
			defer closeMachine()
			if args, err = a.logsOf(args, opt.why); err != nil {
				return err
			}
			if len(args) != 1 {
				return wrongCall("LOG is missing\nhint: %s", forExample(c))
			}
			q := a.question(args, opt.why, m)
			switch {
			case opt.around < 0:
				return wrongCall("--around %d is no line", opt.around)
			case opt.around > 0:
				return a.trailAround(c.Context(), q, opt)
			case opt.view:
				return a.trailView(c.Context(), q, opt.Options)
			case opt.follow:
				return a.trailFollow(c.Context(), q, opt)
			}
			t, _, err := why.Trail(c.Context(), q, opt.Options)
			if err != nil {
				return err
			}
			if a.json {
				return printJSON(a.out, t)
			}
			return trailText(a.out, a.style, t)
		},
	}
	f := c.Flags()
	f.BoolVar(&opt.Failed, "failed", false, "only actions that failed, were ignored or are open, and what they said")
	f.StringVar(&opt.Properties, "properties", "", "also show the properties with this name (* and ? stand for anything)")
	f.IntVar(&opt.around, "around", 0, "show the log around this line instead")
	f.IntVar(&opt.context, "context", 10, "lines before and after, with --around")
	f.BoolVar(&opt.follow, "follow", false, "go along with a log that is still being written, and end with the verdict")
	f.DurationVar(&opt.patience, "patience", 10*time.Minute, "with --follow, give up after so long without a new line")
	f.BoolVar(&opt.view, "view", false, "walk through it on a full screen: actions with time bars, lines, search")
	opt.why.bindReading(c)
	return c
}

// trailAround shows the lines before and after one line, as they stand in the
// log: for whoever wants to read on from a line that the verdict names.
func (a *app) trailAround(ctx context.Context, q why.Question, opt trailOptions) error {
	name := q.Logs[0]
	lines, err := why.Around(ctx, q, opt.around, opt.context)
	if err != nil {
		return err
	}
	if len(lines) == 0 {
		return fmt.Errorf("%s has no line %d", name, opt.around)
	}
	if a.json {
		return printJSON(a.out, struct {
			Schema string       `json:"schema"`
			Log    string       `json:"log"`
			Lines  []trail.Said `json:"lines"`
		}{"hollowkey.around/1", name, lines})
	}
	for _, l := range lines {
		text := a.style.fit(l.Text, a.style.Width-10)
		if l.Line == opt.around {
			text = a.style.mind(text)
			fmt.Fprintf(a.out, "%s%s\n", a.style.bold(fmt.Sprintf("%7d > ", l.Line)), text)
			continue
		}
		fmt.Fprintf(a.out, "%s%s\n", a.style.faint(fmt.Sprintf("%7d   ", l.Line)), text)
	}
	return nil
}

// followEvery is soon enough to look live, and seldom enough to cost a slow
// disk nothing.
const followEvery = 500 * time.Millisecond

// trailFollow reads the log again whenever it has grown, prints the steps that
// are new, and ends with the verdict once the log says how the setup ended.
func (a *app) trailFollow(ctx context.Context, q why.Question, opt trailOptions) error {
	name := q.Logs[0]
	var size int64 = -1
	shown := 0
	lastGrowth := time.Now()
	for {
		info, err := os.Stat(name)
		if err != nil {
			return err
		}
		// While the log grows it is read again from its start: the trail of
		// half a log is that of a whole one.
		if info.Size() != size {
			size, lastGrowth = info.Size(), time.Now()
			t, _, err := why.Trail(ctx, q, opt.Options)
			if err == nil {
				for ; shown < len(t.Steps); shown++ {
					fmt.Fprintln(a.out, stepLine(a.style, t.Steps[shown]))
				}
			}
		} else if t, v, err := why.Trail(ctx, q, opt.Options); err == nil && t.Outcome != story.Unfinished && t.Outcome != story.Unknown ||
			time.Since(lastGrowth) > opt.patience {
			if err != nil {
				return err
			}
			fmt.Fprintln(a.out)
			if err := verdictText(a.out, a.style, v, a.nextCommands(v, []string{name}, opt.why)); err != nil {
				return err
			}
			if !v.Worked() {
				return errNo
			}
			return nil
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(followEvery):
		}
	}
}

// trailText writes the summary first, then the longest silences and actions,
// then the actions as a tree; the place where it broke is marked.
func trailText(w io.Writer, s Style, t *trail.Trail) error {
	var b strings.Builder
	title := outcomeWord(s, t.Outcome)
	if t.Product.Name != nil {
		title += "  " + s.bold(s.fit(*t.Product.Name, s.Width-40))
		if t.Product.Version != nil {
			title += " " + s.fit(*t.Product.Version, 20)
		}
	}
	if t.ExitCode != nil {
		title += fmt.Sprintf(", exit code %d", *t.ExitCode)
	}
	fmt.Fprintln(&b, title)
	when := ""
	if t.Begins != "" {
		when = fmt.Sprintf("%s %s, took %s, ", clean(t.Date), t.Begins, seconds(t.Took))
	}
	about := fmt.Sprintf("%s%d lines, %d actions", when, t.Lines, t.Actions)
	if t.Rollback > 0 {
		about += fmt.Sprintf(", rolled back from line %d", t.Rollback)
	}
	fmt.Fprintln(&b, strings.Join(wrap(about, s.Width, 0, true), "\n"))
	if t.Attempts > 1 {
		fmt.Fprintf(&b, "the log holds %d attempts; this is the last\n", t.Attempts)
	}
	for i, st := range t.Slowest {
		word := "        "
		if i == 0 {
			word = "slowest "
		}
		fmt.Fprintf(&b, "%s%s %s (line %d)\n", s.faint(word), pad(seconds(st.Took), 7), s.fit(st.Name, s.Width-30), st.Line)
	}
	for i, g := range t.Gaps {
		if i == 3 {
			break
		}
		fmt.Fprintf(&b, "%s%s nothing was logged after line %d\n", s.faint("silence "), pad(seconds(g.Took), 7), g.After)
	}
	if len(t.Steps) > 0 {
		fmt.Fprintf(&b, "\n%s\n", s.faint("   line  time         took  result  action  (← failed here)"))
	}
	if len(t.Steps) == 0 {
		b.WriteString("\nactions  none\n")
	}
	said := map[string]bool{} // each error once
	for _, st := range t.Steps {
		fmt.Fprintln(&b, stepLine(s, st))
		for k, m := range st.Messages {
			if k == 6 {
				fmt.Fprintf(&b, "%s… %d more lines: --around %d\n", strings.Repeat(" ", 40), len(st.Messages)-k, m.Line)
				break
			}
			text := unstamped(m.Text)
			if said[text] {
				continue
			}
			said[text] = true
			indent := 36 + 2*min(st.Depth, 8)
			parts := wrap(text, s.Width, indent, true)
			fmt.Fprintf(&b, "%s%s\n", s.faint(fmt.Sprintf("%7d %s", m.Line, strings.Repeat(" ", indent-8))), strings.Join(parts, "\n"))
		}
	}
	if len(t.Values) > 0 {
		fmt.Fprintf(&b, "\n%s\n", s.bold("properties"))
		for _, p := range t.Values {
			fmt.Fprintf(&b, "%s%s = %s\n", s.faint(fmt.Sprintf("%7d  ", p.Line)), clean(p.Name),
				s.fit(masked(p.Name, p.Value), s.Width-12-len(p.Name)))
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// masked keeps what may be a secret off the screen.
func masked(name, value string) string {
	low := strings.ToLower(name)
	for _, w := range []string{"password", "passwd", "pwd", "secret", "token", "apikey", "licensekey", "serial", "pidkey"} {
		if strings.Contains(low, w) && value != "" {
			return "(hidden)"
		}
	}
	return value
}

// resultWord says what the engine's number for an action means. Source: the
// platform SDK, "Custom Action Return Values".
func resultWord(n int) string {
	if word := map[int]string{0: "none", 1: "ok", 2: "cancel", 3: "failed", 4: "pause", 5: "skip"}[n]; word != "" {
		return word
	}
	return fmt.Sprint(n)
}

// stepLine shows one action.
func stepLine(s Style, st trail.Step) string {
	result := "      "
	// The engine's own result is told only of actions that have no worse to
	// say.
	switch st.State {
	case "failed":
		result = s.bad("FAILED")
	case "ignored":
		result = s.mind("ignor.")
	case "open":
		result = s.mind("open  ")
	case "rolled back":
		result = s.faint("undone")
	default:
		if st.Result != nil {
			result = pad(resultWord(*st.Result), 6)
		}
	}
	took := ""
	if st.Took >= 0.05 {
		took = seconds(st.Took)
	}
	name := strings.Repeat("  ", min(st.Depth, 8)) + clean(st.Name)
	if st.Code != nil && *st.Code != 0 {
		name += fmt.Sprintf(" (returned %d)", *st.Code)
	}
	if st.Broke {
		name += " ←"
	}
	line := fmt.Sprintf("%7d  %s %8s  ", st.Line, pad(st.At, 8), took)
	text := s.fit(name, s.Width-36+2)
	if st.Broke {
		text = s.bad(text)
	}
	return s.faint(line) + result + "  " + text
}

// seconds writes a duration for reading.
func seconds(sec float64) string {
	switch {
	case sec < 0:
		return ""
	case sec < 60:
		return fmt.Sprintf("%.1f s", sec)
	case sec < 3600:
		return fmt.Sprintf("%d m %02d s", int(sec)/60, int(sec)%60)
	}
	return fmt.Sprintf("%d h %02d m", int(sec)/3600, int(sec)/60%60)
}
