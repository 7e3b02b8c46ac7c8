package verdict

import (
	"encoding/json"
	"encoding/xml"
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"
)

// A value is a name and a value of a record.
type value struct{ name, value string }

// A record is a line of a log that tells more in values of their own than in
// its words.
type record struct {
	level, text string
	more        []value
}

// recordedFailures are failures whose cause stands in such values alone.
var recordedFailures = []struct {
	class, subject string
	failure        record
}{
	{"in-use", `kelp.exe`, record{"error", "replace file", []value{{"path", `C:\Kelp\kelp.exe`}, {"err", "32"}}}},
	{"space", `kelp.pak`, record{"error", "write file", []value{{"file", "kelp.pak"}, {"ErrorCode", "112"}}}},
	{"service", `KelpSvc`, record{"error", "start service", []value{{"service", "KelpSvc"}, {"win32", "1069"}}}},
	{"permission", `HKLM\SOFTWARE\Kelp`, record{"error", "create key", []value{{"key", `HKLM\SOFTWARE\Kelp`}, {"os_error", "5"}}}},
	{"network", `dl.kelp.example`, record{"error", "get manifest", []value{{"url", "https://dl.kelp.example/m.json"}, {"code", "407"}}}},
	{"network", `dl.kelp.example`, record{"error", "get manifest", []value{{"host", "dl.kelp.example"}, {"reason", "name could not be resolved"}}}},
	{"corrupt", `core.cab`, record{"error", "verify", []value{{"file", "core.cab"}, {"expected", "9c1f2d07e4a8"}, {"actual", "e0b77a51c3d2"}}}},
	{"prerequisite", `.NET Desktop Runtime`, record{"error", "check runtime",
		[]value{{"component", ".NET Desktop Runtime"}, {"required", "8.0.0"}, {"found", "6.0.31"}}}},
	{"space", `C:`, record{"error", "check disk", []value{{"drive", "C:"}, {"required", "4.2 GB"}, {"available", "1.1 GB"}}}},
	{"security-software", `kelp.exe`, record{"error", "launch", []value{{"exe", `C:\Kelp\kelp.exe`}, {"lastError", "225"}}}},
	{"source", `srv01`, record{"error", "copy", []value{{"src", `\\srv01\inst\kelp.cab`}, {"result", "53"}}}},
	{"command-line", `/fooo`, record{"error", "parse arguments", []value{{"arg", "/fooo"}, {"details", "unknown option"}}}},
}

// recordLayouts are ways of writing records, one line or several each.
var recordLayouts = map[string]func([]record) string{
	"objects": func(rs []record) string {
		return eachRecord(rs, func(at string, r record) string {
			return asJSON(slices.Concat([]value{{"ts", at}, {"lvl", r.level}, {"msg", r.text}}, r.more)) + "\n"
		})
	},
	"objects within": func(rs []record) string {
		return eachRecord(rs, func(at string, r record) string {
			head := strings.TrimSuffix(asJSON([]value{{"time", at}, {"level", r.level}, {"message", r.text}}), "}")
			return head + `,"data":` + asJSON(r.more) + "}\n"
		})
	},
	"a document": func(rs []record) string {
		lines := strings.Split(strings.TrimSpace(eachRecord(rs, func(at string, r record) string {
			return asJSON(slices.Concat([]value{{"time", at}, {"level", r.level}, {"message", r.text}}, r.more)) + "\n"
		})), "\n")
		return "[\n" + strings.Join(lines, ",\n") + "\n]\n"
	},
	"pairs": func(rs []record) string {
		return eachRecord(rs, func(at string, r record) string {
			return fmt.Sprintf("time=%s level=%s msg=%q%s\n", at, r.level, r.text, joined(r.more, " %s=%q"))
		})
	},
	"bars": func(rs []record) string {
		return eachRecord(rs, func(at string, r record) string {
			return fmt.Sprintf("%s | %-5s | %s%s\n", at, strings.ToUpper(r.level), r.text, joined(r.more, " | %s=%s"))
		})
	},
	"braces": func(rs []record) string {
		return eachRecord(rs, func(at string, r record) string {
			return fmt.Sprintf("%s %s %s %s\n", at, strings.ToUpper(r.level), r.text, asJSON(r.more))
		})
	},
	"attributes": func(rs []record) string {
		return "<log>\n" + eachRecord(rs, func(at string, r record) string {
			return fmt.Sprintf("<entry time=\"%s\" level=\"%s\" msg=\"%s\"%s/>\n", at, r.level, r.text, joined(r.more, ` %s="%s"`))
		}) + "</log>\n"
	},
	"elements": func(rs []record) string {
		return "<log>\n" + eachRecord(rs, func(at string, r record) string {
			return fmt.Sprintf("<entry><time>%s</time><level>%s</level><message>%s</message>%s</entry>\n", at, r.level, r.text, asElements(r.more, ""))
		}) + "</log>\n"
	},
	"elements on lines": func(rs []record) string {
		return "<log>\n" + eachRecord(rs, func(at string, r record) string {
			return fmt.Sprintf("  <entry>\n    <time>%s</time>\n    <level>%s</level>\n    <message>%s</message>\n%s  </entry>\n", at, r.level, r.text,
				asElements(r.more, "\n"))
		}) + "</log>\n"
	},
	"a list": func(rs []record) string {
		return eachRecord(rs, func(at string, r record) string {
			return fmt.Sprintf("- time: %s\n  level: %s\n  message: %s\n%s", at, r.level, r.text, joined(r.more, "  %s: %s\n"))
		})
	},
	"below": func(rs []record) string {
		return eachRecord(rs, func(at string, r record) string {
			return fmt.Sprintf("%s %s %s\n%s", at, strings.ToUpper(r.level), r.text, joined(r.more, "    %s: %s\n"))
		})
	},
	"a cell": func(rs []record) string {
		return "time,level,message,context\n" + eachRecord(rs, func(at string, r record) string {
			return fmt.Sprintf("%s,%s,%s,\"%s\"\n", at, r.level, r.text, strings.TrimPrefix(joined(r.more, "; %s=%s"), "; "))
		})
	},
}

func eachRecord(rs []record, write func(at string, r record) string) string {
	var b strings.Builder
	for i, r := range rs {
		b.WriteString(write(fmt.Sprintf("2026-02-11T22:14:%02dZ", i), r))
	}
	return b.String()
}

func joined(more []value, form string) string {
	var b strings.Builder
	for _, v := range more {
		fmt.Fprintf(&b, form, v.name, v.value)
	}
	return b.String()
}

func asElements(more []value, end string) string {
	var b strings.Builder
	for _, v := range more {
		var text strings.Builder
		_ = xml.EscapeText(&text, []byte(v.value))
		fmt.Fprintf(&b, "<%s>%s</%s>%s", v.name, text.String(), v.name, end)
	}
	return b.String()
}

// asJSON writes an object in the order of its values, numbers as such.
func asJSON(vs []value) string {
	var parts []string
	for _, v := range vs {
		text, _ := json.Marshal(v.value)
		if strings.Trim(v.value, "0123456789") == "" {
			text = []byte(v.value)
		}
		parts = append(parts, fmt.Sprintf("%q:%s", v.name, text))
	}
	return "{" + strings.Join(parts, ",") + "}"
}

// TestRecordsTellInTheirValues holds the class, the subject and the exit code
// of failures that only values of records tell.
func TestRecordsTellInTheirValues(t *testing.T) {
	for _, layout := range slices.Sorted(maps.Keys(recordLayouts)) {
		for _, f := range recordedFailures {
			log := recordLayouts[layout]([]record{
				{"info", "kelp agent 9.4.0 install start", []value{{"user", "SYSTEM"}}},
				{"info", "unpack payload", []value{{"files", "311"}}},
				f.failure,
				{"info", "rollback", nil},
				{"info", "setup ended", []value{{"exit_code", "31"}}},
			})
			v := reached(t, log)
			if v.Cause.Class == nil || *v.Cause.Class != f.class {
				t.Errorf("%s: %s %v is told as %s, want %s", layout, f.failure.text, f.failure.more, classOf(v), f.class)
				continue
			}
			if s := v.Cause.Subject; s == nil || !strings.Contains(s.Name, f.subject) {
				t.Errorf("%s: %s %v is about %v, want %s", layout, f.failure.text, f.failure.more, s, f.subject)
			}
			if v.ExitCode == nil || *v.ExitCode != 31 {
				t.Errorf("%s: %s: no exit code", layout, f.failure.text)
			}
		}
	}
}

// TestGoodRecordsAreNoFailures holds that a run whose last record tells that it
// went well is believed, whatever failed on the way.
func TestGoodRecordsAreNoFailures(t *testing.T) {
	for _, layout := range slices.Sorted(maps.Keys(recordLayouts)) {
		for name, last := range map[string]record{
			"a code":                {"info", "install complete", []value{{"code", "0"}, {"duration", "41"}}},
			"a restart":             {"info", "installation succeeded", []value{{"exit_code", "3010"}}},
			"two counts":            {"info", "installed", []value{{"count", "31"}, {"failed", "0"}}},
			"an error that is none": {"info", "setup finished", []value{{"error", "The operation completed successfully."}}},
			"a reason":              {"info", "setup finished", []value{{"status", "success"}, {"reason", "restart not needed"}}},
			"what was left out":     {"info", "setup finished", []value{{"details", "2 optional items were not selected"}}},
			"a count of none":       {"info", "setup finished", []value{{"failed_count", "0"}, {"retcode", "0"}}},
		} {
			rs := []record{{"info", "kelp agent 9.4.0 install start", nil}, {"info", "copied", []value{{"files", "311"}}}, last}
			if name == "a code" {
				rs = slices.Insert(rs, 1, record{"error", "service did not stop", []value{{"service", "KelpSvc"}, {"err", "1053"}}})
			}
			if v := reached(t, recordLayouts[layout](rs)); !v.Worked() {
				t.Errorf("%s, %s: %s", layout, name, v.Outcome)
			}
		}
	}
}

// TestRecordsThatFailAreNotGood holds that values which tell a failure outweigh
// words that tell an end.
func TestRecordsThatFailAreNotGood(t *testing.T) {
	for _, layout := range slices.Sorted(maps.Keys(recordLayouts)) {
		for _, last := range []record{
			{"info", "setup finished", []value{{"status", "error"}, {"result_code", "31"}}},
			{"info", "install complete", []value{{"exit_code", "31"}}},
			{"info", "finished", []value{{"success", "false"}}}, {"info", "setup finished", []value{{"ok", "false"}}},
			{"info", "done", []value{{"failed", "3"}}}, {"info", "deployment completed", []value{{"errors", "2"}}},
			{"info", "installation complete", []value{{"state", "Faulted"}}}, {"info", "finished", []value{{"outcome", "rolledback"}}},
			{"info", "setup finished", []value{{"result", "E_FAIL"}}}, {"info", "install complete", []value{{"error", "disk full"}}},
			{"info", "deployment completed", []value{{"exception", "IOException"}}}, {"info", "finished", []value{{"installed", "false"}}},
			{"info", "installation complete", []value{{"status", "completed with errors"}}}, {"info", "done", []value{{"reason", "access denied"}}},
		} {
			v := reached(t, recordLayouts[layout]([]record{{"info", "kelp agent 9.4.0 install start", nil}, {"info", "unpacking the package", []value{{"files", "311"}}}, last}))
			if v.Worked() {
				t.Errorf("%s, %s %v: %s", layout, last.text, last.more, v.Outcome)
			}
		}
	}
}

// TestLastRecordsTellTheExitCode holds the names under which records tell it,
// and that a count or another program's number is none.
func TestLastRecordsTellTheExitCode(t *testing.T) {
	code := func(text, name, number string) *int {
		return reached(t, recordLayouts["objects"]([]record{
			{"info", "kelp agent 9.4.0 install start", nil}, {"info", "unpack payload", nil},
			{"error", "replace file", []value{{"path", `C:\Kelp\kelp.exe`}, {"err", "32"}}},
			{"info", text, []value{{"status", "failed"}, {name, number}}},
		})).ExitCode
	}
	for _, text := range []string{"end", "setup finished", "stopped", "installer exiting", "process end", "leaving"} {
		for _, name := range []string{"code", "rc", "exitCode", "exit_code", "result", "resultCode", "ret", "returncode", "errorlevel", "final"} {
			if got := code(text, name, "31"); got == nil || *got != 31 {
				t.Errorf("%s, %s=31: the exit code is not told", text, name)
			}
		}
	}
	for _, x := range []value{{"leaving", "files"}, {"setup finished", "seconds"}, {"copied the last part", "result"}, {"upload of the log", "status_code"}} {
		if got := code(x.name, x.value, "31"); got != nil {
			t.Errorf("%s, %s=31 is told as exit code %d", x.name, x.value, *got)
		}
	}
}

func classOf(v *Verdict) string {
	if v.Cause.Class == nil {
		return "nothing"
	}
	return *v.Cause.Class
}
