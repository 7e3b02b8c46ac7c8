package machine

import "testing"

func TestLongKey(t *testing.T) {
	for in, want := range map[string]string{
		`HKLM\SOFTWARE\x`: `HKEY_LOCAL_MACHINE\SOFTWARE\x`, `hkcu\x\`: `HKEY_CURRENT_USER\x`, `HKEY_USERS\S-1`: `HKEY_USERS\S-1`,
		`HKCR`:                            `HKEY_CLASSES_ROOT`,
		`HKEY_LOCAL_MACHINE32\SOFTWARE\x`: `HKEY_LOCAL_MACHINE\SOFTWARE\WOW6432Node\x`, `HKLM32\SYSTEM\x`: `HKEY_LOCAL_MACHINE\SYSTEM\x`,
		`HKLM32\Software\WOW6432Node\x`:   `HKEY_LOCAL_MACHINE\Software\WOW6432Node\x`,
		`HKEY_LOCAL_MACHINE64\SOFTWARE\x`: `HKEY_LOCAL_MACHINE\SOFTWARE\x`,
		`\SOFTWARE\x`:                     `HKEY_LOCAL_MACHINE\SOFTWARE\x`, ` HKU\x `: `HKEY_USERS\x`,
	} {
		if got, err := LongKey(in); err != nil || got != want {
			t.Errorf("LongKey(%q) = %q, %v; want %q", in, got, err, want)
		}
	}
	for _, in := range []string{"", "x", `C:\x`, `HKXX\y`} {
		if got, err := LongKey(in); err == nil {
			t.Errorf("LongKey(%q) = %q", in, got)
		}
	}
	for in, want := range map[string]bool{`HKLM\x`: true, `HKEY_USERS\x`: true, `C:\x`: false, "": false} {
		if got := IsKey(in); got != want {
			t.Errorf("IsKey(%q) = %v", in, got)
		}
	}
}

func TestParseStartType(t *testing.T) {
	for _, in := range []string{"automatic", "Manual", "DISABLED", "boot", "system"} {
		if _, err := ParseStartType(in); err != nil {
			t.Error(err)
		}
	}
	if _, err := ParseStartType("sometimes"); err == nil {
		t.Error("sometimes is taken for a start type")
	}
}

func TestHasDrive(t *testing.T) {
	f := Facts{Drives: []Drive{{Letter: "C:"}, {Letter: "D:"}}}
	if !f.HasDrive("c:") || f.HasDrive("Z:") {
		t.Error("C: is there, Z: is not")
	}
}
