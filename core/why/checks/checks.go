// Package checks is the one room that asks a machine something: whether a cause
// that a log makes likely is really so, and whether a machine is fit for a
// setup. Each check has a name, by which signs ask it, and there is one set of
// thresholds for all of them.
//
// A check that cannot be answered says so; what cannot be read is never "pass".
package checks

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/apppack"
	"hollowkey/core/package/choose"
	"hollowkey/core/package/installdb"
	"hollowkey/core/package/whole"
	"hollowkey/core/step"
	"hollowkey/core/why/signs"
)

// State is how a check came out.
type State string

// The states.
const (
	Pass    State = "pass"
	Warn    State = "warn"
	Stop    State = "stop" // it keeps a setup from working, or the cause is really so
	Unknown State = "unknown"
)

// A Finding is what one check brought.
type Finding struct {
	Name   string `json:"name"`           // of the check
	Answer State  `json:"answer"`         // pass, warn, stop or unknown
	Seen   string `json:"seen"`           // the value that was seen
	Mend   string `json:"mend,omitempty"` // how to fix it, in words
	// Command is how to fix it as the program's arguments, without the
	// machine; words in capitals stand for what only a person knows.
	Command []string     `json:"command,omitempty"`
	Steps   []step.Model `json:"steps,omitempty"` // that would mend it; none where only a person can
	Class   string       `json:"-"`               // of the cause, where it is another than the question was about
	// Captures are filled into the texts and steps of the sign that asked.
	Captures map[string]string `json:"-"`

	unread bool     // what was asked about is not there, or could not be read
	lost   []string // folders that PATH lacks
}

// Options say what is checked besides the general needs.
type Options struct {
	User    string              // whose folders and rights count; the signed-in one when empty
	Package *installdb.Database // may be nil
	Needs   *Needs              // a site's; may be nil
	File    *whole.Report       // of the setup file; may be nil
	App     *apppack.Package    // may be nil
}

// Setup takes what the checks ask of a setup that was opened.
func (o *Options) Setup(s *choose.Setup) {
	o.File, o.App = s.Whole, s.App
	if s.Database != nil && s.Database.Format == installdb.Package {
		o.Package = s.Database
	}
}

// look is one look at a machine.
type look struct {
	m   machine.Machine // looked at, never changed
	opt Options         // thresholds and names that the asker gave
}

// newLook asks as the user who is signed in, unless another one is named: what
// a setup fails at are that person's folders.
func newLook(m machine.Machine, opt Options) *look {
	if opt.User == "" {
		opt.User = m.SignedIn()
	}
	return &look{m, opt}
}

// arguments are what a sign's question names: a folder, a service, a user.
type arguments map[string]string

// A check is one question to a machine.
type check struct {
	name  string   // by which signs ask it
	takes []string // the arguments that it needs
	// ask answers; no finding means that the question does not arise here.
	ask func(*look, arguments) []Finding
	// ready says that `ready` asks it of every machine, without arguments.
	ready bool
}

// registry holds all checks, in the order in which ready shows them.
func registry() []check {
	// Three shapes of checks, brought to one: about a thing that is named,
	// about the machine, and about several things at once.
	one := func(f func(*look, arguments) Finding) func(*look, arguments) []Finding {
		return func(l *look, with arguments) []Finding { return []Finding{f(l, with)} }
	}
	plain := func(f func(*look) Finding) func(*look, arguments) []Finding {
		return func(l *look, _ arguments) []Finding { return []Finding{f(l)} }
	}
	rows := func(f func(*look) []Finding) func(*look, arguments) []Finding {
		return func(l *look, _ arguments) []Finding { return f(l) }
	}
	return []check{
		{name: "administrator", ask: plain((*look).administrator), ready: true},
		{name: "os", ask: plain((*look).os), ready: true},
		{name: "clock", ask: plain((*look).clock), ready: true},
		{name: "pending-restart", ask: plain((*look).restart), ready: true},
		{name: "other-installation", ask: plain((*look).otherInstallation), ready: true},
		{name: "installer-service", ask: plain((*look).installerService), ready: true},
		{name: "space", ask: rows((*look).space), ready: true},
		{name: "temp-writable", ask: plain((*look).temporaryFolders), ready: true},
		{name: "cache-writable", ask: plain((*look).cacheFolder), ready: true},
		{name: "files-in-the-way", ask: plain((*look).blockingFiles), ready: true},
		{name: "path-variable", ask: plain((*look).pathVariable), ready: true},
		{name: "shell-folders", ask: plain((*look).shellFolders), ready: true},
		{name: "installer-policy", ask: plain((*look).installerPolicy), ready: true},
		{name: "software-restriction", ask: plain((*look).restrictions), ready: true},
		{name: "sideloading", ask: plain((*look).sideloading), ready: true},
		{name: "verbose-logging", ask: plain((*look).verboseLogging), ready: true},
		{name: "cached-packages", ask: plain((*look).cachedPackages), ready: true},
		{name: "safe-boot", ask: plain((*look).safeBoot), ready: true},
		{name: "fast-startup", ask: plain((*look).fastStartup), ready: true},
		{name: "other-users", ask: plain((*look).otherUsers), ready: true},
		{name: "security-software", ask: plain((*look).securitySoftware), ready: true},
		{name: "runtimes", ask: plain((*look).runtimeList), ready: true},
		{name: "proxy", ask: plain((*look).proxy), ready: true},

		// From here on they say something only where a package or a site's
		// needs are given.
		{name: "setup-file", ask: rows((*look).setupFile), ready: true},
		{name: "stale-copies", ask: rows((*look).staleCopies), ready: true},
		{name: "app-package", ask: rows((*look).appPackage), ready: true},
		{name: "package-platform", ask: rows((*look).packagePlatform), ready: true},
		{name: "package-registrations", ask: rows((*look).packageRegistrations), ready: true},
		{name: "package-folders", ask: rows((*look).packageTargets), ready: true},
		{name: "package-gates", ask: rows((*look).packageGates), ready: true},
		{name: "site-needs", ask: rows((*look).siteNeeds), ready: true},

		// From here on they ask about one named thing, for signs and for
		// causes.
		{name: "folder-writable", takes: []string{"folder", "user"}, ask: one((*look).folderWritable)},
		{name: "file-writable", takes: []string{"file", "user"}, ask: one((*look).fileWritable)},
		{name: "key-writable", takes: []string{"key", "user"}, ask: one((*look).keyWritable)},
		{name: "file-in-the-way", takes: []string{"folder"}, ask: one((*look).fileInTheWay)},
		{name: "not-elevated", ask: plain((*look).notElevated)},
		{name: "scripts-writable", takes: []string{"user"}, ask: one((*look).scriptsWritable)},
		{name: "environment-writable", takes: []string{"user"}, ask: one((*look).environmentWritable)},
		{name: "empty-file", takes: []string{"path"}, ask: one((*look).emptyFile)},
		{name: "folder-in-the-way", takes: []string{"path"}, ask: one((*look).folderInTheWay)},
		{name: "path-usable", takes: []string{"path", "user"}, ask: one((*look).pathUsable)},
		{name: "tool-in-path", takes: []string{"tool"}, ask: one((*look).toolInPath)},
		{name: "ini-gate", takes: []string{"file", "section", "key", "bound", "found"}, ask: one((*look).iniGate)},
		{name: "protection", ask: one((*look).protection)},
		{name: "cached-copies", ask: one((*look).cachedCopies)},
		{name: "space-at", takes: []string{"path"}, ask: one((*look).spaceAt)},
		{name: "file-holder", takes: []string{"file"}, ask: one((*look).fileHolder)},
		{name: "service-startable", takes: []string{"service"}, ask: one((*look).serviceStartable)},
		{name: "lock-left", takes: []string{"file", "process"}, ask: one((*look).lockLeft)},
		{name: "folder-missing", takes: []string{"path", "what"}, ask: one((*look).folderMissing)},
		{name: "drive-there", takes: []string{"path"}, ask: one((*look).driveThere)},
		{name: "program-running", takes: []string{"program"}, ask: one((*look).programRunning)},
		{name: "service-dependency", takes: []string{"service"}, ask: one((*look).serviceDependency)},
		{name: "service-running", takes: []string{"service"}, ask: one((*look).serviceRunning)},
		{name: "service-left", takes: []string{"service"}, ask: one((*look).serviceLeft)},
		{name: "service-stoppable", takes: []string{"service"}, ask: one((*look).serviceStoppable)},
		{name: "service-account", takes: []string{"service"}, ask: one((*look).serviceAccount)},
		{name: "shell-folder-drive", takes: []string{"drive", "user"}, ask: one((*look).shellFolderOnDrive)},
		{name: "shell-folder-value", takes: []string{"value", "user"}, ask: one((*look).shellFolderWithValue)},
		{name: "host-reachable", takes: []string{"host"}, ask: one((*look).hostReachable)},
	}
}

// Takes gives the arguments that a check needs; ok is false when no check has
// that name.
func Takes(name string) (arguments []string, ok bool) {
	all := registry()
	i := slices.IndexFunc(all, func(c check) bool { return c.name == name })
	if i < 0 {
		return nil, false
	}
	return all[i].takes, true
}

// Ready makes all checks that every setup is asked for. What cannot be read is
// told in its finding; nothing ends the rest.
func Ready(m machine.Machine, opt Options) (all []Finding) {
	l := newLook(m, opt)
	for _, c := range registry() {
		if c.ready {
			all = append(all, c.ask(l, nil)...)
		}
	}
	return all
}

// Ask makes one check. Of several findings the worst counts.
func Ask(m machine.Machine, name string, with map[string]string) Finding {
	for _, c := range registry() {
		if c.name != name {
			continue
		}
		l := newLook(m, Options{User: with["user"]})
		found := c.ask(l, with)
		for _, s := range []State{Stop, Unknown, Warn, Pass} {
			if i := slices.IndexFunc(found, func(f Finding) bool { return f.Answer == s }); i >= 0 {
				return found[i]
			}
		}
		return unknown(name, "there is nothing to check")
	}
	return unknown(name, "the check %q is not known here", name)
}

// On lets signs ask one machine. A cause is really so ("yes") where the check
// stops; a warning stops no setup.
// A host that a log names is asked over the network only with reach: the log
// could make the machine tell a stranger that it is there.
func On(m machine.Machine, reach bool) signs.Checker { return checker{m, reach} }

type checker struct {
	m     machine.Machine // the one that signs ask about
	reach bool            // hosts may be asked over the network
}

// Check answers a sign's question: yes means that what the sign suspects is so.
func (c checker) Check(name string, with map[string]string) (signs.Finding, map[string]string) {
	f := c.notAsked(name, with)
	if f == nil {
		asked := Ask(c.m, name, with)
		f = &asked
	}
	if title := with["service"]; title != "" {
		if s, err := newLook(c.m, Options{}).service(title); err == nil && !strings.EqualFold(s.Name, title) {
			f.keep("service", s.Name)
		}
	}
	answer := map[State]string{Stop: "yes", Warn: "no", Pass: "no", Unknown: "unknown"}[f.Answer]
	return signs.Finding{Check: name, Answer: answer, Text: f.Seen, Class: f.Class, Mend: f.Mend, Steps: f.Steps, Unread: f.unread}, f.Captures
}

// notAsked is the finding of a check that would go out to the network without
// leave; nil for others. A twin knows its hosts by itself.
func (c checker) notAsked(name string, with map[string]string) *Finding {
	if c.reach || name != "host-reachable" {
		return nil
	}
	if t, ok := c.m.(interface{ Offline() bool }); ok && t.Offline() {
		return nil
	}
	f := unknown(name, "%s was not asked whether it answers, as its name comes from the log; --reach lets it be", with["host"])
	return &f
}

// pass and unknown are the two findings that need no steps.
func pass(name, format string, args ...any) Finding {
	return Finding{Name: name, Answer: Pass, Seen: fmt.Sprintf(format, args...)}
}

// unknown says that a question cannot be answered, and why.
func unknown(name, format string, args ...any) Finding {
	return Finding{Name: name, Answer: Unknown, Seen: fmt.Sprintf(format, args...)}
}

// cannot tells that something could not be read.
func (l *look) cannot(name, what string, err error) Finding {
	f := unknown(name, "%s on %s: %v", what, l.m.Name(), err)
	switch {
	case what == "":
		f.Seen = err.Error()
	case errors.Is(err, fs.ErrNotExist):
		f.Seen = what + " is not there on " + l.m.Name()
	}
	f.unread = true
	return f
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

// keyThere asks for a key. An error other than its absence is one.
func (l *look) keyThere(key string) (bool, error) {
	there, err := l.m.KeyExists(key)
	if errors.Is(err, fs.ErrNotExist) {
		return false, nil
	}
	return there, err
}
