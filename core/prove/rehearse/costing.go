package rehearse

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/machine/sddl"
)

// The states of features and components, as conditions compare them. Source:
// the platform SDK, "INSTALLSTATE".
const (
	stateUnknown = -1
	stateAbsent  = 2
	stateLocal   = 3
)

type component struct {
	name, id, dir, key, condition string
	wide                          bool // 64-bit
	state, action                 int
}

type feature struct {
	name, parent  string
	level         int
	state, action int
}

// Attributes of components. Source: the platform SDK, "Component Table".
const (
	registryKeyPath = 0x004
	component64     = 0x100
)

// costInitialize reads features and components, so that conditions can ask for
// them.
func (s *session) costInitialize() error {
	s.comps, s.features, s.dirs = map[string]*component{}, map[string]*feature{}, map[string]string{}
	installed := s.installedComponents()
	list, err := s.rows("Component")
	if err != nil {
		return err
	}
	for _, r := range list {
		c := &component{name: r.text("Component"), id: strings.ToUpper(r.text("ComponentId")), dir: r.text("Directory_"), key: r.text("KeyPath"), condition: r.text("Condition"),
			wide: r.number("Attributes")&component64 != 0, state: stateAbsent, action: stateUnknown}
		if c.id != "" && installed[c.id] {
			c.state = stateLocal
		}
		s.comps[c.name], s.order = c, append(s.order, c.name)
	}
	if list, err = s.rows("Feature"); err != nil {
		return err
	}
	for _, r := range list {
		f := &feature{name: r.text("Feature"), parent: r.text("Feature_Parent"), level: r.number("Level"), state: stateAbsent, action: stateUnknown}
		if s.props["Installed"] != "" {
			f.state = stateLocal
		}
		s.features[f.name] = f
	}
	return nil
}

// costFinalize works out folders, features and components, and looks whether
// every folder lies on a drive that is there.
func (s *session) costFinalize() error {
	if s.comps == nil {
		if err := s.costInitialize(); err != nil {
			return err
		}
	}
	if err := s.directories(); err != nil {
		return err
	}
	if err := s.choose(); err != nil {
		return err
	}
	s.props["CostingComplete"], s.props["OutOfDiskSpace"] = "1", "0"
	return nil
}

func (s *session) directories() error {
	list, err := s.rows("Directory")
	if err != nil {
		return err
	}
	byName := map[string]row{}
	for _, r := range list {
		byName[r.text("Directory")] = r
	}
	var resolve func(name string, depth int) string
	resolve = func(name string, depth int) string {
		if d, ok := s.dirs[name]; ok || depth > maxFormat {
			return d
		}
		path := s.get(name)
		r, there := byName[name]
		if path == "" && there {
			parent := r.text("Directory_Parent")
			if parent == "" || parent == name {
				path = first(s.get("TARGETDIR"), s.get("ROOTDRIVE"))
			} else {
				path = resolve(parent, depth+1) + longName(r.text("DefaultDir"))
			}
		}
		path = strings.TrimRight(path, `\`) + `\`
		s.dirs[name] = path
		return path
	}
	facts := s.m.Facts()
	for _, r := range list {
		name := r.text("Directory")
		path := resolve(name, 0)
		s.set(name, path)
		if len(path) > 2 && path[1] == ':' && !facts.HasDrive(path[:2]) {
			return &stop{message: 1327, detail: "2: " + path[:3] + " ", text: "Invalid Drive: " + path[:3]}
		}
	}
	return nil
}

// longName is the target's name of "target:source", each "short|long".
func longName(defaultDir string) string {
	target, _, _ := strings.Cut(defaultDir, ":")
	if _, long, ok := strings.Cut(target, "|"); ok {
		target = long
	}
	if target == "." || target == "" {
		return ""
	}
	return target + `\`
}

func first(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

// choose works out what is done with each feature and component.
func (s *session) choose() error {
	level := 1
	if n, err := strconv.Atoi(s.get("INSTALLLEVEL")); err == nil {
		level = n
	}
	conditions, err := s.rows("Condition")
	if err != nil {
		return err
	}
	for _, r := range conditions {
		f := s.features[r.text("Feature_")]
		ok, err := s.holds(r.text("Condition"))
		if err != nil {
			return &stop{message: 2771, text: err.Error()}
		}
		if f != nil && ok {
			f.level = r.number("Level")
		}
	}
	named := func(property, feature string) bool {
		list := strings.Split(s.get(property), ",")
		return slices.Contains(list, "ALL") || slices.Contains(list, feature)
	}
	for _, f := range s.features {
		chosen := f.level > 0 && f.level <= level
		if s.get("ADDLOCAL") != "" {
			chosen = f.level > 0 && named("ADDLOCAL", f.name)
		}
		switch {
		case named("REMOVE", f.name) && f.state == stateLocal:
			f.action = stateAbsent
		case s.props["Installed"] != "" && named("REINSTALL", f.name), s.props["Installed"] == "" && chosen:
			f.action = stateLocal
		}
	}
	for _, f := range s.features { // a feature needs those above it
		for up := f; f.action == stateLocal && up.parent != "" && up.parent != up.name && s.features[up.parent] != nil; up = s.features[up.parent] {
			s.features[up.parent].action = stateLocal
		}
	}
	links, err := s.rows("FeatureComponents")
	if err != nil {
		return err
	}
	for _, r := range links {
		f, c := s.features[r.text("Feature_")], s.comps[r.text("Component_")]
		if f == nil || c == nil {
			continue
		}
		if f.action == stateAbsent && c.state == stateLocal && c.action == stateUnknown {
			c.action = stateAbsent
		}
		if f.action != stateLocal {
			continue
		}
		ok, err := s.holds(c.condition)
		if err != nil {
			return &stop{message: 2771, text: err.Error()}
		}
		if ok || c.state == stateLocal {
			c.action = stateLocal
		}
	}
	return nil
}

// each goes through the components with one action, in the package's order.
func (s *session) each(action int) (list []*component) {
	for _, name := range s.order {
		if c := s.comps[name]; c.action == action {
			list = append(list, c)
		}
	}
	return list
}

const kilobyte = 1024

// validate lists what will be done, and looks for space.
func (s *session) validate() error {
	names := map[int]string{stateUnknown: "Null", stateAbsent: "Absent", stateLocal: "Local"}
	for _, name := range sortedKeys(s.features) {
		f := s.features[name]
		s.log.server("Feature: %s; Installed: %s;   Request: %s;   Action: %s", f.name, names[f.state], names[f.action], names[f.action])
	}
	for _, name := range s.order {
		c := s.comps[name]
		s.log.server("Component: %s; Installed: %s;   Request: %s;   Action: %s", c.name, names[c.state], names[c.action], names[c.action])
	}
	files, err := s.files(stateLocal)
	if err != nil {
		return err
	}
	need := map[string]int64{}
	for _, f := range files {
		need[strings.ToUpper(f.target[:2])] += int64(f.size)
	}
	for _, d := range s.m.Facts().Drives {
		if n := need[d.Letter]; n > d.Free && n > 0 {
			s.props["OutOfDiskSpace"] = "1"
			return &stop{message: 1601, detail: "2: " + d.Letter, text: fmt.Sprintf("Out of disk space -- Volume: '%s'; required space: %d KB; available space: %d KB.  Free some disk space and retry.", d.Letter, n/kilobyte, d.Free/kilobyte)}
		}
	}
	return nil
}

// initialize begins the script; the engine keeps a working file in the user's
// temporary folder.
func (s *session) initialize() error {
	temp := s.temp()
	if s.may(temp, sddl.FileRead|sddl.FileWrite) {
		return nil
	}
	name := temp + "4c1f0.ipi"
	s.log.server("Note: 1: 1336 2: 5 3: %s ", temp)
	return &stop{message: 2203, detail: "2: " + name + " 3: -2147287035 ", text: "Database: " + name + ". Cannot open database file. System error -2147287035"}
}

// may says whether SYSTEM, which does the work, has rights on a folder or on
// the nearest one above it that is there.
func (s *session) may(folder string, want sddl.Mask) bool {
	path := strings.TrimRight(folder, `\`)
	for {
		at := path
		if len(at) == 2 {
			at += `\`
		}
		if _, err := s.m.Stat(at); err == nil {
			sec, err := s.m.FileSecurity(at)
			if err != nil {
				return true // the twin does not say
			}
			return s.allowed(sec.SDDL, sddl.Folder, want)
		}
		i := strings.LastIndexByte(path, '\\')
		if i < 0 {
			return true
		}
		path = path[:i]
	}
}

func (s *session) allowed(text string, kind sddl.Kind, want sddl.Mask) bool {
	d, err := sddl.Parse(text)
	if err != nil {
		return true
	}
	sys, err := s.m.Account("SYSTEM")
	return err != nil || d.Effective(kind, sys.SIDs())&want == want
}
