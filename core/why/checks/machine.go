// This file asks what the machine is: its OS, clock, runtimes, proxy, and who
// works on it.

package checks

import (
	"context"
	"errors"
	"fmt"
	"net"
	"slices"
	"strconv"
	"strings"
	"time"

	"hollowkey/core/machine"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/package/installdb"
)

// What the machine is: who works on it, its OS, clock, runtimes and network.

// administrator asks for the group, then for the token: an administrator whose
// prompt is not elevated is refused by the OS like anybody else.
func (l *look) administrator() Finding {
	const name = "administrator"
	f := l.m.Facts()
	user := l.opt.User
	a, err := l.m.Account(user)
	elevated := "start the setup from an elevated prompt"
	switch {
	case user == "" || err != nil:
		return unknown(name, "who is signed in is not known")
	case !slices.Contains(a.Groups, sddl.Administrators):
		return Finding{Name: name, Answer: Stop, Seen: user + " is no administrator", Mend: "run the setup with an administrator's account"}
	case f.Unknown["elevated"] != "":
		return Finding{Name: name, Answer: Unknown, Seen: user + " is an administrator; elevated or not: " + f.Unknown["elevated"],
			Mend: elevated}
	case !f.Elevated:
		return Finding{Name: name, Answer: Warn, Seen: user + " is an administrator, but this prompt is not elevated", Mend: elevated}
	}
	return pass(name, "%s, elevated", user)
}

// notElevated asks whether whoever runs the setup has no administrator's
// rights, which it complains of.
func (l *look) notElevated() Finding {
	f := l.administrator()
	if f.Name = "not-elevated"; f.Answer == Warn {
		f.Answer = Stop
	}
	return f
}

// generalRings are the update rings whose builds are released to everybody.
var generalRings = []string{"", "general", "retail", "external", "production"}

// os tells the build; a preview ring is worth a word, for vendors test on
// released builds.
func (l *look) os() Finding {
	const name = "OS"
	o := l.m.Facts().OS
	parts := []string{strings.TrimSpace(fmt.Sprintf("%s %s build %d", o.Name, o.Version, o.Build)), o.Edition, o.Architecture}
	seen := strings.Join(slices.DeleteFunc(parts, func(p string) bool { return p == "" }), ", ")
	switch {
	case o.Build == 0:
		return unknown(name, "%s", seen)
	case !slices.Contains(generalRings, strings.ToLower(o.Ring)):
		return Finding{Name: name, Answer: Warn, Seen: seen + "; preview ring " + o.Ring,
			Mend: "where the vendor does not support previews, use a machine of the general ring"}
	}
	return pass(name, "%s", seen)
}

const (
	longUp    = 14 * 24 * time.Hour // updates of two months then wait for a restart
	firstYear = 2020                // no clock that is right shows less: OS and engine here are newer
	lastYear  = firstYear + 20      // nor more, for as long as this program is in use
)

// clock compares the machine's time with its last start and with the package:
// certificates and licences do not hold under a wrong one.
func (l *look) clock() Finding {
	const name = "clock"
	const set = "set the clock; certificates and licences do not hold under a wrong one"
	f := l.m.Facts()
	if f.Time.IsZero() {
		return unknown(name, "%s", f.Unknown["time"])
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
		return Finding{Name: name, Answer: Stop, Seen: fmt.Sprintf("%s, but the package was written on %s", seen, saved.Format("2006-01-02")),
			Mend: set}
	case f.Time.Year() < firstYear || f.Time.Year() > lastYear:
		return Finding{Name: name, Answer: Stop, Seen: seen, Mend: set}
	case f.Uptime() > longUp:
		return Finding{Name: name, Answer: Warn, Seen: fmt.Sprintf("%s; the last start was %d days ago", seen, int(f.Uptime().Hours()/24)),
			Mend: "restart the machine before a large setup"}
	}
	return pass(name, "%s", seen)
}

// The acting user's proxy. What the machine's own services use is kept
// elsewhere and asked apart.
const internetSettings = `HKCU\Software\Microsoft\Windows\CurrentVersion\Internet Settings`

// userProxy begins what is said of a proxy that is set.
const userProxy = "the user's proxy is"

// proxy tells of the user's proxy. It is never wrong by itself, but a service
// that downloads does not use it, and that looks like a broken network.
func (l *look) proxy() Finding {
	const name = "proxy"
	on, _, err := l.text(internetSettings, "ProxyEnable")
	server, _, bad := l.text(internetSettings, "ProxyServer")
	script, _, alsoBad := l.text(internetSettings, "AutoConfigURL")
	if err = errors.Join(err, bad, alsoBad); err != nil {
		return l.cannot(name, "", err)
	}
	switch {
	case on == "1":
		return pass(name, userProxy+" %s; services do not use it", server)
	case script != "":
		return pass(name, "by the script %s", script)
	}
	return pass(name, "none is set for the user")
}

// runtimes are the versions of each runtime that are there. The error tells of
// what could not be read; what was found counts all the same.
func (l *look) runtimes() (found map[string][]string, err error) {
	found = map[string][]string{}
	release, there, err := l.text(`HKLM\SOFTWARE\Microsoft\NET Framework Setup\NDP\v4\Full`, "Release")
	if there {
		found[".NET Framework"] = []string{frameworkVersion(release)}
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
			v, there, bad := l.text(root+`\VisualStudio\14.0\VC\Runtimes\`+arch, "Version")
			err = errors.Join(err, bad)
			if there {
				found["C++ runtime "+arch] = append(found["C++ runtime "+arch], strings.TrimPrefix(v, "v"))
			}
		}
	}
	return found, err
}

// frameworkReleases are the least release numbers of the framework's versions,
// the newest first. Source: the OS's documentation, "How to determine which
// .NET Framework versions are installed".
var frameworkReleases = []struct {
	least int
	name  string
}{
	{533320, "4.8.1"}, {528040, "4.8"}, {461808, "4.7.2"}, {461308, "4.7.1"}, {460798, "4.7"}, {394802, "4.6.2"}, {394254, "4.6.1"},
	{393295, "4.6"}, {379893, "4.5.2"}, {378675, "4.5.1"}, {378389, "4.5"},
}

// frameworkVersion is the version that a release number stands for. Numbers
// rise with each build of the OS, so the last one not above it counts.
func frameworkVersion(release string) string {
	n, err := strconv.Atoi(release)
	if err != nil {
		return release
	}
	for _, v := range frameworkReleases {
		if n >= v.least {
			return v.name
		}
	}
	return "4"
}

// runtimeList lists the runtimes that setups ask for most.
func (l *look) runtimeList() Finding {
	const name = "runtimes"
	found, err := l.runtimes()
	var seen []string
	for name, versions := range found {
		slices.Sort(versions)
		seen = append(seen, name+" "+strings.Join(slices.Compact(versions), ", "))
	}
	slices.Sort(seen)
	switch {
	case err != nil:
		return l.cannot(name, "", err)
	case seen == nil:
		return unknown(name, "the registry names none")
	}
	return pass(name, "%s", strings.Join(seen, "; "))
}

// hostReachable asks whether a host answers.
func (l *look) hostReachable(with arguments) Finding {
	return l.host("host-reachable", with["host"])
}

// host asks for one host, "name" or "name:port".
func (l *look) host(name, address string) Finding {
	host, port := address, 0
	if h, p, err := net.SplitHostPort(address); err == nil {
		if n, err := strconv.Atoi(p); err == nil {
			host, port = h, n
		}
	}
	err := l.m.Reaches(context.Background(), host, port)
	switch {
	case err == nil:
		return pass(name, "%s answers on %s", address, l.m.Name())
	case errors.Is(err, machine.ErrUnsupported):
		return unknown(name, "whether %s answers is not known on %s", address, l.m.Name())
	}
	f := Finding{Name: name, Answer: Stop, Seen: fmt.Sprintf("%s: %v", l.m.Name(), err)}
	if errors.Is(err, machine.ErrNoName) {
		f.Mend = "put name resolution right for " + host + ": the name server of this network, the VPN, a line in the hosts file"
		return f
	}
	f.Mend = "let " + address + " be reached: the name is known, so look at the proxy, the firewall and the server itself"
	if p := l.proxy(); strings.HasPrefix(p.Seen, userProxy) {
		f.Mend += "; " + p.Seen
	}
	return f
}
