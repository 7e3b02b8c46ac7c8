// This file finds names of errors as programs print them, by their constants.

package evidence

import (
	"iter"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/why/codes"
)

// constant is the name of an error as the OS's headers have it, in small
// letters: error_access_denied, wsahost_not_found, cert_e_expired,
// e_accessdenied.
var constant = lazy.MustCompile(`^(?:error_[a-z0-9_]{3,60}|wsa[a-z][a-z_]{3,40}|status_[a-z0-9_]{4,60}|[a-z]{2,9}_[ew]_[a-z0-9_]{3,50}|e_[a-z]{4,30})$`)

// mostConstants of a line are looked up.
const mostConstants = 4

// constantsIn are the codes that a line, in small letters, gives by their
// names.
func constantsIn(lower string) (found []Number) {
	looked := 0
	for at, word := range wordsWith(lower, "_", "wsa") {
		if !constant.MatchString(word) {
			continue
		}
		if value, status, ok := codes.Named(strings.ToUpper(word)); ok {
			found = append(found, Number{Value: value, Hex: status, Kind: System, At: at})
		}
		if looked++; looked == mostConstants {
			break
		}
	}
	return found
}

// wordsWith gives the words of letters, digits and low lines that have a mark
// in them or begin with a head, each with its place.
func wordsWith(lower, mark, head string) iter.Seq2[int, string] {
	return func(yield func(int, string) bool) {
		if !strings.Contains(lower, mark) && !strings.Contains(lower, head) {
			return
		}
		for at := 0; at < len(lower); at++ {
			end := at
			for end < len(lower) && inWord(lower[end]) {
				end++
			}
			word := lower[at:end]
			if (strings.HasPrefix(word, head) || strings.Contains(word, mark)) && !yield(at, word) {
				return
			}
			at = end
		}
	}
}

// inWord says whether a letter goes on with a name, so that a name that is
// looked for ends there no sooner. Letters are small ones.
func inWord(c byte) bool { return c == '_' || c >= 'a' && c <= 'z' || c >= '0' && c <= '9' }
