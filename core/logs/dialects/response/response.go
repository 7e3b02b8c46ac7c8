// Package response reads the result file that some silent setups leave: INI
// text with a result code in a section of its own.
package response

import (
	"bytes"
	"cmp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// A Reader reads one result file. Make it with [New].
type Reader struct {
	b       *lines.Builder // makes the story
	section string         // the one under way, in small letters
	found   bool           // the result was told
	part    string         // what the section under way calls itself
	failed  bool           // the section under way tells that its part failed
	broke   bool           // one did
}

// New makes a reader for the file called file.
func New(file string) *Reader { return &Reader{b: lines.New(file, story.Response)} }

var (
	// "ResultCode=-5", "exit code = 3": the one value that says how a silent
	// run ended.
	resultKey = lazy.MustCompile(`(?i)^\s*(result ?code|exit ?code|return ?code|result|status ?code)\s*=\s*(-?\d+|0x[0-9a-f]+)\s*$`)
	// Any "key=value" line; keys may hold blanks and full stops.
	pair = lazy.MustCompile(`^\s*([\w .-]+?)\s*=\s*(.*?)\s*$`)
	// "[ResponseResult]"
	section = lazy.MustCompile(`^\s*\[([^\]]+)\]\s*$`)
)

const mostLines = 300 // a result file is short

// inBrackets says whether a line is all in brackets, as a section's head is.
func inBrackets(l []byte) bool {
	l = bytes.TrimSpace(l)
	return len(l) > 2 && l[0] == '[' && bytes.IndexByte(l, ']') == len(l)-1
}

// Score is high only for short INI text with a result code.
func Score(ls [][]byte) (n int) {
	if len(ls) > mostLines {
		return 0
	}
	if !slices.ContainsFunc(ls, inBrackets) { // most texts have no section
		return 0
	}
	result, sections := false, 0
	for _, l := range ls {
		switch {
		case len(bytes.TrimSpace(l)) == 0 || bytes.TrimSpace(l)[0] == ';':
		case section.Match(l):
			sections++
			n++
		case resultKey.Match(l):
			result = true
			n++
		case pair.Match(l):
			n++
		default:
			n -= 3
		}
	}
	if !result || sections == 0 || n <= 0 {
		return 0
	}
	return 20 * n
}

// meanings are the result codes of script-driven silent setups.
var meanings = map[int]string{
	-1: "general error", -2: "invalid mode", -3: "required data not found in the response file", -4: "not enough memory available",
	-5: "file does not exist", -6: "cannot write to the response file", -7: "unable to write to the log file",
	-8: "invalid path to the response file",
	-9: "not a valid list type in the response file", -10: "data type in the response file is invalid", -11: "unknown error during setup",
	-12: "dialog boxes are out of order in the response file", -51: "cannot create the specified folder",
	-52: "cannot access the specified file or folder",
	-53: "invalid option selected",
}

// Line takes the next line.
func (r *Reader) Line(l textfile.Line) {
	t := string(l.Text)
	if strings.TrimSpace(t) == "" {
		return
	}
	r.b.Ensure(l.Number)
	if m := section.FindStringSubmatch(t); m != nil {
		r.section, r.part, r.failed = m[1], "", false
		return
	}
	if m := resultKey.FindStringSubmatch(t); m != nil {
		n, err := strconv.ParseInt(m[2], 0, 64)
		if err != nil || r.found && n == 0 {
			return
		}
		r.found = true
		code := int(int32(n))
		r.b.Exit(l.Number, code, t)
		kind := story.KindResult
		text := t
		if w, ok := meanings[code]; ok {
			text += " (" + w + ")"
			kind = story.KindError
		}
		if code != 0 && r.broke { // the part that failed was told
			r.b.Add(lines.Entry{Line: l.Number, At: -1, Kind: kind, Source: "response", Text: text, Raw: t})
		} else if code != 0 {
			a := r.b.Start(l.Number, r.section, nil)
			r.b.Add(lines.Entry{Line: l.Number, At: -1, Kind: kind, Source: "response", Text: text, Raw: t})
			r.b.End(a, l.Number, true, &code, t)
		} else {
			r.b.Add(lines.Entry{Line: l.Number, At: -1, Kind: story.KindProduct, Source: "response", Text: t, Raw: t})
		}
		return
	}
	m := pair.FindStringSubmatch(t)
	if m == nil {
		return
	}
	r.b.Property(l.Number, m[1], m[2])
	p := &r.b.A.Product
	switch strings.ToLower(m[1]) {
	case "name":
		if strings.EqualFold(r.section, "application") {
			p.Name = m[2]
		} else {
			r.part = m[2]
		}
	case "product", "productname", "product name":
		if p.Name == "" {
			p.Name = m[2]
		}
	case "status", "state", "result":
		if endings.Read(m[2]).Fails && !r.broke {
			r.failed, r.broke = true, true
			a := r.b.Start(l.Number, cmp.Or(r.part, r.section), nil)
			r.b.End(a, l.Number, true, nil, t)
		}
	case "version", "productversion":
		if strings.EqualFold(r.section, "application") || p.Version == "" {
			p.Version = m[2]
		}
	case "company", "manufacturer":
		p.Manufacturer = m[2]
	}
	low := strings.ToLower(m[1])
	if r.failed && low != "status" && low != "state" && low != "result" { // why it failed stands behind
		r.b.Add(lines.Entry{Line: l.Number, At: -1, Kind: story.KindError, Source: "response", Text: t, Raw: t})
		return
	}
	inError := strings.Contains(strings.ToLower(r.section), "error") || strings.Contains(strings.ToLower(r.section), "failure")
	tells := inError || slices.ContainsFunc(telling, func(w string) bool { return strings.Contains(low, w) })
	if tells && strings.ContainsFunc(m[2], unicode.IsLetter) {
		r.b.Add(lines.Entry{Line: l.Number, At: -1, Kind: story.KindText, Source: "response", Text: t, Raw: t})
	}
}

// telling are parts of the names under which a result file says in words what
// went wrong.
var telling = []string{"error", "message", "reason", "failed", "failure", "detail", "cause", "description", "text", "info", "remark", "note", "problem"}

// Finish gives the attempts. A file that calls nothing an application's name
// may call the product so.
func (r *Reader) Finish() []*story.Attempt {
	all := r.b.Finish()
	for _, a := range all {
		if a.Product.Name == "" && !r.broke {
			a.Product.Name = a.Properties["Name"].Value
		}
	}
	return all
}
