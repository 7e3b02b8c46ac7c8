// Package capture takes a twin of a machine: what diagnosis needs of its facts,
// registry, services, access lists and files, with private names masked on
// request. File contents are not taken.
package capture

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/bounded"
	"hollowkey/core/machine"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/machine/twinfile"
)

// Options say what is taken besides the usual.
type Options struct {
	Keys    []string // further registry keys, with all below them
	Folders []string // further folders: their access lists and file facts
	Mask    bool     // user names, the machine's name and domain IDs become tokens
}

// A Report is what was taken, and what could not be read.
type Report struct {
	Keys     int            `json:"keys"`     // how many were taken
	Values   int            `json:"values"`   // how many were taken
	Services int            `json:"services"` // how many were taken
	Folders  int            `json:"folders"`  // how many were taken
	Files    int            `json:"files"`    // how many were taken
	Skipped  []string       `json:"skipped"`  // why, one a line
	Masked   map[string]int `json:"masked"`   // by kind, how often
}

const (
	maxDepth = 16       // of keys below one that is taken; deeper ones hold nothing of a setup
	maxKeys  = 200_000  // some 50 MB of registry text, which a mail's attachment still carries
	maxValue = 64 << 10 // bytes of a value that is taken
	maxFiles = 20_000   // names only; an OS's temporary and cache folders have hundreds to thousands
)

type capture struct {
	m      machine.Machine   // read, never changed
	opt    Options           // as they were asked for
	rep    Report            // filled as it goes
	mask   *regexp.Regexp    // private names, in any letter case; nil without --mask
	tokens map[string]string // what stands for each, by the name in small letters
	user   machine.Account   // whose keys and folders are taken
	out    *os.Root          // nothing is written outside of it
}

// Take writes the twin into a new folder. What could not be read is in the
// report; an error means that there is no twin. The folder must not be there
// yet.
func Take(m machine.Machine, folder string, opt Options) (Report, error) {
	if err := os.MkdirAll(filepath.Dir(folder), 0o755); err != nil {
		return Report{}, err
	}
	if err := os.Mkdir(folder, 0o755); err != nil {
		return Report{}, fmt.Errorf("%w\nhint: a twin is taken into a new folder", err)
	}
	root, err := os.OpenRoot(folder)
	if err != nil {
		return Report{}, err
	}
	defer root.Close()
	c := &capture{m: m, opt: opt, out: root, rep: Report{Masked: map[string]int{}}}
	if who := m.SignedIn(); who != "" {
		if c.user, err = m.Account(who); err != nil {
			c.skip("the signed-in user", err)
		}
	}
	c.masks()
	// The sheet by which a folder is known to be a twin comes last: a run that
	// is cut off leaves none that opens without a word.
	for _, take := range []func() error{c.services, c.registry, c.files, c.facts} {
		if err := take(); err != nil {
			return c.rep, err
		}
	}
	return c.rep, nil
}

// skip tells of something that could not be read and lets the rest go on: a
// twin with a gap is worth more than none.
func (c *capture) skip(what string, err error) {
	c.rep.Skipped = append(c.rep.Skipped, what+": "+bounded.Words(err))
}

// write writes a file of the twin, masked.
func (c *capture) write(name string, b []byte) error {
	text := c.hide(string(b))
	if dir := filepath.Dir(name); dir != "." {
		if err := c.out.MkdirAll(dir, 0o755); err != nil {
			return err
		}
	}
	return c.out.WriteFile(name, []byte(text), 0o644)
}

// yaml writes one of the twin's sheets, masked like all that is written.
func (c *capture) yaml(name string, v any) error {
	b, err := yaml.Marshal(v)
	if err != nil {
		return err
	}
	return c.write(name, b)
}

// files takes access lists of folders and the facts of the files in them.
func (c *capture) files() error {
	folders := append([]string{`C:\`, `C:\Windows`, `C:\Windows\Temp`, `C:\Windows\Installer`, `C:\Program Files`, `C:\Program Files (x86)`,
		`C:\ProgramData`,
		`C:\ProgramData\Microsoft\Windows\Start Menu\Programs\StartUp`}, c.opt.Folders...)
	if p := c.user.Profile; p != "" {
		folders = append(folders, p, p+`\AppData\Local`, p+`\AppData\Local\Temp`, p+`\AppData\Roaming`)
	}
	access := map[string]string{}
	disk := map[string]twinfile.Stub{}
	// Of a folder the access list and the sizes of its files are taken, of no
	// file what is in it.
	for _, f := range folders {
		info, err := c.m.Stat(f)
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			c.skip(f, err)
			continue
		}
		if !info.Folder {
			disk[info.Path] = twinfile.Stub{Size: info.Size}
			continue
		}
		sec, err := c.m.FileSecurity(f)
		if err == nil {
			_, err = sddl.Parse(sec.SDDL)
		}
		if err != nil {
			c.skip("the access list of "+f, err)
		} else {
			access[strings.TrimRight(info.Path, `\`)] = sec.SDDL
			if len(f) <= len(`C:\`) {
				delete(access, strings.TrimRight(info.Path, `\`))
				access[`C:\`] = sec.SDDL
			}
		}
		c.rep.Folders++
		if len(f) <= len(`C:\`) || strings.EqualFold(f, c.user.Profile) {
			continue // what lies there is the user's own
		}
		list, err := c.m.ReadDir(f)
		if err != nil {
			continue // named by its access list only
		}
		for _, i := range list {
			if !i.Folder && len(disk) < maxFiles {
				disk[i.Path] = twinfile.Stub{Size: i.Size}
			}
		}
	}
	c.rep.Files = len(disk)
	return errors.Join(c.yaml(twinfile.AccessName, access), c.yaml(twinfile.DiskName, disk))
}
