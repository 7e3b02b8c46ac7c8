// This file sets old logs aside before the next run.

package logging

import (
	"fmt"
	"slices"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/logs/finder"
	"hollowkey/core/machine"
	"hollowkey/core/step"
	"hollowkey/core/why"
)

// Fresh drafts the plan that sets old logs aside, so that the next run leaves
// only new ones. The OS's own logs stay: other programs write into them. So do
// those that a person put aside. left tells what stays and why.
func Fresh(m machine.Machine, found []why.Found) (p fix.Plan, left []string, err error) {
	var steps []step.Model
	os, own := 0, 0
	// What somebody has put on a desktop is kept on purpose.
	people := finder.PutAside(why.Homes(m))
	for _, f := range found {
		low := strings.ToLower(f.Path)
		if strings.HasPrefix(low, `c:\windows\`) && !strings.Contains(low, `\temp\`) ||
			strings.HasPrefix(low, `c:\programdata\microsoft\`) || strings.HasPrefix(low, `c:\$windows`) {
			os++
			continue
		}
		if slices.Contains(people, low[:strings.LastIndexByte(low, '\\')]) {
			own++
			continue
		}
		s := step.New("quarantine", "path", f.Path)
		if _, err := fix.DraftNamed(m, "fresh", s); err != nil {
			why, _, _ := strings.Cut(err.Error(), "\n")
			left = append(left, fmt.Sprintf("%s stays: %s", f.Path, why))
			continue
		}
		steps = append(steps, s)
	}
	if os > 0 {
		left = append(left, fmt.Sprintf("%d of the OS's own stay: other programs write into them, too", os))
	}
	if own > 0 {
		left = append(left, fmt.Sprintf("%d in users' own folders (desktop, documents, downloads) stay: somebody may have kept them", own))
	}
	p, err = fix.DraftNamed(m, "set old logs aside", steps...)
	return p, left, err
}
