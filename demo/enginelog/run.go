package enginelog

import (
	"fmt"
	"strings"
)

var words = []string{"berth", "tide", "quay", "pilot", "wharf", "fairway", "buoy", "harbour", "mooring", "lock", "crane", "manifest"}

var kinds = []string{"dll", "dll", "dll", "xml", "png", "html", "config", "resx", "css", "json"}

// file is the made-up name of the n-th file, always the same.
func file(n int) string {
	return fmt.Sprintf("%s_%s%d.%s", words[n%len(words)], words[(n/len(words))%len(words)], n, kinds[n%len(kinds)])
}

// folder is where the product goes.
func (l *log) folder() string { return `C:\Program Files\` + l.s.Folder + `\` }

// run writes the log from its first line to its last, as the user's process
// sees it.
func (l *log) run() {
	s := l.s
	date := s.Started.Format("1/2/2006  15:04:05")
	l.raw("=== Verbose logging started: %s  Build type: SHIP UNICODE 5.00.10011.00  Calling process: C:\\Windows\\System32\\msiexec.exe ===",
		date)
	l.client("Resetting cached policy values")
	l.client("Machine policy value 'Debug' is 0")
	l.client("******* RunEngine:")
	l.raw("           ******* Product: %s", s.Package)
	l.raw("           ******* Action: ")
	l.raw("           ******* CommandLine: **********")
	l.client("Client-side and UI is none or basic: Running entire install on the server.")
	l.client("Grabbed execution mutex.")
	l.client("Cloaking enabled.")
	l.client("Attempting to enable all disabled privileges before calling Install on Server")
	l.client("Incrementing counter to disable shutdown. Counter after increment: 0")
	l.server("Running installation inside multi-package transaction %s", s.Package)
	l.server("Grabbed execution mutex.")
	l.begin()
	l.raw("=== Logging started: %s ===", date)
	l.server("Doing action: INSTALL")
	l.raw("Action %s: INSTALL. ", l.clock())
	l.raw("Action start %s: INSTALL.", l.clock())
	l.server("Running ExecuteSequence")
	ok := l.sequence()
	value := 1
	if !ok {
		value, l.code = 3, 1603
	}
	l.raw("Action ended %s: INSTALL. Return value %d.", l.clock(), value)
	l.properties()
	l.end(ok)
}

// begin writes what the service says before the first action.
func (l *log) begin() {
	s := l.s
	l.server("Resetting cached policy values")
	l.server("Machine policy value 'Debug' is 0")
	l.server("******* RunEngine:")
	l.raw("           ******* Product: %s", s.Package)
	l.raw("           ******* Action: ")
	l.raw("           ******* CommandLine: **********")
	l.server("Machine policy value 'DisableUserInstalls' is 0")
	l.server(`Note: 1: 2203 2: C:\Windows\Installer\inprogressinstallinfo.ipi 3: -2147287038 `)
	l.server("SRSetRestorePoint skipped for this transaction.")
	l.server("File will have security applied from OpCode.")
	l.server("SOFTWARE RESTRICTION POLICY: Verifying package --> '%s' against software restriction policy", s.Package)
	l.server("SOFTWARE RESTRICTION POLICY: %s has a digital signature", s.Package)
	l.server("SOFTWARE RESTRICTION POLICY: %s is permitted to run because the user token authorization level is 'unrestricted'.", s.Package)
	l.server("End dialog not enabled")
	l.server("Original package ==> %s", s.Package)
	l.server(`Package we're running from ==> C:\Windows\Installer\5f1c2a.msi`)
	l.server("APPCOMPAT: looking for appcompat database entry with ProductCode '%s'.", s.Code)
	l.server("APPCOMPAT: no matching ProductCode found in database.")
	l.policies(l.server)
	l.server("Transforms are not secure.")
	l.adding("MsiLogFileLocation", `C:\Windows\Temp\setup.log`)
	l.server("Command Line: REBOOT=ReallySuppress CURRENTDIRECTORY=C:\\Deploy CLIENTUILEVEL=3 CLIENTPROCESSID=5128 ")
	l.server("Product Code passed to Engine.Initialize:           ''")
	l.server("Product Code from property table before transforms: '%s'", s.Code)
	l.server("Product Code from property table after transforms:  '%s'", s.Code)
	l.server("Product not registered: beginning first-time install")
	l.adding("ProductState", "-1")
	l.server("Note: 1: 2205 2:  3: Error ")
	l.server("Note: 1: 2262 2: AdminProperties 3: -2147287038 ")
	for _, p := range []string{"DisableMsi", "AlwaysInstallElevated"} {
		l.server("Machine policy value '%s' is 0", p)
	}
	l.server("Product installation will be elevated because user is admin and product is being installed per-machine.")
	l.server("Running product '%s' with elevated privileges: Product is assigned.", s.Code)
	for _, f := range [][2]string{{"AppData", `\AppData\Roaming`}, {"Favorites", `\Favorites`}, {"Personal", ""},
		{"SendTo", `\AppData\Roaming\Microsoft\Windows\SendTo`}, {"Local", `\AppData\Local`}} {
		path := `C:\Users\` + s.User + f[1]
		if f[0] == "Personal" {
			path = strings.TrimRight(l.personal(), `\`)
		}
		l.server("SHELL32::SHGetFolderPath returned: %s", path)
	}
	l.adding("Privileged", "1")
	l.server(`Note: 1: 1402 2: HKEY_CURRENT_USER\Software\Microsoft\MS Setup (ACME)\User Info 3: 2 `)
	l.adding("USERNAME", s.User)
	l.adding("DATABASE", `C:\Windows\Installer\5f1c2a.msi`)
	l.adding("OriginalDatabase", s.Package)
	l.adding("UILevel", "2")
	l.adding("ACTION", "INSTALL")
}

// personal is the user's documents folder, which a company often puts on a
// share.
func (l *log) personal() string {
	if l.s.PersonalFolder != "" {
		return l.s.PersonalFolder
	}
	return `C:\Users\` + l.s.User + `\Documents\`
}

// sequence runs the execute sequence up to its end or the failure.
func (l *log) sequence() bool {
	steps := []struct {
		name, text string
		body       func()
	}{
		{"FindRelatedProducts", "Searching for related applications", nil},
		{"AppSearch", "Searching for installed applications", func() {
			l.server("Note: 1: 2262 2: Signature 3: -2147287038 ")
			l.server(`Note: 1: 1402 2: HKEY_LOCAL_MACHINE\SOFTWARE\%s 3: 2 `, l.s.Folder)
		}},
		{"LaunchConditions", "Evaluating launch conditions", nil},
		{"ValidateProductID", "", nil},
		{"CostInitialize", "Computing space requirements", func() {
			l.server("Machine policy value 'MaxPatchCacheSize' is 10")
			l.adding("ROOTDRIVE", `C:\`)
			l.adding("CostingComplete", "0")
			l.server("Note: 1: 2205 2:  3: Patch ")
			l.server("Note: 1: 2205 2:  3: PatchPackage ")
		}},
		{"FileCost", "Computing space requirements", func() { l.server("Note: 1: 2262 2: RemoveFile 3: -2147287038 ") }},
		{"CostFinalize", "Computing space requirements", func() {
			l.adding("ProgramFiles64Folder", `C:\Program Files\`)
			l.adding("INSTALLDIR", l.folder())
			l.adding("PersonalFolder", l.personal())
			for n := range l.s.Folders {
				w := words[n%len(words)]
				l.adding(fmt.Sprintf("%sDIR%d", strings.ToUpper(w), n), fmt.Sprintf(`%s%s\%d\`, l.folder(), w, n))
			}
			for _, w := range words[:6] {
				l.adding(strings.ToUpper(w)+"DIR", l.folder()+w+`\`)
			}
		}},
		{"MigrateFeatureStates", "Migrating feature states from related applications", nil},
		{"InstallValidate", "Validating install", l.components},
		{"RemoveExistingProducts", "Removing applications", nil},
		{"InstallInitialize", "", func() {
			l.server("Machine policy value 'AlwaysInstallElevated' is 0")
			l.server("BeginTransaction: Locking Server")
			l.server(`Note: 1: 2203 2: C:\Windows\Installer\inprogressinstallinfo.ipi 3: -2147287038 `)
			l.server("Server not locked: locking for product %s", l.s.Code)
		}},
		{"ProcessComponents", "Updating component registration", nil},
		{"UnpublishFeatures", "Unpublishing Product Features", nil},
		{"StopServices", "Stopping services", nil},
		{"DeleteServices", "Deleting services", nil},
		{"CreateFolders", "Creating folders", nil},
		{"InstallFiles", "Copying new files", nil},
		{"WriteRegistryValues", "Writing system registry values", nil},
		{"InstallServices", "Installing new services", nil},
		{"StartServices", "Starting services", nil},
		{"RegisterProduct", "Registering product", nil},
		{"PublishProduct", "Publishing product information", nil},
	}
	inScript := scriptActions[l.s.Failure.Action]
	for _, st := range steps {
		body := st.body
		if inScript && st.name == l.s.Failure.Action {
			l.server("Doing action: %s", st.name)
			l.raw("Action %s: %s. %s", l.clock(), st.name, st.text)
			l.raw("Action start %s: %s.", l.clock(), st.name)
			l.raw("Action ended %s: %s. Return value 1.", l.clock(), st.name)
			continue
		}
		if !l.action(st.name, st.text, body) {
			return false
		}
	}
	l.server("Doing action: InstallFinalize")
	l.raw("Action %s: InstallFinalize. ", l.clock())
	l.raw("Action start %s: InstallFinalize.", l.clock())
	if l.script(); !l.failed {
		l.raw("Action ended %s: InstallFinalize. Return value 1.", l.clock())
	}
	return !l.failed
}

var scriptActions = map[string]bool{
	"CreateFolders": true, "InstallFiles": true, "WriteRegistryValues": true, "InstallServices": true, "StartServices": true,
}

// components lists features and components, as InstallValidate does.
func (l *log) components() {
	l.server("Feature: Main; Installed: Absent;   Request: Local;   Action: Local")
	l.server("Feature: Help; Installed: Absent;   Request: Local;   Action: Local")
	for n := range l.s.Files {
		l.server("Component: %s.Comp; Installed: Absent;   Request: Local;   Action: Local", strings.ReplaceAll(file(n), ".", "_"))
	}
	for _, t := range []string{"BindImage", "Font", "MIME", "IsolatedComponent", "PublishComponent", "Extension", "MsiServiceConfig"} {
		l.server("Note: 1: 2205 2:  3: %s ", t)
	}
}

// script carries out the installation script.
func (l *log) script() {
	l.server(`Running Script: C:\Windows\Installer\MSI5E21.tmp`)
	l.adding("UpdateStarted", "1")
	l.server("Machine policy value 'DisableRollback' is 0")
	l.op("Header(Signature=1397708873,Version=500,Timestamp=1471247614,LangId=1033,Platform=589824,ScriptType=1,ScriptMajorVersion=21,ScriptMinorVersion=4,ScriptAttributes=1)")
	l.op("ProductInfo(ProductKey=%s,ProductName=%s,PackageName=setup.msi,Language=1033,Version=67174402,Assignment=1,ObsoleteArg=0)",
		l.s.Code, l.s.Product)
	var done []scriptStep
	for _, st := range l.scriptSteps() {
		done = append(done, st)
		l.startScript(st)
		st.body()
		if l.s.Failure.Action == st.name {
			l.fail()
			break
		}
	}
	if !l.failed {
		l.op("End(Checksum=0,ProgressTotalHDWord=0,ProgressTotalLDWord=0)")
		return
	}
	// The end of InstallFinalize comes before the way back.
	l.raw("Action ended %s: InstallFinalize. Return value 3.", l.clock())
	l.wayBack(done)
}

type scriptStep struct {
	name, text, template string // of an operation of the script
	body, back           func() // what it writes going forth and back
}

// op writes a line of the script that changes the machine.
func (l *log) op(format string, args ...any) { l.server("Executing op: "+format, args...) }

// startScript writes the two lines with which a part of the script begins: one
// for the user's eyes, one for the script.
func (l *log) startScript(st scriptStep) {
	l.raw("Action %s: %s. %s", l.clock(), st.name, st.text)
	l.op("ActionStart(Name=%s,Description=%s,Template=%s)", st.name, st.text, st.template)
}

// scriptSteps are the parts of the script in their order, each with what it
// does and what its rollback says.
func (l *log) scriptSteps() []scriptStep {
	none := func() {}
	return []scriptStep{
		{"ProcessComponents", "Updating component registration", "", func() {
			for n := range l.s.Files / 4 {
				l.op("ComponentRegister(ComponentId={%08X-54BF-5A70-BB8E-%012X},KeyPath=%s%s,State=3,,Disk=1,SharedDllRefCount=0,BinaryType=1)",
					n*2654435, n*48271, l.folder(), file(n))
			}
		}, none},
		{"CreateFolders", "Creating folders", "Folder: [1]", func() {
			l.op("FolderCreate(Folder=%s,Foreign=0,,)", l.folder())
		}, none},
		{"InstallFiles", "Copying new files", "File: [1],  Directory: [9],  Size: [6]", l.copyFiles, func() {
			for n := range l.s.Files {
				l.op("FileRemove(,FileName=%s%s,,)", l.folder(), file(n))
			}
		}},
		{"WriteRegistryValues", "Writing system registry values", "Key: [1], Name: [2], Value: [3]", func() {
			l.op("RegOpenKey(Root=-2147483646,Key=SOFTWARE\\%s,,BinaryType=1,,)", l.s.Folder)
			for n, w := range words {
				l.raw("WriteRegistryValues: Key: \\SOFTWARE\\%s, Name: %s, Value: #%d", l.s.Folder, w, n)
				l.op("RegAddValue(Name=%s,Value=#%d,)", w, n)
			}
		}, func() {
			for _, w := range words {
				l.op("RegRemoveValue(Name=%s,,)", w)
			}
		}},
		{"InstallServices", "Installing new services", "Service: [2]", func() {
			for _, s := range l.s.Services {
				l.op("ServiceInstall(Name=%s,DisplayName=%s,ImagePath=\"%s%s.exe\",ServiceType=16,StartType=2,ErrorControl=1,,)", s.Name, s.Display,
					l.folder(), s.Name)
			}
		}, none},
		{"StartServices", "Starting services", "Service: [1]", func() {
			for _, s := range l.s.Services {
				l.raw("StartServices: Service: %s", s.Display)
				l.op("ServiceControl(,Name=%s,Action=1,Wait=1,)", s.Name)
			}
		}, none},
	}
}

// copyFiles writes what each file leaves in a log: four lines. They are most of
// a large log.
func (l *log) copyFiles() {
	l.op("SetTargetFolder(Folder=%s)", l.folder())
	for n := range l.s.Files {
		size := 4096 + (n*7919)%524288
		l.raw("InstallFiles: File: %s,  Directory: %s,  Size: %d", file(n), l.folder(), size)
		l.op("FileCopy(SourceName=%s,SourceCabKey=fil%032X,DestName=%s,Attributes=512,FileSize=%d,PerTick=65536,,VerifyMedia=1,,,,,CheckCRC=0,,,,InstallMode=58982400,HashOptions=0,HashPart1=%d,HashPart2=%d,,)", file(n), n*40503, file(n), size, n*69069, n*1664525)
		l.server("File: %s%s;\tTo be installed;\tWon't patch;\tNo existing file", l.folder(), file(n))
		l.server("Source for file 'fil%032X' is compressed", n*40503)
	}
}

// wayBack undoes what was done, the last step first.
func (l *log) wayBack(done []scriptStep) {
	l.server("User policy value 'DisableRollback' is 0")
	l.server("Machine policy value 'DisableRollback' is 0")
	l.op("Header(Signature=1397708873,Version=500,Timestamp=1471247615,LangId=1033,Platform=589824,ScriptType=2,ScriptMajorVersion=21,ScriptMinorVersion=4,ScriptAttributes=1)")
	l.raw("Action %s: Rollback. Rolling back action:", l.clock())
	for i := len(done) - 1; i >= 0; i-- {
		l.raw("Rollback: %s", done[i].text)
		l.op("ActionStart(Name=%s,Description=%s,Template=%s)", done[i].name, done[i].text, done[i].template)
		done[i].back()
	}
	l.op("End(Checksum=0,ProgressTotalHDWord=0,ProgressTotalLDWord=0)")
	l.server("Error in rollback skipped.  Return: 5")
	l.server("No System Restore sequence number for this installation.")
	l.server("Unlocking Server")
}
