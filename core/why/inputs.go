package why

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"hollowkey/core/logs/dialects"
	"hollowkey/core/logs/textfile"
	"hollowkey/core/logs/zipped"
	"hollowkey/core/machine"
	"hollowkey/core/machine/twinfile"
	"hollowkey/core/why/verdict"
)

// maxLogs is how many files are judged together. One attempt leaves a handful
// of logs; more is a folder of other things.
const maxLogs = 200

// inputs are opened logs.
type inputs struct {
	names  []string            // as they were given, folders unfolded
	logs   []verdict.Input     // in the same order
	folder bool                // they were found in a folder, so some may be no logs
	files  []io.Closer         // to be closed
	turned map[string]rotation // logs in several files, by the newest's name
	stop   func()              // ends the counting
}

// close closes the files and ends the counting.
func (in *inputs) close() {
	for _, f := range in.files {
		f.Close()
	}
	if in.stop != nil {
		in.stop()
	}
}

// open opens the logs of a question, with its watcher over all of them. The
// files of a log that was rotated make one text, named by the newest.
func (q Question) open(ctx context.Context, opt textfile.Options) (in inputs, err error) {
	if in.names, in.folder, err = Unfold(q.Logs); err != nil {
		return in, err
	}
	total := int64(0)
	texts := map[string]io.Reader{}
	for _, n := range in.names {
		if n == "-" && q.Stdin != nil {
			texts[n] = q.Stdin
			continue
		}
		f, size, err := q.openOne(n)
		if err != nil {
			in.close()
			return in, err
		}
		total += size
		in.files, texts[n] = append(in.files, f), f
	}
	if in.turned, err = join(ctx, rotations(in.names), texts, opt); err != nil {
		in.close()
		return in, err
	}
	count := func(r io.Reader) io.Reader { return r }
	if q.Watch != nil {
		count, in.stop = q.Watch(total)
	}
	for _, n := range in.names {
		if text := texts[n]; text != nil {
			in.logs = append(in.logs, verdict.Input{Name: n, Text: count(text)})
		}
	}
	return in, nil
}

// OnMachine says whether a log's name is a path of the machine's own: it is
// none here.
func (q Question) OnMachine(name string) bool {
	if _, _, err := machine.SplitPath(name); err != nil || q.Machine == nil {
		return false
	}
	_, err := os.Lstat(name)
	return errors.Is(err, fs.ErrNotExist)
}

// Open opens a log: a file here, or one on the machine.
func (q Question) Open(name string) (io.ReadCloser, error) {
	f, _, err := q.openOne(name)
	return f, err
}

// OnlyHere parts names into files of this computer, and files and folders of
// the machine.
func (q Question) OnlyHere(names []string) (here, files, folders []string, err error) {
	for _, n := range names {
		if !q.OnMachine(n) {
			here = append(here, n)
			continue
		}
		info, err := q.Machine.Stat(n)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			return nil, nil, nil, fmt.Errorf("%s: there is no such file, neither here nor on %s\nhint: look at the spelling", n, q.Machine.Name())
		case err != nil:
			return nil, nil, nil, err
		case info.Folder:
			folders = append(folders, n)
		default:
			files = append(files, n)
		}
	}
	return here, files, folders, nil
}

// openOne is Open with the size.
func (q Question) openOne(name string) (f io.ReadCloser, size int64, err error) {
	if q.OnMachine(name) {
		info, err := q.Machine.Stat(name)
		switch {
		case errors.Is(err, fs.ErrNotExist):
			return nil, 0, fmt.Errorf("%s: there is no such file, neither here nor on %s\nhint: look at the spelling", name, q.Machine.Name())
		case err != nil:
			return nil, 0, err
		case info.Folder:
			return nil, 0, fmt.Errorf("%s: this is a folder on %s", name, q.Machine.Name())
		}
		f, err := q.Machine.Open(name)
		return f, info.Size, err
	}
	if zip, inside, is := zipped.Parts(name); is {
		return zipped.Find(zip, inside, mostEntry)
	}
	local, err := OpenLog(name)
	if err != nil {
		return nil, 0, err
	}
	if info, err := local.Stat(); err == nil {
		size = info.Size()
	}
	return local, size, nil
}

// mostEntry is how many bytes of a zip's entry are read: more is no log that
// anybody sends in one.
const mostEntry = 2 << 30

// collectedLogs is the folder of a zip in which logs lie that were collected
// with facts of the machine and the case, and collected is the list that such a
// zip holds.
const collectedLogs, collected = "logs/", "manifest.json"

// logsIn are the files of a zip that can be logs, by names that Open takes.
func logsIn(zip string) (names []string, err error) {
	list, err := zipped.List(zip)
	if err != nil {
		return nil, err
	}
	whole := slices.ContainsFunc(list, func(e zipped.Entry) bool { return e.Name == collected })
	encrypted, nested := 0, ""
	for _, e := range list {
		base := e.Name[strings.LastIndexByte(e.Name, '/')+1:]
		switch {
		case e.Encrypted:
			encrypted++
		case zipped.Is(base): // zips in zips are how bombs are made
			nested = e.Name
		case strings.HasPrefix(base, "."), whole && !strings.HasPrefix(e.Name, collectedLogs):
		default:
			names = append(names, zip+zipped.Sign+e.Name)
		}
	}
	switch {
	case len(names) > 0:
		return names, nil
	case encrypted > 0:
		return nil, errors.New("what is in it is encrypted")
	case nested != "":
		return nil, fmt.Errorf("it holds another zip, %s", nested)
	}
	return nil, errors.New("there is no log in it")
}

// Unfold puts the files of a folder, or of a zip, in its place; hidden ones and
// folders below it are left out. It fails for a folder without logs, and for
// one that is a twin; a case gives the logs that it keeps.
func Unfold(args []string) (names []string, folder bool, err error) {
	for _, arg := range args {
		info, err := os.Stat(arg)
		if err != nil && strings.ContainsAny(arg, "*?[") { // the OS's shell does not expand patterns
			found, _ := filepath.Glob(arg) // a pattern that is none is told as a missing file
			slices.Sort(found)
			if names = append(names, found...); len(found) > 0 {
				continue
			}
		}
		if err == nil && info.Mode().IsRegular() && zipped.Is(arg) {
			found, err := logsIn(arg)
			if err != nil {
				return nil, true, fmt.Errorf("%s: %w\nhint: unpack it, and name the logs", arg, err)
			}
			folder, names = true, append(names, found...)
			continue
		}
		if err != nil || !info.IsDir() {
			names = append(names, arg)
			continue
		}
		folder = true
		found, err := filesIn(arg)
		if err != nil {
			return nil, true, err
		}
		names = append(names, found...)
	}
	if len(names) > maxLogs {
		return nil, folder, fmt.Errorf("%d files are more than the %d that are read together\nhint: name the logs of one attempt", len(names),
			maxLogs)
	}
	return names, folder, nil
}

// filesIn are the files of a folder that can be logs. Of a case they are its
// evidence and the logs of its attempts, too: its own records tell of logs, and
// of exit codes that are the program's, and are none.
func filesIn(dir string) (names []string, err error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return nil, err
	}
	is := map[string]bool{}
	for _, e := range entries {
		is[e.Name()] = true
	}
	for _, e := range entries {
		if e.Type().IsRegular() && !strings.HasPrefix(e.Name(), ".") && !OwnRecord(e.Name()) && (!is[caseRecord] || e.Name() != caseReport) {
			names = append(names, filepath.Join(dir, e.Name()))
		}
	}
	switch {
	case is[twinfile.AboutName]:
		return nil, fmt.Errorf("%s: this is a twin, and no log\nhint: name a log, and the twin with --machine", dir)
	case is[caseRecord]:
		for _, part := range caseLogs {
			entries, err := os.ReadDir(filepath.Join(dir, part))
			if info, bad := os.Lstat(filepath.Join(dir, part)); bad != nil || err != nil || !info.IsDir() {
				continue // a case has it once something lies there; a link may lead anywhere
			}
			for _, e := range entries {
				if e.Type().IsRegular() && !strings.EqualFold(filepath.Ext(e.Name()), ".json") { // an attempt's own record
					names = append(names, filepath.Join(dir, part, e.Name()))
				}
			}
		}
		if len(names) == 0 {
			return nil, fmt.Errorf("%s: the case keeps no log yet\nhint: to add one: hollowkey why LOG --case CASE", dir)
		}
	case len(entries) == 0:
		return nil, fmt.Errorf("%s: the folder is empty", dir)
	case len(names) == 0:
		return nil, fmt.Errorf("%s: there is no log in the folder", dir)
	}
	return names, nil
}

// caseRecord is the file by which a folder is known for a case, caseLogs are
// its folders with logs.
const caseRecord = "case.yaml"

var caseLogs = []string{"evidence", "attempts"}

// ownRecords are what the program writes into the folder of a case, of a
// machine, or of what it gathered.
var ownRecords = []string{caseRecord, "commands.ndjson", "journal.ndjson", "journal.key", "journal.lock", "ladder.json", "ready.json",
	"changes.ndjson"}

// caseReport is a case's own page; a setup may write a log of that name, so
// elsewhere it is read.
const caseReport = "report.html"

// OwnRecord says whether a file of that name is one in which the program keeps
// its own records.
func OwnRecord(name string) bool { return slices.Contains(ownRecords, name) }

// OpenLog opens a log; a folder or a missing file is said to be one. Errors say
// what to look at next.
func OpenLog(name string) (*os.File, error) {
	f, err := textfile.Open(name)
	switch {
	case name == "":
		return nil, errors.New("the name of a log is empty\nhint: a variable in the call may not be set")
	case errors.Is(err, fs.ErrNotExist):
		return nil, fmt.Errorf("%s: there is no such file\nhint: look at the spelling, or at which folder you are in", name)
	case errors.Is(err, fs.ErrPermission):
		return nil, fmt.Errorf("%s: access is denied\nhint: copy the log to a folder of your own, or use an elevated prompt", name)
	case err != nil:
		return nil, err
	}
	if info, err := f.Stat(); err == nil && info.IsDir() {
		f.Close()
		return nil, fmt.Errorf("%s: this is a folder", name)
	}
	return f, nil
}

// explain adds what to do when a file is no setup log.
func (q Question) explain(err error) error {
	const verbose = "make a verbose log with: msiexec /i PACKAGE /l*v setup.log"
	switch {
	case errors.Is(err, dialects.ErrEmpty):
		return fmt.Errorf("%w\nhint: the setup may still run, or may have had no right to write it; %s", err, verbose)
	case errors.Is(err, dialects.ErrBinary) && len(q.Logs) == 1 && insteadOfLog(q.Logs[0]) != "":
		return fmt.Errorf("%s: this is no log, but %s", q.Logs[0], insteadOfLog(q.Logs[0]))
	case errors.Is(err, dialects.ErrBinary):
		return fmt.Errorf("%w\nhint: name the log that the setup wrote, not the package; %s", err, verbose)
	case errors.Is(err, dialects.ErrNoLog):
		return fmt.Errorf("%w\nhint: %s", err, verbose)
	}
	return err
}

// insteadOfLog says what a file is by its ending that somebody names in the
// place of a log, and what can be done with it; empty where the ending tells
// nothing.
func insteadOfLog(name string) string {
	ext := strings.ToLower(filepath.Ext(name))
	named := name
	if strings.Contains(name, " ") {
		named = `"` + name + `"`
	}
	switch ext {
	case ".msi", ".msp", ".msix", ".appx", ".msixbundle", ".appxbundle":
		return "an installer package\nhint: to see what it is: hollowkey package overview " + named +
			"\nhint: to check this machine for it: hollowkey ready " + named + " --machine live"
	case ".exe":
		return "a program\nhint: to find the log that it wrote: hollowkey logs --machine live\nhint: to check this machine for it: hollowkey ready " + named + " --machine live"
	case ".gz", ".7z", ".rar", ".tar", ".tgz", ".bz2", ".xz", ".cab":
		return "an archive\nhint: unpack it, and name the logs; of archives only zips are read as they are"
	case ".dmp", ".mdmp", ".hdmp":
		return "a program's memory when it crashed\nhint: the event log tells what crashed: hollowkey logs --machine live"
	case ".png", ".jpg", ".jpeg", ".bmp", ".gif":
		return "a picture\nhint: type what the dialog in it says: hollowkey why --said \"TEXT\""
	case ".docx", ".pdf", ".xlsx", ".eml", ".msg":
		return "a document\nhint: copy the text of the log into a file, or type what the dialog said: hollowkey why --said \"TEXT\""
	}
	return ""
}
