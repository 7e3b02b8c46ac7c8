// Package why is the whole way from what a person has — logs, the words of a
// dialog, a number — to a verdict with its remedies in order. Every command
// that needs a verdict goes this way, so all of them know the site's signs, the
// machine and the package alike.
//
// docs/architecture.md walks along it.
package why

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"

	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/paged"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
	"hollowkey/core/logs/trail"
	"hollowkey/core/machine"
	"hollowkey/core/step"
	"hollowkey/core/why/checks"
	"hollowkey/core/why/gatefix"
	"hollowkey/core/why/inquiry"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

// A Question is what a person has of a setup that failed.
type Question struct {
	Logs     []string        // names of files and folders; "-" is Stdin
	Said     string          // what a dialog said
	Exit     *int            // what the setup ended with
	Signs    string          // folder of the site's own signs; that of signs.Folder when empty
	Encoding string          // of the logs; DetectEncoding, or empty, finds it out
	Machine  machine.Machine // the one that it failed on; may be nil
	Package  string          // that was set up, on the machine; empty for the one that the log names
	Reach    bool            // hosts that the log names may be asked over the network
	Stdin    io.Reader       // what "-" reads
	// Watch is told how many bytes there are to read, and gives what counts
	// them and what ends the counting; may be nil.
	Watch func(total int64) (count func(io.Reader) io.Reader, stop func())
}

// DetectEncoding is the encoding to give when it is to be found out.
const DetectEncoding = "detect"

// An Answer is a verdict with what it was reached from.
type Answer struct {
	Verdict *verdict.Verdict // on all of it together
	Logs    []string         // the files that were read, folders unfolded
	Stories []*story.Story   // what they tell, in the same order
}

var (
	// ErrNothingAsked says that a question names no log, no words and no
	// number.
	ErrNothingAsked = errors.New("a log is missing, or what was seen: --said or --exit\nhint: hollowkey logs finds logs")
	// ErrCall is wrapped by errors that the wording of the question is to blame
	// for.
	ErrCall = errors.New("wrong call")
)

// Ask reaches the verdict. Its remedies stand in the order in which they should
// be tried. The errors of dialects.Read say when a file is no log at all.
func Ask(ctx context.Context, q Question) (*Answer, error) {
	opt, err := q.options()
	if err != nil {
		return nil, err
	}
	said := strings.ToLower(strings.TrimSpace(q.Said))
	if n, ok := exitcode.Parse(said); ok && q.Exit == nil && !strings.HasPrefix(said, "0x") { // a dialog that shows a number alone
		q.Said, q.Exit = "", &n
	}
	told := q.Said != "" || q.Exit != nil
	if len(q.Logs) == 0 {
		if !told {
			return nil, callError{ErrNothingAsked}
		}
		v, err := verdict.Said(q.Said, q.Exit, opt)
		if err != nil {
			return nil, err
		}
		err = q.inquire(v, nil)
		step.Order(v.Remedies)
		return &Answer{Verdict: v}, err
	}
	ans, err := q.judge(ctx, opt)
	if err != nil {
		return nil, q.explain(err)
	}
	if err := q.inquire(ans.Verdict, ans.attempt()); err != nil {
		return nil, err
	}
	step.Order(ans.Verdict.Remedies)
	if told {
		ans.Verdict.Compare(q.Said, q.Exit)
	}
	return ans, nil
}

// surelyTold is the confidence from which on a log has said why by itself, and
// the package need not.
const surelyTold = 0.75

// inquire joins the verdict with the package and the machine: gates that
// refused, and what the action that failed works on.
func (q Question) inquire(v *verdict.Verdict, a *story.Attempt) error {
	if q.Package != "" {
		v.Package = q.Package
	}
	if q.Machine == nil || v.Worked() || v.Cause.Class == nil {
		return nil
	}
	if v.Package == "" {
		findBeside(v, q.Machine)
	}
	if v.Package == "" {
		if a != nil && a.Dialect == story.Engine && v.BrokeAt.Action != nil && v.Cause.Confidence < surelyTold {
			v.Looked(signs.Finding{Check: "package-tables", Answer: "unknown", Text: "the log does not name its package; with --package FILE what " +
				*v.BrokeAt.Action + " works on is asked of " + q.Machine.Name()})
		}
		return nil
	}
	p, err := inquiry.Find(q.Machine, v.Package)
	switch {
	case err != nil && unread(v, v.Package, err):
		return nil
	case err != nil && q.Package != "":
		return callError{fmt.Errorf("%w\nhint: look at the spelling of the package, or name the one that was set up", err)}
	case err != nil:
		if gatefix.Concerns(v) {
			v.Looked(signs.Finding{Check: "package-gates", Answer: "unknown",
				Text: "the package " + v.Package + " cannot be read on " + q.Machine.Name() + ", so its gates are not known"})
		}
		return nil
	}
	defer p.Close()
	if *v.Cause.Class == "custom-action" { // what the package's program lacks comes before leaving it out
		if inquiry.Look(v, p, a, q.Machine, q.Reach); v.Shown() {
			return nil
		}
	}
	gatefix.Add(v, p.DB, q.Machine)
	inquiry.Look(v, p, a, q.Machine, q.Reach)
	gatefix.Elsewhere(v, p.DB, a, q.Machine)
	return nil
}

// attempt is the one that the verdict is about; nil without a log.
func (a *Answer) attempt() *story.Attempt {
	for _, s := range a.Stories {
		if at := s.Last(); at != nil && at.Package == a.Verdict.Package && at.Package != "" {
			return at
		}
	}
	if len(a.Stories) == 0 {
		return nil
	}
	return a.Stories[0].Last()
}

// judge reads the logs and judges them together.
func (q Question) judge(ctx context.Context, opt verdict.Options) (*Answer, error) {
	in, err := q.open(ctx, opt.Reading)
	if err != nil {
		return nil, err
	}
	defer in.close()
	go verdict.Prepare(opt)
	ans := &Answer{Logs: in.names}
	ans.Stories, ans.Verdict, err = verdict.ReachAll(ctx, in.logs, in.folder, opt)
	if err == nil && q.Machine != nil {
		err = ans.besideEvents(ctx, q.Machine, opt)
	}
	if err == nil {
		in.tell(ans.Verdict)
	}
	return ans, err
}

// Against compares the setup of an answer with the log of the same one where it
// worked.
func (a *Answer) Against(ctx context.Context, q Question, good string) (p verdict.Parting, err error) {
	opt, err := q.options()
	if err != nil {
		return p, err
	}
	in, err := Question{Logs: []string{good}}.open(ctx, opt.Reading)
	if err != nil {
		return p, err
	}
	defer in.close()
	s, err := verdict.Read(ctx, in.logs[0], opt.Reading)
	if err != nil {
		return p, q.explain(err)
	}
	if len(a.Stories) == 0 {
		return p, callError{errors.New("--against needs a log of the setup that failed, too")}
	}
	return a.Verdict.Against(a.Stories[0], s), nil
}

// Trail walks along one log, with the verdict that marks where it broke.
func Trail(ctx context.Context, q Question, opt trail.Options) (*trail.Trail, *verdict.Verdict, error) {
	ans, err := Ask(ctx, q)
	if err != nil {
		return nil, nil, err
	}
	return ans.Trail(opt), ans.Verdict, nil
}

// Trail is the course of the log that the verdict is about, nil when there is
// none.
func (a *Answer) Trail(opt trail.Options) *trail.Trail {
	if len(a.Stories) == 0 {
		return nil
	}
	v := a.Verdict
	return trail.Of(a.Stories[0], trail.Ending{Product: v.Product, Outcome: v.Outcome, ExitCode: v.ExitCode, BrokeAt: v.BrokeAt}, opt)
}

// Around reads the lines of the question's one log before and after a line.
func Around(ctx context.Context, q Question, line, each int) ([]trail.Said, error) {
	opt, err := q.options()
	if err != nil {
		return nil, err
	}
	in, err := q.open(ctx, opt.Reading)
	if err != nil {
		return nil, err
	}
	defer in.close()
	return trail.Around(ctx, in.logs[0].Text, opt.Reading, line, each, each)
}

// Pages are the lines of the question's one log, to be read at any place.
func Pages(ctx context.Context, q Question) (*paged.Pages, error) {
	opt, err := q.options()
	if err != nil {
		return nil, err
	}
	in, err := q.open(ctx, opt.Reading)
	if err != nil {
		return nil, err
	}
	defer in.close()
	return paged.Copy(ctx, in.logs[0].Text, opt.Reading)
}

// TrailOf walks along one log whose verdict is known already.
func TrailOf(ctx context.Context, log string, v *verdict.Verdict, opt trail.Options) (*trail.Trail, error) {
	q := Question{Logs: []string{log}}
	in, err := q.open(ctx, textfile.Options{})
	if err != nil {
		return nil, err
	}
	defer in.close()
	s, err := verdict.Read(ctx, in.logs[0], textfile.Options{})
	if err != nil {
		return nil, q.explain(err)
	}
	return (&Answer{Verdict: v, Stories: []*story.Story{s}}).Trail(opt), nil
}

// Options are the question's as the verdict takes them, for whoever judges many
// logs.
func (q Question) Options() (verdict.Options, error) { return q.options() }

// options are the question's as the verdict takes them.
func (q Question) options() (out verdict.Options, err error) {
	if q.Encoding != "" {
		if out.Reading.Encoding, err = textfile.ParseEncoding(q.Encoding); err != nil {
			return out, callError{err}
		}
	}
	if q.Machine != nil {
		out.Machine = checks.On(q.Machine, q.Reach)
	}
	if folder := signs.Folder(q.Signs); folder != "" {
		out.Signs, err = signs.WithSite(folder)
	}
	return out, err
}

// A callError is an error of the question's wording.
type callError struct{ error }

func (e callError) Unwrap() error        { return e.error }
func (e callError) Is(target error) bool { return target == ErrCall }
