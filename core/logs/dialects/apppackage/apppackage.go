// Package apppackage reads what the deployment of app packages leaves: the
// texts of the deployment command, and of its event log when copied as text.
package apppackage

import (
	"bytes"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// A Reader reads one text. Make it with [New].
type Reader struct {
	b      *lines.Builder // makes the story
	action *story.Action  // the deployment under way, nil between them
}

// New makes a reader for the text called file.
func New(file string) *Reader { return &Reader{b: lines.New(file, story.AppPackage)} }

// CanSkip says that lines may be left out: each is a record.
func (r *Reader) CanSkip() bool { return true }

// Skipped counts lines that were left out.
func (r *Reader) Skipped(n int) { r.b.Skipped(n) }

var (
	// A line that gives the deployment up, with its number: "Deployment Add
	// operation failed with error 0x80073CF3", "HRESULT: 0x80073D02".
	failure = lazy.MustCompile(`(?i)(?:deployment|operation|package|register|add-appx\w*|staging).*\b(?:failed|error)\b.*(0x[0-9a-f]{8})|HRESULT: (0x[0-9a-f]{8})`)
	// Any number of the form that app deployment uses; which of a line's
	// numbers tells is decided where it is read.
	code = lazy.MustCompile(`(?i)\b(0x[0-9a-f]{8})\b`)
	// A package's full name in its five parts: name, version, processor,
	// resource (mostly empty), publisher's hash of 13 letters.
	fullName = lazy.MustCompile(`\b([A-Za-z0-9][\w.-]{2,49})_(\d+(?:\.\d+){3})_(\w+)_[\w-]*_([a-z0-9]{13})\b`)
	// "Deployment operation completed successfully", "successfully staged": the
	// last of them against the last failure decides the run.
	success = lazy.MustCompile(`(?i)deployment .*(?:succeeded|completed successfully|finished successfully)|successfully (?:deployed|registered|added|staged)`)
	// What a file must speak of to be taken for this dialect at all.
	telling = lazy.MustCompile(`(?i)appx|msix|deployment|\bHRESULT\b|package family|ActivityId`)
	// "Add-AppxPackage : …", as the OS's shell begins an error; the name says
	// what was asked for.
	cmdlet = lazy.MustCompile(`^([A-Z][a-z]+-[A-Z]\w+) ?:`)
)

// nameStrokes are the underscores between the five parts of a package's full
// name.
const nameStrokes = 4

// Score counts lines about the deployment of app packages; at least one must
// tell a result.
func Score(ls [][]byte) (n int) {
	result, spoken, stamped := false, false, 0
	if !slices.ContainsFunc(ls, func(l []byte) bool {
		return bytes.Contains(l, []byte("eployment")) || bytes.Contains(l, []byte("HRESULT"))
	}) {
		return 0
	}
	for _, l := range ls {
		low := bytes.ToLower(l)
		has := func(words ...string) bool { // far cheaper than an expression, which then decides
			return slices.ContainsFunc(words, func(w string) bool { return bytes.Contains(low, []byte(w)) })
		}
		if has("appx", "msix", "deployment", "hresult", "package family", "activityid") && telling.Match(l) ||
			bytes.Count(l, []byte("_")) >= nameStrokes && fullName.Match(l) {
			n++
		}
		spoken = spoken || has("appx", "msix", "deployment", "package family", "activityid", "0x80073c", "0x80073d") // any program gives an HRESULT
		result = result || has("0x") && failure.Match(l) || has("deployment", "successfully") && success.Match(l)
		if _, _, k := lines.Stamp(bytes.TrimLeft(l, "[")); k > 0 {
			stamped++
		}
	}
	if !result || !spoken || n < 1 || n*3 < len(ls) && stamped > n || n*8 < len(ls) {
		return 0
	}
	return 4 * n
}

// Line takes the next line.
func (r *Reader) Line(l textfile.Line) {
	t := strings.TrimSpace(string(l.Text))
	if t == "" {
		return
	}
	r.b.Ensure(l.Number)
	a := r.b.A
	raw := string(l.Text)
	if date, at, n := lines.Stamp(bytes.TrimLeft(l.Text, "[ ")); n > 0 {
		r.b.Stamp(l.Number, at, date)
	}
	// Far cheaper than the expressions, which then decide.
	low := pieces.Lower(t)
	failed := strings.Contains(low, "0x") && failure.MatchString(t)
	if strings.Count(t, "_") >= nameStrokes && (a.Product.Name == "" || failed) {
		if m := fullName.FindStringSubmatch(t); m != nil {
			a.Product.Name, a.Product.Version = m[1], m[2]
		}
	}
	if m := cmdlet.FindStringSubmatch(t); m != nil && r.action == nil {
		r.action = r.b.Start(l.Number, m[1], nil)
	}
	kind := story.KindText
	switch {
	case failed:
		kind = story.KindError
		a.Success = new(false)
		if r.action == nil {
			r.action = r.b.Start(l.Number, "Deployment", nil)
		}
		if m := code.FindStringSubmatch(t); m != nil && a.Exit == nil {
			if u, err := strconv.ParseUint(m[1][2:], 16, 32); err == nil {
				r.b.Exit(l.Number, int(int32(uint32(u))), raw)
			}
		}
		if r.action.EndLine == 0 {
			r.b.End(r.action, l.Number, true, nil, raw)
		}
	case (strings.Contains(low, "deployment") || strings.Contains(low, "successfully")) && success.MatchString(t):
		kind = story.KindProduct
		if a.Success == nil || a.LastTime >= 0 {
			a.Success = new(true)
			a.Exit = nil
		}
	case strings.Contains(t, "error ") || strings.Contains(t, "Error "):
		kind = story.KindError
	}
	r.b.Add(lines.Entry{Line: l.Number, At: -1, Kind: kind, Text: t, Raw: raw})
}

// Finish gives the attempts.
func (r *Reader) Finish() []*story.Attempt { return r.b.Finish() }
