package verdict

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"hollowkey/core/logs/story"
)

// firstLineAt is when the first line of each layout was written.
var firstLineAt = time.Date(2026, 5, 4, 9, 12, 0, 0, time.UTC)

// stampsOf are ways of writing the time; the first is none.
var stampsOf = map[string]func(time.Duration) string{
	"none":   func(time.Duration) string { return "" },
	"iso":    func(d time.Duration) string { return firstLineAt.Add(d).Format("2006-01-02 15:04:05") },
	"isoT":   func(d time.Duration) string { return firstLineAt.Add(d).Format("2006-01-02T15:04:05.000Z") },
	"zone":   func(d time.Duration) string { return firstLineAt.Add(d).Format("2006-01-02T15:04:05+02:00") },
	"points": func(d time.Duration) string { return firstLineAt.Add(d).Format("02.01.2006 15:04:05") },
	"am":     func(d time.Duration) string { return firstLineAt.Add(d).Format("1/2/2006 3:04:05 PM") },
	"clock":  func(d time.Duration) string { return firstLineAt.Add(d).Format("15:04:05") },
	"comma": func(d time.Duration) string {
		return strings.Replace(firstLineAt.Add(d).Format("15:04:05.000"), ".", ",", 1)
	},
	"compact": func(d time.Duration) string { return firstLineAt.Add(d).Format("20060102-150405") },
	"syslog":  func(d time.Duration) string { return firstLineAt.Add(d).Format("Jan _2 15:04:05") },
	"ctime":   func(d time.Duration) string { return firstLineAt.Add(d).Format("Mon Jan 02 15:04:05 2006") },
	"month":   func(d time.Duration) string { return firstLineAt.Add(d).Format("02-Jan-2006 15:04:05") },
	"signs":   func(d time.Duration) string { return firstLineAt.Add(d).Format("2006年01月02日 15時04分05秒") },
	"mail":    func(d time.Duration) string { return firstLineAt.Add(d).Format("Mon, 02 Jan 2006 15:04:05 GMT") },
	"epoch":   func(d time.Duration) string { return fmt.Sprintf("%.3f", float64(firstLineAt.Add(d).UnixMilli())/1000) },
	"seconds": func(d time.Duration) string { return fmt.Sprintf("%8.3f", d.Seconds()) },
	"millis":  func(d time.Duration) string { return fmt.Sprintf("[%6d ms]", d.Milliseconds()) },
	"since":   func(d time.Duration) string { return fmt.Sprintf("+00:%06.3f", d.Seconds()) },
}

// levelsOf are ways of writing how grave a line is: of info, warning, error and
// debug.
var levelsOf = map[string][4]string{
	"words": {"INFO", "WARN", "ERROR", "DEBUG"}, "wide": {"INFO ", "WARN ", "ERROR", "DEBUG"}, "brackets": {"[INFO]", "[WARN]", "[ERROR]", "[DEBUG]"},
	"letters": {"I", "W", "E", "D"}, "small": {"info", "warning", "error", "debug"}, "colons": {"Info:", "Warning:", "Error:", "Debug:"},
	"long": {"Information", "Warning", "Error", "Verbose"}, "short": {"INF", "WRN", "ERR", "DBG"}, "figures": {"3", "2", "1", "4"}, "no": {"", "", "", ""},
}

// ordersOf are the places of stamp, level, part and words.
var ordersOf = map[string]func(s, l, part, m string) string{
	"blanks":   func(s, l, _, m string) string { return s + " " + l + " " + m },
	"level":    func(s, l, _, m string) string { return l + " " + s + " " + m },
	"thread":   func(s, l, _, m string) string { return s + " [4312] " + l + " " + m },
	"dash":     func(s, l, part, m string) string { return s + " " + l + " " + part + " - " + m },
	"tabs":     func(s, l, part, m string) string { return s + "\t" + l + "\t" + part + "\t" + m },
	"bars":     func(s, l, part, m string) string { return s + " | " + l + " | " + part + " | " + m },
	"bar":      func(s, l, _, m string) string { return s + "|" + l + "|" + m },
	"cells":    func(s, l, part, m string) string { return s + ";" + l + ";" + part + ";" + m },
	"quoted":   func(s, l, part, m string) string { return `"` + s + `","` + l + `","` + part + `","` + m + `"` },
	"bracket":  func(s, l, _, m string) string { return "[" + s + "] " + l + " " + m },
	"behind":   func(s, l, _, m string) string { return s + " " + m + " [" + strings.TrimSpace(l) + "]" },
	"elements": func(s, l, _, m string) string { return `<e t="` + s + `" l="` + l + `"><![CDATA[` + m + `]]></e>` },
	"pairs": func(s, l, part, m string) string {
		return fmt.Sprintf("ts=%q level=%s logger=%s msg=%q", s, strings.TrimSpace(l), part, m)
	},
	"objects": func(s, l, part, m string) string {
		b, _ := json.Marshal(map[string]string{"ts": s, "lvl": strings.TrimSpace(l), "mod": part, "msg": m})
		return string(b)
	},
}

// One failure is read in each of them: stamp, level and order of the columns
// are learned, and known from no list.
func TestLayouts(t *testing.T) {
	body := strings.Split("I Kelp Chart 3.1 setup started\nI copied tide1.dll (40112 bytes)\nI checked block 4\nI component mead2 up to date\nI opened page 7\n"+
		"I progress 12 %\nI copied tide8.dll (9121 bytes)\nI component mead6 up to date\nI checked block 40\nI copied tide22.dll (70410 bytes)\nI progress 61 %\n"+
		"I opened page 9\nI step CreateFolders\nE cannot create D:\\Kelp\\data: access is denied\nI progress 61 %\nE service KelpSync does not exist\n"+
		"E setup failed, exit code 5", "\n")
	n := 0
	for stamp, stamped := range stampsOf {
		for level, levels := range levelsOf {
			for order, ordered := range ordersOf {
				// Nothing is left of the columns, or it is a name without a
				// value behind one in brackets and quotation marks.
				if level == "no" && (stamp == "none" && order != "blanks" || stamp == "millis" && order == "pairs") {
					continue
				}
				var log strings.Builder
				for i, line := range body {
					s := stamped(time.Duration(i) * 777 * time.Millisecond)
					l := levels[strings.IndexByte("IWED", line[0])]
					log.WriteString(strings.TrimRight(ordered(s, l, []string{"core", "files", "net"}[i%3], line[2:]), " ") + "\n")
				}
				n++
				v := reached(t, log.String())
				name := stamp + " " + level + " " + order
				switch {
				case v.Outcome != story.Failed || v.ExitCode == nil || *v.ExitCode != 5:
					t.Errorf("%s: outcome %s, exit code %v", name, v.Outcome, v.ExitCode)
				case v.Cause.Class == nil || *v.Cause.Class != "permission" || v.Cause.Subject == nil || v.Cause.Subject.Name != `D:\Kelp\data`:
					t.Errorf("%s: %v about %v", name, *v.Cause.Class, v.Cause.Subject)
				case v.BrokeAt.Line == nil || *v.BrokeAt.Line != 14 || v.BrokeAt.Action == nil || *v.BrokeAt.Action != "CreateFolders":
					t.Errorf("%s: broke at %v", name, v.BrokeAt)
				}
			}
		}
	}
	if n < 2000 {
		t.Errorf("%d layouts", n)
	}
}
