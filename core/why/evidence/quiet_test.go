package evidence

import (
	"context"
	"strings"
	"testing"

	"hollowkey/core/logs/dialects"
	"hollowkey/core/logs/textfile"
)

func TestPolicySet(t *testing.T) {
	for line, want := range map[string]bool{
		`Richtlinie Software\Policies\Kiebitz\AllowInstall = 0`:                                    true,
		`HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer\DisableMSI: 2`:                         true,
		`reg HKLM\Software\Policies\Tide\BlockSetups = dword:00000001`:                             true,
		`found \Policies\Tide\EnableUpgrades -> false`:                                             true,
		`HKCU\Software\Policies\Tide\SetupRule is deny`:                                            true,
		`Software\Policies\Kiebitz\AllowInstall = 1`:                                               false,
		`HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer\DisableMSI: 0`:                         false,
		`Software\Policies\Tide\Port = 8080`:                                                       false,
		`C:\ProgramData\Tide\policies\readme.txt = 40 bytes`:                                       false,
		`no key Software\Policies\Tide`:                                                            false,
		`HKLM\SOFTWARE\Policies\Microsoft\Windows\WindowsUpdate\NoAutoUpdate = 1, install goes on`: false,
	} {
		if _, got := policySet(strings.ToLower(line)); got != want {
			t.Errorf("%s: %v", line, got)
		}
	}
}

func TestWrongTypesAndSizes(t *testing.T) {
	for line, want := range map[string]string{
		"value Count: type 1, wanted 4":                              "registry",
		"Queues\\Count has type REG_SZ, expected REG_DWORD":          "registry",
		"REG_SZ found where a REG_DWORD is expected":                 "registry",
		"value Path: type REG_EXPAND_SZ":                             "",
		"payload tide.pak 734003200 bytes, catalogue says 851443712": "corrupt",
		"size 115343360, expected 571604992":                         "corrupt",
		"length 48211233 differs from 48211200":                      "corrupt",
		"payload 1048576 bytes, catalogue says 1048576":              "",
		"copied 1048576 bytes, 2097152 in all":                       "",
		"request 123456 expects 654321":                              "",
		"read 4096 bytes at 812":                                     "",
		"length 286":                                                 "path", "path length: 271 characters": "path", "länge 302 zeichen": "path", "name length 264": "path",
		"length 212": "", "content length 512": "", "buffer length 300": "", "length 48211": "", "key length 521": "", "wavelength 300": "",
		"the installed size is 48211233 bytes; the disk has 500000000 free": "",
	} {
		low, got := strings.ToLower(line), ""
		for _, look := range []func(string) (Clue, bool){ofWrongType, differentSizes, statedLength} {
			if c, ok := look(low); ok {
				got = c.Class
			}
		}
		if got != want {
			t.Errorf("%s: %q, want %q", line, got, want)
		}
	}
}

// What is said about a failure that says nothing itself, by the first cause in
// a log of these lines: level and text, parted by bars.
func TestSetDownByTheWay(t *testing.T) {
	for lines, want := range map[string]string{
		`DEBUG write C:\Program Files\Tide\~t -> 5|ERROR the folder cannot be used`:                                      "permission",
		`DEBUG opening C:\Tide\codec.dll for a look: 225|ERROR the codec is not usable`:                                  "security-software",
		`DEBUG row 4 -> 5|ERROR the folder cannot be used`:                                                               "unknown",
		`DEBUG probe core: 303|DEBUG probe help: 12|DEBUG probe maps: 33|DEBUG probe fonts: 112|ERROR the setup is over`: "unknown",
		`INFO command line: /S /COMPONENTS=core,dialler|INFO unknown component: dialler|ERROR nothing was installed`:     "command-line",
		`INFO arguments: --mode=fast|ERROR "fast" is not a valid mode|ERROR the setup is over`:                           "command-line",
		`INFO command line: /S|INFO unknown device attached|ERROR the setup is over`:                                     "unknown",
		`INFO host: 64-bit|INFO this add-in: 32-bit|ERROR the add-in was not put in`:                                     "platform",
		`INFO host: 64-bit|INFO this add-in: 64-bit|ERROR the add-in was not put in`:                                     "unknown",
	} {
		log := "2026-05-04 09:12:01 INFO Tide Watch 3.1 setup\n"
		for line := range strings.SplitSeq(lines, "|") {
			log += "2026-05-04 09:12:02 " + line + "\n"
		}
		s, err := dialects.Read(context.Background(), "x.log", strings.NewReader(log), textfile.Options{})
		if err != nil {
			t.Fatal(err)
		}
		if got := ReadRun(s.Attempts[0], nil).Weigh(nil)[0].Class; got != want {
			t.Errorf("%s: %s, want %s", lines, got, want)
		}
	}
}
