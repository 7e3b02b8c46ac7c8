// This file does what the engine does before its script: folders, features,
// components.

package rehearse

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/machine/sddl"
	"hollowkey/core/why/checks"
)

// The states of features and components, as conditions compare them. Source:
// the platform SDK, "INSTALLSTATE".
const (
	stateUnknown = -1
	stateAbsent  = 2
	stateLocal   = 3
)

type component struct {
	name, id, dir, key, condition string // as the Component table has them
	wide                          bool   // 64-bit
	state, action                 int    // installed before, and wanted; states of the engine
}

type feature struct {
	name, parent  string // as the Feature table has them
	level         int    // wanted when it is not above INSTALLLEVEL
	state, action int    // installed before, and wanted; states of the engine
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
	// What is there already decides later what is done with each component, so
	// it is read before any of them.
	installed := s.installedComponents()
	list, err := s.rows("Component")
	if err != nil {
		return err
	}
	for _, r := range list {
		c := &component{name: r.text("Component"), id: strings.ToUpper(r.text("ComponentId")), dir: r.text("Directory_"),
			key: r.text("KeyPath"), condition: r.text("Condition"),
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
		f := &feature{name: r.text("Feature"), parent: r.text("Feature_Parent"), level: r.number("Level"), state: stateAbsent,
			action: stateUnknown}
		// The engine keeps each feature's state; a twin has the product or has
		// it not.
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

// directories resolves the Directory table and stops at the first folder on a
// drive that is not there, as the engine does before it costs anything. A
// folder that nothing leads to gets a root without a drive, which later steps
// refuse.
func (s *session) directories() error {
	tree, err := s.db.Directories()
	if err != nil {
		return err
	}
	s.tree = tree
	// A folder that a property names wins over its parent: that is how a person
	// puts a product elsewhere.
	known := func(key string) (string, bool) {
		if path := s.get(key); path != "" {
			return path, true
		}
		if chain, whole := tree.Up(key); whole && len(chain) == 1 { // a root
			return cmp.Or(s.get("TARGETDIR"), s.get("ROOTDRIVE")), true
		}
		return "", false
	}
	facts := s.m.Facts()
	for _, name := range tree.Keys() {
		path, ok := tree.Resolve(name, known)
		if !ok {
			path = `\`
		}
		s.dirs[name] = path
		s.set(name, path)
		// The engine stops at the first drive that is missing, before it has
		// written anything.
		if len(path) > 2 && path[1] == ':' && !facts.HasDrive(path[:2]) {
			return &stop{message: 1327, detail: "2: " + path[:3] + " ", text: "Invalid Drive: " + path[:3]}
		}
	}
	return nil
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
	// A row of the Condition table changes a feature's level; level 0 switches
	// the feature off.
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
		// A list in the call takes the place of the levels.
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
		for up := f; f.action == stateLocal && up.parent != "" && up.parent != up.name &&
			s.features[up.parent] != nil; up = s.features[up.parent] {
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
		// A component that another feature still wants stays.
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

// kilobyte is the engine's own unit of disk costs. Source: "Disk Cost" of the
// engine's reference.
const kilobyte = 1024

// validate lists what will be done, and looks for space.
func (s *session) validate() error {
	// The log has a line for each feature and component here, and readers look
	// for them.
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
	// A drive that the twin does not know cannot be too small.
	for _, d := range s.m.Facts().Drives {
		if n := need[d.Letter]; n > d.Free && n > 0 {
			s.props["OutOfDiskSpace"] = "1"
			return &stop{message: 1601, detail: "2: " + d.Letter,
				text: fmt.Sprintf("Out of disk space -- Volume: '%s'; required space: %d KB; available space: %d "+
					"KB.  Free some disk space and retry.", d.Letter, n/kilobyte, d.Free/kilobyte)}
		}
	}
	return nil
}

// initialize begins the script; the engine keeps a working file in the user's
// temporary folder.
func (s *session) initialize() error {
	if s.perMachine() && !s.elevated() {
		return &stop{message: 1925, text: "You do not have sufficient privileges to complete this installation " +
			"for all users of the machine.  Log on as administrator " +
			"and then retry this installation."}
	}
	temp := s.temp()
	name := temp + "4c1f0.ipi"
	if _, err := s.m.Stat(strings.TrimRight(temp, `\`)); errors.Is(err, fs.ErrNotExist) && s.knowsFolders() {
		return &stop{message: 2203, detail: "2: " + name + " 3: -2147287037 ",
			text: "Database: " + name + ". Cannot open database file. System error -2147287037"}
	}
	if s.mayWrite(temp) && s.userWrites(temp) {
		return nil
	}
	s.log.server("Note: 1: 1336 2: 5 3: %s ", temp)
	return &stop{message: 2203, detail: "2: " + name + " 3: -2147287035 ",
		text: "Database: " + name + ". Cannot open database file. System error -2147287035"}
}

// userWrites says whether whoever runs the setup may write in a folder: the
// engine's part that faces the user keeps files there, too.
func (s *session) userWrites(folder string) bool {
	sec, err := s.m.FileSecurity(strings.TrimRight(folder, `\`))
	if err != nil || s.user.SID == "" {
		return true
	}
	d, err := sddl.Parse(sec.SDDL)
	return err != nil || checks.MayWrite(d, sddl.Folder, s.user)
}

// perMachine says whether the package is installed for all users.
func (s *session) perMachine() bool { return s.get("ALLUSERS") == "1" }

// elevated says whether whoever runs the setup has an administrator's rights. A
// machine that does not tell is taken to.
func (s *session) elevated() bool {
	f := s.m.Facts()
	return f.Elevated || f.Unknown["elevated"] != ""
}

// knowsFolders says whether the machine has its users' folders at all: a small
// twin leaves them out.
func (s *session) knowsFolders() bool {
	_, err := s.m.Stat(strings.TrimRight(s.user.Profile, `\`))
	return s.user.Profile != "" && err == nil
}

// mayWrite says whether SYSTEM, which does the work, may write in a folder or
// in the nearest one above it that is there.
func (s *session) mayWrite(folder string) bool {
	path := strings.TrimRight(folder, `\`)
	for {
		at := path
		if len(at) == 2 {
			at += `\`
		}
		if _, err := s.m.Stat(at); err == nil {
			sec, err := s.m.FileSecurity(at)
			return err != nil || s.allowed(sec.SDDL, sddl.Folder)
		}
		i := strings.LastIndexByte(path, '\\')
		if i < 0 {
			return true
		}
		path = path[:i]
	}
}

// allowed says whether SYSTEM may write to what a descriptor guards. Where the
// twin does not say, the rehearsal goes on: a captured twin seldom has the
// lists of all folders.
func (s *session) allowed(text string, kind sddl.Kind) bool {
	d, err := sddl.Parse(text)
	if err != nil {
		return true
	}
	sys, err := s.m.Account("SYSTEM")
	return err != nil || checks.MayWrite(d, kind, sys)
}
