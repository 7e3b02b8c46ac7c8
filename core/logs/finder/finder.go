// Package finder finds the logs of set-ups on a machine: where the OS and
// set-ups are known to leave them, newest first, with what each one is and how
// it ended.
package finder

import (
	"context"
	"io"
	"path"
	"regexp"
	"slices"
	"strings"
	"time"

	"hollowkey/core/logs/story"
	"hollowkey/core/machine"
	"hollowkey/core/why/verdict"
)

// Limits of a search.
const (
	maxFound    = 500      // files that are looked into
	maxSize     = 64 << 20 // bytes; a larger log is listed, not read
	maxPerPlace = 4000     // entries of one folder
)

// A Found log is a file that is a set-up log.
type Found struct {
	Path     string        `json:"path"`
	Time     time.Time     `json:"time"`
	Size     int64         `json:"size"`
	Dialect  story.Dialect `json:"dialect"`
	Product  string        `json:"product,omitempty"`
	Outcome  story.Outcome `json:"outcome"`
	ExitCode *int          `json:"exit_code"`
	Cause    string        `json:"cause,omitempty"`
}

// Disk is what a search needs of a machine.
type Disk interface {
	ReadDir(path string) ([]machine.FileInfo, error)
	Open(path string) (io.ReadCloser, error)
}

// A place is a folder where logs lie.
type place struct {
	pattern string // with * for any one folder
	depth   int    // levels below it that are looked into
}

// places are the folders in which the OS and set-ups leave logs. Source: the
// OS's documentation of each.
var places = []place{
	{`C:\Users\*\AppData\Local\Temp`, 1},
	{`C:\Windows\Temp`, 1},
	{`C:\Users\*\AppData\Roaming\*\logs`, 0},
	{`C:\Users\*\AppData\Local\*\logs`, 0},
	{`C:\ProgramData\*\logs`, 0},
	{`C:\ProgramData\*\*\logs`, 0},
	{`C:\Windows\Logs\CBS`, 0},
	{`C:\Windows\Logs\DISM`, 0},
	{`C:\Windows\inf`, 0},
	{`C:\Windows\Panther`, 0},
	{`C:\Windows\Logs\MoSetup`, 0},
	{`C:\Windows\Installer`, 0},
	{`C:\Deploy`, 1},
	{`C:\Windows\CCM\Logs`, 0},
}

var (
	logName  = regexp.MustCompile(`(?i)(?:\.(?:log|txt|etl\.txt|out|xml|csv|json|ndjson)$|\.log\.\d+$|^msi[0-9a-f]{4,6}\.log$|setup|install|\.iss$)`)
	noLog    = regexp.MustCompile(`(?i)\.(?:exe|dll|msi|msp|cab|zip|tmp|dat|ini|png|ico|pnf|inf|cat|sys|manifest)$`)
	skipName = regexp.MustCompile(`(?i)^(?:readme|licen[cs]e|eula|notice)`)
)

// Find looks through the known places, or those that are given, and reads what
// looks like a log. Logs come newest first.
func Find(ctx context.Context, disk Disk, given []string, opt verdict.Options) ([]Found, error) {
	where := places
	if len(given) > 0 {
		where = nil
		for _, g := range given {
			where = append(where, place{g, 3})
		}
	}
	var files []machine.FileInfo
	for _, p := range where {
		for _, folder := range expand(disk, p.pattern) {
			files = append(files, list(disk, folder, p.depth)...)
		}
	}
	slices.SortStableFunc(files, func(a, b machine.FileInfo) int { return b.Time.Compare(a.Time) })
	files = slices.CompactFunc(files, func(a, b machine.FileInfo) bool { return strings.EqualFold(a.Path, b.Path) })
	var found []Found
	for _, f := range files[:min(len(files), maxFound)] {
		if err := ctx.Err(); err != nil {
			return found, err
		}
		if l, ok := look(ctx, disk, f, opt); ok {
			found = append(found, l)
		}
	}
	return found, nil
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

func list(disk Disk, folder string, depth int) (files []machine.FileInfo) {
	entries, err := disk.ReadDir(folder)
	if err != nil {
		return nil
	}
	for _, e := range entries[:min(len(entries), maxPerPlace)] {
		name := path.Base(strings.ReplaceAll(e.Path, `\`, "/"))
		switch {
		case e.Folder && depth > 0:
			files = append(files, list(disk, e.Path, depth-1)...)
		case !e.Folder && e.Size > 0 && logName.MatchString(name) && !noLog.MatchString(name) && !skipName.MatchString(name):
			files = append(files, e)
		}
	}
	return files
}

func look(ctx context.Context, disk Disk, f machine.FileInfo, opt verdict.Options) (Found, bool) {
	out := Found{Path: f.Path, Time: f.Time, Size: f.Size, Outcome: story.Unknown}
	if f.Size > maxSize {
		out.Dialect, out.Cause = "?", "too large to be read here; name it to why"
		return out, true
	}
	r, err := disk.Open(f.Path)
	if err != nil {
		return out, false
	}
	defer r.Close()
	v, err := verdict.Reach(ctx, verdict.Input{Name: f.Path, Text: r}, opt)
	if err != nil {
		return out, false
	}
	out.Dialect, out.Outcome, out.ExitCode = v.Logs[0].Dialect, v.Outcome, v.ExitCode
	if v.Product.Name != nil {
		out.Product = *v.Product.Name
	}
	if !v.Worked() && v.Cause.Class != nil {
		out.Cause = *v.Cause.Class
	}
	return out, true
}
