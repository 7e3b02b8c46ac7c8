package verdict

import (
	"strings"
	"testing"
)

// Ways of writing one name, and the name that is meant.
var (
	writtenPaths = map[string]string{
		`C:\Program Files\Kelp Chart\tide data.db`: `C:\Program Files\Kelp Chart\tide data.db`, `"C:\Program Files\Kelp Chart\tide data.db"`: `C:\Program Files\Kelp Chart\tide data.db`,
		`'C:\Program Files\Kelp Chart\tide data.db'`: `C:\Program Files\Kelp Chart\tide data.db`, `«C:\Program Files\Kelp Chart\tide data.db»`: `C:\Program Files\Kelp Chart\tide data.db`,
		`„C:\Program Files\Kelp Chart\tide data.db“`: `C:\Program Files\Kelp Chart\tide data.db`, `“C:\Program Files\Kelp Chart\tide data.db”`: `C:\Program Files\Kelp Chart\tide data.db`,
		`[C:\Program Files\Kelp Chart\tide data.db]`: `C:\Program Files\Kelp Chart\tide data.db`, `(C:\Program Files\Kelp Chart\tide data.db)`: `C:\Program Files\Kelp Chart\tide data.db`,
		`<C:\Program Files\Kelp Chart\tide data.db>`: `C:\Program Files\Kelp Chart\tide data.db`, `"C:\\Program Files\\Kelp Chart\\tide data.db"`: `C:\Program Files\Kelp Chart\tide data.db`,
		`C:\\Program Files\\Kelp Chart\\tide data.db`: `C:\Program Files\Kelp Chart\tide data.db`, `\\?\C:\Program Files\Kelp Chart\tide data.db`: `C:\Program Files\Kelp Chart\tide data.db`,
		`%ProgramFiles%\Kelp Chart\tide.db`: `%ProgramFiles%\Kelp Chart\tide.db`, `$env:ProgramData\Kelp\tide.db`: `$env:ProgramData\Kelp\tide.db`,
		`\\depot\apps$\Kelp Chart\tide.db`: `\\depot\apps$\Kelp Chart\tide.db`, `\\\\depot\\apps$\\Kelp\\tide.db`: `\\depot\apps$\Kelp\tide.db`,
		`C:\Gezeiten für Häfen\Übersicht.db`: `C:\Gezeiten für Häfen\Übersicht.db`, `C:\潮汐 表\データ.db`: `C:\潮汐 表\データ.db`, `C:\PROGRA~1\KELP\tide.db`: `C:\PROGRA~1\KELP\tide.db`,
		`C:\Kelp & Sons\tide (2).db`: `C:\Kelp & Sons\tide (2).db`, `C:\Skipper's Log\tide.db`: `C:\Skipper's Log\tide.db`, `D:\Kelp Chart\data\`: `D:\Kelp Chart\data`,
		`C:/Program Files/Kelp Chart/tide data.db`: `C:/Program Files/Kelp Chart/tide data.db`,
	}
	writtenServices = map[string]string{`KelpSync`: `KelpSync`, `"KelpSync"`: `KelpSync`, `'KelpSync'`: `KelpSync`, `[KelpSync]`: `KelpSync`, `«KelpSync»`: `KelpSync`,
		`Kelp$SYNC`: `Kelp$SYNC`, `kelp-sync.v2`: `kelp-sync.v2`}
	writtenHosts = map[string]string{`get.kelp.example`: `get.kelp.example`, `"get.kelp.example"`: `get.kelp.example`, `get.kelp.example:8443`: `get.kelp.example`,
		`https://get.kelp.example/pkg/3.1/chart.pak`: `get.kelp.example`, `10.20.30.40`: `10.20.30.40`, `10.20.30.40:1433`: `10.20.30.40`, `KELP-DB01`: `KELP-DB01`,
		`KELP-DB01\CHARTS`: `KELP-DB01\CHARTS`, `[fd00::12]:443`: `fd00::12`}
	writtenKeys = map[string]string{`HKLM\SOFTWARE\Kelp Chart\Paths`: `HKLM\SOFTWARE\Kelp Chart\Paths`, `"HKEY_LOCAL_MACHINE\SOFTWARE\Kelp\Paths"`: `HKEY_LOCAL_MACHINE\SOFTWARE\Kelp\Paths`,
		`HKLM:\SOFTWARE\Kelp\Paths`: `HKLM:\SOFTWARE\Kelp\Paths`, `HKLM\\SOFTWARE\\Kelp\\Paths`: `HKLM\SOFTWARE\Kelp\Paths`, `[HKCU\Software\Kelp]`: `HKCU\Software\Kelp`}
	writtenDrives = map[string]string{`D:`: `D:`, `D:\`: `D:`, `"D:"`: `D:`, `drive D`: `D:`}
	writtenThings = map[string]string{`.NET Desktop Runtime 8.0`: `.NET Desktop Runtime`, `"Visual C++ 2015-2022 Redistributable"`: `Visual C++ 2015-2022 Redistributable`, `Java 17`: `Java`,
		`VCRUNTIME140_1.dll`: `VCRUNTIME140_1.dll`, `kelp-codec >= 2.4`: `kelp-codec`}
)

// What a failure is about is taken whole, however the log writes it.
func TestNamesAreTakenWhole(t *testing.T) {
	n := 0
	for _, c := range []struct {
		class   string
		written map[string]string
		lines   string
	}{
		{"permission", writtenPaths, "Access to {n} is denied.|access denied: {n}|Could not write {n}: access is denied (5)|CreateFile({n}) failed, error 5|{n}: permission denied|" +
			"UnauthorizedAccessException: Access to the path {n} is denied.|PermissionError: [Errno 13] Permission denied: {n}|EACCES: permission denied, open {n}|Zugriff auf {n} verweigert|" +
			"Accès à {n} refusé|no permission to write to {n}, giving up"},
		{"in-use", writtenPaths, "{n} is in use by another process|The process cannot access the file {n} because it is being used by another process.|" +
			"cannot replace {n}: sharing violation (32)|EBUSY: resource busy or locked, unlink {n}"},
		{"corrupt", writtenPaths, "{n} is corrupt|checksum of {n} does not match|CRC error in {n}|{n}: unexpected end of archive"},
		{"path", writtenPaths, "The path {n} is too long."},
		{"space", writtenPaths, "not enough space to write {n}|{n}: There is not enough space on the disk."},
		{"security-software", writtenPaths, "{n} was quarantined by the antivirus|antivirus blocked {n}"},
		{"service", writtenServices, "The service {n} could not be started.|service {n} did not start|cannot start service {n}: 1053|StartService({n}) failed: 1058|" +
			"service {n} is marked for deletion|Dienst {n} konnte nicht gestartet werden|le service {n} ne démarre pas|no se pudo iniciar el servicio {n}"},
		{"network", writtenHosts, "could not connect to {n}|connection to {n} timed out|{n}: connection refused|cannot resolve {n}|no route to {n}|TLS handshake with {n} failed|" +
			"Verbindung zu {n} abgelehnt|connexion à {n} impossible|certificate of {n} has expired"},
		{"permission", writtenKeys, "Access to the registry key {n} is denied.|could not write {n}: access denied|no rights on {n}|cannot open key {n}: access is denied"},
		{"space", writtenDrives, "not enough space on {n}|{n} is full|insufficient disk space on {n} (needs 4 GB)|zu wenig Platz auf {n}"},
		{"prerequisite", writtenThings, "{n} is not installed|missing prerequisite: {n}|{n} is required but missing|please install {n} first"},
	} {
		for line := range strings.SplitSeq(c.lines, "|") {
			for written, name := range c.written {
				if strings.HasPrefix(written, `\\`) && c.class == "path" || strings.HasPrefix(written, "[") && strings.HasPrefix(line, "{n}: conn") {
					continue // a share out of reach, and an address where who speaks may stand
				}
				n++
				said := strings.ReplaceAll(line, "{n}", written)
				v := reached(t, "2026-05-04 09:12:01 INFO  setup of Kelp Chart 3.1 begins\n2026-05-04 09:12:02 INFO  checked block 4\n2026-05-04 09:12:03 INFO  checked block 5\n"+
					"2026-05-04 09:12:04 ERROR "+said+"\n2026-05-04 09:12:05 ERROR setup failed, exit code 9\n")
				if *v.Cause.Class != c.class {
					t.Errorf("%s: %s, not %s", said, *v.Cause.Class, c.class)
				} else if s := v.Cause.Subject; s == nil || !strings.HasPrefix(s.Name, name) || len(s.Name) > len(name)+len(" 2022 x64") {
					t.Errorf("%s: about %+v, not %s", said, s, name)
				}
			}
		}
	}
	if n < 600 {
		t.Errorf("%d lines", n)
	}
}
