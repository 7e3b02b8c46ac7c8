// This file works out what is run again, and compares it with the attempt
// before.

package retry

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/machine/twin"
	"hollowkey/core/package/targets"
	"hollowkey/core/prove/rehearse"
	"hollowkey/core/record/casefile"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
)

// A Wish is what a person asks of a retry.
type Wish struct {
	Dir         string              // the case's folder
	Of          string              // a log of the attempt before, or the package; empty: the case's last attempt
	Given, With []string            // properties and transforms of the command line
	User        string              // as whom; empty: as the attempt before
	Question    why.Question        // how logs are read and judged; its Logs are not looked at
	Now         time.Time           // of the attempt
	Progress    func(action string) // may be nil
	// Ask shows a person the command that would be run with an administrator's
	// rights; an error of it ends the wish. A rehearsal needs nobody's leave.
	Ask func(command string) error
}

// A Result is an attempt, compared with the one before.
type Result struct {
	Attempt *casefile.Attempt // as it is kept in the case
	Before  *verdict.Verdict  // nil where there was none
	Change  Change            // what became of the failure
	Words   string            // the same in a sentence
	Since   []fix.Item        // changes that the attempt before did not have, oldest first

	otherwise bool // it was called with other properties or transforms, or as somebody else
}

// Matters says whether one of the changes since the attempt before is about
// what broke then: it may be needed, even where it is not enough.
func (r *Result) Matters() bool {
	about := ""
	if r.Before != nil && r.Before.Cause.Subject != nil {
		about = strings.ToLower(strings.TrimRight(r.Before.Cause.Subject.Name, `\`))
	}
	return slices.ContainsFunc(r.Since, func(i fix.Item) bool {
		target := strings.ToLower(strings.TrimRight(i.Step.Target, `\`))
		return about != "" && (strings.HasPrefix(about+`\`, target+`\`) ||
			strings.HasPrefix(target+`\`, about+`\`)) || strings.EqualFold(i.Step.Args["package"], r.Attempt.Package)
	})
}

// ErrNothingTried says that the case has no attempt to repeat.
var ErrNothingTried = errors.New("nothing has been tried yet")

// ErrNoPackage says that a log names no package that could be run.
var ErrNoPackage = errors.New("the log does not say which package was run")

// Again runs the setup again, judges the new log and compares. The attempt is
// kept in the case. Errors: [ErrNothingTried], [ErrNoPackage], [ErrNotNamed],
// and whatever keeps the setup from being started. That it fails again is a
// result.
func Again(ctx context.Context, m machine.Machine, j *fix.Journal, w Wish) (*Result, error) {
	w.Question.Machine = m
	res, req, err := prepare(ctx, m, j, w)
	if err != nil {
		return nil, err
	}
	if _, rehearsed := m.(*twin.Twin); !rehearsed {
		if err := w.allowed(m, req, j); err != nil {
			return nil, err
		}
	}
	attempt, err := w.run(ctx, m, req)
	if err != nil {
		return nil, err
	}
	res.Attempt, res.Change = attempt, Compare(res.Before, attempt.Verdict, orderOf(m, req.Package))
	if res.Change == Gone && len(res.Since) == 0 && !res.otherwise {
		res.Change = Works
	}
	res.Words = Words(res.Change, res.Before, attempt.Verdict)
	attempt.Compared = string(res.Change)
	return res, attempt.End(req.Dir)
}

// run makes the attempt and judges what it wrote.
func (w Wish) run(ctx context.Context, m machine.Machine, req Request) (*casefile.Attempt, error) {
	if startable(req.Package) {
		a, err := casefile.BeginAttempt(req.Dir, req.attempt(m, false))
		if err != nil {
			return nil, err
		}
		logs, err := program(ctx, m, req, a)
		if err != nil {
			return nil, err
		}
		return a, w.judgeProgram(ctx, req.Dir, logs, a)
	}
	attempt, err := Run(ctx, m, req)
	if err != nil {
		return nil, err
	}
	log := attempt.LogPath(req.Dir)
	if info, err := os.Stat(log); err != nil || info.Size() == 0 {
		// The engine could not begin, or fell: it left no word, but its exit
		// code is one.
		return attempt, w.judgeProgram(ctx, req.Dir, nil, attempt)
	}
	if attempt.Verdict, err = w.verdict(ctx, log); err != nil {
		return nil, err
	}
	return attempt, casefile.Keep(req.Dir, []string{log}, attempt.Verdict)
}

// verdict judges one log. What was said at the first attempt is left out, as it
// was not said of this one.
func (w Wish) verdict(ctx context.Context, log string) (*verdict.Verdict, error) {
	q := w.Question
	q.Logs, q.Said, q.Exit = []string{log}, "", nil
	ans, err := why.Ask(ctx, q)
	if err != nil {
		return nil, err
	}
	return ans.Verdict, nil
}

// prepare works out which setup is run again, as whom and with what, and which
// attempt it is compared with.
func prepare(ctx context.Context, m machine.Machine, j *fix.Journal, w Wish) (*Result, Request, error) {
	res := &Result{}
	req := Request{Dir: w.Dir, Properties: w.Given, Transforms: w.With, User: w.User, Now: w.Now, Progress: w.Progress}
	if named, switches := Program(w.Of); named != "" {
		w.Of, req.Switches = named, switches
	}
	past, err := casefile.Attempts(req.Dir)
	if err != nil {
		return nil, req, err
	}
	past = slices.DeleteFunc(past, func(p *casefile.Attempt) bool { return !p.Done || p.Verdict == nil })
	var last *casefile.Attempt
	if n := len(past); n > 0 {
		last = past[n-1]
	}
	var known []int // changes that the attempt before had
	switch {
	case w.Of != "" && !IsSetup(w.Of):
		if res.Before, err = w.verdict(ctx, w.Of); err != nil {
			return nil, req, err
		}
		req.Package = res.Before.Package
		req.Properties, req.Transforms = merged(res.Before.Given, w.Given), append(slices.Clone(res.Before.With), w.With...)
		if _, err := m.Account(res.Before.User); err == nil && req.User == "" {
			req.User = res.Before.User
		}
		if last != nil && strings.EqualFold(last.Package, req.Package) { // tried since
			res.Before, known = last.Verdict, last.Changes
		}
	case last != nil && (w.Of == "" || strings.EqualFold(last.Package, w.Of)):
		res.Before, known, req.Package = last.Verdict, last.Changes, last.Package
		req.User, req.Switches = cmp.Or(req.User, last.User), cmp.Or(req.Switches, last.Switches)
		if len(w.Given)+len(w.With) == 0 {
			req.Properties, req.Transforms = byHand(j, last)
		}
	case w.Of != "":
		if _, rehearsed := m.(*twin.Twin); rehearsed {
			req.Package, err = rehearse.Find(m, w.Of)
		} else {
			req.Package, err = w.Of, rehearse.There(m, w.Of)
		}
		if err != nil {
			return nil, req, err
		}
	default:
		return nil, req, ErrNothingTried
	}
	if req.Package == "" {
		return nil, req, ErrNoPackage
	}
	if _, rehearsed := m.(*twin.Twin); rehearsed && startable(req.Package) {
		return nil, req, fmt.Errorf("%s: %w\nhint: run it on the machine itself: hollowkey fix --command "+
			"\"%s\" prints the call", req.Package, ErrProgram, req.Package)
	}
	for _, i := range j.InForce(m.Name()) {
		req.Changes = append(req.Changes, i.Change)
		if !slices.Contains(known, i.Change) {
			res.Since = append(res.Since, i)
		}
	}
	req.handOn(j.InForce(m.Name()))
	slices.Reverse(res.Since)
	if last != nil && res.Before == last.Verdict {
		res.otherwise = !slices.Equal(req.Properties, last.Properties) ||
			!slices.Equal(req.Transforms, last.Transforms) || req.User != last.User || req.Switches != last.Switches
	} else if res.Before != nil {
		res.otherwise = len(w.Given)+len(w.With) > 0 || w.User != "" && !strings.EqualFold(w.User, res.Before.User)
	}
	return res, req, nil
}

// SetupFile says whether a name is that of a package or program, not of a log.
func SetupFile(name string) bool {
	switch extension(name) {
	case ".msi", ".msp", ".msix", ".appx", ".msixbundle", ".appxbundle":
		return true
	}
	return startable(name)
}

// extension is a name's ending in small letters, of a path of either make.
func extension(name string) string {
	return strings.ToLower(filepath.Ext(strings.ReplaceAll(name, `\`, "/")))
}

// startable says whether a name is that of a program or script of a vendor's:
// only on the machine itself can it be run.
func startable(name string) bool {
	return slices.Contains([]string{".exe", ".bat", ".cmd", ".com", ".ps1", ".vbs"}, extension(name))
}

// IsProgram says whether a setup is a vendor's own program, not a package.
func IsProgram(path string) bool { return startable(path) }

// Program parts what a person names as a setup into its file and the switches
// behind it, which stay as they are quoted. A path with blanks that stands in
// quotes ends with them; without them it is all of it, or what ends with a
// setup's extension. Empty for a log.
func Program(call string) (path, switches string) {
	call = strings.TrimSpace(call)
	if in, quoted := strings.CutPrefix(call, `"`); quoted {
		path, switches, _ = strings.Cut(in, `"`)
		if !SetupFile(path) {
			return "", ""
		}
		return path, strings.TrimSpace(switches)
	}
	if SetupFile(call) && !strings.Contains(call, `"`) {
		return call, ""
	}
	for at := range len(call) {
		if call[at] == ' ' && SetupFile(call[:at]) {
			return call[:at], strings.TrimSpace(call[at:])
		}
	}
	if SetupFile(call) { // with a quote in it: whoever makes the call says what is wrong
		return call, ""
	}
	return "", ""
}

// IsSetup says whether what a person names is a setup, with or without switches
// behind it.
func IsSetup(call string) bool {
	path, _ := Program(call)
	return path != ""
}

// ErrProgram says that a program of a vendor's cannot be rehearsed.
var ErrProgram = errors.New("a program cannot be rehearsed: what it does, it does itself, not the installer engine")

// handOn gives the setup the properties and transforms that steps in force
// wrote into a command file for it.
func (r *Request) handOn(inForce []fix.Item) {
	for _, i := range inForce {
		if s := i.Step; s.Kind == "command" && strings.EqualFold(s.Args["package"], r.Package) {
			r.Properties = append(r.Properties, parted(s.Args["properties"], '\n')...)
			r.Transforms = append(r.Transforms, parted(s.Args["transforms"], ';')...)
		}
	}
	for _, i := range inForce {
		if s := i.Step; s.Kind == "copy" && strings.EqualFold(s.Args["package"], r.Package) {
			r.Altered = s.Target
		}
	}
	slices.Sort(r.Transforms)
	r.Properties, r.Transforms = merged(r.Properties), slices.Compact(r.Transforms)
	slices.Sort(r.Properties)
}

// merged puts lists of properties into one; of those that are given twice the
// last counts.
func merged(lists ...[]string) (out []string) {
	for _, p := range slices.Concat(lists...) {
		name, _, _ := strings.Cut(p, "=")
		out = append(slices.DeleteFunc(out, func(o string) bool { return strings.HasPrefix(o, name+"=") }), p)
	}
	return out
}

// parted splits the list that a step's argument holds.
func parted(text string, at rune) []string {
	return strings.FieldsFunc(text, func(r rune) bool { return r == at })
}

// byHand are the properties and transforms of an attempt that no step of its
// time brought: those of steps count only while the step is in force.
func byHand(j *fix.Journal, last *casefile.Attempt) (properties, transforms []string) {
	var stepped []string
	for _, i := range j.Items() {
		if i.Step.Kind == "command" && slices.Contains(last.Changes, i.Change) {
			stepped = append(stepped, parted(i.Step.Args["properties"], '\n')...)
			stepped = append(stepped, parted(i.Step.Args["transforms"], ';')...)
		}
	}
	mine := func(list []string) []string {
		return slices.DeleteFunc(slices.Clone(list), func(x string) bool { return slices.Contains(stepped, x) })
	}
	return mine(last.Properties), mine(last.Transforms)
}

// orderOf gives the places of actions in a package on the machine; nil when it
// cannot be read there.
func orderOf(m machine.Machine, pack string) func(string) int {
	db, f, err := targets.Open(m, pack)
	if err != nil {
		return nil
	}
	defer f.Close()
	return Order(db)
}

// Trial applies a plan to a copy of the twin and rehearses the setup of the
// verdict there. The twin is not touched. inForce are the changes in force on
// the twin itself.
func Trial(ctx context.Context, t *twin.Twin, p fix.Plan, before *verdict.Verdict, inForce []fix.Item, now func() time.Time) (*Result,
	error) {
	if before == nil || before.Package == "" {
		return nil, fmt.Errorf("%w\nhint: name the log of a setup that ran a package", ErrNoPackage)
	}
	copied, done, err := rehearse.Scratch(t.Folder())
	if err != nil {
		return nil, err
	}
	defer done()
	temp, err := os.MkdirTemp("", "hollowkey-case-*")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(temp)
	j, err := fix.OpenJournal(temp, now)
	if err != nil {
		return nil, err
	}
	if err := p.Apply(copied, j); err != nil {
		return nil, err
	}
	req := Request{Dir: temp, Package: before.Package, Properties: slices.Clone(before.Given),
		Transforms: slices.Clone(before.With), Now: now()}
	if _, err := t.Account(before.User); err == nil {
		req.User = before.User
	}
	req.handOn(slices.Concat(j.InForce(t.Name()), inForce))
	attempt, err := Run(ctx, copied, req)
	if err != nil {
		return nil, err
	}
	if attempt.Verdict, err = (Wish{}).verdict(ctx, attempt.LogPath(temp)); err != nil {
		return nil, err
	}
	c := Compare(before, attempt.Verdict, orderOf(t, req.Package))
	return &Result{Attempt: attempt, Before: before, Change: c, Words: Words(c, before, attempt.Verdict)}, nil
}
