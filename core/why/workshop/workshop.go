// Package workshop helps whoever writes signs: it tries them on what they must
// see and what they must not, and drafts one from a line of a log. Our own
// signs and a site's are tried in the same way.
package workshop

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/step"
	"hollowkey/core/why/checks"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

// A Trial is how one sign fared.
type Trial struct {
	ID     string   `json:"id"`
	From   string   `json:"from"`   // its file
	Tries  int      `json:"tries"`  // excerpts that it was shown
	Faults []string `json:"faults"` // what is wrong with it, empty when nothing is
}

// TryFolder tries the signs of a site's folder, beside the built-in ones: one
// of those may see the same and be surer. A sign that does not do what its
// excerpts want is a trial with faults; an error means that the folder cannot
// be read.
func TryFolder(ctx context.Context, folder string) ([]Trial, error) {
	pack, err := signs.WithSite(folder)
	if err != nil {
		return nil, err
	}
	var own []*signs.Sign
	for _, s := range pack.Signs {
		if s.Own() {
			own = append(own, s)
		}
	}
	return Try(ctx, pack, own)
}

// Try tries some signs of a pack.
func Try(ctx context.Context, pack *signs.Pack, some []*signs.Sign) (trials []Trial, err error) {
	for _, s := range some {
		t := Trial{ID: s.ID, From: s.From(), Tries: len(s.Tests.Match) + len(s.Tests.NearMiss), Faults: parts(s)}
		for i, excerpt := range s.Tests.Match {
			v, err := judge(ctx, pack, Frame(s.Tests.Action, excerpt))
			if err != nil {
				return nil, fmt.Errorf("%s: match %d: %w", s.ID, i+1, err)
			}
			if fault := matched(s, v, excerpt); fault != "" {
				t.Faults = append(t.Faults, fmt.Sprintf("match %d: %s", i+1, fault))
			}
		}
		for i, excerpt := range s.Tests.NearMiss {
			v, err := judge(ctx, pack, Frame(s.Tests.Action, excerpt))
			if err != nil {
				return nil, fmt.Errorf("%s: near miss %d: %w", s.ID, i+1, err)
			}
			if v.Sign == s.ID {
				t.Faults = append(t.Faults, fmt.Sprintf("near miss %d is taken for it", i+1))
			}
		}
		trials = append(trials, t)
	}
	return trials, nil
}

// matched says what is wrong with the verdict on an excerpt that a sign must
// see.
func matched(s *signs.Sign, v *verdict.Verdict, excerpt string) string {
	switch {
	case v.Sign == "":
		return fmt.Sprintf("it is not seen; the verdict is %q, %.2f", v.Cause.Title, v.Cause.Confidence)
	case v.Sign != s.ID:
		return fmt.Sprintf("it is taken for the sign %s, %.2f", v.Sign, v.Cause.Confidence)
	case *v.Cause.Class != s.Class || len(v.Remedies) == 0 || strings.Contains(v.Cause.Summary, "{"):
		return fmt.Sprintf("class %s, %d remedies, summary %q", *v.Cause.Class, len(v.Remedies), v.Cause.Summary)
	case strings.Contains(v.Cause.Summary+v.Cause.Title, "?") && !strings.Contains(excerpt+s.Explanation, "?"):
		return fmt.Sprintf("a capture is missing in %q or %q", v.Cause.Title, v.Cause.Summary)
	}
	return ""
}

// judge reaches a verdict on an excerpt with the signs that are tried, as if it
// were a whole log.
func judge(ctx context.Context, pack *signs.Pack, text string) (*verdict.Verdict, error) {
	return verdict.Reach(ctx, verdict.Input{Name: "excerpt.log", Text: strings.NewReader(text)}, verdict.Options{Signs: pack})
}

// parts are the faults of a sign that show without a log: checks and steps that
// nobody knows, and what they are filled with.
func parts(s *signs.Sign) (faults []string) {
	known := s.Captured()
	for _, c := range s.Confirm {
		takes, ok := checks.Takes(c.Check)
		if !ok {
			faults = append(faults, fmt.Sprintf("the check %q is not known", c.Check))
			continue
		}
		for _, name := range slices.Sorted(maps.Keys(c.With)) {
			if !slices.Contains(takes, name) {
				faults = append(faults, fmt.Sprintf("the check %s takes %s, not %q", c.Check, strings.Join(takes, ", "), name))
			}
		}
	}
	for _, r := range s.Remedies {
		for _, model := range r.Steps {
			for kind, args := range model {
				faults = append(faults, stepFaults(kind, args, known, len(s.Confirm) > 0)...)
			}
		}
	}
	return faults
}

// stepFaults are those of one step. What a check captures is not known here, so
// a sign that asks one may fill in anything.
func stepFaults(kind string, args map[string]string, known map[string]bool, asks bool) (faults []string) {
	k, ok := step.KindOf(kind)
	if !ok {
		return []string{fmt.Sprintf("the step %q is not known", kind)}
	}
	for _, name := range slices.Sorted(maps.Keys(args)) {
		if !slices.Contains(k.Args, name) {
			faults = append(faults, fmt.Sprintf("the step %s takes %s, not %q", kind, strings.Join(k.Args, ", "), name))
		}
		_, missing := signs.Fill(args[name], nil)
		for _, m := range missing {
			if !known[m] && !asks {
				faults = append(faults, fmt.Sprintf("the step %s is filled with {%s}, which nothing captures", kind, m))
			}
		}
	}
	return faults
}

// otherLog begins an excerpt that is a whole log of another dialect.
var otherLog = lazy.MustCompile(`^(?:\[|\{|\d{4}[-/]|>>>|time=|Add-|<Event|Level,|Log Name)`)

// Frame makes a whole log of an excerpt: what an action said before it failed.
// One that is a whole log already stays as it is.
func Frame(action, excerpt string) string {
	if strings.Contains(excerpt, "=== Verbose logging started") || otherLog.MatchString(excerpt) {
		return excerpt
	}
	if action == "" {
		action = "InstallExecute"
	}
	exit := "MainEngineThread is returning 1603"
	var lines []string
	for line := range strings.SplitSeq(strings.TrimSpace(excerpt), "\n") {
		switch {
		case strings.HasPrefix(line, "Note: "):
			line = "MSI (s) (A4:10) [09:12:02:500]: " + line
		case strings.HasPrefix(line, "MainEngineThread"):
			exit = line
			continue
		}
		lines = append(lines, line)
	}
	return fmt.Sprintf(framed, action, strings.Join(lines, "\n"), exit)
}

// framed is a log of the engine around an action, what it said, and the end.
const framed = `=== Verbose logging started: 5/4/2026  9:12:01  Build type: SHIP UNICODE 5.00.10011.00  Calling process: C:\Windows\System32\msiexec.exe ===
MSI (s) (A4:10) [09:12:01:000]: Doing action: INSTALL
Action 9:12:01: INSTALL. 
Action start 9:12:01: INSTALL.
MSI (s) (A4:10) [09:12:02:000]: Doing action: %[1]s
Action start 9:12:02: %[1]s.
%[2]s
Action ended 9:12:03: %[1]s. Return value 3.
Action ended 9:12:03: INSTALL. Return value 3.
MSI (s) (A4:10) [09:12:04:000]: %[3]s
=== Verbose logging stopped: 5/4/2026  9:12:04 ===
`
