// Package report makes the page of a case that is handed on: for the person who
// asked, and for second-line support. One file, without scripts, in HTML or
// Markdown; private data are masked.
package report

import (
	"fmt"
	"strings"
	"time"

	"hollowkey/core/fix"
	"hollowkey/core/logs/mask"
	"hollowkey/core/logs/trail"
	"hollowkey/core/machine"
	"hollowkey/core/record/casefile"
	"hollowkey/core/step"
	"hollowkey/core/why/verdict"
)

// Input is what a page is made of.
type Input struct {
	Title    string              // of the page
	About    *casefile.About     // nil when no case was opened
	Verdict  *verdict.Verdict    // nil before a log was read
	Trail    *trail.Trail        // of the log that the verdict is about
	Attempts []*casefile.Attempt // oldest first
	Changes  []fix.Item          // oldest first
	Who      machine.Accounts    // gives security IDs their names; may be nil
	Holds    []fix.Item          // still in force
	Facts    *machine.Facts      // nil when no machine was named
	Machine  string              // its name
	Made     time.Time           // of the page
	Mask     *mask.Masker        // nil leaves names in
	Around   []Near              // the lines that prove it with those around them; empty where the log is gone
}

// Near is a line of a log that proves the verdict, or stands beside one that
// does.
type Near struct {
	At    verdict.Line // its file, number and text
	Proof bool         // it proves it itself
}

// Page is what the templates show; all of its texts are masked.
type Page struct {
	Title     string      `json:"title"`      // headline, and when it was written
	Made      string      `json:"made"`       // headline, and when it was written
	Banner    Banner      `json:"banner"`     // how it stands
	Plain     []string    `json:"plain"`      // three sentences for the person who asked
	Facts     [][2]string `json:"facts"`      // name and text
	Verdict   [][2]string `json:"verdict"`    // name and text
	Evidence  []string    `json:"evidence"`   // lines with their places
	Timeline  *Timeline   `json:"timeline"`   // nil where the log tells no times
	Attempts  []Attempt   `json:"attempts"`   // oldest first
	Changes   []Change    `json:"changes"`    // oldest first
	TakenBack bool        `json:"taken_back"` // one of the changes was
	Holds     []string    `json:"holds"`      // still in force
	Notes     [][2]string `json:"notes"`      // time and text
	Remedies  []Remedy    `json:"remedies"`   // in the order in which to try them
	Masked    string      `json:"masked"`     // what was masked, by kind
}

// Remedy is one remedy of the verdict.
type Remedy struct {
	Text    string `json:"text"`    // with what it costs
	Applied bool   `json:"applied"` // it is in force
}

// Attempt is one run of the setup.
type Attempt struct {
	Number     int    `json:"number"` // from 1
	When       string `json:"when"`   // in words
	How        string `json:"how"`    // in words
	Ended      string `json:"ended"`  // in words
	Where      string `json:"where"`  // in words
	Why        string `json:"why"`    // in words
	Worked     bool   `json:"worked"`
	CutOff     bool   `json:"cut_off"`
	Compared   string `json:"compared"`   // in words; empty where there is nothing to tell
	Assumed    string `json:"assumed"`    // in words; empty where there is nothing to tell
	Properties string `json:"properties"` // in words; empty where there is nothing to tell
}

// Change is one step that was done.
type Change struct {
	Number  int      `json:"number"`  // as the journal has it
	When    string   `json:"when"`    // in words
	Words   string   `json:"words"`   // in words
	State   string   `json:"state"`   // in words
	Before  []string `json:"before"`  // lines of the state
	After   []string `json:"after"`   // lines of the state
	Undone  bool     `json:"undone"`  // it was undone, or cannot be
	NoUndo  bool     `json:"no_undo"` // it was undone, or cannot be
	Hold    string   `json:"hold"`    // in words; empty where there is nothing to tell
	Note    string   `json:"note"`    // in words; empty where there is nothing to tell
	Command string   `json:"command"` // in words; empty where there is nothing to tell
}

// Make works out what the page says.
func Make(in Input) Page {
	b := builder{in}
	p := Page{Title: b.hide(in.Title), Made: in.Made.UTC().Format("2006-01-02 15:04 UTC")}
	p.Banner = b.banner()
	for _, s := range b.plain() {
		p.Plain = append(p.Plain, b.hide(s))
	}
	b.facts(&p)
	b.verdict(&p)
	if in.Trail != nil {
		p.Timeline = timeline(in.Trail, b.hide)
	}
	for _, a := range in.Attempts {
		p.Attempts = append(p.Attempts, b.attempt(a))
	}
	for _, i := range in.Changes {
		p.Changes = append(p.Changes, b.change(i))
		p.TakenBack = p.TakenBack || i.Status == "undone"
	}
	for _, h := range in.Holds {
		p.Holds = append(p.Holds, b.hide(fmt.Sprintf("%s on %s: release it with %s", h.Hold, h.Machine, fix.ReleaseCommand(h.Hold))))
	}
	if in.About != nil {
		for _, n := range in.About.Notes {
			p.Notes = append(p.Notes, [2]string{n.Time.Format("2006-01-02 15:04"), b.hide(n.Text)})
		}
	}
	p.Masked = b.masked()
	return p
}

// ForPerson is the page without what only technicians read: how it stands, what
// was wrong, what was done, and what is to be done now.
func (p Page) ForPerson() Page {
	p.Banner.Next = personal[Standing(p.Banner.Word)]
	return Page{Title: p.Title, Made: p.Made, Banner: p.Banner, Plain: p.Plain, Holds: p.Holds, Notes: [][2]string{}, Masked: p.Masked}
}

type builder struct{ in Input } // what the page is made of

// hide masks a text. Control characters go first: a name with one inside would
// not be found, and a page must not carry them.
func (b builder) hide(text string) string {
	text = strings.Map(func(r rune) rune {
		if r < ' ' && r != '\n' && r != '\t' || r == 0x7F {
			return ' '
		}
		return r
	}, text)
	if b.in.Mask == nil {
		return text
	}
	return b.in.Mask.Mask(text)
}

// masked tells what was masked, so that a reader does not take a token for a
// name.
func (b builder) masked() string {
	if b.in.Mask == nil {
		return ""
	}
	var parts []string
	counts := b.in.Mask.Counts()
	for _, k := range []mask.Kind{mask.User, mask.Host, mask.SID, mask.Mail, mask.Serial, mask.Secret} {
		if n := counts[k]; n > 0 {
			times := fmt.Sprintf("%d times", n)
			if n == 1 {
				times = "once"
			}
			parts = append(parts, fmt.Sprintf("%s (%s)", k, times))
		}
	}
	if parts == nil {
		return "Nothing had to be masked."
	}
	return "Masked: " + strings.Join(parts, ", ") + ". The same token stands for the same one everywhere."
}

// plain are three sentences for the person who asked: what was wrong, what was
// done, how it stands.
func (b builder) plain() []string {
	in := b.in
	product := "The setup"
	if in.Verdict != nil && in.Verdict.Product.Name != nil {
		product = *in.Verdict.Product.Name
	}
	var out []string
	switch {
	case in.Verdict == nil:
		out = append(out, "The setup's log has not been read yet.")
	case in.Verdict.Worked():
		out = append(out, product+" was set up, and nothing is wrong.")
	default:
		out = append(out, fmt.Sprintf("%s could not be set up: %s", product, sentence(in.Verdict.Cause.Summary)))
	}
	var done []string
	for _, c := range in.Changes {
		if c.Status == "done" || c.Status == "final" {
			done = append(done, c.Step.Words())
		}
	}
	switch {
	case len(done) == 0:
		out = append(out, "Nothing on the machine is changed.")
	case len(done) == 1:
		out = append(out, "One thing was changed: "+sentence(done[0]))
	default:
		out = append(out, fmt.Sprintf("%d things were changed: %s", len(done), sentence(strings.Join(done, "; "))))
	}
	return append(out, b.stands(product))
}

// stands says in one sentence whether it works now.
func (b builder) stands(product string) string {
	last := b.last()
	if last == nil {
		return "It has not been tried again yet."
	}
	how := "it was tried on the machine"
	if last.Rehearsal {
		how = "it was tried on a copy that stands in for the machine, not yet on the machine itself"
	}
	switch {
	case b.standing() == WasUndone:
		return fmt.Sprintf("%s worked with the change, which is undone now: the machine is as it was before.", product)
	case last.Verdict.Worked():
		return fmt.Sprintf("%s works now; %s.", product, how)
	}
	return fmt.Sprintf("It does not work yet; %s, and the next remedy is listed below.", how)
}

// sentence ends a text with a full stop, unless it ends in one.
func sentence(t string) string {
	t = strings.TrimSpace(t)
	if t == "" || strings.HasSuffix(t, ".") || strings.HasSuffix(t, "!") || strings.HasSuffix(t, "?") {
		return t
	}
	return t + "."
}

// facts tells of case and machine what second-line support asks first.
func (b builder) facts(p *Page) {
	add := func(name, text string) {
		if text = strings.TrimSpace(text); text != "" {
			p.Facts = append(p.Facts, [2]string{name, b.hide(text)})
		}
	}
	if a := b.in.About; a != nil {
		add("told", a.Told)
		state := a.State
		if a.Outcome != "" {
			state += ": " + a.Outcome
		}
		add("case", state+", opened "+a.Opened.Format("2006-01-02 15:04 UTC"))
	}
	add("machine", b.in.Machine)
	f := b.in.Facts
	if f == nil {
		return
	}
	add("OS", fmt.Sprintf("%s %s build %d, %s, %s", f.OS.Name, f.OS.Version, f.OS.Build, f.OS.Edition, f.OS.Architecture))
	for _, d := range f.Drives {
		if d.Size > 0 {
			add("drive "+d.Letter, fmt.Sprintf("%d GB free of %d GB, %s", d.Free>>30, d.Size>>30, d.Kind))
		}
	}
}

// verdict tells cause, place, sureness, evidence and what was seen on the
// machine.
func (b builder) verdict(p *Page) {
	v := b.in.Verdict
	if v == nil {
		return
	}
	add := func(name, text string) {
		if text != "" {
			p.Verdict = append(p.Verdict, [2]string{name, b.hide(text)})
		}
	}
	exit := ""
	if v.ExitCode != nil {
		exit = fmt.Sprintf(", exit code %d", *v.ExitCode)
	}
	add("outcome", string(v.Outcome)+exit)
	if v.Product.Name != nil {
		version := ""
		if v.Product.Version != nil {
			version = " " + *v.Product.Version
		}
		add("product", *v.Product.Name+version)
	}
	add("package", v.Package)
	if v.BrokeAt.Action != nil {
		line := ""
		if v.BrokeAt.Line != nil {
			line = fmt.Sprintf(", line %d", *v.BrokeAt.Line)
		}
		add("broke at", *v.BrokeAt.Action+line)
	}
	add("why", v.Cause.Summary)
	if v.Cause.Class != nil {
		text := *v.Cause.Class
		if s := v.Cause.Subject; s != nil {
			text += ", " + s.Kind + " " + s.Name
		}
		add("cause", fmt.Sprintf("%s (confidence %.0f %%)", text, 100*v.Cause.Confidence))
	}
	for _, f := range v.Machine {
		if f.Answer == "yes" {
			add("on the machine", f.Text)
		}
	}
	for _, e := range b.evidence() {
		mark := "  "
		if e.Proof {
			mark = "> "
		}
		p.Evidence = append(p.Evidence, b.hide(fmt.Sprintf("%s%s:%d  %s", mark, base(e.At.File), e.At.Line, cut(e.At.Text))))
	}
	for _, r := range v.Remedies {
		kind := ""
		if len(r.Steps) > 0 {
			kind = " (" + step.Price(r.Steps).Words() + ")"
		}
		p.Remedies = append(p.Remedies, Remedy{b.hide(r.Title + kind), b.applied(r.Title)})
	}
}

// evidence are the lines that prove the verdict, with those around them where
// the log is there.
func (b builder) evidence() []Near {
	if len(b.in.Around) > 0 {
		return b.in.Around
	}
	var list []Near
	for _, e := range b.in.Verdict.Evidence {
		list = append(list, Near{e, true})
	}
	return list
}

const longText = 400 // characters of a line of evidence

// cut shortens a text that would make a page unreadable.
func cut(t string) string {
	if r := []rune(t); len(r) > longText {
		return string(r[:longText]) + "…"
	}
	return t
}

// base is a file's name, of a path of either OS.
func base(path string) string {
	return path[strings.LastIndexAny(path, `/\`)+1:]
}

// attempt tells one attempt; one that was cut off has no end.
func (b builder) attempt(a *casefile.Attempt) Attempt {
	out := Attempt{Number: a.Number, When: a.Time.Format("2006-01-02 15:04"), How: "on the machine", Compared: a.Compared, CutOff: !a.Done,
		Assumed:    b.hide(strings.Join(a.Assumed, "; ")),
		Properties: b.hide(strings.Join(append(append([]string{}, a.Properties...), a.Transforms...), ", "))}
	if a.Rehearsal {
		out.How = "rehearsed on a copy"
	}
	switch {
	case !a.Done:
		out.Ended = "cut off; its end is not known"
	case a.Verdict != nil && a.Verdict.Worked():
		out.Ended, out.Worked = fmt.Sprintf("worked, exit code %d", a.Exit), true
	default:
		out.Ended = fmt.Sprintf("failed, exit code %d", a.Exit)
	}
	if v := a.Verdict; v != nil && !out.Worked {
		if v.BrokeAt.Action != nil {
			out.Where = *v.BrokeAt.Action
		}
		out.Why = b.hide(v.Cause.Summary)
	}
	return out
}

// change tells one change with what was there before and after.
func (b builder) change(i fix.Item) Change {
	c := Change{Number: i.Change, When: i.Time.Format("2006-01-02 15:04"), Words: b.hide(i.Step.Words()), State: i.Status,
		Undone: i.Status == "undone",
		NoUndo: i.Step.OneWay() != "", Hold: i.Hold, Note: b.hide(i.Note)}
	for _, l := range i.Before.Lines(b.in.Who) {
		c.Before = append(c.Before, b.hide(l))
	}
	for _, l := range i.After.Lines(b.in.Who) {
		c.After = append(c.After, b.hide(l))
	}
	return c
}
