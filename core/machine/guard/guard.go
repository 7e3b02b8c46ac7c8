// Package guard says what no step may touch, whoever asks for it: a log, a
// package, a case and a pack of signs are input from strangers, and a person
// can be led on by them. docs/security.md lists it in words.
package guard

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/step"
)

// An Act is what a step does with a file, a folder or a key.
type Act uint8

// The acts. Open is changing who may do what, Move is taking it from its place,
// or deleting it.
const (
	Write Act = iota
	Move
	Open
	Make // a folder or a key, empty
)

// Refused is an error of the guard.
type Refused struct {
	Target, Why string
	Hint        string // what to do instead; empty for that of a target that holds too much
}

// Error says what is refused and why.
func (r Refused) Error() string {
	hint := r.Hint
	if hint == "" {
		hint = "name the folder or key that the setup needs, not the one above it"
	}
	return fmt.Sprintf("a step on %s is refused: %s\nhint: %s", r.Target, r.Why, hint)
}

// shared are folders that belong to the whole system: nothing is done to
// themselves.
var shared = []string{`c:\windows`, `c:\windows\system32`, `c:\windows\syswow64`, `c:\windows\winsxs`, `c:\windows\installer`,
	`c:\windows\temp`, `c:\program files`, `c:\program files (x86)`, `c:\programdata`,
	`c:\programdata\package cache`, `c:\users`, `c:\program files\common files`,
	`c:\program files (x86)\common files`, `c:\program files\windowsapps`, `c:\recovery`, `c:\system volume information`, `c:\boot`, `c:\efi`,
	`c:\programdata\microsoft`, `c:\programdata\microsoft\windows`, startMenu, startMenu + `\programs`, startMenu + `\programs\startup`}

const startMenu = `c:\programdata\microsoft\windows\start menu`

// startFiles are files of a drive's root without which the OS does not start,
// and profileFiles the users' own parts of the registry.
var (
	startFiles   = []string{"bootmgr", "bootnxt", "pagefile.sys", "hiberfil.sys", "swapfile.sys", "ntldr", "boot.ini", "bootstat.dat"}
	profileFiles = []string{"ntuser.dat", "usrclass.dat"}
)

// ofTheOS are folders with all that is in them. What is below an exception is
// as free as anything else.
var ofTheOS = []struct{ folder, why string }{
	{`c:\windows`, "it is a part of the OS"},
	{`c:\program files\windowsapps`, "the OS keeps its app packages there"},
	{`c:\program files\windows defender`, "it protects the machine"},
	{`c:\programdata\microsoft\windows defender`, "it protects the machine"},
	{`c:\programdata\microsoft\crypto`, "the machine's keys lie there"},
	{`c:\programdata\hollow key`, "the journal lies there"},
	{`c:\recovery`, "it is a part of the OS"},
	{`c:\system volume information`, "it is a part of the OS"},
	{`c:\boot`, "it is a part of the OS"},
	{`c:\efi`, "it is a part of the OS"},
	{`c:\programdata\package cache`, "the installers' packages lie there"},
}

// free are exceptions from them: where everybody's temporary files lie.
var free = []string{`c:\windows\temp`, `c:\windows\system32\config\systemprofile\appdata\local\temp`,
	`c:\windows\syswow64\config\systemprofile\appdata\local\temp`,
	`c:\windows\softwaredistribution\download`, `c:\windows\minidump`, `c:\windows\logs`}

// documents are what users put things into.
var documents = []string{"documents", "desktop", "pictures", "music", "videos", "favorites", "contacts", "saved games"}

// File refuses acts on what holds the whole machine. The path is the final one,
// with all links followed. The error is a [Refused] with what is protected,
// why, and what may be done instead.
func File(act Act, path string) error {
	drive, names, err := machine.SplitPath(path)
	if err != nil {
		return err
	}
	low := strings.ToLower(drive + `:\` + strings.Join(names, `\`))
	bad := func(why string) error { return Refused{Target: path, Why: why} }
	switch {
	case len(names) == 0:
		return bad("a whole drive belongs to the whole system")
	case act == Open && low == `c:\windows\temp`:
		return nil // every account needs it
	case len(names) == 1 && slices.Contains(startFiles, strings.ToLower(names[0])):
		return bad("the OS starts by it")
	case below(low, `c:\users`) && slices.ContainsFunc(profileFiles,
		func(f string) bool { return strings.HasPrefix(strings.ToLower(names[len(names)-1]), f) }):
		return bad("it is a user's part of the registry")
	case act != Make && slices.Contains(shared, low):
		return bad("this folder belongs to the whole system")
	case slices.ContainsFunc(free, func(f string) bool { return below(low, f) }):
		return nil
	case act == Write && strings.HasSuffix(low, ".ini") && len(names) == 2 && names[0] != "" && strings.EqualFold(names[0], "Windows") &&
		!slices.Contains([]string{`c:\windows\win.ini`, `c:\windows\system.ini`, `c:\windows\desktop.ini`}, low):
		return nil // where old programs keep their settings
	}
	for _, o := range ofTheOS {
		if low == o.folder || below(low, o.folder) {
			return bad(o.why)
		}
	}
	if act == Move && below(low, `c:\users`) {
		switch {
		case len(names) == 2, len(names) <= 4 && strings.EqualFold(names[2], "AppData"):
			return bad("it holds all of a user's data")
		case len(names) == 3 && ofDocuments(names[2]):
			return bad("it holds all of a user's documents")
		}
	}
	if act == Write && strings.Contains(low, `\start menu\programs\startup\`) {
		return bad("what lies there runs at every sign-in")
	}
	return nil
}

// Restores says whether a right for an account only gives back what the OS
// itself sets up: its installer's folder is written by SYSTEM and
// administrators.
func Restores(path string, sid sddl.SID) bool {
	return strings.EqualFold(strings.TrimRight(path, `\`), `C:\Windows\Installer`) && (sid == sddl.System || sid == sddl.Administrators)
}

// Temporary says whether a folder is one for temporary files, or lies in one:
// only there are files nobody's for good.
func Temporary(path string) bool {
	drive, names, err := machine.SplitPath(path)
	if err != nil || len(names) == 0 {
		return false
	}
	low := strings.ToLower(drive + `:\` + strings.Join(names, `\`))
	if slices.ContainsFunc(free, func(f string) bool { return low == f || below(low, f) }) {
		return true
	}
	ofUser := len(names) > 2 && strings.EqualFold(names[0], "Users") && !ofDocuments(names[2])
	return slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, "temp") || strings.EqualFold(n, "tmp") }) &&
		(ofUser || strings.EqualFold(names[0], "temp") || strings.EqualFold(names[0], "tmp")) // of a user, or of a drive
}

// ofDocuments says whether a folder of a profile is one in which people keep
// their own work.
func ofDocuments(name string) bool {
	name = strings.ToLower(name)
	return slices.Contains(documents, name) || strings.HasPrefix(name, "onedrive")
}

// Documents says whether a path lies among what a user keeps. Only a person
// chooses to move what is there; a shortcut is none.
func Documents(path string) bool {
	_, names, err := machine.SplitPath(path)
	return err == nil && len(names) > 3 && strings.EqualFold(names[0], "Users") && ofDocuments(names[2]) &&
		!strings.HasSuffix(strings.ToLower(names[len(names)-1]), ".lnk")
}

// below says whether a path lies in a folder, both in small letters.
func below(path, folder string) bool { return strings.HasPrefix(path, folder+`\`) }

// sharedKeys are not deleted, nor is their access changed; keys are without
// their root.
var sharedKeys = []string{`software`, `software\microsoft`, `software\microsoft\windows`, `software\microsoft\windows\currentversion`,
	`software\microsoft\windows nt`, `software\microsoft\windows nt\currentversion`, `software\classes`, `software\classes\clsid`,
	`software\classes\installer`, `software\policies`, `software\policies\microsoft`, `software\wow6432node`, `software\wow6432node\microsoft`,
	`software\wow6432node\classes`, `system`, `system\currentcontrolset`, `system\currentcontrolset\control`,
	`system\currentcontrolset\services`, `sam`, `security`,
	`software\microsoft\windows\currentversion\uninstall`, `software\microsoft\windows\currentversion\installer`,
	`software\microsoft\windows\currentversion\installer\userdata`, `software\classes\installer\products`,
	`software\microsoft\windows\currentversion\run`, `software\microsoft\windows\currentversion\runonce`,
	`software\microsoft\windows nt\currentversion\appcompatflags`, `software\microsoft\windows\currentversion\explorer`, `software\microsoft\windows\currentversion\app paths`,
	`software\microsoft\windows\currentversion\shareddlls`, `software\microsoft\windows\currentversion\installer\folders`,
	`software\classes\interface`, `software\classes\typelib`, `software\classes\appid`, `software\classes\protocols`, `software\classes\mime`,
	`software\classes\installer\features`, `software\classes\installer\upgradecodes`,
	`software\classes\installer\patches`, `software\registeredapplications`}

// coreTypes are the types of files, and their endings, by which the OS runs
// programs and opens folders.
var coreTypes = []string{"exefile", "comfile", "batfile", "cmdfile", "piffile", "scrfile", "dllfile", "sysfile", "lnkfile", "regfile", "inffile",
	"msi.package", "msi.patch", "folder", "directory", "drive", "*", "allfilesystemobjects", ".exe", ".com", ".bat", ".cmd", ".pif", ".scr",
	".dll", ".sys", ".lnk", ".reg", ".inf", ".msi", ".msp", ".ps1", ".vbs", ".js"}

// vital are keys with all that is below them by which the OS decides what runs,
// who may sign in, and what is allowed.
var vital = []struct{ key, why string }{
	{`software\microsoft\windows nt\currentversion\winlogon`, "the OS signs users in by it"},
	{`software\microsoft\windows nt\currentversion\image file execution options`, "it puts one program in the place of another"},
	{`software\microsoft\windows nt\currentversion\silentprocessexit`, "it starts programs when others end"},
	{`software\microsoft\windows nt\currentversion\windows`, "it loads libraries into every program"},
	{`software\microsoft\windows nt\currentversion\profilelist`, "the OS finds the users' profiles by it"},
	{`software\microsoft\windows nt\currentversion\schedule`, "the OS keeps its tasks there"},
	{`software\microsoft\windows nt\currentversion\accessibility`, "it starts programs at the sign-in screen"},
	{`software\microsoft\windows\currentversion\policies`, "it is a policy"},
	{`software\policies`, "it is a policy"},
	{`software\microsoft\windows defender`, "it protects the machine"},
	{`software\microsoft\active setup`, "it starts programs for every user"},
	{`software\microsoft\cryptography`, "it says whom the OS trusts"},
	{`software\microsoft\systemcertificates`, "it says whom the OS trusts"},
	{`software\microsoft\enterprisecertificates`, "it says whom the OS trusts"},
	{`software\microsoft\command processor`, "it runs with every command prompt"},
	{`software\microsoft\amsi`, "it protects the machine"},
	{`software\microsoft\security center`, "it protects the machine"},
	{`software\microsoft\windows\currentversion\authentication`, "the OS signs users in by it"},
	{`software\microsoft\windows nt\currentversion\svchost`, "the OS runs its services by it"},
	{`software\microsoft\windows nt\currentversion\drivers32`, "it loads libraries into every program"},
	{`software\microsoft\windows nt\currentversion\appcompatflags\installedsdb`, "it changes what programs do"},
	{`software\microsoft\windows nt\currentversion\appcompatflags\custom`, "it changes what programs do"},
	{`software\microsoft\windows\currentversion\explorer\shellserviceobjects`, "it loads libraries at every sign-in"},
	{`software\microsoft\windows\currentversion\explorer\shellexecutehooks`, "it loads libraries at every sign-in"},
	{`software\microsoft\windows\currentversion\explorer\sharedtaskscheduler`, "it loads libraries at every sign-in"},
	{`software\microsoft\windows\currentversion\shellserviceobjectdelayload`, "it loads libraries at every sign-in"},
	{`software\microsoft\netsh`, "it loads libraries into a tool of the OS"},
	{`software\microsoft\ole`, "it says who may call which programs"},
	{`software\microsoft\com3`, "the OS calls its parts by it"},
	{`software\microsoft\rpc`, "the OS calls its parts by it"},
	{`software\microsoft\wbem`, "the OS calls its parts by it"},
	{`software\microsoft\eventsystem`, "the OS calls its parts by it"},
	{`system\setup`, "the OS starts by it"},
	{`system\mounteddevices`, "the OS finds its drives by it"},
	{`sam`, "the accounts are kept there"},
	{`security`, "the accounts' secrets are kept there"},
	{`bcd00000000`, "the OS starts by it"},
}

// Service refuses to let a service be stopped or disabled that the OS or its
// protection needs.
func Service(name string) error {
	if why := step.Vital(name); why != "" {
		return Refused{Target: "the service " + name, Why: why, Hint: "restart the machine instead, or ask whoever is in charge of its protection"}
	}
	return nil
}

// control are keys below Control of the same sort.
var control = []string{`lsa`, `securityproviders`, `securepipeservers`, `session manager\appcertdlls`,
	`session manager\knowndlls`, `print\monitors`, `print\providers`, `print\environments`, `ci`, `deviceguard`, `wmi`,
	`networkprovider`, `class`, `hivelist`, `safeboot`, `terminal server`, `watchdog`, `crashcontrol`}

// servicesKey has a step of its own for what is safe to change below it.
const servicesKey = `services`

// known are values that steps of our own set there.
var known = []struct{ key, name string }{
	{`environment`, "temp"}, // of a user's, where the folder is gone
	{`environment`, "tmp"},
	{`software\policies\microsoft\windows\installer`, "logging"},
	{`software\policies\microsoft\windows\installer`, "disablemsi"},
	{`software\policies\microsoft\windows\installer`, "disableuserinstalls"},
	{`software\policies\microsoft\windows\installer`, "debug"},
	{`software\policies\microsoft\windows\appx`, "allowalltrustedapps"},
	{`software\policies\microsoft\windows\appx`, "allowdevelopmentwithoutdevlicense"},
	{`software\microsoft\windows\currentversion\policies\system`, "enablelinkedconnections"},
	{`system\currentcontrolset\control\safeboot\minimal\msiserver`, ""},
	{`system\currentcontrolset\control\safeboot\network\msiserver`, ""},
}

// Value refuses to set, or to take away, a value by which the OS decides what
// runs, who may sign in and what is allowed. The error is a [Refused].
func Value(key, name string, set bool) error {
	low, err := plain(key)
	if err != nil {
		return err
	}
	for _, k := range known {
		if low == k.key && strings.EqualFold(name, k.name) {
			return nil
		}
	}
	if !strings.Contains(low, `\`) {
		return Refused{Target: key, Why: "this key is a whole hive"}
	}
	if !set && low == firewallRules && name != "" {
		return nil // one rule, which let a program through that is gone
	}
	if why := keep(low); why != "" {
		return Refused{Target: key, Why: why}
	}
	if manager := sessionManager(low); manager == "" && !strings.EqualFold(name, "PendingFileRenameOperations") ||
		manager != "" && manager != "no" && manager != "environment" && manager != "power" {
		return Refused{Target: key, Why: "the OS starts by it"}
	}
	if everybodys(low) && !runs(low) && !strings.HasSuffix(low, sharedLibraries) {
		return Refused{Target: key, Why: "this key belongs to the whole system"}
	}
	if set && runs(low) {
		return Refused{Target: key, Why: "what stands there runs at every start"}
	}
	return nil
}

// sharedLibraries has a value for each library that several programs use.
const sharedLibraries = `\currentversion\shareddlls`

// wide is a key as programs of 64 bits see it: what holds there holds for the
// view of those of 32 bits, too, however often that is named.
func wide(low string) string {
	parts := strings.Split(low, `\`)
	parts = slices.DeleteFunc(parts, func(p string) bool { return p == "wow6432node" })
	return strings.Join(parts, `\`)
}

// everybodys says whether a key belongs to the whole system, in either view.
func everybodys(low string) bool {
	return slices.Contains(sharedKeys, low) || slices.Contains(sharedKeys, wide(low))
}

// sessionManager is the key below the OS's session manager, whichever control
// set it stands in: empty for itself, "no" for other keys.
func sessionManager(low string) string {
	parts := strings.SplitN(low, `\`, 5)
	if len(parts) < 4 || parts[0] != "system" || parts[2] != "control" || parts[3] != "session manager" {
		return "no"
	}
	if len(parts) == 4 {
		return ""
	}
	return parts[4]
}

// ofMicrosoft says whether a key is one of the OS's own parts as a whole.
func ofMicrosoft(low string) bool {
	rest, is := strings.CutPrefix(wide(low), `software\microsoft\`)
	return is && !strings.Contains(rest, `\`)
}

// underControl says whether a key stands directly in a control set, or in its
// Control.
func underControl(low string) bool {
	parts := strings.Split(low, `\`)
	return len(parts) > 1 && parts[0] == "system" && (len(parts) <= 3 || len(parts) == 4 && parts[2] == "control")
}

// firewallRules has one value for each rule; none is ever set by a step.
const firewallRules = `system\currentcontrolset\services\sharedaccess\parameters\firewallpolicy\firewallrules`

// runs says whether what a key's values name is started by the OS.
func runs(low string) bool {
	return strings.HasSuffix(low, `\currentversion\run`) || strings.HasSuffix(low, `\currentversion\runonce`) ||
		strings.HasSuffix(low, `\currentversion\runservices`)
}

// Key refuses acts on whole keys. The error is a [Refused].
func Key(act Act, key string) error {
	low, err := plain(key)
	if err != nil {
		return err
	}
	bad := func(why string) error { return Refused{Target: key, Why: why} }
	switch {
	case act == Open && low == "environment": // of the user's own variables, which setups write
	case !strings.Contains(low, `\`):
		return bad("this key is a whole hive")
	case act == Make:
	case everybodys(low), ofMicrosoft(low), underControl(low):
		return bad("this key belongs to the whole system")
	case sessionManager(low) != "no" && !strings.HasPrefix(sessionManager(low), "environment"):
		return bad("the OS starts by it")
	}
	if why := keep(low); why != "" {
		return bad(why)
	}
	return nil
}

// keep says why nothing is done at a key; empty where something may be.
func keep(low string) string {
	low = wide(low)
	for _, v := range vital {
		if low == v.key || below(low, v.key) {
			return v.why
		}
	}
	if kind, is := strings.CutPrefix(low, `software\classes\`); is {
		kind, _, _ = strings.Cut(kind, `\`)
		if slices.Contains(coreTypes, kind) {
			return "the OS runs programs and opens folders by it"
		}
	}
	set, rest, is := strings.Cut(low, `\`)
	if set != "system" || !is {
		return ""
	}
	_, rest, is = strings.Cut(rest, `\`) // CurrentControlSet, or one by its number
	if !is {
		return ""
	}
	if rest == servicesKey || below(rest, servicesKey) {
		return "services are changed by steps of their own"
	}
	if rest == "enum" || below(rest, "enum") || rest == "hardware profiles" || below(rest, "hardware profiles") {
		return "the OS finds its devices by it"
	}
	for _, c := range control {
		if k := `control\` + c; rest == k || below(rest, k) {
			return "the OS starts, or decides who may sign in, by it"
		}
	}
	return ""
}

// plain is a key without its root, in small letters; HKEY_CLASSES_ROOT and a
// user's own keys are what they stand for.
func plain(key string) (string, error) {
	long, err := machine.LongKey(key)
	if err != nil {
		return "", err
	}
	root, rest, _ := strings.Cut(long, `\`)
	rest = strings.ToLower(rest)
	var names []string
	for n := range strings.SplitSeq(rest, `\`) {
		if n != "" {
			names = append(names, n)
		}
	}
	switch root {
	case "HKEY_CLASSES_ROOT":
		names = append([]string{"software", "classes"}, names...)
	case "HKEY_USERS":
		if len(names) > 0 {
			names = names[1:] // whose they are
		}
	}
	return strings.Join(names, `\`), nil
}

// everybody are groups in which everybody is, or that nobody knows the members
// of.
var everybody = []sddl.SID{sddl.Everyone, sddl.Users, sddl.AuthenticatedUsers, sddl.Interactive, "S-1-5-2",
	"S-1-5-7", "S-1-5-32-546", "S-1-5-32-545",
	"S-1-15-2-1", "S-1-15-2-2", "S-1-5-4", "S-1-5-3", "S-1-5-6", "S-1-5-113", "S-1-5-114", "S-1-5-15", "S-1-2-0",
	"S-1-2-1", "S-1-5-32-554", "S-1-5-32-555"}

// Broad says whether an account is one in which everybody is: all of a domain's
// users are, by the last part of their group's ID ([MS-DTYP] 2.4.2.4).
func Broad(sid sddl.SID) bool {
	if slices.Contains(everybody, sid) {
		return true
	}
	if !strings.HasPrefix(string(sid), "S-1-5-21-") {
		return false
	}
	rid := string(sid[strings.LastIndexByte(string(sid), '-')+1:])
	return rid == "513" || rid == "514" || rid == "515" || rid == "501"
}
