package why_test

import (
	"maps"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/step"
	"hollowkey/core/why"
)

// misplaced is a machine on which files, folders, keys and the OS's own
// services are not as setups need them; right is the same one as it should be.
func misplaced(right bool) map[string]string {
	files := maps.Clone(lacking(true))
	start, key, drive, prompt := "disabled", "KR", `S:\home`, "false"
	if right {
		start, key, drive, prompt = "automatic", "KA", `C:\Users\dpayne`, "true"
	} else {
		files["disk/C/Program Files/Kelp/plugins"] = ""
		files["disk/C/Program Files/Kelp/bare"] = ""
		files["disk/C/Program Files/Kelp/kelp.cfg/"] = "" // a folder
	}
	files["twin.yaml"] = strings.Replace(files["twin.yaml"], "elevated: true", "elevated: "+prompt, 1)
	if !right {
		files["twin.yaml"] = strings.Replace(files["twin.yaml"], `C:\Windows\system32;C:\Windows`, `C:\Tools`, 1)
	}
	files["registry/machine.reg"] += "\n[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Control\\Session Manager\\Environment]\n\"Path\"=\"" +
		map[bool]string{true: `C:\\Windows\\system32;C:\\Windows`, false: `C:\\Tools`}[right] + "\"\n"
	files["access.yaml"] += "'HKU\\S-1-5-21-1-2-3-1112\\Software\\Kelp Quay': O:SYG:SYD:PAI(A;CI;" + key + ";;;S-1-5-21-1-2-3-1112)(A;CI;KR;;;BA)\n"
	files["registry/user.reg"] += "\n[HKEY_USERS\\S-1-5-21-1-2-3-1112\\Software\\Kelp Quay]\n\"a\"=\"b\"\n" +
		"\n[HKEY_USERS\\S-1-5-21-1-2-3-1112\\Software\\Microsoft\\Windows\\CurrentVersion\\Explorer\\User Shell Folders]\n\"Personal\"=\"" +
		strings.ReplaceAll(drive, `\`, `\\`) + "\\\\Documents\"\n"
	for name, title := range map[string]string{"BITS": "Background Intelligent Transfer Service", "Winmgmt": "Windows Management Instrumentation",
		"TrustedInstaller": "Windows Modules Installer", "wuauserv": "Windows Update", "EventLog": "Windows Event Log", "MpsSvc": "Windows Defender Firewall",
		"Schedule": "Task Scheduler", "KelpFeed": "Kelp Tide Feed"} {
		files["services.yaml"] += "- { name: " + name + ", display: " + title + ", binary: 'C:\\Windows\\System32\\svchost.exe', start: " + start + ", account: LocalSystem, state: stopped }\n"
	}
	return files
}

// A plain log's complaint, in whatever words, is about the thing that the
// machine shows to be wrong, and is put right by a step of its kind; where the
// machine is as it should be there is none.
func TestComplaintsMeetTheMachine(t *testing.T) {
	bad, good := twintest.Make(t, misplaced(false)), twintest.Make(t, misplaced(true))
	for _, tt := range []struct{ class, about, step, said string }{
		{"path", `C:\Program Files\Kelp\plugins`, "folder", `C:\Program Files\Kelp\plugins: not a directory¦cannot make folder C:\Program Files\Kelp\plugins (0x800700b7)¦The directory name is invalid: C:\Program Files\Kelp\plugins¦CreateDirectory C:\Program Files\Kelp\plugins returned 183`},
		{"path", `C:\Program Files\Kelp\plugins\core`, "folder", `ENOTDIR: not a directory, mkdir "C:\Program Files\Kelp\plugins\core"`},
		{"path", `C:\Program Files\Kelp\bare`, "folder", `FileExistsError: [WinError 183] Cannot create a file when that file already exists: 'C:\\Program Files\\Kelp\\bare'`},
		{"path", `C:\Program Files\Kelp\kelp.cfg`, "quarantine", `cannot write C:\Program Files\Kelp\kelp.cfg: is a directory¦Error: EISDIR: illegal operation on a directory, open 'C:\Program Files\Kelp\kelp.cfg'¦Access to the path 'C:\Program Files\Kelp\kelp.cfg' is denied.¦CreateFile(C:\Program Files\Kelp\kelp.cfg) failed: 5`},
		{"path", `S:`, "registry", `Invalid drive S:`},
		{"path", `S:\home\Documents\Kelp`, "registry", `CreateDirectory("S:\home\Documents\Kelp") returned 3¦The drive S: is not available for S:\home\Documents\Kelp`},
		{"permission", `HKCU\Software\Kelp Quay`, "grant", `RegSetValueEx HKCU\Software\Kelp Quay failed: 5¦could not write HKCU\Software\Kelp Quay: access denied`},
		{"service", "KelpFeed", "service", `could not start the Kelp Tide Feed service¦could not start the Kelp Tide Feed service: ERROR_SERVICE_DISABLED¦KelpFeed: ERROR_SERVICE_DISABLED¦Start-Service KelpFeed failed: disabled¦KelpFeed is disabled; enable it and run setup again¦failed to bring up service "KelpFeed": disabled by administrator¦net.exe start KelpFeed exited with 2¦KelpSync needs KelpFeed to run; KelpFeed is disabled`},
		{"path", `C:\Program Files\Kelp\plugins`, "folder", `expected C:\Program Files\Kelp\plugins to be a directory but found a file¦target C:\Program Files\Kelp\plugins is an ordinary file; a folder is needed¦java.nio.file.FileAlreadyExistsException: C:\Program Files\Kelp\plugins`},
		{"path", `S:\home\Documents\Kelp`, "registry", `path S:\home\Documents\Kelp unreachable¦S:\home\Documents\Kelp did not work¦root of S:\home\Documents\Kelp does not exist`},
		{"path", `S:`, "registry", `volume S: not mounted¦drive S: not ready¦S: is unavailable`},
		{"path", "icacls", "registry", `command "icacls C:\Kelp" failed with 9009¦could not find icacls in PATH¦which: no icacls in (C:\Tools)¦execvp icacls: No such file or directory`},
		{"service", "BITS", "service", `BITS job could not be created: 0x80070422¦Start-BitsTransfer : The service cannot be started, either because it is disabled¦bitsadmin /transfer failed: service disabled (1058)`},
		{"service", "Winmgmt", "service", `WMI query failed: 0x80070422¦Get-CimInstance : The service cannot be started, either because it is disabled`},
		{"service", "TrustedInstaller", "service", `TrustedInstaller is disabled¦enabling feature NetFx3 failed: service TrustedInstaller cannot be started (1058)`},
		{"service", "wuauserv", "service", `wusa returned 0x80070422¦Add-WindowsCapability failed: 0x80070422`},
		{"service", "EventLog", "service", `EventLog.CreateEventSource: event log service is disabled (1058)¦The event log service is not started`},
		{"service", "Schedule", "service", `Register-ScheduledTask : The service cannot be started, either because it is disabled`},
		{"service", "MpsSvc", "service", `An error occurred while attempting to contact the Windows Defender Firewall service. Make sure that the service is running`},
	} {
		for said := range strings.SplitSeq(tt.said, "¦") {
			log := write(t, "kelp.log", "2026-05-04 09:12:01 INFO Kelp Chart 3.1 setup starts\n2026-05-04 09:12:02 INFO verify: part 12 ok\n2026-05-04 09:12:03 DEBUG copy: data/part13.bin, 812 bytes\n2026-05-04 09:12:04 ERROR "+
				said+"\n2026-05-04 09:12:05 DEBUG cache: entry 3 kept\n2026-05-04 09:12:06 ERROR setup failed, exit code 9\n")
			v := ask(t, why.Question{Logs: []string{log}, Machine: bad}).Verdict
			of := func(r step.Remedy) bool { return len(r.Steps) > 0 && r.Steps[0][tt.step] != nil }
			c := v.Cause
			if *c.Class != tt.class || c.Subject == nil || c.Subject.Name != tt.about || !v.Shown() || !slices.ContainsFunc(v.Remedies, of) {
				t.Errorf("%s: %s (%.2f) about %+v, seen %+v, remedies %+v; want %s about %s", said, *c.Class, c.Confidence, c.Subject, v.Machine, v.Remedies, tt.class, tt.about)
			}
			if w := ask(t, why.Question{Logs: []string{log}, Machine: good}).Verdict; slices.ContainsFunc(w.Remedies, of) {
				t.Errorf("%s: on a machine as it should be: %+v, %+v", said, w.Machine, w.Remedies)
			}
		}
	}
}

// What a line names in passing is left alone, whatever is so about it on the
// machine: a file that holds something, a service that somebody disabled on
// purpose; and an empty folder is no runtime and no product that is missing.
func TestNamesInPassingAreLeftAlone(t *testing.T) {
	files := misplaced(false)
	files["disk/C/Program Files/Kelp/LICENSE"] = "the text of the licence"
	m := twintest.Make(t, files)
	for _, said := range []string{`C:\Program Files\Kelp\LICENSE could not be shown`, `the page for KelpFeed did not load`, `checksum of C:\Program Files\Kelp\LICENSE went wrong`,
		`KelpFeed: unexpected answer 7`, `C:\Program Files\Kelp\LICENSE is a file of another version`, `C:\Program Files\Kelp\LICENSE is not a directory listing`,
		`cannot create C:\Program Files\Kelp\LICENSE: already exists`, `the folder C:\Program Files\Rigging\run8 does not exist`,
		`RIG_HOME points to C:\Program Files\Rigging\run8, which does not exist`, `directory C:\Program Files\Harbour Base\plugins is missing`,
		`{"message":"write failed","dir":"C:\\Program Files\\Kelp","path":"C:\\Program Files\\Kelp\\LICENSE","code":5}`,
		`{"message":"create failed","dir":"C:\\Program Files\\Kelp","path":"C:\\Program Files\\Kelp\\LICENSE","code":183}`,
		`{"message":"step notes failed","dir":"C:\\Program Files\\Kelp","path":"C:\\Program Files\\Kelp\\LICENSE"}`,
		`{"message":"run folder missing","folder":"C:\\Program Files\\Rigging\\run8","error":"path not found"}`} {
		log := write(t, "kelp.log", "2026-05-04 09:12:01 INFO Kelp Chart 3.1 setup starts\n2026-05-04 09:12:03 DEBUG part 13 read\n2026-05-04 09:12:04 ERROR "+
			said+"\n2026-05-04 09:12:06 ERROR setup failed, exit code 9\n")
		v := ask(t, why.Question{Logs: []string{log}, Machine: m}).Verdict
		if slices.ContainsFunc(v.Remedies, func(r step.Remedy) bool { return len(r.Steps) > 0 }) {
			t.Errorf("%s: %s, seen %+v, remedies %+v", said, *v.Cause.Class, v.Machine, v.Remedies)
		}
	}
}

// What a telling line calls by words only is found where those words led to its
// name before, and not what stands nearer.
func TestTheSameWordsLeadToTheName(t *testing.T) {
	for _, tt := range []struct{ before, said, about string }{
		{`working folder C:\Tide\work`, "the working folder could not be created", `C:\Tide\work`},
		{`Arbeitsverzeichnis: C:\Tide\arbeit`, "Das Arbeitsverzeichnis konnte nicht erstellt werden", `C:\Tide\arbeit`},
		{`dossier de travail : C:\Tide\travail`, "impossible de créer le dossier de travail", `C:\Tide\travail`},
		{`staging area is D:\stage`, "access to the staging area was denied", `D:\stage`},
		{`рабочая папка C:\Tide\work`, "не удалось создать рабочую папку", `C:\Tide\work`},
		{`folder roboczy C:\Tide\work`, "nie można utworzyć folderu roboczego", `C:\Tide\work`},
		{`pracovní složka C:\Tide\work`, "nelze vytvořit pracovní složku", `C:\Tide\work`},
		{`carpeta de trabajo C:\Tide\work`, "no se puede crear la carpeta de trabajo", `C:\Tide\work`},
		{`çalışma klasörü C:\Tide\work`, "çalışma klasörü oluşturulamadı", `C:\Tide\work`},
		{`作業フォルダー C:\Tide\work`, "作業フォルダーを作成できませんでした", `C:\Tide\work`},
		{`작업 폴더 C:\Tide\work`, "작업 폴더를 만들 수 없습니다", `C:\Tide\work`},
		{`工作文件夹：C:\Tide\work`, "无法创建工作文件夹", `C:\Tide\work`},
		{`licence server: lic2.kelp.example`, "the licence server did not answer", "lic2.kelp.example"},
		{`spool file C:\Tide\q.spl opened`, "spool file is used by another process", `C:\Tide\q.spl`},
	} {
		log := write(t, "tide.log", "2026-05-04 09:12:01 INFO Tide Chart 3.1 setup starts\n2026-05-04 09:12:02 INFO "+tt.before+
			"\n2026-05-04 09:12:02 INFO report goes to C:\\Tide\\report.txt\n2026-05-04 09:12:02 INFO proxy.kelp.example is asked"+strings.Repeat("\n2026-05-04 09:12:03 INFO verify of a part went well\n2026-05-04 09:12:03 INFO next part is read", 12)+
			"\n2026-05-04 09:12:04 ERROR "+tt.said+"\n2026-05-04 09:12:06 ERROR setup failed, exit code 9\n")
		v := ask(t, why.Question{Logs: []string{log}}).Verdict
		about := ""
		if v.Cause.Subject != nil {
			about = v.Cause.Subject.Name
		}
		if about != tt.about {
			t.Errorf("%q behind %q: about %q (%s), want %q", tt.said, tt.before, about, *v.Cause.Class, tt.about)
		}
	}
}

// What only a record's further values tell meets the machine as words do: what
// was done, to what, and the number.
func TestRecordsMeetTheMachine(t *testing.T) {
	bad, good := twintest.Make(t, misplaced(false)), twintest.Make(t, misplaced(true))
	for _, tt := range []struct{ class, about, step, record string }{
		{"path", `C:\Program Files\Kelp\plugins`, "folder", `"message":"plugin folder failed","folder":"C:\\Program Files\\Kelp\\plugins","errno":"EEXIST"`},
		{"path", `C:\Program Files\Kelp\plugins`, "folder", `"message":"create failed","path":"C:\\Program Files\\Kelp\\plugins","hresult":"0x800700B7"`},
		{"path", `S:\home\Documents`, "registry", `"message":"folder not usable","folder":"S:\\home\\Documents"`},
		{"path", "icacls", "registry", `"message":"command failed","command":"icacls C:\\Kelp /grant Users:M","exit_code":9009`},
		{"path", "regsvr32.exe", "registry", `"message":"spawn failed","program":"regsvr32.exe","code":2`},
		{"service", "KelpFeed", "service", `"message":"service start failed","service":"KelpFeed","code":1058`},
		{"service", "KelpFeed", "service", `"message":"step services failed","detail":"KelpFeed is disabled"`},
		{"permission", `HKCU\Software\Kelp Quay`, "grant", `"message":"registry write failed","key":"HKCU\\Software\\Kelp Quay","value":"Site","code":5`},
	} {
		log := write(t, "kelp.log", `{"ts":"2026-05-04T09:12:01Z","level":"info","message":"Kelp Chart 3.1 setup starts"}`+"\n"+
			`{"ts":"2026-05-04T09:12:02Z","level":"debug","message":"verify: part 12 ok"}`+"\n"+`{"ts":"2026-05-04T09:12:04Z","level":"error",`+tt.record+"}\n"+
			`{"ts":"2026-05-04T09:12:06Z","level":"error","message":"setup failed, exit code 9"}`+"\n")
		v := ask(t, why.Question{Logs: []string{log}, Machine: bad}).Verdict
		of := func(r step.Remedy) bool { return len(r.Steps) > 0 && r.Steps[0][tt.step] != nil }
		c := v.Cause
		if *c.Class != tt.class || c.Subject == nil || c.Subject.Name != tt.about || !slices.ContainsFunc(v.Remedies, of) {
			t.Errorf("%s: %s (%.2f) about %+v, seen %+v, remedies %+v; want %s about %s", tt.record, *c.Class, c.Confidence, c.Subject, v.Machine, v.Remedies, tt.class, tt.about)
		}
		if w := ask(t, why.Question{Logs: []string{log}, Machine: good}).Verdict; slices.ContainsFunc(w.Remedies, of) {
			t.Errorf("%s: on a machine as it should be: %+v, %+v", tt.record, w.Machine, w.Remedies)
		}
	}
}
