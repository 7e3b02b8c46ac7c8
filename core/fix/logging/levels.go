// Package logging gets more out of the next run of a setup: it raises the log
// levels of programs for a while, and sets old logs aside.
package logging

import (
	"bytes"
	_ "embed"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"path/filepath"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/bounded"
	"hollowkey/core/fix"
	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
	"hollowkey/core/step"
	"hollowkey/core/why/signs"
)

// A Level is how one program writes more into its log.
type Level struct {
	Name  string       `yaml:"name" json:"name"`   // of the product or part
	Log   string       `yaml:"log" json:"log"`     // where it writes; may be empty
	Steps []step.Model `yaml:"steps" json:"steps"` // ini and registry steps
	Site  bool         `yaml:"-" json:"site"`      // from a site's own file
}

//go:embed levels.yaml
var builtIn []byte

const maxLevels = 1 << 20 // bytes of a file; one for a hundred programs has 20,000

// Read reads a file of levels. Only values of INI files and of the registry can
// be set. Errors name the file and the level at fault.
func Read(name string, b []byte) (list []Level, err error) {
	d := yaml.NewDecoder(bytes.NewReader(b))
	d.KnownFields(true)
	if err := d.Decode(&list); err != nil {
		return nil, fmt.Errorf("%s: %w\nhint: docs/logs.md has an example", name, err)
	}
	for _, l := range list {
		if l.Name == "" || len(l.Steps) == 0 {
			return nil, fmt.Errorf("%s: one of them has no name or no steps\nhint: docs/logs.md has an example", name)
		}
		for _, s := range l.Steps {
			kind := slices.Collect(maps.Keys(s))
			if len(kind) != 1 || kind[0] != "ini" && kind[0] != "registry" {
				return nil, fmt.Errorf("%s: %s: %s is neither ini nor registry", name, l.Name, strings.Join(kind, ", "))
			}
			if _, err := kinds.New(s); err != nil {
				return nil, fmt.Errorf("%s: %s: %w", name, l.Name, err)
			}
		}
	}
	return list, nil
}

// StandingFile is where a site's own levels lie on a machine that is set up for
// it.
func StandingFile() string { return filepath.Join(filepath.Dir(signs.StandingFolder()), "levels.yaml") }

// Levels are those of the OS's own parts and a site's own, of the file that is
// given or of the standing one where it is there. A file that is given and is
// not there is an error, the standing one is not.
func Levels(site string) ([]Level, error) {
	list, err := Read("levels.yaml", builtIn)
	if err != nil {
		return nil, err
	}
	name := site
	if name == "" {
		name = StandingFile()
	}
	b, err := bounded.ReadFile(name, maxLevels)
	if site == "" && errors.Is(err, fs.ErrNotExist) {
		return list, nil
	}
	if err != nil {
		return nil, err
	}
	own, err := Read(name, b)
	for i := range own {
		own[i].Site = true
	}
	return append(own, list...), err
}

// Named are the levels of a name; a star stands for anything.
func Named(list []Level, name string) (out []Level) {
	for _, l := range list {
		if ok, _ := filepath.Match(strings.ToLower(name), strings.ToLower(l.Name)); ok || strings.EqualFold(l.Name, name) {
			out = append(out, l)
		}
	}
	return out
}

// Raise drafts the hold that makes programs write more. It fails where one of
// the values cannot be set on the machine.
func Raise(m machine.Machine, list []Level) (fix.Plan, error) {
	var steps []step.Model
	var names []string
	for _, l := range list {
		steps = append(steps, l.Steps...)
		names = append(names, l.Name)
	}
	p, err := fix.Draft(m, "raise the log level of "+strings.Join(names, ", "), steps)
	p.Hold = fix.LogLevels
	return p, err
}
