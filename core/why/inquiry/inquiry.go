// Package inquiry lets the package speak where a log is silent: what the action
// that failed works on follows from the package's tables, and each of these
// things is asked of the machine.
package inquiry

import (
	"fmt"
	"io"
	"path/filepath"
	"reflect"
	"slices"
	"strings"

	"hollowkey/core/bounded"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
	"hollowkey/core/machine"
	"hollowkey/core/package/choose"
	"hollowkey/core/package/installdb"
	"hollowkey/core/package/targets"
	"hollowkey/core/step"
	"hollowkey/core/why/checks"
	"hollowkey/core/why/signs"
	"hollowkey/core/why/verdict"
)

// surelyTold is the confidence from which on a log has said why by itself.
const surelyTold = 0.9

// A Package is an installer database that a setup ran.
type Package struct {
	DB   *installdb.Database
	Path string // on the machine; a bare name where it does not lie there
	file io.Closer
}

// Close closes its file.
func (p Package) Close() error { return p.file.Close() }

// Look asks the machine about what the failed action of a package works on, and
// lets the verdict have what it finds. a is the attempt that the verdict is
// about; nil where there was no log. Hosts on which the package works are asked
// over the network with reach.
func Look(v *verdict.Verdict, p Package, a *story.Attempt, m machine.Machine, reach bool) {
	if v.Worked() || v.Outcome == story.Cancelled || v.Shown() || v.Cause.Confidence >= surelyTold && len(v.Logs) > 0 {
		return
	}
	action := ""
	if v.BrokeAt.Action != nil {
		action = *v.BrokeAt.Action
	}
	run := targets.Run{Package: p.Path, Given: map[string]string{}}
	if a != nil {
		for name, prop := range a.Properties {
			run.Given[name] = prop.Value
		}
	}
	list, err := targets.Of(p.DB, m, run, action)
	if err != nil && len(list) == 0 {
		v.Looked(signs.Finding{Check: "package-tables", Answer: "unknown", Text: p.Path + ": " + strings.TrimSpace(bounded.Words(err))})
		return
	}
	user := v.User
	if _, err := m.Account(user); err != nil {
		user = m.SignedIn()
	}
	for _, t := range ordered(list, v) {
		f := checks.OfTarget(m, t, user, "", reach)
		if f.Answer != checks.Stop {
			if targets.HostOf(t) != "" && f.Answer == checks.Unknown {
				v.Looked(signs.Finding{Check: f.Name, Answer: "unknown", Text: f.Seen})
			}
			continue
		}
		if len(f.Steps) > 0 {
			next := nextStops(f, t, p, run, m, user)
			for _, n := range next {
				f.Steps = append(f.Steps, n.Steps...)
			}
			if len(next) > 0 {
				f.Mend += "; and " + counted(len(next)) + " of the package's that would stop it next"
			}
		}
		v.ShownBy(signs.Finding{Check: f.Name, Answer: "yes", Text: f.Seen, Class: f.Class, Mend: f.Mend, Steps: f.Steps}, subject(t))
		return
	}
	if v.Cause.Subject == nil && action != "" { // what it is about is known all the same, where it is one thing
		if only := named(list); only != nil {
			v.Cause.Subject = only
		}
	}
}

// mostNext is how many further stops one plan takes along; with more the
// machine is broken in another way than the package shows.
const mostNext = 6

// light are kinds of steps that take nothing from anybody: what would only
// break next may be fixed by them beforehand. A service that somebody disabled
// stays so until a log speaks of it.
var light = []string{"grant", "folder", "unset", "registry"}

// nextStops are what else the package works on that would stop it behind the
// first stop for the same class of cause, each with steps of its own: the log
// speaks of no other.
func nextStops(first checks.Finding, at targets.Target, p Package, run targets.Run, m machine.Machine,
	user string) (next []checks.Finding) {
	list, err := targets.Of(p.DB, m, run, "")
	if err != nil {
		return nil
	}
	taken := slices.Clone(first.Steps)
	for _, t := range list {
		if t.Kind == at.Kind && strings.EqualFold(t.Name, at.Name) || len(next) == mostNext {
			continue
		}
		f := checks.OfTarget(m, t, user, "", false)
		if f.Answer != checks.Stop || f.Class != first.Class || len(f.Steps) == 0 {
			continue
		}
		f.Steps = slices.DeleteFunc(f.Steps, func(s step.Model) bool {
			return slices.ContainsFunc(taken, func(o step.Model) bool { return reflect.DeepEqual(s, o) })
		})
		if len(f.Steps) == 0 || slices.ContainsFunc(f.Steps, func(s step.Model) bool {
			for kind := range s {
				return !slices.Contains(light, kind)
			}
			return true
		}) {
			continue
		}
		taken = append(taken, f.Steps...)
		next = append(next, f)
	}
	return next
}

// counted is a number of things in words.
func counted(n int) string {
	if n == 1 {
		return "one more thing"
	}
	return fmt.Sprintf("%d more things", n)
}

// named is what an action is about that works on one thing of a kind that a
// cause can be about; nil where it works on more.
func named(list []targets.Target) (only *signs.Subject) {
	for _, t := range list {
		s := subject(t)
		if s == nil || t.Kind == targets.Needed {
			continue
		}
		if only != nil {
			return nil
		}
		only = s
	}
	return only
}

// ordered puts the target that the log's last words name first.
func ordered(list []targets.Target, v *verdict.Verdict) []targets.Target {
	said := ""
	for _, l := range v.Evidence {
		said += strings.ToLower(l.Text) + "\n"
	}
	var first, rest []targets.Target
	for _, t := range list {
		name := strings.ToLower(t.Name[strings.LastIndexByte(t.Name, '\\')+1:])
		if t.Kind == targets.File && len(name) > 3 && strings.Contains(said, name) {
			first = append(first, t)
		} else {
			rest = append(rest, t)
		}
	}
	return append(first, rest...)
}

// subjects are the kinds of what a cause can be about, by those of targets.
var subjects = map[targets.Kind]string{
	targets.Folder: "folder", targets.Named: "folder", targets.Made: "folder",
	targets.File: "file", targets.Cabinet: "file", targets.Source: "file", targets.Read: "file", targets.Refused: "file",
	targets.Key: "key", targets.Asked: "key", targets.Variable: "value", targets.Account: "account",
	targets.Service: "service", targets.Needed: "service", targets.Present: "service", targets.New: "service",
	targets.Program: "program", targets.Tool: "program", targets.Class: "program", targets.Task: "program",
	targets.Ended: "program", targets.Serving: "service", targets.Person: "account", targets.Newcomer: "account",
	targets.Inside: "package", targets.Cached: "product", targets.Product: "product",
}

// subject is a target as what a cause is about.
func subject(t targets.Target) *signs.Subject {
	if host := targets.HostOf(t); host != "" {
		return &signs.Subject{Kind: "host", Name: host}
	}
	kind := subjects[t.Kind]
	if kind == "" {
		return nil
	}
	name := t.Name
	if key, value, ok := strings.Cut(name, "|"); ok && t.Kind == targets.Asked {
		name = key + `\` + value
	}
	return &signs.Subject{Kind: kind, Name: name}
}

// Find opens the package of a setup: on the machine, or, for a path that is
// none of the machine's, on this computer. Of a folder the one for the machine
// is taken.
func Find(m machine.Machine, path string) (p Package, err error) {
	if path, err = choose.Path(path, m); err != nil {
		return p, err
	}
	if _, _, bad := machine.SplitPath(path); bad == nil {
		db, f, err := targets.Open(m, path)
		return Package{DB: db, Path: path, file: f}, err
	}
	f, err := textfile.Open(path)
	if err != nil {
		return p, err
	}
	info, err := f.Stat()
	if err == nil {
		p.DB, err = installdb.Open(f, info.Size())
	}
	if err != nil {
		f.Close()
		return p, fmt.Errorf("%s: %w", path, err)
	}
	p.Path, p.file = filepath.Base(path), f
	return p, nil
}
