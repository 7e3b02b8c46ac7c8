package dialects

import (
	"bytes"
	"slices"
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

// zoneLines is how many lines are looked at for a zone: a log that writes one does so with
// its first stamps.
const zoneLines = aroundLines

// around looks for what the n-th line tells of the machine and the clock.
func around(src *story.Source, n int, line []byte) {
	if src.Build == "" && couldTellBuild(line) {
		if m := osBuild.FindSubmatch(line); m != nil && isBuild(string(m[1])) {
			src.Build = string(m[1])
		}
	}
	if src.Host == "" && couldNameHost(line) {
		if m := hostName.FindSubmatch(line); m != nil {
			src.Host = string(m[1])
		} else if m := hostWord.FindSubmatch(line); m != nil && len(m[1]) <= maxHost && bytes.ContainsAny(m[1], "0123456789") && !processors[string(bytes.ToLower(m[1]))] {
			src.Host = string(m[1])
		}
	}
	if front := line[:min(len(line), longStamp)]; src.Zone == "" && n <= zoneLines && bytes.Count(front, []byte(":")) > 1 && bytes.Contains(front, []byte("-")) {
		if m := zoneOf.FindSubmatch(front); m != nil {
			src.Zone = string(m[1])
		}
	}
}

// longStamp is where a stamp has ended that stands at the begin of a line, or in a record of fields,
// in bytes.
const longStamp = 400

// couldTellBuild says whether a line holds what no build is told without, which most lines
// lack: the expressions take ten times as long.
func couldTellBuild(line []byte) bool {
	if !slices.ContainsFunc(osWords, func(w []byte) bool { return bytes.Contains(line, w) }) {
		return false
	}
	if bytes.Contains(line, []byte("10.0.")) || bytes.Contains(line, []byte("uild ")) || bytes.Contains(line, []byte("uild:")) || bytes.Contains(line, []byte("uild=")) || bytes.Contains(line, []byte(" 6.")) {
		return true
	}
	for i := 0; i+5 < len(line); i++ { // (19045
		if line[i] == '(' && line[i+1] >= '1' && line[i+1] <= '9' && line[i+2] >= '0' && line[i+2] <= '9' && line[i+3] >= '0' && line[i+3] <= '9' && line[i+4] >= '0' && line[i+4] <= '9' {
			return true
		}
	}
	return false
}

// osWords are what the OS is called, without what may be a large letter.
var osWords = [][]byte{[]byte("indows"), []byte("icrosoft"), []byte("OS"), []byte("os "), []byte("os_"), []byte("osV"), []byte("perating"), []byte("etriebssystem"), []byte("ystème"), []byte("istema")}

// hostWords begin what a machine's name stands behind, in letters of either case.
var hostWords = [][]byte{[]byte("omputer"), []byte("OMPUTER"), []byte("host"), []byte("Host"), []byte("HOST"), []byte("achine"), []byte("ACHINE"), []byte("echner"), []byte("rdinateur"), []byte("quipo")}

// behindWord is how far behind such a word its colon stands at most: hostname ": .
const behindWord = 14

func couldNameHost(line []byte) bool {
	for _, w := range hostWords {
		at := bytes.Index(line, w)
		if at >= 0 && bytes.IndexAny(line[at:min(len(line), at+len(w)+behindWord)], ":=>") >= 0 {
			return true
		}
	}
	return false
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
