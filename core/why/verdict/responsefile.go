// This file goes from a silent setup's result file to the logs beside it.

package verdict

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/step"
	"hollowkey/core/why/signs"
)

// The result file of a silent setup holds a number and nothing else. What was
// recorded, and which file it was recorded in, stands in the log of whoever
// called the setup, or nowhere.

// targetFailed is the number with which a silent setup tells that it could not
// make its target folder; the others of its number say that the recorded
// answers do not fit.
const targetFailed = -51

var (
	// A recorded answer file, with the folder before it where the line has one.
	responseName = lazy.MustCompile(`(?i)(?:[A-Za-z]:\\|\\\\)?[^\s"'<>|*?=,;:]*\.iss\b`)
	// The folder that the answers set: some writers use the one name, some the
	// other.
	targetFolder = lazy.MustCompile(`(?i)\b(?:szDir|TARGETDIR|INSTALLDIR)\s?=\s?"?([A-Za-z]:\\[^"<>|*?\r\n]*[^"<>|*?\r\n\s\\])`)
)

// fromCaller takes for a silent setup's verdict what the logs beside its result
// file name: the response file, and the target folder that it holds. A target
// on a drive that nothing else in these logs speaks of is a wrong path rather
// than a missing right.
func (v *Verdict) fromCaller(all []judged) {
	s := v.Cause.Subject
	if s == nil || v.ExitCode == nil || len(all) == 0 || all[0].Dialect != story.Response {
		return
	}
	// The number only says that a folder could not be made; which one, the
	// response file says.
	if *v.ExitCode == targetFailed {
		folder := firstIn(all, targetFolder, 1)
		if folder == "" {
			return
		}
		v.Cause.Subject = &signs.Subject{Kind: "folder", Name: folder}
		// Nothing speaks of a drive that is full or read-only: the path itself
		// is wrong.
		if !speaksOfDrive(all, folder) {
			v.Cause.Class = new("path")
			v.Cause.Summary = fmt.Sprintf("the silent setup ended with %d: it could not make %s, which its response file holds; nothing else here "+
				"speaks of a drive %s", targetFailed, folder, folder[:2])
			slices.SortStableFunc(v.Remedies, func(a, b step.Remedy) int { // the path before the right
				switch {
				case a.Class == b.Class:
					return 0
				case a.Class == "environment":
					return -1
				}
				return 1
			})
		}
		return
	}
	if name := firstIn(all, responseName, 0); name != "" && s.Kind == "file" {
		v.Cause.Subject = &signs.Subject{Kind: "file", Name: name}
	}
}

// firstIn is what an expression finds first in the lines of some logs.
func firstIn(all []judged, x *lazy.Regexp, group int) string {
	for _, j := range all {
		for _, a := range j.Attempts {
			for _, m := range a.Messages {
				if f := x.FindStringSubmatch(m.Text); f != nil {
					return f[group]
				}
			}
		}
	}
	return ""
}

// speaksOfDrive says whether any line but those that hold the folder itself,
// and typed commands, names its drive.
func speaksOfDrive(all []judged, folder string) bool {
	for _, j := range all {
		for _, a := range j.Attempts {
			for _, m := range a.Messages {
				if m.Kind != story.KindData && strings.Contains(strings.ReplaceAll(m.Text, folder, ""), folder[:2]) {
					return true
				}
			}
		}
	}
	return false
}
