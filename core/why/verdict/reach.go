// This file is the way from a story to a verdict, step by step. Read it first.

package verdict

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"hollowkey/core/logs/dialects"
	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
	"hollowkey/core/step"
	"hollowkey/core/why/evidence"
	"hollowkey/core/why/lexicon"
	"hollowkey/core/why/signs"
)

// An Input is one log to be read.
type Input struct {
	Name string    // of the file
	Text io.Reader // read once, to its end
}

// Options steer how a verdict is reached.
type Options struct {
	Reading textfile.Options // encoding and limits
	Signs   *signs.Pack      // nil for those that ship with the program
	Machine signs.Checker    // nil when no machine is at hand
}

// Reach reads a log and judges it. The errors of dialects.Read say when it is
// no log at all.
func Reach(ctx context.Context, in Input, opt Options) (*Verdict, error) {
	s, err := Read(ctx, in, opt.Reading)
	if err != nil {
		return nil, err
	}
	return Judge(s, opt)
}

// Read reads a log into its story.
func Read(ctx context.Context, in Input, opt textfile.Options) (*story.Story, error) {
	return dialects.Read(ctx, in.Name, in.Text, opt)
}

// Prepare builds the tables that judging needs. Whoever reads a log first lets
// it run beside: each log that is not the engine's needs them, and they take as
// long to build as a small log to read.
func Prepare(opt Options) {
	lexicon.Default()
	if pack := opt.Signs; pack != nil {
		pack.Prepare()
	} else if pack, err := signs.Default(); err == nil { // Judge tells the error
		pack.Prepare()
	}
}

// Judge works out the verdict of a story. It fails only where the signs cannot
// be read: whatever is in the story, there is a verdict.
func Judge(s *story.Story, opt Options) (*Verdict, error) {
	pack := opt.Signs
	if pack == nil {
		var err error
		if pack, err = signs.Default(); err != nil {
			return nil, err
		}
	}
	v := &Verdict{Schema: Schema, Outcome: story.Unknown, Chain: []Line{}, Evidence: []Line{}, Remedies: []step.Remedy{}}
	for _, src := range s.Sources {
		v.Logs = append(v.Logs, Log{src.Name, src.Dialect, src.Encoding, src.Lines, src.Bytes})
		if src.Damaged > 0 {
			v.Remarks = append(v.Remarks, fmt.Sprintf("%s is damaged; parts of it that could not be "+
				"read: %d; the rest counts", src.Name, src.Damaged))
		}
	}
	a := s.Last()
	if a == nil {
		v.Cause = Cause{Class: new("unknown"), Title: "nothing was set up here", Summary: "the log holds no setup attempt"}
		return v, nil
	}
	// People ask about the last attempt; those before are told in short.
	for _, past := range s.Attempts[:len(s.Attempts)-1] {
		v.Attempts = append(v.Attempts, Past{past.Line, past.Date, outcome(past), exitCode(past)})
	}
	j := judge{a: a, v: v, pack: pack, opt: opt, cut: s.Sources[len(s.Sources)-1].Unended}
	j.run()
	j.around(s.Sources[len(s.Sources)-1])
	if n := len(v.Attempts); n > 0 {
		v.Remarks = append(v.Remarks, fmt.Sprintf("the log holds %d attempts; this is the last, from line %d", n+1, a.Line))
	}
	return v, nil
}

// judge is the work on one attempt.
type judge struct {
	a       *story.Attempt    // the one that is judged
	v       *Verdict          // grows as it goes
	pack    *signs.Pack       // ours, with the site's
	opt     Options           // as they were given
	broke   *story.Action     // the action that broke; nil where none is known
	trail   []*story.Action   // from the outermost failed action to the one that broke
	scene   signs.Scene       // what the signs look at
	caps    map[string]string // what was captured so far
	anchor  []*story.Message  // messages that the cause hangs on
	special *special          // the kind of cause, where that is known more closely than by its class
	aiming  string            // what was done with a path when it broke, in one word; empty where no line says

	cut      bool          // the log ends in the middle of a line
	compared bool          // the cause is a wish that what was found does not meet
	said     *evidence.Run // what the lines say by themselves; nil for logs with numbered messages
}

// run takes from the run itself what needs no weighing: how it ended, and with
// which number. A log that was cut in the middle tells no end, even where its
// last lines say that something went well.
func (j *judge) run() {
	v := j.v
	v.Outcome, v.ExitCode = outcome(j.a), exitCode(j.a)
	if v.Outcome == story.Unknown && j.foreign() && (j.cut || j.a.Product.Name != "") { // it began, and no line tells an end
		v.Outcome = story.Unfinished
	}
	if j.cut && (j.a.Dialect == story.Servicing || j.a.Dialect == story.Driver) &&
		(v.Outcome == story.Succeeded || v.Outcome == story.Restart) {
		v.Outcome = story.Unfinished // the OS ends each line: it was cut in the middle of one, and others of its parts went well
	}
	v.Product, v.Package, v.User = j.a.Product.Identity(), j.a.Package, j.a.Properties["LogonUser"].Value
	if j.a.Dialect == story.Engine {
		v.Given, v.With = story.Call(j.a.Command)
	}
	j.remark()
	// The end was read from loose words, so what stands behind it may take it
	// back.
	if j.a.Loosely && v.Outcome == story.Succeeded {
		v.Outcome = j.doubted()
	}
	switch v.Outcome {
	case story.Succeeded:
		j.succeeded()
		return
	case story.Restart:
		j.succeeded()
		v.Remedies = []step.Remedy{{Class: "restart", Title: "restart the machine when it suits, so that the replaced files come into use",
			Target: "this machine", Undo: "not needed"}}
		return
	}
	// From here on it is about a failure: where, which lines, why, and what to
	// do.
	j.trail = breaking(j.a, v.Outcome)
	if n := len(j.trail); n > 0 {
		j.broke = j.trail[n-1]
	}
	j.weigh()
	j.cause()
	j.lastWord()
	j.place()
	j.chain()
	j.remedies()
}

// lastWord takes a run of which nothing says how it ended for one that failed,
// where a cause is told and the log's last line says that something could not
// be done, or that it goes no further.
func (j *judge) lastWord() {
	v, n := j.v, len(j.a.Messages)
	if v.Outcome != story.Unknown && v.Outcome != story.Unfinished || j.a.Dialect != story.Generic || j.cut || n == 0 ||
		v.Cause.Class == nil || *v.Cause.Class == "unknown" || v.Cause.Confidence < leastFailed {
		return
	}
	m := j.a.Messages[n-1]
	if k := len(m.Further); m.Line < j.a.LastLine && (k == 0 || m.Further[k-1] < j.a.LastLine) {
		return
	}
	text, _, _ := strings.Cut(m.Text, "\n")
	said := endings.Read(text)
	stops, firm := endings.Stops(text)
	switch {
	case said.Passed || said.Again:
	case stops && firm, said.Fails, said.Refuses, m.Kind <= story.KindError,
		endings.CouldNot(text), (stops || said.Advises && !said.Restart && onceMore.MatchString(text) || usage.MatchString(text)) && j.atLast():
		v.Outcome = story.Failed
	}
}

// onceMore is what a person is told to do before another try, in the languages
// that have such words: "please choose another drive", "install it first".
var onceMore = lazy.MustCompile(`(?i)(?:^|[^\pL])(?:another|again|first|retry|other|andere[nrs]?|erneut|noch ?mals?|zuerst|vorher|autre|à nouveau|de nouveau|d'abord|réessay\pL+|otr[oa]|de nuevo|nuevamente|primero|altr[oa]|di nuovo|prima|outr[oa]|novamente|primeiro|ander[es]?|opnieuw|eerst|inn[yeą]|ponownie|najpierw|jin[ýoáé]\pL*|znovu|nejdřív\pL*|ann\pL+|igen|först|başka|yeniden|önce|друг\pL+|снова|сначала)(?:$|[^\pL])|もう一度|別の|再度|다시|다른|먼저|重新|重试|其他|先`)

// usage begins what a program prints that was called wrongly.
var usage = lazy.MustCompile(`(?:^|  )(?i:usage|syntax|verwendung|aufruf|utilisation|uso|gebruik|użycie|použití|användning|kullanım|использование)\b ?:|^(?:使い方|用法|사용법) ?[:：]`)

// mostCompared is how many lines stand at most between a wish that is not met
// and the end of a run that was given up over it.
const mostCompared = 3

// atLast says whether the line that tells the cause is an error, where there
// are levels, and nothing that counts was done behind it: whoever speaks beside
// it says what goes on elsewhere.
func (j *judge) atLast() bool {
	n := len(j.a.Messages)
	last := j.a.Messages[n-1]
	levels := slices.ContainsFunc(j.a.Messages, func(m *story.Message) bool { return m.Kind == story.KindInfo })
	if len(j.anchor) == 0 || levels && !j.compared && j.anchor[0].Kind > story.KindDebug { // what was compared is told by no level
		return false
	}
	behind := 0 // what was found of the thing may be told behind what was wanted of it
	for _, m := range j.a.Messages[:n-1] {
		own := m.Source == "" || m.Source == j.anchor[0].Source || m.Source == last.Source
		if m.Line > j.anchor[0].Line && own && m.Kind > story.KindDebug {
			behind++
		}
	}
	return behind == 0 || j.compared && behind <= mostCompared
}

// How much must speak for a cause to doubt the word with which a log ends: to
// call the run failed, more likely than
// not by the table of docs/verdicts.md; to leave its outcome open, what a word
// for a failure weighs in a line that is not told as one.
const (
	leastFailed = 0.5
	leastDoubt  = 0.2
)

// doubted is the outcome of a run whose last word is "done": a script says so
// whatever became of what it called.
func (j *judge) doubted() story.Outcome {
	run := evidence.ReadRun(j.a, nil)
	hs := run.Weigh(nil)
	if len(hs) == 0 {
		return story.Succeeded
	}
	const remark = "the last line says that it went well, and a line before it tells a failure that nothing made good"
	if hs[0].Class != "unknown" && hs[0].Class != "cancelled" && evidence.Confidence(hs) >= leastFailed {
		j.v.Remarks = append(j.v.Remarks, remark)
		return story.Failed
	}
	complains := func(m *story.Message) bool {
		said := endings.Read(m.Text)
		return m.Kind <= story.KindWarning && !m.Verdict && !said.Passed && !said.Again && !run.Survived(m)
	}
	if slices.ContainsFunc(hs, func(h evidence.Hypothesis) bool { return h.Class != "unknown" && h.Total >= leastDoubt }) ||
		slices.ContainsFunc(j.a.Messages, complains) {
		j.v.Remarks = append(j.v.Remarks, remark)
		return story.Unknown
	}
	return story.Succeeded
}

// succeeded fills in what there is to say about a setup that worked.
func (j *judge) succeeded() {
	v := j.v
	name := "the setup"
	if v.Product.Name != nil {
		name = *v.Product.Name
	}
	done := "set up"
	if strings.EqualFold(j.a.Properties["REMOVE"].Value, "ALL") {
		done = "removed"
	}
	v.Cause.Summary = name + " was " + done + "; nothing is wrong"
	v.Cause.Confidence = 0.95
	if v.Outcome == story.Restart {
		v.Cause.Summary = name + " was " + done + "; a restart is due because files were in use"
	}
	if e := j.a.Exit; e != nil {
		v.Evidence = append(v.Evidence, Line{e.File, e.Line, e.Text})
	}
	for _, m := range j.a.Messages {
		inUse := v.Outcome == story.Restart && (m.Kind == story.KindInfo || m.Kind == story.KindNote) && m.Number != 0
		if (m.Kind == story.KindProduct || inUse) && !m.Rollback {
			v.Evidence = append(v.Evidence, lineOf(m))
		}
	}
	if n := len(v.Evidence); n > maxEvidence { // the end tells more than the middle
		v.Evidence = append(v.Evidence[:maxEvidence/2:maxEvidence/2], v.Evidence[n-maxEvidence/2:]...)
	}
	v.Evidence = firstLines(v.Evidence, maxEvidence)
}

// hang is a silence that no setup is meant to have.
const hang = 5 * time.Minute

// remark notes what limits the evidence.
func (j *judge) remark() {
	a := j.a
	if a.Dropped > 0 {
		j.v.Remarks = append(j.v.Remarks, fmt.Sprintf("%d items beyond the limits of a story were left out", a.Dropped))
	}
	if len(a.Gaps) > 0 && (j.v.Outcome == story.Cancelled || j.v.Outcome == story.Unfinished || j.v.Outcome == story.Failed) {
		if g := a.Gaps[0]; g.Length >= hang {
			doing := ""
			for _, x := range a.Actions {
				if x.Line <= g.After && (x.EndLine == 0 || x.EndLine > g.After) {
					doing = " while " + x.Name + " ran"
				}
			}
			j.v.Remarks = append(j.v.Remarks, fmt.Sprintf("nothing was logged for %d minutes after line %d%s: it hung or waited for somebody",
				int(g.Length.Minutes()), g.After, doing))
		}
	}
	if j.v.Outcome == story.Unfinished {
		j.v.Remarks = append(j.v.Remarks, fmt.Sprintf("the log stops at line %d without an end: the setup still runs, was ended, or the "+
			"machine went down", a.LastLine))
	}
}

// exitCode is the number that a run ended with; nil where none was told, as
// zero would mean success.
func exitCode(a *story.Attempt) *int {
	if a.Exit == nil {
		return nil
	}
	return &a.Exit.Code
}

// lineOf is a message as a verdict shows it: where it stands, and its letters
// as they are there.
func lineOf(m *story.Message) Line { return Line{m.File, m.Line, m.Raw} }
