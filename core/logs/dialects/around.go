package dialects

import (
	"bytes"
	"strconv"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
)

// aroundLines is how many lines of a text are looked at for what is around a setup: programs
// tell the machine that they run on when they begin.
const aroundLines = 1000

var (
	// osBuild is the build of the OS in a line that speaks of the OS. A version behind ~ is a
	// package's.
	osBuild = lazy.MustCompile(`(?i)(?:windows|microsoft|\bos\b|os ?version|operating ?system|betriebssystem|système|sistema)[^\r\n~]{0,60}?(?:\b(?:6\.[0-3]|10\.0)\.|\bbuild[ ="':#.]{0,3}|\()(\d{4,5})\b`)
	// hostName is the machine's name behind words for it. A word alone, as "machine", may tell
	// something else of it, such as its processor: there the name has a figure.
	hostName = lazy.MustCompile(`(?i)(?:\b(?:computer|host|machine)[ _-]?name|\brechnername|\bcomputername|\bnom de l.ordinateur)["']?\s*[:=]\s*["']?([A-Za-z0-9][\w-]{1,14})(?:["'\s,;})(]|$)`)
	hostWord = lazy.MustCompile(`(?i)(?:^|["'\s<,;{])(?:computer|machine|ordinateur|rechner|equipo|"?host"?)["']?\s*[:=>]\s*["']?([A-Za-z][A-Za-z0-9]*(?:-[A-Za-z0-9]+)*)(?:["'\s,;})(<]|$)`)
	// zoneOf is the zone behind a date and time.
	zoneOf = lazy.MustCompile(`\d{4}-\d\d-\d\d[T ]\d\d:\d\d:\d\d(?:[.,]\d+)? ?(Z\b|[+-]\d\d:?\d\d\b)`)
)

// around looks for what a line tells of the machine and the clock.
func around(src *story.Source, line []byte) {
	if src.Build == "" && bytes.IndexAny(line, "0123456789") >= 0 {
		if m := osBuild.FindSubmatch(line); m != nil && isBuild(string(m[1])) {
			src.Build = string(m[1])
		}
	}
	if src.Host == "" && bytes.IndexAny(line, ":=") >= 0 {
		if m := hostName.FindSubmatch(line); m != nil {
			src.Host = string(m[1])
		} else if m := hostWord.FindSubmatch(line); m != nil && len(m[1]) <= maxHost && bytes.ContainsAny(m[1], "0123456789") && !processors[string(bytes.ToLower(m[1]))] {
			src.Host = string(m[1])
		}
	}
	if src.Zone == "" {
		if m := zoneOf.FindSubmatch(line); m != nil {
			src.Zone = string(m[1])
		}
	}
}

// maxHost is the length of the longest name of a machine. Source: the platform SDK,
// "Computer Names", NetBIOS.
const maxHost = 15

var processors = map[string]bool{"x64": true, "x86": true, "amd64": true, "arm64": true, "i386": true, "ia64": true, "win32": true, "win64": true}

// isBuild says whether a number is the build of a Windows that packages run on. Source: the
// platform SDK, "Operating System Version".
func isBuild(text string) bool {
	n, err := strconv.Atoi(text)
	return err == nil && (n == 2600 || n == 3790 || n >= 6000 && n <= 6003 || n == 7600 || n == 7601 || n == 9200 || n == 9600 || n >= 10240 && n < 40000)
}
