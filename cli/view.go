// This file is the full-screen walk through a log. It holds the state of the
// screen; what the lines mean was settled before.

package cli

import (
	"cmp"
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	tea "charm.land/bubbletea/v2"

	"hollowkey/cli/columns"
	"hollowkey/core/logs/paged"
	"hollowkey/core/logs/trail"
	"hollowkey/core/why"
	"hollowkey/core/why/verdict"
)

// trailView is the full-screen walk through a log: its actions above, the lines
// below.
func (a *app) trailView(ctx context.Context, q why.Question, opt trail.Options) error {
	if !a.onTerminal() {
		return wrongCall("--view needs a terminal\nhint: without it trail prints the same as text")
	}
	t, v, err := why.Trail(ctx, q, opt)
	if err != nil {
		return err
	}
	pages, err := why.Pages(ctx, q)
	if err != nil {
		return err
	}
	screen := a.out
	if s, ok := screen.(*safe); ok { // which would take the screen's own codes out
		screen = s.w
	}
	m := newView(a.style, q.Logs[0], t, v, pages)
	_, err = tea.NewProgram(m, tea.WithContext(ctx), tea.WithInput(a.in), tea.WithOutput(screen)).Run()
	if closing := pages.Close(); err == nil {
		err = closing
	}
	return err
}

// A view is what the screen shows.
type view struct {
	style         Style
	log           string       // its name
	trail         *trail.Trail // its actions
	pages         *paged.Pages // its lines
	echo, gaps    []int        // lines
	subject       []string     // words of what the cause is about
	folded        map[int]bool // actions whose inner ones are hidden, by their place
	shown         []int        // actions that are shown, by their place
	at            int          // of shown: the one that is chosen
	top           int          // of shown: the first on the screen
	line          int          // the first line on the screen below
	mark          int          // the line that was jumped to
	left          int          // columns that the lines are moved by
	inLines       bool         // the keys move the lines
	asking        bool         // a word to search for is being typed
	word, said    string       // what is searched for; what is told at the bottom
	width, height int          // of the screen
}

const (
	mostEcho = 200 // places that one key walks along
	sideways = 20  // columns that one key moves the lines by
)

// newView makes the view of one log at the line that proves its cause. The
// places that its keys walk along (the verdict's chain, silences, the subject)
// are taken once: a log of gigabytes is not read again for a key.
func newView(s Style, log string, t *trail.Trail, v *verdict.Verdict, pages *paged.Pages) *view {
	m := &view{style: s, log: log, trail: t, pages: pages, folded: map[int]bool{}, line: 1, width: 80, height: 24}
	for _, c := range v.Chain {
		if c.Line > 0 && len(m.echo) < mostEcho && !slices.Contains(m.echo, c.Line) {
			m.echo = append(m.echo, c.Line)
		}
	}
	slices.Sort(m.echo)
	for _, g := range t.Gaps {
		m.gaps = append(m.gaps, g.After)
	}
	if sub := v.Cause.Subject; sub != nil {
		m.subject = []string{sub.Name}
	}
	m.layOut()
	m.root()
	return m
}

// layOut works out which actions are shown.
func (m *view) layOut() {
	m.shown = m.shown[:0]
	hidden := -1 // the depth below which nothing is shown
	for i, s := range m.trail.Steps {
		if hidden >= 0 && s.Depth > hidden {
			continue
		}
		hidden = -1
		m.shown = append(m.shown, i)
		if m.folded[i] {
			hidden = s.Depth
		}
	}
	m.at = min(m.at, max(len(m.shown)-1, 0))
}

// root goes to where it broke.
func (m *view) root() {
	for n, i := range m.shown {
		if m.trail.Steps[i].Broke {
			m.at = n
		}
	}
	if b := m.trail.BrokeAt.Line; b != nil {
		m.goTo(*b)
	} else if len(m.shown) > 0 {
		m.goTo(m.trail.Steps[m.shown[m.at]].Line)
	}
}

// goTo puts a line into the middle of the lower part.
func (m *view) goTo(line int) {
	m.mark = line
	m.line = max(1, line-m.below()/2)
}

// above and below are how many rows the list of actions and the lines of the
// log get. Both keep three on a screen of any height, so that neither vanishes.
func (m *view) above() int { return max((m.height-3)/2, 3) }

// below is how many lines the lower half of the view has: what the upper half
// and the three rules leave, and never so few that nothing can be read.
func (m *view) below() int { return max(m.height-3-m.above(), 3) }

// Init asks for nothing.
func (m *view) Init() tea.Cmd { return nil }

// Update takes a key, or another size of the screen.
func (m *view) Update(msg tea.Msg) (tea.Model, tea.Cmd) {
	switch msg := msg.(type) {
	case tea.WindowSizeMsg:
		m.width, m.height = max(msg.Width, 40), max(msg.Height, 10)
	case tea.KeyPressMsg:
		if m.asking {
			m.typed(msg)
			return m, nil
		}
		return m, m.key(msg.String())
	}
	return m, nil
}

// typed takes a key while a word is typed.
func (m *view) typed(k tea.KeyPressMsg) {
	switch k.String() {
	case "enter":
		m.asking = false
		m.search(false)
	case "esc", "ctrl+c":
		m.asking, m.word = false, ""
	case "backspace":
		if r := []rune(m.word); len(r) > 0 {
			m.word = string(r[:len(r)-1])
		}
	default:
		m.word += k.Text
	}
}

// key does what a key asks for. Esc leaves as q does, since somebody who is
// lost tries it first.
func (m *view) key(k string) tea.Cmd {
	// What was said stands until the next key.
	m.said = ""
	switch k {
	case "q", "esc", "ctrl+c":
		return tea.Quit
	case "tab":
		m.inLines = !m.inLines
	case "up", "k":
		m.move(-1)
	case "down", "j":
		m.move(1)
	case "pgup":
		m.move(-m.page())
	case "pgdown":
		m.move(m.page())
	case "left":
		m.left = max(m.left-sideways, 0)
	case "right":
		m.left += sideways
	case "home":
		m.move(-1 << 30)
	case "end":
		m.move(1 << 30)
	case "enter", "space":
		m.fold()
	case "r":
		m.root()
	case "e":
		m.next(m.echo, "echo")
	case "g":
		m.next(m.gaps, "silence")
	case "s":
		m.along()
	case "/":
		m.asking, m.word = true, ""
	case "n":
		m.search(false)
	case "N":
		m.search(true)
	case "y":
		return m.copied()
	}
	return nil
}

// page is how far a page key goes: a screenful of the half that has the focus.
func (m *view) page() int {
	if m.inLines {
		return m.below()
	}
	return m.above()
}

// move goes n steps on in the half that has the focus; far too large a step
// ends at the first or last. In the list of actions the lines follow, so that
// both halves always speak of the same place.
func (m *view) move(n int) {
	if m.inLines {
		m.line = min(max(m.line+n, 1), max(m.pages.Len()-m.below()+1, 1))
		return
	}
	if len(m.shown) == 0 {
		return
	}
	m.at = min(max(m.at+n, 0), len(m.shown)-1)
	m.goTo(m.trail.Steps[m.shown[m.at]].Line)
}

// fold hides what is inside of an action, or shows it.
func (m *view) fold() {
	if len(m.shown) == 0 {
		return
	}
	i := m.shown[m.at]
	if i+1 < len(m.trail.Steps) && m.trail.Steps[i+1].Depth > m.trail.Steps[i].Depth {
		m.folded[i] = !m.folded[i]
		m.layOut()
	}
}

// next goes to the next of some lines, from the start again after the last.
func (m *view) next(lines []int, what string) {
	if len(lines) == 0 {
		m.said = "no " + what + " in this log"
		return
	}
	sorted := slices.Clone(lines)
	slices.Sort(sorted)
	n := slices.IndexFunc(sorted, func(l int) bool { return l > m.mark })
	m.goTo(sorted[max(n, 0)])
	m.said = fmt.Sprintf("%s %d of %d", what, max(n, 0)+1, len(sorted))
}

// along goes to the next line that speaks of what the cause is about.
func (m *view) along() {
	if len(m.subject) == 0 {
		m.said = "the cause names nothing to follow"
		return
	}
	m.find(m.subject, false)
}

// search looks for the word that was typed last; none is no fault.
func (m *view) search(back bool) {
	if m.word != "" {
		m.find([]string{m.word}, back)
	}
}

// find goes to the next line with all of the words, and begins again at the
// other end when there is none: the cause often stands above the end at which
// one begins to look.
func (m *view) find(words []string, back bool) {
	from := m.mark + 1
	if back {
		from = m.mark
	}
	line, err := m.pages.Find(words, from, back)
	if err == nil && line == 0 { // from the other end again
		from = 1
		if back {
			from = m.pages.Len() + 1
		}
		line, err = m.pages.Find(words, from, back)
	}
	switch {
	case err != nil:
		m.said = err.Error()
	case line == 0:
		m.said = fmt.Sprintf("%q is nowhere in this log", words[0])
	default:
		m.goTo(line)
		m.said = fmt.Sprintf("%q", words[0])
	}
}

// copied hands the place of the marked line to the terminal's clipboard.
func (m *view) copied() tea.Cmd {
	place := fmt.Sprintf("%s:%d", filepath.Base(m.log), m.mark)
	m.said = "copied " + place
	return tea.SetClipboard(place)
}

// View draws the screen.
func (m *view) View() tea.View {
	v := tea.NewView(m.draw())
	v.AltScreen = true
	return v
}

// draw gives the whole screen.
func (m *view) draw() string {
	var b strings.Builder
	s := m.style
	title := string(m.trail.Outcome)
	if m.trail.Product.Name != nil {
		title += "  " + *m.trail.Product.Name
	}
	fmt.Fprintf(&b, "%s\n", s.bold(fit(title+"  "+filepath.Base(m.log), m.width)))
	m.drawActions(&b)
	b.WriteString(s.faint(strings.Repeat("─", m.width)) + "\n")
	m.drawLines(&b)
	b.WriteString(m.bottom())
	return b.String()
}

// bottom is the last row: what is being typed, what the last key found, or else
// the keys.
func (m *view) bottom() string {
	if m.asking {
		return fit("search: "+m.word+"_", m.width)
	}
	return m.style.faint(fit(cmp.Or(m.said, "↑↓←→ move  tab lines  enter fold  r root  e echo  g silence  s "+
		"subject  / search  n next  y copy  q quit"), m.width))
}

// drawActions draws the upper part: names by depth, how long each took, as a
// bar of the whole.
func (m *view) drawActions(b *strings.Builder) {
	room := m.above()
	// The chosen line stays in sight.
	m.top = min(max(m.top, m.at-room+1), m.at)
	const bar = 20 // cells; a twentieth of the whole is the least that a bar can show
	names := m.width - bar - 22
	for n := m.top; n < m.top+room; n++ {
		if n >= len(m.shown) {
			b.WriteString("\n")
			continue
		}
		st := m.trail.Steps[m.shown[n]]
		mark := "  "
		if m.folded[m.shown[n]] {
			mark = "+ "
		}
		line := pad(fit(strings.Repeat(" ", 2*min(st.Depth, 10))+mark+st.Name, names), names)
		took := ""
		if st.Took >= 0 {
			took = seconds(st.Took)
		}
		filled := 0
		if m.trail.Took > 0 && st.Took > 0 {
			filled = min(max(int(st.Took/m.trail.Took*bar+0.5), 1), bar)
		}
		state := st.State
		if st.Broke {
			state = "failed ←"
		}
		line += " " + strings.Repeat("█", filled) + strings.Repeat("·", bar-filled) + " " + columns.PadLeft(took, 8) + " " + pad(state, 11)
		line = fit(line, m.width)
		switch {
		case n == m.at && m.style.Color:
			line = "\x1b[7m" + pad(line, m.width) + "\x1b[0m"
		case n == m.at:
			line = fit("> "+line, m.width)
		case st.Broke:
			line = m.style.bad(line)
		}
		b.WriteString(line + "\n")
	}
}

// drawLines draws the lines of the log, straight from the file: only those that
// are on the screen are read. A damaged file says so where its lines would
// stand, and the view stays open.
func (m *view) drawLines(b *strings.Builder) {
	room := m.below()
	lines, err := m.pages.Lines(m.line, room)
	if err != nil {
		lines = []string{err.Error()}
	}
	for n := range room {
		if n >= len(lines) {
			b.WriteString("\n")
			continue
		}
		number := m.line + n
		text := fit(columns.CutLeft(clean(lines[n]), m.left), m.width-10)
		head := fmt.Sprintf("%8d  ", number)
		if number == m.mark {
			b.WriteString(m.style.bold(fmt.Sprintf("%8d> ", number)+text) + "\n")
			continue
		}
		b.WriteString(m.style.faint(head) + text + "\n")
	}
}
