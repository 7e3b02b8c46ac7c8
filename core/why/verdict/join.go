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
// are no logs are passed over when skip is set. The stories are those of the
// files that were logs, in the same order.
func ReachAll(ctx context.Context, ins []Input, skip bool, opt Options) (stories []*story.Story, v *Verdict, err error) {
	passed := 0
	for _, in := range ins {
		s, err := Read(ctx, in, opt.Reading)
		switch {
		case err == nil:
			stories = append(stories, s)
		case (skip || len(ins) > 1) && (errors.Is(err, dialects.ErrNoLog) || errors.Is(err, dialects.ErrBinary) || errors.Is(err, dialects.ErrEmpty)):
			passed++
		default:
			return nil, nil, err
		}
	}
	if len(stories) == 0 {
		return nil, nil, fmt.Errorf("none of the %d files is a set-up log: %w", len(ins), dialects.ErrNoLog)
	}
	v, err = judgeAll(stories, opt)
	if err == nil && passed > 0 {
		v.Remarks = append(v.Remarks, fmt.Sprintf("%d files were passed over, they are no set-up logs", passed))
	}
	return stories, v, err
}

// judged is a story with its verdict.
type judged struct {
	*story.Story
	v *Verdict // on that log alone
}

func judgeAll(stories []*story.Story, opt Options) (*Verdict, error) {
	var all []judged
	for _, s := range stories {
		v, err := Judge(s, opt)
		if err != nil {
			return nil, err
		}
		all = append(all, judged{s, v})
	}
	if len(all) == 1 {
		return all[0].v, nil
	}
	slices.SortStableFunc(all, func(a, b judged) int { return b.outerness() - a.outerness() })
	outer := all[0]
	v := outer.v
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
	v.Logs = nil
	for _, s := range stories {
		for _, src := range s.Sources {
			v.Logs = append(v.Logs, Log{src.Name, src.Dialect, src.Encoding, src.Lines, src.Bytes})
		}
	}
	return v, nil
}

// outerness ranks logs by how likely they are the one that ran the others.
func (j judged) outerness() int {
	n := 0
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

const (
	linkedByName = 4
	linkedByCode = 2
	linkedByTime = 1
	linkEnough   = 1
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
		if o.Story == j.Story || o.v.Worked() || o.v.Outcome == story.Unknown {
			continue
		}
		n, w := j.link(*o)
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
		const slack = 5 * time.Second
		apart := b.FirstTime - a.FirstTime
		apart -= apart.Round(time.Hour) // one of them may be in another zone
		if b.FirstTime >= a.FirstTime-slack && b.LastTime <= a.LastTime+slack ||
			n > 0 && apart >= -slack && apart+b.LastTime-b.FirstTime <= a.LastTime-a.FirstTime+slack {
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
	v.checkable, v.mayStep, v.vague = in.checkable, in.mayStep, in.vague
	v.Chain = append(slices.Clone(chain[:min(len(chain), maxChain/2)]), in.Chain...)
	v.Evidence = append(slices.Clone(in.Evidence), evidence[:min(len(evidence), 3)]...)
	v.Remarks = append(v.Remarks, fmt.Sprintf("the cause stands in %s: %s", baseName(in.Logs[0].File), why))
	if v.Product.Name == nil {
		v.Product = in.Product
	}
}
