// Package twinfile is the form of the files that a twin's folder consists of,
// as docs/twin.md describes it. core/machine/twin reads and changes them,
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
	Name        string            `yaml:"name"`                       // the machine's name
	OS          OS                `yaml:"os"`                         // what runs on it
	Drives      []Drive           `yaml:"drives"`                     // with a letter
	Users       []User            `yaml:"users,omitempty"`            // those who have a profile, and service accounts
	SignedIn    string            `yaml:"signed in,omitempty"`        // whose HKEY_CURRENT_USER it is
	Environment map[string]string `yaml:"environment,omitempty"`      // the machine's own variables
	Hosts       map[string]bool   `yaml:"hosts,omitempty"`            // whether each answers
	Unresolved  []string          `yaml:"unresolved hosts,omitempty"` // names that nothing resolves
	Elevated    *bool             `yaml:"elevated,omitempty"`         // nil: it is not known
	Time        time.Time         `yaml:"time,omitempty"`             // of the capture
	Booted      time.Time         `yaml:"booted,omitempty"`           // last start of the OS
	SafeBoot    string            `yaml:"safe boot,omitempty"`        // off, minimal or network; empty is off
	Sessions    []Session         `yaml:"sessions,omitempty"`         // who is signed in
	Processes   []Process         `yaml:"processes,omitempty"`        // those that were told
	Programs    []Program         `yaml:"programs,omitempty"`         // what programs of the OS answer when they are run
}

// OS is the operating system.
type OS struct {
	Name         string `yaml:"name"`         // such as Windows
	Version      string `yaml:"version"`      // such as "10.0"
	Build        int    `yaml:"build"`        // such as 19045
	Edition      string `yaml:"edition"`      // such as Enterprise
	Ring         string `yaml:"ring"`         // of updates, such as general
	Architecture string `yaml:"architecture"` // x64, arm64 or x86
}

// A Drive is a volume; sizes as Size writes them.
type Drive struct {
	Letter string `yaml:"letter"` // with its colon
	Kind   string `yaml:"kind"`   // fixed, removable, network, optical
	Size   string `yaml:"size"`   // with a unit, such as 237 GB
	Free   string `yaml:"free"`   // with a unit
}

// A User has a profile on the machine; groups by name or security ID.
type User struct {
	Name    string   `yaml:"name"`              // without its domain
	SID     string   `yaml:"sid"`               // security ID
	Groups  []string `yaml:"groups,omitempty"`  // as access lists write them, such as BA
	Profile string   `yaml:"profile,omitempty"` // folder; empty for an account without one
}

// A Session is one user who is signed in.
type Session struct {
	ID    int    `yaml:"id"`    // session number
	User  string `yaml:"user"`  // name without its domain
	State string `yaml:"state"` // active or disconnected
}

// A Process is a running program.
type Process struct {
	ID    int      `yaml:"id"`              // process number
	Name  string   `yaml:"name"`            // file name of its program
	User  string   `yaml:"user,omitempty"`  // name without its domain
	Files []string `yaml:"files,omitempty"` // that it keeps open
}

// A Program answers when it is run.
type Program struct {
	Run  string   `yaml:"run"`  // its command line
	Exit int      `yaml:"exit"` // its exit code
	Says []string `yaml:"says"` // its output, line by line
}

// A Service is one entry of services.yaml.
type Service struct {
	Name    string   `yaml:"name"`               // the short one
	Display string   `yaml:"display"`            // as the OS shows it
	Binary  string   `yaml:"binary"`             // command line
	Start   string   `yaml:"start"`              // automatic, manual, disabled and so on
	Delayed bool     `yaml:"delayed,omitempty"`  // automatic, but after the others
	Account string   `yaml:"account"`            // LocalSystem and so on
	Depends []string `yaml:"depends on,flow"`    // short names
	State   string   `yaml:"state"`              // running or stopped
	AtStart int      `yaml:"at start,omitempty"` // system error that starting ends with, 0 for none
}

// A Task is one entry of tasks.yaml.
type Task struct {
	Path       string `yaml:"path"`                 // \Folder\Name
	Runs       string `yaml:"runs"`                 // command line
	Author     string `yaml:"author,omitempty"`     // as it is registered
	AtLogon    bool   `yaml:"at logon"`             // or at start-up
	Enabled    *bool  `yaml:"enabled"`              // nil stands for true
	Definition string `yaml:"definition,omitempty"` // as the OS exports it
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
