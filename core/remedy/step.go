// Package remedy carries out what puts a cause right: typed steps, previewed,
// checked again before the change, written to a journal, verified, and taken
// back from the journal alone.
package remedy

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/signs"
)

// A State is what a step's target is like: the one field for its kind is set.
type State struct {
	Security *machine.Security `json:"security,omitempty"`
	Service  *ServiceState     `json:"service,omitempty"`
	Registry *ValueState       `json:"registry,omitempty"`
	File     *FileState        `json:"file,omitempty"`
}

// ServiceState is a service's start type and whether it runs.
type ServiceState struct {
	Start   machine.StartType `json:"start"`
	Running bool              `json:"running"`
}

// ValueState is a registry value, or its absence.
type ValueState struct {
	KeyThere bool           `json:"key_there"`
	There    bool           `json:"there"`
	Value    *regfile.Value `json:"value,omitempty"`
	Made     []string       `json:"made,omitempty"` // keys that were made on the way, outermost first
	Next     string         `json:"next,omitempty"` // the value that stands behind it, where order is kept
}

// A Step is one typed, reversible change of one thing.
type Step struct {
	Kind   string            `json:"kind"` // one of kinds
	Target string            `json:"target"`
	Args   map[string]string `json:"args"`
}

// kind is what the program knows about one kind of step.
type kind struct {
	args   []string // that it takes
	target []string // those that can name its target
	// read gives the target's present state.
	read func(machine.Machine, Step) (State, error)
	// want gives the state that the step leads to, from the present one.
	want func(machine.Machine, Step, State) (State, error)
	// write brings the target into a state, whichever it is in.
	write func(machine.Machine, Step, State) error
	words func(Step) string
	lines func(State, machine.Accounts) []string
}

// kinds are all kinds of steps, in one place.
func kinds() map[string]kind {
	return map[string]kind{
		"grant":     {[]string{"folder", "file", "key", "account", "right"}, []string{"folder", "file", "key"}, readSecurity, wantGrant, writeSecurity, grantWords, securityLines},
		"service":   {[]string{"name", "start", "state"}, []string{"name"}, readService, wantService, writeService, serviceWords, serviceLines},
		"registry":  {[]string{"key", "name", "type", "value"}, []string{"key"}, readValue, wantValue, writeValue, valueWords, valueLines},
		"ini":       {[]string{"file", "section", "key", "value", "account", "copy"}, []string{"file"}, readIni, wantIni, writeFile, iniWords, fileLines},
		"transform": {[]string{"out", "package", "edits"}, []string{"out"}, readFile, wantTransform, writeFile, transformWords, fileLines},
		"copy":      {[]string{"out", "package", "edits"}, []string{"out"}, readCopy, wantCopy, writeCopy, copyWords, fileLines},
		"unset":     {[]string{"key", "name"}, []string{"key"}, readValue, wantUnset, writeValue, unsetWords, valueLines},
		"away":      {[]string{"file"}, []string{"file"}, readFile, wantAway, writeFile, awayWords, awayLines},
		"place":     {[]string{"out", "from", "inside", "sha256"}, []string{"out"}, readPlace, wantPlace, writePlace, placeWords, placeLines},
		"command":   {[]string{"out", "package", "properties", "transforms"}, []string{"out"}, readFile, wantCommand, writeFile, commandWords, fileLines},
	}
}

// Kinds lists the names of all kinds of steps.
func Kinds() []string { return slices.Sorted(maps.Keys(kinds())) }

// NewStep makes a step out of a sign's model and checks its arguments.
func NewStep(model signs.StepModel) (Step, error) {
	for name, args := range model {
		k, ok := kinds()[name]
		if !ok {
			return Step{}, fmt.Errorf("the step kind %q is not known", name)
		}
		s := Step{Kind: name, Args: args}
		for a := range args {
			if !slices.Contains(k.args, a) {
				return s, fmt.Errorf("a %s step takes no %q; it takes %s", name, a, strings.Join(k.args, ", "))
			}
		}
		for _, a := range k.target {
			if s.Target == "" && args[a] != "" {
				s.Target = strings.TrimRight(args[a], `\`)
			}
		}
		if name == "ini" && s.Target != "" {
			s.Target = iniTarget(s)
		}
		if s.Target == "" {
			return s, fmt.Errorf("a %s step needs a target: %s", name, strings.Join(k.target, ", "))
		}
		return s, refuse(s)
	}
	return Step{}, errors.New("an empty step")
}

func (s Step) kind() kind { return kinds()[s.Kind] }

// Words says what the step does.
func (s Step) Words() string { return s.kind().words(s) }

// Lines shows a state of this step's kind for a person. who gives security IDs
// the names of their accounts; it may be nil.
func (s Step) Lines(st State, who machine.Accounts) []string { return s.kind().lines(st, who) }

// fits says whether a state is one of this step's kind.
func (s Step) fits(st *State) bool {
	switch {
	case st == nil:
		return false
	case s.Kind == "grant":
		return st.Security != nil
	case s.Kind == "service":
		return st.Service != nil
	case s.Kind == "registry" || s.Kind == "unset":
		return st.Registry != nil && (!st.Registry.There || st.Registry.Value != nil)
	case s.Kind == "ini" || s.Kind == "transform" || s.Kind == "copy" || s.Kind == "command" || s.Kind == "place" || s.Kind == "away":
		return st.File != nil
	}
	return false
}

// equal says whether two states are the same as far as the machine goes.
func equal(a, b State) bool {
	norm := func(s State) string {
		if s.Registry != nil {
			r := *s.Registry
			r.Made, r.Next = nil, ""
			if r.Value != nil {
				v := *r.Value
				v.Text = ""
				r.Value = &v
			}
			s.Registry = &r
		}
		if s.File != nil {
			f := *s.File
			f.Made, f.Show = nil, nil
			s.File = &f
		}
		if s.Security != nil {
			sec := *s.Security
			if d, err := sddl.Parse(sec.SDDL); err == nil {
				sec.SDDL = d.String()
			}
			s.Security = &sec
		}
		b, _ := json.Marshal(s)
		return string(b)
	}
	return norm(a) == norm(b)
}

// refuse keeps steps away from what holds the whole machine.
func refuse(s Step) error {
	bad := func(why string) error {
		return fmt.Errorf("a step on %s is refused: %s\nhint: name the folder or key that the set-up needs, not the one above it", s.Target, why)
	}
	t := strings.ToLower(strings.TrimRight(s.Target, `\`))
	switch {
	case s.Kind == "grant" && s.Args["key"] == "" && (len(t) <= 2 || t == `c:\windows` || t == `c:\windows\system32` || t == `c:\program files` || t == `c:\program files (x86)` || t == `c:\users`):
		return bad("this folder belongs to the whole system")
	case s.Args["key"] != "" && strings.Count(t, `\`) < 2:
		return bad("this key is a whole hive")
	}
	return nil
}

// Grants.

// rights are the words that a grant takes.
var rights = map[string]struct{ file, key sddl.Mask }{
	"read":   {sddl.FileRead | sddl.FileExecute, sddl.KeyRead},
	"modify": {sddl.FileModify, sddl.KeyRead | sddl.KeyWrite},
	"full":   {sddl.FileAll, sddl.KeyAll},
}

func isKey(s Step) bool { return s.Args["key"] != "" }

func readSecurity(m machine.Machine, s Step) (State, error) {
	var sec machine.Security
	var err error
	if isKey(s) {
		sec, err = m.KeySecurity(s.Target)
	} else {
		sec, err = m.FileSecurity(s.Target)
	}
	return State{Security: &sec}, err
}

func wantGrant(m machine.Machine, s Step, now State) (State, error) {
	d, err := sddl.Parse(now.Security.SDDL)
	if err != nil {
		return State{}, fmt.Errorf("the access list of %s: %w", s.Target, err)
	}
	a, err := m.Account(s.Args["account"])
	if err != nil {
		return State{}, err
	}
	r, ok := rights[s.Args["right"]]
	if !ok {
		return State{}, fmt.Errorf("the right %q is not read, modify or full", s.Args["right"])
	}
	k, mask := sddl.Folder, r.file
	if isKey(s) {
		k, mask = sddl.Key, r.key
	} else if info, err := m.Stat(s.Target); err == nil && !info.Folder {
		k = sddl.File
	}
	if e, denied := d.Denies(k, a.SIDs(), mask); denied {
		return State{}, fmt.Errorf("an entry denies %s the access to %s, so a grant would not help: %s\nhint: that entry must go first", e.SID.Name(), s.Target, e)
	}
	if d.Effective(k, a.SIDs())&mask == mask {
		return now, nil
	}
	return State{Security: &machine.Security{SDDL: d.Grant(k, a.SID, mask).String(), Own: true}}, nil
}

func writeSecurity(m machine.Machine, s Step, to State) error {
	if isKey(s) {
		return m.SetKeySecurity(s.Target, *to.Security)
	}
	return m.SetFileSecurity(s.Target, *to.Security)
}

func grantWords(s Step) string {
	what := map[string]string{"read": "read", "modify": "read and change", "full": "do everything with"}[s.Args["right"]]
	return fmt.Sprintf("let %s %s %s", s.Args["account"], what, s.Target)
}

func securityLines(st State, who machine.Accounts) []string {
	d, err := sddl.Parse(st.Security.SDDL)
	if err != nil || d.DACL == nil {
		return []string{st.Security.SDDL}
	}
	var lines []string
	if d.Owner != "" {
		lines = append(lines, "owner "+nameOf(d.Owner, who))
	}
	for _, e := range d.DACL.Entries {
		verb := "may"
		if strings.HasSuffix(e.Type, "D") {
			verb = "is denied to"
		}
		where := ""
		if e.Flags&sddl.Inherited != 0 {
			where = " (from above)"
		}
		kind := sddl.Folder
		if e.Mask&^sddl.KeyAll == 0 && e.Mask&sddl.FileExecute != sddl.FileExecute {
			kind = sddl.Key
		}
		lines = append(lines, fmt.Sprintf("%s %s %s%s", nameOf(e.SID, who), verb, rightVerb(sddl.RightsName(kind, e.Mask)), where))
	}
	return lines
}

// nameOf is the name of an account, or its security ID.
func nameOf(sid sddl.SID, who machine.Accounts) string {
	if name := sid.Name(); name != string(sid) || who == nil {
		return name
	}
	if a, err := who.Account(string(sid)); err == nil {
		return a.Name
	}
	return string(sid)
}

func rightVerb(name string) string {
	switch {
	case name == "full access":
		return "do everything"
	case strings.HasPrefix(name, "rights "):
		return "use the " + name
	}
	return name
}

// Services.

func readService(m machine.Machine, s Step) (State, error) {
	svc, err := m.Service(s.Target)
	return State{Service: &ServiceState{svc.Start, svc.Running}}, err
}

func wantService(_ machine.Machine, s Step, now State) (State, error) {
	want := *now.Service
	if t := s.Args["start"]; t != "" {
		start, err := machine.ParseStartType(t)
		if err != nil {
			return State{}, err
		}
		want.Start = start
	}
	switch s.Args["state"] {
	case "":
	case "running":
		want.Running = true
	case "stopped":
		want.Running = false
	default:
		return State{}, fmt.Errorf("the state %q is not running or stopped", s.Args["state"])
	}
	return State{Service: &want}, nil
}

func writeService(m machine.Machine, s Step, to State) error {
	now, err := m.Service(s.Target)
	if err != nil {
		return err
	}
	if now.Running && !to.Service.Running {
		if err := m.StopService(s.Target); err != nil {
			return err
		}
	}
	if now.Start != to.Service.Start {
		if err := m.SetStartType(s.Target, to.Service.Start); err != nil {
			return err
		}
	}
	if !now.Running && to.Service.Running {
		return m.StartService(s.Target)
	}
	return nil
}

func serviceWords(s Step) string {
	var parts []string
	if t := s.Args["start"]; t != "" {
		parts = append(parts, "set the start type of the service "+s.Target+" to "+t)
	}
	switch s.Args["state"] {
	case "running":
		parts = append(parts, "start it")
	case "stopped":
		parts = append(parts, "stop it")
	}
	return strings.Join(parts, " and ")
}

func serviceLines(st State, _ machine.Accounts) []string {
	state := "stopped"
	if st.Service.Running {
		state = "running"
	}
	return []string{"start type " + string(st.Service.Start), state}
}

// Registry values.

func readValue(m machine.Machine, s Step) (State, error) {
	st := &ValueState{}
	there, err := m.KeyExists(s.Args["key"])
	if err != nil {
		return State{}, err
	}
	st.KeyThere = there
	v, err := m.Value(s.Args["key"], s.Args["name"])
	switch {
	case err == nil:
		st.There, st.Value = true, &v
		if all, err := m.Values(s.Args["key"]); err == nil {
			at := slices.IndexFunc(all, func(e regfile.Entry) bool { return strings.EqualFold(e.Name, s.Args["name"]) })
			if at >= 0 && at+1 < len(all) {
				st.Next = all[at+1].Name
			}
		}
	case !errors.Is(err, fs.ErrNotExist):
		return State{}, err
	}
	return State{Registry: st}, nil
}

func wantValue(m machine.Machine, s Step, now State) (State, error) {
	t, err := regfile.ParseType(s.Args["type"])
	if err != nil {
		return State{}, err
	}
	v, err := regfile.Make(t, s.Args["value"])
	if err != nil {
		return State{}, err
	}
	want := &ValueState{KeyThere: true, There: true, Value: &v}
	key, err := machine.LongKey(s.Args["key"])
	if err != nil {
		return State{}, err
	}
	for k := key; strings.Count(k, `\`) > 1; k = k[:strings.LastIndexByte(k, '\\')] {
		there, err := m.KeyExists(k)
		if err != nil {
			return State{}, err
		}
		if there {
			break
		}
		want.Made = append([]string{k}, want.Made...)
	}
	return State{Registry: want}, nil
}

func writeValue(m machine.Machine, s Step, to State) error {
	key, name, r := s.Args["key"], s.Args["name"], to.Registry
	if r.There {
		there, err := m.KeyExists(key)
		if err != nil {
			return err
		}
		if !there {
			for _, k := range r.Made {
				if err := m.CreateKey(k); err != nil {
					return err
				}
			}
			if err := m.CreateKey(key); err != nil {
				return err
			}
		}
		if p, ok := m.(interface {
			SetValueBefore(key, name, next string, v regfile.Value) error
		}); ok {
			return p.SetValueBefore(key, name, r.Next, *r.Value)
		}
		return m.SetValue(key, name, *r.Value)
	}
	there, err := m.KeyExists(key)
	if err != nil || !there {
		return err
	}
	if err := m.DeleteValue(key, name); err != nil {
		return err
	}
	for i := len(r.Made) - 1; i >= 0; i-- { // keys that the step made go, unless they were filled since
		if sub, err := m.Subkeys(r.Made[i]); err != nil || len(sub) > 0 {
			break
		}
		if vals, err := m.Values(r.Made[i]); err != nil || len(vals) > 0 {
			break
		}
		if err := m.DeleteKey(r.Made[i]); err != nil {
			return err
		}
	}
	return nil
}

func valueWords(s Step) string {
	name := s.Args["name"]
	if name == "" {
		name = "(default)"
	}
	return fmt.Sprintf("set the value %s of %s to %s", name, shortKey(s.Args["key"]), s.Args["value"])
}

// shortKey writes the root of a key in its short form.
func shortKey(key string) string {
	return strings.NewReplacer("HKEY_LOCAL_MACHINE", "HKLM", "HKEY_CURRENT_USER", "HKCU", "HKEY_USERS", "HKU").Replace(key)
}

func valueLines(st State, _ machine.Accounts) []string {
	switch {
	case !st.Registry.KeyThere:
		return []string{"the key is absent"}
	case !st.Registry.There:
		return []string{"the value is absent"}
	}
	return []string{st.Registry.Value.Type.String() + " " + strings.ReplaceAll(st.Registry.Value.Words(), "\n", ", ")}
}
