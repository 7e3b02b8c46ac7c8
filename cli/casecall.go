// This file lets a call name a case in the place of a machine and a log. What
// the case knows fills the gaps of the call; what the call says itself goes
// before it.

package cli

import (
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"hollowkey/core/machine"
	"hollowkey/core/record/casefile"
)

// fromCase are the commands that take machine and logs from the case which
// --case names, where the call does not say them. The others make something of
// their own, or look at no machine.
var fromCase = []string{"why", "fix", "undo", "retry", "guide", "case", "ready", "rehearse", "journal", "trail", "products", "cache",
	"leftovers", "startup"}

// takeFromCase takes the machine from the case. A case may be a stranger's:
// this computer is only meant by one that was opened on it, and then nothing is
// changed without a question.
func (a *app) takeFromCase(c *cobra.Command) error {
	words := strings.Fields(c.CommandPath())
	if a.machine != "" || a.caseDir == "" || !casefile.Exists(a.caseDir) || len(words) < 2 || !slices.Contains(fromCase, words[1]) {
		return nil
	}
	cs, err := casefile.Load(a.caseDir, a.now)
	if err != nil {
		return nil // whoever needs the case says what is wrong with it
	}
	at := cs.Reached()
	if yes := c.Flags().Lookup("yes"); at == casefile.Live && yes != nil && yes.Changed {
		return wrongCall("--machine is missing\nhint: with --yes this computer is only changed where the call names it: --machine live")
	}
	a.machine, a.ofCase = at, at != "" && at != casefile.Live // which printed commands name, as they may hold --yes
	return nil
}

// aboutMachine notes in a case which machine it is about, and where that is.
func (a *app) aboutMachine(about *casefile.About, m machine.Machine) error {
	about.Machine, about.Place = m.Name(), a.machine
	if a.machine == casefile.Live {
		return nil
	}
	at, err := filepath.Abs(a.machine)
	about.Place = at
	return err
}

// logsOf are the logs of a call: those that it names, else those of the case
// that it names.
func (a *app) logsOf(logs []string, opt whyOptions) ([]string, error) {
	told := opt.said != "" || opt.pack != "" || opt.hasExit != nil && opt.hasExit()
	dir, err := a.needCase()
	if len(logs) > 0 || told || err != nil { // no case is named
		return logs, nil
	}
	st, err := casefile.StandOf(dir, nil, a.now)
	if err != nil {
		return nil, err
	}
	if logs = st.Input(); len(logs) == 0 && a.caseDir != "" {
		return nil, wrongCall("a log is missing, and %s keeps none yet\nhint: to add one: hollowkey why LOG --case %s", dir,
			quoteArgument(dir))
	}
	return logs, nil
}
