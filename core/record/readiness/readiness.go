// Package readiness makes the page of a check before a setup: for the person at
// the machine, who reads what to do, or for the administrator, who reads all
// that was seen.
package readiness

import (
	"cmp"
	_ "embed"
	"fmt"
	"html/template"
	"io"
	"slices"
	"strings"
	"sync"
	"time"

	"hollowkey/core/why/checks"
)

// For is whom a page is for.
type For string

// The readers of a page.
const (
	Person        For = "user"
	Administrator For = "administrator"
)

// Readers are those whom a page can be made for.
var Readers = []For{Person, Administrator}

// Input is what a page is made of.
type Input struct {
	Machine string           // its name
	Setup   string           // the file that is to be set up; empty for any
	Checks  []checks.Finding // as they were asked
	Made    time.Time        // when
}

// A Row is one check on a page.
type Row struct {
	Answer checks.State // pass, warn, stop or unknown
	Name   string       // of the check
	Seen   string       // the value
	Mend   string       // how to fix it; may be empty
}

// A Task is what the reader needs to do.
type Task struct {
	Do   string // in one or two sentences
	Seen string // why; may be empty
}

// A Page is what is written.
type Page struct {
	Title string // the machine and the setup
	Made  string // when it was made
	Ready bool   // nothing stops
	Sum   string // in one sentence
	Tasks []Task // what the reader needs to do, in order
	Other string // of a person's page: what others take care of; empty where nothing is
	Rows  []Row  // of the administrator's page; empty for a person
}

// A task is what somebody can do about a check.
type task struct {
	name string // the check's name begins so
	stop bool   // only where it stops
	do   string // in one or two sentences
	tell bool   // with the value that was seen
}

// about says whether a finding is what the task is for: findings of a task
// share the beginning of their name.
func (t task) about(c checks.Finding) bool { return strings.HasPrefix(c.Name, t.name) }

// tasks are what the person at the machine can do about a check that does not
// pass; all other checks are the administrator's.
var tasks = []task{
	{"pending restart", false, "Restart the computer: Start, Power, Restart. Shutting it down is not enough.", false},
	{"other installation", false, "Another setup is running. Let it finish; if it does not, restart the computer.", false},
	{"free space", true, "Make room: empty the recycle bin, and delete or move files that you no longer need.", true},
	{"other users", false, "Ask the others who are signed in on this computer to save their work and sign out.", true},
	{"package: files in use", false, "Save your work and close these programs:", true},
	{"app package: in use", true, "Save your work and close these programs:", true},
	{"shell folders", true, "Connect the network drive that your folders lie on, for instance by signing in to the office network.", true},
	{"site: host", true, "Connect to the office network or its VPN.", true},
	{"setup file", true, "Download the setup again, and wait until the download has finished.", true},
	{"clock", true, "Set date and time right: Settings, Time & language.", true},
	{"next start", false, "The computer starts in safe mode next time. Tell your administrator.", false},
}

// Make makes the page for a reader.
func Make(in Input, reader For) Page {
	p := Page{Title: in.Machine, Made: in.Made.UTC().Format("2006-01-02 15:04") + " UTC", Ready: true, Tasks: []Task{}, Rows: []Row{}}
	if in.Setup != "" {
		p.Title += ": ready for " + in.Setup[strings.LastIndexAny(in.Setup, `\/`)+1:] + "?"
	} else {
		p.Title += ": ready for a setup?"
	}
	n := map[checks.State]int{}
	for _, c := range in.Checks {
		n[c.Answer]++
	}
	p.Ready = n[checks.Stop] == 0
	if reader == Administrator {
		p.Sum = fmt.Sprintf("%d blocking, %s, %d unknown, %d passed.", n[checks.Stop],
			counted(n[checks.Warn], "warning"), n[checks.Unknown], n[checks.Pass])
		p.administrator(in.Checks)
		return p
	}
	p.person(in.Checks)
	return p
}

// counted is a number with its word, in the plural where it is not one.
func counted(n int, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %ss", n, one)
}

// order is how checks are listed: what stops first.
var order = []checks.State{checks.Stop, checks.Warn, checks.Unknown, checks.Pass}

// administrator lists all checks, and as tasks what would fix those that stop.
func (p *Page) administrator(list []checks.Finding) {
	for _, answer := range order {
		for _, c := range list {
			if c.Answer != answer {
				continue
			}
			how := strings.TrimSuffix(c.Mend, ", or:") // a command follows on a terminal
			if c.Command != nil {
				how = strings.TrimPrefix(how+"; hollowkey "+strings.Join(c.Command, " "), "; ")
			}
			p.Rows = append(p.Rows, Row{c.Answer, c.Name, c.Seen, how})
			if answer == checks.Stop {
				p.Tasks = append(p.Tasks, Task{c.Name + ": " + cmp.Or(how, c.Seen), ""})
			}
		}
	}
}

// person tells the tasks of the person at the machine, each once, and how much
// is left to others.
func (p *Page) person(list []checks.Finding) {
	others := 0
	for _, t := range tasks {
		var seen []string
		due := false
		for _, c := range list {
			if t.about(c) && (c.Answer == checks.Stop || c.Answer == checks.Warn && !t.stop) {
				due = true
				seen = append(seen, c.Seen)
			}
		}
		switch {
		case due && t.tell:
			p.Tasks = append(p.Tasks, Task{t.do, strings.Join(seen, "; ")})
		case due:
			p.Tasks = append(p.Tasks, Task{Do: t.do})
		}
	}
	for _, c := range list {
		if c.Answer == checks.Stop && !slices.ContainsFunc(tasks, func(t task) bool { return t.about(c) }) {
			others++
		}
	}
	switch {
	case p.Ready && len(p.Tasks) == 0:
		p.Sum = "You need to do nothing."
	case p.Ready:
		p.Sum = "It goes better if you do this first."
	case len(p.Tasks) == 0:
		p.Sum = "You need to do nothing: your administrator takes care of it."
	default:
		p.Sum = "Please do this first."
	}
	if others > 0 && len(p.Tasks) > 0 {
		p.Other = fmt.Sprintf("Your administrator takes care of %s more.",
			map[bool]string{true: "one thing", false: fmt.Sprintf("%d things", others)}[others == 1])
	}
}

//go:embed page.html
var pageText string

// page is parsed when one is written: most runs write none.
var page = sync.OnceValue(func() *template.Template { return template.Must(template.New("page").Parse(pageText)) })

// HTML writes a page as one file without scripts.
func HTML(w io.Writer, p Page) error { return page().Execute(w, p) }

// Markdown writes a page as text.
func Markdown(w io.Writer, p Page) error {
	var b strings.Builder
	fmt.Fprintf(&b, "# %s\n\n%s\n\n**%s** %s\n", plain(p.Title), p.Made, p.Word(), plain(p.Sum))
	if len(p.Tasks) > 0 {
		b.WriteString("\n## What you need to do\n\n")
		for i, t := range p.Tasks {
			fmt.Fprintf(&b, "%d. %s\n", i+1, strings.TrimSuffix(plain(t.Do)+"  \n   "+plain(t.Seen), "  \n   "))
		}
	}
	if p.Other != "" {
		fmt.Fprintf(&b, "\n%s\n", plain(p.Other))
	}
	if len(p.Rows) > 0 {
		b.WriteString("\n## All checks\n\n| | check | seen | how to fix it |\n| --- | --- | --- | --- |\n")
		for _, r := range p.Rows {
			fmt.Fprintf(&b, "| %s | %s | %s | %s |\n", r.Answer, plain(r.Name), plain(r.Seen), plain(r.Mend))
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// Word is the answer in one or two words.
func (p Page) Word() string {
	if p.Ready {
		return "Ready."
	}
	return "Not ready."
}

// plain keeps what a machine says from being read as Markdown.
func plain(s string) string {
	return strings.NewReplacer("\n", " ", "|", `\|`, "<", "&lt;", "*", `\*`, "_", `\_`, "`", "'", "[", `\[`).Replace(s)
}
