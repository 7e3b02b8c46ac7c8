// This file is what a reader of a dialect must do.

package story

import "hollowkey/core/logs/textfile"

// A Reader takes the lines of one log of its dialect, in order, and then gives
// the attempts that they tell of. It keeps no line's bytes.
type Reader interface {
	Line(textfile.Line)
	Finish() []*Attempt
}
