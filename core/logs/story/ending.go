// This file has how a setup can end.

package story

// An Outcome is how a setup ended.
type Outcome string

// The outcomes, closed.
const (
	Failed     Outcome = "failed"
	Succeeded  Outcome = "succeeded"
	Restart    Outcome = "restart"    // worked, and a restart is due
	Cancelled  Outcome = "cancelled"  // somebody stopped it
	Unfinished Outcome = "unfinished" // the log stops before the setup ended
	Unknown    Outcome = "unknown"
)

// Worked says whether a setup did its work, with or without a restart due.
func (o Outcome) Worked() bool { return o == Succeeded || o == Restart }

// An Identity is what was being set up, as JSON has it: null where the log does
// not say.
type Identity struct {
	Name    *string `json:"name"`         // nil where the log does not tell
	Version *string `json:"version"`      // nil where the log does not tell
	Code    *string `json:"product_code"` // product code with braces, nil for what is no package
}

// Identity gives name, version and product code, nil where they are not known.
func (p Product) Identity() Identity {
	some := func(s string) *string {
		if s == "" {
			return nil
		}
		return &s
	}
	return Identity{some(p.Name), some(p.Version), some(p.Code)}
}

// BrokeAt is the innermost action that failed first and made the rest fail.
type BrokeAt struct {
	Action *string `json:"action"`         // nil where no action is known
	Line   *int    `json:"line"`           // from 1; nil where no line is known
	File   string  `json:"file,omitempty"` // of several logs: the one in which it broke
}

// WholeRun says whether an action of the installer engine is a whole run, not a
// part of one.
func WholeRun(action string) bool {
	switch action {
	case "INSTALL", "ADMIN", "ADVERTISE":
		return true
	}
	return false
}
