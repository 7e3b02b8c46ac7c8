// This file reads and changes a twin's tasks.

package twin

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/machine"
	"hollowkey/core/machine/twinfile"
)

// Entries of lists and keys, as text that can be taken out and put back.

// allTasks reads tasks.yaml with the place of each entry. A task that does not
// say whether it is enabled is an error: a guess would be undone wrongly.
func (t *Twin) allTasks() (all []twinfile.Task, nodes []*yaml.Node, err error) {
	if t.tasks.doc == nil {
		return nil, nil, nil
	}
	if err := t.tasks.doc.Decode(&all); err != nil {
		return nil, nil, fmt.Errorf("tasks.yaml: %w", err)
	}
	for i, k := range all {
		if !strings.HasPrefix(k.Path, `\`) || k.Enabled == nil {
			return nil, nil, fmt.Errorf("tasks.yaml:%d: a task needs a path that begins with a backslash, and enabled: true or false",
				t.tasks.doc.Content[i].Line)
		}
	}
	return all, t.tasks.doc.Content, nil
}

// Tasks lists the scheduler's tasks.
func (t *Twin) Tasks() (list []machine.Task, err error) {
	all, _, err := t.allTasks()
	for _, k := range all {
		list = append(list, machine.Task{Path: k.Path, Runs: k.Runs, Author: k.Author, AtLogon: k.AtLogon, Enabled: *k.Enabled,
			Definition: k.Definition})
	}
	return list, err
}

// taskNode finds the text of a task.
func (t *Twin) taskNode(path string) (*yaml.Node, error) {
	all, nodes, err := t.allTasks()
	for i, k := range all {
		if strings.EqualFold(k.Path, path) {
			return nodes[i], nil
		}
	}
	return nil, errors.Join(err, fmt.Errorf("task %s on %s: %w", path, t.Name(), fs.ErrNotExist))
}

// SetTaskEnabled switches a task on or off.
func (t *Twin) SetTaskEnabled(path string, on bool) error {
	n, err := t.taskNode(path)
	if err != nil {
		return err
	}
	if err := t.tasks.set(find(n, "enabled"), fmt.Sprint(on)); err != nil {
		return err
	}
	return t.write(t.tasks.name, t.tasks.text)
}

// CreateTask appends a task.
func (t *Twin) CreateTask(k machine.Task) error {
	if _, err := t.taskNode(k.Path); err == nil {
		return fmt.Errorf("task %s on %s: %w", k.Path, t.Name(), fs.ErrExist)
	}
	return t.append(t.tasks, []twinfile.Task{{Path: k.Path, Runs: k.Runs, Author: k.Author, AtLogon: k.AtLogon, Enabled: &k.Enabled,
		Definition: k.Definition}})
}

// DeleteTask takes a task out.
func (t *Twin) DeleteTask(path string) error {
	n, err := t.taskNode(path)
	if err != nil {
		return err
	}
	return t.cutEntry(t.tasks, n)
}

// append puts an entry to the end of a list.
func (t *Twin) append(s *sheet, entry any) error {
	b, err := yaml.Marshal(entry)
	if err != nil {
		return err
	}
	if err := s.put(string(b), 1<<30); err != nil {
		return err
	}
	return t.write(s.name, s.text)
}

// cutEntry takes an entry out of a list and writes the file.
func (t *Twin) cutEntry(s *sheet, n *yaml.Node) error {
	i := slices.Index(s.doc.Content, n)
	from, to, err := s.entryLines(s.doc, i)
	if err == nil {
		err = s.cutEntry(func() *yaml.Node { return s.doc }, i, from, to)
	}
	if err != nil {
		return err
	}
	return t.write(s.name, s.text)
}

// CreateService appends a stopped service.
func (t *Twin) CreateService(s machine.Service) error {
	if !machine.OwnAccount(s.Account) {
		return fmt.Errorf("the service %s runs as %s, whose password is not known: %w", s.Name, s.Account, machine.ErrUnsupported)
	}
	if _, _, err := t.entry(s.Name); err == nil {
		return fmt.Errorf("service %s on %s: %w", s.Name, t.Name(), fs.ErrExist)
	}
	return t.append(t.services, []twinfile.Service{{Name: s.Name, Display: s.Display, Binary: s.Binary, Start: string(s.Start),
		Delayed: s.Delayed, Account: s.Account, Depends: s.DependsOn, State: "stopped"}})
}

// DeleteService takes a stopped service out. One that runs is an error, as with
// the OS.
func (t *Twin) DeleteService(name string) error {
	s, n, err := t.entry(name)
	if err != nil {
		return err
	}
	if s.State == "running" {
		return fmt.Errorf("the service %s runs\nhint: stop it first", s.Name)
	}
	return t.cutEntry(t.services, n)
}

// SetDependencies sets what a service depends on. In a twin's file that is
// written in one line.
func (t *Twin) SetDependencies(name string, on []string) error {
	_, n, err := t.entry(name)
	if err != nil {
		return err
	}
	deps := find(n, "depends on")
	if deps == nil || deps.Kind != yaml.SequenceNode || deps.Style&yaml.FlowStyle == 0 {
		return fmt.Errorf("services.yaml:%d: depends on is not written as [a, b] in one line, so it cannot be changed in place", n.Line)
	}
	from := t.services.offset(deps)
	line, _, _ := strings.Cut(string(t.services.text[from:]), "\n")
	length := strings.IndexByte(line, ']')
	if length < 0 || strings.ContainsAny(line[:length], `"'#`) {
		return fmt.Errorf("services.yaml:%d: depends on is not written as [a, b] in one line, so it cannot be changed in place", deps.Line)
	}
	text := string(t.services.text[:from]) + "[" + strings.Join(on, ", ") + "]" + string(t.services.text[from+length+1:])
	if err := t.services.become(text); err != nil {
		return err
	}
	return t.write(t.services.name, t.services.text)
}

// Section gives the text of an entry; nil when there is none.
func (t *Twin) Section(kind, name string) (*machine.Section, error) {
	var s *sheet
	var n *yaml.Node
	var err error
	switch kind {
	case "key":
		k, err := t.key(name)
		if err != nil {
			return nil, err
		}
		h, there := t.hive(k)
		if !there {
			return nil, nil
		}
		lines, at, _ := h.file.Section(k)
		return &machine.Section{File: h.name, Lines: lines, At: at}, nil
	case "service":
		s = t.services
		_, n, err = t.entry(name)
	case "task":
		s = t.tasks
		n, err = t.taskNode(name)
	}
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	from, to, err := s.entryLines(s.doc, slices.Index(s.doc.Content, n))
	if err != nil {
		return nil, err
	}
	return &machine.Section{File: s.name, Lines: s.lines(from, to), At: from}, nil
}

// PutSection puts the text of an entry back.
func (t *Twin) PutSection(kind string, sec machine.Section) error {
	switch kind {
	case "key":
		for _, h := range t.registry {
			if h.name == sec.File {
				if err := h.file.PutSection(sec.Lines, sec.At); err != nil {
					return err
				}
				return t.write(h.name, h.file.Bytes())
			}
		}
		return fmt.Errorf("the twin %s has no %s", t.Name(), sec.File)
	case "service", "task":
		s := map[string]*sheet{"service": t.services, "task": t.tasks}[kind]
		if err := s.put(sec.Lines, sec.At); err != nil {
			return err
		}
		return t.write(s.name, s.text)
	}
	return fmt.Errorf("no entries of the kind %q", kind)
}
