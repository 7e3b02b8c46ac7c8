// Package twin is a folder that stands in for one Windows machine.
//
// The format is described in docs/twin.md. Changes touch only the lines that
// they are about, so that taking one back leaves the folder as it was, byte for
// byte.
package twin

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/machine"
	"hollowkey/core/machine/regfile"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/machine/twinfile"
)

const maxFile = 64 << 20 // bytes of one of the twin's own files

// A Twin is an open twin. Close it after use.
type Twin struct {
	folder   string          // where the twin lies
	root     *os.Root        // nothing leads out of the folder
	about    twinfile.About  // of twin.yaml
	self     *sheet          // twin.yaml
	rights   *sheet          // rights.yaml: account → rights to log on
	tasks    *sheet          // tasks.yaml
	access   *sheet          // access.yaml
	services *sheet          // services.yaml
	registry []*hive         // those that the twin has
	stubs    map[string]stub // disk.yaml: files whose contents were not taken, by their path in small letters
	// stubsBelow are the same by their folder; listings are the folders that
	// were read, by their place.
	stubsBelow map[string][]stub
	listings   map[string]*listing // names of a folder's entries by their folder, read when they are asked for
}

// A stub is a file of disk.yaml with its path.
type stub struct {
	twinfile.Stub `yaml:",inline"`
	path          string // on the machine; the contents were not taken
}

// A hive is one file of registry text.
type hive struct {
	name string        // as keys begin: HKLM and so on
	file *regfile.File // with its lines, so that what is not changed stays as it is
}

// ErrNoTwin says that a folder is not there, or holds no twin.
var ErrNoTwin = errors.New("this is no twin")

// Open opens the twin in folder. The error names file and line.
func Open(folder string) (*Twin, error) {
	root, err := os.OpenRoot(folder)
	if err != nil {
		if errors.Is(err, fs.ErrNotExist) {
			return nil, fmt.Errorf("%s: there is no such folder, so %w\n"+
				"hint: --machine wants a twin's folder; to lay one out: hollowkey demo", folder, ErrNoTwin)
		}
		return nil, err
	}
	t := &Twin{folder: folder, root: root}
	if err := t.load(); err != nil {
		root.Close()
		return nil, fmt.Errorf("twin %s: %w", folder, err)
	}
	return t, nil
}

// Close lets the folder go.
func (t *Twin) Close() error { return t.root.Close() }

// load reads all of the twin's sheets. twin.yaml must be there: by it a folder
// is known to be a twin.
func (t *Twin) load() error {
	var err error
	if t.self, err = t.sheet(twinfile.AboutName); err != nil {
		return err
	}
	if t.self.text == nil {
		return fmt.Errorf("twin.yaml is missing, so %w", ErrNoTwin)
	}
	if err := t.aboutItself(); err != nil {
		return err
	}
	if t.about.Name == "" {
		return errors.New("twin.yaml: name is missing")
	}
	for _, u := range t.about.Users {
		if _, err := sddl.ParseSID(u.SID); err != nil {
			return fmt.Errorf("twin.yaml: user %q: %w", u.Name, err)
		}
	}
	// All lists are read and looked at when a twin is opened: a mistake in one
	// is told before anything is done.
	if t.access, err = t.sheet(twinfile.AccessName); err != nil {
		return err
	}
	for _, e := range t.access.pairs() {
		if _, err := sddl.Parse(e.value.Value); err != nil {
			return fmt.Errorf("access.yaml:%d: %s: %w", e.key.Line, e.key.Value, err)
		}
	}
	if t.services, err = t.sheet(twinfile.ServicesName); err != nil {
		return err
	}
	if _, err := t.allServices(); err != nil {
		return err
	}
	if t.rights, err = t.sheet("rights.yaml"); err != nil {
		return err
	}
	if t.tasks, err = t.sheet(twinfile.TasksName); err != nil {
		return err
	}
	if _, _, err := t.allTasks(); err != nil {
		return err
	}
	if err := t.loadStubs(); err != nil {
		return err
	}
	return t.loadRegistry()
}

// aboutItself reads twin.yaml anew, after a change, too.
func (t *Twin) aboutItself() error {
	t.about = twinfile.About{}
	if t.self.doc == nil {
		return errors.New("twin.yaml is empty")
	}
	if err := t.self.doc.Decode(&t.about); err != nil {
		return fmt.Errorf("twin.yaml: %w", err)
	}
	return nil
}

// loadStubs reads disk.yaml, the files of which a captured twin has only the
// sizes.
func (t *Twin) loadStubs() error {
	b, err := t.read(twinfile.DiskName)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	var all map[string]stub
	if err := yaml.Unmarshal(b, &all); err != nil {
		return fmt.Errorf("disk.yaml: %w", err)
	}
	t.stubs, t.stubsBelow = make(map[string]stub, len(all)), map[string][]stub{}
	for p, s := range all {
		drive, names, err := clean(p)
		if err != nil || s.Size < 0 {
			return fmt.Errorf("disk.yaml: %q, size %d: %v", p, s.Size, err)
		}
		s.path = windowsPath(drive, names)
		t.stubs[strings.ToLower(s.path)] = s
		below := strings.ToLower(parent(s.path))
		t.stubsBelow[below] = append(t.stubsBelow[below], s)
	}
	return nil
}

// loadRegistry reads every file of registry text, in the order of their names.
func (t *Twin) loadRegistry() error {
	entries, err := fs.ReadDir(t.root.FS(), "registry")
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	for _, e := range entries {
		name := "registry/" + e.Name()
		if !strings.EqualFold(path.Ext(name), ".reg") {
			continue
		}
		b, err := t.read(name)
		if err != nil {
			return err
		}
		f, err := regfile.Parse(b)
		if err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		t.registry = append(t.registry, &hive{name, f})
	}
	return nil
}

// read reads one file of the twin within its limit.
func (t *Twin) read(name string) ([]byte, error) {
	f, err := t.root.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, maxFile+1))
	if err == nil && len(b) > maxFile {
		err = fmt.Errorf("%s: over %d bytes", name, maxFile)
	}
	return b, err
}

// What a file is called while it is written: a file of the twin itself, and a
// file on its drives.
const (
	newSheet = ".new"
	newFile  = ".hollowkey-new"
)

// Tidy removes files that a run which was cut off had begun to write, wherever
// they lie. Call it only while no other run changes the twin.
func (t *Twin) Tidy(string) error {
	return fs.WalkDir(t.root.FS(), ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || !d.Type().IsRegular() {
			return err
		}
		onDrive := strings.HasPrefix(name, "disk/")
		if onDrive && strings.HasSuffix(name, newFile) || !onDrive && strings.HasSuffix(name, newSheet) {
			return t.root.Remove(name)
		}
		return nil
	})
}

// maxSummed is the size in bytes of the largest list whose sum is taken at each
// change.
const maxSummed = 8 << 20

// Lists tells of the files at the top of the twin's folder, and of its
// registry.
func (t *Twin) Lists() (all []machine.List) {
	for _, folder := range []string{".", "registry"} {
		entries, _ := fs.ReadDir(t.root.FS(), folder) // what cannot be read now is told by the change itself
		for _, e := range entries {
			info, err := e.Info()
			if err != nil || !info.Mode().IsRegular() || info.Size() > maxSummed {
				continue
			}
			name := path.Join(folder, e.Name())
			if b, err := t.read(name); err == nil {
				sum := sha256.Sum256(b)
				all = append(all, machine.List{Name: name, Sum: hex.EncodeToString(sum[:]), Since: info.ModTime()})
			}
		}
	}
	return all
}

// Retime gives a list its time again when it reads as it did then.
func (t *Twin) Retime(was machine.List) error {
	b, err := t.read(was.Name)
	if sum := sha256.Sum256(b); err != nil || hex.EncodeToString(sum[:]) != was.Sum {
		return nil // another change to it is still in force
	}
	return t.root.Chtimes(was.Name, time.Time{}, was.Since)
}

// write replaces a file whole or not at all, and has it on disk when it
// returns.
func (t *Twin) write(name string, b []byte) error {
	if len(b) == 0 { // as if it had never been there
		return t.root.Remove(filepath.FromSlash(name))
	}
	temp := name + newSheet
	mode := fs.FileMode(0o644)
	if was, err := t.root.Stat(filepath.FromSlash(name)); err == nil { // who may read it stays as it was
		mode = was.Mode().Perm()
	}
	f, err := t.root.OpenFile(filepath.FromSlash(temp), os.O_WRONLY|os.O_CREATE|os.O_TRUNC, mode)
	if err != nil {
		return err
	}
	_, err = f.Write(b)
	err = errors.Join(err, f.Sync(), f.Close())
	if err == nil {
		err = t.root.Rename(filepath.FromSlash(temp), filepath.FromSlash(name))
	}
	if err != nil {
		t.root.Remove(filepath.FromSlash(temp))
	}
	return err
}

// Folder is where the twin lies.
func (t *Twin) Folder() string { return t.folder }

// Name is the machine's name.
func (t *Twin) Name() string { return t.about.Name }

// SignedIn is the user who is signed in.
func (t *Twin) SignedIn() string { return t.about.SignedIn }

// Facts are what twin.yaml says of the machine.
func (t *Twin) Facts() machine.Facts {
	o := t.about.OS
	f := machine.Facts{
		OS:    machine.OS{Name: o.Name, Version: o.Version, Build: o.Build, Edition: o.Edition, Ring: o.Ring, Architecture: o.Architecture},
		Hosts: t.about.Hosts, Environment: t.about.Environment, Time: t.about.Time, Booted: t.about.Booted, Unknown: map[string]string{},
	}
	if f.Elevated = t.about.Elevated == nil || *t.about.Elevated; t.about.Elevated == nil {
		f.Unknown["elevated"] = "twin.yaml does not say"
	}
	if f.Time.IsZero() {
		f.Unknown["time"] = "twin.yaml does not say"
	}
	if f.Booted.IsZero() {
		f.Unknown["booted"] = "twin.yaml does not say"
	}
	for _, d := range t.about.Drives {
		f.Drives = append(f.Drives, machine.Drive{Letter: strings.ToUpper(d.Letter), Kind: d.Kind, Size: twinfile.Bytes(d.Size),
			Free: twinfile.Bytes(d.Free)})
	}
	return f
}

// everybody are the groups that each signed-in user is in.
var everybody = []sddl.SID{sddl.Everyone, sddl.AuthenticatedUsers, sddl.Interactive, sddl.Users}

// Account finds a user of twin.yaml, or one of the OS's own accounts. Others
// are [fs.ErrNotExist].
func (t *Twin) Account(name string) (machine.Account, error) {
	_, short, ok := strings.Cut(name, `\`)
	if !ok {
		short = name
	}
	for _, u := range t.about.Users {
		if !strings.EqualFold(u.Name, short) && !strings.EqualFold(u.SID, name) && !strings.EqualFold(u.Name, name) {
			continue
		}
		a := machine.Account{Name: u.Name, SID: sddl.SID(strings.ToUpper(u.SID)), Groups: everybody, Profile: u.Profile}
		for _, g := range u.Groups {
			sid, err := sddl.ParseSID(g)
			if err != nil {
				return a, fmt.Errorf("twin.yaml: user %q: group %w", u.Name, err)
			}
			a.Groups = append(a.Groups[:len(a.Groups):len(a.Groups)], sid)
		}
		return a, nil
	}
	sid, err := sddl.ParseSID(name)
	if err != nil {
		return machine.Account{}, fmt.Errorf("the account %.60q is not known on %s: %w", name, t.Name(), fs.ErrNotExist)
	}
	a := machine.Account{Name: sid.Name(), SID: sid, Groups: []sddl.SID{sddl.Everyone, sddl.AuthenticatedUsers}}
	if sid == sddl.System {
		a.Groups = append(a.Groups, sddl.Administrators)
	}
	return a, nil
}

// Reload reads the twin anew, as another run may have changed it.
func (t *Twin) Reload() error {
	fresh := Twin{folder: t.folder, root: t.root}
	if err := fresh.load(); err != nil {
		return fmt.Errorf("twin %s: %w", t.folder, err)
	}
	*t = fresh
	return nil
}

// Offline says that nothing that is asked of a twin goes out to a network.
func (t *Twin) Offline() bool { return true }
