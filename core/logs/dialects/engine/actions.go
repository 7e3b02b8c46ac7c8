// This file follows the engine's actions: what began, what ended, with which
// result, inside of what.

package engine

import (
	"bytes"
	"cmp"
	"slices"
	"strconv"
	"strings"
	"time"

	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/story"
)

// start opens an action. marked says that this is its own start mark, which may
// follow an announcement of the same action.
func (r *Reader) start(line int, name []byte, phase story.Phase, marked bool) {
	if n := len(r.open); n > 0 && r.open[n-1].Name == string(name) && r.open[n-1].Phase == phase && !r.open[n-1].started {
		if marked {
			r.open[n-1].started = true
		}
		return
	}
	if r.ended && !r.rollback && r.nestedDepth() == 0 && phase == story.Immediate {
		// After the end of the run come only the way back and the last dialogs.
		phase = story.Rollback
	}
	// A log that opens without end is damaged or made so.
	if len(r.open) >= maxOpen {
		r.a.Dropped++
		return
	}
	a := &story.Action{
		Place: r.place(line), Name: string(name), Phase: phase, Start: r.clock.Now(), End: -1,
		Custom: !standard[string(name)],
	}
	if n := len(r.open); n > 0 {
		a.Parent = r.open[n-1].Action
	}
	if len(r.a.Actions) < story.MaxActions {
		r.a.Actions = append(r.a.Actions, a)
	} else {
		r.a.Dropped++
	}
	r.open = append(r.open, &running{Action: a, win: r.fresh(), started: marked, standard: standard[a.Name]})
}

// fresh is an empty window, one that was used before where there is one: a long
// log opens hundreds of thousands.
func (r *Reader) fresh() *window {
	if n := len(r.pool); n > 0 {
		w := r.pool[n-1]
		r.pool = r.pool[:n-1]
		w.reset()
		return w
	}
	return new(window)
}

// end closes the innermost open action of that name.
func (r *Reader) end(line int, name []byte, value int, at time.Duration, text []byte) {
	at = r.at(at)
	for i := len(r.open) - 1; i >= 0; i-- {
		a := r.open[i]
		if a.Name != string(name) || a.Phase == story.Deferred && !a.started {
			continue
		}
		if a.Phase == story.Deferred && scriptHosts[string(name)] {
			continue
		}
		failing := value == 3 || value == 2 || value == 0
		for j := len(r.open) - 1; j > i; j-- {
			in := r.open[j]
			switch {
			case in.Phase == story.Deferred:
				r.closeScript(in, failing, line, at)
			case in.Phase == story.Immediate && !in.started:
				// Announced before its forerunner's end was written: it stays
				// open.
				in.Parent = a.Parent
				continue
			default:
				r.retire(in, failing)
			}
			r.open = append(r.open[:j], r.open[j+1:]...)
		}
		a.EndLine, a.End, a.Result = line, at, &value
		a.Failed = value == 3 || value == 2
		if value == 0 {
			a.Failed = true // a real engine's "no such action" is told apart when the run is over
		}
		if a.Failed {
			a.EndText = story.Clip(text, story.MaxText)
		}
		r.retire(a, a.Failed)
		r.open = append(r.open[:i], r.open[i+1:]...)
		if story.WholeRun(a.Name) && a.Parent == nil {
			r.ended = true
		}
		return
	}
}

// at is a line's time since the log began; a line without one has that of the
// line before.
func (r *Reader) at(at time.Duration) time.Duration {
	if at < 0 {
		return r.clock.Now()
	}
	r.clock.Stamp(r.a.LastLine, at, "")
	return r.clock.Now()
}

// closeScript ends an action of the script, whose end is never written: the
// next one starts, or the script's host ends.
func (r *Reader) closeScript(a *running, failed bool, line int, at time.Duration) {
	a.EndLine, a.End = line, at
	if failed && a.Phase == story.Deferred && r.a.Rollback == 0 {
		a.Failed, a.Inferred = true, true
	}
	r.retire(a, a.Failed)
}

// retire keeps what was said in an action that failed, and forgets the rest.
func (r *Reader) retire(a *running, keep bool) {
	if a.Ignored || a.Code != nil && *a.Code != 0 {
		if r.recalled < maxRecalled {
			keep = true
			r.recalled++
		}
	}
	if keep || a.Phase == story.Rollback && a.Failed {
		a.Data = a.win.lastData(r.file)
		r.recall(a.Action, a.win)
	}
	if len(r.pool) < maxOpen {
		r.pool = append(r.pool, a.win)
	}
}

// recall turns the lines of a window into messages.
func (r *Reader) recall(a *story.Action, w *window) {
	w.each(func(s *slot) {
		if len(r.a.Messages) >= story.MaxMessages {
			r.a.Dropped++
			return
		}
		m := message(s)
		m.File, m.Action = r.file, a
		m.Rollback = a != nil && a.Phase == story.Rollback || r.a.Rollback > 0 && s.line > r.a.Rollback
		r.a.Messages = append(r.a.Messages, m)
	})
}

// operation takes an executed operation of a script.
func (r *Reader) operation(line int, op []byte) {
	switch {
	case bytes.HasPrefix(op, []byte("FileCopy(")): // most of them are
		r.window().addData(line, r.clock.Now(), op)
	case bytes.HasPrefix(op, []byte("ActionStart(")):
		name := opArgument(op, "Name")
		if len(name) == 0 {
			return
		}
		r.scriptAction(line, name)
	case bytes.HasPrefix(op, []byte("Header(")):
		r.rollback = string(opArgument(op, "ScriptType")) == "2"
		if r.rollback {
			r.wayBack(line)
		}
	case bytes.HasPrefix(op, []byte("CustomActionSchedule(")):
		// What it runs names the subject when nothing else does.
		r.window().addData(line, r.clock.Now(), op)
	case bytes.HasPrefix(op, []byte("ProductInfo(")):
		if r.a.Product.Code == "" && r.nestedDepth() == 0 {
			r.a.Product.Code = string(opArgument(op, "ProductKey"))
		}
	case bytes.HasPrefix(op, []byte("ServiceControl(")), bytes.HasPrefix(op, []byte("ServiceInstall(")),
		bytes.HasPrefix(op, []byte("RegOpenKey(")), bytes.HasPrefix(op, []byte("FolderCreate(")),
		bytes.HasPrefix(op, []byte("FileRemove(")),
		bytes.HasPrefix(op, []byte("SetTargetFolder(")), bytes.HasPrefix(op, []byte("ChangeMedia(")):
		r.window().addData(line, r.clock.Now(), op)
	}
}

// wayBack notes where undoing begins.
func (r *Reader) wayBack(line int) {
	if r.nestedDepth() == 0 && r.a.Rollback == 0 {
		r.a.Rollback = line
	}
}

// scriptAction opens an action of the script, which ends the one before.
func (r *Reader) scriptAction(line int, name []byte) {
	for n := len(r.open); n > 0 && r.open[n-1].Phase != story.Immediate; n = len(r.open) {
		if r.open[n-1].Name == string(name) && r.open[n-1].Line >= line-2 {
			return // its plain mark stands just above
		}
		r.closeScript(r.open[n-1], false, line, r.clock.Now())
		r.open = r.open[:n-1]
	}
	phase := story.Deferred
	if r.rollback {
		phase = story.Rollback
	}
	r.start(line, name, phase, true)
}

// mark takes one of the engine's three lines about an action.
func (r *Reader) mark(line int, m actionMark, text []byte) bool {
	if m.kind == markStart && r.announcedOnly(m) {
		m.kind = markPlain
	}
	switch m.kind {
	case markPlain:
		if len(m.text) == 0 && r.plainWord == nil {
			r.plainWord = bytes.Clone(m.prefix)
		}
		r.clock.Stamp(line, m.at, "")
		if string(m.name) == "Rollback" {
			r.rollback = true
			r.wayBack(line)
			return true
		}
		if n := len(r.open); n > 0 && r.open[n-1].Name == string(m.name) && !r.open[n-1].started {
			return true // the description of what was just announced
		}
		if n := len(r.open); n > 0 && (r.open[n-1].Phase != story.Immediate || scriptHosts[r.open[n-1].Name]) {
			r.scriptAction(line, m.name)
		}
		return true
	case markStart:
		r.clock.Stamp(line, m.at, "")
		// A script's host may hold full start and end marks of its own.
		if n := len(r.open); n > 0 && r.open[n-1].Phase == story.Deferred && r.open[n-1].Name == string(m.name) && r.open[n-1].Line == line-1 {
			r.open[n-1].Phase, r.open[n-1].started = story.Immediate, true
			return true
		}
		r.start(line, m.name, story.Immediate, true)
		r.lastStart, r.startRow = append(r.lastStart[:0], m.prefix...), r.rows
		return true
	case markEnd:
		// In some languages the three marks differ in their first word only,
		// and that is learned from the log.
		if r.plainWord != nil && bytes.Equal(m.prefix, r.plainWord) {
			return r.mark(line, actionMark{kind: markPlain, prefix: m.prefix, at: m.at, name: m.name, text: []byte("?")}, text)
		}
		r.end(line, m.name, m.value, m.at, text)
		return true
	}
	return false
}

// apartMost is how many lines on the start stands at most: another program may
// have written one or two between.
const apartMost = 3

// announcedOnly says whether a mark without a tail is an announcement that lost
// the blank at its end, as it does in mail and in tickets: the announcement and
// the start of an action then look alike but for the words before the time.
// They come right after one another, which tells the announcement's words; from
// then on these are known.
func (r *Reader) announcedOnly(m actionMark) bool {
	if r.plainWord != nil {
		return bytes.Equal(m.prefix, r.plainWord)
	}
	n := len(r.open)
	if n == 0 || len(r.lastStart) == 0 || r.open[n-1].Name != string(m.name) || bytes.Equal(r.lastStart, m.prefix) ||
		r.rows > r.startRow+apartMost {
		return false
	}
	// What was taken for the start was the announcement; this is the start.
	r.plainWord = bytes.Clone(r.lastStart)
	return true
}

// customResult takes "CustomAction NAME returned actual error code N …".
func (r *Reader) customResult(line int, text []byte) bool {
	rest, ok := bytes.CutPrefix(text, []byte("CustomAction "))
	if !ok {
		return false
	}
	name, rest, ok := bytes.Cut(rest, []byte(" returned actual error code "))
	if !ok {
		return false
	}
	digits, rest, _ := bytes.Cut(rest, []byte(" "))
	code, err := strconv.Atoi(string(digits))
	if err != nil {
		return false
	}
	r.keep(line, story.KindResult, text)
	for i := len(r.open) - 1; i >= 0; i-- {
		if a := r.open[i]; a.Name == string(name) {
			a.Code = &code
			a.Ignored = bytes.Contains(rest, []byte("translated to success"))
			return true
		}
	}
	return true
}

// close ends the attempt: what is still open was cut off.
func (r *Reader) close() {
	a := r.a
	for i := len(r.open) - 1; i >= 0; i-- {
		o := r.open[i]
		o.Data = o.win.lastData(r.file)
		r.recall(o.Action, o.win)
		r.pool = append(r.pool, o.win)
	}
	r.recall(nil, r.outside)
	r.outside.reset()
	r.open = nil
	slices.SortStableFunc(a.Messages, func(x, y *story.Message) int { return x.Line - y.Line })
	a.Messages = slices.CompactFunc(a.Messages, func(x, y *story.Message) bool { return x.Line == y.Line })
	for _, p := range []struct {
		name string
		to   *string
	}{
		{"ProductName", &a.Product.Name}, {"ProductVersion", &a.Product.Version}, {"ProductCode", &a.Product.Code},
		{"Manufacturer", &a.Product.Manufacturer}, {"ProductLanguage", &a.Product.Language}, {"OriginalDatabase", &a.Package},
	} {
		if v, ok := a.Properties[p.name]; ok && v.Value != "" {
			*p.to = v.Value
		}
	}
	a.Product.Name, r.spoken = cmp.Or(a.Product.Name, r.spoken), ""
	if a.Product.Code = cmp.Or(a.Product.Code, r.code); a.Product.Code == "" && isCode(a.Package) { // a patch, or a removal, called by it
		a.Product.Code = a.Package
	}
	r.code = ""
	// A list of properties without it is one of a run that had no rights.
	if v, ok := a.Properties["Privileged"]; ok {
		a.Elevated = new(v.Value == "1")
	} else if _, ok := a.Properties["ProductCode"]; ok && a.Exit != nil {
		a.Elevated = new(false)
	}
	if a.Exit != nil && exitcode.Restart(a.Exit.Code) {
		a.Restart = true
	}
	settleZeros(a)
}

// settleZeros undoes the failures that were none: value 0 means "no such
// action" to one engine and failure to another, and only where the outermost
// action ended with 0 too did it end the run.
func settleZeros(a *story.Attempt) {
	zeroRun := false
	for _, x := range a.Actions {
		if story.WholeRun(x.Name) && x.Parent == nil && x.Result != nil && *x.Result == 0 {
			zeroRun = true
		}
	}
	for i, x := range a.Actions {
		if x.Result == nil || *x.Result != 0 {
			continue
		}
		if !zeroRun || laterSibling(a.Actions[i+1:], x) {
			x.Failed = false
		}
	}
}

// laterSibling says whether an action with the same parent as x started after
// it.
func laterSibling(after []*story.Action, x *story.Action) bool {
	for _, y := range after {
		if y.Parent == x.Parent && y.Phase == x.Phase {
			return true
		}
	}
	return false
}

// isCode says whether a package was named by a product's code alone.
func isCode(name string) bool {
	return len(name) == len("{00000000-0000-0000-0000-000000000000}") && name[0] == '{' && name[len(name)-1] == '}' && strings.Count(name, "-") == 4
}
