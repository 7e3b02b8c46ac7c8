// This file reads what a command prompt showed: commands behind prompts, and
// what they printed.

package generic

import (
	"bytes"
	"fmt"
	"path"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// A batch file that shows its commands shows them with the values of its
// variables: what a program ended with stands in the question that follows, "if
// 1603 NEQ 0 goto failed".

// prompt is what a command prompt shows before a command that a batch file
// runs.
var prompt = lazy.MustCompile(`^(?:PS )?[A-Za-z]:\\(?:[^<>|*?":]*[^<>|*?": =-])?>(.*)$`) // "C:\Tide\a.dll -> refused" is none

// typed is the command behind a prompt: it tells what was to be done, not how
// it went.
func typed(line []byte) (command string, ok bool) {
	m := prompt.FindSubmatch(line)
	if m == nil {
		return "", false
	}
	return strings.TrimSpace(string(m[1])), true
}

// A ran is a program that a prompt ran. It becomes an action when its exit code
// is told: that it ran says nothing.
type ran struct {
	name string // as it is written, empty when none ran
	line int
}

var (
	// leaving is how a batch file hands on its exit code.
	leaving = lazy.MustCompile(`(?i)^exit\s+(?:/b\s+)?(-?\d+)$`)
	// echoes is a number that a batch file shows, as the command reads once its
	// variables stand in it: "echo ERRORLEVEL=1619".
	echoes = lazy.MustCompile(`(?i)^@?echo[.: ].*\b(?:errorlevel|exit ?code|return code|exit|rc)\b[ =:]+(-?\d{1,10})\s*$`)
	// asksFor is a question for the exit code of the program before, with that
	// in the place of its variable; both numbers, and what lies between. Which
	// numbers it is held against tells that it is one: see [asked].
	asksFor = lazy.MustCompile(`(?i)^if\s+(?:/i\s+)?(?:not\s+)?"?(-?\d{1,10})"?\s*(==|equ|neq|lss|leq|gtr|geq)\s*"?(-?\d{1,10})"?(?:\s|$)`)
	// keeps puts that exit code into a variable, whose name says so: set rc=5.
	keeps = lazy.MustCompile(`(?i)^set\s+(?:/a\s+)?"?(?:\w+_)?(?:rc|ret|ret_?code|err|err_?no|err_?code|error_?code|error_?level|exit_?code|last_?error|return_?code)\s*=\s*"?(-?\d{1,10})"?$`)
	// shows writes it: echo setup ended with 5.
	shows = lazy.MustCompile(`(?i)^echo\b.*\b(?:exit ?code|errorlevel|return(?:ed)?(?: code)?|(?:ended|failed|finished) with(?: code)?|rc)[ :=]+(-?\d{1,10})\.?\s*$`)
)

// ownCommands are those that the shell does itself, and that run nothing of
// which an exit code is asked; and programs by which a batch waits or looks
// around.
var ownCommands = map[string]bool{"echo": true, "if": true, "set": true, "goto": true, "rem": true, "cd": true, "chdir": true, "pushd": true,
	"popd": true, "exit": true, "setlocal": true, "endlocal": true, "title": true, "cls": true, "color": true, "pause": true, "ping": true,
	"timeout": true, "for": true, "type": true, "dir": true, "ver": true, "shift": true, "path": true, "prompt": true, "sleep": true, "whoami": true,
	"hostname": true, "date": true, "time": true, "choice": true, "find": true, "findstr": true, "(": true, ")": true}

// callers are commands that run what follows them.
var callers = lazy.MustCompile(`(?i)^(?:call|start(?:\s+"[^"]*")?(?:\s+/(?:wait|w|b|min|max))*|cmd(?:\.exe)?\s+/c|@)\s*`)

// programOf is the program that a command runs, as it is written; empty when
// the shell does it itself.
func programOf(command string) string {
	command = strings.TrimLeft(callers.ReplaceAllString(command, ""), "@( ")
	name, _, _ := strings.Cut(command, " ")
	if quoted, ok := strings.CutPrefix(command, `"`); ok {
		name, _, _ = strings.Cut(quoted, `"`)
	}
	base := strings.ToLower(path.Base(strings.ReplaceAll(name, `\`, "/")))
	if name == "" || ownCommands[base] || strings.HasPrefix(name, ":") || strings.HasPrefix(name, "$") {
		return ""
	}
	return name
}

// command takes a line with a command. The number that a batch file leaves with
// is the setup's own.
func (p *Plain) command(l textfile.Line, command string) {
	p.b.Ensure(l.Number)
	kind, text := story.KindData, command
	if code, ok := endedWith(command); ok && p.ran.name != "" {
		good := exitcode.Good(code)
		if !good {
			kind, text = story.KindError, fmt.Sprintf("%s ended with exit code %d", p.ran.name, code)
		}
		p.b.End(p.b.Start(p.ran.line, p.ran.name, nil), l.Number, !good, nil, command)
		p.ran = ran{}
	}
	p.b.Add(lines.Entry{Line: l.Number, At: -1, Kind: kind, Text: text, Raw: string(l.Text)})
	p.asked = strings.EqualFold(command, "echo %errorlevel%") || strings.EqualFold(command, "$LASTEXITCODE")
	for _, x := range []*lazy.Regexp{echoes, leaving} {
		m := x.FindStringSubmatch(command)
		if m == nil {
			continue
		}
		if code, ok := exitcode.Parse(m[1]); ok {
			p.b.A.Exit = &story.Exit{Place: p.b.Place(l.Number), Code: code, Text: command}
			p.firm = x == leaving
		}
	}
	if name := programOf(command); name != "" {
		p.ran = ran{name, l.Number}
	}
}

// endedWith is the exit code of the program before that a command tells.
func endedWith(command string) (code int, ok bool) {
	if m := asksFor.FindStringSubmatch(command); m != nil {
		if !asked(m[2], m[3]) {
			return 0, false
		}
		return exitcode.Parse(m[1])
	}
	if m := keeps.FindStringSubmatch(command); m != nil {
		if code, ok = exitcode.Parse(m[1]); code == 1 || code == -1 { // what a variable is often set to before anything runs
			return 0, false
		}
		return code, ok
	}
	if m := shows.FindStringSubmatch(command); m != nil {
		return exitcode.Parse(m[1])
	}
	return 0, false
}

// asked says whether a question holds a number against what exit codes are held
// against: 0, the least that is none, or one that everybody knows. Builds,
// counts and sizes are held against others.
func asked(how, against string) bool {
	n, ok := exitcode.Parse(against)
	if !ok {
		return false
	}
	switch strings.ToLower(how) {
	case "geq", "lss":
		return n == 1
	case "gtr", "leq":
		return n == 0
	}
	return exitcode.Good(n) || exitcode.Telling(n)
}

// asksExit is a line of a console on which somebody asks a shell what the last
// program ended with.
var asksExit = lazy.MustCompile(`(?i)^(?:[^>$#]{0,200}[>$#]\s*)?(?:echo\s+(?:%errorlevel%|\$lastexitcode|\$\?)|\$lastexitcode)\s*$`)

// answered takes the shell's answer to that, the number on the next line.
func (r *Reader) answered(l textfile.Line) bool {
	text := bytes.TrimSpace(l.Text)
	asked := r.asked
	if r.asked = bytes.HasSuffix(text, []byte("%")) || bytes.IndexByte(text, '$') >= 0; r.asked {
		r.asked = asksExit.Match(text)
	}
	if !asked {
		return false
	}
	n, err := strconv.Atoi(string(text))
	if err != nil {
		return false
	}
	r.b.Ensure(l.Number)
	r.b.Exit(l.Number, n, string(text))
	r.said, r.firm = new(exitcode.Good(n)), true
	return true
}

// throws follows the errors of a PowerShell console: the command that stands
// before the place in a script failed, and so did the script where nothing
// comes behind.
func (r *Reader) throws(l textfile.Line) {
	switch {
	case bytes.Contains(l.Text, []byte(":")) && thrownAt.Match(l.Text), bytes.HasPrefix(l.Text, []byte("Line |")):
		if r.thrown, r.record = r.b.Last(), l.Number; r.thrown != nil && r.thrown.Kind > story.KindError && !r.thrown.Verdict {
			r.thrown.Kind = story.KindError
		}
	case r.thrown == nil:
	case r.record == l.Number-1 && ofRecord.Match(l.Text):
		r.record = l.Number
	case !ofTranscript.Match(l.Text):
		r.thrown = nil
	}
}

// ofTranscript is a line with which a console or its transcript ends: a prompt,
// a ruler, and when it was.
var ofTranscript = lazy.MustCompile(`^\s*(?:PS(?: [^>]*)?>\s*$|[A-Z]:\\[^>]*>\s*$|\*{5,}|(?:Windows )?PowerShell[ -]transcript|Ende der|Fin de la transcription|Fin de la transcripción|(?:End time|Endzeit|Heure de fin|Hora de finalización|Ora di fine|Eindtijd)\s*:)`)

// thrownLast takes it that a run failed of which an error of the console is the
// last that it tells.
func (r *Reader) thrownLast(a *story.Attempt) {
	if r.thrown == nil || a.Success != nil || a.Exit != nil || a.Cancelled {
		return
	}
	if slices.Contains(a.Messages, r.thrown) {
		a.Success, r.thrown.Verdict = new(false), true
	}
}

// thrownAt is the line of a PowerShell console under an error that tells where
// in which script, or in what was typed.
var thrownAt = lazy.MustCompile(`^(?:At|In|En|In riga:|Em|Bij|W|Vid|На|発生場所|위치|所在位置|Au caractère) ?(?:.{0,200}\.psm?1|line|Zeile|ligne|Ligne|línea|riga|linha|regel|wiersz|rad|satır|строка|行):\s?\d+ (?:char|Zeichen|carácter|Caractère|caractère|car|caractere|teken|znak|tecken|знак|文字|문자|字符|:) ?:? ?\d+`)

// ofRecord is a further line of such an error: the place in the script, and
// what the shell calls it.
var ofRecord = lazy.MustCompile(`^\s*(?:\+|\d* *\|)`)
