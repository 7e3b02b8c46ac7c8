// This file asks for room on drives, with one threshold for all who ask.

package checks

import (
	"fmt"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/installdb"
	"hollowkey/core/step"
)

const (
	bytesGiB = 1 << 30 // as people read sizes of drives

	// LeastFree is the free space, in bytes, below which a setup of any size
	// has trouble: it stands on the drive three times for a while, unpacked,
	// cached and in place, and the OS needs about 1 GiB itself for its page
	// file and its updates.
	LeastFree = 2 * bytesGiB

	// copiesOfFiles is how often a package's files stand on the system drive
	// while they are installed: in the cabinet that is cached, and in place.
	copiesOfFiles = 2
)

// space compares the free space of the system drive, and of the drive that the
// temporary folder lies on, with what any setup, the package or the site needs.
func (l *look) space() (all []Finding) {
	// The largest of three counts: what any setup needs, what this one brings,
	// what the site wants.
	need, why := int64(LeastFree), "any setup"
	if size := copiesOfFiles * filesSize(l.opt.Package); size > need {
		need, why = size, "the package"
	}
	if n := l.opt.Needs; n != nil && n.free > need {
		need, why = n.free, "the site"
	}
	system := unknown("free space", "the free space of C: is not known")
	temp := strings.ToUpper(l.temporary())
	for _, d := range l.m.Facts().Drives {
		letter := strings.ToUpper(d.Letter)
		if d.Size <= 0 || letter != "C:" && !strings.HasPrefix(temp, letter) {
			continue
		}
		f := pass("free space", "%s has %.1f GiB free, %s needs %.1f GiB", letter, gib(d.Free), why, gib(need))
		// The system drive comes last in the list, since it is there on every
		// machine.
		if letter != "C:" {
			f.Name, f.Seen = "free space on "+letter, strings.Replace(f.Seen, letter, letter+", where the temporary folder lies,", 1)
		}
		if d.Free < need {
			f.Answer, f.Mend = Stop, "free space on "+letter
		}
		if letter == "C:" {
			system = f
		} else {
			all = append(all, f)
		}
	}
	return append(all, system)
}

// spaceAt asks whether the drive that a path lies on is full. Where it is, old
// files of the user's temporary folder on that drive can give way.
func (l *look) spaceAt(with arguments) Finding {
	const name = "space-at"
	path := with["path"]
	drive, _, err := machine.SplitPath(path)
	if err != nil {
		path, drive = `C:\`, "C"
	}
	// Without a drive in the path it is the system's: that is where setups
	// write.
	for _, d := range l.m.Facts().Drives {
		if !strings.EqualFold(d.Letter, drive+":") || d.Size <= 0 {
			continue
		}
		f := pass(name, "%s has %.1f GiB free", d.Letter, gib(d.Free))
		if d.Free >= LeastFree {
			return f
		}
		f.Answer, f.Seen, f.Mend = Stop, fmt.Sprintf("%s has %.2f GiB free", d.Letter, gib(d.Free)), "free space on "+d.Letter
		if temp := l.temporary(); temp != "" && strings.EqualFold(temp[:2], d.Letter) && l.there(temp) == nil {
			f.Mend = "move files that nobody has changed for a day out of " + temp
			f.Steps = []step.Model{step.New("free-space", "folder", temp)}
		}
		if other := l.roomyDrive(d.Letter); other != "" {
			f.Mend += fmt.Sprintf(`; or give this one run another temporary folder: in the window that starts it type  set TEMP=%s\Temp  and  set TMP=%s\Temp  (make the folder first)`, other, other)
		}
		return f
	}
	return unknown(name, "the free space of %s: is not known", drive)
}

// roomyDrive is another fixed drive that is not short of space; empty without
// one.
func (l *look) roomyDrive(full string) string {
	for _, d := range l.m.Facts().Drives {
		if d.Kind == "fixed" && !strings.EqualFold(d.Letter, full) && d.Free >= LeastFree {
			return strings.ToUpper(d.Letter)
		}
	}
	return ""
}

// gib writes bytes as GiB.
func gib(n int64) float64 { return float64(n) / bytesGiB }

// filesSize is what the files of a package have together, 0 without one.
func filesSize(db *installdb.Database) (sum int64) {
	if db == nil {
		return 0
	}
	t, err := db.TableOrEmpty("File")
	if err != nil {
		return 0
	}
	for _, r := range t.Rows {
		sum += int64(t.Get(r, "FileSize").Int)
	}
	return sum
}

// spaceFor compares the drives other than the system's with what a package puts
// on them.
func (l *look) spaceFor(files map[string]int64) (all []Finding) {
	need := map[string]int64{}
	for path, size := range files {
		need[strings.ToUpper(path[:2])] += size
	}
	for _, d := range l.m.Facts().Drives {
		n, wanted := need[strings.ToUpper(d.Letter)]
		if !wanted || strings.EqualFold(d.Letter, "C:") { // the system's drive has a check of its own
			continue
		}
		f := pass("free space on "+d.Letter, "%s",
			fmt.Sprintf("%s has %.1f GiB free, the package's files have %.1f GiB", d.Letter, gib(d.Free), gib(n)))
		if d.Free < n {
			f.Answer, f.Mend = Stop, "free space on "+d.Letter
		}
		all = append(all, f)
	}
	return all
}
