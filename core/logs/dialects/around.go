// This file takes up what lines tell of the machine, the person and the clock,
// whatever the dialect.

package dialects

import (
	"bytes"
	"cmp"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
)

// aroundLines is how many lines of a text are looked at for what is around a
// setup: programs tell the machine that they run on when they begin.
const aroundLines = 1000

var (
	// osBuild is the build of the OS in a line that speaks of the OS. A version
	// behind ~ is a package's.
	osBuild = lazy.MustCompile(`(?i)(?:windows|microsoft|\bos\b|os ?version|operating ?system|betriebssystem|système|sistema)[^\r\n~\\]{0,60}?(?:\b(?:6\.[0-3]|10\.0)\.|\bbuild[ ="':#.]{0,3}|\()(\d{4,5})\b`)
	// hostName is the machine's name behind words for it. A word alone, as
	// "machine", may tell something else of it, such as its processor: there
	// the name has a figure.
	hostName = lazy.MustCompile(`(?i)(?:\b(?:computer|host|machine)[ _-]?name|\brechnername|\bcomputername|\bnom de l.ordinateur)["']?\s*[:=]\s*["']?([A-Za-z0-9][\w-]{1,14})(?:["'\s,;})(]|$)`)
	// The word alone, with a sign of assignment behind it, at a line's start or
	// between fields: "Computer: PE-0417".
	hostWord = lazy.MustCompile(`(?i)(?:^|["'\s<,;{])(?:computer|machine|ordinateur|rechner|equipo|"?host"?)["']?\s*[:=>]\s*["']?([A-Za-z][A-Za-z0-9]*(?:-[A-Za-z0-9]+)*)(?:["'\s,;})(<]|$)`)
)

// zoneLines is how many lines are looked at for a zone: a log that writes one
// does so with its first stamps.
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
		} else if m := hostWord.FindSubmatch(line); m != nil && len(m[1]) <= maxHost &&
			bytes.ContainsAny(m[1], "0123456789") && !processors[string(bytes.ToLower(m[1]))] {
			src.Host = string(m[1])
		}
	}
	if src.Person == "" && couldNamePerson(line) {
		for _, m := range person.FindAllStringSubmatch(string(line), -1) {
			if name := cmp.Or(m[1:]...); len(name) > 2 && !nobody[strings.ToLower(name)] && src.Person == "" && !escaped.MatchString(name) {
				src.Person = name
			}
		}
	}
	if src.Zone == "" && n <= zoneLines {
		src.Zone = zoneIn(line[:min(len(line), longStamp)])
	}
}

// person is the name of whoever runs a setup: behind a word for it, or as the
// folder of their own.
var person = lazy.MustCompile(`(?i)\b(?:user|user ?name|log[io]n ?user|account|benutzer|utilisateur|usuario|utente)["']?\s*[:=]\s*["']?(?:[\w.-]+\\{1,2})?([\pL][\pL\d._-]{1,30})(?:["'\s,;})(@]|$)|` +
	`\b(?:started|run|running|launched|invoked|gestartet|lancé|iniciado|avviato) (?:as|by|von|par|por|da)(?: user)? (?:[\w.-]+\\{1,2})?([\pL][\pL\d._-]{1,30}(?: (?-i:\p{Lu})[\pL\d._-]{1,30})?)\b|` +
	`[\\/](?:users|documents and settings)[\\/]{1,2}([^\\/"'<>|:*?\r\n;,]{2,40})[\\/]`)

// escaped is a letter as JSON may write it: behind a stroke, as a user behind a
// domain.
var escaped = lazy.MustCompile(`^u[0-9a-f]{4}`)

// nobody are names of no person, in small letters.
var nobody = map[string]bool{"public": true, "default": true, "all users": true, "default user": true, "administrator": true, "system": true, "none": true,
	"local": true, "localservice": true, "networkservice": true, "unknown": true, "true": true, "false": true, "yes": true, "no": true, "the": true,
	"a": true, "an": true, "mode": true, "interface": true, "install": true, "all": true, "setup": true, "user": true, "admin": true, "service": true,
	"installer": true, "msiexec": true, "scheduler": true, "task": true, "agent": true, "process": true, "script": true, "policy": true, "design": true, "hand": true,
	"name": true, "id": true, "type": true, "level": true, "group": true, "key": true, "windows": true, "root": true, "guest": true, "current": true, "not": true}

var personWords = [][]byte{[]byte("ser"), []byte("SER"), []byte("ccount"), []byte(" by "), []byte("tilisateur"), []byte("suario"), []byte("tente"), []byte("gestartet"),
	[]byte("lanc"), []byte("iniciado"), []byte("avviato"), []byte(" as "), []byte("ettings")}

// couldNamePerson says whether a line has a word behind which people are named.
// It is asked of every line, so it looks for bytes and for no form.
func couldNamePerson(line []byte) bool {
	return slices.ContainsFunc(personWords, func(w []byte) bool { return bytes.Contains(line, w) })
}

// longStamp is where a stamp has ended that stands at the begin of a line, or
// in a record of fields, in bytes.
const longStamp = 400

// zoneIn is the zone behind the first date and time of a text that has one:
// 2026-05-05T09:12:01Z, 2026-05-05 09:12:01,250 +0200.
func zoneIn(s []byte) string {
	for i := len("2026-05-05T09"); i+6 <= len(s); i++ {
		if s[i] != ':' || s[i+3] != ':' || s[i-3] != 'T' && s[i-3] != ' ' || s[i-6] != '-' || s[i-9] != '-' ||
			!digits(s[i-13:i-9]) || !digits(s[i+4:i+6]) {
			continue
		}
		j := i + 6
		if j < len(s) && (s[j] == '.' || s[j] == ',') {
			for j++; j < len(s) && digits(s[j:j+1]); j++ {
			}
		}
		if j < len(s) && s[j] == ' ' {
			j++
		}
		switch {
		case j < len(s) && s[j] == 'Z' && (j+1 == len(s) || !letterOrDigit(s[j+1])):
			return "Z"
		case j+5 <= len(s) && (s[j] == '+' || s[j] == '-') && digits(s[j+1:j+3]):
			if end := j + 5; digits(s[j+3:end]) && (end == len(s) || !letterOrDigit(s[end])) {
				return string(s[j:end])
			}
			if end := j + 6; end <= len(s) && s[j+3] == ':' && digits(s[j+4:end]) && (end == len(s) || !letterOrDigit(s[end])) {
				return string(s[j:end])
			}
		}
	}
	return ""
}

// digits says whether all bytes are figures; so they are of an empty text.
func digits(s []byte) bool {
	for _, c := range s {
		if c < '0' || c > '9' {
			return false
		}
	}
	return true
}

// letterOrDigit says whether a byte can stand within a name.
func letterOrDigit(c byte) bool { return classes[c] == letter || classes[c]&digit != 0 }

// couldTellBuild says whether a line holds what no build is told without, which
// most lines lack: the expressions take ten times as long.
func couldTellBuild(line []byte) bool {
	if !slices.ContainsFunc(osWords, func(w []byte) bool { return bytes.Contains(line, w) }) {
		return false
	}
	if bytes.Contains(line, []byte("10.0.")) || bytes.Contains(line, []byte("uild ")) ||
		bytes.Contains(line, []byte("uild:")) || bytes.Contains(line, []byte("uild=")) || bytes.Contains(line, []byte(" 6.")) {
		return true
	}
	for i := 0; i+5 < len(line); i++ { // (19045
		if line[i] == '(' && line[i+1] >= '1' && line[i+1] <= '9' && line[i+2] >= '0' && line[i+2] <= '9' &&
			line[i+3] >= '0' && line[i+3] <= '9' && line[i+4] >= '0' && line[i+4] <= '9' {
			return true
		}
	}
	return false
}

// osWords are what the OS is called, without what may be a large letter.
var osWords = [][]byte{[]byte("indows"), []byte("icrosoft"), []byte("OS"), []byte("os "), []byte("os_"),
	[]byte("osV"), []byte("perating"), []byte("etriebssystem"), []byte("ystème"), []byte("istema")}

// hostWords begin what a machine's name stands behind, in letters of either
// case.
var hostWords = [][]byte{[]byte("omputer"), []byte("OMPUTER"), []byte("host"), []byte("Host"), []byte("HOST"),
	[]byte("achine"), []byte("ACHINE"), []byte("echner"), []byte("rdinateur"), []byte("quipo")}

// couldNameHost says whether a line has a word behind which a machine is named,
// and something assigned to it.
func couldNameHost(line []byte) bool {
	for _, w := range hostWords {
		for rest := line; ; {
			at := bytes.Index(rest, w)
			if at < 0 {
				break
			}
			if rest = rest[at+len(w):]; assigned(rest) {
				return true
			}
		}
	}
	return false
}

// assigned says whether what stands behind a word gives it a value: hostname":
// X, NAME = X.
func assigned(rest []byte) bool {
	rest = bytes.TrimLeft(rest, " _-")
	if len(rest) > 4 && bytes.EqualFold(rest[:4], []byte("name")) {
		rest = rest[4:]
	}
	rest = bytes.TrimLeft(rest, " \t\"'")
	return len(rest) > 0 && (rest[0] == ':' || rest[0] == '=' || rest[0] == '>')
}

// maxHost is the length of the longest name of a machine. Source: the platform
// SDK, "Computer Names", NetBIOS.
const maxHost = 15

var processors = map[string]bool{"x64": true, "x86": true, "amd64": true, "arm64": true, "i386": true, "ia64": true, "win32": true, "win64": true}

// isBuild says whether a number is the build of a Windows that packages run on.
// Source: the platform SDK, "Operating System Version".
func isBuild(text string) bool {
	n, err := strconv.Atoi(text)
	return err == nil && (n == 2600 || n == 3790 || n >= 6000 && n <= 6003 || n == 7600 || n == 7601 || n == 9200 ||
		n == 9600 || n >= 10240 && n < 40000)
}
