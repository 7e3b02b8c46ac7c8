// Package exitcode is the little that every room knows of the numbers that
// setups end with: which of them mean that the work is done, and what a wrapped
// one carries. What a number means in words is core/why/codes.
package exitcode

import (
	"slices"
	"strconv"
	"strings"
)

// Done and the two codes that say "done, and a restart is due". Source: the
// OS's list of the installer engine's error codes.
const (
	Done             = 0    // nothing more to do
	RestartInitiated = 1641 // the engine restarts the machine itself
	RestartRequired  = 3010 // done; files in use are replaced at the next start
)

// All lists the codes with which a setup has done its work.
var All = []int{Done, RestartInitiated, RestartRequired}

// Good says whether a setup that ended with code has done its work.
func Good(code int) bool { return slices.Contains(All, code) }

// Restart says whether it has, and a restart is due.
func Restart(code int) bool { return code == RestartInitiated || code == RestartRequired }

// Telling says whether the engine's exit code says why it gave up, in place of
// that something in the setup failed (1603), or that somebody stopped it (1602,
// 1604).
func Telling(code int) bool {
	const first, cancelled, failed, suspended, last = 1601, 1602, 1603, 1604, 1659
	return code >= first && code <= last && code != cancelled && code != failed && code != suspended
}

// Parts of an HRESULT. Source: [MS-ERREF] 2.1.
const (
	facilityMask  = 0xFFFF0000 // severity, customer bit, facility
	win32Failure  = 0x80070000 // a failure of facility 7, which carries a system error
	win32CodeMask = 0xFFFF     // the system error in such a failure
)

// Win32 takes the system error out of an HRESULT that carries one: 0x80070005
// carries 5.
func Win32(hresult uint32) (code int, ok bool) {
	if hresult&facilityMask != win32Failure {
		return 0, false
	}
	return int(hresult & win32CodeMask), true
}

// Unwrap is the system error that a number carries, or the number itself: exit
// codes are written as decimals, signed or not, and as HRESULTs.
func Unwrap(n int64) int {
	if code, ok := Win32(uint32(n)); ok && (n < 0 || n > win32CodeMask) {
		return code
	}
	return int(int32(uint32(n)))
}

// Parse reads a number as logs write it, decimal or 0x…, and unwraps the system
// error that an HRESULT in hexadecimal carries.
func Parse(text string) (int, bool) {
	if hex, ok := strings.CutPrefix(strings.ToLower(text), "0x"); ok {
		u, err := strconv.ParseUint(hex, 16, 32)
		if err != nil {
			return 0, false
		}
		return Unwrap(int64(u)), true
	}
	n, err := strconv.Atoi(text)
	return n, err == nil
}
