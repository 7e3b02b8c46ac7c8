// This file says whether something may be run that only a log or a case names.
// Input does not choose what runs with an administrator's rights.

package retry

import (
	"errors"
	"fmt"
	"io/fs"
	"path/filepath"
	"slices"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
	"hollowkey/core/machine/sddl"
)

// ErrNotNamed says that what would be run is known only from a log or a case,
// and could have been put there, or changed since, by anybody.
var ErrNotNamed = errors.New("it is run only when the call names it")

// trusted says whether a file that only a log or a case names may be run with
// an administrator's rights: it lies on this machine, where ordinary users
// cannot put another one in its place.
func trusted(m machine.Machine, path string) error {
	no := func(format string, args ...any) error {
		return fmt.Errorf("%s %s; %w\nhint: look whether it is the vendor's, then: hollowkey retry "+
			"\"%s\" --machine live", path, fmt.Sprintf(format, args...), ErrNotNamed, path)
	}
	drive, _, err := machine.SplitPath(path)
	if err != nil {
		return no("does not lie on a drive of this machine")
	}
	if i := slices.IndexFunc(m.Facts().Drives,
		func(d machine.Drive) bool { return strings.EqualFold(d.Letter, drive+":") }); i >= 0 && m.Facts().Drives[i].Kind != "fixed" {
		return no("lies on a drive that is not fixed (%s)", m.Facts().Drives[i].Kind)
	}
	final, err := m.FinalPath(path)
	if err != nil {
		return no("leads elsewhere: %v", err)
	}
	drive, names, err := machine.SplitPath(final)
	if err != nil {
		return no("leads to %s", final)
	}
	for i := len(names); i >= 0; i-- {
		at := drive + `:\` + strings.Join(names[:i], `\`)
		s, err := m.FileSecurity(at)
		if errors.Is(err, fs.ErrNotExist) && i == len(names) {
			return fmt.Errorf("%s is not there: %w", path, err)
		}
		if err != nil {
			return no("lies below %s, of which nobody can tell who may write there: %v", at, err)
		}
		if who, open := othersWrite(s.SDDL, len(names)-i); open {
			return no("can be replaced by %s, who may write at %s", who, at)
		}
	}
	return nil
}

// What lets somebody put another file in the place of one: rights on the file
// itself, on its folder, and on the folders above, where what lies there can be
// renamed.
const (
	replaceFile  = sddl.AnyWrite
	replaceIn    = sddl.AnyWrite &^ 0x4 &^ 0x100 // making a folder there, or setting an attribute, does no harm
	replaceAbove = sddl.Delete | sddl.WriteDAC | sddl.WriteOwner | sddl.GenericAll | 0x40
)

// othersWrite says who besides the OS and its administrators can replace what
// lies so many levels below the object of an access list.
func othersWrite(text string, above int) (who string, open bool) {
	d, err := sddl.Parse(text)
	if err != nil || d.DACL == nil || d.DACL.Null {
		return "everybody", true
	}
	mask := sddl.Mask(replaceFile)
	switch {
	case above == 1:
		mask = replaceIn
	case above > 1:
		mask = replaceAbove
	}
	ours := []sddl.SID{sddl.System, sddl.Administrators, sddl.TrustedInstaller, ""}
	if !slices.Contains(ours, d.Owner) {
		return d.Owner.Name(), true
	}
	for _, e := range d.DACL.Entries {
		if e.Allows() && e.Flags&sddl.InheritOnly == 0 && e.Mask&mask != 0 && !slices.Contains(ours, e.SID) && e.SID != sddl.CreatorOwner {
			return e.SID.Name(), true
		}
	}
	return "", false
}

// ours says whether a file is a transform or an altered copy that a step of
// ours wrote, is as that step left it, and lies beside the package that the
// call names: whoever could put another one there could replace the package,
// too.
func (w Wish) ours(m machine.Machine, j *fix.Journal, path string) bool {
	folder := func(p string) string { return strings.ToLower(p[:strings.LastIndexByte(p, '\\')+1]) }
	named, _ := Program(w.Of)
	if j == nil || named == "" || folder(path) != folder(named) {
		return false
	}
	return slices.ContainsFunc(j.InForce(m.Name()), func(i fix.Item) bool {
		if i.Step == nil || i.After == nil || (i.Step.Kind != "transform" && i.Step.Kind != "copy") || !strings.EqualFold(i.Step.Target, path) {
			return false
		}
		now, err := i.Step.Read(m)
		return err == nil && now.Equal(*i.After)
	})
}

// Command is the command line by which the OS's engine runs the setup, up to
// where the log goes.
func (r Request) Command() (string, error) {
	pack, err := filepath.Abs(r.runs()) // the engine's service has a present folder of its own
	if err != nil {
		return "", err
	}
	if startable(pack) {
		return strings.TrimSpace(`"` + pack + `" ` + r.Switches), nil
	}
	line, err := kinds.CommandLine(pack, strings.Join(r.Properties, "\n"), strings.Join(r.Transforms, ";"))
	if err != nil {
		return "", err
	}
	line, _, _ = strings.Cut(line, " /l*v ")
	return line + " /qn /norestart", nil
}

// allowed says whether the setup may be run for real: what only a log or a case
// names must be trusted, and a person says yes to the whole command.
func (w Wish) allowed(m machine.Machine, req Request, j *fix.Journal) error {
	for _, p := range append([]string{req.runs()}, req.Transforms...) {
		named, _ := Program(w.Of)
		if strings.EqualFold(p, w.Of) || strings.EqualFold(p, named) || slices.Contains(w.With, p) || w.ours(m, j, p) {
			continue
		}
		if err := trusted(m, p); err != nil {
			return err
		}
	}
	line, err := req.Command()
	if err != nil {
		return err
	}
	if w.Ask == nil {
		return errors.New("nobody was asked whether it may be run")
	}
	return w.Ask(line)
}
