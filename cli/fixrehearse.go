// This file tries a plan on a copy of a twin, and says what would become of the
// failure.

package cli

import (
	"context"
	"fmt"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/machine/twin"
	"hollowkey/core/prove/retry"
)

// fixRehearse shows a plan, tries it on a copy of the twin, and tells what
// would become of the failure. The twin is not touched.
func (a *app) fixRehearse(ctx context.Context, m machine.Machine, res fixResult) error {
	t, ok := m.(*twin.Twin)
	if !ok {
		return wrongCall("--rehearse needs a twin\nhint: to take one of this machine: hollowkey capture TWIN --machine live")
	}
	if !a.json {
		if err := planText(a.out, a.style, *res.Plan, m); err != nil {
			return err
		}
	}
	tried, err := retry.Trial(ctx, t, *res.Plan, res.Verdict, a.inForce(m), a.now)
	if err != nil {
		return err
	}
	res.Change = tried.Change
	if !a.json {
		words := strings.Join(wrap(sentence(tried.Words), a.style.Width, 2, true), "\n")
		fmt.Fprintf(a.out, "\n%s %s\n", a.style.bold("Rehearsed on a copy:"), words)
		for _, x := range tried.Attempt.Assumed {
			fmt.Fprintf(a.out, "Assumed: %s\n", clean(x))
		}
		fmt.Fprintln(a.out, "The twin has not been changed.")
	}
	if err := a.fixEnd(res, nil); err != nil {
		return err
	}
	if !tried.Attempt.Verdict.Worked() {
		return errNo
	}
	return nil
}

// inForce are the changes in force on the machine, by its own journal.
func (a *app) inForce(m machine.Machine) []fix.Item {
	j, err := a.readJournal()
	if err != nil {
		return nil
	}
	return j.InForce(m.Name())
}
