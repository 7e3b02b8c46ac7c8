package readiness

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"hollowkey/core/machine"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/package/installdb"
	"hollowkey/core/step"
)

// Who works on the machine, and what stands around a set-up.

func (l *look) administrator() {
	f := l.m.Facts()
	a, err := l.m.Account(l.opt.User)
	admin := err == nil && slices.Contains(a.Groups, sddl.Administrators)
	switch {
	case l.opt.User == "" || err != nil:
		l.add("administrator", CannotTell, "who is signed in is not known", "")
	case !admin:
		l.add("administrator", Stop, l.opt.User+" is no administrator", "run the set-up with an administrator's account")
	case f.Unknown["elevated"] != "":
		l.add("administrator", CannotTell, l.opt.User+" is an administrator; elevated or not: "+f.Unknown["elevated"], "start the set-up from an elevated prompt")
	case !f.Elevated:
		l.add("administrator", Warn, l.opt.User+" is an administrator, but this prompt is not elevated", "start the set-up from an elevated prompt")
	default:
		l.add("administrator", Pass, l.opt.User+", elevated", "")
	}
}

func (l *look) os() {
	o := l.m.Facts().OS
	parts := slices.DeleteFunc([]string{strings.TrimSpace(fmt.Sprintf("%s %s build %d", o.Name, o.Version, o.Build)), o.Edition, o.Architecture}, func(p string) bool { return p == "" })
	seen := strings.Join(parts, ", ")
	switch {
	case o.Build == 0:
		l.add("OS", CannotTell, seen, "")
	case o.Ring != "" && !slices.Contains([]string{"general", "retail", "external", "production"}, strings.ToLower(o.Ring)):
		l.add("OS", Warn, seen+"; preview ring "+o.Ring, "where the vendor does not support previews, use a machine of the general ring")
	default:
		l.add("OS", Pass, seen, "")
	}
}

const (
	longUp   = 14 * 24 * time.Hour
	maxYears = 20
)

// clock compares the machine's time with its last start and with the package:
// certificates and licences do not hold under a wrong one.
func (l *look) clock() {
	f := l.m.Facts()
	if f.Time.IsZero() {
		l.add("clock", CannotTell, f.Unknown["time"], "")
		return
	}
	seen := f.Time.UTC().Format("2006-01-02 15:04 UTC")
	saved := time.Time{}
	if db := l.opt.Package; db != nil {
		if s, err := db.Summary(); err == nil {
			saved = s.Times[installdb.SummarySaved]
		}
	}
	switch {
	case saved.After(f.Time):
		l.add("clock", Stop, fmt.Sprintf("%s, but the package was written on %s", seen, saved.Format("2006-01-02")), "set the clock; certificates and licences do not hold under a wrong one")
	case f.Time.Year() < 2020 || f.Time.Year() > 2020+maxYears:
		l.add("clock", Stop, seen, "set the clock; certificates and licences do not hold under a wrong one")
	case f.Uptime() > longUp:
		l.add("clock", Warn, fmt.Sprintf("%s; the last start was %d days ago", seen, int(f.Uptime().Hours()/24)), "restart the machine before a large set-up")
	default:
		l.add("clock", Pass, seen, "")
	}
}

func (l *look) sessions() {
	all, err := l.m.Sessions()
	if err != nil {
		l.add("other users", CannotTell, err.Error(), "")
		return
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
		l.add("other users", Pass, "nobody else is signed in", "")
		return
	}
	l.add("other users", Warn, "signed in, too: "+strings.Join(who, ", "), "ask them to save and sign out; hollowkey fix --step sign-out --arg user=NAME does it")
}

const filterAltitudes = "FSFilter Anti-Virus" // load order group of the OS

// security looks which virus scanners stand in the way of files: drivers of the
// OS's load order group for them.
func (l *look) security() {
	const services = `HKLM\SYSTEM\CurrentControlSet\Services`
	names, err := l.m.Subkeys(services)
	if err != nil || len(names) == 0 {
		l.add("security software", CannotTell, "the drivers are not known", "")
		return
	}
	var seen []string
	for _, n := range names {
		if g, there, _ := l.text(services+`\`+n, "Group"); there && strings.EqualFold(g, filterAltitudes) {
			name := n
			if d, ok, _ := l.text(services+`\`+n, "DisplayName"); ok && !strings.HasPrefix(d, "@") {
				name = d
			}
			seen = append(seen, name)
		}
	}
	switch {
	case len(seen) == 0:
		l.add("security software", Pass, "no scanner's driver is registered", "")
	case len(seen) == 1:
		l.add("security software", Pass, seen[0]+" scans files", "")
	default:
		l.add("security software", Warn, "several scan files: "+strings.Join(seen, ", "), "where files are refused, except the set-up's folder in them, one after the other")
	}
}

// restrictions are the OS's policies on which programs and packages may run.
func (l *look) restrictions() {
	const name = "software restriction"
	var seen []string
	level, there, err := l.text(`HKLM\SOFTWARE\Policies\Microsoft\Windows\Safer\CodeIdentifiers`, "DefaultLevel")
	if err != nil {
		l.add(name, CannotTell, err.Error(), "")
		return
	}
	if there && level == "0" {
		seen = append(seen, "programs run only where a policy allows them (CodeIdentifiers, DefaultLevel 0)")
	}
	for kind, key := range map[string]string{"packages": "Msi", "programs": "Exe", "scripts": "Script"} {
		if v, there, _ := l.text(`HKLM\SOFTWARE\Policies\Microsoft\Windows\SrpV2\`+key, "EnforcementMode"); there && v == "1" {
			seen = append(seen, kind+" run only where a rule allows them (SrpV2\\"+key+")")
		}
	}
	if seen == nil {
		l.add(name, Pass, "none is set", "")
		return
	}
	slices.Sort(seen)
	l.add(name, Warn, strings.Join(seen, "; "), "have the set-up's folder or vendor allowed by those who keep the policy")
}

func (l *look) sideloading() {
	const key = `HKLM\SOFTWARE\Policies\Microsoft\Windows\Appx`
	v, there, err := l.text(key, "AllowAllTrustedApps")
	switch {
	case err != nil:
		l.add("app sideloading", CannotTell, err.Error(), "")
	case there && v == "0":
		l.add("app sideloading", Warn, "AllowAllTrustedApps is 0: app packages come from the store only", "hollowkey fix --step policy --arg name=sideloading --arg state=on", step.New("policy", "name", "sideloading", "state", "on"))
	default:
		l.add("app sideloading", Pass, "nothing forbids it", "")
	}
}

const internetSettings = `HKCU\Software\Microsoft\Windows\CurrentVersion\Internet Settings`

func (l *look) proxy() {
	on, _, err := l.text(internetSettings, "ProxyEnable")
	if err != nil {
		l.add("proxy", CannotTell, err.Error(), "")
		return
	}
	server, _, _ := l.text(internetSettings, "ProxyServer")
	script, _, _ := l.text(internetSettings, "AutoConfigURL")
	seen := "none is set for the user"
	switch {
	case on == "1":
		seen = "the user's proxy is " + server + "; services do not use it"
	case script != "":
		seen = "by the script " + script
	}
	l.add("proxy", Pass, seen, "")
}

// runtimeFound are the versions of a runtime that are there.
func (l *look) runtimes() (found map[string][]string) {
	found = map[string][]string{}
	if r, there, _ := l.text(`HKLM\SOFTWARE\Microsoft\NET Framework Setup\NDP\v4\Full`, "Release"); there {
		found[".NET Framework"] = []string{frameworkVersion(r)}
	}
	for _, arch := range []string{"x64", "x86", "arm64"} {
		shared := `HKLM\SOFTWARE\dotnet\Setup\InstalledVersions\` + arch + `\sharedfx`
		kinds, _ := l.m.Subkeys(shared)
		for _, k := range kinds {
			values, _ := l.m.Values(shared + `\` + k)
			for _, v := range values {
				found[".NET"] = append(found[".NET"], v.Name)
			}
		}
		for _, root := range []string{`HKLM\SOFTWARE\Microsoft`, `HKLM\SOFTWARE\WOW6432Node\Microsoft`} {
			if v, there, _ := l.text(root+`\VisualStudio\14.0\VC\Runtimes\`+arch, "Version"); there {
				found["C++ runtime "+arch] = append(found["C++ runtime "+arch], strings.TrimPrefix(v, "v"))
			}
		}
	}
	return found
}

// The release numbers of the framework. Source: the OS's documentation, "How to
// determine which .NET Framework versions are installed".
func frameworkVersion(release string) string {
	n, err := strconv.Atoi(release)
	if err != nil {
		return release
	}
	for _, v := range []struct {
		least int
		name  string
	}{{533320, "4.8.1"}, {528040, "4.8"}, {461808, "4.7.2"}, {461308, "4.7.1"}, {460798, "4.7"}, {394802, "4.6.2"}, {394254, "4.6.1"}, {393295, "4.6"}, {379893, "4.5.2"}, {378675, "4.5.1"}, {378389, "4.5"}} {
		if n >= v.least {
			return v.name
		}
	}
	return "4"
}

func (l *look) runtimeList() {
	found := l.runtimes()
	var seen []string
	for name, versions := range found {
		slices.Sort(versions)
		seen = append(seen, name+" "+strings.Join(slices.Compact(versions), ", "))
	}
	if seen == nil {
		l.add("runtimes", CannotTell, "the registry names none", "")
		return
	}
	slices.Sort(seen)
	l.add("runtimes", Pass, strings.Join(seen, "; "), "")
}

// host asks for one host that a set-up needs.
func (l *look) host(name string) {
	host, port := name, 0
	if h, p, ok := strings.Cut(name, ":"); ok {
		if n, err := strconv.Atoi(p); err == nil {
			host, port = h, n
		}
	}
	err := l.m.Reaches(context.Background(), host, port)
	switch {
	case err == nil:
		l.add("site: host", Pass, name+" answers", "")
	case errors.Is(err, machine.ErrUnsupported):
		l.add("site: host", CannotTell, name+" was not tried", "")
	default:
		l.add("site: host", Stop, err.Error(), "look at name resolution and proxy")
	}
}
