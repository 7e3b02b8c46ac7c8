// This file fills the properties as the engine does.

package rehearse

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/condition"
)

// properties fills the property bag as the engine does when it starts: the
// package's own, its built-in ones, the command line.
func (s *session) properties(path string) {
	s.props = map[string]string{}
	if own, err := s.db.Properties(); err == nil {
		s.props = own
	}
	s.world = newWorld(s.db, s.m, s.req.Properties)
	for name, value := range map[string]string{
		"OriginalDatabase": path, "DATABASE": path, "SourceDir": s.source, "UILevel": "2", "ACTION": "INSTALL", "LogonUser": s.user.Name,
		"USERNAME": s.user.Name,
		"UserSID":  string(s.user.SID), "ComputerName": s.m.Name(), "ROOTDRIVE": `C:\`, "Privileged": "1", "AdminUser": "1",
		"MsiRunningElevated": "1",
		"Date":               s.log.now.Format("1/2/2006"), "Time": s.log.now.Format("15:04:05"),
	} {
		s.props[name] = value
	}
	// Conditions ask whether a property is there, so "0" would be a yes.
	if !s.elevated() {
		for _, name := range []string{"Privileged", "AdminUser", "MsiRunningElevated"} {
			delete(s.props, name)
		}
	}
	if s.patch != nil {
		s.props["PATCH"], s.props["OriginalDatabase"], s.props["DATABASE"] = path, s.patchedFile, s.patchedFile
	}
	for name, value := range s.userFolders() {
		s.props[name] = value
	}
	// The call wins over all; an empty value deletes.
	for name, value := range s.req.Properties {
		if s.props[name] = value; value == "" {
			delete(s.props, name)
		}
	}
	s.res.Product, s.res.Version, s.res.Code = s.props["ProductName"], s.props["ProductVersion"], s.props["ProductCode"]
}

// get gives a property, a built-in one when nothing set it.
func (s *session) get(name string) string {
	if v, ok := s.props[name]; ok {
		return v
	}
	if !s.elevated() && (name == "Privileged" || name == "AdminUser") {
		return ""
	}
	if k, ok := s.world.BuiltIn(name); ok && !k.Unknown {
		return k.Text
	}
	return ""
}

// set changes a property and logs the change in the engine's words; an empty
// value deletes it, for the engine knows no empty properties.
func (s *session) set(name, value string) {
	was, had := s.props[name]
	switch {
	case value == "" && had:
		delete(s.props, name)
		s.log.server("PROPERTY CHANGE: Deleting %s property. Its current value is '%s'.", name, s.hide(name, was))
	case value == "":
	case !had:
		s.props[name] = value
		s.log.server("PROPERTY CHANGE: Adding %s property. Its value is '%s'.", name, s.hide(name, value))
	case was != value:
		s.props[name] = value
		s.log.server("PROPERTY CHANGE: Modifying %s property. Its current value is '%s'. Its new value: '%s'.", name, s.hide(name, was),
			s.hide(name, value))
	}
}

// hide keeps values out of the log that the package wants hidden.
func (s *session) hide(name, value string) string {
	if slices.Contains(strings.Split(s.props["MsiHiddenProperties"], ";"), name) {
		return "**********"
	}
	return value
}

// shown is a property's value as it may stand in a log.
func (s *session) shown(name string) string { return s.hide(name, s.props[name]) }

// Below a user's hive: where the engine asks for the user's own folders.
const shellKey = `\Software\Microsoft\Windows\CurrentVersion\Explorer\User Shell Folders`

// shellNames are the user's folders with their registry values and usual
// places.
var shellNames = []struct{ property, value, usual string }{
	{"PersonalFolder", "Personal", `\Documents`}, {"AppDataFolder", "AppData", `\AppData\Roaming`},
	{"LocalAppDataFolder", "Local AppData", `\AppData\Local`},
	{"FavoritesFolder", "Favorites", `\Favorites`}, {"SendToFolder", "SendTo", `\AppData\Roaming\Microsoft\Windows\SendTo`},
	{"MyPicturesFolder", "My Pictures", `\Pictures`},
	{"TemplateFolder", "Templates", `\AppData\Roaming\Microsoft\Windows\Templates`}, {"DesktopFolder", "Desktop", `\Desktop`},
	{"StartMenuFolder", "Start Menu", `\AppData\Roaming\Microsoft\Windows\Start Menu`},
	{"ProgramMenuFolder", "Programs", `\AppData\Roaming\Microsoft\Windows\Start Menu\Programs`},
	{"StartupFolder", "Startup", `\AppData\Roaming\Microsoft\Windows\Start Menu\Programs\Startup`},
}

// forAll are the folders that an install for all users takes in place of the
// user's.
var forAll = map[string]string{
	"DesktopFolder": `C:\Users\Public\Desktop\`, "StartMenuFolder": `C:\ProgramData\Microsoft\Windows\Start Menu\`,
	"ProgramMenuFolder": `C:\ProgramData\Microsoft\Windows\Start Menu\Programs\`,
	"StartupFolder":     `C:\ProgramData\Microsoft\Windows\Start Menu\Programs\StartUp\`,
}

// userFolders are the folders of the user who runs the setup, where the
// registry leads.
func (s *session) userFolders() map[string]string {
	out := map[string]string{"TempFolder": s.temp()}
	for _, f := range shellNames {
		path := s.user.Profile + f.usual
		if v, err := s.m.Value(`HKU\`+string(s.user.SID)+shellKey, f.value); err == nil && v.Words() != "" {
			path = s.expand(v.Words())
		}
		if all, ok := forAll[f.property]; ok && (s.props["ALLUSERS"] == "1" || s.req.Properties["ALLUSERS"] == "1") {
			path = all
		}
		out[f.property] = strings.TrimRight(path, `\`) + `\`
	}
	return out
}

// temp is the user's temporary folder.
func (s *session) temp() string {
	for name, value := range s.m.Facts().Environment {
		if strings.EqualFold(name, "TEMP") {
			return strings.TrimRight(s.expand(value), `\`) + `\`
		}
	}
	return s.user.Profile + `\AppData\Local\Temp\`
}

// expand puts environment variables in.
func (s *session) expand(text string) string { return machine.Expand(s.m, text, s.user.Name) }

const maxFormat = 50 // properties within one another

// format puts values into a formatted text. Source: the platform SDK,
// "Formatted".
func (s *session) format(text string) string {
	for range maxFormat {
		open := strings.LastIndexByte(text, '[')
		if open < 0 {
			break
		}
		end := strings.IndexByte(text[open:], ']')
		if end < 0 {
			break
		}
		text = text[:open] + s.symbol(text[open+1:open+end]) + text[open+end+1:]
	}
	return strings.NewReplacer(openMark, "[", closeMark, "]").Replace(text)
}

// Marks that stand for brackets which are not to be looked at again.
const (
	openMark  = "\x01"
	closeMark = "\x02"
	listMark  = "\x03" // [~]
)

// symbol is what stands for "[name]" in a formatted text: a property, or with a
// sign in front a file, a component's folder, an environment variable, a
// letter. Source: the platform SDK, "Formatted".
func (s *session) symbol(name string) string {
	if name == "" {
		return openMark + closeMark
	}
	// The signs before a name are those of the Formatted type: % a variable, #
	// and ! a file, $ a component's folder, ~ a list's end, \ a sign as it is.
	rest := name[1:]
	switch name[0] {
	case '~':
		return listMark
	case '\\':
		return strings.NewReplacer("[", openMark, "]", closeMark).Replace(rest)
	case '%':
		for k, v := range s.m.Facts().Environment {
			if strings.EqualFold(k, rest) {
				return v
			}
		}
		return ""
	case '#', '!':
		if list, err := s.rows("File"); err == nil {
			for _, r := range list {
				if r.text("File") == rest {
					return s.fileTarget(r)
				}
			}
		}
		return ""
	case '$':
		if c := s.comps[rest]; c != nil {
			return s.dirs[c.dir]
		}
		return ""
	}
	if _, err := strconv.Atoi(name); err == nil {
		return openMark + name + closeMark
	}
	if d, ok := s.dirs[name]; ok {
		return d
	}
	return s.get(name)
}

// lookup gives conditions their values.
func (s *session) lookup(sym condition.Symbol) condition.Value {
	state := func(n int) condition.Value { return condition.Value{Text: strconv.Itoa(n)} }
	switch sym.Kind {
	case condition.Property:
		return condition.Value{Text: s.get(sym.Name)}
	case condition.Environment:
		return condition.Value{Text: s.symbol("%" + sym.Name)}
	case condition.FeatureAction:
		if f := s.features[sym.Name]; f != nil {
			return state(f.action)
		}
	case condition.FeatureState:
		if f := s.features[sym.Name]; f != nil {
			return state(f.state)
		}
	case condition.ComponentAction:
		if c := s.comps[sym.Name]; c != nil {
			return state(c.action)
		}
	case condition.ComponentState:
		if c := s.comps[sym.Name]; c != nil {
			return state(c.state)
		}
	}
	return condition.Value{}
}

// holds works a condition out; an empty one holds.
func (s *session) holds(text string) (bool, error) {
	if strings.TrimSpace(text) == "" {
		return true, nil
	}
	e, err := condition.Parse(text)
	if err != nil {
		return false, fmt.Errorf("condition %q: %w", text, err)
	}
	return condition.Eval(e, s.lookup) == condition.True, nil
}
