// Package readiness checks before (or after) a set-up whether a machine is fit
// for it: against general needs, a package's own, and a site's.
package readiness

import (
	"errors"
	"fmt"
	"io/fs"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
	"hollowkey/core/step"
)

// Answer is how a check came out.
type Answer string

// The answers.
const (
	Pass       Answer = "pass"
	Warn       Answer = "warn"
	Stop       Answer = "stop"
	CannotTell Answer = "cannot tell"
)

// A Check is one thing that was looked at.
type Check struct {
	Name   string       `json:"name"`
	Answer Answer       `json:"answer"`
	Seen   string       `json:"seen"`           // the value that was seen
	Mend   string       `json:"mend,omitempty"` // what puts it right
	Steps  []step.Model `json:"steps,omitempty"`
}

// Options say what is checked besides the general needs.
type Options struct {
	User    string              // whose folders and rights count; the signed-in one when empty
	Package *installdb.Database // may be nil
	Needs   *Needs              // may be nil
}

type look struct {
	m    machine.Machine
	opt  Options
	list []Check
}

// Run makes all checks. What cannot be read is told in its check; nothing ends
// the rest.
func Run(m machine.Machine, opt Options) []Check {
	if s, ok := m.(interface{ SignedIn() string }); ok && opt.User == "" {
		opt.User = s.SignedIn()
	}
	l := &look{m: m, opt: opt}
	for _, check := range []func(){
		l.administrator, l.os, l.clock, l.restart, l.running, l.service, l.space, l.temporary, l.cacheFolder, l.blockingFiles, l.path, l.shellFolders, l.policies,
		l.restrictions, l.sideloading, l.verbose, l.cache, l.fastStartup, l.sessions, l.security, l.runtimeList, l.proxy,
		l.platform, l.registered, l.targets, l.packageNeeds, l.siteNeeds,
	} {
		check()
	}
	return l.list
}

func (l *look) add(name string, a Answer, seen, mend string, steps ...step.Model) {
	l.list = append(l.list, Check{name, a, seen, mend, steps})
}

// text reads a registry value; there is false when it is absent.
func (l *look) text(key, name string) (value string, there bool, err error) {
	v, err := l.m.Value(key, name)
	if errors.Is(err, fs.ErrNotExist) {
		return "", false, nil
	}
	if err != nil {
		return "", false, err
	}
	return v.Words(), true, nil
}

// pending are the known places where a due restart shows: a key that is there,
// or a value of it that holds something.
var pending = []struct{ key, value, means string }{
	{`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager`, "PendingFileRenameOperations", "files are to be replaced"},
	{`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager`, "PendingFileRenameOperations2", "files are to be replaced"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Component Based Servicing\RebootPending`, "", "a component is half installed"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Component Based Servicing\RebootInProgress`, "", "a component is half installed"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Component Based Servicing\PackagesPending`, "", "components wait to be installed"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\WindowsUpdate\Auto Update\RebootRequired`, "", "an update waits"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\WindowsUpdate\Auto Update\PostRebootReporting`, "", "an update has not reported yet"},
	{`HKLM\SOFTWARE\Microsoft\Updates`, "UpdateExeVolatile", "an update is half done"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\RunOnce`, "DVDRebootSignal", "a set-up asked for a restart"},
	{`HKLM\SOFTWARE\Microsoft\ServerManager\CurrentRebootAttempts`, "", "a role of the server waits"},
	{`HKLM\SYSTEM\CurrentControlSet\Services\Netlogon`, "JoinDomain", "the machine is joining a domain"},
	{`HKLM\SYSTEM\CurrentControlSet\Services\Netlogon`, "AvoidSpnSet", "the machine is joining a domain"},
	{`HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\PendingRename`, "", "the installer engine's files are to be replaced"},
}

const computerName = `HKLM\SYSTEM\CurrentControlSet\Control\ComputerName\`

func (l *look) restart() {
	var seen []string
	for _, p := range pending {
		if p.value == "" {
			if there, err := l.m.KeyExists(p.key); err == nil && there {
				seen = append(seen, p.means+" ("+p.key+")")
			}
			continue
		}
		if v, there, err := l.text(p.key, p.value); err == nil && there && strings.Trim(v, "\n0") != "" {
			seen = append(seen, p.means+" ("+p.value+")")
		}
	}
	now, known, _ := l.text(computerName+"ActiveComputerName", "ComputerName")
	next, alsoKnown, _ := l.text(computerName+"ComputerName", "ComputerName")
	if known && alsoKnown && !strings.EqualFold(now, next) {
		seen = append(seen, "the machine is to be called "+next)
	}
	if seen == nil {
		l.add("pending restart", Pass, "none is due", "")
		return
	}
	l.add("pending restart", Stop, strings.Join(seen, "; "), "restart the machine first")
}

func (l *look) running() {
	const key = `HKLM\SOFTWARE\Microsoft\Windows\CurrentVersion\Installer\InProgress`
	there, err := l.m.KeyExists(key)
	switch {
	case err != nil:
		l.add("other installation", CannotTell, err.Error(), "")
	case there:
		l.add("other installation", Stop, "one is under way, or broke off ("+key+")", "let it end; if none runs, restart the machine")
	default:
		l.add("other installation", Pass, "none is under way", "")
	}
}

func (l *look) service() {
	const name = "installer service"
	s, err := l.m.Service("msiserver")
	switch {
	case errors.Is(err, fs.ErrNotExist):
		l.add(name, Stop, "it is not registered", "register it again", step.New("installer-service"))
	case err != nil:
		l.add(name, CannotTell, err.Error(), "")
	case s.Start == machine.StartDisabled:
		l.add(name, Stop, "its start type is disabled", "set it to manual", step.New("service", "name", "msiserver", "start", string(machine.StartManual)))
	case !strings.Contains(strings.ToLower(s.Binary), "msiexec"):
		l.add(name, Stop, "it is registered with another program: "+s.Binary, "register it again", step.New("installer-service"))
	default:
		l.add(name, Pass, "start type "+string(s.Start), "")
	}
}

const (
	leastFree = 1 << 30 // bytes below which most set-ups have trouble
	bytesGiB  = 1 << 30
)

// space compares the system drive's free space with what the package's files
// need twice: in the cache and in place.
func (l *look) space() {
	need, why := int64(leastFree), "any set-up"
	if db := l.opt.Package; db != nil {
		if t, err := db.TableOrEmpty("File"); err == nil {
			sum := int64(0)
			for _, r := range t.Rows {
				sum += int64(t.Get(r, "FileSize").Int)
			}
			if 2*sum > need {
				need, why = 2*sum, "the package"
			}
		}
	}
	if n := l.opt.Needs; n != nil && n.free > need {
		need, why = n.free, "the site's needs"
	}
	temp := strings.ToUpper(l.environment("TEMP"))
	for _, d := range l.m.Facts().Drives {
		if d.Letter != "C:" && strings.HasPrefix(temp, d.Letter) && d.Size > 0 {
			seen := fmt.Sprintf("%s, where the temporary folder lies, has %.1f GiB free, %s wants %.1f GiB", d.Letter, float64(d.Free)/bytesGiB, why, float64(need)/bytesGiB)
			if d.Free < need {
				l.add("free space on "+d.Letter, Stop, seen, "free space on "+d.Letter)
			} else {
				l.add("free space on "+d.Letter, Pass, seen, "")
			}
		}
	}
	for _, d := range l.m.Facts().Drives {
		if d.Letter != "C:" {
			continue
		}
		seen := fmt.Sprintf("C: has %.1f GiB free, %s wants %.1f GiB", float64(d.Free)/bytesGiB, why, float64(need)/bytesGiB)
		if d.Free < need {
			l.add("free space", Stop, seen, "free space on C:")
		} else {
			l.add("free space", Pass, seen, "")
		}
		return
	}
	l.add("free space", CannotTell, "C: is not among the drives", "")
}

func (l *look) policies() {
	const key = `HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer`
	v, there, err := l.text(key, "DisableMSI")
	switch {
	case err != nil:
		l.add("installer policy", CannotTell, err.Error(), "")
	case there && v == "2":
		l.add("installer policy", Stop, "DisableMSI is 2: every set-up is forbidden", "have the policy changed, or set it to 0", step.New("registry", "key", key, "name", "DisableMSI", "type", "dword", "value", "0"))
	case there && v == "1":
		l.add("installer policy", Warn, "DisableMSI is 1: only managed set-ups run", "deploy it through management, or have the policy changed")
	default:
		l.add("installer policy", Pass, "nothing forbids set-ups", "")
	}
}

func (l *look) verbose() {
	v, there, err := l.text(`HKLM\SOFTWARE\Policies\Microsoft\Windows\Installer`, "Logging")
	switch {
	case err != nil:
		l.add("verbose logging", CannotTell, err.Error(), "")
	case there:
		l.add("verbose logging", Pass, "on: "+v, "")
	default:
		l.add("verbose logging", Warn, "off: a set-up that fails leaves no log", "hollowkey logs verbose on")
	}
}

func (l *look) fastStartup() {
	v, there, err := l.text(`HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Power`, "HiberbootEnabled")
	switch {
	case err != nil:
		l.add("fast startup", CannotTell, err.Error(), "")
	case there && v == "1":
		l.add("fast startup", Warn, "on: shutting down is no restart", "restart, do not shut down, when a restart is due")
	default:
		l.add("fast startup", Pass, "off", "")
	}
}

func (l *look) packageNeeds() {
	if l.opt.Package == nil {
		return
	}
	list, err := gates.Find(gates.NewWorld(l.opt.Package, l.m, nil))
	if err != nil {
		l.add("the package's gates", CannotTell, err.Error(), "")
		return
	}
	passes := 0
	for _, g := range list {
		name := "package: " + string(g.Kind)
		switch g.Answer {
		case gates.Passes:
			passes++
			continue
		case gates.Fails:
			mend := ""
			if len(g.Ways) > 0 {
				mend = g.Ways[0].Text + "; hollowkey package gates tells all ways"
			}
			l.add(name, Stop, strings.TrimSpace(gateSeen(g)), mend)
		default:
			l.add(name, CannotTell, strings.TrimSpace(gateSeen(g)), "")
		}
	}
	l.add("package: other gates", Pass, fmt.Sprintf("%d pass", passes), "")
}

func gateSeen(g gates.Gate) string {
	text := g.Condition
	if g.Kind != gates.Launch && g.Kind != gates.Platform {
		text = g.Row
	}
	for _, r := range g.Why {
		if r.Symbol == "" {
			continue
		}
		value := r.Value
		switch {
		case !r.Known:
			value = "not known"
		case value == "":
			value = "not set"
		}
		return text + ": " + r.Symbol + " is " + value
	}
	return text + " " + g.Note
}
