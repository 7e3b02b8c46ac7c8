package dialects

import (
	"testing"

	"hollowkey/core/logs/story"
)

// What lines tell of the machine and the clock, and what only looks so.
func TestAround(t *testing.T) {
	for _, c := range []struct{ line, host, build, zone string }{
		{`Computer: STATION-4B (Microsoft Windows NT 10.0.22631.0)`, "STATION-4B", "22631", ""},
		{`[0B1C:1F04][2026-05-05T09:12:01]i001: Setup engine v1.4.0, Windows v10.0 (Build 19045: Service Pack 0)`, "", "19045", ""},
		{`2026-05-05T09:12:01.250Z host="RR-07" starting`, "RR-07", "", "Z"},
		{`2026-05-05 09:12:01,250 +0200 Windows 10 Pro (19045.4291)`, "", "19045", "+0200"},
		{`2026-05-05 09:12:01-05:00 COMPUTERNAME=ellery-d07`, "ellery-d07", "", "-05:00"},
		{`{"time":"2026-05-05T09:12:01+02:00","hostname":"ARCHIV-2","os":"Windows 10.0.26100"}`, "ARCHIV-2", "26100", "+02:00"},
		{`<Computer>ELLERY-D07</Computer>`, "ELLERY-D07", "", ""},
		{`Ordinateur : BUREAU-17 (Microsoft Windows NT 10.0.22631.0)`, "BUREAU-17", "22631", ""},
		{`machine: x64`, "", "", ""},
		{`machine information: OS Version=10.0.19045, Running in Admin`, "", "19045", ""},
		{`connecting to host=join.quay.example port 443`, "", "", ""},
		{`Microsoft-Windows-Notepad-FoD-Package~31bf3856ad364e35~amd64~~10.0.19041.1`, "", "", ""},
		{`C:\Windows\Installer\a.msi copied (10240 bytes)`, "", "", ""},
		{`2026-05-05 09:12:01 -1234567 bytes`, "", "", ""},
		{`Host application: powershell.exe`, "", "", ""},
		{`CostFinalize: 12345`, "", "", ""},
	} {
		var src story.Source
		around(&src, 1, []byte(c.line))
		if src.Host != c.host || src.Build != c.build || src.Zone != c.zone {
			t.Errorf("%s\n host %q build %q zone %q", c.line, src.Host, src.Build, src.Zone)
		}
	}
}
