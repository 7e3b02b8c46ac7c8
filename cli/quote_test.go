package cli

import (
	"math/rand"
	"strings"
	"testing"
)

// What is printed for a shell arrives in the program as it was, whichever shell
// that is.
func TestQuotes(t *testing.T) {
	for _, tt := range []struct{ text, sh, prompt, old, open string }{
		{`C:\Deploy\quay.msi`, `C:\Deploy\quay.msi`, `C:\Deploy\quay.msi`, `C:\Deploy\quay.msi`, `C:\Deploy\quay.msi`},
		{``, `''`, `""`, `'""'`, `''`},
		{`Port Ellery`, `'Port Ellery'`, `"Port Ellery"`, `'Port Ellery'`, `'Port Ellery'`},
		{`C:\Port Ellery\`, `'C:\Port Ellery\'`, `"C:\Port Ellery\\"`, `'C:\Port Ellery\\'`, `'C:\Port Ellery\'`},
		{`C:\Ports,old\`, `C:\Ports,old\`, `"C:\Ports,old\\"`, `'C:\Ports,old\'`, `'C:\Ports,old\'`},
		{`it's`, `'it'\''s'`, `"it's"`, `'it''s'`, `'it''s'`},
		{`the ‘old’ one`, `'the ‘old’ one'`, `"the ‘old’ one"`, `'the ‘‘old’’ one'`, `'the ‘‘old’’ one'`},
		{`Sequence,RunCharts`, `Sequence,RunCharts`, `"Sequence,RunCharts"`, `'Sequence,RunCharts'`, `'Sequence,RunCharts'`},
		{`@list`, `@list`, `"@list"`, `'@list'`, `'@list'`},
		{`$HOME`, `'$HOME'`, `"$HOME"`, `'$HOME'`, `'$HOME'`},
		{`CHARTS >= "3"`, `'CHARTS >= "3"'`, `"CHARTS >= \"3\""`, `'CHARTS >= \"3\"'`, `'CHARTS >= "3"'`},
		{`a\"b`, `'a\"b'`, `"a\\\"b"`, `'a\\\"b'`, `'a\"b'`},
	} {
		for sh, want := range map[shell]string{posix: tt.sh, commandPrompt: tt.prompt, oldPowerShell: tt.old, openPowerShell: tt.open} {
			if got := quoteFor(sh, tt.text); got != want {
				t.Errorf("%q in shell %d: %s, want %s", tt.text, sh, got, want)
			}
		}
	}
}

// handedOn is the command line that PowerShell gives a program for one argument
// as it is printed: it reads the string, and puts it into quotation marks where
// it holds a blank, without another look at what is inside; the later one puts
// backslashes there itself. Source: the language's specification, 2.3.5.2, and
// its manual on native commands.
func handedOn(sh shell, printed string) string {
	in := printed
	if strings.HasPrefix(in, "'") {
		in = strings.TrimSuffix(strings.TrimPrefix(in, "'"), "'")
		for _, mark := range []string{"'", "‘", "’", "‚", "‛"} {
			in = strings.ReplaceAll(in, mark+mark, mark)
		}
	}
	switch {
	case sh == openPowerShell && (in == "" || strings.ContainsAny(in, " \t\"")):
		return `"` + backslashed(in, true) + `"`
	case sh == oldPowerShell && blankOutside(in):
		return `"` + in + `"`
	}
	return in
}

// blankOutside says whether a blank stands behind no mark of quotation, or an
// even number of them.
func blankOutside(s string) bool {
	marks := 0
	for _, c := range s {
		if c == '"' {
			marks++
		} else if (c == ' ' || c == '\t') && marks%2 == 0 {
			return true
		}
	}
	return false
}

// received is the argument that a program reads from its command line. Source:
// the C runtime's rules.
func received(line string) (arg string, one bool) {
	var b strings.Builder
	quoted, strokes := false, 0
	for i := range len(line) {
		switch c := line[i]; {
		case c == '\\':
			strokes++
			continue
		case c == '"' && strokes%2 == 1:
			b.WriteString(strings.Repeat(`\`, strokes/2) + `"`)
		case c == '"':
			b.WriteString(strings.Repeat(`\`, strokes/2))
			quoted = !quoted
		case (c == ' ' || c == '\t') && !quoted:
			return "", false
		default:
			b.WriteString(strings.Repeat(`\`, strokes))
			b.WriteByte(c)
		}
		strokes = 0
	}
	return b.String() + strings.Repeat(`\`, strokes), line != "" && !quoted
}

// Whatever an argument holds, it arrives as it was. What is doubled stands for
// one of its kind, so that two such marks in a row cannot be told from one here
// and are left out.
func TestQuotesArrive(t *testing.T) {
	random := rand.New(rand.NewSource(1))
	pieces := []string{"a", "Quay", `C:\`, `\`, `\\`, " ", "%", "&", "|", "<", ">", "(", ")", "=", ",", ";", "'", "`", "$x", "@y", "ä", "港", "#", "‘", `"`, "{", "}"}
	for range 20_000 {
		text := ""
		for range 1 + random.Intn(6) {
			text += pieces[random.Intn(len(pieces))]
		}
		if strings.Contains(text, "''") || strings.Contains(text, "‘‘") {
			continue
		}
		for _, sh := range []shell{oldPowerShell, openPowerShell} {
			if sh == oldPowerShell && strings.Contains(text, " ") && !blankOutside(text) {
				continue // that one can hand no such argument on, however it is written
			}
			printed := quoteFor(sh, text)
			if got, one := received(handedOn(sh, printed)); !one || got != text {
				t.Fatalf("%q is printed as %s in shell %d and arrives as %q", text, printed, sh, got)
			}
		}
		if got, one := received(quoteFor(commandPrompt, text)); !one || got != text {
			t.Fatalf("%q arrives as %q", text, got)
		}
	}
}
