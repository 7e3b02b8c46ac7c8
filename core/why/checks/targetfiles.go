// This file asks for the files among a package's targets.

package checks

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"strings"

	"hollowkey/core/machine/guard"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/package/cabinet"
	"hollowkey/core/package/cached"
	"hollowkey/core/package/targets"
	"hollowkey/core/step"
)

// fileTarget asks for a file that is written: what stands there, who may write,
// who keeps it open.
func (l *look) fileTarget(t targets.Target, with arguments, classed func(string, Finding) Finding) Finding {
	info, err := l.m.Stat(t.Name)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return pass("", "%s is not there yet", t.Name)
	case err != nil:
		return l.cannot("", t.Name, err)
	case info.Folder:
		return Finding{Answer: Stop, Class: "path", Seen: t.Name + " is a folder, where the package puts a file",
			Mend: "move the folder " + t.Name + " into the case", Steps: []step.Model{step.New("quarantine", "path", t.Name)}}
	}
	with["file"] = t.Name
	if f := l.fileWritable(with); f.Answer == Stop {
		return classed("permission", f)
	}
	if f := l.fileHolder(with); f.Answer == Stop {
		if who := f.Captures["holder"]; who != "" {
			f.Mend, f.Steps = "end "+who, []step.Model{step.New("end-process", "process", who)}
		}
		return classed("in-use", f)
	}
	return pass("", "%s can be written", t.Name)
}

// mostCabinet is how many bytes of a cabinet are unpacked to see whether it is
// whole.
const mostCabinet = 256 << 20

// cabinetTarget asks whether a cabinet is there, and whole.
func (l *look) cabinetTarget(t targets.Target, with arguments) Finding {
	info, err := l.m.Stat(t.Name)
	if errors.Is(err, fs.ErrNotExist) {
		return Finding{Answer: Stop, Class: "source", Seen: "the cabinet " + t.Name + " is not there",
			Mend: "put " + base(t.Name) + " beside the package, from the vendor's medium"}
	}
	if err != nil {
		return l.cannot("", t.Name, err)
	}
	if closed, is := l.closedToReaders(t.Name, with); is {
		return closed
	}
	f, err := l.m.Open(t.Name)
	if err != nil {
		return l.cannot("", t.Name, err)
	}
	defer f.Close()
	// To look whether it is whole, all of it is unpacked, to nowhere; very
	// large ones are not.
	at, ok := f.(io.ReaderAt)
	if !ok || info.Size > mostCabinet {
		return unknown("", "whether %s is whole was not looked at", t.Name)
	}
	cab, err := cabinet.Open(at, info.Size)
	if err == nil {
		err = cab.Extract(func(cabinet.File) (io.Writer, error) { return io.Discard, nil })
	}
	if err != nil {
		return Finding{Answer: Stop, Class: "corrupt", Seen: fmt.Sprintf("the cabinet %s is damaged: %v", t.Name, err),
			Mend: "fetch " + base(t.Name) + " again from the vendor's medium"}
	}
	return pass("", "%s is whole", t.Name)
}

// sourceTarget asks whether a loose file is there and of the size that the
// package says.
func (l *look) sourceTarget(t targets.Target, with arguments) Finding {
	info, err := l.m.Stat(t.Name)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return Finding{Answer: Stop, Class: "source", Seen: "the source file " + t.Name + " is not there",
			Mend: "put " + base(t.Name) + " where the package looks for it, from the vendor's medium"}
	case err != nil:
		return l.cannot("", t.Name, err)
	case info.Size != t.Size:
		return Finding{Answer: Stop, Class: "corrupt",
			Seen: fmt.Sprintf("the source file %s has %d bytes, and the package says %d", t.Name, info.Size, t.Size),
			Mend: "fetch " + base(t.Name) + " again from the vendor's medium"}
	}
	if closed, is := l.closedToReaders(t.Name, with); is {
		return closed
	}
	return pass("", "%s is there", t.Name)
}

// closedToReaders says whether a file of the source may not be read by an
// account that reads it: by its access list, or, where that is no help, since
// it cannot be opened here.
func (l *look) closedToReaders(path string, with arguments) (Finding, bool) {
	closed := Finding{Answer: Stop, Class: "permission"}
	var lacking []string
	// The list is asked first, since it names who lacks the right; to open the
	// file only shows what the caller may.
	if s, err := l.m.FileSecurity(path); err == nil {
		d, err := sddl.Parse(s.SDDL)
		readers := l.accounts(with)
		if readers[0] != "" { // the engine reads the source in the user's name
			readers = readers[:1]
		}
		for _, who := range readers {
			a, bad := l.m.Account(who)
			if who == "" || err != nil || bad != nil || guard.Broad(a.SID) || slices.Contains(lacking, a.Name) ||
				d.Effective(sddl.File, a.SIDs())&sddl.FileRead == sddl.FileRead {
				continue
			}
			lacking = append(lacking, a.Name)
			if _, denied := d.Denies(sddl.File, a.SIDs(), sddl.FileRead); !denied && guardFree(path, sddl.File) {
				closed.Steps = append(closed.Steps, step.New("grant", "file", path, "account", a.Name, "right", "read"))
			}
		}
	}
	if len(lacking) > 0 {
		closed.Seen = fmt.Sprintf("%s may not read %s", listed(lacking), path)
		closed.Mend = fmt.Sprintf("give %s the right to read %s", listed(lacking), path)
		return closed, true
	}
	f, err := l.m.Open(path)
	if err == nil {
		f.Close()
	}
	closed.Seen = path + " may not be read"
	closed.Mend = "give whoever runs the setup the right to read " + path
	return closed, errors.Is(err, fs.ErrPermission)
}

// cachedTarget asks for the engine's copies of a product and of its patches.
func (l *look) cachedTarget(t targets.Target) Finding {
	list, err := cached.Read(l.m)
	if err != nil {
		return l.cannot("", t.Name, err)
	}
	name := ""
	for _, e := range list {
		if strings.EqualFold(e.Code, t.Name) {
			name = e.Name
		}
	}
	for _, e := range list {
		if e.Fine() || !strings.EqualFold(e.Code, t.Name) && (name == "" || !strings.EqualFold(e.Of, name)) {
			continue
		}
		what := "the engine's copy of " + e.Name + " " + e.Version
		if e.Kind == cached.Patch {
			what = "the engine's copy of the patch " + e.Name + " of " + e.Of
		}
		return Finding{Answer: Stop, Class: "cached-package", Seen: fmt.Sprintf("%s, %s, is %s", strings.TrimSpace(what), e.File, e.State),
			Mend: "restore it: hollowkey cache restore --from FOLDER", Command: []string{"cache", "restore", "--from", "FOLDER"}}
	}
	return pass("", "the engine's copies of %s are good", t.Name)
}
