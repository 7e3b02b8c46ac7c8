// Package ladder puts all that could mend a setup into one order, by how likely
// it is and what it asks, and climbs it: after each rung the setup is tried
// again, and what did not help is undone before the next one.
package ladder

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"hollowkey/core/bounded"
	"hollowkey/core/fix"
	"hollowkey/core/fix/kinds"
	"hollowkey/core/machine"
	"hollowkey/core/package/cached"
	"hollowkey/core/prove/retry"
	"hollowkey/core/record/casefile"
	"hollowkey/core/step"
	"hollowkey/core/why/checks"
	"hollowkey/core/why/verdict"
)

// State is how far a rung is.
type State string

// The states.
const (
	Waiting State = "waiting"
	Taken   State = "taken"            // and the setup was not tried since
	Helped  State = "helped"           // the setup works
	Further State = "got further"      // it fails elsewhere now; the rung stays
	NoHelp  State = "did not help"     // undone, where there is a way back
	Left    State = "left out"         // the person said no
	Person  State = "for a person"     // it is no change that a program can make
	Refused State = "not possible"     // it cannot be made here
	Done    State = "already in place" // nothing is left to change
)

// A Rung is one thing that could mend it.
type Rung struct {
	Title  string       `json:"title"`             // in one phrase
	Why    string       `json:"why"`               // what speaks for it
	Steps  []step.Model `json:"steps,omitempty"`   // none for a person
	Likely float64      `json:"likely"`            // 0 to 1, that it is what is needed
	Price  step.Cost    `json:"price"`             // what it asks
	OneWay bool         `json:"one_way,omitempty"` // it cannot be undone
	// Command is what a person calls for it, as the program's arguments without
	// the machine.
	Command []string `json:"command,omitempty"`
	State   State    `json:"state"`                // how far it is
	Came    string   `json:"came_of_it,omitempty"` // what the next attempt showed
}

// A Ladder is all rungs for one failure on one machine, the first to take
// first.
type Ladder struct {
	Schema  string `json:"schema"`  // names the shape
	Machine string `json:"machine"` // its name
	Of      string `json:"of"`      // the log, or the product, that it is for
	Rungs   []Rung `json:"rungs"`   // in the order in which they are taken
}

// Schema names the shape of a ladder.
const Schema = "hollowkey.ladder/2"

// How likely rungs are that do not come from the verdict: found wrong on the
// machine, or tried for any failure of a product that is there.
const (
	nextRemedy    = 0.8  // of the one before it
	onlyNamed     = 0.3  // of what it would be: it pretends, or has a price of its own
	foundWrong    = 0.25 // whatever the log says, the machine shows it
	forAnyProduct = 0.1  // a repair, a clearing: it helps whatever broke there, now and then
	forAnyMachine = 0.04 // the component store, the network: seldom the reason that one product fails
	lastResort    = 0.01 // going back to a restore point takes other work with it
)

// troubleshooters are the OS's own, by the class of failure that they are made
// for.
var troubleshooters = map[string]string{"network": "the network", "component-store": "updates", "service": "program compatibility",
	"custom-action": "program compatibility", "os": "program compatibility"}

// What counts against a rung as much as one more size of change.
const (
	minutesPerSize = 10 // the time in which somebody tries one smaller thing by hand
	restartSize    = 4  // everybody on the machine stops working
	oneWaySize     = 6  // there is no undo
	personSize     = 3  // somebody has to find out how
)

// value is what a rung is worth: how likely it is by what it asks.
func (r Rung) value() float64 {
	price := 1 + float64(r.Price.Size) + float64(r.Price.Minutes)/minutesPerSize
	if r.Price.Restart {
		price += restartSize
	}
	if r.OneWay {
		price += oneWaySize
	}
	if len(r.Steps) == 0 {
		price += personSize
	}
	return r.Likely / price
}

// Build makes the ladder for a verdict.
func Build(v *verdict.Verdict, of string, m machine.Machine) Ladder {
	l := Ladder{Schema: Schema, Machine: m.Name(), Of: of, Rungs: []Rung{}}
	likely := v.Cause.Confidence
	for _, r := range v.Remedies {
		p := likely
		if r.OnlyNamed {
			p *= onlyNamed
		}
		l.add(Rung{Title: r.Title, Why: v.Cause.Title, Steps: r.Steps, Likely: p})
		likely *= nextRemedy
	}
	for _, f := range checks.Ready(m, checks.Options{User: known(m, v.User)}) {
		if f.Answer == checks.Stop && len(f.Steps) > 0 {
			l.add(Rung{Title: f.Mend, Why: f.Seen, Steps: f.Steps, Likely: foundWrong})
		}
	}
	l.general(v, m)
	slices.SortStableFunc(l.Rungs, func(a, b Rung) int { return cmp.Compare(b.value(), a.value()) })
	return l
}

// extend puts the rungs of another failure, which came after a rung, behind
// that rung.
func (l *Ladder) extend(at int, v *verdict.Verdict, m machine.Machine) {
	var more []Rung
	for _, r := range Build(v, l.Of, m).Rungs {
		if !slices.ContainsFunc(l.Rungs, r.same) {
			more = append(more, r)
		}
	}
	l.Rungs = slices.Insert(l.Rungs, at+1, more...)
}

// known is a user of the log whom the machine knows; else whoever is signed in.
func known(m machine.Machine, user string) string {
	if _, err := m.Account(user); err != nil {
		return m.SignedIn()
	}
	return user
}

// add adds a rung, once.
func (l *Ladder) add(r Rung) {
	if r.Title == "" || slices.ContainsFunc(l.Rungs, func(o Rung) bool { return o.same(r) }) {
		return
	}
	r.State, r.Price = Waiting, step.Price(r.Steps)
	if len(r.Steps) == 0 {
		r.State = Person
	}
	for _, model := range r.Steps {
		for name := range model {
			k, _ := step.KindOf(name)
			r.OneWay = r.OneWay || k.OneWay != ""
		}
	}
	l.Rungs = append(l.Rungs, r)
}

// same says whether two rungs change the same things.
func (r Rung) same(o Rung) bool {
	if len(r.Steps) == 0 || len(o.Steps) == 0 {
		return len(r.Steps) == len(o.Steps) && strings.EqualFold(r.Title, o.Title)
	}
	a, _ := json.Marshal(r.Steps)
	b, _ := json.Marshal(o.Steps)
	return string(a) == string(b)
}

// general adds what is tried for any failure of a product that is installed, of
// an app package, or of a machine.
func (l *Ladder) general(v *verdict.Verdict, m machine.Machine) {
	class, code := "", ""
	if v.Cause.Class != nil {
		class = *v.Cause.Class
	}
	if v.Product.Code != nil {
		code = *v.Product.Code
	}
	if list, err := cached.Read(m); err == nil {
		for _, e := range list {
			mine := code != "" && strings.EqualFold(e.Code, code) || v.Product.Name != nil && strings.EqualFold(e.Name, *v.Product.Name)
			switch {
			case mine && !e.Fine():
				l.add(Rung{Title: "put the OS's copy of " + e.Name + " back",
					Command: []string{"cache", "restore", "--from", "FOLDER"}, Why: "its cached package is " + string(e.State), Likely: foundWrong})
			case mine && e.Kind == cached.Product:
				l.add(Rung{Title: "let the engine repair " + e.Name + " " + e.Version, Why: "it is installed", Likely: forAnyProduct,
					Steps: []step.Model{step.New("repair", "what", e.Code)}})
			}
		}
	}
	l.services(v, m)
	if v.Product.Name != nil && packageName(*v.Product.Name) {
		l.add(Rung{Title: "register the app package " + *v.Product.Name + " again", Why: "it is an app package", Likely: forAnyProduct,
			Steps: []step.Model{step.New("repair", "what", "register:"+*v.Product.Name)}})
		l.add(Rung{Title: "reset the app package " + *v.Product.Name +
			" (its settings and data of this user are lost)", Why: "it is an app package", Likely: forAnyProduct / 2,
			Steps: []step.Model{step.New("repair", "what", "reset:"+*v.Product.Name)}})
	}
	if class == "network" {
		l.add(Rung{Title: "reset the OS's network stack", Why: "the network did not do what the setup needed",
			Likely: forAnyProduct, Steps: []step.Model{step.New("repair", "what", "network")}})
	}
	if class == "unknown" || class == "component-store" || class == "prerequisite" || class == "custom-action" {
		l.add(Rung{Title: "let the OS repair its component store", Why: "its own parts may be damaged",
			Likely: forAnyMachine, Steps: []step.Model{step.New("repair", "what", "component-store")}})
		l.add(Rung{Title: "let the OS check its system files", Why: "its own parts may be damaged",
			Likely: forAnyMachine / 2, Steps: []step.Model{step.New("repair", "what", "system-files")}})
	}
	if where, ok := troubleshooters[class]; ok {
		l.add(Rung{Title: "let the OS's own troubleshooter for " + where + " look: Settings, System, " +
			"Troubleshoot (it changes what it finds, and there is no way back)",
			Why: "the failure is of its kind", Likely: forAnyMachine})
	}
	if !v.Worked() && v.Product.Name != nil {
		l.add(Rung{Title: "go back to a restore point of a day on which it worked: run rstrui.exe elevated " +
			"(programs and drivers of later days are lost, documents stay)",
			Why: "the last resort before a new installation of the OS", Likely: lastResort})
	}
	if v.Product.Name != nil && class != "elevation" {
		l.add(Rung{Title: "check what an earlier install left", Command: []string{"leftovers", *v.Product.Name},
			Why: "half of an earlier one can be in the way", Likely: forAnyMachine})
	}
}

// services adds the product's own services that are disabled: one that is to
// update it, or without which it does not start.
func (l *Ladder) services(v *verdict.Verdict, m machine.Machine) {
	if v.Product.Name == nil || len(*v.Product.Name) < shortestName {
		return
	}
	word := strings.ToLower(strings.Fields(*v.Product.Name)[0])
	names, err := m.ServiceNames()
	if err != nil || len(word) < shortestName {
		return
	}
	for _, n := range names {
		s, err := m.Service(n)
		text := strings.ToLower(s.Name + " " + s.Display + " " + s.Binary)
		if err != nil || s.Start != machine.StartDisabled || !strings.Contains(text, word) || strings.Contains(text, `\windows\`) {
			continue
		}
		l.add(Rung{Title: "set the service " + s.Name + " to start by itself, and start it",
			Why: "it is the product's own, and disabled", Likely: foundWrong,
			Steps: []step.Model{step.New("service", "name", s.Name, "start", string(machine.StartAutomatic), "state", "running")}})
	}
}

// shortestName is how many letters a product's first word has at least that
// tells its services from others.
const shortestName = 4

// packageName says whether a product's name is that of an app package:
// Vendor.Product.
func packageName(name string) bool {
	return strings.Contains(name, ".") && !strings.ContainsAny(name, ` \/"'`) && strings.Trim(name, "0123456789.") != ""
}

// Next is the index of the rung to take next; -1 when none is left, or the
// setup works.
func (l *Ladder) Next() int {
	if slices.ContainsFunc(l.Rungs, func(r Rung) bool { return r.State == Helped }) {
		return -1
	}
	if at := slices.IndexFunc(l.Rungs, func(r Rung) bool { return r.State == Taken }); at >= 0 {
		return at
	}
	return slices.IndexFunc(l.Rungs, func(r Rung) bool { return r.State == Waiting })
}

// fileName is where a case keeps how far its ladder was climbed.
const fileName = "ladder.json"

// maxFile is how many bytes of it are read; a ladder has tens of rungs.
const maxFile = 1 << 20

// Save keeps how far a ladder was climbed in a case's folder.
func (l *Ladder) Save(dir string) error {
	b, err := json.MarshalIndent(l, "", "  ")
	if err != nil {
		return err
	}
	return casefile.Put(dir, fileName, append(b, '\n'))
}

// Kept reads the ladder that a case keeps; one without rungs where it keeps
// none.
func Kept(dir string) (l Ladder, err error) {
	b, err := bounded.ReadFile(filepath.Join(dir, fileName), maxFile)
	if errors.Is(err, os.ErrNotExist) {
		return l, nil
	}
	if err != nil {
		return l, err
	}
	if err := json.Unmarshal(b, &l); err != nil {
		return l, fmt.Errorf("%s: %w\nhint: delete it to begin the ladder anew", filepath.Join(dir, fileName), err)
	}
	return l, nil
}

// GoOn takes from a case how far the same ladder was climbed before. Its steps
// are not taken from there: whoever can write in a case chooses no change.
func (l *Ladder) GoOn(dir string) error {
	past, err := Kept(dir)
	if err != nil {
		return err
	}
	if past.Machine != l.Machine || past.Of != l.Of {
		return nil
	}
	for i := range l.Rungs {
		for _, p := range past.Rungs {
			if p.same(l.Rungs[i]) && l.Rungs[i].State == Waiting &&
				slices.Contains([]State{Taken, Helped, Further, NoHelp, Left, Refused, Done}, p.State) {
				l.Rungs[i].State, l.Rungs[i].Came = p.State, p.Came
			}
		}
	}
	return nil
}

// A Climber climbs a ladder on one machine.
type Climber struct {
	Machine machine.Machine
	Journal *fix.Journal
	Dir     string // of the case
	// Try runs the setup again; nil where nothing is known that could be run.
	Try func() (*retry.Result, error)
	// Again is the command that goes on with the ladder. Where a rung counts
	// after a restart only, it runs once at the next sign-in; empty leaves that
	// to the person.
	Again string
}

// Take takes a rung whose plan was drafted, tries the setup again, and takes
// the rung back where it did not help. An error of the plan refuses the rung,
// and the next one may be taken; any other ends the climb.
func (c Climber) Take(l *Ladder, at int, p fix.Plan) error {
	r := &l.Rungs[at]
	if !p.Pending() {
		r.State = Done
		return l.Save(c.Dir)
	}
	if err := p.Apply(c.Machine, c.Journal); err != nil {
		r.State, r.Came = Refused, strings.ReplaceAll(err.Error(), "\n", "; ")
		return errors.Join(err, l.Save(c.Dir))
	}
	r.State = Taken
	if err := l.Save(c.Dir); err != nil {
		return err
	}
	if c.Try == nil || r.Price.Restart {
		return nil
	}
	return c.Judge(l, at)
}

// Judge tries the setup again after a rung was taken, and says what became of
// it.
func (c Climber) Judge(l *Ladder, at int) error {
	res, err := c.Try()
	if err != nil {
		return err
	}
	if err := c.settle(l, at, res.Change, res.Words); err != nil || l.Rungs[at].State != Further {
		return err
	}
	l.extend(at, res.Attempt.Verdict, c.Machine)
	return l.Save(c.Dir)
}

// Told is Judge where only the person can tell whether the rung helped.
func (c Climber) Told(l *Ladder, at int, helped bool) error {
	if helped {
		return c.settle(l, at, retry.Gone, "it works, says who tried it")
	}
	return c.settle(l, at, retry.Same, "it does not work, says who tried it")
}

// settle notes what came of a rung. One that brought the setup further stays in
// force, since the next failure is behind it.
func (c Climber) settle(l *Ladder, at int, change retry.Change, words string) error {
	r := &l.Rungs[at]
	r.Came = words
	switch change {
	case retry.Gone, retry.Works:
		r.State = Helped
	case retry.Further, retry.Moved:
		r.State = Further
	default:
		r.State = NoHelp
		if !r.OneWay {
			if err := c.takeBack(r); err != nil {
				return errors.Join(fmt.Errorf("the rung did not help, and could not be undone: %w", err), l.Save(c.Dir))
			}
		}
	}
	return l.Save(c.Dir)
}

// takeBack takes the last plan back, if it is the rung's.
func (c Climber) takeBack(r *Rung) error {
	items := c.Journal.LastPlan(c.Machine.Name())
	if len(items) == 0 || items[0].Title != r.Title {
		return fmt.Errorf("the last change is not the rung's\nhint: the journal lists the changes")
	}
	for _, i := range items {
		ran := i.Step.Kind == "restart" // the OS forgets the command once it ran it
		if err := c.Journal.Undo(c.Machine, i.Change, ran); err != nil {
			return err
		}
	}
	return nil
}

// Draft is the plan of a rung.
func (c Climber) Draft(r Rung) (fix.Plan, error) {
	for _, m := range r.Steps {
		if _, err := kinds.New(m); err != nil {
			return fix.Plan{}, err
		}
	}
	steps := r.Steps
	if r.Price.Restart && c.Again != "" && !slices.ContainsFunc(steps, func(m step.Model) bool { _, has := m["restart"]; return has }) {
		steps = append(slices.Clone(steps), step.New("restart", "command", c.Again))
	}
	return fix.Draft(c.Machine, r.Title, steps)
}
