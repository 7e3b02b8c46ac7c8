// This file reads script actions for the same.

package targets

import (
	"context"
	"io"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/textfile"
	"hollowkey/core/machine"
	"hollowkey/core/package/sequence"
)

// A script of a package's says what it works on where it calls the OS's own
// objects with a text that stands there: what is put together while it runs is
// not known. Source: the platform SDK, "Script Runtime" and "Windows Script
// Host" references.

// mostScript is how many bytes of a script are read: more is a program that
// somebody packed into one.
const mostScript = 1 << 20

// called are the calls whose first argument is a text by itself; the second
// group is the call, the third the text. What stands before says that the
// call's name is no part of a longer one.
var called = lazy.MustCompile(`(?i)(^|[^A-Za-z0-9_])(CreateObject|ActiveXObject|RegRead|RegWrite|RegDelete|CreateTextFile|OpenTextFile|GetFile|GetFolder|CopyFile|MoveFile|DeleteFile|CopyFolder|MoveFolder|DeleteFolder|CreateFolder|Run|Exec)[ \t]*\(?[ \t]*("(?:[^"\r\n]|"")*"|'[^'"\r\n]*')[ \t]*(?:[),;\r\n]|$)`)

// passesOver says that a script goes on behind a call that failed.
var passesOver = lazy.MustCompile(`(?i)On[ \t]+Error[ \t]+Resume[ \t]+Next|\btry[ \t\r\n]*\{`)

// objects are beginnings of the names of classes that the OS brings, in small
// letters.
var objects = []string{"wscript.", "scripting.", "msxml", "adodb.", "microsoft.", "shell.", "windows", "winhttp.", "wbemscripting.", "schedule.",
	"hnetcfg.", "cdo.", "internetexplorer.", "htmlfile", "vbscript.", "jscript.", "sapi.", "wmi", "dao."}

// script adds what the text of a script action works on. JScript writes a
// backslash as two.
func (r *reader) script(text string, doubled bool, row string) {
	if len(text) > mostScript || passesOver.MatchString(text) {
		return
	}
	for line := range strings.Lines(text) {
		low := strings.ToLower(strings.TrimSpace(line))
		if strings.HasPrefix(low, "'") || strings.HasPrefix(low, "rem ") || strings.HasPrefix(low, "//") {
			continue
		}
		for _, m := range called.FindAllStringSubmatch(line, mostCommands) {
			arg := m[3][1 : len(m[3])-1]
			if doubled {
				arg = strings.ReplaceAll(arg, `\\`, `\`)
			} else {
				arg = strings.ReplaceAll(arg, `""`, `"`)
			}
			r.calls(strings.ToLower(m[2]), arg, row)
		}
	}
}

// calls adds what one call of a script works on.
func (r *reader) calls(name, arg, row string) {
	switch name {
	case "createobject", "activexobject":
		low := strings.ToLower(arg)
		for _, o := range objects {
			if strings.HasPrefix(low, o) {
				return
			}
		}
		if strings.Contains(arg, ".") && !strings.ContainsAny(arg, `\/ `) {
			r.add(Class, arg, row, 0)
		}
	case "regread", "regdelete", "regwrite":
		key, value := arg, ""
		if !strings.HasSuffix(arg, `\`) { // what ends in no backslash is a value
			at := strings.LastIndexByte(arg, '\\')
			if at < 0 {
				return
			}
			key, value = arg[:at], "|"+arg[at+1:]
		}
		key, ok := keyIn(strings.TrimRight(key, `\`))
		switch {
		case !ok:
		case name == "regwrite":
			r.add(Key, key, row, 0)
		case !r.writes(key):
			r.add(Asked, key+value, row, 0)
		}
	case "run", "exec":
		r.works("", arg, row)
	case "createfolder":
		r.used(useMake, []word{{text: arg}}, row)
	case "createtextfile":
		if _, _, err := machine.SplitPath(arg); err == nil && !r.brings(arg) {
			r.add(Named, arg, row, 0)
		}
	case "opentextfile": // read, or written: the next argument says it
	default:
		r.used(useFile, []word{{text: arg}}, row)
	}
}

// scriptOf is the text of a script action; empty for others, and where it lies
// in a file that the package brings.
func (r *reader) scriptOf(c sequence.Custom, target string) (text string, doubled bool) {
	kind := c.Type & 0x3F // without what says when it runs; the platform SDK, "Summary List of All Custom Action Types"
	doubled = kind%16 == 5
	switch kind {
	case 37, 38:
		return target, doubled
	case 53, 54:
		text, _ = r.w.Format("[" + c.Source + "]")
		return text, doubled
	case 5, 6:
		s, err := r.db.Stream("Binary." + c.Source)
		if err != nil || s == nil {
			return "", false
		}
		var b strings.Builder
		var info textfile.Info
		for l, err := range textfile.Lines(context.Background(), io.LimitReader(s.Reader(), mostScript), textfile.Options{}, &info) {
			if err != nil {
				return "", false
			}
			b.Write(append(l.Text, 0x0A))
		}
		return b.String(), doubled
	}
	return "", false
}
