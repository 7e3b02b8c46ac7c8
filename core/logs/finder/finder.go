// Package finder finds the logs of setups on a machine: where the OS and
// setups are known to leave them, newest first. What each one is and how it ended,
// core/why says.
package finder

import (
	"io"
	"path"
	"slices"
	"strings"
	"time"

	"hollowkey/core/logs/lazy"
)

// Limits of a search.
const (
	maxFound    = 500  // files; older ones are of setups that nobody asks about
	maxPerPlace = 4000 // entries of one folder: a temporary folder that nobody clears has thousands
	givenDepth  = 3    // levels below a folder that was named
	maxFolders  = 6000 // of programs' data, over all users: some programs keep tens of thousands of small files
	vendorDepth = 6    // levels below a place of programs' data: vendor, product, version, logs
	freeDepth   = 2    // of them that may have any name: vendor and product
)

// A File is one entry of a folder, as a disk lists it.
type File struct {
	Path   string    // as the machine writes it
	Folder bool      // true: a folder, whose size says nothing
	Size   int64     // bytes
	Time   time.Time // of its last change
}

// Disk is what a search needs of a machine; paths are the machine's own.
type Disk interface {
	ReadDir(path string) ([]File, error)
	Open(path string) (io.ReadCloser, error)
}

// A place is a folder where logs lie.
type place struct {
	pattern string // with * for any one folder
	depth   int    // levels below it that are looked into
}

// places are the folders in which the OS and setups leave logs. Source: the
// OS's documentation of each.
var places = []place{
	{`C:\Users\*\AppData\Local\Temp`, 1},
	{`C:\Windows\Temp`, 1},
	{`C:\Windows\Logs\CBS`, 0},
	{`C:\Windows\Logs\DISM`, 0},
	{`C:\Windows\inf`, 0},
	{`C:\Windows\Panther`, 0},
	{`C:\Windows\Logs\MoSetup`, 0},
	{`C:\Windows\Installer`, 0},
	{`C:\Deploy`, 1},
	{`C:\Windows\CCM\Logs`, 0},
}

// programData are the folders in which programs of all vendors keep what is theirs.
var programData = []string{`C:\Users\*\AppData\Local`, `C:\Users\*\AppData\Roaming`, `C:\Users\*\AppData\LocalLow`, `C:\ProgramData`}

var (
	// deeper are folders that are gone into at any level: of logs and setups, and by version.
	deeper = lazy.MustCompile(`(?i)log|setup|install|update|deploy|diag|trace|^v?\d+([._-]\d+)*[a-z]?$`)
	// passedOver are folders of programs' data that hold no setup logs, or are looked at apart.
	passedOver = lazy.MustCompile(`(?i)^(?:temp|microsoft|packages|cache|caches|code cache|gpucache|crash ?pad|crash ?dumps|history|inetcache|application data|package cache|service ?worker|webcache|` +
		`fonts|comms|connecteddevicesplatform|d3dscache|publishers|virtualstore|hollow key)$`)
	// Endings and names under which setups keep logs; a rotated log ends in a number.
	logName = lazy.MustCompile(`(?i)(?:\.(?:log|txt|etl\.txt|out|xml|csv|json|ndjson)$|\.log\.\d+$|^msi[0-9a-f]{4,6}\.log$|setup|install|\.iss$)`)
	// Endings that are never a log, however much their name speaks of setup.
	noLog = lazy.MustCompile(`(?i)\.(?:exe|dll|msi|msp|cab|zip|tmp|dat|ini|png|ico|pnf|inf|cat|sys|manifest)$`)
	// Texts that lie beside every setup and tell nothing of a run.
	skipName = lazy.MustCompile(`(?i)^(?:readme|licen[cs]e|eula|notice)`)
)

// Find looks through the known places, or those that are given, for files that
// look like logs, newest first. Folders that cannot be read are passed over. Beside the
// known places it looks into also, such as where TEMP of a user really points.
func Find(disk Disk, given []string, also ...string) []File {
	where := slices.Clone(places)
	for _, a := range also {
		where = append(where, place{a, 1})
	}
	if len(given) > 0 {
		where = nil
		for _, g := range given {
			where = append(where, place{g, givenDepth})
		}
	}
	var files []File
	for _, p := range where {
		for _, folder := range expand(disk, p.pattern) {
			files = append(files, list(disk, folder, p.depth)...)
		}
	}
	if len(given) == 0 {
		left := maxFolders
		for _, pattern := range programData {
			for _, folder := range expand(disk, pattern) {
				files = append(files, vendors(disk, folder, 0, &left)...)
			}
		}
	}
	slices.SortStableFunc(files, func(a, b File) int { return b.Time.Compare(a.Time) })
	seen := map[string]bool{}
	files = slices.DeleteFunc(files, func(f File) bool {
		low := strings.ToLower(f.Path)
		was := seen[low]
		seen[low] = true
		return was
	})
	return files[:min(len(files), maxFound)]
}

// expand puts the folders that are there in place of each star.
func expand(disk Disk, pattern string) []string {
	head, tail, star := strings.Cut(pattern, `\*`)
	if !star {
		return []string{pattern}
	}
	entries, err := disk.ReadDir(head)
	if err != nil {
		return nil
	}
	var out []string
	for _, e := range entries {
		if e.Folder {
			out = append(out, expand(disk, e.Path+tail)...)
		}
	}
	return out
}

// vendors looks below a place of programs' data: at all vendors and products, and
// further down where folders are named after logs, setups or versions.
func vendors(disk Disk, folder string, level int, left *int) (files []File) {
	if *left--; *left < 0 || level > vendorDepth {
		return nil
	}
	entries, err := disk.ReadDir(folder)
	if err != nil {
		return nil
	}
	for _, e := range entries[:min(len(entries), maxPerPlace)] {
		name := path.Base(strings.ReplaceAll(e.Path, `\`, "/"))
		switch {
		case !e.Folder:
			if level > 0 && isLog(name, e) {
				files = append(files, e)
			}
		case passedOver.MatchString(name):
		case level < freeDepth, deeper.MatchString(name):
			files = append(files, vendors(disk, e.Path, level+1, left)...)
		}
	}
	return files
}

// isLog says whether a file looks like a log.
func isLog(name string, f File) bool {
	return f.Size > 0 && logName.MatchString(name) && !noLog.MatchString(name) && !skipName.MatchString(name)
}

// list looks at a folder and those below it. A folder that cannot be read is passed
// over: others hold logs, too.
func list(disk Disk, folder string, depth int) (files []File) {
	entries, err := disk.ReadDir(folder)
	if err != nil {
		return nil
	}
	for _, e := range entries[:min(len(entries), maxPerPlace)] {
		name := path.Base(strings.ReplaceAll(e.Path, `\`, "/"))
		switch {
		case e.Folder && depth > 0:
			files = append(files, list(disk, e.Path, depth-1)...)
		case !e.Folder && isLog(name, e):
			files = append(files, e)
		}
	}
	return files
}
