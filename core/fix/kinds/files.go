// This file has the steps that leave a file in a wanted state, and how files
// are read, written and put back.

package kinds

import (
	"bytes"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/fix/checkpoint"
	"hollowkey/core/machine"
	"hollowkey/core/machine/inifile"
	"hollowkey/core/machine/sddl"
	"hollowkey/core/why/checks"
)

// fileFamily has the rows that leave one file in a wanted state. They differ in
// where its bytes come from; how a file is read, written and put back is the
// same for all of them, unless a row says otherwise.
func fileFamily() family {
	return define(func() *FileState { return &FileState{} },
		row[*FileState]{read: readFile, write: writeFile},
		row[*FileState]{name: "ini", prepare: prepareIni, read: readIni, want: wantIni, words: iniWords},
		row[*FileState]{name: "transform", want: wantTransform, words: transformWords},
		row[*FileState]{name: "copy", prepare: prepareCopy, read: readCopy, want: wantCopy, write: writeCopy, words: copyWords},
		row[*FileState]{name: "command", want: wantCommand, words: commandWords},
		row[*FileState]{name: "away", read: readAway, want: wantAway, words: awayWords},
		row[*FileState]{name: "place", read: readPlace, want: wantPlace, write: writePlace, words: placeWords})
}

func (*FileState) family() string { return "file" }

// plain leaves out what is only shown, and the files made along with it.
func (st *FileState) plain() Fact {
	p := *st
	p.Made, p.Show, p.Traits = nil, nil, nil
	return &p
}

// remember notes the files that the step makes, for the way back to take away.
func (st *FileState) remember(after Fact) { st.Made = after.(*FileState).Made }

// between is never so: a file is written whole or not at all, and what is
// neither state is somebody else's.
func (st *FileState) between(Fact, Fact) bool { return false }

// powerShell writes what a person can read over: of a file that is there the
// piece that changes, of a new one its lines. No encoding of a shell comes
// between.
func (st *FileState) powerShell(s Step, from Fact) ([]string, error) {
	switch {
	case !st.There:
		return []string{"Remove-Item -LiteralPath " + PS(s.Target)}, nil
	case st.Contents == nil:
		return nil, errors.New("the file is too large for a script")
	case s.Args["copy"] != "":
		return nil, errors.New("a copy of a folder does not fit a script")
	}
	if was, ok := from.(*FileState); ok && was.There && was.Contents != nil {
		return psReplace(s.Target, was.Contents, st.Contents), nil
	}
	if text := string(st.Contents); utf8.ValidString(text) && !strings.ContainsFunc(text, hidden) {
		var lines []string
		for line := range strings.SplitSeq(text, "\r\n") {
			lines = append(lines, "  "+PS(line))
		}
		return []string{"$lines = @(", strings.Join(lines, ",\r\n"), ")",
			"[IO.File]::WriteAllText(" + PS(s.Target) + ", ($lines -join \"`r`n\"), (New-Object Text.UTF8Encoding $false))"}, nil
	}
	text := base64.StdEncoding.EncodeToString(st.Contents)
	return []string{"[IO.File]::WriteAllBytes(" + PS(s.Target) + ", [Convert]::FromBase64String('" + text + "'))"}, nil
}

// hidden says whether a sign could not be read over in a script; a lone line
// end could not either.
func hidden(r rune) bool {
	return unicode.IsControl(r) && r != '\r' && r != '\n' && r != '\t' || r == utf8.RuneError
}

// psReplace writes the piece in which two states of a file differ over the old
// one. The file must be the one that was looked at; a byte is a letter in the
// encoding that is used.
func psReplace(path string, was, is []byte) []string {
	head := 0
	for head < len(was) && head < len(is) && was[head] == is[head] {
		head++
	}
	tail := 0
	for tail < len(was)-head && tail < len(is)-head && was[len(was)-1-tail] == is[len(is)-1-tail] {
		tail++
	}
	for head > 0 && was[head-1] != '\n' { // whole lines read better
		head--
	}
	for tail > 0 && was[len(was)-tail] != '\r' && was[len(was)-tail] != '\n' {
		tail--
	}
	old, fresh := was[head:len(was)-tail], is[head:len(is)-tail]
	// The script refuses where the file is not the one that was looked at.
	sum := sha256.Sum256(was)
	return []string{
		"# was: " + PlainLine(latin(old)),
		"# is:  " + PlainLine(latin(fresh)),
		"$file = " + PS(path),
		"if ((Get-FileHash -LiteralPath $file -Algorithm SHA256).Hash -ne '" +
			strings.ToUpper(hex.EncodeToString(sum[:])) + "') { throw 'the file is not as it was' }",
		"$latin = [Text.Encoding]::GetEncoding(28591)",
		"$text = $latin.GetString([IO.File]::ReadAllBytes($file))",
		fmt.Sprintf("$text = $text.Remove(%d, %d).Insert(%d, %s)", head, len(old), head, psBytes(fresh)),
		"[IO.File]::WriteAllBytes($file, $latin.GetBytes($text))",
	}
}

// latin reads each byte as a letter; those of a wide encoding's half are left
// out.
func latin(b []byte) string {
	var text strings.Builder
	for _, c := range b {
		if c != 0 {
			text.WriteRune(rune(c))
		}
	}
	return strings.TrimSpace(text.String())
}

// psBytes writes bytes as the letters of [latin] that a script holds: plain
// ones as they are, others by their numbers.
func psBytes(b []byte) string {
	var parts []string
	plain := ""
	flush := func() {
		if plain != "" {
			parts = append(parts, PS(plain))
		}
		plain = ""
	}
	for _, c := range b {
		if c >= ' ' && c < 0x7f {
			plain += string(rune(c))
			continue
		}
		flush()
		parts = append(parts, fmt.Sprintf("[char]%d", c))
	}
	flush()
	if len(parts) == 0 {
		return "''"
	}
	return "('' + " + strings.Join(parts, " + ") + ")"
}

// command only deletes; a command file cannot write bytes.
func (st *FileState) command(s Step, _ Fact) ([]string, error) {
	if st.There {
		return nil, errNoCommand
	}
	return cmdCall("del", s.Target)
}

// FileState is a file of a step: absent, its contents, or of an altered copy of
// a package its code.
type FileState struct {
	There    bool     `json:"there"`              // false: no such file
	Contents []byte   `json:"contents,omitempty"` // of small files; the way back is in the journal
	Code     string   `json:"code,omitempty"`     // of a package
	Made     []string `json:"made,omitempty"`     // files and folders that were made with it, outermost first
	// Traits go back with the contents; nil of a file that was not there.
	Traits *machine.Traits `json:"traits,omitempty"`
	Show   []string        `json:"show,omitempty"` // for a preview
}

const (
	maxKept    = 1 << 20 // bytes of a file whose contents the journal keeps
	maxCopied  = 2 << 30 // bytes of a setup's folder that is copied
	maxEntries = 5000    // files of a folder that is copied or cleared; a setup's folder has hundreds
)

// readFile reads a small file, or its absence.
func readFile(m machine.Machine, s Step) (*FileState, error) {
	b, err := contents(m, s.Target)
	if errors.Is(err, fs.ErrNotExist) {
		return &FileState{}, nil
	}
	st := &FileState{There: true, Contents: b}
	if t, bad := m.Traits(s.Target); bad == nil {
		st.Traits = &t
	}
	return st, err
}

// contents reads a file that the journal is to keep. One over the limit is
// refused before anything is changed: half a way back is none.
func contents(m machine.Files, path string) ([]byte, error) {
	f, err := m.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, maxKept+1))
	if err == nil && len(b) > maxKept {
		err = fmt.Errorf("%s is larger than %d bytes, so the journal cannot keep it", path, maxKept)
	}
	return b, err
}

// writeFile puts a file's contents in place, or takes the file away with all
// that was made along with it.
func writeFile(m machine.Machine, s Step, to *FileState) error {
	f := to
	if f.There {
		if src := s.Args["copy"]; s.Kind == "ini" && src != "" && len(f.Made) > 0 {
			if err := copyFolder(m, folderOf(s.Args["file"]), src); err != nil {
				return err
			}
		}
		err := m.WriteFile(s.Target, func(out *os.File) error {
			_, err := out.Write(f.Contents)
			return err
		})
		if err == nil && f.Traits != nil {
			err = m.SetTraits(s.Target, *f.Traits)
		}
		return err
	}
	for i := len(f.Made) - 1; i >= 0; i-- {
		if err := m.RemoveFile(f.Made[i]); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
	}
	if err := m.RemoveFile(s.Target); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// Lines shows small text files as text, since that is what a person must judge;
// packages by their code, and what is no text by its size.
func (st *FileState) Lines(_ machine.Accounts) []string {
	f := st
	switch {
	case !f.There:
		return []string{"the file is absent"}
	case strings.HasPrefix(f.Code, hashMark):
		return []string{"file, " + f.Code}
	case f.Code != "":
		return append([]string{"package code " + f.Code}, f.Show...)
	case f.Show != nil:
		return f.Show
	case bytes.IndexByte(f.Contents, 0) >= 0:
		return []string{fmt.Sprintf("%d bytes", len(f.Contents))}
	}
	return strings.Split(strings.TrimRight(strings.ReplaceAll(string(f.Contents), "\r\n", "\n"), "\n"), "\n")
}

// folderOf is the folder that a path lies in.
func folderOf(path string) string {
	if i := strings.LastIndexByte(path, '\\'); i > 0 {
		return path[:i]
	}
	return path
}

// baseOf is the last name of a path.
func baseOf(path string) string { return path[strings.LastIndexByte(path, '\\')+1:] }

// INI files.

// iniTarget is the file that is altered: the setup's own, or the one in a copy
// of its folder.
func iniTarget(s Step) string {
	if c := s.Args["copy"]; c != "" {
		return strings.TrimRight(c, `\`) + `\` + baseOf(s.Args["file"])
	}
	return s.Args["file"]
}

// prepareIni works the target out: with copy=FOLDER it is the file in the copy,
// not the one that is named.
func prepareIni(s *Step) error {
	s.Target = iniTarget(*s)
	return nil
}

// readIni reads the file and keeps for the preview only the section that the
// step alters; setups' INI files run to hundreds of lines.
func readIni(m machine.Machine, s Step) (*FileState, error) {
	st, err := readFile(m, s)
	if err == nil && st.There {
		st.Show, err = iniShow(s, st.Contents)
	}
	return st, err
}

// iniShow is the section that a step alters.
func iniShow(s Step, b []byte) ([]string, error) {
	f, err := inifile.Parse(b)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", s.Target, err)
	}
	lines := []string{"[" + s.Args["section"] + "]"}
	for _, p := range f.Keys(s.Args["section"]) {
		lines = append(lines, p.Key+"="+f.Readable(p.Value))
	}
	return lines, nil
}

// wantIni alters one key and leaves every other byte of the file. A file on a
// medium, or one that the account cannot write to, is altered in a copy of its
// whole folder: setups look for their files beside the INI file.
func wantIni(m machine.Machine, s Step, now *FileState) (*FileState, error) {
	from := s.Args["file"]
	b, err := contents(m, from)
	if err != nil {
		return nil, err
	}
	want := &FileState{There: true}
	if into := s.Args["copy"]; into != "" {
		if now.There {
			b = now.Contents // the copy was made before
		} else if _, err := m.Stat(into); err == nil {
			return nil, fmt.Errorf("%s is there already\nhint: name a folder that is not; the setup's folder is copied there", into)
		} else if want.Made, err = listFolder(m, folderOf(from), into); err != nil {
			return nil, err
		}
	} else if err := writable(m, from, s.Args["account"]); err != nil {
		return nil, fmt.Errorf("%w\nhint: give copy=FOLDER; the setup's folder is copied there and altered in the copy", err)
	}
	f, err := inifile.Parse(b)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", from, err)
	}
	// A section that is not there is made, but said: it is a misspelt one as
	// often.
	sections := f.Sections()
	known := slices.ContainsFunc(sections, func(n string) bool { return strings.EqualFold(n, s.Args["section"]) })
	if err := f.Set(s.Args["section"], s.Args["key"], s.Args["value"]); err != nil {
		return nil, err
	}
	want.Contents = f.Bytes()
	if want.Show, err = iniShow(s, want.Contents); !known && err == nil {
		want.Show = append(want.Show, fmt.Sprintf("warning: the section [%s] is new; the file has %s", s.Args["section"], sectionList(sections)))
	}
	return want, err
}

// sectionList names the sections of a file, for somebody who may have misspelt
// one.
func sectionList(names []string) string {
	const most = 12 // more nobody reads
	if len(names) == 0 {
		return "none"
	}
	text := "[" + strings.Join(names[:min(len(names), most)], "], [") + "]"
	if len(names) > most {
		text += fmt.Sprintf(" and %d more", len(names)-most)
	}
	return text
}

// iniWords says the step to a person, and that a copy is changed where the
// vendor's own file stays.
func iniWords(s Step) string {
	text := fmt.Sprintf("set %s in section %s of %s to %s", s.Args["key"], s.Args["section"], iniTarget(s), s.Args["value"])
	if c := s.Args["copy"]; c != "" {
		return "copy " + folderOf(s.Args["file"]) + " to " + c + " and " + text
	}
	return text
}

// writersOf names who may write a file.
func writersOf(d *sddl.Descriptor) string {
	var names []string
	if d.DACL != nil {
		for _, e := range d.DACL.Entries {
			if n := e.SID.Name(); e.Allows() && e.Mask&sddl.AnyWrite != 0 && !slices.Contains(names, n) {
				names = append(names, n)
			}
		}
	}
	if names == nil {
		return "nobody"
	}
	return strings.Join(names, " and ")
}

// writable says why a file cannot be altered where it lies: its medium, or the
// rights of the account, when one is named.
func writable(m machine.Machine, path, account string) error {
	for _, d := range m.Facts().Drives {
		if len(path) >= 2 && strings.EqualFold(d.Letter, path[:2]) && d.Kind == "optical" {
			return fmt.Errorf("%s lies on a medium that cannot be written", path)
		}
	}
	sec, err := m.FileSecurity(path)
	if err != nil && account == "" { // the OS says it when it is written
		return nil
	}
	if err != nil {
		return err
	}
	d, err := sddl.Parse(sec.SDDL)
	if err != nil {
		return err
	}
	a := machine.Account{Name: "an administrator", SID: sddl.Administrators} // who takes steps
	if account != "" {
		if a, err = m.Account(account); err != nil {
			return err
		}
	} else if own, err := m.Account(m.SignedIn()); err == nil {
		a.Groups = append(own.SIDs(), own.Groups...)
	}
	if !checks.MayWrite(d, sddl.File, a) {
		return fmt.Errorf("%s cannot write to %s: only %s may", a.Name, path, writersOf(d))
	}
	return nil
}

// listFolder lists what copying a folder makes, outermost first.
func listFolder(m machine.Files, from, to string) (made []string, err error) {
	total := int64(0)
	err = eachEntry(m, from, func(rel string, info machine.FileInfo) error {
		made = append(made, strings.TrimRight(to+`\`+rel, `\`))
		if total += info.Size; total > maxCopied || len(made) > maxEntries {
			return fmt.Errorf("%s holds more than is copied: %d files or %d GiB", from, maxEntries, maxCopied>>30)
		}
		return nil
	})
	return made, err
}

// eachEntry goes through a folder: itself first, then what lies below it.
func eachEntry(m machine.Files, folder string, do func(rel string, info machine.FileInfo) error) error {
	if err := do("", machine.FileInfo{Path: folder, Folder: true}); err != nil {
		return err
	}
	var below func(string) error
	below = func(at string) error {
		list, err := m.ReadDir(at)
		if err != nil {
			return err
		}
		for _, i := range list {
			if err := do(strings.TrimLeft(i.Path[len(folder):], `\`), i); err != nil {
				return err
			}
			if i.Folder {
				if err := below(i.Path); err != nil {
					return err
				}
			}
		}
		return nil
	}
	return below(folder)
}

// copyFolder copies a folder with all that is in it.
func copyFolder(m machine.Files, from, to string) error {
	return eachEntry(m, from, func(rel string, info machine.FileInfo) error {
		target := strings.TrimRight(to+`\`+rel, `\`)
		if info.Folder {
			err := m.MakeFolder(target)
			if errors.Is(err, fs.ErrExist) {
				return nil
			}
			return err
		}
		in, err := m.Open(info.Path)
		if err != nil {
			return err
		}
		defer in.Close()
		err = m.WriteFile(target, func(out *os.File) error {
			_, err := io.Copy(out, in)
			return err
		})
		checkpoint.Reached("within-copy")
		return err
	})
}

// Unmake takes away what a step that was killed in the middle had made so far,
// and says whether it made things of its own at all. A copy whose file is no
// longer the source's is left: a person may have gone on with it.
func (s Step) Unmake(m machine.Machine, before, after State) (made bool, err error) {
	to, ok := after.Fact.(*FileState)
	if from, is := before.Fact.(*FileState); !ok || !is || from.There || len(to.Made) == 0 {
		return false, nil
	}
	if s.Kind == "copy" {
		if sources, err := stillSource(m, s); err != nil || !sources {
			return false, err
		}
	} else if now, err := contents(m, s.Target); !errors.Is(err, fs.ErrNotExist) { // altered, by us or by a person: it is no half of a copy
		source, bad := contents(m, s.Args["file"])
		if err != nil || bad != nil || !bytes.Equal(now, source) {
			return false, errors.Join(err, bad)
		}
	}
	return true, writeFile(m, s, &FileState{Made: to.Made})
}
