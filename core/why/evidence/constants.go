package evidence

import (
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/why/codes"
)

// constant is the name of an error as the OS's headers have it, in small letters:
// error_access_denied, wsahost_not_found, cert_e_expired, e_accessdenied.
var constant = lazy.MustCompile(`\b(?:error_[a-z0-9_]{3,60}|wsa[a-z][a-z_]{3,40}|status_[a-z0-9_]{4,60}|[a-z]{2,9}_[ew]_[a-z0-9_]{3,50}|e_[a-z]{4,30})\b`)

// mostConstants of a line are looked up.
const mostConstants = 4

// constantsIn are the codes that a line, in small letters, gives by their names.
func constantsIn(lower string) (found []Number) {
	if !strings.Contains(lower, "e_") && !strings.Contains(lower, "error_") && !strings.Contains(lower, "wsa") && !strings.Contains(lower, "status_") &&
		!strings.Contains(lower, "_w_") {
		return nil
	}
	for _, at := range constant.FindAllStringIndex(lower, mostConstants) {
		if value, status, ok := codes.Named(strings.ToUpper(lower[at[0]:at[1]])); ok {
			found = append(found, Number{Value: value, Hex: status, Kind: System, At: at[0]})
		}
	}
	return found
}
