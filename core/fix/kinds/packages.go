// This file has the steps that write a transform, an altered copy or a command
// file. The vendor's package is read and never written.

package kinds

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/machine"
	"hollowkey/core/package/alter"
	"hollowkey/core/package/installdb"
	"hollowkey/core/package/targets"
)

// edited opens the package of a step twice, once as it is and once altered.
func edited(m machine.Files, s Step) (was, now *installdb.Database, done []alter.Done, closeBoth func(), err error) {
	was, first, err := targets.Open(m, s.Args["package"])
	if err != nil {
		return nil, nil, nil, nil, err
	}
	now, second, err := targets.Open(m, s.Args["package"])
	if err != nil {
		first.Close()
		return nil, nil, nil, nil, err
	}
	closeBoth = func() { first.Close(); second.Close() }
	if done, err = alter.Apply(now, alter.ParseEdits(s.Args["edits"]), true); err != nil {
		closeBoth()
		return nil, nil, nil, nil, fmt.Errorf("%s: %w", s.Args["package"], err)
	}
	return was, now, done, closeBoth, nil
}

// editLines shows edits for a preview.
func editLines(done []alter.Done) (lines []string) {
	for _, d := range done {
		lines = append(lines, d.Words)
		for _, l := range d.Before {
			lines = append(lines, "  was: "+l)
		}
		for _, l := range d.After {
			lines = append(lines, "  now: "+l)
		}
		lines = append(lines, d.Also...)
	}
	return lines
}

// wantTransform applies the edits to the package in memory and keeps the whole
// transform, which is small: the journal can then put back what stood there.
func wantTransform(m machine.Machine, s Step, now *FileState) (*FileState, error) {
	was, altered, done, closeBoth, err := edited(m, s)
	if err != nil {
		return nil, err
	}
	defer closeBoth()
	t, d, err := alter.Transform(was, altered)
	if err != nil {
		return nil, err
	}
	if d.Empty() {
		return nil, errors.New("the edits change nothing in " + s.Args["package"])
	}
	b, err := alter.Bytes(t, maxKept)
	return &FileState{There: true, Contents: b, Show: editLines(done)}, err
}

// transformWords says the step to a person; of the package only its name is
// told, since the transform's own path is what is needed next.
func transformWords(s Step) string {
	return fmt.Sprintf("write the transform %s for %s", s.Target, baseOf(s.Args["package"]))
}

// An altered copy is too large for the journal: its state is its package code,
// which follows from the package and the edits.

// readCopy tells a copy by its package code. The code is derived from package
// and edits, so a copy that was altered otherwise does not pass for this one.
func readCopy(m machine.Machine, s Step) (*FileState, error) {
	if _, err := m.Stat(s.Target); errors.Is(err, fs.ErrNotExist) {
		return &FileState{}, nil
	}
	db, f, err := targets.Open(m, s.Target)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	sum, err := db.Summary()
	if err != nil {
		return nil, err
	}
	return &FileState{There: true, Code: sum.Text(installdb.SummaryRevision)}, nil
}

// prepareCopy works the target out: with folder=FOLDER the whole folder of the
// package is copied there, and the package in the copy is altered under its old
// name, by which another program starts it.
func prepareCopy(s *Step) error {
	if f := s.Args["folder"]; f != "" {
		s.Target = strings.TrimRight(f, `\`) + `\` + baseOf(s.Args["package"])
		s.Args["out"] = s.Target
	}
	return nil
}

// wantCopy refuses to write over a file that is not the copy that it would
// make: it may be the vendor's.
func wantCopy(m machine.Machine, s Step, now *FileState) (*FileState, error) {
	was, _, _, closeBoth, err := edited(m, s)
	if err != nil {
		return nil, err
	}
	defer closeBoth()
	code, err := alter.DerivedCode(was, s.Args["edits"])
	if err != nil {
		return nil, err
	}
	if now.There && now.Code != code {
		return nil, fmt.Errorf("%s is there already and is another package", s.Target)
	}
	want := &FileState{There: true, Code: code}
	if into := strings.TrimRight(s.Args["folder"], `\`); into != "" && !now.There {
		if _, err := m.Stat(into); err == nil {
			return nil, fmt.Errorf("%s is there already\nhint: name a folder that is not; the package's whole folder is copied there", into)
		}
		want.Made, err = listFolder(m, folderOf(s.Args["package"]), into)
		want.Show = []string{fmt.Sprintf("%d files and folders beside it are copied along", max(0, len(want.Made)-2))}
	}
	return want, err
}

// writeCopy writes the altered package under a code of its own; the engine
// takes two files of one code for the same and would use the one it has cached.
func writeCopy(m machine.Machine, s Step, to *FileState) error {
	if !to.There {
		for _, made := range slices.Backward(to.Made) {
			if err := m.RemoveFile(made); err != nil && !errors.Is(err, fs.ErrNotExist) {
				return err
			}
		}
		if err := m.RemoveFile(s.Target); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		return nil
	}
	if len(to.Made) > 0 {
		if err := copyFolder(m, folderOf(s.Args["package"]), strings.TrimRight(s.Args["folder"], `\`)); err != nil {
			return err
		}
	}
	// A copy that is altered is another package: it gets a code of its own, the
	// same for the same edits, so that it is known again.
	was, altered, _, closeBoth, err := edited(m, s)
	if err != nil {
		return err
	}
	defer closeBoth()
	code, err := alter.DerivedCode(was, s.Args["edits"])
	if err != nil {
		return err
	}
	if err := alter.SetCode(altered, code); err != nil {
		return err
	}
	return m.WriteFile(s.Target, func(out *os.File) error { return altered.Write(out) })
}

// copyWords says the step to a person. That the copy is no longer signed is
// said here, before the step is agreed to, not after.
func copyWords(s Step) string {
	if f := s.Args["folder"]; f != "" {
		return fmt.Sprintf("copy the folder of %s to %s, and alter the package in the copy (without "+
			"the vendor's signature)", baseOf(s.Args["package"]), f)
	}
	return fmt.Sprintf("write an altered copy of %s to %s (without the vendor's signature)", baseOf(s.Args["package"]), s.Target)
}

// stillSource says whether the package in a copied folder is the vendor's
// still, or not there yet: the copy is no more than half made then.
func stillSource(m machine.Machine, s Step) (bool, error) {
	now, err := readCopy(m, s)
	if err != nil || !now.There {
		return err == nil, err
	}
	from := s
	from.Target = s.Args["package"]
	was, err := readCopy(m, from)
	return err == nil && was.Code == now.Code, err
}

// Commands: the call of the setup with what it needs, in a file to be run.

// wantCommand writes a command file that hands the engine's exit code on, so
// that whoever deploys with it sees the real result.
func wantCommand(m machine.Machine, s Step, _ *FileState) (*FileState, error) {
	if _, err := m.Stat(s.Args["package"]); err != nil {
		return nil, err
	}
	line, err := CommandLine(s.Args["package"], s.Args["properties"], s.Args["transforms"])
	if err != nil {
		return nil, err
	}
	text := "@echo off\r\n"
	if page := CodePage(line); page != "" {
		text += page + "\r\n"
	}
	text += commandText(line) + "\r\nexit /b %ERRORLEVEL%\r\n"
	return &FileState{There: true, Contents: []byte(text)}, nil
}

// commandWords says the step to a person: which file is written, and with what
// the setup is run by it. Nothing is run by the step itself.
func commandWords(s Step) string {
	with := []string{}
	if p := s.Args["properties"]; p != "" {
		with = append(with, strings.ReplaceAll(p, "\n", " "))
	}
	if t := s.Args["transforms"]; t != "" {
		with = append(with, "the transform "+baseOf(t))
	}
	return fmt.Sprintf("write %s, which runs the setup with %s", s.Target, strings.Join(with, " and "))
}

// CommandLine writes the call of the engine for a package, quoted: properties
// are NAME=VALUE, one a line, transforms are paths parted by semicolons. It
// fails for a path or value that could end the argument that it stands in, and
// for a property that is not public.
func CommandLine(pack, properties, transforms string) (string, error) {
	line := `msiexec /i "` + pack + `"`
	if strings.ContainsAny(pack+transforms, "\"\r\n\x00\x1a") {
		return "", fmt.Errorf("the path %q cannot stand in a command line", pack)
	}
	// Only public properties with plain values: a value must not end the
	// argument that it stands in.
	for p := range strings.SplitSeq(properties, "\n") {
		if p == "" {
			continue
		}
		name, value, ok := strings.Cut(p, "=")
		if !ok || !publicName.MatchString(name) || strings.ContainsAny(value, "\r\x00\x1a") {
			return "", fmt.Errorf("%q is no NAME=VALUE of a public property", p)
		}
		if !driveRoot.MatchString(value) { // the mark behind a backslash is taken for a part of the value
			value = strings.TrimRight(value, `\`)
		}
		line += " " + name + `="` + strings.ReplaceAll(value, `"`, `""`) + `"`
	}
	if transforms != "" {
		line += ` TRANSFORMS="` + transforms + `"`
	}
	base := baseOf(pack)
	if i := strings.LastIndexByte(base, '.'); i > 0 {
		base = base[:i]
	}
	return line + ` /l*v "%TEMP%\` + base + `.log"`, nil
}

var (
	// publicName is a property that a call may set. Source: the engine's
	// documentation on public properties.
	publicName = lazy.MustCompile(`^[A-Z_][A-Z0-9_.]*$`)
	// A drive's root itself is nothing to copy packages into or to clear.
	driveRoot = lazy.MustCompile(`^[A-Za-z]:\\$`)
)

// commandText doubles percent signs for a command file, but for the variable
// that CommandLine itself writes.
func commandText(line string) string {
	return strings.ReplaceAll(strings.ReplaceAll(line, "%", "%%"), "%%TEMP%%", "%TEMP%")
}
