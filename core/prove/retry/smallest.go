// This file leaves of several rights those that are needed, by trying.

package retry

import (
	"context"
	"time"

	"hollowkey/core/fix"
	"hollowkey/core/machine/twin"
	"hollowkey/core/step"
	"hollowkey/core/why/verdict"
)

// mostGrants is how many rights of one remedy are tried one by one; a setup
// needs them for SYSTEM, the user and seldom a service's account.
const mostGrants = 4

// Smallest leaves of several rights, which all are lacking, those that the
// setup needs: each is rehearsed alone on a copy of the twin, and where one
// alone mends it the others are not given. Other steps come back as they are.
func Smallest(ctx context.Context, t *twin.Twin, steps []step.Model, v *verdict.Verdict, inForce []fix.Item,
	now func() time.Time) []step.Model {
	if len(steps) < 2 || len(steps) > mostGrants || v.Package == "" || startable(v.Package) {
		return steps
	}
	for _, s := range steps {
		if s["grant"] == nil {
			return steps
		}
	}
	for _, s := range steps {
		one := []step.Model{s}
		p, err := fix.Draft(t, "one right alone", one)
		if err != nil {
			continue
		}
		if res, err := Trial(ctx, t, p, v, inForce, now); err == nil && res.Change == Gone {
			return one
		}
	}
	return steps
}
