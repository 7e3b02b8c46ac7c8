// This file reads messages of a log server's protocol.

package generic

import (
	"bytes"
	"strconv"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/story"
)

// syslogHead is the head of a message as the system logger's protocol has it: a
// priority, a version, the time, host, program, process, kind of message and
// structured data. Source: RFC 5424, section 6.
var syslogHead = lazy.MustCompile(`^<(\d{1,3})>\d (\S+) \S+ (\S+) \S+ \S+ (-|(?:\[(?:[^\]\\]|\\.)*\])+)(?: |$)`)

// severities are the kinds of entries by a priority's last three bits. Source:
// RFC 5424, section 6.2.1.
var severities = [8]story.Kind{story.KindError, story.KindError, story.KindError, story.KindError, story.KindWarning, story.KindInfo,
	story.KindInfo, story.KindText}

// syslog reads messages of that protocol, when lines are such.
func syslog(lines [][]byte) form {
	read, all := 0, 0
	for _, l := range lines {
		if len(bytes.TrimSpace(l)) > 0 {
			if all++; len(l) > 0 && l[0] == '<' && syslogHead.Match(l) {
				read++
			}
		}
	}
	if read < 2 || read*2 < all {
		return nil
	}
	return syslogEntry
}

// syslogEntry reads a line of a log server: the number in brackets tells
// severity and sender, then time, machine and program.
func syslogEntry(line []byte) (e entry, ok bool) {
	if len(line) == 0 || line[0] != '<' {
		return e, false
	}
	m := syslogHead.FindSubmatch(line)
	if m == nil {
		return e, false
	}
	priority, err := strconv.Atoi(string(m[1]))
	if err != nil {
		return e, false
	}
	date, at, n := peel.Stamp(m[2])
	if n == 0 {
		at = -1
	}
	e = entry{date: date, at: at, kind: severities[priority%len(severities)], level: true, text: strings.TrimSpace(string(line[len(m[0]):]))}
	if app := string(m[3]); app != "-" {
		e.source = app
	}
	return e, e.text != ""
}
