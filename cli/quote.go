// This file quotes printed commands for the shell that they will be pasted
// into.

package cli

import (
	"strings"
	"sync"
)

// A shell is the one that a printed command will be pasted into.
type shell int

const (
	posix          shell = iota // sh and its kin
	commandPrompt               // the OS's command prompt
	oldPowerShell               // the PowerShell that comes with the OS: it hands quotation marks on as they are
	openPowerShell              // the later one, which puts a backslash before them itself
)

// atHand is the shell that this program was called from.
var atHand = sync.OnceValue(callingShell)

// Signs that a shell would take apart. PowerShell makes a list of what commas
// part, and expands what follows an at sign; the command prompt expands what
// stands between per cent signs.
const (
	anyShell     = " \t\"'&|<>()^;$`*?[]{}~#!"
	windowsShell = anyShell + ",@%‘’‚‛“”„"
)

// quoteArgument puts quotation marks around what the shell at hand would take
// apart.
func quoteArgument(t string) string { return quoteFor(atHand(), t) }

func quoteFor(sh shell, t string) string {
	special := windowsShell
	if sh == posix {
		special = anyShell
	}
	if t != "" && !strings.ContainsAny(t, special) {
		return t
	}
	switch sh {
	case posix:
		return "'" + strings.ReplaceAll(t, "'", `'\''`) + "'"
	case commandPrompt:
		return `"` + backslashed(t, true) + `"`
	case oldPowerShell: // it puts marks around what holds a blank, and drops what is empty
		if t = backslashed(t, strings.ContainsAny(t, " \t")); t == "" {
			t = `""`
		}
	}
	// Curly quotation marks end a string there, too. Source: the language's
	// specification, 2.3.5.2.
	return "'" + strings.NewReplacer("'", "''", "‘", "‘‘", "’", "’’", "‚", "‚‚", "‛", "‛‛").Replace(t) + "'"
}

// backslashed writes a text as programs read it between quotation marks: a
// backslash before each mark, and those before a mark twice; those at the end,
// too, where a mark will follow. Source: the C runtime's rules for arguments.
func backslashed(t string, marked bool) string {
	var b strings.Builder
	strokes := 0
	for i := range len(t) {
		switch t[i] {
		case '\\':
			strokes++
		case '"':
			b.WriteString(strings.Repeat(`\`, strokes+1))
			strokes = 0
		default:
			strokes = 0
		}
		b.WriteByte(t[i])
	}
	if marked {
		b.WriteString(strings.Repeat(`\`, strokes))
	}
	return b.String()
}
