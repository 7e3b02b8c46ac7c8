// Package finder finds the logs of setups on a machine: where the OS and setups
// are known to leave them, newest first. What each one is and how it ended,
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
	maxFolders  = 6000 // of each kind of place, over all users: some programs keep tens of thousands of small files
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

// Homes are where a machine's own places lie, as far as it tells.
type Homes struct {
	Temporary []string // folders for temporary files, where the variables of each user really point
	Profiles  []string // users' folders
	Drives    []string // fixed drives, as C:
}

// A place is a folder where logs lie.
type place struct {
	pattern string // with * for any one folder
	depth   int    // levels below it that are looked into
}

// places are the folders in which the OS and setups leave logs. Source: the
// OS's documentation of each.
var places = []place{
	{`C:\Windows\Temp`, 2},
	{`C:\Windows\Logs`, 2},
	{`C:\Windows\inf`, 0},
	{`C:\Windows\Panther`, 1},
	{`C:\$WINDOWS.~BT\Sources\Panther`, 1},
	{`C:\Windows\Debug`, 0},
	{`C:\Windows\SoftwareDistribution`, 0},
	{`C:\Windows\Installer`, 0},
	{`C:\Windows\CCM\Logs`, 0},
	{`C:\Windows\ccmsetup\Logs`, 0},
	{`C:\ProgramData\Microsoft\IntuneManagementExtension\Logs`, 0},
}

// Below a user's folder: where temporary files, programs' data, and what people
// put aside lie.
const usualTemp = `\AppData\Local\Temp`

var (
	userData = []string{`\AppData\Local`, `\AppData\Roaming`, `\AppData\LocalLow`}
	putAside = []string{``, `\Desktop`, `\Downloads`, `\Documents`}

	// programFolders hold programs with what their setups leave beside them.
	programFolders = []string{`C:\Program Files`, `C:\Program Files (x86)`, `C:\Program Files\Common Files`, `C:\Program Files (x86)\Common Files`}

	// notSearched are folders of a drive's root that are looked at apart, or
	// hold no setup's log.
	notSearched = []string{"windows", "program files", "program files (x86)", "programdata", "users", "perflogs", "recovery",
		"system volume information", "msocache", "boot", "documents and settings", "windows.old"}
)

var (
	// deeper are folders that are gone into at any level: of logs and setups,
	// and by version.
	deeper = lazy.MustCompile(`(?i)log|setup|install|update|deploy|diag|trace|^v?\d+([._-]\d+)*[a-z]?$`)
	// passedOver are folders of programs' data that hold no setup logs, or are
	// looked at apart.
	passedOver = lazy.MustCompile(`(?i)^(?:temp|microsoft|packages|cache|caches|code cache|gpucache|crash ?pad|crash ?dumps|history|inetcache|application data|package cache|service ?worker|webcache|` +
		`fonts|comms|connecteddevicesplatform|d3dscache|publishers|virtualstore|hollow key|windowsapps|windows [a-z ]+|common files|node_modules|\$.*)$`)
	// Endings and names under which setups keep logs; a rotated log ends in a
	// number, a date or a word for old.
	logName = lazy.MustCompile(`(?i)(?:\.(?:log|txt|etl\.txt|out|err|xml|csv|tsv|json|jsonl|ndjson|html?|trace)$|\.log[._~-]|^msi[0-9a-f]{4,6}\.log$|setup|install|\.iss$)`)
	// clearName is that of a log among files of all sorts: it ends as logs do,
	// or speaks of a setup and ends as text.
	clearName = lazy.MustCompile(`(?i)(?:\.log$|\.log[._~-]|(?:setup|install|update|deploy|msi|log)[^\\]*\.(?:txt|out|err|xml|csv|jsonl?|ndjson|html?)$)`)
	// Endings that are never a log, however much their name speaks of setup.
	noLog = lazy.MustCompile(`(?i)\.(?:exe|dll|msi|msp|cab|zip|tmp|dat|ini|png|ico|pnf|inf|cat|sys|manifest|js|css|py|ps1|cmd|bat|lnk|url|pdf|chm)$`)
	// Texts that lie beside every setup and tell nothing of a run.
	skipName = lazy.MustCompile(`(?i)^(?:readme|licen[cs]e|eula|notice|change ?log|release ?notes|third ?party)`)
)

// Find looks through the known places, or those that are given, for files that
// look like logs, newest first. Folders that cannot be read are passed over.
func Find(disk Disk, given []string, homes Homes) []File {
	var files []File
	if len(given) > 0 {
		for _, folder := range given {
			files = append(files, list(disk, folder, givenDepth)...)
		}
	} else {
		files = known(disk, homes)
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

// PutAside are the folders, in small letters, where people put things aside.
func PutAside(homes Homes) (folders []string) {
	for _, p := range homes.Profiles {
		for _, below := range putAside {
			folders = append(folders, strings.ToLower(p+below))
		}
	}
	return append(folders, `c:\users\public\documents`, `c:\users\public\desktop`, `c:\users\public\downloads`)
}

// known looks through the known places of a machine.
func known(disk Disk, homes Homes) (files []File) {
	profiles := expand(disk, `C:\Users\*`)
	for _, p := range homes.Profiles {
		if !strings.HasPrefix(strings.ToLower(p), `c:\users\`) {
			profiles = append(profiles, p)
		}
	}
	where := slices.Clone(places)
	data := []string{`C:\ProgramData`, `C:\Users\Public\Documents`}
	for _, t := range homes.Temporary {
		where = append(where, place{t, 2})
	}
	for _, p := range profiles {
		where = append(where, place{p + usualTemp, 2})
		for _, below := range userData {
			data = append(data, p+below)
		}
	}
	for _, p := range where {
		for _, folder := range expand(disk, p.pattern) {
			files = append(files, list(disk, folder, p.depth)...)
		}
	}
	left := maxFolders
	for _, folder := range data {
		files = append(files, vendors(disk, folder, 0, &left)...)
	}
	return append(files, among(disk, profiles, homes.Drives)...)
}

// among looks where files of all sorts lie, for those alone whose name is
// clearly a log's: beside programs, at the roots of drives, and where people
// put things aside.
func among(disk Disk, profiles, drives []string) (files []File) {
	left := maxFolders
	for _, folder := range programFolders {
		files = append(files, vendors(disk, folder, 0, &left)...)
	}
	if !slices.Contains(drives, "C:") {
		drives = append([]string{"C:"}, drives...)
	}
	for _, d := range drives {
		files = append(files, list(disk, d+`\`, 0)...)
		entries, err := disk.ReadDir(d + `\`)
		if err != nil {
			continue
		}
		for _, e := range entries {
			name := strings.ToLower(base(e.Path))
			if e.Folder && !slices.Contains(notSearched, name) && !strings.HasPrefix(name, "$") {
				files = append(files, vendors(disk, e.Path, 1, &left)...)
			}
		}
	}
	files = append(files, list(disk, `C:\Windows`, 0)...)
	for _, p := range profiles {
		for _, below := range putAside {
			files = append(files, list(disk, p+below, 0)...)
		}
	}
	return slices.DeleteFunc(files, func(f File) bool { return !clearName.MatchString(base(f.Path)) })
}

// base is the last part of a path.
func base(p string) string { return path.Base(strings.ReplaceAll(p, `\`, "/")) }

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

// vendors looks below a place of programs' data: at all vendors and products,
// and further down where folders are named after logs, setups or versions.
func vendors(disk Disk, folder string, level int, left *int) (files []File) {
	if *left--; *left < 0 || level > vendorDepth {
		return nil
	}
	entries, err := disk.ReadDir(folder)
	if err != nil {
		return nil
	}
	for _, e := range entries[:min(len(entries), maxPerPlace)] {
		name := base(e.Path)
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

// list looks at a folder and those below it. A folder that cannot be read is
// passed over: others hold logs, too.
func list(disk Disk, folder string, depth int) (files []File) {
	entries, err := disk.ReadDir(folder)
	if err != nil {
		return nil
	}
	for _, e := range entries[:min(len(entries), maxPerPlace)] {
		name := base(e.Path)
		switch {
		case e.Folder && depth > 0:
			files = append(files, list(disk, e.Path, depth-1)...)
		case !e.Folder && isLog(name, e):
			files = append(files, e)
		}
	}
	return files
}
