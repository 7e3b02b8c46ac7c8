// Package twinfile is the form of the files that a twin's folder consists of, as
// docs/twin.md describes it. core/machine/twin reads and changes them,
// core/machine/capture writes them.
package twinfile

import (
	"fmt"
	"strings"
	"time"
)

// The names of the files.
const (
	AboutName    = "twin.yaml"
	ServicesName = "services.yaml"
	TasksName    = "tasks.yaml"
	AccessName   = "access.yaml" // path or key → security descriptor
	DiskName     = "disk.yaml"   // path → Stub
)

// About is twin.yaml: what the machine is and has.
type About struct {
	Name        string            `yaml:"name"`
	OS          OS                `yaml:"os"`
	Drives      []Drive           `yaml:"drives"`
	Users       []User            `yaml:"users,omitempty"`
	SignedIn    string            `yaml:"signed in,omitempty"` // whose HKEY_CURRENT_USER it is
	Environment map[string]string `yaml:"environment,omitempty"`
	Hosts       map[string]bool   `yaml:"hosts,omitempty"`    // whether each answers
	Elevated    *bool             `yaml:"elevated,omitempty"` // nil: it is not known
	Time        time.Time         `yaml:"time,omitempty"`
	Booted      time.Time         `yaml:"booted,omitempty"`
	SafeBoot    string            `yaml:"safe boot,omitempty"`
	Sessions    []Session         `yaml:"sessions,omitempty"`
	Processes   []Process         `yaml:"processes,omitempty"`
	Programs    []Program         `yaml:"programs,omitempty"`
}

// OS is the operating system.
type OS struct {
	Name         string `yaml:"name"`
	Version      string `yaml:"version"`
	Build        int    `yaml:"build"`
	Edition      string `yaml:"edition"`
	Ring         string `yaml:"ring"`
	Architecture string `yaml:"architecture"`
}

// A Drive is a volume; sizes as Size writes them.
type Drive struct {
	Letter string `yaml:"letter"`
	Kind   string `yaml:"kind"` // fixed, removable, network, optical
	Size   string `yaml:"size"`
	Free   string `yaml:"free"`
}

// A User has a profile on the machine; groups by name or security ID.
type User struct {
	Name    string   `yaml:"name"`
	SID     string   `yaml:"sid"`
	Groups  []string `yaml:"groups,omitempty"`
	Profile string   `yaml:"profile,omitempty"`
}

// A Session is one user who is signed in.
type Session struct {
	ID    int    `yaml:"id"`
	User  string `yaml:"user"`
	State string `yaml:"state"` // active or disconnected
}

// A Process is a running program.
type Process struct {
	ID    int      `yaml:"id"`
	Name  string   `yaml:"name"`
	User  string   `yaml:"user,omitempty"`
	Files []string `yaml:"files,omitempty"` // that it keeps open
}

// A Program answers when it is run.
type Program struct {
	Run  string   `yaml:"run"` // its command line
	Exit int      `yaml:"exit"`
	Says []string `yaml:"says"`
}

// A Service is one entry of services.yaml.
type Service struct {
	Name    string   `yaml:"name"`
	Display string   `yaml:"display"`
	Binary  string   `yaml:"binary"`
	Start   string   `yaml:"start"`
	Delayed bool     `yaml:"delayed,omitempty"`
	Account string   `yaml:"account"`
	Depends []string `yaml:"depends on,flow"`
	State   string   `yaml:"state"`              // running or stopped
	AtStart int      `yaml:"at start,omitempty"` // system error that starting ends with, 0 for none
}

// A Task is one entry of tasks.yaml.
type Task struct {
	Path       string `yaml:"path"`
	Runs       string `yaml:"runs"`
	Author     string `yaml:"author,omitempty"`
	AtLogon    bool   `yaml:"at logon"`
	Enabled    *bool  `yaml:"enabled"`
	Definition string `yaml:"definition,omitempty"`
}

// A Stub is a file of which only facts are known.
type Stub struct {
	Size int64 `yaml:"size"` // bytes
}

// Units of sizes; as the OS shows them, powers of 1024.
var units = map[string]float64{"KB": 1 << 10, "MB": 1 << 20, "GB": 1 << 30, "TB": 1 << 40}

// Size writes a number of bytes in whole megabytes.
func Size(bytes int64) string { return fmt.Sprintf("%d MB", bytes>>20) }

// Bytes reads "237 GB"; 0 when it is not given.
func Bytes(size string) int64 {
	var n float64
	var unit string
	fmt.Sscanf(size, "%g %s", &n, &unit)
	if scale, ok := units[strings.ToUpper(unit)]; ok {
		n *= scale
	}
	return int64(n)
}
