// Package machine is what a Windows machine is to the rest of the program,
// whether it is the one we run on or a twin in a folder. Whoever needs only a
// part asks for that part's interface.
package machine

import (
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/sddl"
)

// ErrUnsupported says that this kind of machine cannot do or tell that.
var ErrUnsupported = errors.New("this machine cannot do that")

// ErrNoName says that nobody knows a host's name, which is another thing than a
// host that does not answer.
var ErrNoName = errors.New("the name is not resolved")

// A Machine is the whole of it.
type Machine interface {
	Name() string
	Facts() Facts
	Accounts
	Files
	Registry
	Services
	Tasks
	Activity
}

// Facts are what a machine is and has.
type Facts struct {
	OS          OS                // of the machine that is looked at
	Drives      []Drive           // with a letter
	Hosts       map[string]bool   // reachable or not, where it is known
	Environment map[string]string // the machine's own variables, unresolved
	Elevated    bool              // whether changes to the whole machine may be made
	Time        time.Time         // by the machine's own clock
	Booted      time.Time         // the last start of the OS
	// Unknown says of facts that could not be read why: "elevated", "time",
	// "booted", "drives".
	Unknown map[string]string
}

// OS is the operating system.
type OS struct {
	Name, Version, Edition, Ring, Architecture string // as the OS tells them; Version is "10.0" and so on
	Build                                      int    // 0 where it is not known
}

// A Drive is a mounted volume; Size and Free are in bytes.
type Drive struct {
	Letter     string // "C:"
	Kind       string // fixed, removable, network, optical
	Size, Free int64  // bytes
}

// HasDrive says whether a drive letter ("Z:") is mounted.
func (f Facts) HasDrive(letter string) bool {
	for _, d := range f.Drives {
		if strings.EqualFold(d.Letter, letter) {
			return true
		}
	}
	return false
}

// Accounts finds users and groups.
type Accounts interface {
	// Account finds an account by name or security ID; fs.ErrNotExist when
	// there is none.
	Account(name string) (Account, error)
	// SignedIn is the user who is signed in, or who runs the program; empty
	// when it is not known.
	SignedIn() string
	// UserNames lists those who have a profile on the machine.
	UserNames() ([]string, error)
	// LogonRights are the rights to log on (SeServiceLogonRight and so on) that
	// an account was given itself.
	LogonRights(account string) ([]string, error)
	SetLogonRight(account, right string, held bool) error
}

// An Account is a user or a service account, with the groups that count when it
// asks for access.
type Account struct {
	Name    string     // without its domain
	SID     sddl.SID   // which access lists name
	Groups  []sddl.SID // those that count when it is signed in
	Profile string     // the user's profile folder
}

// SIDs are all security IDs of the account's token.
func (a Account) SIDs() []sddl.SID { return append([]sddl.SID{a.SID}, a.Groups...) }

// Security is the access control of one object. Own is false when all of it
// comes from above.
type Security struct {
	SDDL string `json:"sddl"` // owner and access list in text form
	Own  bool   `json:"own"`  // set on the object itself, not only from above
}

// Files looks at and changes files and folders, by their Windows paths.
type Files interface {
	// Stat gives fs.ErrNotExist when nothing is there.
	Stat(path string) (FileInfo, error)
	// ReadDir lists a folder; fs.ErrNotExist when it is not there.
	ReadDir(path string) ([]FileInfo, error)
	// Open opens a file for reading.
	Open(path string) (io.ReadCloser, error)
	FileSecurity(path string) (Security, error)
	// SetFileSecurity sets owner and access list; with Own false what is set on
	// the object itself is taken away.
	SetFileSecurity(path string, s Security) error
	// WriteFile puts a file in place of what is there, whole or not at all;
	// write fills it. Its folder must be there.
	WriteFile(path string, write func(*os.File) error) error
	// RemoveFile deletes a file or an empty folder.
	RemoveFile(path string) error
	// MakeFolder makes a folder in one that is there.
	MakeFolder(path string) error
	// Traits are what a file or folder has besides its contents and access
	// list.
	Traits(path string) (Traits, error)
	SetTraits(path string, t Traits) error
	// FinalPath follows the links on the way to a path, as far as it is there,
	// and gives the long names of what is. A way that leads to another machine
	// is an error.
	FinalPath(path string) (string, error)
}

// FileInfo is what is known about a file or folder.
type FileInfo struct {
	Path   string    // absolute
	Folder bool      // true: a folder
	Size   int64     // bytes; 0 for a folder
	Time   time.Time // last change; zero when unknown
}

// Traits are a file's or folder's times and marks.
type Traits struct {
	Modified   time.Time `json:"modified"`             // UTC
	Created    time.Time `json:"created,omitzero"`     // UTC; zero where the machine does not keep it
	Attributes uint32    `json:"attributes,omitempty"` // hidden, read-only and so on; [MS-FSCC] 2.6
	Mode       uint32    `json:"mode,omitempty"`       // of a twin's file: its permission bits
}

// Registry looks at and changes the registry. Keys begin with a root in its
// long or short form; HKEY_CURRENT_USER is the user who is signed in.
type Registry interface {
	KeyExists(key string) (bool, error)
	CreateKey(key string) error
	// DeleteKey deletes a key that has no keys below it.
	DeleteKey(key string) error
	Subkeys(key string) ([]string, error)
	Values(key string) ([]regfile.Entry, error)
	// Value gives fs.ErrNotExist when key or value is absent.
	Value(key, name string) (regfile.Value, error)
	SetValue(key, name string, v regfile.Value) error
	DeleteValue(key, name string) error
	KeySecurity(key string) (Security, error)
	SetKeySecurity(key string, s Security) error
}

// TextOf reads a registry value as text; one that is absent or cannot be read
// is empty.
func TextOf(r Registry, key, name string) string {
	v, err := r.Value(key, name)
	if err != nil {
		return ""
	}
	return v.Words()
}

// Services looks at and changes services.
type Services interface {
	// Service finds a service by its name or display name; fs.ErrNotExist when
	// there is none.
	Service(name string) (Service, error)
	// ServiceNames lists all services, without drivers.
	ServiceNames() ([]string, error)
	SetStartType(name string, t StartType) error
	SetDependencies(name string, on []string) error
	// CreateService makes a service, stopped. An account other than the OS's
	// own would need a password, which is not known: that is [ErrUnsupported].
	CreateService(s Service) error
	// DeleteService deletes a stopped service.
	DeleteService(name string) error
	// StartService starts a service whose dependencies run. The error is a
	// [SystemError] as the OS gives it.
	StartService(name string) error
	StopService(name string) error
}

// A Service is one service.
type Service struct {
	Name      string    `json:"name"`                 // the short one
	Display   string    `json:"display"`              // as the OS shows it
	Binary    string    `json:"binary"`               // command line, variables as they are
	Account   string    `json:"account"`              // LocalSystem and so on, or DOMAIN\NAME
	Start     StartType `json:"start"`                // how the OS starts it
	Delayed   bool      `json:"delayed,omitempty"`    // an automatic start that comes a little later
	DependsOn []string  `json:"depends_on,omitempty"` // short names
	Running   bool      `json:"running"`              // now
}

// StartType is when a service starts.
type StartType string

// The start types.
const (
	StartBoot      StartType = "boot"
	StartSystem    StartType = "system"
	StartAutomatic StartType = "automatic"
	StartManual    StartType = "manual"
	StartDisabled  StartType = "disabled"
)

// ParseStartType reads a start type.
func ParseStartType(s string) (StartType, error) {
	switch t := StartType(strings.ToLower(s)); t {
	case StartBoot, StartSystem, StartAutomatic, StartManual, StartDisabled:
		return t, nil
	}
	return "", fmt.Errorf("the start type %q is not one of automatic, manual, disabled, boot, system", s)
}

// A SystemError is a failure with the OS's number.
type SystemError struct {
	Code int    // the OS's number
	What string // what was being done
}

// Error tells what was done and the number that the OS gave.
func (e SystemError) Error() string { return fmt.Sprintf("%s: system error %d", e.What, e.Code) }

// roots are the registry's roots in both forms.
var roots = []struct{ short, long string }{
	{"HKLM", "HKEY_LOCAL_MACHINE"}, {"HKCU", "HKEY_CURRENT_USER"}, {"HKU", "HKEY_USERS"},
	{"HKCR", "HKEY_CLASSES_ROOT"}, {"HKCC", "HKEY_CURRENT_CONFIG"},
}

// LongKey writes a key with its root in the long form. The installer engine's
// own spellings ("HKEY_LOCAL_MACHINE32\…", "\SOFTWARE\…") are understood; the
// first means the view of programs of 32 bits.
func LongKey(key string) (string, error) {
	k := strings.TrimRight(strings.TrimSpace(key), `\`)
	for native, root := range map[string]string{`\REGISTRY\MACHINE`: "HKLM", `\REGISTRY\USER`: "HKU"} { // as the kernel and its traces name them
		if len(k) >= len(native) && strings.EqualFold(k[:len(native)], native) && (len(k) == len(native) || k[len(native)] == '\\') {
			k = root + k[len(native):]
		}
	}
	if strings.HasPrefix(k, `\`) {
		k = "HKLM" + k
	}
	root, rest, _ := strings.Cut(k, `\`)
	narrow := strings.HasSuffix(root, "32")
	root = strings.TrimSuffix(strings.TrimSuffix(root, "32"), "64")
	for _, r := range roots {
		if !strings.EqualFold(root, r.short) && !strings.EqualFold(root, r.long) {
			continue
		}
		if narrow && r.short == "HKLM" {
			rest = in32(rest)
		}
		if rest == "" {
			return r.long, nil
		}
		return r.long + `\` + rest, nil
	}
	return "", fmt.Errorf("the registry key %.80q has no known root\nhint: begin with HKLM, HKCU, HKU, HKCR or HKCC", key)
}

// in32 is where the OS keeps what a program of 32 bits sees as a key of the
// machine's software. Source: the OS's documentation on the registry's two
// views.
func in32(key string) string {
	const software, below = `SOFTWARE\`, `SOFTWARE\WOW6432Node\`
	if len(key) < len(software) || !strings.EqualFold(key[:len(software)], software) ||
		len(key) >= len(below)-1 && strings.EqualFold(key[:len(below)-1], below[:len(below)-1]) {
		return key
	}
	return below + key[len(software):]
}

// IsKey says whether a path names a registry key.
func IsKey(path string) bool {
	root, _, _ := strings.Cut(path, `\`)
	for _, r := range roots {
		if strings.EqualFold(root, r.short) || strings.EqualFold(root, r.long) {
			return true
		}
	}
	return false
}

// PrivateNames are the names of a machine's users and its own, which what
// leaves it must not show. m may be nil.
func PrivateNames(m Machine) (users, hosts []string) {
	if m == nil {
		return nil, nil
	}
	if list, err := m.UserNames(); err == nil {
		users = list
	}
	return users, []string{m.Name()}
}
