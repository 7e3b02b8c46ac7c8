// This file reads and changes scheduled tasks.

package live

import (
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"golang.org/x/sys/windows"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"

	"hollowkey/core/machine"
)

const (
	maxTasks = 5000    // an OS has some two hundred
	maxTask  = 1 << 20 // bytes
)

// taskXML is the part of a task's definition that matters here. Source: the
// scheduler's XML schema, [MS-TSCH] 2.5.
type taskXML struct {
	Author   string   `xml:"RegistrationInfo>Author"` // as it is registered
	Logon    []string `xml:"Triggers>LogonTrigger"`   // one for each trigger at logon
	Boot     []string `xml:"Triggers>BootTrigger"`    // one for each trigger at start-up
	Enabled  *bool    `xml:"Settings>Enabled"`        // nil stands for true
	Command  string   `xml:"Actions>Exec>Command"`    // the program, variables as they are
	Argument string   `xml:"Actions>Exec>Arguments"`  // its arguments in one text
}

// Tasks reads the definitions in the OS's task folder, which takes an elevated
// prompt.
func (m *Machine) Tasks() (list []machine.Task, err error) {
	system, err := windows.GetSystemDirectory()
	if err != nil {
		return nil, err
	}
	root := filepath.Join(system, "Tasks")
	err = filepath.WalkDir(root, func(p string, e os.DirEntry, err error) error {
		if err != nil {
			if p == root {
				return err
			}
			return nil // a folder that may not be read
		}
		if !e.Type().IsRegular() || len(list) >= maxTasks {
			return nil
		}
		t, ok := readTask(p)
		if ok {
			t.Path = strings.TrimPrefix(p, root)
			list = append(list, t)
		}
		return nil
	})
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	return list, told(err, "the scheduler's tasks")
}

// readTask reads a task's definition where the scheduler keeps it. Its own
// interface would need COM; the file is the same text.
func readTask(p string) (t machine.Task, ok bool) {
	f, err := os.Open(p)
	if err != nil {
		return t, false
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, maxTask))
	if err != nil {
		return t, false
	}
	plain, _, err := transform.Bytes(unicode.BOMOverride(unicode.UTF8.NewDecoder()), b)
	if err != nil {
		return t, false
	}
	text := string(plain)
	var x taskXML
	d := xml.NewDecoder(strings.NewReader(text))
	d.CharsetReader = func(_ string, in io.Reader) (io.Reader, error) { return in, nil }
	if d.Decode(&x) != nil {
		return t, false
	}
	return machine.Task{Runs: strings.TrimSpace(x.Command + " " + x.Argument), Author: x.Author, AtLogon: x.Logon != nil || x.Boot != nil,
		Enabled: x.Enabled == nil || *x.Enabled, Definition: text}, true
}

// schtasks is the OS's own command for the scheduler.
func (m *Machine) schtasks(args ...string) error {
	var said []string
	code, err := m.Run(context.Background(), append([]string{"schtasks.exe"}, args...), func(l string) { said = append(said, l) })
	if err == nil && code != 0 {
		err = fmt.Errorf("schtasks ended with %d: %s\nhint: run it again from an elevated prompt", code, strings.Join(said, " "))
	}
	return err
}

// SetTaskEnabled switches a task on or off.
func (m *Machine) SetTaskEnabled(path string, on bool) error {
	how := "/DISABLE"
	if on {
		how = "/ENABLE"
	}
	return m.schtasks("/Change", "/TN", path, how)
}

// CreateTask makes a task from its definition.
func (m *Machine) CreateTask(t machine.Task) error {
	f, err := os.CreateTemp("", "hollowkey-task-*.xml")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	wide, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().String(t.Definition)
	if err == nil {
		_, err = f.WriteString(wide)
	}
	if err := errors.Join(err, f.Close()); err != nil {
		return err
	}
	return m.schtasks("/Create", "/TN", t.Path, "/XML", f.Name())
}

// DeleteTask deletes a task.
func (m *Machine) DeleteTask(path string) error {
	return m.schtasks("/Delete", "/TN", path, "/F")
}
