package cli

import "testing"

// What is printed for a shell arrives in the program as it was, whichever shell that is.
func TestQuotes(t *testing.T) {
	for _, tt := range []struct{ text, sh, prompt, old, open string }{
		{`C:\Deploy\quay.msi`, `C:\Deploy\quay.msi`, `C:\Deploy\quay.msi`, `C:\Deploy\quay.msi`, `C:\Deploy\quay.msi`},
		{``, `''`, `""`, `''`, `''`},
		{`Port Ellery`, `'Port Ellery'`, `"Port Ellery"`, `'Port Ellery'`, `'Port Ellery'`},
		{`C:\Port Ellery\`, `'C:\Port Ellery\'`, `"C:\Port Ellery\\"`, `'C:\Port Ellery\\'`, `'C:\Port Ellery\'`},
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
