package verdict

import "testing"

// TestWhatWasDoneTellsWhy holds causes that what a setup did, and what came of
// it, tell without a word for them.
func TestWhatWasDoneTellsWhy(t *testing.T) {
	for name, c := range map[string]struct {
		class, subject string
		lines          []string
	}{
		"a runtime that was missing is put in, and that fails": {"component-store", "NetFx3", []string{"INFO  check: .NET Framework 3.5 is missing",
			"INFO  enabling feature NetFx3", "INFO  dism /online /enable-feature /featurename:NetFx3 /all", "ERROR dism: error 0x800f081f", "INFO  setup ends, exit code 14"}},
		"a runtime that was missing, and no more": {"prerequisite", "", []string{"ERROR check: .NET Framework 3.5 is missing", "INFO  setup ends, exit code 14"}},
		"a program that has a file open": {"in-use", "", []string{"WARN  move did not succeed, trying again 1/2", "WARN  move did not succeed, trying again 2/2",
			`DEBUG open handles: PID 7712 tbindex.exe C:\Program Files\Tidebook\db\tides.ndx`, "ERROR cannot upgrade", "INFO  setup ends, exit code 3"}},
		"an option taken for a value": {"command-line", "port", []string{"INFO  argv[1] = --port", "INFO  argv[2] = --data=E:\\lic", "INFO  port        : --data=E:\\lic", "INFO  data folder : (default) C:\\ProgramData\\Kelp",
			"ERROR bind: not a number", "INFO  setup ends, exit code 22"}},
		"a folder on a server that is gone": {"network", "", []string{`INFO  data folder: \\srv02\users\jl\Kelp`, "INFO  creating data folder",
			"WARN  create folder: 53", "ERROR setup cannot go on", "INFO  setup ends, exit code 6"}},
		"a package on a server that is gone": {"source", "", []string{`INFO  package: \\srv02\inst\kelp.msi`, "WARN  opening package: error 53", "ERROR setup cannot go on",
			"INFO  setup ends, exit code 6"}},
		"two sums in two lines": {"corrupt", "", []string{"DEBUG computed sha256=9c1f2d07e4", "DEBUG listed sha256=e0b77a51c3", "WARN  starting over",
			"ERROR no usable charts after 2 rounds", "INFO  setup ends, exit code 9"}},
		"one sum in two lines": {"unknown", "", []string{"DEBUG computed sha256=9c1f2d07e4", "DEBUG listed sha256=9c1f2d07e4", "WARN  starting over",
			"ERROR no usable charts after 2 rounds", "INFO  setup ends, exit code 9"}},
		"options that are no values":  {"unknown", "", []string{"INFO  mode: --quiet", "INFO  site: /silent=1", "ERROR it did not work out", "INFO  setup ends, exit code 9"}},
		"handles of the setup itself": {"unknown", "", []string{"INFO  memory: pid 881 lsass.exe", "ERROR it did not work out", "INFO  setup ends, exit code 9"}},
		"a cached sum of another file": {"unknown", "", []string{"DEBUG computed sha256 9c1f2d07e4aa", "DEBUG in the index sha256 e0b77a51c3bb for old.cab",
			"ERROR it did not work out", "INFO  setup ends, exit code 9"}},
		"two files' sums": {"unknown", "", []string{"DEBUG a.cab: sha256=9c1f2d07e4", "DEBUG listed for b.cab: sha256=e0b77a51c3", "WARN  starting over",
			"ERROR no usable charts after 2 rounds", "INFO  setup ends, exit code 9"}},
	} {
		v := reached(t, timed(append([]string{"INFO  setup of Kelp Chart 4.1 begins", "INFO  unpacked 212 files"}, c.lines...)...))
		if classOf(v) != c.class {
			t.Errorf("%s: told as %s, want %s", name, classOf(v), c.class)
		}
		if s := v.Cause.Subject; c.subject != "" && (s == nil || s.Name != c.subject) {
			t.Errorf("%s: about %v, want %s", name, s, c.subject)
		}
	}
}
