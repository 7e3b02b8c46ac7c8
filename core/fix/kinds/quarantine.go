// This file has the steps that move files away and keep them, so that undo can
// bring them back.

package kinds

import (
	"bufio"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"hollowkey/core/bounded"
	"hollowkey/core/fix/checkpoint"
	"hollowkey/core/machine"
)

// Files that are taken away go into the quarantine of the case, and come back
// from there. A list beside them says what each was.

const (
	// What was moved, one line a file, so that a torn last line costs one file
	// and not the list.
	manifestName = "list.ndjson"
	maxHeld      = 100_000 // files and folders that one step moves
	maxEntry     = 1 << 20 // bytes of one line of the list: a path of 32,767 characters, all of them escaped
)

// HeldState is what of a path a step takes away: how much, and a mark over the
// names and sizes.
type HeldState struct {
	Files int      `json:"files"`          // how many are held or would be
	Bytes int64    `json:"bytes"`          // their sizes together
	Mark  string   `json:"mark,omitempty"` // tells that the set is the same one
	There bool     `json:"there"`          // the files are in their place; false: in the quarantine
	Show  []string `json:"show,omitempty"` // the first names, for the preview
}

// heldEntry is one file or folder in quarantine.
type heldEntry struct {
	Path     string            `json:"path"`               // on the machine
	Folder   bool              `json:"folder,omitempty"`   // an empty one, so that it comes back too
	Size     int64             `json:"size,omitempty"`     // bytes
	SHA256   string            `json:"sha256,omitempty"`   // in hex; checked before the file goes back
	Kept     string            `json:"kept,omitempty"`     // file name in the quarantine
	Security *machine.Security `json:"security,omitempty"` // nil where it could not be read
	Traits   *machine.Traits   `json:"traits,omitempty"`   // nil where they could not be read
}

// heldFamily has the rows that move files into the case's quarantine and put
// them back. Both share reader and writer; they differ in which files are
// meant.
func heldFamily() family {
	return define(func() *HeldState { return &HeldState{} },
		row[*HeldState]{read: readHeld, want: wantHeld, write: writeHeld},
		row[*HeldState]{name: "quarantine", words: quarantineWords},
		row[*HeldState]{name: "free-space", words: freeSpaceWords})
}

func (*HeldState) family() string { return "held" }

// plain leaves out the list that is only shown.
func (st *HeldState) plain() Fact {
	p := *st
	p.Show = nil
	return &p
}

// between looks at amounts: all is kept before the first is taken away, and
// what still stands is left.
func (st *HeldState) between(x, y Fact) bool {
	a, b := x.(*HeldState), y.(*HeldState)
	return st.There && st.Files <= max(a.Files, b.Files) && st.Bytes <= max(a.Bytes, b.Bytes)
}

// powerShell moves the folder beside the script, where the second one finds it.
func (st *HeldState) powerShell(s Step, _ Fact) ([]string, error) {
	if s.Kind != "quarantine" {
		return nil, errNoScript
	}
	keep := "(Join-Path $PSScriptRoot " + PS("hollowkey-quarantine-"+baseOf(s.Target)) + ")"
	if st.There {
		return []string{"Move-Item -LiteralPath " + keep + " -Destination " + PS(s.Target)}, nil
	}
	return []string{"Move-Item -LiteralPath " + PS(s.Target) + " -Destination " + keep}, nil
}

// command has no answer: the list of what was moved, by which undo finds it, is
// the journal's, and a script has none.
func (st *HeldState) command(Step, Fact) ([]string, error) { return nil, errNoCommand }

// heldFiles lists what a step takes away, outermost first.
func heldFiles(m machine.Machine, s Step) (list []machine.FileInfo, note string, err error) {
	info, err := m.Stat(s.Target)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, "", nil
	}
	if err != nil {
		return nil, "", err
	}
	if !info.Folder {
		list = []machine.FileInfo{info}
	} else {
		err = eachEntry(m, info.Path, func(_ string, i machine.FileInfo) error {
			if list = append(list, i); len(list) > maxHeld {
				return fmt.Errorf("%s holds more than %d files", s.Target, maxHeld)
			}
			return nil
		})
	}
	if err != nil || s.Kind == "quarantine" {
		return list, "", err
	}
	return oldFiles(m, s, list)
}

// oldFiles leaves of a folder's entries the files that nobody has changed for a
// while and nobody keeps open.
func oldFiles(m machine.Machine, s Step, list []machine.FileInfo) (old []machine.FileInfo, note string, err error) {
	hours, err := strconv.Atoi(s.Args["older"])
	if s.Args["older"] == "" {
		hours, err = 24, nil
	}
	if err != nil || hours < 0 {
		return nil, "", fmt.Errorf("older=%q is not a number of hours", s.Args["older"])
	}
	now := m.Facts().Time
	if now.IsZero() && hours > 0 {
		return nil, "", errors.New("the machine's clock is not known, so the age of files is not either\n" +
			"hint: older=0 takes all that nobody keeps open")
	}
	inUse, young := 0, 0
	for _, i := range list {
		switch {
		case i.Folder:
		case hours > 0 && now.Sub(i.Time) < time.Duration(hours)*time.Hour:
			young++
		default:
			old = append(old, i)
		}
	}
	if old, inUse, err = free(m, old); err != nil {
		return nil, "", err
	}
	return old, fmt.Sprintf("%d skipped as in use, %d as younger than %d hours", inUse, young, hours), nil
}

// free leaves out the files that a program keeps open. All are asked for at
// once first: mostly nobody holds any.
func free(m machine.Machine, list []machine.FileInfo) (out []machine.FileInfo, inUse int, err error) {
	var paths []string
	for _, i := range list {
		paths = append(paths, i.Path)
	}
	holders, err := m.Holders(paths...)
	if errors.Is(err, machine.ErrUnsupported) || err == nil && len(holders) == 0 {
		return list, 0, nil
	}
	for _, i := range list {
		holders, err := m.Holders(i.Path)
		if err != nil {
			return nil, 0, err
		}
		if len(holders) > 0 {
			inUse++
			continue
		}
		out = append(out, i)
	}
	return out, inUse, err
}

// readHeld marks what a path holds by names and sizes. Contents are not hashed
// for it: a preview of gigabytes must come back at once; each file's hash is
// taken when it is moved.
func readHeld(m machine.Machine, s Step) (*HeldState, error) {
	list, note, err := heldFiles(m, s)
	st := &HeldState{There: len(list) > 0}
	h := sha256.New()
	for _, i := range list {
		fmt.Fprintf(h, "%s|%v|%d\n", strings.ToLower(i.Path), i.Folder, i.Size)
		if !i.Folder {
			st.Files++
			st.Bytes += i.Size
		}
	}
	if st.There {
		st.Mark = hex.EncodeToString(h.Sum(nil)[:12])
	}
	if note != "" {
		st.Show = []string{note}
	}
	return st, err
}

// wantHeld leaves nothing behind. A path that is not there is an error, so that
// a mistyped one is not taken for cleared.
func wantHeld(m machine.Machine, s Step, now *HeldState) (*HeldState, error) {
	if s.Kind == "quarantine" && !now.There {
		return nil, fmt.Errorf("%s on %s: %w", s.Target, m.Name(), fs.ErrNotExist)
	}
	return &HeldState{Show: now.Show}, nil
}

// writeHeld copies everything and has the list on disk before it takes the
// first file away; the innermost go first, so that every folder is empty in its
// turn.
func writeHeld(m machine.Machine, s Step, to *HeldState) error {
	if s.Keep == "" {
		return errors.New("there is no case to keep the files in")
	}
	if to.There {
		return bringBack(m, s)
	}
	list, _, err := heldFiles(m, s)
	if err != nil {
		return err
	}
	kept, err := keepAll(m, s.Keep, list)
	if err != nil {
		return err
	}
	for _, e := range slices.Backward(kept) {
		if err := m.RemoveFile(e.Path); err != nil {
			return err
		}
		checkpoint.Reached("within-removal")
	}
	return nil
}

// keepAll copies files into the quarantine; when it returns, all is on disk.
func keepAll(m machine.Machine, keep string, list []machine.FileInfo) (kept []heldEntry, err error) {
	root, err := openKeep(keep, true)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	manifest, err := root.OpenFile(manifestName, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return nil, err
	}
	defer manifest.Close()
	// The list is written row by row, each after its file is safe: a crash
	// leaves a list that is true as far as it goes.
	for n, i := range list {
		e := heldEntry{Path: i.Path, Folder: i.Folder, Size: i.Size}
		if sec, err := m.FileSecurity(i.Path); err == nil {
			e.Security = &sec
		}
		if tr, err := m.Traits(i.Path); err == nil {
			e.Traits = &tr
		}
		if !i.Folder {
			e.Kept = fmt.Sprintf("%06d", n)
			if e.SHA256, err = keepFile(m, i.Path, root, e.Kept); err != nil {
				return nil, err
			}
		}
		b, err := json.Marshal(e)
		if err != nil {
			return nil, err
		}
		if _, err := manifest.Write(append(b, '\n')); err != nil {
			return nil, err
		}
		kept = append(kept, e)
		checkpoint.Reached("within-keep")
	}
	return kept, manifest.Sync()
}

// keepFile copies one file and gives the hash of what was read, which is
// checked when it comes back.
func keepFile(m machine.Files, from string, root *os.Root, to string) (sum string, err error) {
	in, err := m.Open(from)
	if err != nil {
		return "", err
	}
	defer in.Close()
	out, err := root.OpenFile(to, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return "", err
	}
	h := sha256.New()
	_, err = io.Copy(io.MultiWriter(out, h), in)
	return hex.EncodeToString(h.Sum(nil)), errors.Join(err, out.Sync(), out.Close())
}

// bringBack puts everything back from the quarantine that is not there.
func bringBack(m machine.Machine, s Step) error {
	root, err := openKeep(s.Keep, false)
	if err != nil {
		return fmt.Errorf("%w\nhint: the case's quarantine was emptied or moved", err)
	}
	defer root.Close()
	list, err := readManifest(root, s.List)
	if err != nil {
		return err
	}
	if err := makeAbove(m, s.Target); err != nil {
		return err
	}
	for _, e := range list {
		// The list lies in the case's folder, and must not lead anything
		// elsewhere.
		if p, top := strings.ToLower(e.Path), strings.ToLower(s.Target); p != top && !strings.HasPrefix(p, strings.TrimRight(top, `\`)+`\`) {
			return fmt.Errorf("the quarantine names %s, which does not lie in %s\nhint: its list was changed; correct it by hand", e.Path,
				s.Target)
		}
		if _, err := m.Stat(e.Path); err == nil {
			continue
		} else if !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		if e.Folder {
			err = m.MakeFolder(e.Path)
		} else {
			err = restoreFile(m, e, root)
		}
		if err == nil && e.Security != nil {
			err = m.SetFileSecurity(e.Path, *e.Security)
		}
		if err != nil {
			return err
		}
		checkpoint.Reached("within-return")
	}
	for _, e := range slices.Backward(list) { // a folder's time last, as what is put into it changes it
		if e.Traits == nil {
			continue
		}
		if err := m.SetTraits(e.Path, *e.Traits); err != nil {
			return err
		}
	}
	_ = Clear(s.Keep) // all is back; a copy that stays does no harm
	return nil
}

// makeAbove makes the folders above a path that are gone: what lay there comes
// back even when somebody took them away meanwhile.
func makeAbove(m machine.Machine, target string) error {
	paths, err := levels(target)
	if err != nil {
		return err
	}
	for _, p := range paths[:len(paths)-1] {
		if _, err := m.Stat(p); errors.Is(err, fs.ErrNotExist) {
			if err := m.MakeFolder(p); err != nil {
				return err
			}
		}
	}
	return nil
}

// Clear deletes a quarantine, file by file.
func Clear(keep string) error {
	list, err := os.ReadDir(keep)
	for _, e := range list {
		err = errors.Join(err, os.Remove(filepath.Join(keep, e.Name())))
	}
	return errors.Join(err, os.Remove(keep))
}

// restoreFile writes a kept file back and checks its hash on the way: a copy
// that was changed meanwhile must not become a program of the machine.
func restoreFile(m machine.Files, e heldEntry, root *os.Root) error {
	in, err := bounded.Plain(root, e.Kept, os.O_RDONLY, 0)
	if err != nil {
		return fmt.Errorf("%w\nhint: the case's quarantine was emptied or moved", err)
	}
	defer in.Close()
	return m.WriteFile(e.Path, func(out *os.File) error {
		h := sha256.New()
		if _, err := io.Copy(io.MultiWriter(out, h), in); err != nil {
			return err
		}
		if sum := hex.EncodeToString(h.Sum(nil)); sum != e.SHA256 {
			return fmt.Errorf("%s in the quarantine is damaged: its hash is %s, not %s", e.Path, sum, e.SHA256)
		}
		return nil
	})
}

// openKeep opens the folder of a change's quarantine, which lies two levels
// below the machine's own. No link leads there.
func openKeep(keep string, create bool) (*os.Root, error) {
	all, change := filepath.Split(filepath.Clean(keep))
	own, below := filepath.Split(filepath.Clean(all))
	root, err := os.OpenRoot(own)
	if err != nil {
		return nil, err
	}
	defer root.Close()
	for _, at := range []string{below, filepath.Join(below, change)} {
		if create {
			if err := root.Mkdir(at, 0o700); err != nil && !errors.Is(err, fs.ErrExist) {
				return nil, err
			}
		}
		info, err := root.Lstat(at)
		if err != nil {
			return nil, err
		}
		if !info.IsDir() {
			return nil, fmt.Errorf("%s is a link or no folder", filepath.Join(own, at))
		}
	}
	return root.OpenRoot(filepath.Join(below, change))
}

// ListSum is the hash of the list of what a change set aside, which the journal
// keeps; empty where it set nothing aside.
func ListSum(keep string) string {
	root, err := openKeep(keep, false)
	if err != nil {
		return ""
	}
	defer root.Close()
	f, err := bounded.Plain(root, manifestName, os.O_RDONLY, 0)
	if err != nil {
		return ""
	}
	defer f.Close()
	h := sha256.New()
	if _, err := io.Copy(h, f); err != nil {
		return ""
	}
	return hex.EncodeToString(h.Sum(nil))
}

// readManifest reads the list beside the kept files, which must have the hash
// that the journal keeps of it; empty for none. Its names are claims all the
// same: one that is no plain file name would read from outside of the
// quarantine.
func readManifest(root *os.Root, sum string) (list []heldEntry, err error) {
	f, err := bounded.Plain(root, manifestName, os.O_RDONLY, 0)
	if err != nil {
		return nil, fmt.Errorf("%w\nhint: the case's quarantine was emptied or moved", err)
	}
	defer f.Close()
	h := sha256.New()
	lines := bufio.NewScanner(io.TeeReader(f, h))
	lines.Buffer(nil, maxEntry)
	for n := 1; lines.Scan(); n++ {
		var e heldEntry
		if err := json.Unmarshal(lines.Bytes(), &e); err != nil || !e.Folder && (e.Kept == "" || filepath.Base(e.Kept) != e.Kept) {
			return nil, fmt.Errorf("%s:%d: not an entry of a quarantine: %v", f.Name(), n, err)
		}
		list = append(list, e)
	}
	if got := hex.EncodeToString(h.Sum(nil)); lines.Err() == nil && sum != "" && got != sum {
		return nil, fmt.Errorf("%s is not as the journal knows it: its hash is %s\nhint: its list was changed; correct it by hand", f.Name(), got)
	}
	return list, lines.Err()
}

// Lines tells how much there is, in the unit that a person thinks in.
func (st *HeldState) Lines(_ machine.Accounts) []string {
	h := st
	if !h.There {
		return append([]string{"nothing to take away"}, h.Show...)
	}
	files := "1 file"
	if h.Files != 1 {
		files = fmt.Sprintf("%d files", h.Files)
	}
	size := fmt.Sprintf("%d bytes", h.Bytes)
	if h.Bytes >= 1<<20 {
		size = fmt.Sprintf("%.1f MB", float64(h.Bytes)/(1<<20))
	} else if h.Bytes >= 10<<10 {
		size = fmt.Sprintf("%d KB", h.Bytes>>10)
	}
	return append([]string{files + ", " + size}, h.Show...)
}

// quarantineWords says the step to a person: nothing is deleted, it is moved.
func quarantineWords(s Step) string { return "move " + s.Target + " into the case's quarantine" }

// freeSpaceWords says the step to a person; how much space that gives, the
// preview tells.
func freeSpaceWords(s Step) string {
	return "move the files of " + s.Target + " that nobody uses into the case's quarantine"
}
