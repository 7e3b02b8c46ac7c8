// This file writes registry, INI files and shortcuts.

package rehearse

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"strconv"
	"strings"

	"hollowkey/core/machine/inifile"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/package/installdb"
)

// key is where a row of the Registry table leads on the machine, in the view of
// its component.
func (s *session) key(root int, key string, wide bool) string {
	key = strings.Trim(s.format(key), `\`)
	switch root {
	case 0:
		return `HKLM\SOFTWARE\Classes\` + key
	case 1:
		return `HKU\` + string(s.user.SID) + `\` + key
	case 3:
		return `HKU\` + key
	case -1:
		if s.get("ALLUSERS") == "" {
			return `HKU\` + string(s.user.SID) + `\` + key
		}
	}
	first, rest, _ := strings.Cut(key, `\`)
	if strings.EqualFold(first, "Software") && !wide && strings.Contains(strings.ToLower(s.m.Facts().OS.Architecture), "64") {
		return `HKLM\SOFTWARE\WOW6432Node\` + rest
	}
	return `HKLM\` + key
}

// value reads a row's value as the engine does. Source: the platform SDK,
// "Registry Table".
func (s *session) value(text string) (regfile.Value, error) {
	raw := s.format(text)
	switch {
	case strings.Contains(raw, listMark):
		return regfile.Make(regfile.MultiStr, strings.Trim(strings.ReplaceAll(raw, listMark, "\n"), "\n"))
	case strings.HasPrefix(raw, "##"):
		return regfile.Make(regfile.String, raw[1:])
	case strings.HasPrefix(raw, "#%"):
		return regfile.Make(regfile.Expand, raw[2:])
	case strings.HasPrefix(raw, "#x"), strings.HasPrefix(raw, "#X"):
		return regfile.Make(regfile.Binary, raw[2:])
	case strings.HasPrefix(raw, "#"):
		if n, err := strconv.ParseInt(raw[1:], 10, 64); err == nil {
			return regfile.Make(regfile.DWord, strconv.FormatUint(uint64(uint32(n)), 10))
		}
	}
	return regfile.Make(regfile.String, raw)
}

// componentRows goes through the rows of a table whose component is to be put
// into a state.
func (s *session) componentRows(table string, action int, do func(r row, c *component) error) error {
	list, err := s.rows(table)
	if err != nil {
		return err
	}
	for _, r := range list {
		if c := s.comps[r.text("Component_")]; c != nil && c.action == action {
			if err := do(r, c); err != nil {
				return err
			}
		}
	}
	return nil
}

// writeRegistry writes the Registry table. "+", "*" and "-" in place of a name
// make or remove the key itself. Source: the platform SDK, "Registry Table".
func (s *session) writeRegistry() error {
	return s.componentRows("Registry", stateLocal, func(r row, c *component) error {
		name, text := s.format(r.text("Name")), r.text("Value")
		if name == "-" && text == "" {
			return nil // counts when the component goes
		}
		key := s.key(r.number("Root"), r.text("Key"), c.wide)
		if (name == "+" || name == "*") && text == "" {
			s.setValue("WriteRegistryValues", key, "", nil)
			return nil
		}
		v, err := s.value(text)
		if err != nil {
			return &stop{message: 1406, detail: "2: " + name + " 3: " + key,
				text: "Could not write value " + name + " to key \\" + key + ".  " + err.Error()}
		}
		s.setValue("WriteRegistryValues", key, name, &v)
		return nil
	})
}

// setValue puts a value into the script, with its key; of a nil one only the
// key.
func (s *session) setValue(action, key, name string, v *regfile.Value) {
	var made []string
	var was regfile.Value
	had := false
	shown := ""
	if v != nil {
		shown = strings.ReplaceAll(v.Words(), "\n", "[~]")
	}
	s.add(op{action: action, info: fmt.Sprintf("Key: \\%s, Name: %s, Value: %s", key, name, shown),
		line: fmt.Sprintf("RegAddValue(Name=%s,Value=%s,)", name, shown),
		do: func() (err error) {
			if made, err = s.makeKey(key); err != nil || v == nil {
				return err
			}
			// Asked after the key is made: the list that counts is the one that
			// it takes from above.
			sec, err := s.m.KeySecurity(key)
			if err == nil && !s.allowed(sec.SDDL, sddl.Key) {
				return &stop{message: 1406, detail: "2: " + name + " 3: " + key + " 4: 5",
					text: fmt.Sprintf("Could not write value %s to key \\%s.  System error %d.  Verify that you have sufficient access to that key, "+
						"or contact your support personnel.", name, key, errAccessDenied)}
			}
			was, err = s.m.Value(key, name)
			if had = err == nil; err != nil && !errors.Is(err, fs.ErrNotExist) {
				return err
			}
			return s.m.SetValue(key, name, *v)
		},
		back: func() error {
			switch {
			case v == nil:
			case had:
				return s.m.SetValue(key, name, was)
			default:
				if err := ignoreAbsent(s.m.DeleteValue(key, name)); err != nil {
					return err
				}
			}
			return s.dropKeys(made)
		}})
}

// makeKey makes a key with those above it that are missing.
func (s *session) makeKey(key string) (made []string, err error) {
	parts := strings.Split(key, `\`)
	for n := 2; n <= len(parts); n++ {
		k := strings.Join(parts[:n], `\`)
		there, err := s.m.KeyExists(k)
		if err != nil {
			return made, err
		}
		if there {
			continue
		}
		above := strings.Join(parts[:n-1], `\`)
		if sec, err := s.m.KeySecurity(above); err == nil && !s.allowed(sec.SDDL, sddl.Key) {
			return made, &stop{message: 1401, detail: "2: " + k + " 3: 5",
				text: fmt.Sprintf("Could not create key: %s.  System error %d.  Verify that you have sufficient access to that key, or contact "+
					"your support personnel.", k, errAccessDenied)}
		}
		if err := s.m.CreateKey(k); err != nil {
			return made, err
		}
		made = append(made, k)
	}
	return made, nil
}

// dropKeys takes keys away that are empty, the innermost first.
func (s *session) dropKeys(keys []string) error {
	for i := len(keys) - 1; i >= 0; i-- {
		if !s.emptyKey(keys[i]) {
			return nil
		}
		if err := ignoreAbsent(s.m.DeleteKey(keys[i])); err != nil {
			return err
		}
	}
	return nil
}

// emptyKey says whether a key may go: nothing is in it, and nothing below it.
func (s *session) emptyKey(key string) bool {
	values, err := s.m.Values(key)
	if err != nil && !errors.Is(err, fs.ErrNotExist) || len(values) > 0 {
		return false
	}
	below, err := s.m.Subkeys(key)
	return err == nil && len(below) == 0
}

// removeRegistry takes away the values of components that go.
func (s *session) removeRegistry() error {
	return s.componentRows("Registry", stateAbsent, func(r row, c *component) error {
		s.dropValue("RemoveRegistryValues", s.key(r.number("Root"), r.text("Key"), c.wide), s.format(r.text("Name")))
		return nil
	})
}

// dropValue takes a value away, and its key and those above it when they are
// empty then.
func (s *session) dropValue(action, key, name string) {
	var was regfile.Value
	had := false
	var gone []string
	s.add(op{action: action, info: fmt.Sprintf("Key: \\%s, Name: %s", key, name), line: fmt.Sprintf("RegRemoveValue(Name=%s,)", name),
		do: func() (err error) {
			was, err = s.m.Value(key, name)
			if had = err == nil; had {
				err = s.m.DeleteValue(key, name)
			}
			if err = ignoreAbsent(err); err != nil {
				return err
			}
			// The engine takes keys that it emptied, up to the vendor's.
			for k := key; strings.Count(k, `\`) > 2 && s.emptyKey(k); k = k[:strings.LastIndexByte(k, '\\')] {
				if there, err := s.m.KeyExists(k); err != nil || !there {
					return err
				}
				if err := s.m.DeleteKey(k); err != nil {
					return ignoreAbsent(err)
				}
				gone = append(gone, k)
			}
			return nil
		},
		back: func() error {
			for i := len(gone) - 1; i >= 0; i-- {
				if err := s.m.CreateKey(gone[i]); err != nil {
					return err
				}
			}
			if !had {
				return nil
			}
			return s.m.SetValue(key, name, was)
		}})
}

// INI files. Source: the platform SDK, "IniFile Table".

// iniRows goes through a table of INI entries; without a folder of its own an
// entry is the OS's.
func (s *session) iniRows(table string, action int, do func(r row, path string)) error {
	return s.componentRows(table, action, func(r row, _ *component) error {
		folder := s.dirs[r.text("DirProperty")]
		if folder == "" {
			folder = cmp.Or(s.get(r.text("DirProperty")), s.get("WindowsFolder"))
		}
		do(r, strings.TrimRight(folder, `\`)+`\`+installdb.LongName(r.text("FileName")))
		return nil
	})
}

// writeIni sets one key of an INI file and leaves the rest as it is.
func (s *session) writeIni() error {
	return s.iniRows("IniFile", stateLocal, func(r row, path string) {
		section, key, value := s.format(r.text("Section")), s.format(r.text("Key")), s.format(r.text("Value"))
		s.editFile("WriteIniValues", path, fmt.Sprintf("IniWriteRemoveValue(Section=%s,Key=%s,Value=%s,Mode=0)", section, key, value),
			func(b []byte) ([]byte, error) {
				f, err := inifile.Parse(b)
				if err == nil {
					err = f.Set(section, key, value)
				}
				if err != nil {
					return nil, err
				}
				return f.Bytes(), nil
			})
	})
}

// removeIni takes the key away again; a file that is empty then goes as well.
func (s *session) removeIni() error {
	return s.iniRows("IniFile", stateAbsent, func(r row, path string) {
		section, key := s.format(r.text("Section")), s.format(r.text("Key"))
		s.editFile("RemoveIniValues", path, fmt.Sprintf("IniWriteRemoveValue(Section=%s,Key=%s,,Mode=1)", section, key),
			func(b []byte) ([]byte, error) {
				f, err := inifile.Parse(b)
				if err != nil {
					return nil, err
				}
				f.Remove(section, key)
				return f.Bytes(), nil
			})
	})
}

// editFile alters a small file, or makes it; one that becomes empty goes.
func (s *session) editFile(action, path, line string, edit func([]byte) ([]byte, error)) {
	var was []byte
	there := false
	s.add(op{action: action, info: "File: " + path, line: line,
		do: func() (err error) {
			if was, there, err = s.existing(path); err != nil {
				return err
			}
			b, err := edit(was)
			if err != nil {
				return err
			}
			// A file with nothing left in it goes.
			if len(strings.TrimSpace(string(b))) == 0 {
				if there {
					return s.m.RemoveFile(path)
				}
				return nil
			}
			return s.put(path, b)
		},
		back: func() error {
			if there {
				return s.put(path, was)
			}
			return ignoreAbsent(s.m.RemoveFile(path))
		}})
}

// The machine's variables; those that a user has come from below the user's
// hive.
const environmentKey = `HKLM\SYSTEM\CurrentControlSet\Control\Session Manager\Environment`

// environment goes through the Environment table. Source: the platform SDK,
// "Environment Table": marks before the name, [~] for what was there.
func (s *session) environment(action string, state int) error {
	list, err := s.rows("Environment")
	if err != nil {
		return err
	}
	for _, r := range list {
		c := s.comps[r.text("Component_")]
		if c == nil || c.action != state {
			continue
		}
		name := strings.TrimLeft(r.text("Name"), "=+-!*")
		// The signs before the name: * the machine's variable and not the
		// user's, - take it away at the removal, = and + when it is set.
		marks := r.text("Name")[:len(r.text("Name"))-len(name)]
		key := environmentKey
		if !strings.Contains(marks, "*") {
			key = `HKU\` + string(s.user.SID) + `\Environment`
		}
		had, err := s.m.Value(key, name)
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		text, was := s.format(r.text("Value")), ""
		if err == nil {
			was = had.Words()
		}
		own := strings.Trim(strings.ReplaceAll(text, listMark, ""), ";")
		switch {
		// [~] stands for what was there: the value is put before or behind it,
		// once.
		case state == stateLocal && strings.Contains(text, listMark):
			if strings.Contains(";"+was+";", ";"+own+";") {
				continue
			}
			text = strings.Trim(strings.ReplaceAll(text, listMark, was), ";")
		case state == stateLocal:
		case strings.HasPrefix(marks, "-"), strings.Contains(marks, "-"):
			rest := strings.Trim(strings.ReplaceAll(";"+was+";", ";"+own+";", ";"), ";")
			if rest == "" || !strings.Contains(text, listMark) {
				s.dropValue(action, key, name)
				continue
			}
			text = rest
		default:
			continue
		}
		kind := regfile.Expand
		if err == nil {
			kind = had.Type
		}
		v, err := regfile.Make(kind, text)
		if err != nil {
			return err
		}
		s.setValue(action, key, name, &v)
	}
	return nil
}

// writeEnvironment sets the variables of components that are installed.
func (s *session) writeEnvironment() error {
	return s.environment("WriteEnvironmentStrings", stateLocal)
}

// removeEnvironment undoes the variables of components that go.
func (s *session) removeEnvironment() error {
	return s.environment("RemoveEnvironmentStrings", stateAbsent)
}

// Shortcuts.

// shortcutRows gives for each shortcut its path and what it starts: a file by a
// formatted text, or the key file of its component.
func (s *session) shortcutRows(action int, do func(path, target, folder string)) error {
	return s.componentRows("Shortcut", action, func(r row, c *component) error {
		folder := s.dirs[r.text("Directory_")]
		target := r.text("Target")
		if strings.HasPrefix(target, "[") {
			target = s.format(target)
		} else {
			target = s.symbol("#" + c.key)
		}
		do(folder+installdb.LongName(r.text("Name"))+".lnk", target, folder)
		return nil
	})
}

// createShortcuts writes links that are enough for their target to be found.
func (s *session) createShortcuts() error {
	return s.shortcutRows(stateLocal, func(path, target, folder string) {
		s.makeFolder("CreateShortcuts", folder)
		s.editFile("CreateShortcuts", path, fmt.Sprintf("ShortcutCreate(Name=%s,,,FileName=%s,)", path, target),
			func([]byte) ([]byte, error) { return link(target), nil })
	})
}

// removeShortcuts removes the links, and their folder when it is empty.
func (s *session) removeShortcuts() error {
	return s.shortcutRows(stateAbsent, func(path, _, folder string) {
		s.editFile("RemoveShortcuts", path, fmt.Sprintf("ShortcutRemove(Name=%s)", path), func([]byte) ([]byte, error) { return nil, nil })
		s.removeFolder("RemoveShortcuts", folder)
	})
}

// link writes a shortcut that names its target as a relative path. Source:
// [MS-SHLLINK] 2.1 and 2.4.
func link(target string) []byte {
	b := make([]byte, 76)
	b[0] = 76
	copy(b[4:], []byte{0x01, 0x14, 0x02, 0, 0, 0, 0, 0, 0xC0, 0, 0, 0, 0, 0, 0, 0x46})
	b[20] = 0x08 | 0x80 // has a relative path; texts are UTF-16
	b[60] = 1           // show normally
	text := []rune(target)
	b = append(b, byte(len(text)), byte(len(text)>>8))
	for _, r := range text {
		b = append(b, byte(r), byte(r>>8))
	}
	return b
}
