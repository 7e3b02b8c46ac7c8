// This file asks how the machine stands at the moment: a restart that is due,
// another installation, policies.

package checks

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/step"
)

// What the machine is in the middle of, and what it is told to allow.

// pendingPlaces are the known places where a due restart shows: a key that is
// there, or a value of it that holds something.
var pendingPlaces = []struct{ key, value, means string }{
	{`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager`, "PendingFileRenameOperations", "files are to be replaced"},
	{`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager`, "PendingFileRenameOperations2", "files are to be replaced"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Component Based Servicing\RebootPending`, "", "a component is half installed"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Component Based Servicing\RebootInProgress`, "", "a component is half installed"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Component Based Servicing\PackagesPending`, "", "components wait to be installed"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\WindowsUpdate\Auto Update\RebootRequired`, "", "an update waits"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\WindowsUpdate\Auto Update\PostRebootReporting`, "", "an update has not reported yet"},
	{`HKLM\SOFTWARE\Microsoft\Updates`, "UpdateExeVolatile", "an update is half done"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\RunOnce`, "DVDRebootSignal", "a setup asked for a restart"},
	{`HKLM\SOFTWARE\Microsoft\ServerManager\CurrentRebootAttempts`, "", "a role of the server waits"},
	{`HKLM\SYSTEM\CurrentControlSet\Services\Netlogon`, "JoinDomain", "the machine is joining a domain"},
	{`HKLM\SYSTEM\CurrentControlSet\Services\Netlogon`, "AvoidSpnSet", "the machine is joining a domain"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\PendingRename`, "", "the installer engine's files are to be replaced"},
}

// Two keys below it hold the name that is used and the one that holds after a
// restart: they differ when a rename waits.
const computerName = `HKLM\SYSTEM\CurrentControlSet\Control\ComputerName\`

// restart looks for a restart that is due. A place that cannot be read leaves
// the question open, unless another one answers it.
func (l *look) restart() Finding {
	const name = "pending restart"
	var seen []string
	var unread error
	note := func(err error) {
		if err != nil && unread == nil {
			unread = err
		}
	}
	// Any one of them is enough: each is set by another part of the OS.
	for _, p := range pendingPlaces {
		if p.value == "" {
			there, err := l.keyThere(p.key)
			note(err)
			if there {
				seen = append(seen, p.means+" ("+p.key+")")
			}
			continue
		}
		v, there, err := l.text(p.key, p.value)
		note(err)
		if there && strings.Trim(v, "\n0") != "" { // an empty list and the number 0 wait for nothing
			seen = append(seen, p.means+" ("+p.value+")")
		}
	}
	// A machine with a new name has it only after a restart.
	now, known, err := l.text(computerName+"ActiveComputerName", "ComputerName")
	note(err)
	next, alsoKnown, err := l.text(computerName+"ComputerName", "ComputerName")
	note(err)
	if known && alsoKnown && !strings.EqualFold(now, next) {
		seen = append(seen, "the machine is to be called "+next)
	}
	switch {
	case seen != nil:
		return Finding{Name: name, Answer: Stop, Seen: strings.Join(seen, "; "), Mend: "restart the machine first"}
	case unread != nil:
		return l.cannot(name, "", unread)
	}
	return pass(name, "none is due")
}

// otherInstallation looks for the engine's mark of a running installation. One
// that broke off leaves it behind, and the engine then waits for nobody.
func (l *look) otherInstallation() Finding {
	const name = "other installation"
	const key = `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\InProgress`
	there, err := l.keyThere(key)
	switch {
	case err != nil:
		return l.cannot(name, "", err)
	case there:
		return Finding{Name: name, Answer: Stop, Seen: "one is under way, or broke off (" + key + ")",
			Mend: "let it end; if none runs, restart the machine"}
	}
	list, err := l.m.Processes()
	if err != nil {
		return l.cannot(name, "", err)
	}
	for _, p := range list { // the service's own process stays for a while when all is done; a person's does not
		if a, err := l.m.Account(p.User); strings.EqualFold(p.Name, "msiexec.exe") && err == nil && !machine.OwnAccount(p.User) && a.SID != sddl.System {
			return Finding{Name: name, Answer: Stop, Seen: fmt.Sprintf("%s (process %d, of %s) runs", p.Name, p.ID, p.User), Mend: "let it end"}
		}
	}
	return pass(name, "none is under way")
}

// The engine's policies; values below it stop installs, or allow them only for
// administrators.
const installerPolicies = `HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer`

// installerPolicy looks for the policy that forbids setups. Its middle value
// lets managed ones through, so it only warns.
func (l *look) installerPolicy() Finding {
	const name = "installer policy"
	v, there, err := l.text(installerPolicies, "DisableMSI")
	switch {
	case err != nil:
		return l.cannot(name, "", err)
	case there && v == "2":
		return Finding{Name: name, Answer: Stop, Seen: "DisableMSI is 2: every setup is forbidden",
			Mend:  "have the policy changed, or set it to 0",
			Steps: []step.Model{step.New("registry", "key", installerPolicies, "name", "DisableMSI", "type", "dword", "value", "0")}}
	case there && v == "1":
		return Finding{Name: name, Answer: Warn, Seen: "DisableMSI is 1: only managed setups run",
			Mend: "deploy it through management, or have the policy changed"}
	}
	return pass(name, "nothing forbids setups")
}

// verboseLogging warns when the next failure would leave no log to read.
func (l *look) verboseLogging() Finding {
	const name = "verbose logging"
	v, there, err := l.text(installerPolicies, "Logging")
	switch {
	case err != nil:
		return l.cannot(name, "", err)
	case there:
		return pass(name, "on: %s", v)
	}
	return Finding{Name: name, Answer: Warn, Seen: "off: a setup that fails leaves no log", Command: []string{"logs", "verbose", "on"}}
}

// fastStartup matters because people shut down where a restart was asked for:
// with it the OS's core is not started anew, and what waits for that goes on
// waiting.
func (l *look) fastStartup() Finding {
	const name = "fast startup"
	v, there, err := l.text(`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Power`, "HiberbootEnabled")
	switch {
	case err != nil:
		return l.cannot(name, "", err)
	case there && v == "1":
		return Finding{Name: name, Answer: Warn, Seen: "on: shutting down is no restart",
			Mend: "restart, do not shut down, when a restart is due"}
	}
	return pass(name, "off")
}

// restrictionKinds are what the OS's policy on programs rules over, with the
// names of its keys.
var restrictionKinds = []struct{ what, key string }{{"packages", "Msi"}, {"programs", "Exe"}, {"scripts", "Script"}}

// restrictions are the OS's policies on which programs and packages may run.
func (l *look) restrictions() Finding {
	const name = "software restriction"
	var seen []string
	level, there, err := l.text(`HKLM\SOFTWARE\Policies\Microsoft\Windows\Safer\CodeIdentifiers`, "DefaultLevel")
	if there && level == "0" {
		seen = append(seen, "programs run only where a policy allows them (CodeIdentifiers, DefaultLevel 0)")
	}
	for _, k := range restrictionKinds {
		v, there, bad := l.text(`HKLM\SOFTWARE\Policies\Microsoft\Windows\SrpV2\`+k.key, "EnforcementMode")
		if bad != nil {
			err = bad
		}
		if there && v == "1" {
			seen = append(seen, k.what+" run only where a rule allows them (SrpV2\\"+k.key+")")
		}
	}
	switch {
	case seen != nil:
		slices.Sort(seen)
		return Finding{Name: name, Answer: Warn, Seen: strings.Join(seen, "; "),
			Mend: "have the setup's folder or vendor allowed by those who keep the policy"}
	case err != nil:
		return l.cannot(name, "", err)
	}
	return pass(name, "none is set")
}

// sideloading asks for the policy on app packages from outside the store.
func (l *look) sideloading() Finding {
	const name = "app sideloading"
	v, there, err := l.text(`HKLM\SOFTWARE\Policies\Microsoft\Windows\Appx`, "AllowAllTrustedApps")
	switch {
	case err != nil:
		return l.cannot(name, "", err)
	case there && v == "0":
		return Finding{Name: name, Answer: Warn, Seen: "AllowAllTrustedApps is 0: app packages come from the store only",
			Command: []string{"fix", "--step", "policy", "--arg", "name=sideloading", "--arg", "state=on"},
			Steps:   []step.Model{step.New("policy", "name", "sideloading", "state", "on")}}
	}
	return pass(name, "nothing forbids it")
}

// scannerGroup is the OS's load order group of file drivers that look for
// viruses. Source: the OS's documentation of load order groups.
const scannerGroup = "FSFilter Anti-Virus"

// protection names what scans files on the machine, for a setup that protection
// software stepped into. Whether it did just this, its own window tells; the
// machine does not.
func (l *look) protection(arguments) Finding {
	f := l.securitySoftware()
	f.Name = "protection"
	if f.Answer == Pass || f.Answer == Warn {
		f.Answer = Unknown
		f.Seen += "; its own history says whether it stopped this, and an exception is set there, not from here"
	}
	return f
}

// securitySoftware looks which virus scanners stand in the way of files.
func (l *look) securitySoftware() Finding {
	const name = "security software"
	const services = `HKLM\SYSTEM\CurrentControlSet\Services`
	names, err := l.m.Subkeys(services)
	if err != nil || len(names) == 0 {
		return unknown(name, "the drivers are not known")
	}
	var seen []string
	var unread error
	// Drivers that look into files say so by the group in which the OS loads
	// them.
	for _, n := range names {
		g, there, err := l.text(services+`\`+n, "Group")
		if err != nil {
			unread = err
		}
		if !there || !strings.EqualFold(g, scannerGroup) {
			continue
		}
		if d, ok, _ := l.text(services+`\`+n, "DisplayName"); ok && !strings.HasPrefix(d, "@") { // "@file,-1" stands for a text of a file
			n = d
		}
		seen = append(seen, n)
	}
	switch {
	case len(seen) > 1:
		return Finding{Name: name, Answer: Warn, Seen: "several scan files: " + strings.Join(seen, ", "),
			Mend: "where files are refused, except the setup's folder in them, one after the other"}
	case unread != nil:
		return l.cannot(name, "", unread)
	case len(seen) == 1:
		return pass(name, "%s scans files", seen[0])
	}
	return pass(name, "no scanner's driver is registered")
}

// otherUsers warns of sessions in the background: their programs hold files,
// and a restart loses their work.
func (l *look) otherUsers() Finding {
	const name = "other users"
	all, err := l.m.Sessions()
	if err != nil {
		return l.cannot(name, "", err)
	}
	var who []string
	for _, s := range all {
		if s.Own {
			continue
		}
		state := "in the background"
		if s.Active {
			state = "active"
		}
		who = append(who, fmt.Sprintf("%s (%s)", s.User, state))
	}
	if who == nil {
		return pass(name, "nobody else is signed in")
	}
	return Finding{Name: name, Answer: Warn, Seen: "signed in, too: " + strings.Join(who, ", "),
		Mend: "ask them to save and sign out, or:", Command: []string{"fix", "--step", "sign-out", "--arg", "user=NAME"}}
}

// safeBoot asks whether the OS is set to start in safe mode, whoever set it:
// the engine's service and most others do not start there.
func (l *look) safeBoot() Finding {
	const name = "next start"
	b, err := l.m.SafeBoot()
	switch {
	case err != nil:
		return l.cannot(name, "", err)
	case b == "":
		return unknown(name, "how the OS starts next is not known")
	case b == machine.SafeBootOff:
		return pass(name, "the OS starts as usual")
	}
	return Finding{Name: name, Answer: Warn, Seen: "the OS is set to start in safe mode (" + string(b) + ") until that is undone",
		Mend: "end safe mode", Command: []string{"startup", "safe", "off"}}
}
