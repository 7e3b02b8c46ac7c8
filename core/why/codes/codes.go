// Package codes explains the numbers that setups end with and write into
// their logs: exit codes, the installer engine's messages, system errors,
// HRESULTs and NTSTATUS values.
//
// Names and numbers are those of the platform's headers; the explanations are
// ours.
package codes

import (
	"fmt"
	"strconv"
	"strings"
)

// A Kind says what sort of number an entry explains.
type Kind string

// The kinds.
const (
	Exit     Kind = "exit code"
	Message  Kind = "installer message"
	System   Kind = "system error"
	HResult  Kind = "HRESULT"
	NTStatus Kind = "NTSTATUS"
	HTTP     Kind = "HTTP status"
)

// An Entry is one reading of a number.
type Entry struct {
	Kind    Kind   `json:"kind"`              // exit code, message, system error and so on
	Value   int64  `json:"value"`             // as a signed number where that is how it is written
	Hex     string `json:"hex,omitempty"`     // 0x80070005
	Name    string `json:"name,omitempty"`    // ERROR_ACCESS_DENIED
	Outcome string `json:"outcome,omitempty"` // of an exit code: ok, restart, cancelled, failed
	Class   string `json:"class,omitempty"`   // cause class, where the number alone tells
	Meaning string `json:"meaning"`           // what it says
	Causes  string `json:"causes,omitempty"`  // what is usually behind it
	Next    string `json:"next,omitempty"`    // what to do about it
	Subject string `json:"subject,omitempty"` // of a message: kind and field, "file:2"
	Parts   *Parts `json:"parts,omitempty"`   // of an HRESULT or NTSTATUS; else nil
	ByName  bool   `json:"-"`                 // it has no words of its own: meaning and class are what its name tells
	Wraps   *Entry `json:"wraps,omitempty"`   // what an HRESULT carries
}

// Parts are the fields of an HRESULT.
type Parts struct {
	Failure      bool   `json:"failure"`                 // the highest bit
	Facility     int    `json:"facility"`                // number of the part of the OS
	FacilityName string `json:"facility_name,omitempty"` // its name; empty where it has none here
	Code         int    `json:"code"`                    // within the facility
	Customer     bool   `json:"customer,omitempty"`      // not one of the OS's own
}

// Explain gives every sensible reading of a number as it was written, the
// likeliest first: decimal, negative decimal, or hexadecimal with or without
// 0x.
func Explain(text string) ([]Entry, error) {
	v, err := parse(text)
	if err != nil {
		return nil, err
	}
	var out []Entry
	add := func(e Entry, ok bool) {
		if ok {
			out = append(out, e)
		}
	}
	if v < 0x10000 && v >= 0 {
		add(ExitCode(int(v)))
		add(EngineMessage(int(v)))
		add(SystemError(int(v)))
		add(HTTPStatus(int(v)))
	} else {
		add(Status(uint32(v)))
		if e, ok := Result(uint32(v)); ok &&
			(e.Class != "" || e.Name != "" || e.Wraps != nil || e.Parts.FacilityName != "" || len(out) == 0 && facilitySet(uint32(v))) {
			add(e, true)
		}
	}
	if len(out) == 0 {
		return []Entry{{Kind: System, Value: v, Hex: fmt.Sprintf("0x%X", v),
			Meaning: "not known: neither the OS nor the installer engine defines this number",
			Causes:  "a program of the vendor that has numbers of its own",
			Next:    "the vendor's manual, or the lines around it: hollowkey why LOG"}}, nil
	}
	return out, nil
}

// facilitySet says whether a number can be an HRESULT whose facility alone is
// not known: it is a failure, and no reserved bit is set ([MS-ERREF] 2.1).
func facilitySet(u uint32) bool { return u>>31 == 1 && u>>27&0x5 == 0 && u>>16&0x7FF < maxFacility }

// maxFacility is beyond the facilities that are defined; a number with a larger
// one is no HRESULT of anybody's.
const maxFacility = 0x700

// parse reads a number. What lies between 2^15 and 2^32 is kept as it would be
// without a sign.
func parse(text string) (int64, error) {
	t := strings.TrimSpace(strings.ToLower(strings.TrimRight(text, ".,;:)")))
	t = strings.TrimLeft(t, "(#")
	bad := fmt.Errorf("%q is no number\nhint: give it as 1603, -2147024891, 0x80070005 or 80070005", text)
	switch {
	case strings.HasPrefix(t, "0x"):
		u, err := strconv.ParseUint(t[2:], 16, 64)
		if err != nil || u>>32 != 0 && u>>32 != 0xFFFFFFFF {
			return 0, bad
		}
		return int64(uint32(u)), nil
	case len(t) == 8 && strings.ContainsAny(t[:1], "8cde"), strings.ContainsAny(t, "abcdef"):
		if u, err := strconv.ParseUint(t, 16, 32); err == nil {
			return int64(u), nil
		}
	}
	n, err := strconv.ParseInt(t, 10, 64)
	switch {
	case err != nil || n > 0xFFFFFFFF || n < -0x80000000:
		return 0, bad
	case n < 0:
		return int64(uint32(n)), nil
	}
	return n, nil
}

// ExitCode explains the number that a setup ended with.
func ExitCode(n int) (Entry, bool) {
	c, ok := row(exitWords, strconv.Itoa(n), 5)
	if !ok {
		return Entry{}, false
	}
	e := Entry{Kind: Exit, Value: int64(n), Name: name("w" + strconv.Itoa(n)), Outcome: c[0], Class: c[1],
		Meaning: c[2], Causes: c[3], Next: c[4]}
	if n == notFoundByShell { // the OS has an error of this number, too, which no program ends with
		e.Name = ""
	}
	return e, true
}

// notFoundByShell is what the command shell ends with that does not find a
// program.
const notFoundByShell = 9009

// EngineMessage explains a numbered message of the installer engine.
func EngineMessage(n int) (Entry, bool) {
	c, ok := row(engineWords, strconv.Itoa(n), 4)
	if !ok {
		return Entry{}, false
	}
	return Entry{Kind: Message, Value: int64(n), Class: c[0], Subject: c[1], Meaning: c[2], Causes: c[3], Next: next(c[0])}, true
}

// SystemError explains a system error.
func SystemError(n int) (Entry, bool) {
	key := strconv.Itoa(n)
	nm := name("w" + key)
	c, ok := row(win32Words, key, 3)
	if !ok && nm == "" {
		return Entry{}, false
	}
	e := Entry{Kind: System, Value: int64(n), Name: nm}
	if w, wrapped := row(hresultWords, fmt.Sprintf("8007%04X", n), 4); !ok && wrapped { // explained as it mostly stands in logs
		c, ok = w[1:], true
	}
	if ok {
		e.Class, e.Meaning, e.Causes, e.Next = c[0], c[1], c[2], next(c[0])
	} else {
		e.byName()
	}
	return e, true
}

// HTTPStatus explains what a server answers to a request (RFC 9110, 15).
func HTTPStatus(n int) (Entry, bool) {
	c, ok := row(httpWords, strconv.Itoa(n), 3)
	if !ok {
		return Entry{}, false
	}
	return Entry{Kind: HTTP, Value: int64(n), Class: c[0], Meaning: c[1], Causes: c[2], Next: next(c[0])}, true
}

// byName takes from an entry's name what that tells.
func (e *Entry) byName() {
	e.ByName, e.Meaning, e.Class = true, fromName(e.Name), classOf(e.Name)
	e.Next = next(e.Class)
}

// fromName makes words of a name that has no explanation: it says no more than
// the name does.
func fromName(nm string) string {
	for _, p := range []string{"ERROR_", "STATUS_", "WSA", "DNS_ERROR_", "RPC_S_", "RPC_X_"} {
		nm = strings.TrimPrefix(nm, p)
	}
	if part, rest, ok := strings.Cut(nm, "_E_"); ok && !strings.Contains(part, "_") { // the component that gives it
		nm = rest
	}
	return "by its name: " + strings.ToLower(strings.ReplaceAll(nm, "_", " "))
}

// Status explains an NTSTATUS value, as a program ends with that crashed.
func Status(u uint32) (Entry, bool) {
	key := fmt.Sprintf("%08X", u)
	nm := name("n" + key)
	c, ok := row(ntstatusWords, key, 3)
	if u>>28 != 0xC && u>>28 != 0xE && !ok || nm == "" && !ok {
		return Entry{}, false
	}
	e := Entry{Kind: NTStatus, Value: int64(int32(u)), Hex: "0x" + key, Name: nm}
	if ok {
		e.Class, e.Meaning, e.Causes, e.Next = c[0], c[1], c[2], next(c[0])
	} else {
		e.byName()
	}
	return e, true
}

// Source: [MS-ERREF] 2.1, HRESULT, and 2.3, NTSTATUS.
const (
	facilityWin32 = 7
	facilityHTTP  = 25 // the code is the status of a server's answer (RFC 9110, 15)
	leastHTTP     = 100
	mostHTTP      = 599
	ntBit         = 1 << 28
)

// Result takes an HRESULT apart: bit 31 is failure, bit 29 the customer bit,
// bits 16 to 26 the facility, bits 0 to 15 the code. Source: [MS-ERREF] 2.1.
func Result(u uint32) (Entry, bool) {
	key := fmt.Sprintf("%08X", u)
	p := &Parts{Failure: u>>31 == 1, Customer: u>>29&1 == 1, Facility: int(u >> 16 & 0x7FF), Code: int(u & 0xFFFF)}
	if c, ok := row(facilityWords, strconv.Itoa(p.Facility), 1); ok {
		p.FacilityName = c[0]
	}
	e := Entry{Kind: HResult, Value: int64(int32(u)), Hex: "0x" + key, Name: name("h" + key), Parts: p}
	c, known := row(hresultWords, key, 4)
	switch {
	case u&ntBit != 0 && u>>28 == 0xD:
		if w, ok := Status(u &^ ntBit); ok {
			e.Wraps = &w
		}
	case p.Facility == facilityWin32:
		if w, ok := ExitCode(p.Code); ok && p.Code >= 1600 && p.Code < 1660 {
			e.Wraps = &w
		} else if w, ok := SystemError(p.Code); ok {
			e.Wraps = &w
		}
	}
	if known {
		if e.Name == "" {
			e.Name = c[0]
		}
		e.Class, e.Meaning, e.Causes, e.Next = c[1], c[2], c[3], next(c[1])
		return e, true
	}
	if e.Wraps != nil {
		e.Class, e.Meaning, e.Causes, e.Next = e.Wraps.Class, e.Wraps.Meaning, e.Wraps.Causes, e.Wraps.Next
		return e, true
	}
	switch {
	case e.Name != "":
		e.byName()
		return e, true
	case p.Failure && p.Facility == facilityHTTP && p.Code >= leastHTTP && p.Code <= mostHTTP:
		e.Meaning, e.Class = fmt.Sprintf("the server answered with HTTP status %d", p.Code), "network"
		if w, ok := HTTPStatus(p.Code); ok {
			e.Wraps, e.Class, e.Meaning, e.Causes = &w, w.Class, w.Meaning, w.Causes
		}
		e.Next = next(e.Class)
		return e, true
	case !p.Failure:
		e.Meaning = "a success value with a remark of its component"
	default:
		e.Meaning = "a failure that only the component with this facility can explain"
	}
	e.Next = next("")
	return e, true
}

// next is what to look at for a cause class.
func next(class string) string {
	if n, ok := nextFor[class]; ok {
		return n
	}
	return "the lines around it in the log: hollowkey why LOG"
}

var nextFor = map[string]string{
	"permission":        "who the setup runs as and what that account may do there: hollowkey why LOG, then hollowkey fix LOG",
	"elevation":         "run the setup from an elevated prompt",
	"service":           "the service's state, start type, account and what it depends on; the system event log",
	"registry":          "the key or value named beside it in the log",
	"condition":         "the condition in the package: its LaunchCondition table, and what the log gives for the properties in it",
	"prerequisite":      "which module or runtime is missing: the lines before it in the log",
	"custom-action":     "what the program itself wrote: its own log, the event log, and the lines above in the verbose log",
	"source":            "whether the path exists and SYSTEM can read it; copy the setup to a local folder and try there",
	"cached-package":    "the OS's cached package in C:\\Windows\\Installer, and the folder or share it came from",
	"corrupt":           "the file's size and hash against the vendor's; fetch it again",
	"in-use":            "which program holds the file; close it or restart",
	"busy":              "other setups that run, and a pending restart",
	"space":             "free space on the target, system and temporary drive",
	"path":              "the path or drive named beside it in the log, and where it comes from",
	"policy":            "the policies that apply to the machine and the user",
	"installer-service": "the installer service (msiserver): its start type and whether it is registered",
	"component-store":   "the OS's servicing log, and its own repair of the component store",
	"security-software": "the protection software's own log for that file and minute",
	"network":           "name resolution, proxy and firewall on the way to the host named in the log",
	"platform":          "processor type and OS version against what the setup is made for",
	"leftover":          "what an earlier version left: its files, services and uninstall keys",
	"command-line":      "the command line as it was really given: the log shows it near its start",
	"database":          "the package's tables, and whether the file is whole",
	"cancelled":         "who or what stopped it: the lines before it in the log",
}
