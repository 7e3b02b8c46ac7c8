// This file reads what one line tells by itself: codes, error names,
// exceptions.

package verdict

import (
	"fmt"
	"strconv"
	"strings"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/why/codes"
	"hollowkey/core/why/signs"
)

// errnos are the error names of POSIX and Node programs.
var errnos = map[string]string{
	"EACCES": "permission", "EPERM": "permission", "EROFS": "permission", "ENOENT": "path", "ENOTDIR": "path", "EISDIR": "path",
	"EEXIST":       "path",
	"ENAMETOOLONG": "path", "EBUSY": "in-use", "ETXTBSY": "in-use", "ENOSPC": "space", "EDQUOT": "space", "ECONNREFUSED": "network",
	"ECONNRESET": "network",
	"ETIMEDOUT":  "network", "ENOTFOUND": "network", "EAI_AGAIN": "network", "EHOSTUNREACH": "network", "ENETUNREACH": "network",
	"EPIPE":      "network",
	"EADDRINUSE": "in-use", "EMFILE": "in-use", "EIO": "corrupt",
}

// exceptions tell the class by the type of an exception.
var exceptions = []struct{ name, class string }{
	{"UnauthorizedAccessException", "permission"}, {"AccessDeniedException", "permission"}, {"SecurityException", "permission"},
	{"PermissionError", "permission"},
	{"DirectoryNotFoundException", "path"}, {"FileNotFoundException", "path"}, {"NoSuchFileException", "path"},
	{"PathTooLongException", "path"}, {"DriveNotFoundException", "path"},
	{"FileNotFoundError", "path"}, {"NotDirectoryException", "path"}, {"FileAlreadyExistsException", "path"},
	{"BadImageFormatException", "platform"}, {"UnsupportedClassVersionError", "prerequisite"},
	{"FileLoadException", "prerequisite"}, {"DllNotFoundException", "prerequisite"}, {"TypeLoadException", "prerequisite"},
	{"NoClassDefFoundError", "prerequisite"},
	{"ClassNotFoundException", "prerequisite"}, {"UnsatisfiedLinkError", "prerequisite"}, {"MissingMethodException", "prerequisite"},
	{"PlatformNotSupportedException", "platform"},
	{"UnknownHostException", "network"}, {"SocketTimeoutException", "network"}, {"ConnectException", "network"},
	{"SSLHandshakeException", "network"}, {"HttpRequestException", "network"},
	{"WebException", "network"}, {"SocketException", "network"}, {"TimeoutException", "network"}, {"AuthenticationException", "network"},
	{"InvalidDataException", "corrupt"},
	{"ZipException", "corrupt"}, {"EOFException", "corrupt"}, {"EndOfStreamException", "corrupt"}, {"CryptographicException", "corrupt"},
	{"XmlException", "corrupt"}, {"OutOfMemory", "space"},
	{"SqlException", "custom-action"}, {"OperationCanceledException", "cancelled"}, {"TaskCanceledException", "network"},
}

var (
	// A system's error of eight figures; what it means is asked of the tables.
	hexCode = lazy.MustCompile(`\b0x([0-9a-fA-F]{8})\b`)
	// A decimal number only behind a word that makes it a code.
	decimal = lazy.MustCompile(`(?i)(?:win32 error|system error|last ?error|error code|errorcode|error|code|gle|err)\s*[:=# ]?\s*\(?(-?\d{1,10})\b`)
	// A path in quotes, or without quotes as far as its blanks stand between
	// two separators.
	anyPath = lazy.MustCompile(`['"]([A-Za-z]:\\[^'"]+|\\\\[^'"]+)['"]|\b([A-Za-z]:\\[^\s'"<>|*?,;]+(?: [^\s'"<>|*?,;\\]+\\[^\s'"<>|*?,;]+)*)`)
	// "EACCES", "ENOSPC": upper case and a leading E, looked up before it is
	// believed.
	errnoName = lazy.MustCompile(`\b(E[A-Z_]{3,14})\b`)
)

// reading is what the words of one line tell by themselves.
type reading struct {
	class, title string
	code         *int
	sure         float64
}

// readText looks for codes, errno names and exception types in a line.
func readText(text string) (best reading, ok bool) {
	consider := func(r reading) {
		if r.class != "" && (!ok || r.sure > best.sure) {
			best, ok = r, true
		}
	}
	// A number in hexadecimal is a code more surely than one in figures; short
	// ones are the OS's own errors.
	for _, m := range hexCode.FindAllStringSubmatch(text, 6) {
		u, err := strconv.ParseUint(m[1], 16, 32)
		if err != nil {
			continue
		}
		if u < 0x10000 {
			if e, known := codes.SystemError(int(u)); known && e.Class != "" {
				consider(reading{e.Class, e.Meaning, new(int(u)), 0.66})
			}
			continue
		}
		e, known := codes.Status(uint32(u))
		if !known || u>>28 == 8 {
			e, known = codes.Result(uint32(u))
		}
		if known && e.Class != "" {
			n := exitcode.Unwrap(int64(u))
			consider(reading{e.Class, e.Meaning, &n, 0.72})
		}
	}
	for _, m := range errnoName.FindAllStringSubmatch(text, 6) {
		consider(reading{errnos[m[1]], "the program ended with " + m[1], nil, 0.7})
	}
	for _, x := range exceptions {
		if strings.Contains(text, x.name) {
			consider(reading{x.class, "the program stopped with " + x.name, nil, 0.62})
			break
		}
	}
	// Figures are counts and sizes more often, so they weigh less, and 0 and 1
	// tell nothing.
	for _, m := range decimal.FindAllStringSubmatch(text, 6) {
		n, err := strconv.Atoi(m[1])
		if err != nil || n == 0 || n == 1 {
			continue
		}
		if n > 0 && n < 0x10000 {
			if e, known := codes.ExitCode(n); known && e.Class != "" && n >= 1600 {
				consider(reading{e.Class, e.Meaning, &n, 0.66})
			} else if e, known := codes.SystemError(n); known && e.Class != "" {
				consider(reading{e.Class, e.Meaning, &n, 0.6})
			}
		} else if e, known := codes.Result(uint32(n)); known && e.Class != "" {
			consider(reading{e.Class, e.Meaning, &n, 0.7})
		}
	}
	return best, ok
}

// mostTelling is the cause that the best line of a plain log gives by what it
// names, without a sign.
func (j *judge) mostTelling() (Cause, bool) {
	var best *signs.Weighed
	var bestReading reading
	top := 0.0
	for i, l := range j.scene.Lines {
		if l.Kind > story.KindWarning && l.Kind != story.KindText && l.Kind != story.KindResult {
			continue
		}
		r, ok := readText(l.Text)
		// Half of what a code would give: the line at least says that something
		// failed.
		score := l.Weight * 0.5
		if ok {
			score = l.Weight * r.sure
		}
		if score > top+0.001 {
			best, bestReading, top = &j.scene.Lines[i], r, score
		}
	}
	if best == nil || top < leastSure {
		return Cause{}, false
	}
	j.anchor = append(j.anchor, best.Message)
	c := Cause{Class: new("unknown"), Title: "the most telling line names no known cause", Confidence: min(0.45, top),
		Summary: fmt.Sprintf("the most telling line is %q", story.Clip(best.Text, 200))}
	if bestReading.class != "" {
		c.Class, c.Title, c.Message, c.Confidence = new(bestReading.class), bestReading.title, bestReading.code, top
		c.Summary = bestReading.title + ": " + story.Clip(firstLine(best.Text), 160)
	}
	// The path in the line is what it is about; without one the action is.
	if p := anyPath.FindStringSubmatch(best.Text); p != nil {
		c.Subject = &signs.Subject{Kind: "file", Name: strings.TrimRight(p[1]+p[2], `\.:`)}
	} else if j.broke != nil {
		c.Subject = &signs.Subject{Kind: "program", Name: j.broke.Name}
	}
	return c, true
}

// ownWords is the cause that the package's own action printed before it failed:
// a code, an errno or an exception of a known class outranks the bare failure
// of the action.
func (j *judge) ownWords() (Cause, bool) {
	if j.a.Dialect != story.Engine || j.broke == nil || !j.broke.Custom {
		return Cause{}, false
	}
	var best *signs.Weighed
	var said reading
	for i, l := range j.scene.Lines {
		if l.Kind != story.KindText && l.Kind != story.KindInfo || l.Weight < besideWeight || l.Number != 0 || endings.Read(l.Text).Passed ||
			engineResult.MatchString(l.Text) {
			continue
		}
		r, ok := readText(l.Text)
		if !ok || r.class == "custom-action" || r.class == "path" && !anyPath.MatchString(l.Text) || r.sure < said.sure {
			continue
		}
		best, said = &j.scene.Lines[i], r
	}
	if best == nil {
		return Cause{}, false
	}
	j.anchor = append(j.anchor, best.Message)
	c := Cause{Class: new(said.class), Title: said.title, Message: said.code, Confidence: said.sure * best.Weight,
		Subject: &signs.Subject{Kind: "program", Name: j.broke.Name},
		Summary: fmt.Sprintf("%s, an action of the package's own, failed and said: %s (%s)", j.broke.Name,
			strings.TrimRight(story.Clip(firstLine(best.Text), 160), "."), said.title)}
	if p := anyPath.FindStringSubmatch(best.Text); p != nil {
		c.Subject = &signs.Subject{Kind: "file", Name: strings.TrimRight(unescape(p[1]+p[2]), `\.:`)}
	}
	return c, true
}

// engineResult is the engine's line about a custom action's end; its number is
// no code of the action's own words.
var engineResult = lazy.MustCompile(`^CustomAction \S+ returned actual error code`)

// firstLine is a text up to its first line's end.
func firstLine(t string) string {
	t, _, _ = strings.Cut(t, "\n")
	return t
}
