// This file tells what stands around a cause: the machine, the time, the host
// on the other side.

package verdict

import (
	"maps"
	"slices"
	"strings"
	"time"

	"hollowkey/core/logs/names"
	"hollowkey/core/logs/story"
)

// A Host is the machine that a log is of.
type Host struct {
	Name  string `json:"name,omitempty"`  // empty where the log does not tell
	Build string `json:"build,omitempty"` // of the OS, such as 22631
	// Person is who the log says ran it. It only tells names of people from
	// names of things: whose rights count is never taken from it.
	Person string `json:"-"`
}

// beforeTen is the build that the engine tells packages on every later OS.
// Source: the platform SDK, "VersionNT property".
const beforeTen = "9600"

// began is how a moment is written; the zone follows where the log tells one
// (ISO 8601).
const began = "2006-01-02T15:04:05"

// around tells what is around the cause: the machine, when it was, what the
// action returned, the server that did not answer, and the words that the cause
// was read from.
func (j *judge) around(src story.Source) {
	v, property := j.v, func(name string) string { return j.a.Properties[name].Value }
	v.Host = Host{Name: first(property("ComputerName"), src.Host), Person: src.Person,
		Build: first(property("WindowsBuildNumber"), src.Build, property("WindowsBuild"))}
	// The engine's property has stayed at one number since; it tells nothing of
	// a machine of today.
	if v.Host.Build == beforeTen && j.a.Dialect == story.Engine {
		v.Host.Build = ""
	}
	if at, ok := j.a.Began(time.Time{}); ok {
		v.Began = at.Format(began) + src.Zone
	}
	if v.Worked() || v.Cause.Class == nil {
		return
	}
	if j.broke != nil {
		v.Result = j.broke.Code
	}
	if r := j.scene.Refusal; r != nil {
		v.Said = r.Text
	}
	v.Server = j.server()
	if s := v.Cause.Subject; s != nil {
		s.Inferred = !j.stands(s.Name)
		if s.Kind == "program" && s.Inferred && (strings.EqualFold(s.Name, v.Host.Person) || strings.EqualFold(s.Name, v.Host.Name)) {
			v.Cause.Subject = nil // who and where, and not what
		}
	}
}

// first is the first of the texts that is not empty.
func first(list ...string) string {
	at := slices.IndexFunc(list, func(s string) bool { return s != "" })
	if at < 0 {
		return ""
	}
	return list[at]
}

// server is the host of a failure of the network, or the file server of a share
// that is the subject.
func (j *judge) server() string {
	s := j.v.Cause.Subject
	switch {
	case s != nil && s.Kind == "host":
		return s.Name
	case s != nil && strings.HasPrefix(s.Name, `\\`):
		name, _, _ := strings.Cut(s.Name[2:], `\`)
		return name
	case *j.v.Cause.Class != "network":
		return ""
	}
	for _, m := range j.anchor {
		for _, n := range names.In(m.Text) {
			if n.Kind == names.Host {
				return n.Text
			}
		}
	}
	if h := j.hostOf(); h != nil {
		return h.Name
	}
	return ""
}

// stands says whether a line that the cause hangs on, or a line of the
// evidence, names something, in whatever letters and with backslashes doubled
// or not.
func (j *judge) stands(name string) bool {
	plain := func(s string) string { return strings.ReplaceAll(strings.ToLower(s), `\\`, `\`) }
	name = plain(name)
	for _, m := range j.anchor {
		if strings.Contains(plain(m.Raw), name) || strings.Contains(plain(m.Text), name) {
			return true
		}
	}
	return slices.ContainsFunc(j.v.Evidence, func(l Line) bool { return strings.Contains(plain(l.Text), name) })
}

// captured keeps what a sign read from its lines.
func (v *Verdict) captured(caps map[string]string) {
	v.Captures = maps.Clone(caps)
	maps.DeleteFunc(v.Captures, func(_, text string) bool { return text == "" })
}
