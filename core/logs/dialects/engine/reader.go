// Package engine reads the verbose logs of the OS's installer engine, in any
// language of the OS, into the story.
//
// It trusts structure, not words: the prefix of the engine's own lines, the
// shape of its action marks, numbers and positions.
package engine

import (
	"bytes"
	"strconv"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

const (
	maxOpen     = 64  // actions open at a time; deeper ones are not followed
	maxRecalled = 200 // failed but ignored actions whose lines are kept
	maxLasting  = 100 // lines kept though their action went well
)

// A Reader reads one verbose log. Make it with [New].
type Reader struct {
	spoken   string           // the product as the engine's messages call it
	code     string           // its code before transforms
	file     string           // name of the log
	attempts []*story.Attempt // all so far
	a        *story.Attempt   // the one under way
	open     []*running       // actions under way, the innermost last
	pool     []*window        // windows of actions that ended, to be used again
	outside  *window          // lines outside of all actions

	plainWord []byte      // the word before the time in "Action 6:59:05: NAME. "
	lastStart []byte      // the words before the time in the start mark read last
	startRow  int         // which of the lines that say something it was
	rows      int         // such lines so far
	clock     story.Clock // times of this attempt
	rollback  bool        // the way back is under way
	nested    int         // sessions begun and not ended
	ended     bool        // the outermost action has ended
	recalled  int         // actions kept though the setup went on after them
	lasting   int         // lines kept whatever became of their action
	property  string      // property whose value may go on in the next line
}

// running is an open action with what was said while it ran.
type running struct {
	*story.Action
	win      *window // lines of this action that are kept
	started  bool    // its own start mark was seen
	standard bool    // it is one of the engine's own
}

// New makes a reader for the log called file.
func New(file string) *Reader {
	return &Reader{file: file, outside: new(window), clock: story.ClockFor(new(story.Attempt))}
}

// place is where a line stands, with the file, since a verdict may come from
// several.
func (r *Reader) place(line int) story.Place { return story.Place{File: r.file, Line: line} }

// Line takes the next line.
func (r *Reader) Line(l textfile.Line) {
	text := l.Text
	if r.a == nil {
		r.begin(l.Number)
	}
	r.a.LastLine = l.Number
	if len(text) == 0 {
		return
	}
	r.rows++
	if text[0] == 'M' {
		if side, at, rest, ok := prefixed(text); ok {
			r.clock.Stamp(l.Number, at, "")
			r.property = ""
			r.engineLine(l.Number, side, rest, text)
			return
		}
	}
	r.plainLine(l.Number, text)
}

// begin opens an attempt: the engine appends to a log that is there, so that
// one file may hold many. Everything that belongs to the one before is
// forgotten.
func (r *Reader) begin(line int) {
	r.a = &story.Attempt{
		Place: r.place(line), Dialect: story.Engine,
		Properties: map[string]story.Property{}, Policies: map[string]story.Property{},
	}
	r.attempts = append(story.Latest(r.attempts, r.a), r.a)
	r.open, r.rollback, r.nested, r.ended, r.clock = nil, false, 0, false, story.ClockFor(r.a)
	r.outside.reset()
}

// window is where lines go that are said now.
func (r *Reader) window() *window {
	if n := len(r.open); n > 0 {
		return r.open[n-1].win
	}
	return r.outside
}

// keep remembers a line for as long as the action that wrote it may still fail.
func (r *Reader) keep(line int, kind story.Kind, text []byte) {
	r.window().add(line, r.clock.Now(), kind, text)
}

// last keeps a line whatever becomes of the action that it fell in.
func (r *Reader) last(line int, kind story.Kind, text []byte) {
	if r.lasting++; r.lasting <= maxLasting {
		s := slot{line: line, at: r.clock.Now(), kind: kind, text: text[:min(len(text), story.MaxText)]}
		m := message(&s)
		m.File = r.file
		r.a.Messages = append(r.a.Messages, m)
	}
}

var (
	opPrefix        = []byte("Executing op: ")
	notePrefix      = []byte("Note: ")
	doingPrefix     = []byte("Doing action: ")
	skipPrefix      = []byte("Skipping action: ")
	changePrefix    = []byte("PROPERTY CHANGE: ")
	returnPrefix    = []byte("MainEngineThread is returning ")
	runPrefix       = []byte("******* RunEngine:")
	productMark     = []byte(" -- ")
	commandPrefix   = []byte("Command Line: ")
	originPrefix    = []byte("Original package ==> ")
	policyPrefix    = []byte("policy value '")
	afterTransform  = []byte("after transforms:")
	beforeTransform = []byte("before transforms:")
	noLocalPatch    = []byte("Couldn't find local patch")
	dialogReturn    = []byte("Internal Exception during install operation:")
)

// engineLine takes a line that the engine itself stamped.
func (r *Reader) engineLine(line int, side byte, text, raw []byte) {
	if len(text) == 0 {
		return
	}
	// By the first letter, since a log has millions of lines and most of them
	// are none of these.
	switch text[0] {
	case 'E':
		if bytes.HasPrefix(text, opPrefix) {
			r.operation(line, text[len(opPrefix):])
			return
		}
	case 'F', 'C', 'S':
		if r.drop(text) {
			return
		}
		if bytes.HasPrefix(text, skipPrefix) {
			return
		}
		if bytes.HasPrefix(text, commandPrefix) && r.a.Command == "" {
			r.a.Command = story.Clip(text[len(commandPrefix):], story.MaxText)
			return
		}
	case 'D':
		if bytes.HasPrefix(text, doingPrefix) {
			name := bytes.TrimSpace(text[len(doingPrefix):])
			if actionName(name) {
				r.start(line, name, story.Immediate, false)
			}
			return
		}
	case 'N':
		if bytes.HasPrefix(text, notePrefix) {
			r.note(line, text[len(notePrefix):], raw)
			return
		}
	case 'P':
		if bytes.HasPrefix(text, changePrefix) {
			r.change(line, text[len(changePrefix):])
			return
		}
		if bytes.HasPrefix(text, []byte("Product Code ")) {
			if _, code, ok := bytes.Cut(text, afterTransform); ok && r.a.Product.Code == "" {
				r.a.Product.Code = string(bytes.Trim(code, " '"))
			} else if _, code, ok := bytes.Cut(text, beforeTransform); ok { // a log that ends before they are applied
				r.code = string(bytes.Trim(code, " '."))
			}
			return
		}
	case 'M', 'U':
		if bytes.HasPrefix(text, returnPrefix) {
			r.returned(line, text[len(returnPrefix):], raw)
			return
		}
		if i := bytes.Index(text, policyPrefix); i > 0 && i < 16 {
			r.policy(line, text[i+len(policyPrefix):])
			return
		}
	case '*':
		if bytes.HasPrefix(text, runPrefix) {
			r.session()
			return
		}
	case 'O':
		if bytes.HasPrefix(text, originPrefix) && r.a.Package == "" {
			r.a.Package = story.Clip(text[len(originPrefix):], story.MaxText)
			return
		}
	}
	if r.status(line, text, raw) {
		return
	}
	if bytes.Contains(text, productMark) || bytes.HasPrefix(text, []byte("Product: ")) {
		r.called(text)
		r.keep(line, story.KindProduct, raw)
		return
	}
	if bytes.HasPrefix(text, noLocalPatch) { // the one remark of the engine's that names the patch
		r.keep(line, story.KindError, raw)
		return
	}
	if bytes.HasPrefix(text, dialogReturn) {
		r.keep(line, story.KindDebug, raw)
		return
	}
	if !chatter(text) {
		r.keep(line, story.KindInfo, raw)
	}
}

// called takes the product's name out of "Product: NAME -- words", in any
// language, for a log that ends before the engine lists its properties.
func (r *Reader) called(text []byte) {
	head, _, ok := bytes.Cut(text, productMark)
	_, name, named := bytes.Cut(head, []byte(": "))
	if ok && named && r.spoken == "" && len(name) > 0 && len(name) <= longestProduct && len(head)-len(name) <= longestWord {
		r.spoken = string(name)
	}
}

const (
	longestProduct = 120 // bytes of a product's name
	longestWord    = 24  // bytes of the word for a product, its colon and the blank
)

// drop says whether a line only counts files, components and features.
func (r *Reader) drop(text []byte) bool {
	return bytes.HasPrefix(text, []byte("File: ")) || bytes.HasPrefix(text, []byte("Component: ")) ||
		bytes.HasPrefix(text, []byte("Feature: ")) || bytes.HasPrefix(text, []byte("Source for file ")) ||
		bytes.HasPrefix(text, []byte("Font created.")) || bytes.HasPrefix(text, []byte("SHELL32::SHGet")) && r.folder(text)
}

// folder notes where a shell folder points to; it is always dropped after.
func (r *Reader) folder(text []byte) bool {
	if _, path, ok := bytes.Cut(text, []byte("returned: ")); ok && len(path) > 2 && path[0] != 'C' && path[1] == ':' {
		r.keepShellFolder(path)
	}
	return true
}

// keepShellFolder notes the first shell folder of the user's that lies
// elsewhere than it should. It goes among the properties, under a name that no
// package uses, so that signs ask for it as for any other.
func (r *Reader) keepShellFolder(path []byte) {
	const name = "ShellFolderElsewhere"
	if _, seen := r.a.Properties[name]; !seen {
		r.a.Properties[name] = story.Property{Place: r.place(r.a.LastLine), Value: story.Clip(path, 260)}
	}
}

var chatterStarts = [][]byte{
	[]byte("APPCOMPAT"), []byte("Cloaking"), []byte("Attempting to enable"), []byte("Incrementing counter"),
	[]byte("Decrementing counter"), []byte("Resetting cached"), []byte("Creating MSIHANDLE"), []byte("Closing MSIHANDLE"),
	[]byte("Custom Action Manager"), []byte("Hello, I'm"), []byte("Generating random"), []byte("Grabbed execution"),
	[]byte("Created Custom Action"), []byte("WIN64DUALFOLDERS"), []byte("Running as a service"), []byte("MSI_LUA"),
	[]byte("Package name"), []byte("Package to be"), []byte("Package we're"), []byte("Transforms are"), []byte("Re-applying"),
	[]byte("Adding new sources"), []byte("Entering CMsi"), []byte("TRANSFORMS property"), []byte("MSCOREE"), []byte("UI Sequence"),
	[]byte("Running UISequence"), []byte("RESTART MANAGER: Session"), []byte("Deferring clean"), []byte("Destroying Remote"),
	[]byte("No System Restore"), []byte("Restoring environment"), []byte("End dialog"), []byte("Unlocking"), []byte("I/O on thread"),
	[]byte("SOFTWARE RESTRICTION POLICY: Verifying"), []byte("Cleaning up"), []byte("BeginTransaction"), []byte("SRSetRestorePoint"),
	[]byte("Server not locked"), []byte("Client-side and UI"), []byte("Transforming table"), []byte("SequencePatches"),
}

// chatter says whether an engine line is of the sort that every log is full of.
func chatter(text []byte) bool {
	for _, c := range chatterStarts {
		if bytes.HasPrefix(text, c) {
			return true
		}
	}
	return false
}

// note takes "Note: 1: NNNN 2: …". Those about tables that are not there are in
// every log and are dropped.
func (r *Reader) note(line int, text, raw []byte) {
	if len(text) < 7 || text[0] != '1' {
		return
	}
	number, _ := strconv.Atoi(string(text[3:min(7, len(text))]))
	switch number {
	case 2205, 2228, 2262:
		return
	case 1902, 1903:
		r.last(line, story.KindNote, raw)
	case 1707:
		r.last(line, story.KindNote, raw)
		r.a.Success = new(true)
	case 1708:
		r.a.Success = new(false)
	case 1402:
		if bytes.HasSuffix(bytes.TrimSpace(text), []byte("3: 2")) {
			return
		}
	}
	r.keep(line, story.KindNote, raw)
}

// change takes "Adding NAME property. Its value is 'V'." and its kin.
func (r *Reader) change(line int, text []byte) {
	verb, rest, ok := bytes.Cut(text, []byte(" "))
	name, rest, ok2 := bytes.Cut(rest, []byte(" "))
	if !ok || !ok2 || string(verb) == "Deleting" {
		return
	}
	if string(verb) == "Modifying" {
		if at := bytes.LastIndex(rest, []byte("Its new value: ")); at >= 0 {
			rest = rest[at:]
		}
	}
	if v, ok := quoted(rest); ok {
		r.setProperty(line, string(name), v)
	}
}

// setProperty notes a property's last value. Those of an installation within
// this one are its own, and left out; past the limit only names that are known
// already are set, and the rest is counted.
func (r *Reader) setProperty(line int, name string, value []byte) {
	if r.nested > 0 && r.nestedDepth() > 0 {
		return
	}
	if _, seen := r.a.Properties[name]; !seen && len(r.a.Properties) >= story.MaxProperties {
		r.a.Dropped++
		return
	}
	r.a.Properties[name] = story.Property{Place: r.place(line), Value: story.Clip(value, story.MaxText)}
}

// nestedDepth counts the setups within the setup that are running.
func (r *Reader) nestedDepth() (n int) {
	for _, a := range r.open {
		if a.Nested {
			n++
		}
	}
	return n
}

// policy notes a machine policy of the header; a hundred are more than the
// engine reads.
func (r *Reader) policy(line int, text []byte) {
	name, rest, ok := bytes.Cut(text, []byte("' is "))
	if ok && len(r.a.Policies) < 100 {
		r.a.Policies[string(name)] = story.Property{Place: r.place(line), Value: story.Clip(rest, 100)}
	}
}

// session takes the begin of an engine run: the client's, the server's, or one
// within an action of the run that is under way.
func (r *Reader) session() {
	r.nested++
	for i := len(r.open) - 1; i >= 0; i-- {
		a := r.open[i]
		if !story.WholeRun(a.Name) && a.Name != "ExecuteAction" && !a.Nested {
			if a.Name == "RemoveExistingProducts" || a.Custom || i == len(r.open)-1 {
				a.Nested = true
			}
			return
		}
	}
}

// returned takes the number with which an engine run ended.
func (r *Reader) returned(line int, text, raw []byte) {
	code, err := strconv.Atoi(string(bytes.TrimSpace(text)))
	if err != nil {
		return
	}
	for i := len(r.open) - 1; i >= 0; i-- {
		if a := r.open[i]; a.Nested && !r.runsInner(i) {
			a.Nested = false
			a.Code = &code
			r.keep(line, story.KindResult, raw)
			return
		}
	}
	r.a.Exit = &story.Exit{Place: r.place(line), Code: code, Text: story.Clip(raw, story.MaxText)}
}

// runsInner says whether an action above the i-th open one began a run itself.
func (r *Reader) runsInner(i int) bool {
	for _, a := range r.open[i+1:] {
		if a.Nested {
			return true
		}
	}
	return false
}

// status takes the line that the engine also writes to the event log, which
// ends in the result: "Product Name: N. Product Version: V. … status: 1603."
func (r *Reader) status(line int, text, raw []byte) bool {
	end := bytes.TrimRight(text, " .\r")
	end = bytes.TrimSuffix(end, []byte("。"))
	i := len(end)
	for i > 0 && end[i-1] >= '0' && end[i-1] <= '9' {
		i--
	}
	if i == len(end) || len(end)-i > 6 || bytes.Count(end, []byte(": "))+bytes.Count(end, []byte("：")) < 4 {
		return false
	}
	code, _ := strconv.Atoi(string(end[i:]))
	if r.nestedDepth() > 0 {
		return true
	}
	if r.a.Exit != nil {
		r.last(line, story.KindProduct, raw)
		return true
	}
	r.last(line, story.KindProduct, raw)
	if code == 1 || code == 2 { // the reason of a restart, in the line that follows
		return true
	}
	r.a.Exit = &story.Exit{Place: r.place(line), Code: code, Text: story.Clip(raw, story.MaxText)}
	r.productFields(end[:i])
	return true
}

// productFields reads name and version out of a status line.
func (r *Reader) productFields(text []byte) {
	parts := bytes.Split(text, []byte(": "))
	if len(parts) < 5 || r.a.Product.Name != "" {
		return
	}
	value := func(b []byte) string {
		if at := bytes.LastIndex(b, []byte(". ")); at >= 0 {
			b = b[:at]
		}
		return story.Clip(b, 200)
	}
	r.a.Product.Name, r.a.Product.Version = value(parts[1]), value(parts[2])
}

// Finish ends the reading.
func (r *Reader) Finish() []*story.Attempt {
	if r.a != nil {
		r.close()
	}
	return r.attempts
}
