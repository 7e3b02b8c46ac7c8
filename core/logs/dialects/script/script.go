// Package script reads the logs of script-driven installers: each line begins
// with date, time to the millisecond and blanks; texts of several lines go on
// without a stamp; sections begin with "-- File entry --" and the like.
package script

import (
	"bytes"
	"strconv"
	"strings"
	"time"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// A Reader reads one log. Make it with [New].
type Reader struct {
	b         *lines.Builder // makes the story
	install   *story.Action  // the whole run, nil before it begins
	section   *story.Action  // the section under way, nil between them
	boxes     bool           // the last line was the head of a message box
	lastError int            // line of the last question whether to go on in spite of an error
	uninst    bool           // the way back, or an uninstallation, is under way
	folder    string         // the folder of programs that the first file goes to, which often has the product's name
}

// New makes a reader for the log called file.
func New(file string) *Reader { return &Reader{b: lines.New(file, story.Script)} }

// parse takes the stamp off: "2026-01-14 10:10:10.024   Log opened."
func parse(line []byte) (date string, at time.Duration, text []byte, ok bool) {
	date, at, n := lines.Stamp(line)
	if n < 23 || date == "" || len(line) < n+3 || line[n] != ' ' || line[n+1] != ' ' || line[n+2] != ' ' {
		return "", 0, nil, false
	}
	return date, at, line[n+3:], true
}

// Score counts the lines of this dialect; without its opening or sections it
// is some other stamped log.
func Score(ls [][]byte) (n int) {
	sure := false
	for _, l := range ls {
		if _, _, text, ok := parse(l); ok {
			n++
			sure = sure || bytes.HasPrefix(text, []byte("Log opened.")) || bytes.HasPrefix(text, []byte("-- ")) ||
				bytes.HasPrefix(text, []byte("Setup version:"))
		}
	}
	if !sure {
		return 0
	}
	return 3 * n
}

var (
	// A folder's last name, which is most often the product's.
	lastFolder = lazy.MustCompile(`([^\\]+)\\?$`)
	// "Process exit code: 5": what a program that the script started gave back.
	exitOf = lazy.MustCompile(`(?i)process exit code: (-?\d+)`)
	// What begins like this is a path or a key, and not a sentence.
	subject = lazy.MustCompile(`^(?:[A-Za-z]:\\|\\\\|HKEY_|HK(?:LM|CU|CR|U)\\)`)
	// The product's folder, under the names that "Program Files" has in other
	// languages.
	inPrograms = lazy.MustCompile(`(?i)^[a-z]:\\(?:Program Files(?: \(x86\))?|Archivos de programa|Programme|Programmes)\\([^\\]{3,60})\\`)
	// The key of the uninstall entry; "_is1" is the writer's own ending and no
	// part of the name.
	uninstKey = lazy.MustCompile(`(?i)uninstall key: .*\\([^\\]+?)(?:_is\d)?$`)
)

// Line takes the next line.
func (r *Reader) Line(l textfile.Line) {
	date, at, text, ok := parse(l.Text)
	if !ok {
		t := strings.TrimSpace(string(l.Text))
		if t == "" {
			return
		}
		if last := r.b.Last(); last != nil && (last.Kind == story.KindError || r.boxes) {
			kind := last.Kind
			if r.section != nil && len(r.section.Data) == 0 && subject.MatchString(t) {
				r.section.Data = []story.Line{{Place: r.b.Place(l.Number), Text: t}}
			}
			r.b.Add(lines.Entry{Line: l.Number, At: -1, Kind: kind, Source: last.Source, Text: t, Raw: string(l.Text)})
			return
		}
		r.b.More(l.Number, t)
		return
	}
	t := string(text)
	if strings.HasPrefix(t, "Log opened.") {
		r.b.Begin(l.Number)
		r.install, r.section, r.uninst = nil, nil, false
	}
	r.b.Ensure(l.Number)
	r.b.Stamp(l.Number, at, date)
	r.head(l.Number, t)
	kind := r.kind(l.Number, t, string(l.Text))
	r.boxes = strings.HasPrefix(t, "Message box") || strings.HasPrefix(t, "Defaulting to") || strings.HasPrefix(t, "Exception message")
	source := ""
	if strings.HasPrefix(t, "[") {
		source = "code"
	}
	m := r.b.Add(lines.Entry{Line: l.Number, At: at, Date: date, Kind: kind, Source: source, Text: t, Raw: string(l.Text)})
	if r.uninst && m.Kind != story.KindResult {
		m.Rollback = true
	}
}

// head takes what the first lines and the entries tell of the setup.
func (r *Reader) head(line int, t string) {
	a := r.b.A
	name, value, ok := strings.Cut(t, ": ")
	if !ok {
		return
	}
	switch name {
	case "Original Setup EXE":
		a.Package = value
	case "Setup command line":
		a.Command = value
	case "User privileges":
		a.Elevated = new(strings.HasPrefix(value, "Admin"))
	case "Directory for uninstall files":
		if m := lastFolder.FindStringSubmatch(strings.TrimRight(value, `\`)); m != nil && a.Product.Name == "" {
			a.Product.Name = m[1]
		}
	case "Dest filename", "Filename":
		if m := inPrograms.FindStringSubmatch(value); m != nil && r.folder == "" {
			r.folder = m[1]
		}
		if r.section != nil {
			r.section.Data = append(r.section.Data[:0], story.Line{Place: r.b.Place(line), Text: value})
			r.section.Name = strings.TrimSuffix(r.section.Name, " entry") + " entry"
		}
	}
	if m := uninstKey.FindStringSubmatch(t); m != nil {
		a.Product.Name = m[1]
	}
	if r.b.A.Product.Name == "" && name == "Creating directory" {
		if m := lastFolder.FindStringSubmatch(strings.TrimRight(value, `\`)); m != nil {
			a.Product.Name = m[1]
		}
	}
}

// kind says what a line is, and lets it begin or end an action.
func (r *Reader) kind(line int, t, raw string) story.Kind {
	a := r.b.A
	switch {
	case strings.HasPrefix(t, "-- ") && strings.HasSuffix(t, " --"):
		r.endSection(line, false, "")
		r.section = r.b.Start(line, strings.Trim(t, "- "), r.install)
	case strings.HasPrefix(t, "Registering "), strings.HasPrefix(t, "Unregistering "): // once the files are there, without a heading
		r.endSection(line, false, "")
		name, _, _ := strings.Cut(t, ":")
		r.section = r.b.Start(line, name, r.install)
	case strings.HasPrefix(t, "Starting the installation process"):
		r.endSection(line, false, "")
		r.install = r.b.Start(line, "Installation", nil)
	case strings.HasPrefix(t, "Installation process succeeded"):
		r.endSection(line, false, "")
		r.b.End(r.install, line, false, nil, "")
		a.Success = new(true)
		return story.KindProduct
	case strings.HasPrefix(t, "Fatal exception during"), strings.HasPrefix(t, "Got EAbort"), strings.HasPrefix(t, "Exception message"):
		a.Success = new(false)
		r.endSection(line, true, raw)
		r.failInstall(line, raw)
		return story.KindError
	case strings.HasPrefix(t, "Rolling back changes"):
		a.Success = new(false)
		if a.Rollback == 0 {
			a.Rollback = line
		}
		r.endSection(line, true, raw)
		r.failInstall(line, raw)
		r.uninst = true
		return story.KindInfo
	case strings.HasPrefix(t, "Starting the uninstallation process"):
		if r.install == nil {
			r.install = r.b.Start(line, "Uninstallation", nil)
		}
		r.uninst = a.Rollback > 0
	case strings.HasPrefix(t, "Uninstallation process succeeded"):
		if a.Rollback == 0 && a.Success == nil {
			a.Success = new(true)
		}
	case strings.HasPrefix(t, "Need to restart Windows? Yes"):
		a.Restart = true
		return story.KindProduct
	case strings.HasPrefix(t, "Setup aborted"), strings.Contains(t, "InitializeSetup returned False"),
		strings.Contains(t, "PrepareToInstall returned"):
		a.Success = new(false)
		return story.KindError
	case strings.Contains(t, "User canceled") || strings.Contains(t, "User cancelled") || strings.Contains(t, "user chose Cancel"):
		a.Success = new(false)
		if r.lastError > 0 && line-r.lastError <= 12 { // the setup gave up, nobody pressed anything
			return story.KindInfo
		}
		a.Cancelled = true
		return story.KindError
	case strings.HasPrefix(t, "Log closed"):
		a.Closed = true
	case strings.HasPrefix(t, "Message box"), strings.HasPrefix(t, "Defaulting to"):
		if strings.Contains(t, "Abort") || strings.Contains(t, "Retry") {
			r.lastError = line
			return story.KindError
		}
		return story.KindText
	}
	if m := exitOf.FindStringSubmatch(t); m != nil {
		code, _ := strconv.Atoi(m[1])
		if r.section != nil && code != 0 {
			r.section.Code, r.section.Ignored = &code, true
		}
		r.endSection(line, false, "")
		if code != 0 {
			return story.KindResult
		}
	}
	if troubles.Any(pieces.Lower(t)) || gaveError.MatchString(t) {
		return story.KindWarning
	}
	return story.KindData
}

// troubles are words with which a script's author tells that something went
// wrong; the setup itself does not use the later ones.
var troubles = pieces.New([]string{"failed", "error", "exception", "cannot ", "could not", "unable", "denied", "abort",
	"crashed", "is missing", "not installed", "not a valid", "not writable", "timed out", "blocked", "refused", "already running", "errno",
	"does not exist", "no space", "is full", "must be", "prevented from"})

// gaveError is an errno by its name, or an NTSTATUS of a crash.
var gaveError = lazy.MustCompile(`\bE(?:ACCES|PERM|NOENT|BUSY|NOSPC|EXIST|ROFS|CONNREFUSED|TIMEDOUT|NOTFOUND)\b|\b0x[Cc]0000[0-9A-Fa-f]{3}\b`)

// endSection ends the section that is open, with the code that was told in it.
func (r *Reader) endSection(line int, failed bool, raw string) {
	if r.section != nil {
		r.b.End(r.section, line, failed, r.section.Code, raw)
		r.section = nil
	}
	r.b.Within(r.install)
}

// failInstall ends the installation as failed, once: what comes behind it is
// told of the same failure.
func (r *Reader) failInstall(line int, raw string) {
	if r.install != nil && r.install.EndLine == 0 {
		r.b.End(r.install, line, true, nil, raw)
	}
}

// Finish gives the attempts. Only where the run says how it ended, or was cut
// off, is an outcome claimed.
func (r *Reader) Finish() []*story.Attempt {
	all := r.b.Finish()
	for _, a := range all {
		if a.Product.Name == "" && len(all) == 1 { // it broke before it wrote what it can be removed by
			a.Product.Name = r.folder
		}
		if a.Success == nil && a.Closed && len(a.Actions) == 0 {
			for _, m := range a.Messages {
				if m.Kind == story.KindError || m.Kind == story.KindText && strings.HasPrefix(m.Text, "Message box") {
					a.Success = new(false)
				}
			}
		}
	}
	return all
}
