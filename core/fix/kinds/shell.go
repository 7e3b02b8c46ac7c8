// This file writes steps for shells: quoting, remarks, and what no shell can
// do.

package kinds

import (
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"hollowkey/core/logs/exitcode"
	"hollowkey/core/machine"
)

// What all script forms share: quoting, and calls that end the script when they
// fail.

// PlainLine takes out of a text for a remark what would end the line, and what
// the command shell acts on even there.
func PlainLine(t string) string {
	return strings.Map(func(r rune) rune {
		switch {
		case r < ' ' || r == 0x7F || r == 0x2028 || r == 0x2029: // U+2028 and U+2029 end a line for PowerShell
			return ' '
		case r == '%' || r == '&' || r == '|' || r == '<' || r == '>' || r == '^':
			return '_'
		}
		return r
	}, t)
}

// PowerShell writes the lines that bring a step's target from one state into
// another. A step that PowerShell cannot take is an error that says so.
func (s Step) PowerShell(from, to State) ([]string, error) {
	if why := s.OneWay(); why != "" && !s.forward(from, to) {
		return []string{"# nothing: " + PlainLine(why)}, nil
	}
	return to.Fact.powerShell(s, from.Fact)
}

// Command does the same for a command file.
func (s Step) Command(from, to State) ([]string, error) {
	if why := s.OneWay(); why != "" && !s.forward(from, to) {
		return []string{"rem nothing: " + PlainLine(why)}, nil
	}
	return to.Fact.command(s, from.Fact)
}

// forward says whether a step without a way back goes its one way: what runs
// now is ended, what has not run is run.
func (s Step) forward(from, to State) bool {
	switch f := to.Fact.(type) {
	case *RunningState:
		return len(f.IDs) == 0
	case *RanState:
		return f.Done
	}
	return true
}

var (
	// Said at the export, before anything is written: a script that leaves a
	// step out would be worse than none.
	errNoScript  = errors.New("a script has no command for it; take this step on the machine itself: hollowkey fix")
	errNoCommand = errors.New("a command file cannot do that\nhint: --script ps1 can")
)

// PS quotes a text for PowerShell; the typographic quotes end one there, too.
func PS(t string) string {
	for _, q := range []string{"'", "‘", "’", "‚", "‛"} {
		t = strings.ReplaceAll(t, q, q+q)
	}
	return "'" + t + "'"
}

// psKey is a key as PowerShell's registry provider takes it. Its drive names
// leave out the users' hives, so the long form is used.
func psKey(key string) (string, error) {
	long, err := machine.LongKey(key)
	return PS("Registry::" + long), err
}

// A program's exit code is no error to that shell by itself: a failed line
// would be followed by the next.
const throws = "; if ($LASTEXITCODE) { throw \"it ended with $LASTEXITCODE\" }"

// throwsUnlessGood lets a setup's good exit codes pass.
func throwsUnlessGood() string {
	var good []string
	for _, c := range exitcode.All {
		good = append(good, fmt.Sprint(c))
	}
	return "; if ($LASTEXITCODE -notin " + strings.Join(good, ", ") + ") { throw \"it ended with $LASTEXITCODE\" }"
}

// psCall calls a program and ends the script when it fails.
func psCall(command ...string) ([]string, error) {
	args, err := psArguments(command)
	return []string{"&" + args + throws}, err
}

// psArguments quotes each argument of a program on its own. Older shells put an
// argument with a blank between quotation marks and look at nothing within: one
// with such a mark, or with a backslash at its end, would run into the next.
func psArguments(args []string) (line string, err error) {
	for _, a := range args {
		if strings.ContainsAny(a, "\"\r\n\x00") {
			return "", fmt.Errorf("%.60q cannot be handed to a program from a script\nhint: take this step on the machine itself: hollowkey fix", a)
		}
		if strings.HasSuffix(a, `\`) && strings.ContainsAny(a, " \t") {
			a += strings.Repeat(`\`, len(a)-len(strings.TrimRight(a, `\`)))
		}
		line += " " + PS(a)
	}
	return line, nil
}

// CommandArgument quotes an argument for a program that is called from a
// command file; what cannot stand there safely is an error.
func CommandArgument(t string) (string, error) {
	// The shell knows nothing of \": a quotation mark in one argument turns its
	// own round for all that follow.
	if strings.ContainsAny(t, "\"\r\n\x00\x1a!") {
		return "", fmt.Errorf("%.60q cannot stand in a command file\nhint: --script ps1 can", t)
	}
	t = strings.ReplaceAll(t, "%", "%%")
	t += strings.Repeat(`\`, len(t)-len(strings.TrimRight(t, `\`))) // else the program takes the last mark for a part of it
	return `"` + t + `"`, nil
}

// CodePage is the line that lets a command file be read as the UTF-8 that it is
// written in; empty for one whose letters all code pages have.
func CodePage(text string) string {
	if strings.IndexFunc(text, func(r rune) bool { return r >= utf8.RuneSelf }) < 0 {
		return ""
	}
	return "chcp 65001 >nul"
}

// The same for a command file.
const orEnd = " || exit /b 1"

// cmdCall calls a program of the OS with quoted arguments; words are the parts
// of the line that need no quotes.
func cmdCall(words string, target string, more ...string) ([]string, error) {
	quoted, err := CommandArgument(target)
	if err != nil {
		return nil, err
	}
	line := words + " " + quoted
	for _, m := range more {
		line += " " + m
	}
	return []string{line + orEnd}, nil
}

// scStart are sc.exe's words for start types.
var scStart = map[machine.StartType]string{
	machine.StartAutomatic: "auto", machine.StartManual: "demand", machine.StartDisabled: "disabled", machine.StartBoot: "boot",
	machine.StartSystem: "system",
}
