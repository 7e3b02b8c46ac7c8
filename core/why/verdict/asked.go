// This file has what questions to a machine are made of: the path that is
// meant, and how it was to be used.

package verdict

import (
	"cmp"
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
)

// firstWords are how many messages tell at a log's begin who runs the setup.
const firstWords = 40

// located is the path that a cause is about, and whether it is a folder or a
// file there.
func (j *judge) located(kind, name string) (path, what string) {
	if !isPath.MatchString(name) {
		return "", ""
	}
	what = "folder"
	if kind == "file" && !j.makesFolder(name) && !notFolder.MatchString(j.anchored()) && !folderField(j.anchored(), name) {
		what = "file"
	}
	return strings.TrimRight(name, `\`), what
}

// makesFolder says whether the lines that speak of a path are about making a
// folder there.
func (j *judge) makesFolder(path string) bool {
	return makingFolder.MatchString(j.anchored()) ||
		slices.ContainsFunc(j.speakOf(path), func(m *story.Message) bool { return makingFolder.MatchString(m.Text) })
}

// made is the argument by which a check is told whether a folder was to be
// made: what stands there is in the way then, whatever it holds.
func made(folder bool) string {
	if folder {
		return "yes"
	}
	return ""
}

// anchored is what the lines say that the cause hangs on.
func (j *judge) anchored() string {
	var b strings.Builder
	for _, m := range j.anchor {
		b.WriteString(withFields(m.Text) + "\n")
	}
	return b.String()
}

// mostBelow is how many lines below a record's first are looked at for its
// further values.
const mostBelow = 12

// withFields is the first line of a message, and the further values of a
// record: what stands below it as name and value, and no trace.
func withFields(text string) string {
	first, rest, more := strings.Cut(text, "\n")
	if !more {
		return first
	}
	var b strings.Builder
	b.WriteString(first)
	for i, l := range strings.Split(rest, "\n") {
		if i == mostBelow {
			break
		}
		if aField.MatchString(l) {
			b.WriteString("\n" + l)
		}
	}
	return b.String()
}

// speakOf are the lines that speak of a path: those that the cause hangs on,
// and what was begun right before.
func (j *judge) speakOf(path string) []*story.Message {
	near := j.before()
	return slices.DeleteFunc(slices.Concat(j.anchor, near[:min(len(near), justBegun)]), func(m *story.Message) bool {
		return !strings.Contains(unescape(m.Text), path)
	})
}

// justBegun is how many lines before a failure tell what was begun there:
// "mkdir C:\Tide", "that file already exists".
const justBegun = 2

// making says whether a line that speaks of a path is about making something
// there.
func (j *judge) making(path string) bool {
	return slices.ContainsFunc(j.speakOf(path), func(m *story.Message) bool { return makingAny.MatchString(m.Text) })
}

// tool is the program that was called by its name alone and not found.
func (j *judge) tool() string {
	if p := j.caps["program"]; p != "" && !strings.ContainsAny(p, `\/`) {
		return p
	}
	for _, m := range j.anchor {
		if f := notFound.FindStringSubmatch(firstLine(m.Text)); f != nil {
			return cmp.Or(f[1:]...)
		}
		if f := notStarted.FindStringSubmatch(firstLine(m.Text)); f != nil {
			return cmp.Or(f[1:]...)
		}
	}
	if !fileNotFound.MatchString(j.anchored()) {
		return ""
	}
	near := j.before()
	for _, m := range slices.Concat(j.anchor, near[:min(len(near), justBegun)]) { // a command line that begins with it
		if f := commandLine.FindStringSubmatch(firstLine(m.Text)); f != nil && names.ToolFolder(f[1]) != "" {
			return f[1]
		}
	}
	return ""
}

// commandLine is a command line behind words and calls that start one; it
// begins with a program's name alone.
var commandLine = lazy.MustCompile(`(?i)(?:(?:CreateProcess|ShellExecute|WinExec|system|popen|exec|run)\w*\(\s*|\b(?:running|run|ran|executing|execute|exec|starting|start|launching|launch|calling|call|spawning|spawn|invoking|invoke|command(?: ?line)?|cmd)\b:?\s+)["'\x60]?([a-z][\w-]{1,20}(?:\.exe)?)["'\x60]?(?:[\s),:;]|$)`)

// fileNotFound are the OS's words and numbers for a program that is not there.
var fileNotFound = lazy.MustCompile(`(?i)\b(?:error|code|WinError|rc|result|returned|->|=|:)[ (=:]{0,3}2\b|0x80070002|cannot find the file|FILE_NOT_FOUND|\bENOENT\b|no such file|kann die angegebene Datei nicht finden|fichier spécifié|archivo especificado|file specificato|ficheiro especificado|arquivo especificado|opgegeven bestand`)

// notStarted is how a runtime names a program that it was to start by its name
// alone and does not find.
var notStarted = lazy.MustCompile(`(?:WinError 2\]|\[Errno 2\])[^'"]{0,90}: ['"]([\w-]{2,30}(?:\.exe)?)['"]$|\bspawn ([\w-]{2,30}(?:\.exe)?) ENOENT\b|exec: "([\w-]{2,30}(?:\.exe)?)": executable file not found`)

// notFound is how a shell names a command that it does not find, in the
// languages that the OS comes in; the name stands in quotes at the line's
// begin.
var notFound = lazy.MustCompile(`\bwhich\b[( "']{1,3}([\w.-]+)[) "']{1,3}:? ?(?:not found|none|nothing)|(?:^|[\s:])['"«„]?([\w.-]+)['"»“”]? ?(?:: command not found|is not recognized|ist entweder falsch|n.est pas reconnu|no se reconoce|non è riconosciuto|não é reconhecido|wordt niet herkend|nie jest rozpoznawan[ea]|känns inte igen som|iç ya da dış komut|не является внутренней|は、内部コマンド|은\(는\) 내부 또는 외부|不是内部或外部|不是內部或外部)|\b[Nn]ázev ['"„]?([\w.-]+)['"“]? není názvem`)
