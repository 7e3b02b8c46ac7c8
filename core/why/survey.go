package why

import (
	"context"
	"io"
	"slices"
	"strings"
	"time"

	"hollowkey/core/logs/finder"
	"hollowkey/core/logs/story"
	"hollowkey/core/machine"
	"hollowkey/core/why/verdict"
)

// maxSurveyed is how large a log may be to be read in a survey, in bytes; a
// larger one is listed. A list of logs is to come back within seconds.
const maxSurveyed = 64 << 20

// A Found log is a file of a machine that is a setup log, with how it ended.
type Found struct {
	Path     string        `json:"path"`              // on the machine
	Time     time.Time     `json:"time"`              // of the last change
	Size     int64         `json:"size"`              // bytes
	Dialect  story.Dialect `json:"dialect"`           // "?" where it was not read
	Product  string        `json:"product,omitempty"` // empty where the log does not tell
	Outcome  story.Outcome `json:"outcome"`           // unknown where it was not read
	ExitCode *int          `json:"exit_code"`         // nil where the log does not tell
	Cause    string        `json:"cause,omitempty"`   // its class, or why there is none
}

// Survey finds the logs on a machine's disk, in the known places or in those
// that are given, newest first, and judges each as Ask would. Files that cannot
// be read are passed over.
func Survey(ctx context.Context, disk finder.Disk, given []string, q Question) ([]Found, error) {
	opt, err := q.options()
	if err != nil {
		return nil, err
	}
	var found []Found
	for _, f := range finder.Find(disk, given, Homes(q.Machine)) {
		if err := ctx.Err(); err != nil {
			return found, err
		}
		if l, ok := look(ctx, disk, f, opt); ok {
			found = append(found, l)
		}
	}
	return found, nil
}

// Temporary are the temporary folders of a machine and its users, where their
// variables really point; m may be nil.
func Temporary(m machine.Machine) (folders []string) {
	if m == nil {
		return nil
	}
	add := func(v, user string) {
		v = machine.Expand(m, v, user)
		if _, _, err := machine.SplitPath(v); err == nil && !strings.Contains(v, "%") && !slices.Contains(folders, v) {
			folders = append(folders, strings.TrimRight(v, `\`))
		}
	}
	users, _ := m.UserNames()
	for name, v := range m.Facts().Environment {
		if !strings.EqualFold(name, "TEMP") && !strings.EqualFold(name, "TMP") {
			continue
		}
		add(v, "")
		for _, u := range users {
			add(v, u)
		}
	}
	for _, u := range users {
		a, err := m.Account(u)
		if err != nil {
			continue
		}
		for _, name := range []string{"TEMP", "TMP"} {
			if v, err := m.Value(`HKEY_USERS\`+string(a.SID)+`\Environment`, name); err == nil {
				add(v.Words(), u)
			}
		}
	}
	return folders
}

// Homes are where a machine's users and temporary files lie; m may be nil.
func Homes(m machine.Machine) (h finder.Homes) {
	if m == nil {
		return h
	}
	h.Temporary = Temporary(m)
	users, _ := m.UserNames()
	for _, u := range users {
		if a, err := m.Account(u); err == nil && a.Profile != "" {
			h.Profiles = append(h.Profiles, strings.TrimRight(a.Profile, `\`))
		}
	}
	for _, d := range m.Facts().Drives {
		if d.Kind == "fixed" {
			h.Drives = append(h.Drives, strings.ToUpper(d.Letter))
		}
	}
	return h
}

// look judges one file; ok is false when it is no setup log.
func look(ctx context.Context, disk finder.Disk, f finder.File, opt verdict.Options) (out Found, ok bool) {
	out = Found{Path: f.Path, Time: f.Time, Size: f.Size, Outcome: story.Unknown}
	if f.Size > maxSurveyed {
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

// DiskOf lets a machine's disk be surveyed.
func DiskOf(m machine.Files) finder.Disk { return disk{m} }

type disk struct{ m machine.Files } // whose files are read

// Open opens a file.
func (d disk) Open(path string) (io.ReadCloser, error) { return d.m.Open(path) }

// ReadDir lists a folder.
func (d disk) ReadDir(path string) (files []finder.File, err error) {
	list, err := d.m.ReadDir(path)
	for _, i := range list {
		files = append(files, finder.File{Path: i.Path, Folder: i.Folder, Size: i.Size, Time: i.Time})
	}
	return files, err
}
