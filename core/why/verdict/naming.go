// This file says what is no name: constants, identifiers of programs, places in
// stack traces.

package verdict

import (
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
)

// inFrame says whether a place in a text stands in a frame of a stack trace: at
// Tide.Setup.Run(String name).
func inFrame(text string, at int) bool {
	line := strings.TrimLeft(text[strings.LastIndexByte(text[:min(at, len(text))], '\n')+1:], " \t")
	line = firstLine(line)
	return strings.HasPrefix(line, "at ") && strings.Contains(line, "(")
}

// knownFromWords lead to where something is known from, in small letters.
var knownFromWords = []string{"running from", "started from", "launched from", "log", "log file", "logging to", "log is", "log:", "logfile", "working folder", "working directory", "current directory", "cwd", "according to", "as per", "laut", "gemäß", "selon", "d'après", "según", "secondo", "segundo", "de acordo com", "volgens",
	"według", "podle", "enligt", "согласно"}

// knownFrom says whether a name behind this text is where something is known
// from, not what it is about: "not finished according to tide.cfg".
func knownFrom(before string) bool {
	low := strings.ToLower(strings.TrimRight(before[max(0, len(before)-longestKnownFrom):], ` "'“„«`))
	return slices.ContainsFunc(knownFromWords, func(w string) bool { return strings.HasSuffix(low, w) })
}

// longestKnownFrom is how many bytes before a name are looked at for such
// words.
const longestKnownFrom = 24

// mentions is how many lines a name stands in.
func mentions(lines []*story.Message, name string) (n int) {
	for _, m := range lines {
		if strings.Contains(m.Text, name) || strings.Contains(unescape(m.Text), name) {
			n++
		}
	}
	return n
}

// bareCode is an identifier that only programs know each other by.
var bareCode = lazy.MustCompile(`^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$`)

// sumOnly is what a file's bytes add up to, or a handle: no name.
var sumOnly = lazy.MustCompile(`^[0-9a-f]{6,}$`)

// sumWord is how a file's bytes are added up.
var sumWord = lazy.MustCompile(`^(?:sha-?\d{1,3}|md5|crc-?\d{0,2})$`)

// commandlet is a command of PowerShell: what was called, not what it is about.
var commandlet = lazy.MustCompile(`^[A-Z][a-z]+-[A-Z]\w+$`)

// tellsOne says whether a word can be what a cause is about: no constant of a
// program, no exception, no logger.
func tellsOne(w string) bool {
	low := strings.ToLower(w)
	return w != strings.ToUpper(w) && !strings.HasSuffix(low, "exception") && !strings.HasSuffix(low, "error") &&
		!strings.ContainsAny(w, ".:") && !namesNothing[low] &&
		!sumOnly.MatchString(low) && !sumWord.MatchString(low) && !bareCode.MatchString(low) &&
		!commandlet.MatchString(w) && !names.IsCall(w)
}

// namesNothing are words of records, in small letters, that look like names.
var namesNothing = map[string]bool{"categoryinfo": true, "fullyqualifiederrorid": true, "64-bit": true, "32-bit": true, "activityid": true,
	"win32": true, "win64": true, "notbefore": true, "notafter": true, "main": true, "exitcode": true, "hresult": true, "errorcode": true}
