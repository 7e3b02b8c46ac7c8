package evidence

import "testing"

// What is and what has to be are compared where a line holds both; the same
// words about what is well say nothing.
func TestSidesOfALine(t *testing.T) {
	for line, want := range map[string]string{
		"domain joined: no (required: yes)":                            "condition domain joined",
		"virtualization = disabled, must be enabled":                   "condition virtualization",
		"secure boot: off, expected: on":                               "condition secure boot",
		"admin console is disabled (expected: disabled)":               "",
		"kelpcore.dll is a 32-bit image, loader is 64-bit":             "platform kelpcore.dll",
		"the plug-in is 64-bit, the office is 32-bit":                  "platform plug-in",
		"setup.exe is 32-bit, os is 64-bit":                            "",
		"main window is 64-bit, helper is 32-bit":                      "",
		"size of index 104857, header 88123":                           "",
		"feed.kelp.example resolved to 127.0.0.1":                      "network feed.kelp.example",
		"localhost resolved to 127.0.0.1":                              "",
		"client: 32-bit, server: 32-bit":                               "",
		"3 of 4 volumes found":                                         "source ",
		"9 of 12 cabinets are present":                                 "source ",
		"4 of 4 volumes found":                                         "",
		"10 of 9 parts found":                                          "",
		"3 of 4 files copied":                                          "",
		"base.pkg: size on disk 1048576, size in manifest 4194304":     "corrupt ",
		"index declares 88123 bytes, payload has 88120 bytes":          "corrupt ",
		"manifest size 88123 bytes, compressed 41200 bytes":            "",
		"resuming at 88123 bytes, manifest says 441200":                "",
		"manifest: 88123 bytes, file: 88123 bytes":                     "",
		"quota of mwhitlow: 500 mb, used 499 mb":                       "space ",
		"quota: 2 gb, 2 gb in use":                                     "space ",
		"quota of mwhitlow: 500 mb, used 120 mb":                       "",
		"quota raised from 500 mb to 800 mb":                           "",
		`loadlibrary(kelpodbc.dll) = null, 126`:                        "prerequisite kelpodbc.dll",
		`loadlibraryexw("c:\kelp\a.dll", 0, 8) failed, gle=0x0000007e`: `prerequisite c:\kelp\a.dll`,
		`loadlibrary(kelpodbc.dll): error 193`:                         "platform kelpodbc.dll",
		`loadlibrary(kelpodbc.dll) = 0x7ff81260000`:                    "",
	} {
		got := ""
		for _, c := range sidesOf(line) {
			got = c.Class + " " + c.Name
		}
		if got != want {
			t.Errorf("%q: %q, want %q", line, got, want)
		}
	}
}
