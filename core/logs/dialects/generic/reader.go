// Package generic reads any other program's debug log: time, level, logger and
// text in the usual forms, JSON lines, logfmt, and the stack traces below them.
package generic

import (
	"bytes"
	"slices"
	"strconv"
	"strings"
	"time"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// newRun is a silence after which a new run is taken for begun.
const newRun = 20 * time.Minute

// A Reader reads one log. Make it with [New].
type Reader struct {
	b       *lines.Builder         // makes the story
	first   string                 // shape of the first entry, which begins each run
	stage   *story.Action          // the stage under way, nil between them
	number  string                 // of the stage under way, where stages have numbers
	said    *bool                  // the last line that told how the run went
	grave   bool                   // a line has a level graver than info
	leveled bool                   // a line has a level
	firm    bool                   // the exit code is the setup's own, not that of a part of it
	entries int                    // of this attempt so far
	ends    map[*story.Attempt]int // the last line that is an entry; what follows is another program\'s
	well    map[*story.Attempt]int // the line that told last that it worked
	other   map[*story.Attempt]int // the line that told last that what failed is done another way
	trace   int                    // lines of a stack trace since the last entry

	told map[string]int // how often an agent names what it handles; nil for other programs

	columns peel.Columns // what was learned of the lines; none where the usual forms are enough
	form    form         // a table's or an XML text's, nil for others
	rows    bool         // it is a table's
	letters bool         // single letters in brackets are parts of the program, and no levels
	scale   scale        // of levels that are numbers; nil where the first lines do not tell
	plain   bool         // a text without time and level: each line is an entry
	speaker string       // who stands before the line of such a text; empty where nobody does
	causes  bool         // the entries above are the causes of a failure, numbered
	asked   bool         // the line before asked a shell what the last program ended with
	twofold bool         // records have two lines
	head    *entry       // the first line of such a record, until the second is read
	deep    bool         // and lines that begin with blanks are entries too, as in a report
}

// New makes a reader for the log called file.
func New(file string) *Reader { return &Reader{b: lines.New(file, story.Generic)} }

// NewLearned makes a reader for a log whose lines have columns or a form of their
// own, told by the first of them.
func NewLearned(file string, columns peel.Columns, head [][]byte) *Reader {
	r := New(file)
	if r.form = table(head); r.form != nil {
		r.rows = true
	} else {
		r.form = learn(head)
	}
	if columns.Told() {
		r.columns = columns
	}
	r.scale = scaleOf(r, head)
	r.twofold = isHeaded(head)
	r.letters = lettersAreParts(head)
	return r
}

// bracketed is the first word in brackets of a line.
var bracketed = lazy.MustCompile(`^[^\[]{0,40}\[(\pL[\w-]*)\]`)

// lettersAreParts says whether single letters in brackets, which could be levels, are names of parts: other
// lines have such names there.
func lettersAreParts(head [][]byte) bool {
	letters, names := 0, 0
	for _, l := range head {
		m := bracketed.FindSubmatch(l)
		switch {
		case m == nil:
		case len(m[1]) == 1:
			letters++
		case peel.Level(strings.ToLower(string(m[1]))) == peel.Unknown:
			names++
		}
	}
	return letters > 0 && names > 0
}

// CanSkip says whether lines may be left out: each is a record.
func (r *Reader) CanSkip() bool { return (r.form == nil || r.rows) && !r.twofold }

// Skipped counts lines that were left out.
func (r *Reader) Skipped(n int) { r.b.Skipped(n) }

// parse reads an entry in one of the usual forms, or in the columns of this log.
func (r *Reader) parse(line []byte) (e entry, ok bool) {
	if r.form != nil {
		if e, ok := r.form(line); ok {
			return e, true
		}
	}
	e, ok = parse(line)
	if len(r.columns) > 0 {
		f, rest, fits := r.columns.Take(line)
		g := peel.Level(f.Level)
		known := e.named && (e.level || g == peel.Unknown)
		if fits && !known && (!ok || !e.level || g != peel.Unknown && len(rest) < len(e.text)) { // the columns peel more off
			e = entry{date: f.Date, at: f.At, kind: story.KindText, source: f.Source, text: strings.TrimSpace(string(rest))}
			if g != peel.Unknown {
				e.kind, e.level = ofGravity[g], true
			} else {
				e.number, e.bare = f.Figure, true
			}
			e.unlog()
			return e, e.text != ""
		}
	}
	if ok && e.at < 0 && bytes.HasSuffix(line, []byte("}")) {
		e.date, e.at = stampBehind(line)
	}
	if !ok && r.plain && (r.deep && !isFrame(line) || !continuation(line)) {
		return entry{at: -1, kind: story.KindText, source: r.speaker, text: strings.TrimSpace(string(line))}, true
	}
	return e, ok
}

// behindKeys are the names under which an object at the end of a line holds its time.
var behindKeys = []string{`"timestamp":"`, `"time":"`, `"ts":"`, `"@timestamp":"`, `"date":"`}

// stampBehind reads the time out of an object at the end of a line, "info: text {…}"; -1
// where there is none.
func stampBehind(line []byte) (date string, at time.Duration) {
	for _, key := range behindKeys {
		if i := bytes.LastIndex(line, []byte(key)); i > 0 {
			if date, at, n := lines.Stamp(line[i+len(key):]); n > 0 {
				return date, at
			}
		}
	}
	return "", -1
}

var ofGravity = map[peel.Gravity]story.Kind{peel.Debug: story.KindText, peel.Info: story.KindInfo, peel.Warning: story.KindWarning,
	peel.Error: story.KindError}

// Score counts the lines with time or level; a text with few of them is no log.
func Score(ls [][]byte) (n int) {
	if f := learn(ls); f != nil {
		for _, l := range ls {
			if _, ok := f(l); ok {
				n++
			}
		}
		return n
	}
	total := 0
	for _, l := range ls {
		if len(bytes.TrimSpace(l)) == 0 || continuation(l) {
			continue
		}
		total++
		if e, ok := parse(l); ok && (e.at >= 0 || e.level) {
			n++
		}
	}
	if n < 2 && !(n == 1 && total <= 3) || n*4 < total {
		return 0
	}
	return n
}

// continuation says whether a line belongs to the entry above.
func continuation(l []byte) bool {
	if len(l) == 0 {
		return true
	}
	t := bytes.TrimLeft(l, " \t")
	return len(t) < len(l) && (bytes.HasPrefix(t, []byte("at ")) || bytes.HasPrefix(t, []byte("bei ")) || bytes.HasPrefix(t, []byte("..."))) ||
		bytes.HasPrefix(t, []byte("Caused by:")) || bytes.HasPrefix(t, []byte("--->")) || bytes.HasPrefix(t, []byte("--- End of")) ||
		len(t) < len(l) || t[0] == '}'
}

// isFrame says whether a line is one of a stack trace, which belongs to the entry above however far
// all lines are set in.
func isFrame(l []byte) bool {
	t := bytes.TrimLeft(l, " \t")
	return len(t) < len(l) && (bytes.HasPrefix(t, []byte("at ")) || bytes.HasPrefix(t, []byte("bei ")) || bytes.HasPrefix(t, []byte(`File "`)))
}

// Line takes the next line.
func (r *Reader) Line(l textfile.Line) {
	if len(bytes.TrimSpace(l.Text)) == 0 {
		return
	}
	if r.answered(l) {
		return
	}
	if r.twofold && r.headed(l) {
		return
	}
	if bytes.Contains(l.Text, []byte("1:")) && thrownAt.Match(l.Text) { // where the command before stands in its script: it failed
		if m := r.b.Last(); m != nil && m.Kind > story.KindError && !m.Verdict {
			m.Kind = story.KindError
		}
	}
	e, ok := r.parse(l.Text)
	if r.letters && e.level {
		if m := bracketed.FindSubmatch(l.Text); m != nil && len(m[1]) == 1 {
			e.kind, e.level, e.source = story.KindText, false, string(m[1])
		}
	}
	if e.number != "" && r.scale != nil {
		e.kind, e.level = r.scale[e.number], true
	}
	if !ok || continuation(l.Text) && e.at < 0 && (!r.deep || isFrame(l.Text)) {
		r.more(l)
		return
	}
	if r.ofChain(e.text) {
		r.b.More(l.Number, strings.TrimSpace(e.text))
		return
	}
	r.entry(l, e)
}

// ofChain says whether an entry goes on with the causes of the failure above it, which some loggers
// write as entries of their own: "Caused by:", then "0: …" and "1: …".
func (r *Reader) ofChain(text string) bool {
	text = strings.TrimSpace(text)
	if r.b.Last() == nil {
		return false
	}
	if text == "Caused by:" {
		r.causes = true
		return true
	}
	r.causes = r.causes && ofCauses.MatchString(text)
	return r.causes
}

// ofCauses is one of the causes below such a head.
var ofCauses = lazy.MustCompile(`^\d{1,2}: \S`)

// asksExit is a line of a console on which somebody asks a shell what the last program ended with.
var asksExit = lazy.MustCompile(`(?i)^(?:[^>$#]{0,200}[>$#]\s*)?(?:echo\s+(?:%errorlevel%|\$lastexitcode|\$\?)|\$lastexitcode)\s*$`)

// answered takes the shell's answer to that, the number on the next line.
func (r *Reader) answered(l textfile.Line) bool {
	text := bytes.TrimSpace(l.Text)
	asked := r.asked
	if r.asked = bytes.HasSuffix(text, []byte("%")) || bytes.IndexByte(text, '$') >= 0; r.asked {
		r.asked = asksExit.Match(text)
	}
	if !asked {
		return false
	}
	n, err := strconv.Atoi(string(text))
	if err != nil {
		return false
	}
	r.b.Ensure(l.Number)
	r.b.Exit(l.Number, n, string(text))
	r.said, r.firm = new(exitcode.Good(n)), true
	return true
}

// thrownAt is the line of a PowerShell console under an error that tells where in which script.
var thrownAt = lazy.MustCompile(`^(?:At|In|En|In riga:|Em|Bij|W|На|発生場所|위치|所在位置|Au caractère) ?.{0,200}\.psm?1:\s?\d+ (?:char|Zeichen|carácter|car|caractere|teken|znak|знак|文字|문자|字符|:) ?:? ?\d+`)

// noDate is the year in which the OS begins to count: a stamp of it is one that was never set.
// Source: the platform SDK, "FILETIME structure".
const noDate = "1601"

// entry puts an entry into the story.
func (r *Reader) entry(l textfile.Line, e entry) {
	r.trace = 0
	if strings.HasPrefix(e.date, noDate) {
		e.date, e.at = "", -1
	}
	if !e.level {
		e.text = strings.TrimPrefix(e.text, "--- ") // where others say how grave they are
		e.kind = guess(e.text)
		g, rest := levelWord(e.text)
		if value := pieces.Lower(strings.TrimSpace(rest)); g != peel.Unknown && !noError(value) && !pieces.IsYes(value) { // "Errors: 0"
			e.kind, e.level, e.text = ofGravity[g], true, rest
		}
	}
	low := pieces.Lower(e.text)
	found, stages := marksIn(low)
	r.leveled, r.grave = r.leveled || e.level && e.kind == story.KindInfo, r.grave || e.level && e.kind <= story.KindWarning
	if r.newRun(l.Number, e, found) {
		r.b.Begin(l.Number)
		r.stage, r.said, r.firm, r.entries = nil, nil, false, 0
	}
	r.b.Ensure(l.Number)
	r.b.Stamp(l.Number, e.at, e.date)
	if r.ends == nil {
		r.ends, r.other = map[*story.Attempt]int{}, map[*story.Attempt]int{}
	}
	r.ends[r.b.A] = l.Number
	r.facts(l.Number, e, low, found, stages)
	m := r.b.Add(lines.Entry{Line: l.Number, At: e.at, Date: e.date, Kind: e.kind, Number: ofEngine(e.text), Source: e.source,
		Text: e.text, Raw: string(l.Text)})
	r.outcome(l.Number, e, m, low, found)
	for _, x := range e.extra {
		r.b.More(l.Number, x)
		r.inner(l.Number, x)
	}
}

// ofEngine is the number of a message of the installer engine that a program hands on as the engine
// writes it into the event log: "Product: Tide Watch -- Error 1316. …"; 0 for anything else.
func ofEngine(text string) int {
	head, said, ok := strings.Cut(text, " -- ")
	if !ok || !engineHead.MatchString(head) {
		return 0
	}
	_, number, _, _ := lines.Numbered([]byte(said))
	return number
}

// engineHead is how the engine says in the languages of the OS which product it speaks of.
var engineHead = lazy.MustCompile(`^(?:Product|Produkt|Produit|Producto|Prodotto|Produto|Productnaam|Ürün|Продукт|製品|제품|产品|產品) ?[:：] ?\S`)

// newRun says whether an entry begins another run of the program.
func (r *Reader) newRun(line int, e entry, found mark) bool {
	if r.b.A == nil {
		if found&begun != 0 {
			r.first = start(e.text)
		}
		return false
	}
	if r.first != "" && found&begun != 0 && start(e.text) == r.first && line > r.b.A.Line+2 {
		return true
	}
	return r.b.Gap(e.at, e.date) >= newRun && (r.said != nil || opening.MatchString(e.text))
}

// start is what the first lines of two runs have in common: product and a word
// for beginning.
func start(text string) string {
	m := opening.FindStringSubmatch(strings.TrimLeft(text, "=-*#>~_. \t"))
	if m == nil {
		return ""
	}
	return m[1]
}

// facts takes product, version and stages.
func (r *Reader) facts(line int, e entry, low string, found mark, stages []int) {
	r.entries++
	r.product(e)
	said := stageOf(e.text, low, found, stages)
	if said.name == "" && found&begun != 0 || said.name == "" && strings.HasPrefix(low, "end") {
		if m := limitedBy(e.source, e.text); m.name != "" { // the word for a stage stands where others name themselves
			said = m
		}
	}
	name, number := said.name, said.number
	if name == "" {
		return
	}
	if m := jobOf.FindStringSubmatch(e.text); m != nil && strings.HasPrefix(m[1], name) { // the job that installs it is all of it
		if p := &r.b.A.Product; p.Name == "" {
			p.Name, p.Version = strings.TrimSpace(m[1]), m[2]
		}
		return
	}
	if r.stage != nil && (strings.EqualFold(r.stage.Name, name) || number != "" && number == r.number) {
		r.again(line, e, said.quoted)
		return
	}
	if e.kind > story.KindWarning && !said.ends && !strings.Contains(low, "fail") {
		if r.stage != nil && r.stage.EndLine == 0 {
			r.b.End(r.stage, line, false, nil, "")
		}
		r.stage, r.number = r.b.Start(line, name, nil), number
	}
}

// jobOf is an agent's job called after the product that it installs: job 412 "Tide Watch 3.1".
var jobOf = lazy.MustCompile(`(?i)\b(?:job|task|deployment|assignment|auftrag|tâche|tarea)\b[ #:]*\d* ?["'“«]((?:[\p{Lu}\d][\p{L}\d.&+-]* ){1,5})v?(\d+(?:\.\d+)+)["'”»]`)

// product takes what a program calls itself at its beginning, and what an agent installs.
func (r *Reader) product(e entry) {
	p := &r.b.A.Product
	if p.Name != "" {
		r.toldAgain(e)
		return
	}
	if e.product != "" {
		p.Name, p.Version = e.product, e.version
	} else if name, number, ok := notInstalledIn(e.text); ok && r.entries <= productLines {
		p.Name, p.Version = name, number
	} else if r.entries <= productLines {
		if name, number, ok := productOf(e.text); ok && !asks(e.text) {
			p.Name, p.Version = name, number
		} else if m := titled.FindStringSubmatch(e.text); m != nil && r.entries <= firstWords &&
			(endings.IsSetup(strings.ToLower(e.source)) || speaksOfSetups([]byte(e.text[len(m[0]):]))) {
			p.Name, p.Version = strings.TrimSpace(m[1]), m[2]
		}
	}
	if p.Name == "" && r.entries <= agentLines && strings.ContainsAny(e.text, `"'«“„`) {
		if m := toldProduct.FindStringSubmatch(e.text); m != nil && strings.Contains(m[1], " ") {
			p.Name = m[1]
			r.told = map[string]int{m[1]: 1}
		}
	}
}

// mostNamed is how many names an agent's log may tell that are counted: a machine has a few hundred
// products, and an agent looks at each of them.
const mostNamed = 1000

// toldAgain counts how often an agent names what it handles. Of products that it only looks for it
// says so once each; what it installs it names when it begins and when it is done.
func (r *Reader) toldAgain(e entry) {
	if r.told == nil || len(r.told) > mostNamed || !strings.ContainsAny(e.text, `"'«“„`) {
		return
	}
	m := toldProduct.FindStringSubmatch(e.text)
	if m == nil {
		return
	}
	r.told[m[1]]++
	if p := &r.b.A.Product; r.told[m[1]] > r.told[p.Name] && r.told[p.Name] > 0 {
		p.Name = m[1]
	}
}

// again takes a line that speaks of the stage under way once more: it ended, well or
// not.
func (r *Reader) again(line int, e entry, quoted bool) {
	low := pieces.Lower(e.text)
	switch {
	case r.stage.EndLine != 0:
	case strings.Contains(low, "fail"), strings.Contains(low, "abort"), strings.Contains(low, "error"), e.level && e.kind <= story.KindError,
		endings.Read(e.text).Fails:
		r.b.End(r.stage, line, true, nil, e.text)
	case strings.Contains(low, "complete"), strings.Contains(low, "done"), strings.Contains(low, "succe"),
		strings.Contains(low, " ok"), quoted, hasAny(low, wentWellWords):
		r.b.End(r.stage, line, false, nil, "")
	}
}

// wentWellWords end a part in the other languages.
var wentWellWords = []string{"erfolgreich", "réussi", "correcto", "riuscit", "concluíd", "geslaagd", "zakończon", "dokončen", "klar", "tamam", "успешно",
	"成功", "完了", "終了", "完成", "성공", "완료"}

// outcome takes what a line tells of how the run went; the last such line counts.
func (r *Reader) outcome(line int, e entry, m *story.Message, low string, found mark) {
	a := r.b.A
	e.text = e.text[:min(len(e.text), mostTold)]
	said := endings.Read(aboutSetup(e.told(), a.Product.Name))
	said.Passed = said.Passed || said.Again && !said.Firm
	if x := said.Exit; x != nil && !said.Passed && (*x != 0 || !e.level || e.kind <= story.KindInfo) && (said.Firm || !r.firm) {
		r.b.Exit(line, *x, m.Raw)
		r.said, r.firm = new(exitcode.Good(*x)), said.Firm
	}
	switch {
	case strings.HasPrefix(e.text, "*") && agentFailed.MatchString(e.text): // what the agent was asked for ended so
		r.tell(line, false)
	case said.Cancelled, found&cancelling != 0 && cancelled.MatchString(e.text):
		a.Cancelled = true
		r.tell(line, false)
	case !said.Passed && (said.Failed || found&failed != 0 && failing.MatchString(e.text)):
		r.tell(line, false)
		if a.Rollback == 0 && strings.Contains(low, "rolling back") {
			a.Rollback = line
		}
		if e.kind > story.KindWarning {
			m.Kind = story.KindWarning
		}
		m.Verdict = true
	case e.kind > story.KindWarning && !said.Partly &&
		(said.Worked || said.Ready && names(low, a.Product.Name) || isReady(low, a.Product.Name) ||
			found&worked != 0 && working.MatchString(e.text)) &&
		!notReally.MatchString(e.text): // last: it looks through the whole line
		if x := a.Exit; x != nil && !exitcode.Good(x.Code) && line-x.Line <= soon && !strings.Contains(low, "succe") {
			break // it is over, and its number said how
		}
		r.tell(line, true)
		m.Verdict = true
	}
	if e.kind > story.KindError && said.Restart {
		a.Restart = true
	}
	if e.kind > story.KindWarning && said.Instead && !said.Fails && r.said != nil && !*r.said && line-r.well[a] <= soon && a.Exit == nil {
		r.said, a.Success, r.other[a] = nil, nil, line // one way failed, and another is gone
	}
}

// nowReady is all that a line says behind a product's name: "Tide Watch 4.4 ready".
var nowReady = lazy.MustCompile(`^(?: v?[\d.]+)?(?: is| ist| est| está| è)?(?: now)? ?(?:ready|bereit|prête?|list[oa]|pront[oa]|klaar|gotow[ey]|hotovo|klar|hazır|готово?|の準備完了|已就绪|준비 완료)[.!]?$`)

// isReady says whether a line, in small letters, tells that a product is ready, and nothing else: who
// waits until it is says more.
func isReady(low, product string) bool {
	rest, ok := strings.CutPrefix(low, pieces.Lower(product))
	return ok && product != "" && nowReady.MatchString(rest)
}

// agentFailed is the end of an operation of the OS's update agent with an HRESULT that is a failure.
var agentFailed = lazy.MustCompile(`^\*{1,2} END \*{1,2} .*\b(?:hr|hResult|error)\s?[=:]\s?(?:0x)?8[0-9A-Fa-f]{7}\b`)

// told is what an entry says of an end: with the name of who says it, where that is a word for
// a setup and the rest is short: "setup" and "ended: 8".
func (e entry) told() string {
	if e.source != "" && strings.Count(strings.TrimRight(e.text, " ().:,-0123456789"), " ") < shortEnd && endings.IsSetup(strings.ToLower(e.source)) {
		return e.source + " " + e.text
	}
	return e.text
}

// aboutSetup reads a sentence that tells what became of the product as one about its setup: "Tide
// Watch 3.1 was not installed, 8". What else the product does, or does not, is no end.
func aboutSetup(text, product string) string {
	if len(product) < leastName || len(text) <= len(product) || !strings.EqualFold(text[:len(product)], product) || text[len(product)] != ' ' {
		return text
	}
	rest := text[len(product)+1:]
	if word, more, ok := strings.Cut(rest, " "); ok && strings.Trim(word, "v.0123456789") == "" {
		rest = more
	}
	if !becameOf.MatchString(rest) {
		return text
	}
	return "setup " + rest
}

// becameOf is what becomes of a product that is set up.
var becameOf = lazy.MustCompile(`(?i)^(?:(?:was|is|has|have|been|could|can|be|will|not|cannot) ){0,4}(?:installed|updated|upgraded|uninstalled|repaired|deployed)\b|` +
	`^(?:wurde|konnte|ist) (?:nicht )?(?:installiert|aktualisiert)|^n['’]a pas (?:été|pu être) (?:installée?|mise? à jour)|^no se (?:instaló|pudo instalar|actualizó)|` +
	`^non è stat[oa] (?:installat[oa]|aggiornat[oa])|^não foi (?:instalad[oa]|atualizad[oa])|^(?:is|werd) niet geïnstalleerd|^nie został[oa]? zainstalowan`)

// leastName is how many bytes of a name are no word of a sentence by chance.
const leastName = 5

// shortEnd is how many words such an end has at most; longer ones name what they are about.
const shortEnd = 3

// soon is how many lines behind an exit code words for an end still speak of the same run.
const soon = 12

// mostTold is how many bytes of a line are looked at for how the setup ended: who says it
// says it in a sentence, and some programs write whole lists on a line.
const mostTold = 2000

func (r *Reader) tell(line int, worked bool) {
	r.said = &worked
	r.b.A.Success = &worked
	if r.well == nil {
		r.well = map[*story.Attempt]int{}
	}
	r.well[r.b.A] = line
	if worked && r.b.A.Exit != nil && r.b.A.Exit.Code != 0 {
		r.b.A.Exit = nil // of something before that was tried again
	}
}

// longestLevel is the length of the longest word for a level, in bytes.
const longestLevel = 30

// levelMarks are signs with which a console shows how grave a line is.
var levelMarks = map[string]peel.Gravity{"(x)": peel.Error, "(X)": peel.Error, "(!)": peel.Warning, "(i)": peel.Info,
	"!!": peel.Error, "!!!": peel.Error, "[!!]": peel.Error, "✗": peel.Error, "✘": peel.Error,
	"❌": peel.Error, "✖": peel.Error, "⚠": peel.Warning, "[!]": peel.Warning, "✔": peel.Info, "✓": peel.Info, "✅": peel.Info,
	"!": peel.Warning, "X": peel.Error, "x": peel.Error, "i": peel.Info}

// plainLevels are words for how grave a line is that no sentence begins with.
var plainLevels = map[string]bool{"ERR": true, "WRN": true, "INF": true, "DBG": true, "FTL": true, "TRC": true, "VRB": true, "CRIT": true,
	"ERRO": true, "DEBU": true, "FATA": true, "ERROR": true, "WARN": true, "WARNING": true, "INFO": true, "DEBUG": true, "TRACE": true, "FATAL": true}

// levelWord reads a word for how grave a line is that it begins with, behind a
// number that counts the lines: "Hata: …", "[WARN] …", "327 verbose …".
func levelWord(text string) (g peel.Gravity, rest string) {
	for mark, g := range levelMarks {
		if rest, ok := strings.CutPrefix(strings.TrimLeft(text, " "), mark+" "); ok {
			return g, strings.TrimLeft(rest, " ")
		}
	}
	t := strings.TrimLeft(text, "0123456789 ")
	if len(t) != len(text) && !strings.HasPrefix(text[:len(text)-len(t)], " ") && !strings.HasSuffix(text[:len(text)-len(t)], " ") {
		return peel.Unknown, text
	}
	t = strings.TrimLeft(t, "[(<")
	end := strings.IndexAny(t, ":])> ")
	if wide := strings.Index(t, "："); wide >= 0 && (end < 0 || wide < end) {
		end = wide
	}
	if end < 3 || end > longestLevel {
		return peel.Unknown, text
	}
	w := t[:end]
	if t[end] == ' ' && plainLevels[w] && len(t) > end+1 && !(t[end+1] >= '0' && t[end+1] <= '9') { // "ERROR 5" names a number
		return peel.Level(w), strings.TrimLeft(t[end:], " ")
	}
	if t[end] == ' ' && len(t) >= len(text) { // a word of the sentence, unless a number or a bracket set it off
		return peel.Unknown, text
	}
	return peel.Level(w), strings.TrimLeft(t[end:], " :])>：")
}

// guess tells the kind of an entry without a level by its words.
func guess(text string) story.Kind {
	low := pieces.Lower(text)
	said := endings.Read(text)
	if said.Fails || hasAny(low, errorPieces) && !countsNone(low) {
		if said.Passed || said.Again || strings.Contains(low, "0 failed") || strings.Contains(low, "no error") {
			return story.KindText // not Info: that would tell that the log has levels
		}
		return story.KindError
	}
	if hasAny(low, warningPieces) {
		return story.KindWarning
	}
	// A value under the name of an error: "Fehler=1073".
	if name, value, ok := pair(text); ok && peel.Level(name) == peel.Error && !noError(strings.ToLower(value)) {
		return story.KindError
	}
	return story.KindText
}

// countsNone says whether a line tells that there are no errors: "errors: 0".
func countsNone(low string) bool {
	for _, piece := range errorPieces {
		if at := strings.Index(low, piece); at >= 0 && !pieces.IsNo(pieces.ValueBehind(strings.TrimRight(low[at:], " "))) {
			return false
		}
	}
	return true
}

// noError says whether a value under the name of an error says that there is none.
func noError(value string) bool { return pieces.IsNo(value) || value == "ok" }

// What makes an error, or a warning, of a line without a level.
var (
	errorPieces   = []string{"fatal", "error:", "error ", "exception", "failed", "failure", "panic", "traceback", "fehler:", "erreur", "errore", "ошибка", "エラー", "오류", "错误", "錯誤", "chyba:", "błąd", "hata:"}
	warningPieces = []string{"warn", "does not match", "mismatch", "denied", "could not", "cannot ", "unable", "refused", "not found", "missing",
		"requires elevation", "konnte nicht", "impossible", "no se pudo", "impossibile", "não foi possível", "kan niet", "nie można", "nelze",
		"kunde inte", "не удалось", "できません", "없습니다", "无法", "無法",
		// does not match
		"stimmt nicht", "ne correspond pas", "no coincide", "non corrisponde", "não corresponde", "komt niet overeen", "nie zgadza", "nesouhlasí",
		"stämmer inte", "eşleşmiyor", "не совпадает", "一致しません", "일치하지", "不匹配", "不一致",
		// denied
		"verweigert", "refusé", "denegado", "accesso negato", "acesso negado", "geweigerd", "odmowa", "odepřen", "nekad", "engellendi", "отказано",
		"拒否", "거부", "拒绝", "拒絕",
		// not found, missing
		"nicht gefunden", "introuvable", "no encontrad", "non trovat", "não encontrad", "niet gevonden", "nie znaleziono", "nenalezen",
		"hittades inte", "bulunamadı", "не найден", "見つかりません", "찾을 수 없", "找不到", "manquant", "ontbreekt", "brakuje", "chybí", "saknas",
		"отсутствует", "缺少"}
)

const maxTrace = 60 // lines of a stack trace that are looked at

// more takes a line that belongs to the entry above.
func (r *Reader) more(l textfile.Line) {
	if r.trace++; r.trace > maxTrace {
		return
	}
	text := string(bytes.TrimRight(l.Text, " \t"))
	r.b.Ensure(l.Number)
	if m := r.b.Last(); r.trace == 1 && m != nil && headOnly(m.Text) { // the logger stands on a line of its own
		if g, rest := levelWord(text); g != peel.Unknown {
			m.Kind, text = ofGravity[g], rest
		}
		m.Source, m.Text, m.Raw, m.Line = m.Text, story.Clip(strings.TrimSpace(text), story.MaxText),
			story.Clip(string(l.Text), story.MaxText), l.Number
		e := entry{at: -1, kind: m.Kind, level: m.Kind != story.KindText, source: m.Source, text: m.Text}
		low := pieces.Lower(e.text)
		found, stages := marksIn(low)
		r.facts(l.Number, e, low, found, stages)
		r.outcome(l.Number, e, m, low, found)
		return
	}
	if r.entries <= productLines && text != "" && (text[0] > ' ' || speaksOfSetups([]byte(text))) { // a title in a layout of its own
		r.product(entry{text: strings.TrimSpace(text)})
	}
	if said := endings.Read(text); len(text) > 0 && text[0] != ' ' && text[0] != '\t' {
		switch banner := strings.Trim(text, " =-*#~_"); {
		case said.Exit != nil && said.Firm:
			r.b.Exit(l.Number, *said.Exit, text)
			r.said, r.firm = new(exitcode.Good(*said.Exit)), true
		case len(banner) < len(text) && !said.Passed && said.Failed: // "=== deployment failed ==="
			r.tell(l.Number, false)
		case len(banner) < len(text) && said.Worked:
			r.tell(l.Number, true)
		}
	}
	if !r.inner(l.Number, text) {
		r.b.More(l.Number, strings.TrimSpace(text))
	}
}

// headOnly says whether an entry's text is a logger's name alone, with the number
// of the event: "Quay.Sync.Installer[15]".
func headOnly(text string) bool {
	// and its method
	if class, method, ok := strings.Cut(text, " "); ok && strings.Count(class, ".") > 1 && !strings.ContainsAny(method, " :=.") {
		return true
	}
	return len(text) > 3 && !strings.ContainsAny(text, " :=") && strings.Count(text, ".") > 0 && !strings.HasSuffix(text, ".")
}

// inner takes the cause within a stack trace: "Caused by: …", "---> …", or an
// exception that stands on a line of its own.
func (r *Reader) inner(line int, text string) bool {
	t := strings.TrimSpace(text)
	switch {
	case strings.HasPrefix(t, "Caused by: "), strings.HasPrefix(t, "---> "), strings.HasPrefix(t, "Inner exception: "),
		exception.MatchString(t):
		kind := story.KindError
		if last := r.b.Last(); last != nil && last.Kind > story.KindWarning {
			kind = last.Kind
		}
		r.b.Add(lines.Entry{Line: line, At: -1, Kind: kind, Text: t, Raw: text})
		return true
	}
	return false
}

var exception = lazy.MustCompile(`^(?:[A-Za-z_][\w]*\.)+[A-Z]?\w*(?:Exception|Error)\b(?::|$)`)

// Finish gives the attempts. Where nothing says how a run ended, errors near its
// end speak for failure.
func (r *Reader) Finish() []*story.Attempt {
	all := r.b.Finish()
	for _, a := range all {
		if a.Success != nil && *a.Success && brokeAfter(a, r.well[a], r.ends[a]) {
			a.Success = nil
		}
		// That other way is no setup when nothing comes of it: it is back to what was there before.
		if at := r.other[a]; at > 0 && at > r.ends[a]-nearEnd && a.Success == nil && a.Exit == nil {
			a.Success = new(false)
		}
		lastWord(a)
		worked := a.Success != nil && *a.Success
		if x := a.Exit; worked && x != nil && !exitcode.Good(x.Code) && x.Line > r.well[a] && r.firm { // the later word counts
			a.Success = new(false)
		}
		settle(a, r.ends[a])
		if a.Success != nil && !*a.Success && r.leveled && !r.grave {
			unlevel(a)
		}
		toldAtEnd(a)
	}
	// A run after the last one that tells anything is only the program's daily work.
	for last := len(all) - 1; last > 0 && !ofSetup(all[last], all[last-1]) && tells(all[:last]); last-- {
		all = all[:last]
	}
	return all
}

// lastWord takes the exit code out of the last line, where it holds a word for an end and a number and
// nothing else: "stopped: 21".
func lastWord(a *story.Attempt) {
	n := len(a.Messages)
	if n == 0 || a.Exit != nil || a.Messages[n-1].Line < a.LastLine {
		return
	}
	m := a.Messages[n-1]
	if code := endings.Read(m.Text).Last; code != nil && (a.Success == nil || *a.Success == exitcode.Good(*code)) {
		a.Exit, m.Verdict = &story.Exit{Place: m.Place, Code: *code, Text: m.Raw}, true
	}
}

// unlevel takes the levels from a run that failed and has no line graver than info: whatever wrote
// it, or handed it on, gives all lines the same, so that their words have to tell.
func unlevel(a *story.Attempt) {
	for _, m := range a.Messages {
		if !m.Verdict && m.Kind > story.KindWarning {
			m.Kind = guess(m.Text)
		}
	}
}

// leastWork is how many entries a run has that does more than look whether there is something
// to do.
const leastWork = 30

// ofSetup says whether a run is one more of the setup before it: it tells an end, or names
// the same product as it begins and goes to work.
func ofSetup(a, before *story.Attempt) bool {
	return a.Success != nil || a.Exit != nil || a.Product.Name != "" && a.Product.Name == before.Product.Name && a.Entries >= leastWork
}

func tells(as []*story.Attempt) bool {
	for _, a := range as {
		if a.Success != nil && !*a.Success {
			return true
		}
	}
	return false
}

// nearEnd is how many lines before the end an error decides.
const nearEnd = 40

// refused says whether one of the last lines before a setup's end tells that the machine is
// refused: "Framework 4.8 or later is required", "setup ends".
func refused(ms []*story.Message, end int) bool {
	const last = 3 // lines; a refusal stands right before "setup ends"
	return slices.ContainsFunc(ms[max(0, len(ms)-last):], func(m *story.Message) bool {
		return m.Line > end-nearEnd && endings.Read(m.Text).Refuses
	})
}

// troubled says whether the lines right before the last one are failures: then a last word of failing is about
// all of it.
func troubled(ms []*story.Message) bool {
	const last = 3 // lines; more work between, and it is one more step that failed
	return slices.ContainsFunc(ms[max(0, len(ms)-last):], func(m *story.Message) bool {
		said := endings.Read(m.Text)
		return !said.Passed && (m.Kind <= story.KindWarning || said.Refuses || said.Fails)
	})
}

// brokeAfter says whether errors at the end of an attempt stand far behind the line that told
// that something worked: then that was a part of it.
func brokeAfter(a *story.Attempt, well, end int) bool {
	return well > 0 && well < end-nearEnd && slices.ContainsFunc(a.Messages, func(m *story.Message) bool {
		return m.Kind <= story.KindError && m.Line > max(well, end-nearEnd) && m.Repeated < often && !survived(m, end)
	})
}

// names says whether a line, in small letters, names a product.
func names(low, product string) bool {
	return product != "" && strings.Contains(low, pieces.Lower(product))
}

var (
	// installedSo is a last line by which all is done but the restart: "installed; reboot to finish".
	installedSo = lazy.MustCompile(`(?i)\b(?:installed|updated|upgraded|deployed|applied|completed?|done)\b.{0,60}\b(?:restart|reboot)`)
	// notOurs is a restart that must come first, or that another setup left behind.
	notOurs = lazy.MustCompile(`(?i)\b(?:before|again|first|pending|previous|earlier|other|another|not|cannot|must be)\b`)
)

// onlyRestart says whether the last line of a log tells that nothing but a restart is missing.
func onlyRestart(text string) bool {
	return endings.Read(text).Restart && installedSo.MatchString(text) && !notOurs.MatchString(text)
}

// atEnd is how many lines before the exit code an error still says how the run ended.
const atEnd = 3

// errorAtEnd says whether a line right before the exit code is told as an error.
func errorAtEnd(a *story.Attempt) bool {
	return slices.ContainsFunc(a.Messages, func(m *story.Message) bool {
		return m.Kind == story.KindError && m.Line < a.Exit.Line && a.Exit.Line-m.Line <= atEnd
	})
}

// often is from how many times on an error of one shape is noise: a setup that breaks says so
// once for each try, and tries three or four times.
const often = 5

// lastWords is how many lines from the end on nothing is said behind an error that it survived.
const lastWords = 2

// survived says whether an error ends nothing: it says that it does not matter or is tried
// another way, or the run went on for long behind another of its kind.
func survived(m *story.Message, end int) bool {
	said := endings.Read(m.Text)
	return said.Passed || said.Again && !said.Firm || m.Since > 0 && m.Since < m.Line-nearEnd && m.Line < end-lastWords
}

// settle decides how an attempt ended of which nothing says so.
func settle(a *story.Attempt, end int) {
	if a.Success == nil && a.Exit != nil {
		a.Success = new(exitcode.Good(a.Exit.Code) && !(exitcode.Restart(a.Exit.Code) && errorAtEnd(a)))
	}
	if a.Success != nil && *a.Success {
		for _, x := range a.Actions {
			x.Failed = false
		}
		return
	}
	if a.Success == nil {
		for _, m := range a.Messages {
			if m.Kind <= story.KindDebug && m.Line > end-nearEnd && m.Repeated < often && !survived(m, end) {
				a.Success = new(false)
			}
		}
		if n := len(a.Messages); a.Success == nil && n > 1 && endings.Read(a.Messages[n-1].Text).Ends && refused(a.Messages[:n-1], end) {
			a.Success = new(false)
		}
	}
	if n := len(a.Messages); a.Success == nil && a.Exit == nil && n > 0 && a.Messages[n-1].Line >= end { // the last word
		said := endings.Read(a.Messages[n-1].Text)
		if said.Fails && !said.Passed && !said.Again && troubled(a.Messages[:n-1]) {
			a.Success = new(false)
		}
	}
	if n := len(a.Messages); a.Success == nil && a.Restart && n > 0 && onlyRestart(a.Messages[n-1].Text) {
		a.Success = new(true)
	}
	if a.Success != nil && !*a.Success && a.Exit != nil && a.Exit.Code == 0 {
		a.Exit = nil
	}
}
