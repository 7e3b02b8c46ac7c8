// This file copies and removes files as the engine does.

package rehearse

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"slices"
	"strings"

	"hollowkey/core/bounded"
	"hollowkey/core/machine"
	"hollowkey/core/package/cabinet"
	"hollowkey/core/package/installdb"
)

// file is one row of the File table with where it goes.
type file struct {
	key, name, target, folder string // target is its long name, folder is resolved
	size, sequence            int    // bytes, and its number in the cabinets
	uncompressed              bool   // it lies beside the package
	source                    string // path beside the package, when not compressed
}

// Attributes of files. Source: the platform SDK, "File Table".
const (
	fileUncompressed = 0x2000
	fileCompressed   = 0x4000
	wordsCompressed  = 2 // of the summary's word count
)

const maxFileKept = 256 << 20 // bytes of a file that a rehearsal keeps for a rollback

// fileTarget is where a row of the File table goes; empty when its component is
// not in the package.
func (s *session) fileTarget(r row) string {
	c := s.comps[r.text("Component_")]
	if c == nil {
		return ""
	}
	return s.dirs[c.dir] + installdb.LongName(r.text("FileName"))
}

// files lists the files of the components with one action, in the order of
// their media.
func (s *session) files(action int) (list []file, err error) {
	rows, err := s.rows("File")
	if err != nil {
		return nil, err
	}
	sum, err := s.db.Summary()
	if err != nil {
		return nil, err
	}
	for _, r := range rows {
		c := s.comps[r.text("Component_")]
		if c == nil || c.action != action {
			continue
		}
		bits := r.number("Attributes")
		f := file{key: r.text("File"), target: s.fileTarget(r), folder: s.dirs[c.dir], size: r.number("FileSize"), sequence: r.number("Sequence")}
		f.name = f.target[strings.LastIndexByte(f.target, '\\')+1:]
		f.uncompressed = bits&fileUncompressed != 0 || bits&fileCompressed == 0 && sum.Number(15)&wordsCompressed == 0
		f.source = s.sourceOf(c.dir, f.name)
		list = append(list, f)
	}
	slices.SortStableFunc(list, func(a, b file) int { return a.sequence - b.sequence })
	return list, nil
}

// sourceOf is where an uncompressed file lies: in the source's folders, which
// the Directory table names behind the colon.
func (s *session) sourceOf(dir, name string) string {
	path := ""
	chain, whole := s.tree.Up(dir)
	if whole {
		chain = chain[:len(chain)-1] // the root is the source's own folder
	}
	for _, d := range chain {
		if d.Source != "" {
			path = d.Source + `\` + path
		}
	}
	return s.source + path + name
}

// createFolders makes the folders that the CreateFolder table names.
func (s *session) createFolders() error {
	return s.componentRows("CreateFolder", stateLocal, func(r row, _ *component) error {
		s.makeFolder("CreateFolders", s.dirs[r.text("Directory_")])
		return nil
	})
}

// makeFolder puts the making of a folder on the script, with those that it made
// as its way back.
func (s *session) makeFolder(action, folder string) {
	var made []string
	s.add(op{action: action, info: "Folder: " + folder, line: fmt.Sprintf("FolderCreate(Folder=%s,Foreign=0,,)", folder),
		do: func() (err error) { made, err = s.folder(folder); return err },
		back: func() error {
			for _, f := range slices.Backward(made) {
				if err := s.m.RemoveFile(f); err != nil {
					return err
				}
			}
			return nil
		}})
}

// folder makes a folder with those above it, as SYSTEM may.
func (s *session) folder(folder string) (made []string, err error) {
	drive, names, err := machine.SplitPath(strings.TrimRight(folder, `\`))
	if err != nil {
		return nil, &stop{message: 1324, detail: "2: " + folder, text: "The folder path '" + folder + "' contains an invalid character."}
	}
	// From the drive down: the first level that is no folder, or may not be
	// written below, is the one that the engine names.
	for i := range names {
		at := drive + `:\` + strings.Join(names[:i+1], `\`)
		info, err := s.m.Stat(at)
		switch {
		case err == nil && !info.Folder:
			return made, &stop{message: 1312, detail: "2: " + at,
				text: "Cannot create the directory '" + at +
					"'.  A file with this name already exists.  Please rename or remove the file and click retry, or click Cancel to exit."}
		case err == nil:
			continue
		case !errors.Is(err, fs.ErrNotExist):
			return made, err
		}
		if !s.mayWrite(at) {
			return made, &stop{message: 1303, detail: "2: " + at,
				text: "The installer has insufficient privileges to access this directory: " + at +
					".  The installation cannot continue.  Log on as administrator or contact your system administrator."}
		}
		if err := s.m.MakeFolder(at); err != nil {
			return made, err
		}
		made = append(made, at)
	}
	return made, nil
}

// installFiles puts the files into the script, out of cabinets or beside the
// package.
func (s *session) installFiles() error {
	list, err := s.files(stateLocal)
	if err != nil {
		return err
	}
	folder := ""
	for _, f := range list {
		if f.folder != folder {
			folder = f.folder
			s.makeFolder("InstallFiles", folder)
		}
		s.copyFile(f)
	}
	return nil
}

// copyFile puts a file on the script. What stood there is kept in memory for
// the rollback, as the engine keeps it in a file of its own.
func (s *session) copyFile(f file) {
	var was []byte
	there := false
	s.add(op{action: "InstallFiles", info: fmt.Sprintf("File: %s,  Directory: %s,  Size: %d", f.name, f.folder, f.size),
		line: fmt.Sprintf("FileCopy(SourceName=%s,SourceCabKey=%s,DestName=%s,Attributes=512,FileSize=%d,)", f.name, f.key, f.name, f.size),
		do: func() (err error) {
			b, err := s.contents(f)
			if err != nil {
				return err
			}
			if was, there, err = s.existing(f.target); err != nil {
				return err
			}
			if there && bytes.Equal(was, b) {
				s.log.server("File: %s;\tWon't Overwrite;\tWon't patch;\tExisting file is of an equal version", f.target)
				return nil
			}
			return s.put(f.target, b)
		},
		back: func() error {
			if there {
				return s.put(f.target, was)
			}
			return ignoreAbsent(s.m.RemoveFile(f.target))
		}})
}

// ignoreAbsent lets a removal of what is gone already pass.
func ignoreAbsent(err error) error {
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return err
}

// The OS's numbers, as the engine writes them to its log. Source: winerror.h.
const (
	errAccessDenied     = 5
	errSharingViolation = 32
)

// put writes a file as SYSTEM may; one that is held is replaced at the next
// restart.
func (s *session) put(target string, b []byte) error {
	folder := target[:strings.LastIndexByte(target, '\\')]
	if !s.mayWrite(folder) {
		return &stop{message: 1310, detail: "2: 5 3: " + target,
			text: fmt.Sprintf("Error writing to file: %s.  System error %d.  Verify that you have access to that directory.", target,
				errAccessDenied)}
	}
	err := s.m.WriteFile(target, func(out *os.File) error {
		_, err := out.Write(b)
		return err
	})
	var number machine.SystemError
	if errors.As(err, &number) && number.Code == errSharingViolation {
		who := "another program"
		if list, err := s.m.Holders(target); err == nil && len(list) > 0 {
			who = fmt.Sprintf("the following process: Name: %s, Id: %d", strings.TrimSuffix(list[0].Name, ".exe"), list[0].ID)
		}
		s.log.raw("Info 1603. The file %s is being held in use by %s.  Close that application and retry.", target, who)
		s.restart = true
		return nil
	}
	return err
}

// existing reads a file that is there already.
func (s *session) existing(path string) (b []byte, there bool, err error) {
	info, err := s.m.Stat(path)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, false, nil
	}
	if err != nil {
		return nil, false, err
	}
	if info.Folder {
		return nil, false, &stop{message: 1301, detail: "2: " + path,
			text: "Cannot create the file '" + path +
				"'.  A directory with this name already exists.  Cancel the install and try installing to a different location."}
	}
	// What is there is kept for the rollback. A twin knows of most files only
	// their size: those are assumed to be replaced.
	f, err := s.m.Open(path)
	if errors.Is(err, machine.ErrUnsupported) {
		s.assume("%s is replaced; the twin has only its size", path)
		return nil, true, nil
	}
	if err != nil {
		return nil, false, err
	}
	defer f.Close()
	b, err = bounded.ReadAll(f, maxFileKept)
	if errors.Is(err, bounded.ErrTooLarge) {
		s.assume("%s is replaced; it is too large to be kept for a rollback", path)
		return nil, true, nil
	}
	return b, true, err
}

// contents reads a file out of its cabinet or from beside the package.
func (s *session) contents(f file) ([]byte, error) {
	if f.uncompressed {
		b, there, err := s.existing(f.source)
		if err == nil && !there {
			return nil, &stop{message: 1309, detail: "2: 2 3: " + f.source,
				text: "Error reading from file: " + f.source + ".  System error 2.  Verify that the file exists and that you can access it."}
		}
		return b, err
	}
	media, err := s.rows("Media")
	if err != nil {
		return nil, err
	}
	slices.SortFunc(media, func(a, b row) int { return a.number("LastSequence") - b.number("LastSequence") })
	for _, r := range media {
		if r.number("LastSequence") >= f.sequence {
			return s.fromCabinet(r.text("Cabinet"), f.key)
		}
	}
	return nil, &stop{message: 2602, detail: "2: " + f.key,
		text: "The File table entry '" + f.key + "' has no associated entry in the Media table."}
}

// fromCabinet reads a file out of a cabinet, embedded or beside the package. A
// cabinet is unpacked once: its blocks depend on each other, so reading them
// for each file anew takes the square of the time.
func (s *session) fromCabinet(name, key string) ([]byte, error) {
	if held, ok := s.cabinets[name]; ok {
		if b := held[key]; b != nil {
			return b.Bytes(), nil
		}
		return nil, &stop{message: 1334, detail: "2: " + key + " 3: " + name,
			text: "The file '" + key + "' cannot be installed because the file cannot be found in cabinet file '" + name +
				"'. This could indicate a network error, an error reading from the CD-ROM, or a problem with this package."}
	}
	var at io.ReaderAt
	var size int64
	// A name with # is a stream of the package, any other a file beside it.
	if inner, embedded := strings.CutPrefix(name, "#"); embedded {
		c, err := s.db.Stream(inner)
		if c == nil && s.patch != nil { // a patch brings its own
			c, err = s.patch.Stream(inner)
		}
		if err != nil || c == nil {
			return nil, &stop{message: 1335, detail: "2: " + inner,
				text: "The cabinet file '" + inner +
					"' required for this installation is corrupt and cannot be used. This could indicate a network error, an error reading from the " +
					"CD-ROM, or a problem with this package."}
		}
		b, err := bounded.ReadAll(c.Reader(), maxFileKept)
		if err != nil {
			return nil, err
		}
		at, size = bytes.NewReader(b), int64(len(b))
	} else {
		path := s.source + name
		b, there, err := s.existing(path)
		if err != nil {
			return nil, err
		}
		if !there {
			return nil, &stop{message: 1311, detail: "2: " + path,
				text: "Source file not found: " + path + ".  Verify that the file exists and that you can access it."}
		}
		at, size = bytes.NewReader(b), int64(len(b))
	}
	if err := s.readCabinet(name, at, size); err != nil {
		return nil, &stop{message: 1335, detail: "2: " + name,
			text: "The cabinet file '" + name + "' required for this installation is corrupt and cannot be used: " + err.Error()}
	}
	return s.fromCabinet(name, key)
}

// readCabinet keeps what a cabinet holds, for all of its files.
func (s *session) readCabinet(name string, at io.ReaderAt, size int64) error {
	c, err := cabinet.Open(at, size)
	if err != nil {
		return err
	}
	held := map[string]*bytes.Buffer{}
	total := int64(0)
	err = c.Extract(func(f cabinet.File) (io.Writer, error) {
		if total += f.Size; total > maxFileKept {
			return nil, fmt.Errorf("more than %d bytes, which a rehearsal does not keep", maxFileKept)
		}
		held[f.Name] = &bytes.Buffer{}
		return held[f.Name], nil
	})
	if err != nil {
		return err
	}
	if s.cabinets == nil {
		s.cabinets = map[string]map[string]*bytes.Buffer{}
	}
	s.cabinets[name] = held
	return nil
}

// removeFiles takes the files of components that go.
func (s *session) removeFiles() error {
	list, err := s.files(stateAbsent)
	if err != nil {
		return err
	}
	for _, f := range list {
		var was []byte
		there := false
		s.add(op{action: "RemoveFiles", info: fmt.Sprintf("File: %s, Directory: %s", f.name, f.folder),
			line: fmt.Sprintf("FileRemove(,FileName=%s,,)", f.target),
			do: func() (err error) {
				if was, there, err = s.existing(f.target); err != nil || !there {
					return err
				}
				err = s.m.RemoveFile(f.target)
				var number machine.SystemError
				// A file that is in use goes with the restart, as the engine
				// does it.
				if errors.As(err, &number) {
					s.restart = true
					return nil
				}
				return err
			},
			back: func() error {
				if !there {
					return nil
				}
				return s.put(f.target, was)
			}})
		if !slices.ContainsFunc(s.script, func(o op) bool { return o.line == folderRemoval(f.folder) }) {
			s.removeFolder("RemoveFiles", f.folder)
		}
	}
	// folders go when all files are gone
	slices.SortStableFunc(s.script, func(a, b op) int { return boolInt(isFolderRemoval(a)) - boolInt(isFolderRemoval(b)) })
	return nil
}

// folderRemoval is the script's line for an empty folder that goes.
func folderRemoval(folder string) string {
	return fmt.Sprintf("FolderRemove(Folder=%s,Foreign=0)", folder)
}

// isFolderRemoval tells that line again, so that folders go after all files.
func isFolderRemoval(o op) bool {
	return o.action == "RemoveFiles" && strings.HasPrefix(o.line, "FolderRemove(")
}

// boolInt is 1 for true, as the engine writes it.
func boolInt(b bool) int {
	if b {
		return 1
	}
	return 0
}

// removeFolders undoes what createFolders made; folders that hold something
// stay.
func (s *session) removeFolders() error {
	return s.componentRows("CreateFolder", stateAbsent, func(r row, _ *component) error {
		s.removeFolder("RemoveFolders", s.dirs[r.text("Directory_")])
		return nil
	})
}

// removeFolder takes a folder away when it is empty, and those above it, up to
// the places that belong to everybody.
func (s *session) removeFolder(action, folder string) {
	var gone []string
	s.add(op{action: action, line: folderRemoval(folder),
		do: func() error {
			for at := strings.TrimRight(folder, `\`); strings.Count(at, `\`) > 1; at = at[:strings.LastIndexByte(at, '\\')] {
				list, err := s.m.ReadDir(at)
				if err != nil || len(list) > 0 || s.m.RemoveFile(at) != nil {
					return nil
				}
				gone = append(gone, at)
			}
			return nil
		},
		back: func() error {
			for _, f := range slices.Backward(gone) {
				if err := s.m.MakeFolder(f); err != nil {
					return err
				}
			}
			return nil
		}})
}
