package logging

import (
	"fmt"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/step"
	"hollowkey/core/why"
)

// Fresh drafts the plan that sets old logs aside, so that the next run leaves only new
// ones. The OS's own logs stay: other programs write into them. left tells what stays and
// why.
func Fresh(m machine.Machine, found []why.Found) (p fix.Plan, left []string, err error) {
	var steps []step.Model
	os := 0
	for _, f := range found {
		if low := strings.ToLower(f.Path); strings.HasPrefix(low, `c:\windows\`) && !strings.Contains(low, `\temp\`) {
			os++
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
	p, err = fix.DraftNamed(m, "set old logs aside", steps...)
	return p, left, err
}
