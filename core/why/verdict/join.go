// This file reads several logs and puts those of one setup together. A log that
// is no setup's is passed over with a remark, unless it is all that there is.

package verdict

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"hollowkey/core/logs/dialects"
	"hollowkey/core/logs/story"
)

// ReachAll reads logs that may belong to one attempt and judges them together:
// the outer one (a bootstrapper's, or the one that began first) tells what was
// set up and how it ended, an inner one that it leads to tells why. Files that
// are no logs are passed over when skip is set, or when others are logs. The
// stories are those of the files that were logs, in the same order.
func ReachAll(ctx context.Context, ins []Input, skip bool, opt Options) (stories []*story.Story, v *Verdict, err error) {
	var all []judged
	passed := 0
	for _, in := range ins {
		s, none := Read(ctx, in, opt.Reading)
		switch {
		// Somebody named just this file: that is one reason more to read it.
		case none == nil || s != nil && !skip:
			j := judged{Story: s, named: none != nil}
			if j.v, err = Judge(s, opt); err != nil {
				return nil, nil, err
			}
			if none == nil || j.tells() {
				all = append(all, j)
				continue
			}
		case !errors.Is(none, dialects.ErrNoLog) && !errors.Is(none, dialects.ErrBinary) && !errors.Is(none, dialects.ErrEmpty):
			return nil, nil, none
		}
		if len(ins) == 1 && !skip {
			return nil, nil, none
		}
		passed++
	}
	if enough(all) { // then nothing is needed that may be about anything
		texts := len(all)
		all = slices.DeleteFunc(all, func(j judged) bool { return j.named })
		passed += texts - len(all)
	}
	switch {
	case len(all) == 0 && len(ins) == 1:
		return nil, nil, fmt.Errorf("%s: %w", ins[0].Name, dialects.ErrNoLog)
	case len(all) == 0:
		return nil, nil, fmt.Errorf("none of the %d files is a setup log: %w", len(ins), dialects.ErrNoLog)
	}
	for _, j := range all {
		stories = append(stories, j.Story)
	}
	v = judgeAll(all)
	for _, j := range all {
		switch {
		case j.named && len(ins) == 1:
			v.Remarks = append(v.Remarks, "nothing in this text says that it is of a setup: it is read as one since it was named")
		case j.named:
			v.Remarks = append(v.Remarks, "nothing in "+baseName(j.Sources[0].Name)+" says that it is of a setup: it is read as one since it was named")
		}
	}
	switch {
	case passed == 1:
		v.Remarks = append(v.Remarks, "1 file was passed over, it is no setup log")
	case passed > 1:
		v.Remarks = append(v.Remarks, fmt.Sprintf("%d files were passed over, they are no setup logs", passed))
	}
	return stories, v, nil
}

// How sure a cause is at least in a text of which nothing but its being named
// says that it is of a setup.
const (
	sureOfNamed   = 0.4 // where it says that something failed for good
	sureOfUnended = 0.7 // where it does not: "connection lost, reconnecting"
)

// judged is a story with its verdict.
type judged struct {
	*story.Story
	v     *Verdict // on that log alone
	named bool     // nothing but its being named says that it is of a setup
}

// tells says whether a text that was handed over by its name tells a cause, by
// which alone it is a log.
func (j judged) tells() bool {
	least := sureOfUnended
	if j.v.Outcome == story.Failed {
		least = sureOfNamed
	}
	c := j.v.Cause
	if j.v.Outcome == story.Cancelled { // nobody cancels but what was begun
		return true
	}
	return j.v.Outcome != story.Succeeded && c.Class != nil && *c.Class != "unknown" && c.Confidence >= least
}

// enough says whether logs tell by themselves how a setup ended, and why if it
// failed.
func enough(all []judged) bool {
	return slices.ContainsFunc(all, func(j judged) bool {
		return !j.named && (j.v.Worked() || j.v.Outcome == story.Cancelled || j.ofItsOwn())
	})
}

// JudgeAll judges the stories of several logs together. It fails only where the
// signs cannot be read.
func JudgeAll(stories []*story.Story, opt Options) (*Verdict, error) {
	var all []judged
	for _, s := range stories {
		v, err := Judge(s, opt)
		if err != nil {
			return nil, err
		}
		all = append(all, judged{Story: s, v: v})
	}
	return judgeAll(all), nil
}

// judgeAll parts logs by setups and judges those of each together; the newest
// setup's verdict has the others in it.
func judgeAll(all []judged) *Verdict {
	if len(all) == 1 {
		return all[0].v
	}
	groups := setups(all)
	verdicts := make([]*Verdict, len(groups))
	for i, g := range groups {
		verdicts[i] = together(g)
	}
	v := verdicts[0]
	for _, o := range verdicts[1:] {
		v.More = append(v.More, Setup{o.Product, o.Outcome, o.ExitCode, o.Cause.Class, o.Cause.Summary, o.Logs})
	}
	return v
}

// together judges the logs of one setup.
func together(all []judged) *Verdict {
	logs := []Log{}
	for _, j := range all {
		for _, src := range j.Sources {
			logs = append(logs, Log{src.Name, src.Dialect, src.Encoding, src.Lines, src.Bytes})
		}
	}
	slices.SortStableFunc(all, func(a, b judged) int { return b.outerness() - a.outerness() })
	outer := all[0]
	v := outer.v
	v.fromCaller(all)
	for at := outer; ; {
		in, why := at.inner(all)
		if in == nil {
			break
		}
		v.adopt(in.v, why)
		done := at.Story
		at = *in // before the list it lies in is changed
		all = slices.DeleteFunc(all, func(j judged) bool { return j.Story == done })
	}
	v.Logs = logs
	return v
}

// setups parts logs into those of one setup each, the newest setup first. Logs
// belong together unless they name products that have nothing in common and
// neither speaks of the other, or runs within its time.
func setups(all []judged) [][]judged {
	var groups [][]judged
	for _, j := range all {
		at := slices.IndexFunc(groups, func(g []judged) bool { return slices.ContainsFunc(g, func(o judged) bool { return !j.apart(o) }) })
		if at < 0 {
			groups = append(groups, []judged{j})
		} else {
			groups[at] = append(groups[at], j)
		}
	}
	slices.SortStableFunc(groups, func(a, b []judged) int { return strings.Compare(newest(b), newest(a)) })
	return groups
}

// apart says whether two logs are surely of different setups.
func (j judged) apart(o judged) bool {
	if j.v.Product.Name == nil || o.v.Product.Name == nil {
		return j.ofItsOwn() && o.ofItsOwn() && *j.v.Cause.Class != *o.v.Cause.Class && j.unlinked(o)
	}
	a, b := plainName(*j.v.Product.Name), plainName(*o.v.Product.Name)
	if a == "" || b == "" || strings.Contains(a, b) || strings.Contains(b, a) {
		return false
	}
	n, _ := j.link(o)
	m, _ := o.link(j)
	if j.Dialect == story.Engine && o.Dialect == story.Engine { // one engine runs one setup at a time
		return n < linkedByName && m < linkedByName
	}
	// The same number at the end links what is of one setup anyway, no more.
	return (n < linkEnough || n == linkedByCode) && (m < linkEnough || m == linkedByCode)
}

// ofItsOwn says whether a log tells by itself why its setup failed.
func (j judged) ofItsOwn() bool {
	return j.v.Outcome == story.Failed && !j.v.vague && j.v.Cause.Class != nil && *j.v.Cause.Class != "unknown" && j.v.Cause.Confidence >= leastOfItsOwn
}

// leastOfItsOwn is how sure a verdict is at least that stands beside another
// one, of a log that does not tell of what it is.
const leastOfItsOwn = 0.6

// unlinked says whether nothing at all links two logs.
func (j judged) unlinked(o judged) bool {
	n, _ := j.link(o)
	m, _ := o.link(j)
	return n == 0 && m == 0
}

// newest is when the last of some logs was written, in a form that sorts; empty
// where none has a date.
func newest(g []judged) (last string) {
	for _, j := range g {
		if a := j.Last(); a != nil {
			date := a.Date
			if began, ok := a.Began(time.Time{}); ok { // which number is the month, its language tells
				date = began.Format(time.DateOnly)
			}
			last = max(last, sortable(date, a.LastTime))
		}
	}
	return last
}

// sortable is a date and time in a form that sorts. Of dates with the year last
// the day comes first, unless the second number is too large for a month.
func sortable(date string, at time.Duration) string {
	f := strings.FieldsFunc(date, func(c rune) bool { return c < '0' || c > '9' })
	if len(f) != 3 {
		return ""
	}
	if len(f[0]) != 4 {
		if f[0], f[2] = f[2], f[0]; len(f[1]) == 2 && f[1] > "12" {
			f[1], f[2] = f[2], f[1]
		}
	}
	if len(f[0]) == 2 {
		f[0] = "20" + f[0]
	}
	return fmt.Sprintf("%4s%2s%2s %9d", f[0], f[1], f[2], max(at, 0)/time.Second)
}

// outerness ranks logs by how likely they are the one that ran the others.
func (j judged) outerness() int {
	n := 0
	if j.named {
		return int(j.v.Cause.Confidence * 9) // it was put beside the log that it tells of; of several the surest leads
	}
	switch j.Dialect {
	case story.Chain:
		n += 100
	case story.Script, story.Response:
		n += 60
	case story.Generic:
		n += 40
	case story.Engine:
		n += 20
	}
	if !j.v.Worked() {
		n += 10
	}
	if a := j.Last(); a != nil && a.LastTime > a.FirstTime && a.FirstTime >= 0 {
		n += min(9, int((a.LastTime-a.FirstTime)/time.Minute))
	}
	return n
}

// What links two logs to one attempt: a name that one says of the other
// outweighs all that is alike by chance (the same number, the same hour), and
// one of these is enough to ask.
const (
	linkedByName = 4 // more than number and hour together
	linkedByCode = 2 // the same exit code or product code
	linkedByTime = 1 // one ran while the other did
	linkEnough   = 1 // any of these
)

// inner finds the failed log that tells why j failed.
func (j judged) inner(all []judged) (*judged, string) {
	if j.v.Worked() || j.v.Outcome == story.Cancelled {
		return nil, ""
	}
	if !j.v.vague && j.v.Cause.Confidence >= 0.85 {
		return nil, ""
	}
	var best *judged
	most, why := 0, ""
	for i := range all {
		o := &all[i]
		if o.Story == j.Story || o.v.Worked() || o.v.Outcome == story.Unknown && !o.named {
			continue
		}
		n, w := j.link(*o)
		if n == 0 && o.named && (j.Last().FirstTime < 0 || o.Last().FirstTime < 0) {
			n, w = linkEnough, "it was named beside "+baseName(j.Sources[0].Name)
		}
		if n > most || n == most && best != nil && o.v.Cause.Confidence > best.v.Cause.Confidence {
			best, most, why = o, n, w
		}
	}
	if best == nil || most < linkEnough || best.v.vague && best.v.Cause.Confidence < j.v.Cause.Confidence {
		return nil, ""
	}
	return best, why
}

// link rates how surely log o belongs to what failed in j.
func (j judged) link(o judged) (n int, why string) {
	a, b := j.Last(), o.Last()
	base := strings.ToLower(baseName(o.Sources[0].Name))
	for name, p := range a.Properties {
		if strings.HasPrefix(name, "log of ") && strings.ToLower(baseName(p.Value)) == base {
			n += linkedByName
			why = fmt.Sprintf("%s names this log", baseName(j.Sources[0].Name))
			if j.v.BrokeAt.Action != nil && strings.EqualFold(strings.TrimPrefix(name, "log of "), *j.v.BrokeAt.Action) {
				n += linkedByName
			}
		}
	}
	if j.v.BrokeAt.Action != nil {
		act := plainName(*j.v.BrokeAt.Action)
		for _, s := range []string{base, b.Product.Name, baseName(b.Package)} {
			if len(act) > 3 && strings.Contains(plainName(s), act) {
				n += linkedByName
				why = fmt.Sprintf("it is the log of %s", *j.v.BrokeAt.Action)
				break
			}
		}
	}
	for _, m := range a.Messages {
		if len(base) > 4 && strings.Contains(strings.ToLower(m.Text), base) {
			n += linkedByName
			why = fmt.Sprintf("%s names this log", baseName(j.Sources[0].Name))
			break
		}
	}
	if b.Exit != nil && (a.Exit != nil && a.Exit.Code == b.Exit.Code || j.v.Cause.Message != nil && *j.v.Cause.Message == b.Exit.Code) {
		n += linkedByCode
		if why == "" {
			why = "both end with the same number"
		}
	}
	if a.FirstTime >= 0 && b.FirstTime >= 0 {
		const slack = 5 * time.Second // two programs' clocks are one, but each writes when it gets to it
		apart := b.FirstTime - a.FirstTime
		apart -= apart.Round(time.Hour) // one of them may be in another zone
		if da, db := sortable(a.Date, 0), sortable(b.Date, 0); da != "" && db != "" && da != db && n < linkedByName {
			return 0, "" // of another day
		}
		if b.FirstTime >= a.FirstTime-slack && b.LastTime <= a.LastTime+slack ||
			n > 0 && a.Dialect != b.Dialect && apart >= -slack && apart+b.LastTime-b.FirstTime <= a.LastTime-a.FirstTime+slack {
			n += linkedByTime
			if why == "" {
				why = "it lies within the same minutes"
			}
		} else if n < linkedByName {
			n = 0 // of another time
		}
	}
	return n, why
}

// baseName is the last part of a path of either make: logs come from both.
func baseName(p string) string { return p[strings.LastIndexAny(p, `\/`)+1:] }

// plainName is a name without blanks and signs, in small letters.
func plainName(s string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9' || r > 0x7F:
			return r
		case r >= 'A' && r <= 'Z':
			return r + 'a' - 'A'
		}
		return -1
	}, s)
}

// adopt takes place and cause from the verdict of an inner log; the chain goes
// on in that file.
func (v *Verdict) adopt(in *Verdict, why string) {
	chain := v.Chain
	evidence := v.Evidence
	if v.Cause.Class != nil {
		v.Others = append([]Other{{Class: *v.Cause.Class, Title: v.Cause.Title, Confidence: v.Cause.Confidence}}, v.Others...)
	}
	v.BrokeAt, v.Cause, v.Remedies, v.Sign, v.Machine = in.BrokeAt, in.Cause, in.Remedies, in.Sign, in.Machine
	v.Result, v.Server, v.Said, v.Captures = in.Result, in.Server, in.Said, in.Captures
	if v.Host.Name == "" {
		v.Host.Name = in.Host.Name
	}
	if v.Host.Build == "" {
		v.Host.Build = in.Host.Build
	}
	v.checkable, v.mayStep, v.vague = in.checkable, in.mayStep, in.vague
	v.Chain = append(slices.Clone(chain[:min(len(chain), maxChain/2)]), in.Chain...)
	v.Evidence = append(slices.Clone(in.Evidence), evidence[:min(len(evidence), 3)]...)
	v.Remarks = append(v.Remarks, fmt.Sprintf("the cause stands in %s: %s", baseName(in.Logs[0].File), why))
	if v.Package == "" || v.Package == in.Package {
		v.Package, v.Given, v.With = in.Package, in.Given, in.With
	}
	if v.Product.Name == nil {
		v.Product = in.Product
	}
}
