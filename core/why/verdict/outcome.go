// This file says how a run ended, and at which action.

package verdict

import (
	"slices"

	"hollowkey/core/logs/story"
	"hollowkey/core/why/codes"
)

// outcome tells how an attempt ended: by its number where there is one, else by
// what it says outright, else by how its outermost action ended.
func outcome(a *story.Attempt) story.Outcome {
	top := outermost(a)
	switch {
	case a.Cancelled:
		return story.Cancelled
	// The number counts before the words: programs say "done" on their way to
	// an error.
	case a.Exit != nil:
		o := byCode(a.Exit.Code, a)
		if o == story.Restart && a.Dialect == story.Generic && a.Success != nil && !*a.Success {
			return story.Failed // a restart is wanted first, and nothing was installed
		}
		return o
	case a.Success != nil:
		switch {
		case !*a.Success && top != nil && top.Result != nil && *top.Result == 2:
			return story.Cancelled
		case !*a.Success:
			return story.Failed
		case a.Restart:
			return story.Restart
		}
		return story.Succeeded
	case top != nil && top.Result != nil:
		// The engine's numbers for how an action ended: 1 worked, 2 a person
		// stopped it, 3 failed, 4 it goes on after a restart.
		switch *top.Result {
		case 1:
			if a.Restart {
				return story.Restart
			}
			return story.Succeeded
		case 2:
			return story.Cancelled
		case 4:
			return story.Restart
		}
		if top.Failed {
			return story.Failed
		}
	}
	// Something began and nothing ended: it was cut off, or still runs.
	if len(a.Actions) > 0 && !a.Closed {
		return story.Unfinished
	}
	return story.Unknown
}

// byCode is the outcome that an exit code tells. Zero of a setup that asked for
// a restart is one that waits for it.
func byCode(code int, a *story.Attempt) story.Outcome {
	if e, ok := codes.ExitCode(code); ok {
		switch e.Outcome {
		case "ok":
			if a.Restart {
				return story.Restart
			}
			return story.Succeeded
		case "restart":
			return story.Restart
		case "cancelled":
			return story.Cancelled
		}
	}
	return story.Failed
}

// outermost is the last action that nothing else contains and that is a whole
// run by its name or by being the only one.
func outermost(a *story.Attempt) *story.Action {
	for i := len(a.Actions) - 1; i >= 0; i-- {
		if x := a.Actions[i]; x.Parent == nil && x.Phase == story.Immediate && story.WholeRun(x.Name) {
			return x
		}
	}
	return nil
}

// breaking goes from the outermost action that failed down to the one that
// failed first. In an unfinished log that is what was running when it stops.
func breaking(a *story.Attempt, o story.Outcome) (trail []*story.Action) {
	children := map[*story.Action][]*story.Action{}
	for _, x := range a.Actions {
		children[x.Parent] = append(children[x.Parent], x)
	}
	pick := firstFailed
	if o == story.Unfinished && a.Rollback > 0 { // what broke, and not what was being rolled back when the log stops
		pick = failedOrOpen
	} else if o == story.Unfinished {
		pick = lastOpen
	}
	var at *story.Action
	for range a.Actions {
		next := pick(children[at])
		if next == nil {
			break
		}
		trail = append(trail, next)
		at = next
	}
	return trail
}

// firstFailed picks among siblings the one that made the rest fail. A run that
// was begun anew counts as the last one. Of steps that failed one right behind
// the other it is the first: a step that needs what is not there fails by that.
func firstFailed(siblings []*story.Action) *story.Action {
	var found *story.Action
	for i, x := range siblings {
		switch {
		case !x.Failed || x.Phase == story.Rollback:
		case found != nil && x.Result == nil && siblings[i-1].Failed && siblings[i-1].Result == nil && siblings[i-1].Name != x.Name:
		case found == nil, x.Result != nil && *x.Result == 0 && !x.Inferred, x.Parent == nil:
			found = x
		}
	}
	return found
}

// failedOrOpen is the action at which a run stopped: one that failed, else one
// that never ended. In a rollback none is looked for, as that begins after the
// failure.
func failedOrOpen(siblings []*story.Action) *story.Action {
	if x := firstFailed(siblings); x != nil {
		return x
	}
	return lastOpen(slices.DeleteFunc(slices.Clone(siblings), func(x *story.Action) bool { return x.Phase == story.Rollback }))
}

// lastOpen is the last action without an end: at a cut the one that ran then.
func lastOpen(siblings []*story.Action) *story.Action {
	for i := len(siblings) - 1; i >= 0; i-- {
		if siblings[i].EndLine == 0 {
			return siblings[i]
		}
	}
	return nil
}
