// This file tells what of a product runs now or starts by itself.

package products

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/bounded"
	"hollowkey/core/machine"
	"hollowkey/core/step"
)

// Bounds of the search for a product's programs: below the folders of real
// products lie tens of programs.
const (
	programDepth = 5
	mostPrograms = 500
	mostLooked   = 20_000
)

// Running is what of a product runs now, or starts by itself.
type Running struct {
	Services  []string          `json:"services"`  // that run, with a program of the product's
	Others    []string          `json:"others"`    // running services that depend on these, and stop with them
	Processes []machine.Process `json:"processes"` // that have a program or component file of it open
	Namesakes []machine.Process `json:"namesakes"` // with the name of one of its programs; where they run from is not known
	Tasks     []string          `json:"tasks"`     // that start a program of it
}

// Nothing says that nothing of the product runs.
func (r Running) Nothing() bool { return len(r.Services) == 0 && len(r.Processes) == 0 }

// Running looks what of a product runs now. It fails where processes or
// services cannot be listed, since "nothing runs" would be a guess then.
func (l *List) Running(p *Product) (r Running, err error) {
	r = Running{Services: []string{}, Others: []string{}, Processes: []machine.Process{}, Namesakes: []machine.Process{}, Tasks: []string{}}
	if err := l.runningServices(p, &r); err != nil {
		return r, err
	}
	files := l.programs(p)
	names := map[string]bool{}
	for _, f := range files {
		if strings.HasSuffix(strings.ToLower(f), ".exe") {
			names[strings.ToLower(f[strings.LastIndexByte(f, '\\')+1:])] = true
		}
	}
	if len(files) > 0 {
		if r.Processes, err = l.m.Holders(files...); err != nil {
			return r, fmt.Errorf("who has the files of %s open: %w", p.Name, err)
		}
	}
	all, err := l.m.Processes()
	if err != nil {
		return r, err
	}
	// A program of the same name may be another product's: it is told, and not
	// ended.
	for _, one := range all {
		if names[strings.ToLower(one.Name)] && !slices.ContainsFunc(r.Processes, func(o machine.Process) bool { return o.ID == one.ID }) {
			r.Namesakes = append(r.Namesakes, one)
		}
	}
	tasks, err := l.m.Tasks()
	if err != nil {
		l.Notes = append(l.Notes, "the scheduler's tasks cannot be read: "+bounded.Words(err))
	}
	for _, t := range tasks {
		program, _ := machine.CommandLine{Text: t.Runs}.Runs(l.m)
		if t.Enabled && p.owns(strings.ToLower(program)) && !neighbours(l.Products, p, strings.ToLower(program)) {
			r.Tasks = append(r.Tasks, t.Path)
		}
	}
	return r, nil
}

// runningServices takes in the product's services that run, and those that
// depend on them.
func (l *List) runningServices(p *Product, r *Running) error {
	names, err := l.m.ServiceNames()
	if err != nil {
		return err
	}
	for _, n := range p.Services {
		if s, err := l.m.Service(n); err == nil && s.Running {
			r.Services = append(r.Services, s.Name)
		}
	}
	for _, n := range names {
		s, err := l.m.Service(n)
		if err != nil || !s.Running || slices.Contains(r.Services, s.Name) {
			continue
		}
		if slices.ContainsFunc(s.DependsOn, func(d string) bool {
			return slices.ContainsFunc(r.Services, func(o string) bool { return strings.EqualFold(d, o) })
		}) {
			r.Others = append(r.Others, s.Name)
		}
	}
	return nil
}

// programs are the program files of a product: below its folder, and of its
// components.
func (l *List) programs(p *Product) (files []string) {
	isProgram := func(path string) bool {
		low := strings.ToLower(path)
		return strings.HasSuffix(low, ".exe") || strings.HasSuffix(low, ".dll")
	}
	looked := 0
	var walk func(folder string, depth int)
	walk = func(folder string, depth int) {
		list, err := l.m.ReadDir(folder)
		if err != nil {
			return
		}
		for _, i := range list {
			if looked++; looked > mostLooked || len(files) >= mostPrograms {
				return
			}
			switch {
			case i.Folder && neighbours(l.Products, p, strings.ToLower(i.Path)):
			case i.Folder && depth < programDepth:
				walk(i.Path, depth+1)
			case !i.Folder && isProgram(i.Path):
				files = append(files, i.Path)
			}
		}
	}
	// A folder of the drive itself, or one shared by all programs, is not the
	// product's own.
	if strings.Count(p.Folder, `\`) > 1 {
		walk(p.Folder, 1)
	}
	for _, f := range p.keyPaths {
		if isProgram(f) && len(files) < mostPrograms && !slices.Contains(files, f) {
			files = append(files, f)
		}
	}
	return files
}

// StopServices are the steps that stop the product's services; those that
// depend on them are stopped before, and started again when it is undone.
func (r Running) StopServices() (steps []step.Model) {
	for _, s := range r.Services {
		steps = append(steps, step.New("service", "name", s, "state", "stopped"))
	}
	return steps
}

// EndProcesses are the steps that end the product's programs. That cannot be
// undone.
func (r Running) EndProcesses() (steps []step.Model) {
	for _, p := range r.Processes {
		steps = append(steps, step.New("end-process", "process", fmt.Sprint(p.ID)))
	}
	return steps
}
