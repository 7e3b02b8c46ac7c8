package verdict

import (
	_ "embed"
	"fmt"
	"strconv"
	"strings"
	"testing"
)

//go:embed testdata/steps.txt
var stepsText string

// Whatever the form in which a setup tells its steps, the one under way is what
// was done when it broke.
func TestStepsInForms(t *testing.T) {
	names := [][]string{{"prepare", "unpackFiles", "copyFiles", "registerServices"}, {"Prepare target", "Unpack files", "Copy files", "Register services"}}
	forms := 0
	for row := range strings.Lines(stepsText) {
		parts := strings.Split(strings.TrimRight(row, "\n"), " | ")
		if len(parts) != 3 {
			continue
		}
		forms++
		for _, names := range names {
			for _, levels := range []bool{true, false} {
				log := stepsLog(parts, names, levels)
				got, want := strings.ToLower(deref(reached(t, log).BrokeAt.Action)), strings.ToLower(names[3])
				if got == "" || !strings.Contains(got, want) && !strings.Contains(want, got) {
					t.Errorf("%q: %q broke, want %q\n%s", row, got, want, log)
				}
			}
		}
	}
	if forms < 70 {
		t.Errorf("%d forms", forms)
	}
}

func deref(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

// stepsLog is a log of four steps in a form, in the last of which it broke.
func stepsLog(form, names []string, levels bool) string {
	var b strings.Builder
	n := 0
	put := func(level, form string, step int) {
		if form == "-" {
			return
		}
		text := strings.NewReplacer("NAME", names[step], "#", strconv.Itoa(step+1), `\t`, "\t").Replace(form)
		for line := range strings.SplitSeq(text, `\n`) {
			if levels {
				line = fmt.Sprintf("%-5s %s", level, line)
			}
			fmt.Fprintf(&b, "2026-03-03 09:00:%02d %s\n", n, line)
			n++
		}
	}
	put("INFO", "Kelp 3.1 setup starts", 0)
	put("INFO", "reading manifest kelp.json", 0)
	for i := range names {
		put("INFO", form[0], i)
		if i < len(names)-1 {
			put("INFO", "wrote 14 entries", i)
			put("INFO", form[1], i)
			continue
		}
		put("ERROR", `cannot create C:\ProgramData\Kelp\reg.dat: access is denied (5)`, i)
		put("ERROR", form[2], i)
	}
	put("INFO", "rolling back", 0)
	put("ERROR", "setup failed, exit code 12", 0)
	return b.String()
}

// Lines of lists are no steps, though names change in them as in those.
func TestListsAreNoSteps(t *testing.T) {
	log := "09:00:01 Kelp 3.1 setup starts\n09:00:02 copied alpha.dll\n09:00:02 copied bravo.dll\n09:00:02 linked alpha\n09:00:02 copied delta.dll\n" +
		"09:00:03 value help = 4\n09:00:03 value core = 19\n09:00:03 linked bravo\n09:00:03 value maps = 3\n09:00:04 linked delta\n09:00:04 linked echo\n" +
		"09:00:05 ERROR cannot create C:\\ProgramData\\Kelp\\reg.dat: access is denied (5)\n09:00:06 ERROR setup failed\n"
	if got := deref(reached(t, log).BrokeAt.Action); got != "" {
		t.Errorf("%q is told as what was done", got)
	}
}
