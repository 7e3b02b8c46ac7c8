// Package generic reads any other program's debug log: time, level, logger and
// text in the usual forms, JSON lines, logfmt, and the stack traces below them.
//
// To read it: this file takes lines; entry.go makes an entry of one, record.go
// of named values; ends.go takes up how the run went, lastword.go its last lines,
// product.go what was set up, stages.go its parts. plain.go is for lines without
// time and level, document.go for one JSON value, blocks.go for records of
// several lines.
package generic

import (
	"bytes"
	"cmp"
	"slices"
	"strings"
	"time"

	"hollowkey/core/logs/dialects/lines"
	"hollowkey/core/logs/endings"
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
	b         *lines.Builder         // makes the story
	first     string                 // shape of the first entry, which begins each run
	stage     *story.Action          // the stage under way, nil between them
	number    string                 // of the stage under way, where stages have numbers
	said      *bool                  // the last line that told how the run went
	grave     bool                   // a line has a level graver than info
	leveled   bool                   // a line has a level
	firm      bool                   // the exit code is the setup's own, not that of a part of it
	entries   int                    // of this attempt so far
	host      string                 // of the machine that speaks, as the first records give it
	sourced   bool                   // the first records tell who wrote them
	records   int                    // of named values so far
	ends      map[*story.Attempt]int // the last line that is an entry; what follows is another program\'s
	well      map[*story.Attempt]int // the line that told last that it worked
	other     map[*story.Attempt]int // the line that told last that what failed is done another way
	trace     int                    // lines of a stack trace since the last entry
	loose     bool                   // the last entry is a line without a stamp among stamped ones
	bare      bool                   // it began with a line that has neither time nor level
	timed     bool                   // an entry had a time
	unstamped int                    // the line from which on no entry had one; 0 where the last had

	told map[string]int // how often an agent names what it handles; nil for other programs

	columns peel.Columns   // what was learned of the lines; none where the usual forms are enough
	form    form           // a table's or an XML text's, nil for others
	rows    bool           // it is a table's
	letters bool           // single letters in brackets are parts of the program, and no levels
	scale   scale          // of levels that are numbers; nil where the first lines do not tell
	plain   bool           // a text without time and level: each line is an entry
	speaker string         // who stands before the line of such a text; empty where nobody does
	causes  bool           // the entries above are the causes of a failure, numbered
	asked   bool           // the line before asked a shell what the last program ended with
	thrown  *story.Message // the last error of a PowerShell console, behind which nothing came; nil where something did
	record  int            // the line up to which that error goes
	pace    int            // lines of the file for each that says something
	twofold bool           // records have two lines
	head    *entry         // the first line of such a record, until the second is read
	deep    bool           // and lines that begin with blanks are entries too, as in a report
	under   bool           // so are those below a line that opens something: "Checking the runtime ..."
}

// New makes a reader for the log called file.
func New(file string) *Reader { return &Reader{b: lines.New(file, story.Generic)} }

// NewLearned makes a reader for a log whose lines have columns or a form of
// their own, told by the first of them.
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

// longestFront is how many bytes may stand in front of that bracket: 40 letters
// of four bytes.
const longestFront = 160

// lettersAreParts says whether single letters in brackets, which could be
// levels, are names of parts: other lines have such names there.
func lettersAreParts(head [][]byte) bool {
	letters, names := 0, 0
	for _, l := range head {
		if at := bytes.IndexByte(l, '['); at < 0 || at > longestFront {
			continue
		}
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

// Paced tells how many lines of the file each that says something takes: 2 where
// a blank one stands behind each.
func (r *Reader) Paced(lines int) { r.pace = lines }

// Skipped counts lines that were left out.
func (r *Reader) Skipped(n int) { r.b.Skipped(n) }

// parse reads an entry in one of the usual forms, or in the columns of this
// log.
func (r *Reader) parse(line []byte) (e entry, ok bool) {
	if r.form != nil {
		if e, ok := r.form(line); ok {
			return e, true
		}
	}
	e, ok = parse(line)
	// Columns that the log itself has taught are believed where they leave less
	// to say.
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
			e.blank = e.text == "" // as a blank line behind another program's stamp
			return e, true
		}
		if !fits && r.columns.Alone(line) {
			return entry{at: -1, blank: true}, true
		}
	}
	if ok && e.at < 0 && bytes.HasSuffix(line, []byte("}")) {
		e.date, e.at = stampBehind(line)
	}
	if r.plain && len(line) > 0 && line[0] > ' ' {
		r.under = bytes.HasSuffix(bytes.TrimRight(line, " \t\r"), []byte("...")) || bytes.HasSuffix(bytes.TrimRight(line, " \t\r"), []byte("…"))
	}
	if !ok && r.plain && ((r.deep || r.under) && !isFrame(line) || !continuation(line)) {
		return entry{at: -1, kind: story.KindText, source: r.speaker, text: strings.TrimSpace(string(line))}, true
	}
	return e, ok
}

// behindKeys are the names under which an object at the end of a line holds its
// time.
var behindKeys = []string{`"timestamp":"`, `"time":"`, `"ts":"`, `"@timestamp":"`, `"date":"`}

// stampBehind reads the time out of an object at the end of a line, "info: text
// {…}"; -1 where there is none.
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

// isFrame says whether a line is one of a stack trace, which belongs to the
// entry above however far all lines are set in.
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
	r.throws(l)
	e, ok := r.parse(l.Text)
	if e.blank {
		return
	}
	if r.letters && e.level {
		if m := bracketed.FindSubmatch(l.Text); m != nil && len(m[1]) == 1 {
			e.kind, e.level, e.source = story.KindText, false, string(m[1])
		}
	}
	if e.number != "" && r.scale != nil {
		e.kind, e.level = r.scale[e.number], true
	}
	if !ok || continuation(l.Text) && e.at < 0 && (!r.deep && !r.under || isFrame(l.Text)) {
		r.more(l)
		return
	}
	if r.ofChain(e.text) {
		r.b.More(l.Number, strings.TrimSpace(e.text))
		return
	}
	r.entry(l, e)
}

// ofChain says whether an entry goes on with the causes of the failure above
// it, which some loggers write as entries of their own: "Caused by:", then "0:
// …" and "1: …".
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

// isErrorName is the name of an error of the C library, of the platform SDK or
// of a class of errors.
var isErrorName = lazy.MustCompile(`^(?:(?:WSA)?E[A-Z]{3,15}|ERROR_[A-Z0-9_]{3,60}|STATUS_[A-Z0-9_]{3,60}|[A-Z]\w{3,60}(?:Exception|[a-z]Error))$`)

// noDate is the year in which the OS begins to count: a stamp of it is one that
// was never set. Source: the platform SDK, "FILETIME structure".
const noDate = "1601"

// entry puts an entry into the story.
func (r *Reader) entry(l textfile.Line, e entry) {
	r.trace, r.loose = 0, false
	if strings.HasPrefix(e.date, noDate) {
		e.date, e.at = "", -1
	}
	if r.timed = r.timed || e.at >= 0; e.at >= 0 {
		r.unstamped = 0
	} else if r.unstamped == 0 {
		r.unstamped = l.Number
	}
	if !e.level {
		e.text = strings.TrimPrefix(e.text, "--- ") // where others say how grave they are
		e.kind = guess(e.text)
		g, rest := levelWord(e.text)
		if value := pieces.Lower(strings.TrimSpace(rest)); g != peel.Unknown && !noError(value) && !pieces.IsYes(value) { // "Errors: 0"
			e.kind, e.level, e.text = ofGravity[g], true, rest
		}
	}
	if isErrorName.MatchString(e.source) { // it stands where others name themselves, and says what happened
		e.source, e.text = "", e.source+": "+e.text
	}
	r.ofRecord(&e)
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
	told, at := e, stages // without the record's further fields, which are no words of a step's name
	if end := len(e.text) - e.fields; e.fields > 0 && end > 0 && len(low) == len(e.text) {
		told.text = e.text[:end]
		at = slices.DeleteFunc(slices.Clone(stages), func(i int) bool { return i >= end })
	}
	r.entries++
	if r.product(told); told.text != e.text {
		r.product(e)
	}
	r.stages(l.Number, told, pieces.Lower(told.text), found, at)
	m := r.b.Add(lines.Entry{Line: l.Number, At: e.at, Date: e.date, Kind: e.kind, Number: ofEngine(e.text), Source: e.source,
		Text: told.text, Raw: string(l.Text)})
	if len(told.text) < len(e.text) {
		r.b.More(l.Number, strings.TrimSpace(e.text[len(told.text):]))
	}
	r.outcome(l.Number, e, m, low, found)
	for _, x := range e.extra {
		r.b.More(l.Number, x)
		r.inner(l.Number, x)
	}
}

// ofRecord puts back into an entry's text the values that name a machine or a
// part of the program, but other than all lines before it do: then they are
// what the line is about.
func (r *Reader) ofRecord(e *entry) {
	if !e.named {
		return
	}
	if r.records++; r.records <= firstRecords {
		r.host = cmp.Or(r.host, e.host)
		r.sourced = r.sourced || e.source != ""
		return
	}
	add := func(name, value string) {
		e.text += " " + name + "=" + value
		e.fields += len(name) + len(value) + len(" =")
	}
	if e.host != "" && !strings.EqualFold(e.host, r.host) {
		add("host", e.host)
	}
	if e.sourceName != "" && !r.sourced && e.source != "" {
		add(e.sourceName, e.source)
	}
}

// firstRecords are those that show which machine writes, and whether all lines
// tell which part of the program does.
const firstRecords = 2

// ofEngine is the number of a message of the installer engine that a program
// hands on as the engine writes it into the event log: "Product: Tide Watch --
// Error 1316. …"; 0 for anything else.
func ofEngine(text string) int {
	head, said, ok := strings.Cut(text, " -- ")
	if !ok || !engineHead.MatchString(head) {
		return 0
	}
	_, number, _, _ := lines.Numbered([]byte(said))
	return number
}

// engineHead is how the engine says in the languages of the OS which product it
// speaks of.
var engineHead = lazy.MustCompile(`^(?:Product|Produkt|Produit|Producto|Prodotto|Produto|Productnaam|Ürün|Продукт|製品|제품|产品|產品) ?[:：] ?\S`)

// newRun says whether an entry begins another run of the program.
func (r *Reader) newRun(line int, e entry, found mark) bool {
	if r.b.A == nil {
		if found&begun != 0 {
			r.first = start(e.text)
		}
		return false
	}
	if r.first != "" && found&begun != 0 && start(e.text) == r.first && line > r.b.A.Line+r.paced(2) {
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

// stages takes the stage that an entry speaks of; at are the places of words
// for one.
func (r *Reader) stages(line int, e entry, low string, found mark, at []int) {
	said := stageOf(e.text, low, found, at)
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
	} else if row := rowFailed.FindStringSubmatch(e.text); row != nil && number != "" { // a row of a list, with how it went
		if r.stage != nil && r.stage.EndLine == 0 {
			r.b.End(r.stage, line, false, nil, "")
		}
		r.stage, r.number = r.b.Start(line, strings.TrimRight(name, " .…"), nil), number
		r.b.End(r.stage, line, true, nil, e.text)
	}
}

// rowFailed is a row of a list of steps that ends with how the step went,
// behind dots or blanks: step 4 register printer ..... FAILED.
var rowFailed = lazy.MustCompile(`(?i)(?:\.{2,}|…|\s{2,}|\t|[-–:=]>?\s) ?\[?(?:failed|error|fail|not ok|ko|nok|fehler|fehlgeschlagen|échec|échoué|error|fallo|falló|errore|fallito|erro|falhou|fout|mislukt|błąd|chyba|fel|hata|ошибка)\]?[.!]?\s*$`)

// mostNamed is how many names an agent's log may tell that are counted: a
// machine has a few hundred products, and an agent looks at each of them.
const mostNamed = 1000

// toldAgain counts how often an agent names what it handles. Of products that
// it only looks for it says so once each; what it installs it names when it
// begins and when it is done.
func (r *Reader) toldAgain(e entry) {
	if r.told == nil || len(r.told) > mostNamed || !strings.ContainsAny(e.text, `"'«“„`) {
		return
	}
	m := toldProduct.FindStringSubmatch(e.text)
	if m == nil {
		return
	}
	name, number := partedVersion(m[1])
	r.told[name]++
	if p := &r.b.A.Product; r.told[name] > r.told[p.Name] && r.told[p.Name] > 0 {
		p.Name, p.Version = name, number
	}
}

// again takes a line that speaks of the stage under way once more: it ended,
// well or not.
func (r *Reader) again(line int, e entry, quoted bool) {
	low := pieces.Lower(e.text)
	switch {
	case r.stage.EndLine != 0:
	case strings.Contains(low, "fail"), strings.Contains(low, "abort"), strings.Contains(low, "error"), e.level && e.kind <= story.KindError,
		endings.Read(e.text).Fails:
		r.b.End(r.stage, line, true, nil, e.text)
	case strings.Contains(low, "complete"), strings.Contains(low, "done"), strings.Contains(low, "succe"),
		strings.Contains(low, " ok"), quoted, wentWell.Any(low):
		r.b.End(r.stage, line, false, nil, "")
	}
}
