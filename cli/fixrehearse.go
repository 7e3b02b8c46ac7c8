package cli

import (
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"

	"hollowkey/core/fix"
	"hollowkey/core/machine"
	"hollowkey/core/machine/twin"
	"hollowkey/core/prove/rehearse"
	"hollowkey/core/prove/retry"
)

// fixRehearse applies a plan to a copy of the twin, rehearses the set-up there,
// and tells what would become of the failure. The twin is not touched.
func (a *app) fixRehearse(ctx context.Context, m machine.Machine, res fixResult) error {
	t, ok := m.(*twin.Twin)
	if !ok {
		return wrongCall("--rehearse needs a twin\nhint: hollowkey capture takes one of this machine")
	}
	if res.Verdict == nil || res.Verdict.Package == "" {
		return errors.New("which package is meant is not known\nhint: name the log of a set-up that ran a package")
	}
	if !a.json {
		if err := planText(a.out, a.style, *res.Plan, m); err != nil {
			return err
		}
	}
	copied, done, err := rehearse.Scratch(t.Folder())
	if err != nil {
		return err
	}
	defer done()
	temp, err := os.MkdirTemp("", "hollowkey-case-*")
	if err != nil {
		return err
	}
	defer os.RemoveAll(temp)
	j, err := fix.OpenJournal(temp, a.now)
	if err != nil {
		return err
	}
	if err := res.Plan.Apply(copied, j); err != nil {
		return err
	}
	req := retry.Request{Dir: temp, Package: res.Verdict.Package, Now: a.now()}
	if _, err := m.Account(res.Verdict.User); err == nil {
		req.User = res.Verdict.User
	}
	for _, i := range slices.Concat(j.InForce(m.Name()), a.inForce(m)) {
		if i.Step.Kind == "command" && strings.EqualFold(i.Step.Args["package"], req.Package) {
			req.Properties = append(req.Properties, strings.FieldsFunc(i.Step.Args["properties"], func(r rune) bool { return r == '\n' })...)
			req.Transforms = append(req.Transforms, strings.FieldsFunc(i.Step.Args["transforms"], func(r rune) bool { return r == ';' })...)
		}
	}
	attempt, err := retry.Run(ctx, copied, req)
	if err != nil {
		return err
	}
	v, err := a.verdict(ctx, []string{attempt.LogPath(temp)}, whyOptions{encoding: detectEncoding}, nil)
	if err != nil {
		return err
	}
	res.Change = retry.Compare(res.Verdict, v, a.orderOf(m, req.Package))
	if !a.json {
		fmt.Fprintf(a.out, "\n%s %s\n", a.style.bold("Rehearsed on a copy:"), strings.Join(wrap(sentence(retry.Words(res.Change, res.Verdict, v)), a.style.Width, 2, true), "\n"))
		for _, x := range attempt.Assumed {
			fmt.Fprintf(a.out, "Assumed: %s\n", clean(x))
		}
		fmt.Fprintln(a.out, "The twin has not been changed.")
	}
	if err := a.fixEnd(res, nil); err != nil {
		return err
	}
	if !v.Worked() {
		return errNo
	}
	return nil
}

// inForce are the changes in force on the machine, by its own journal.
func (a *app) inForce(m machine.Machine) []fix.Item {
	j, err := fix.OpenJournal(a.caseFolder(), a.now)
	if err != nil {
		return nil
	}
	return j.InForce(m.Name())
}
