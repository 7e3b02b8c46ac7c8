// This file has the script of changes, each with the way back.

package rehearse

import (
	"cmp"
	"errors"
	"maps"
	"slices"
)

// An op is one change of the script: done in its turn, rolled back in a
// rollback.
type op struct {
	action string       // which adds it
	line   string       // as the log shows it
	info   string       // the data line before it; may be empty
	do     func() error // does it
	back   func() error // undoes it; nil where nothing is to be rolled back
}

// add puts an op into the script.
func (s *session) add(o op) { s.script = append(s.script, o) }

// execute carries the script out.
func (s *session) execute() error {
	if len(s.script) == 0 {
		return nil
	}
	s.log.server(`Running Script: C:\Windows\Installer\MSI5E21.tmp`)
	s.log.op("Header(Signature=1397708873,Version=500,ScriptType=1,ScriptAttributes=1)")
	s.log.op("ProductInfo(ProductKey=%s,ProductName=%s,PackageName=setup.msi,Language=1033,Assignment=1,ObsoleteArg=0)", s.res.Code,
		s.res.Product)
	action := ""
	// Each change is announced before it is made and noted when it is done:
	// what is noted is what a rollback takes back.
	for _, o := range s.script {
		if o.action != action {
			action = o.action
			s.start(action)
		}
		if o.info != "" {
			s.log.raw("%s: %s", o.action, o.info)
		}
		if o.line != "" {
			s.log.op("%s", o.line)
		}
		err := o.do()
		var no *stop
		if errors.As(err, &no) {
			s.res.Failed = o.action
			s.complain(no)
			return err
		}
		if err != nil {
			return err
		}
		s.done = append(s.done, o)
	}
	s.script = nil
	s.log.op("End(Checksum=0,ProgressTotalHDWord=0,ProgressTotalLDWord=0)")
	return nil
}

// start announces an action in the log and in the script, both of which readers
// follow.
func (s *session) start(action string) {
	s.log.raw("Action %s: %s. %s", s.log.clock(), action, descriptions[action])
	s.log.op("ActionStart(Name=%s,Description=%s,)", action, descriptions[action])
}

// rollBack takes the script's changes back, the newest first. What cannot be
// rolled back is skipped, as the engine does.
func (s *session) rollBack() {
	if len(s.done) == 0 {
		return
	}
	s.log.op("Header(Signature=1397708873,Version=500,ScriptType=2,ScriptAttributes=1)")
	s.log.raw("Action %s: Rollback. Rolling back action:", s.log.clock())
	action := ""
	for _, o := range slices.Backward(s.done) {
		if o.action != action {
			action = o.action
			s.log.raw("Rollback: %s", cmp.Or(descriptions[action], action))
			s.log.op("ActionStart(Name=%s,Description=%s,)", action, descriptions[action])
		}
		if o.back == nil {
			continue
		}
		if err := o.back(); err != nil {
			s.log.server("Error in rollback skipped.  Return: 5")
			s.assume("the rollback of %s left something: %v", action, err)
		}
	}
	s.done = nil
	s.log.op("End(Checksum=0,ProgressTotalHDWord=0,ProgressTotalLDWord=0)")
}

// sortedKeys are a map's keys in their order: maps have none, and a log must.
func sortedKeys[V any](m map[string]V) []string { return slices.Sorted(maps.Keys(m)) }
