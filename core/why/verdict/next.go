// This file says what helps most after a verdict.

package verdict

// A Next is what helps most after a verdict.
type Next int

// What may help next.
const (
	NextNothing Next = iota // the setup worked
	NextLog                 // get a verbose log
	NextLook                // look at the machine, which may name the fix
	NextFix                 // a remedy has, or may have, steps that a machine can take
	NextNamed               // the same, of a remedy that a person names
	NextRead                // read the log around the line of the proof
	NextRetry               // do what a person must do, and try the package again
)

// Next says what helps most now; onMachine tells whether a machine was looked
// at for this verdict.
func (v *Verdict) Next(onMachine bool) Next {
	switch {
	case v.Worked():
		return NextNothing
	case v.FirstWithSteps() >= 0, !onMachine && (v.checkable && v.mayStep || v.gated()):
		return NextFix
	case v.FirstNamed() >= 0:
		return NextNamed
	case len(v.Logs) == 0 && v.unread:
		return NextRetry
	case len(v.Logs) == 0:
		return NextLog
	case v.checkable && !onMachine:
		return NextLook
	case v.ProofLine().Line > 0:
		return NextRead
	}
	return NextNothing
}

// gated says whether a condition of a package refused that the log names: on
// the machine its gates can be worked out.
func (v *Verdict) gated() bool {
	return v.Package != "" && v.Cause.Class != nil && *v.Cause.Class == "condition"
}

// ProofLine is the line to read first; its number is 0 when the log has none.
func (v *Verdict) ProofLine() Line {
	if len(v.Evidence) == 0 {
		return Line{}
	}
	for _, l := range v.Evidence {
		if v.BrokeAt.Line != nil && l.Line == *v.BrokeAt.Line && l.File == v.BrokeAt.File {
			return l
		}
	}
	return v.Evidence[len(v.Evidence)-1]
}
