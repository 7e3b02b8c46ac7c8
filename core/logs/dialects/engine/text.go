// This file tells lines without a stamp apart: messages, properties, progress.

package engine

import (
	"bytes"
	"strconv"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/story"
)

var (
	propertyMark = []byte("Property(")
	debugMark    = []byte("DEBUG: Error ")
	starsMark    = []byte("           *******")
)

// plainLine takes a line without the engine's stamp: an action mark, a message,
// a property of the final list, or what a custom action wrote.
func (r *Reader) plainLine(line int, text []byte) {
	// Most lines of a large log are progress of one of the engine's own
	// actions, and are settled here.
	if n := len(r.open); n > 0 && r.open[n-1].standard && surelyData(text, r.open[n-1].Name) {
		r.window().addData(line, r.clock.Now(), text)
		return
	}
	switch {
	case bytes.HasPrefix(text, propertyMark):
		r.listed(line, text)
		return
	case bytes.HasPrefix(text, []byte("=== ")):
		r.loggingMark(line, text)
		return
	case bytes.HasPrefix(text, starsMark):
		r.runLine(text)
		return
	case r.customResult(line, text):
		return
	case bytes.HasPrefix(text, debugMark):
		r.property = ""
		r.keep(line, story.KindDebug, text)
		return
	}
	if m, ok := parseMark(text); ok && r.mark(line, m, text) {
		r.property = ""
		return
	}
	if r.productResult(line, text) {
		return
	}
	if word, number, _, ok := lines.Numbered(text); ok {
		r.property = ""
		kind := level(word, number)
		if kind == story.KindInfo {
			r.last(line, kind, text)
			return
		}
		r.keep(line, kind, text)
		return
	}
	if n := len(r.open); n > 0 && isData(text, r.open[n-1].Name) {
		r.window().addData(line, r.clock.Now(), text)
		return
	}
	if r.property != "" {
		return // a value of several lines
	}
	if len(bytes.TrimSpace(text)) == 0 || bytes.HasPrefix(text, []byte("Message type:")) {
		return
	}
	r.keep(line, story.KindText, text)
}

// isData says whether a line is the progress text of the action that runs:
// "InstallFiles: File: a.dll, …".
func isData(text []byte, action string) bool {
	if dataActions[action] {
		for _, w := range dataWords {
			if bytes.HasPrefix(text, w) {
				return true
			}
		}
	}
	return len(text) > len(action)+1 && text[len(action)] == ':' && string(text[:len(action)]) == action && standard[action]
}

// surelyData says whether a line is such text whatever else it looks like: most
// lines of a log are, so it is asked first.
func surelyData(text []byte, action string) bool {
	rest := len(action) + len(": ")
	return len(text) > rest && text[len(action)] == ':' && text[rest-1] == ' ' && string(text[:len(action)]) == action &&
		(bytes.HasPrefix(text[rest:], fileWord) || bytes.HasPrefix(text[rest:], keyWord) || bytes.HasPrefix(text[rest:], folderWord))
}

// These stand in nearly all progress texts.
var fileWord, keyWord, folderWord = []byte("File: "), []byte("Key: "), []byte("Folder: ")

// dataWords begin the progress texts where the engine does not put the action's
// name in front.
var dataWords = [][]byte{
	[]byte("File: "), []byte("Key: "), []byte("Service: "), []byte("Folder: "), []byte("Shortcut: "), []byte("Feature: "),
	[]byte("Found application: "), []byte("Component: "), []byte("Application: "), []byte("Extension: "), []byte("Class ID: "),
	[]byte("ProgId: "), []byte("Name: "), []byte("Font: "), []byte("Assembly Name:"), []byte("Class Id: "),
}

var dataActions = set("InstallFiles", "PatchFiles", "MoveFiles", "DuplicateFiles", "RemoveFiles", "RemoveDuplicateFiles",
	"WriteRegistryValues", "RemoveRegistryValues", "InstallServices", "StartServices", "StopServices", "DeleteServices",
	"CreateFolders", "RemoveFolders", "CreateShortcuts", "RemoveShortcuts", "PublishFeatures", "UnpublishFeatures",
	"RemoveExistingProducts", "FindRelatedProducts", "WriteIniValues", "RemoveIniValues", "WriteEnvironmentStrings",
	"RemoveEnvironmentStrings", "SelfRegModules", "SelfUnregModules", "RegisterFonts", "UnregisterFonts", "RegisterClassInfo",
	"UnregisterClassInfo", "RegisterProgIdInfo", "UnregisterProgIdInfo", "RegisterExtensionInfo", "RegisterTypeLibraries",
	"PublishComponents", "MsiPublishAssemblies", "MsiUnpublishAssemblies", "BindImage")

// level tells a message's kind by its word, which is "Error" where nothing else
// is known.
func level(word []byte, number int) story.Kind {
	w := string(bytes.ToLower(word))
	for _, k := range words {
		if w == k.word {
			return k.kind
		}
	}
	if bytes.HasPrefix([]byte(w), []byte("inf")) {
		return story.KindInfo
	}
	return story.KindError
}

// listed takes a line of the list of properties at the end of a run.
func (r *Reader) listed(line int, text []byte) {
	if len(text) < 13 || text[10] != ')' {
		return
	}
	name, value, ok := bytes.Cut(text[13:], []byte(" = "))
	if !ok {
		name, value, ok = bytes.Cut(text[13:], []byte(" ="))
	}
	if !ok {
		return
	}
	r.property = string(name)
	if text[9] == 'C' { // the server's list is the run's; the client's fills the gaps
		if _, seen := r.a.Properties[string(name)]; seen && string(name) == "ProductState" {
			return
		}
	}
	r.setProperty(line, string(name), value)
}

// loggingMark takes "=== Verbose logging started: …" and the other three, in
// any language.
func (r *Reader) loggingMark(line int, text []byte) {
	r.property = ""
	started := bytes.Contains(text, []byte("Build type:"))
	if !started && r.ended && bytes.Contains(text, []byte("started")) {
		started = true
	}
	if started && line > r.a.Line && (r.ended || r.a.Exit != nil || r.a.Closed || len(r.a.Actions) > 0) {
		r.a.LastLine = line - 1
		r.close()
		r.begin(line)
	}
	if started || r.a.Date == "" {
		r.a.Date = headerDate(text)
	}
	if !started && (r.ended || r.a.Exit != nil) {
		r.a.Closed = true
	}
}

// headerDate is the date in a line about logging, as it stands there.
func headerDate(text []byte) string {
	_, rest, ok := bytes.Cut(text, []byte(": "))
	if !ok {
		return ""
	}
	rest = bytes.TrimLeft(rest, " ")
	if at := bytes.Index(rest, []byte("  ")); at > 0 && at < 24 {
		return string(rest[:at])
	}
	return ""
}

// runLine takes the lines below "RunEngine": the package, the action, the
// command line.
func (r *Reader) runLine(text []byte) {
	rest := bytes.TrimLeft(text, " *")
	if v, ok := bytes.CutPrefix(rest, []byte("Product: ")); ok && r.a.Package == "" {
		r.a.Package = story.Clip(bytes.TrimSpace(v), story.MaxText)
	}
	if v, ok := bytes.CutPrefix(rest, []byte("CommandLine: ")); ok && r.a.Command == "" && !bytes.HasPrefix(v, []byte("***")) {
		r.a.Command = story.Clip(bytes.TrimSpace(v), story.MaxText)
	}
}

// productResult takes "1: NAME 2: {code} 3: 0", with which one engine says
// whether the product was installed.
func (r *Reader) productResult(line int, text []byte) bool {
	if !bytes.HasPrefix(text, []byte("1: ")) {
		return false
	}
	f := record(text)
	if len(f) < 2 || len(f) > 3 || len(f[1]) != 38 || f[1][0] != '{' {
		return true
	}
	if _, err := strconv.Atoi(f[0]); err == nil {
		return true
	}
	if r.a.Product.Name == "" {
		r.a.Product.Name, r.a.Product.Code = f[0], f[1]
	}
	if len(f) == 3 && (f[2] == "0" || f[2] == "1") && r.nestedDepth() == 0 {
		r.a.Success = new(f[2] == "1")
		r.keep(line, story.KindProduct, text)
	}
	return true
}

// message parses a kept line.
func message(s *slot) *story.Message {
	m := &story.Message{Place: story.Place{Line: s.line}, At: s.at, Kind: s.kind, Raw: string(s.text)}
	text := s.text
	if _, _, rest, ok := prefixed(text); ok {
		text = rest
	}
	m.Text = string(bytes.TrimSpace(text))
	// Where the number stands depends on who wrote the line.
	switch s.kind {
	case story.KindNote:
		m.Fields = record(bytes.TrimPrefix(text, notePrefix))
		m.Number, _ = strconv.Atoi(m.Field(1))
	case story.KindDebug:
		if _, number, _, ok := lines.Numbered(bytes.TrimPrefix(text, []byte("DEBUG: "))); ok {
			m.Number = number
		}
	case story.KindProduct:
		if _, said, ok := bytes.Cut(text, productMark); ok {
			m.Text = string(bytes.TrimSpace(said))
			if word, number, _, ok := lines.Numbered(bytes.TrimSpace(said)); ok {
				m.Number = number
				m.Kind = level(word, number)
			}
		}
	case story.KindError, story.KindWarning, story.KindInfo:
		if _, number, _, ok := lines.Numbered(text); ok {
			m.Number = number
		}
	}
	if m.Number == 0 && (s.kind == story.KindText || s.kind == story.KindProduct) {
		if number, fields := lines.OfInternal(m.Text); number != 0 {
			m.Number, m.Fields, m.Kind = number, fields, story.KindDebug // as where the engine writes it with its number
		}
	}
	return m
}
