// This file adds a way past a folder that cannot be made: the same setup with
// its folders elsewhere.

package gatefix

import (
	"slices"
	"strings"

	"hollowkey/core/logs/story"
	"hollowkey/core/machine"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
	"hollowkey/core/step"
	"hollowkey/core/why/verdict"
)

// mostFolders is how many folders one call names; a package with more has them
// below these.
const mostFolders = 6

// systemDrive is where the OS lies on nearly every machine.
const systemDrive = "C:"

// Elsewhere adds a call in which the package's folders lie where the machine
// can make them, for a verdict that a folder cannot be made and that nothing
// else fixes: where somebody named the folder, the package's own; on a drive
// that is gone, the same folder on the drive of the OS. a is the attempt that
// failed, nil without a log.
func Elsewhere(v *verdict.Verdict, db *installdb.Database, a *story.Attempt, m machine.Machine) {
	if v.Cause.Class == nil || *v.Cause.Class != "path" || v.Cause.Subject == nil || v.Package == "" ||
		slices.ContainsFunc(v.Remedies, func(r step.Remedy) bool { return len(r.Steps) > 0 }) {
		return
	}
	c := call{v, m}
	moved := c.moved(db, a)
	if len(moved) == 0 {
		return
	}
	args := c.command(c.base(), "", "")["command"]
	given := slices.DeleteFunc(slices.Clone(v.Given), func(o string) bool {
		name, _, _ := strings.Cut(o, "=")
		return slices.ContainsFunc(moved, func(p string) bool { return strings.HasPrefix(p, name+"=") })
	})
	args["properties"] = strings.Join(append(given, moved...), "\n")
	_, folder, _ := strings.Cut(moved[0], "=")
	v.Remedies = slices.Insert(v.Remedies, 0, step.Remedy{Class: "command-line", Title: "let the setup use " + folder, Target: v.Package,
		Undo: "delete the command file", Steps: []step.Model{{"command": args}}})
}

// moved are the package's public directories that lie where they cannot be
// made, as properties that place them elsewhere; the folder above first.
func (c call) moved(db *installdb.Database, a *story.Attempt) (given []string) {
	list, err := db.TableOrEmpty("Directory")
	if err != nil {
		return nil
	}
	known := map[string]string{}
	if a != nil {
		for name, p := range a.Properties {
			known[name] = p.Value
		}
	}
	for _, p := range c.v.Given {
		name, value, _ := strings.Cut(p, "=")
		known[name] = value
	}
	as, own := gates.NewWorld(db, c.m, known), gates.NewWorld(db, c.m, nil)
	for _, row := range list.Rows {
		key := list.Get(row, "Directory").Text
		path, ok := as.Folder(key)
		if !ok || !isPublic(key) || key == "TARGETDIR" || !c.bad(path) || len(given) == mostFolders {
			continue
		}
		place, ok := own.Folder(key)
		if ok && c.bad(place) && len(place) > len(systemDrive) && c.m.Facts().HasDrive(systemDrive) {
			place = systemDrive + place[len(systemDrive):]
		}
		if ok && !c.bad(place) && len(place) > len(systemDrive+`\`) {
			given = append(given, key+"="+strings.TrimRight(place, `\`)+`\`)
		}
	}
	slices.SortStableFunc(given, func(a, b string) int { return len(a) - len(b) })
	return given
}

// bad says whether a folder is where the verdict says that none can be made: on
// a drive that is gone, or at or below a file.
func (c call) bad(path string) bool {
	drive, _, err := machine.SplitPath(path)
	if err != nil {
		return true
	}
	if facts := c.m.Facts(); len(facts.Drives) > 0 && !facts.HasDrive(drive+":") {
		return true
	}
	file, err := c.m.Stat(c.v.Cause.Subject.Name)
	return err == nil && !file.Folder && below(path, c.v.Cause.Subject.Name)
}

// isPublic says whether a property may be given in a call: it has no small
// letters. Source: the platform SDK, "Public Properties".
func isPublic(name string) bool { return name != "" && name == strings.ToUpper(name) }

// below says whether a path is a folder or lies in it.
func below(path, folder string) bool {
	path, folder = strings.ToLower(strings.TrimRight(path, `\`)), strings.ToLower(strings.TrimRight(folder, `\`))
	return folder != "" && (path == folder || strings.HasPrefix(path, folder+`\`))
}
