// This file asks what stands in the way on a disk: a file where a folder must
// be, a folder where a file must be, a name that cannot be.

package checks

import (
	"cmp"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/guard"
	"hollowkey/core/step"
)

// Files where a folder must be, and files that programs keep open.

// inTheWay finds the first file on the way down to a folder. ok is false when
// there is none; missing is the first level that is not there.
func (l *look) inTheWay(folder string) (file machine.FileInfo, missing string, ok bool, err error) {
	drive, names, err := machine.SplitPath(folder)
	if err != nil {
		return file, "", false, err
	}
	for i := range names {
		at := drive + `:\` + strings.Join(names[:i+1], `\`)
		info, err := l.m.Stat(at)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			return file, at, false, nil
		case err != nil:
			return file, "", false, err
		case !info.Folder:
			info.Path = at
			return info, "", true, nil
		}
	}
	return file, "", false, nil
}

// clearTheWay is the step for a file where a folder must be: an empty one gives
// way to the folder, another one is set aside.
func clearTheWay(i machine.FileInfo) step.Model {
	if i.Size == 0 {
		return step.New("folder", "folder", i.Path)
	}
	return step.New("quarantine", "path", i.Path)
}

// fileInTheWay asks whether a file stands where a folder must be. Only an empty
// one is captured: what another holds a person must look at.
func (l *look) fileInTheWay(with arguments) Finding {
	const name = "file-in-the-way"
	file, missing, found, err := l.inTheWay(with["folder"])
	switch {
	case err != nil:
		return unknown(name, "%v", err)
	case missing != "":
		return pass(name, "nothing stands at %s on %s", missing, l.m.Name())
	case !found:
		return pass(name, "%s is a folder", with["folder"])
	}
	f := Finding{Name: name, Answer: Stop, Steps: []step.Model{clearTheWay(file)}}
	if refused := guard.File(guard.Move, file.Path); refused != nil { // nobody takes that away, and a setup needs another folder
		f.keep("folder", "")
		f.Steps, f.Seen = nil, fmt.Sprintf("%s is a file, not a folder, and stays: it belongs to the OS", file.Path)
		f.Mend = "name another folder than " + file.Path
		return f
	}
	// An empty file holds nothing that anybody could miss; any other is for a
	// person to look at first.
	if file.Size == 0 {
		f.keep("folder", file.Path)
		f.Seen = file.Path + " is an empty file, not a folder"
		return f
	}
	f.keep("folder", "")
	f.Seen = fmt.Sprintf("%s is a file of %d bytes, not a folder; look what it is before you move it", file.Path, file.Size)
	return f
}

// folderInTheWay asks whether a folder stands where a setup writes a file. An
// empty one is set aside; of another one a person must know what it is for.
func (l *look) folderInTheWay(with arguments) Finding {
	const name = "folder-in-the-way"
	path := strings.TrimRight(with["path"], `\`)
	info, err := l.m.Stat(path)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return pass(name, "nothing stands at %s on %s", path, l.m.Name())
	case err != nil:
		return l.cannot(name, path, err)
	case !info.Folder:
		return pass(name, "%s is a file", path)
	}
	list, err := l.m.ReadDir(path)
	if err != nil {
		return l.cannot(name, path, err)
	}
	f := Finding{Name: name, Answer: Stop, Class: "path", Seen: path + " is a folder, where the setup writes a file",
		Mend: "set the folder " + path + " aside", Steps: []step.Model{step.New("quarantine", "path", path)}}
	switch {
	case guard.File(guard.Move, path) != nil:
		f.Mend, f.Steps = "look whose folder "+path+" is", nil
	case len(list) > 0:
		f.Seen += fmt.Sprintf("; it holds %s", entries(len(list)))
		f.Mend, f.Steps = "look what the folder "+path+" holds, and move it away", nil
	}
	return f
}

// emptyFile asks whether an empty file stands at a path: it keeps a folder of
// that name from being made, and holds nothing that somebody could miss.
func (l *look) emptyFile(with arguments) Finding {
	const name = "empty-file"
	info, err := l.m.Stat(strings.TrimRight(with["path"], `\`))
	switch {
	case err != nil && !errors.Is(err, fs.ErrNotExist):
		return l.cannot(name, with["path"], err)
	case err != nil, info.Folder, info.Size > 0:
		return pass(name, "no empty file stands at %s", with["path"])
	}
	f := l.fileInTheWay(arguments{"folder": with["path"]})
	f.Name, f.Class = name, "path"
	f.Mend = cmp.Or(f.Mend, "take the file away and make the folder")
	return f
}

// entries is how much a folder holds, in words.
func entries(n int) string {
	if n == 1 {
		return "1 file or folder"
	}
	return fmt.Sprintf("%d files and folders", n)
}

// longestPath is how many characters a path has at most for programs that do
// not ask for more. Source: the OS's documentation on the maximum length of
// paths.
const longestPath = 259

// pathUsable asks what keeps a folder or file from being made where a setup
// wants it: the drive is not there, a file stands where a folder must be, or
// the path is too long. That the path itself is not there says nothing.
func (l *look) pathUsable(with arguments) Finding {
	const name = "path-usable"
	path := strings.TrimRight(with["path"], `\`)
	drive, names, err := machine.SplitPath(path)
	if err != nil {
		return unknown(name, "%v", err)
	}
	facts := l.m.Facts()
	// A missing drive explains all below it. Why it is missed differs: TEMP, a
	// shell folder, or the setup's own words.
	if len(facts.Drives) > 0 && !facts.HasDrive(drive+":") {
		if temp := l.temporary(); temp != "" && within(path, temp) {
			f := l.temporaryElsewhere(temp)
			f.Name = name
			return f
		}
		f := l.shellFolderOnDrive(arguments{"drive": drive + ":"})
		if f.Answer != Stop {
			f = Finding{Mend: "name a folder on a drive that is there, or connect the drive " + drive + ":"}
		}
		f.Name, f.Answer, f.Seen = name, Stop, strings.TrimSuffix("the drive "+drive+": is not there; "+f.Seen, "; ")
		return f
	}
	folder := path
	// For a file it is the folder around it that must be there.
	if with["what"] == "file" && len(names) > 1 {
		folder = path[:strings.LastIndexByte(path, '\\')]
	}
	f := l.fileInTheWay(arguments{"folder": folder})
	f.Name = name
	if f.Answer == Stop {
		f.Mend = cmp.Or(f.Mend, "take the file away and make the folder")
		if with["what"] == "folder" && with["made"] == "" && slices.ContainsFunc(f.Steps, func(m step.Model) bool { return m["quarantine"] != nil }) {
			f.Mend, f.Steps = "look what the file "+path+" is, and move it away where a folder must be", nil
		}
		return f
	}
	if base := folder; len(path) > longestPath {
		return Finding{Name: name, Answer: Stop,
			Seen: fmt.Sprintf("%s has %d characters, and most programs take %d", path, len(path), longestPath),
			Mend: "let the setup work in a folder with a shorter path than " + base}
	}
	if temp := l.temporary(); temp != "" && within(path, temp) {
		if fit := l.folderFit(name, temp, l.opt.User); fit.Answer == Stop && errors.Is(l.there(temp), fs.ErrNotExist) {
			fit.Seen += ", and setups unpack there"
			return fit
		}
	}
	return f
}

// there is nil for a path where something is.
func (l *look) there(path string) error {
	_, err := l.m.Stat(path)
	return err
}

// within says whether a path is a folder or lies in it.
func within(path, folder string) bool {
	path, folder = strings.ToLower(strings.TrimRight(path, `\`)), strings.ToLower(strings.TrimRight(folder, `\`))
	return path == folder || strings.HasPrefix(path, folder+`\`)
}

// usualParents are the folders below which setups of all vendors make theirs.
var usualParents = []string{
	`C:\`, `C:\ProgramData`, `C:\Program Files`, `C:\Program Files (x86)`, `C:\Program Files\Common Files`,
	`C:\Program Files (x86)\Common Files`,
}

// blockingFiles looks at the usual places for an empty file in the way of a
// folder, which breaks setups of any vendor.
func (l *look) blockingFiles() Finding {
	const name = "files in the way"
	var seen []string
	var steps []step.Model
	for _, root := range usualParents {
		list, err := l.m.ReadDir(root)
		if err != nil && !errors.Is(err, fs.ErrNotExist) {
			return l.cannot(name, "", err)
		}
		for _, i := range list {
			if base := i.Path[strings.LastIndexByte(i.Path, '\\')+1:]; !i.Folder && i.Size == 0 && !strings.Contains(base, ".") {
				seen = append(seen, i.Path)
				steps = append(steps, clearTheWay(i))
			}
		}
	}
	if seen == nil {
		return pass(name, "none")
	}
	return Finding{Name: name, Answer: Warn, Seen: "empty files with no extension, where programs make folders: " + strings.Join(seen, ", "),
		Command: []string{"fix", "--step", "folder", "--arg", "folder=" + seen[0]}, Steps: steps}
}

// lockLeft asks whether a lock file is there, and whether anybody still holds
// it: the process with the number that the file itself holds, else the one that
// the log names, or any.
func (l *look) lockLeft(with arguments) Finding {
	const name = "lock-left"
	file := with["file"]
	info, err := l.m.Stat(file)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return pass(name, "%s is not there now", file)
	case err != nil:
		return l.cannot(name, file, err)
	case info.Folder || info.Size > mostLock:
		return unknown(name, "%s is no lock file", file)
	}
	// A lock that somebody holds is one; so is one of which that cannot be
	// known.
	if list, err := l.m.Holders(file); err != nil || len(list) > 0 {
		return unknown(name, "%s is in use, or it is not known whether it is", file)
	}
	// Lock files often hold the number of the process that made them; else the
	// log may name it.
	pid, named := 0, "the file"
	if f, err := l.m.Open(file); err == nil {
		b, _ := io.ReadAll(io.LimitReader(f, mostLock))
		f.Close()
		pid, _ = strconv.Atoi(strings.TrimSpace(string(b)))
	}
	if pid == 0 {
		pid, _ = strconv.Atoi(with["process"])
		named = "the log"
	}
	f := Finding{Name: name, Answer: Stop, Mend: "take " + file + " away", Steps: []step.Model{step.New("away", "file", file)}}
	if guard.File(guard.Move, file) != nil { // nobody takes that away from here
		f.Mend, f.Steps = "look whose lock "+file+" is", nil
	}
	if pid == 0 {
		f.Seen = file + " is there, and no program has it open"
		return f
	}
	list, err := l.m.Processes()
	if err != nil {
		return l.cannot(name, "", err)
	}
	if slices.ContainsFunc(list, func(p machine.Process) bool { return p.ID == pid }) {
		return pass(name, "the process %d, which %s names, runs", pid, named)
	}
	f.Seen = fmt.Sprintf("%s is there, nobody has it open, and the process %d, which %s names, is not there", file, pid, named)
	return f
}

// mostLock is how many bytes a lock file has at most: a number, a name, a time.
const mostLock = 4096

// folderMissing asks whether the folder that a path leads through is not there,
// which "path not found" complains of.
func (l *look) folderMissing(with arguments) Finding {
	const name = "folder-missing"
	path := strings.TrimRight(with["path"], `\`)
	folder := path
	if at := strings.LastIndexByte(path, '\\'); with["what"] == "file" && at > len(`C:`) {
		folder = path[:at]
	}
	err := l.there(folder)
	switch {
	case err == nil:
		return pass(name, "%s is there", folder)
	case !errors.Is(err, fs.ErrNotExist):
		return l.cannot(name, folder, err)
	case l.driveGone(path):
		return unknown(name, "the drive of %s is not there", folder)
	}
	// Folders in a temporary one come and go with each run: that one is gone
	// now means nothing.
	for _, temp := range []string{l.temporary(), windowsTemp, temporaryAbove(folder)} {
		if temp != "" && within(folder, temp) && l.there(temp) == nil {
			return pass(name, "%s is there, and each run makes its own folders in it", temp)
		}
	}
	f := Finding{Name: name, Answer: Stop, Seen: "the folder " + folder + " is not there", Mend: "make the folder " + folder,
		Steps: []step.Model{step.New("folder", "folder", folder)}}
	if guard.File(guard.Make, folder) != nil { // what the OS has there it has by itself
		f.Mend, f.Steps = "look why "+folder+" is not there: the OS brings it, or the path is wrong", nil
	}
	return f
}

// temporaryAbove is the temporary folder of a user in which a folder lies;
// empty where it lies in none.
func temporaryAbove(folder string) string {
	const usual = `\appdata\local\temp`
	at := strings.Index(strings.ToLower(folder)+`\`, usual+`\`)
	if at < 0 {
		return ""
	}
	return folder[:at+len(usual)]
}

// driveThere asks whether the drive of a path is there.
func (l *look) driveThere(with arguments) Finding {
	const name = "drive-there"
	path := with["path"]
	if path == "" {
		return unknown(name, "which drive is meant is not known")
	}
	if !l.driveGone(path) {
		return pass(name, "the drive of %s is there", path)
	}
	own := l.shellFolder(name, func(folder string) bool { return within(path, folder) }, Finding{})
	if own.Answer == Stop { // not what is installed lies there, but where it writes
		own.Class, own.Seen = "path", "the drive "+path[:2]+" is not there; "+own.Seen
		return own
	}
	return Finding{Name: name, Answer: Stop, Seen: "the drive " + path[:2] + " is not there",
		Mend: "connect the drive " + path[:2] + " for the account that runs the setup, or copy the whole setup to a local folder and run it there"}
}

// programRunning asks whether a program runs that a setup wants closed.
func (l *look) programRunning(with arguments) Finding {
	const name = "program-running"
	program := with["program"]
	if program == "" {
		return unknown(name, "which program is meant is not known")
	}
	list, err := l.m.Processes()
	if err != nil {
		return l.cannot(name, "", err)
	}
	for _, p := range list {
		if strings.EqualFold(p.Name, program) || strings.EqualFold(p.Name, program+".exe") {
			return Finding{Name: name, Answer: Stop, Captures: map[string]string{"holder": p.Name},
				Seen: fmt.Sprintf("%s (process %d, of %s) runs", p.Name, p.ID, p.User), Mend: "end " + p.Name,
				Steps: []step.Model{step.New("end-process", "process", p.Name)}}
		}
	}
	return pass(name, "no program %s runs", program)
}

// fileHolder asks which program keeps a file open.
func (l *look) fileHolder(with arguments) Finding {
	const name = "file-holder"
	file := with["file"]
	if file == "" {
		return unknown(name, "which file is meant is not known")
	}
	list, err := l.m.Holders(file)
	switch {
	case err != nil:
		return l.cannot(name, "", err)
	case len(list) == 0:
		return unknown(name, "nothing holds %s on %s at the moment", file, l.m.Name())
	}
	return Finding{Name: name, Answer: Stop,
		Seen:     fmt.Sprintf("%s (process %d, of %s) holds %s", list[0].Name, list[0].ID, list[0].User, file),
		Mend:     "end " + list[0].Name + ", which holds the file",
		Steps:    []step.Model{step.New("end-process", "process", list[0].Name)},
		Captures: map[string]string{"holder": list[0].Name}}
}
