// This file reads lines that tell neither time nor level, such as a console
// shows them.

package generic

import (
	"bytes"
	"cmp"
	_ "embed"
	"slices"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/exitcode"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/peel"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/steps"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// A Plain reads a text whose lines tell neither time nor level, such as what a
// console showed. Whether it is about a setup at all, it says at the end.
type Plain struct {
	Reader
	front  peel.Columns // that say nothing by themselves
	lines  int          // that are not empty
	about  int          // of them that speak of setups, or of what they handle
	worded int          // of them that have a word for a setup, or for what it does
	failed int          // of them that speak of a failure
	grave  int          // of them that are marked as one: "[FAIL]", "ENOSPC: …"
	levels int          // of them that begin with a word for how grave they are
	other  int          // of them that are of prose, of a program, or of marked-up text
	before []byte       // the line before
	asked  bool         // the line before asked for the exit code of the last program
	parted bool         // it is a report, whose parts say how they went
	inner  int          // how far the line before is set in below its part's head
	field  bool         // the line before is a name and a value
	whole  bool         // the part under way is about all of it: [end]
	ran    ran          // the program that a prompt ran last
	named  bool         // it begins with the name and the version of a product
	titled bool         // and with a word for a setup
	pairs  int          // lines that are a name and a value
	told   reportParts  // what such lines tell, of a report that is nothing else
}

// reportParts is what a report of names and values tells.
type reportParts struct {
	product, end bool
	name         string // of the product, where its line is read in no other way
}

// NewPlain makes a reader for the text called file, in front of whose lines
// these columns stand, told by the first lines.
func NewPlain(file string, columns peel.Columns, head [][]byte) *Plain {
	p := &Plain{Reader: *New(file)}
	p.plain, p.front = true, columns
	indented, all := 0, 0
	for _, l := range head {
		if t := bytes.TrimLeft(l, " \t"); len(t) > 0 {
			if all++; len(t) < len(l) && !bytes.HasPrefix(t, []byte("at ")) && !bytes.HasPrefix(t, []byte("File \"")) {
				indented++
			}
		}
	}
	p.deep = float64(indented) > deepShare*float64(all)
	return p
}

// deepShare is the share of lines with blanks in front from which on these are
// no continuations: a log has few stack traces, a report is indented
// throughout.
const deepShare = 0.4

// Line takes the next line.
func (p *Plain) Line(l textfile.Line) {
	if len(bytes.TrimSpace(l.Text)) > 0 {
		p.lines++
		f, said, _ := p.front.Take(l.Text) // what stands before all lines says nothing
		// Whether this is of a setup at all is settled at the end, by what was
		// counted here.
		about, worded := ofSetups(said)
		if worded {
			p.worded++
		}
		if about || endings.IsSetup(strings.ToLower(f.Source)) {
			p.about++
		}
		if p.lines <= titleLines {
			named, ofSetup := title(string(said))
			p.named, p.titled = p.named || named, p.titled || ofSetup
		}
		if ofText(p.before, l.Text) {
			p.other++
		}
		p.before = append(p.before[:0], l.Text...)
		text := string(l.Text)
		g, _ := levelWord(text)
		if marked := failMark.MatchString(text); marked || g == peel.Error {
			p.grave++
			p.failed++
		} else if guess(text) <= story.KindWarning {
			p.failed++
		}
		if g != peel.Unknown {
			p.levels++
		}
	}
	raw := l.Text
	if f, said, fits := p.front.Take(l.Text); fits && len(bytes.TrimSpace(said)) > 0 {
		l.Text, p.speaker = said, ""
		if partName.MatchString(f.Source) {
			p.speaker = f.Source
		}
	} else if p.front.Alone(l.Text) {
		l.Text, p.speaker = nil, ""
	} else {
		p.speaker = ""
	}
	if command, ok := typed(l.Text); ok {
		p.command(l, command)
		return
	}
	// A number alone on the line behind a prompt that asked for it.
	if code, ok := exitcode.Parse(string(bytes.TrimSpace(l.Text))); p.asked && ok {
		p.b.Ensure(l.Number)
		p.b.A.Exit = &story.Exit{Place: p.b.Place(l.Number), Code: code, Text: string(raw)}
		p.firm = true
	}
	p.asked = false
	part, ok := section(l.Text)
	switch {
	case p.checked(l):
	case !ok:
	case p.field && bytes.HasSuffix(bytes.TrimSpace(l.Text), []byte(":")): // one more field, which has no value
	case ofWhole[strings.ToLower(part)]:
		p.whole = true
		p.close(l.Number)
	default:
		p.begin(l.Number, part)
		p.inner = 0
		p.deep = p.deep || bytes.HasSuffix(bytes.TrimSpace(l.Text), []byte(":")) // what is set in below a head is no continuation
	}
	p.ofReport(l, raw)
	name, _, ok := pair(string(raw))
	p.field = ok && indent(raw) == 0 && !resultNames[strings.ToLower(name)]
	p.result(l, raw)
	if part == "" && len(bytes.TrimSpace(raw)) > 0 {
		p.inner = indent(raw)
	}
	p.Reader.Line(l)
}

// ledStep is a step of a list whose outcome stands at the end of a row of
// points: "3 Register interop ........ NOT OK".
var ledStep = lazy.MustCompile(`^\s*(?:[\[(]?\d{1,2}[.)\]:]?\s+|[-*•]\s+)?(\p{L}[\p{L}\d /&_-]{2,50}?)[ :]*(?:\.{4,}|…{2,}|·{4,}|_{4,}|-{6,})[ :>]*\[?(\pL.{0,30}?)\]?\s*$`)

// checked takes a line of such a list: what is set in below it is still about
// that step.
func (p *Plain) checked(l textfile.Line) bool {
	f := ledStep.FindSubmatch(l.Text)
	if f == nil {
		return false
	}
	if _, told := steps.Sure(string(l.Text)); told { // "Step 3 register printer ....... FAILED" is read by its word
		return false
	}
	name, status := string(f[1]), strings.ToLower(string(f[2]))
	first := strings.TrimRight(strings.Fields(status)[0], ",.;:")
	said := endings.Read(status)
	failed := peel.Level(first) == peel.Error || said.Fails || rowFailed.Match(l.Text)
	if !failed && !said.Worked && !wellDone[first] && !stands(first) {
		return false // a name and a value: "Date ....... 21.11.2026"
	}
	p.begin(l.Number, name)
	p.parted = true
	if failed {
		p.failed, p.grave = p.failed+1, p.grave+1
	}
	p.b.End(p.stage, l.Number, failed, nil, strings.TrimSpace(string(l.Text)))
	if p.b.Within(nil); failed {
		p.b.Within(p.stage)
	}
	p.deep = true
	return true
}

// wellDone are words with which such a row ends for a step that is done, or was
// not due.
var wellDone = wordSet("ok okay done yes passed pass good success successful fine present found skipped skip none not n/a ja fertig erledigt oui fait sí si hecho " +
	"fatto sim feito klaar tak gotowe ano hotovo klar evet tamam да готово")

//go:embed report.txt
var reportText string

// What a name of report.txt tells.
const (
	ofExit = 1 << iota
	ofEnd
	ofFault
)

// reportNames are those of report.txt.
var reportNames = sync.OnceValue(func() map[string]int {
	kinds := map[string]int{"exit": ofExit | ofEnd, "end": ofEnd, "fault": ofFault}
	all := map[string]int{}
	for line := range strings.Lines(reportText) {
		kind, names, _ := strings.Cut(strings.TrimSpace(line), " ")
		if kinds[kind] == 0 {
			continue
		}
		for name := range strings.SplitSeq(names, "|") {
			all[strings.TrimSpace(name)] |= kinds[kind]
		}
	}
	return all
})

// ofReportName is what a name in a report tells, be it written with strokes or
// dashes between its words.
func ofReportName(name string) int {
	return reportNames()[strings.NewReplacer("_", " ", "-", " ").Replace(strings.ToLower(name))]
}

// ofReport takes what a line tells of a report that is nothing but names and
// values: of which product it is, and how it ended.
func (p *Plain) ofReport(l textfile.Line, raw []byte) {
	// A report may be no more than names with values; some of those have the
	// last word.
	name, value, ok := blockPair(bytes.TrimLeft(raw, "-*•· \t"))
	if !ok || value == "" {
		return
	}
	p.pairs++
	tells := ofReportName(name)
	if meaning(name) == "product" && p.lines <= reportHead && !strings.ContainsAny(value, `\/`) {
		p.told.product = true
		p.told.name = cmp.Or(p.told.name, strings.Trim(value, `"'`))
	}
	p.told.end = p.told.end || tells&ofEnd != 0
	if code, number := exitcode.Parse(value); number && tells&ofExit != 0 && p.told.product && p.stage == nil {
		p.b.Ensure(l.Number)
		p.b.Exit(l.Number, code, strings.TrimSpace(string(raw)))
		p.firm = true
	}
	if p.told.product && p.stage == nil && resultNames[name] && endings.Read(value).Worked { // it has the last word
		p.b.Ensure(l.Number)
		p.said, p.b.A.Success = new(true), new(true)
	}
	good := pieces.IsNo(strings.ToLower(value)) || endings.Read(value).Worked || endings.Read(name+": "+value).Worked
	if tells&ofFault != 0 && p.told.product && p.stage == nil && p.said == nil && !good {
		p.b.Ensure(l.Number)
		p.said, p.b.A.Success = new(false), new(false)
	}
}

// shareReport is the share of the lines of such a report that are a name and a
// value.
const shareReport = 0.7

// partName is a word that can be the name of a program's part.
var partName = lazy.MustCompile(`^\p{L}[\p{L}\d_-]+$`)

// result takes how a part of a report went: "Result: failed".
func (p *Plain) result(l textfile.Line, raw []byte) {
	name, value, ok := pair(string(l.Text))
	if !ok { // the name was taken for a column
		name, value, ok = pair(string(raw))
	}
	name = strings.TrimRight(name, ". ")
	if ok && p.lines <= reportHead && !strings.ContainsAny(value, `\/`) {
		p.b.Ensure(l.Number)
		switch a := p.b.A; meaning(name) {
		case "product":
			if a.Product.Name == "" {
				a.Product.Name = value
				if known, version, ok := introduced("product: "+value, false, false); ok && version != "" {
					a.Product.Name, a.Product.Version = known, version
				}
			}
		case "version":
			if a.Product.Version == "" && a.Product.Name != "" {
				a.Product.Version = value
			}
		}
	}
	if ok && p.stage != nil && p.stage.EndLine == 0 && l.Number <= p.stage.Line+p.paced(2) && meaning(name) == "source" ||
		ok && p.stage != nil && l.Number <= p.stage.Line+p.paced(2) && strings.EqualFold(name, "name") {
		p.stage.Name = value // its section is only numbered
	}
	if code, number := exitcode.Parse(value); ok && number && p.whole && resultNames[strings.ToLower(name)] {
		p.b.Ensure(l.Number)
		p.b.Exit(l.Number, code, strings.TrimSpace(string(l.Text)))
		p.said, p.firm = new(exitcode.Good(code)), true
		return
	}
	if ok && p.stage != nil && p.inner > 0 && indent(raw) == 0 && resultNames[strings.ToLower(name)] { // of all: its parts' lines are set in
		p.whole = true
		p.close(l.Number)
		return
	}
	if !ok || p.stage == nil || p.stage.EndLine != 0 || !resultNames[strings.ToLower(name)] {
		return
	}
	p.parted = true
	failed := peel.Level(value) == peel.Error || endings.Read(value).Fails || hasAny(strings.ToLower(value), []string{"fail", "error"})
	p.b.Ensure(l.Number)
	p.b.End(p.stage, l.Number, failed, nil, strings.TrimSpace(string(l.Text)))
	p.b.Within(p.stage) // what stands below, up to the next part's head, is still about this one
}

// reportHead is how many lines a report's head has, in which it says what it is
// about.
const reportHead = 25

// resultNames are the names under which reports say how a part went.
var resultNames = map[string]bool{"result": true, "status": true, "state": true, "outcome": true, "ergebnis": true, "résultat": true, "resultado": true,
	"risultato": true, "esito": true, "resultaat": true, "wynik": true, "výsledek": true, "resultat": true, "sonuç": true, "результат": true,
	"結果": true, "결과": true, "结果": true, "結果:": true}

// pair reads a line that is a name and a value: "Fehler=1073", "  exit: 33".
func pair(line string) (name, value string, ok bool) {
	t := strings.TrimLeft(line, " \t-")
	at := strings.IndexAny(t, "=:")
	if at < 2 || at > 30 || strings.ContainsAny(t[:at], " \t\\/[") {
		return "", "", false
	}
	value = strings.TrimSpace(t[at+1:])
	return t[:at], strings.Trim(value, `"'`), value != ""
}

// What a text needs to be taken for a setup's: lines that speak of setups, so
// many and such a share, and one that tells how it went.
const (
	leastAbout = 2
	shareAbout = 0.04
)

// What makes a text prose or a program rather than what a setup wrote: such a
// share of its lines, where it has a few.
const (
	leastText = 8
	shareText = 0.3
)

// ofText says whether a line goes on with the sentence of the line before, is
// marked up, or is a program's: a log's lines stand for themselves.
func ofText(before, line []byte) bool {
	t := bytes.TrimSpace(line)
	if len(t) == 0 {
		return false
	}
	b := bytes.TrimSpace(before)
	switch {
	case len(b) > 0 && (unicode.IsLower(first(t)) || t[0] == '(') && (unicode.IsLower(last(b)) || last(b) == ',') &&
		len(b) > shortLine && bytes.Count(b, []byte(" ")) >= sentenceBlanks && !bytes.Contains(b, []byte("   ")) &&
		indent(before) == indent(line): // wrapped, and no row of a table
		return true
	case bytes.HasPrefix(t, []byte("//")), bytes.HasPrefix(t, []byte("/*")), bytes.HasPrefix(t, []byte("# ")),
		bytes.HasPrefix(t, []byte("## ")),
		bytes.HasPrefix(t, []byte("```")), bytes.HasPrefix(t, []byte("| ")) && !checkedRow.Match(t), bytes.Count(t, []byte("`")) >= 2:
		return true
	case bytes.HasSuffix(t, []byte("{")), bytes.HasSuffix(t, []byte("(")), bytes.HasSuffix(t, []byte(";")) && bytes.ContainsAny(t, "=()"),
		bytes.Equal(t, []byte("}")), bytes.Equal(t, []byte(")")):
		return true
	}
	for _, w := range []string{"func ", "def ", "import ", "package ", "return ", "class ", "const ", "var ",
		"type ", "using ", "if (", "if err", "for (", "elif ", "else:",
		"except ", "try:", "raise ", "self.", "then ", "if [", "set -", "export ", "local ", "expect ", "case ", "my ", "sub ", "use "} {
		if bytes.HasPrefix(t, []byte(w)) && (bytes.ContainsAny(t, "(){}[];=*\"'$") || oneName.Match(t)) { // no sentence: "package 2 of 7: fonts"
			return true
		}
	}
	return slices.Contains(aloneInScripts, string(t))
}

// checkedRow is a row of a table whose last cell tells how a check or a step
// went.
var checkedRow = lazy.MustCompile(`(?i)\|\s*\[?(?:ok|pass(?:ed)?|fail(?:ed|ure)?|yes|no|not ok|error|warn(?:ing)?|done|skipped|missing|present|found|ja|nein|oui|non|sí|sì|fehlt|✓|✔|✗|✘|x|v)\]?\s*\|?$`)

// oneName is a line of a program that holds a name behind its word and nothing
// else.
var oneName = lazy.MustCompile(`^(?:package|import|from|use|using|return|raise|my|sub|def|class|type|var|const|local|else:|try:|set|then|self\.)[ ]?[\w.:/*-]*$`)

// aloneInScripts are words that stand alone on a line of a script.
var aloneInScripts = []string{"fi", "done", "then", "esac", "else", "do"}

// shortLine is how many bytes a line has at most that nobody would wrap.
const shortLine = 50

// sentenceBlanks is how many blanks a line of a sentence has at least.
const sentenceBlanks = 5

// indent is by how many blanks and tabs a line is set in.
func indent(line []byte) int { return len(line) - len(bytes.TrimLeft(line, " \t")) }

// first is the first letter of a line.
func first(b []byte) rune { r, _ := utf8.DecodeRune(b); return r }

// last is the last letter of a line.
func last(b []byte) rune { r, _ := utf8.DecodeLastRune(b); return r }

// What makes a text a program's log: so many lines that begin with a level, and
// such a share.
const (
	leastLevels = 10
	shareLevels = 0.2
)

// About says whether the lines so far speak of setups at all.
func (p *Plain) About() bool {
	return p.about >= leastAbout && float64(p.about) >= shareAbout*float64(p.lines)
}

// Told says whether the text, read into these attempts, is one of a setup that
// tells how it went.
func (p *Plain) Told(attempts []*story.Attempt) bool {
	if p.lines >= leastText && float64(p.other) >= shareText*float64(p.lines) { // it is about setups, and not of one
		return false
	}
	if p.titled || p.named && p.failed > 0 && float64(p.other) < shareProse*float64(p.lines) {
		return true
	}
	if p.told.product && p.told.end && float64(p.pairs) >= shareReport*float64(p.lines) { // a report of a run
		if len(attempts) > 0 && attempts[0].Product.Name == "" {
			attempts[0].Product.Name = p.told.name
		}
		return true
	}
	ended := slices.ContainsFunc(attempts, func(a *story.Attempt) bool { return a.Exit != nil })
	if p.lines <= fewLines && p.about > 0 && (ended || p.failed > 0) { // what somebody copied out of a window
		return true
	}
	short := p.lines <= shortLines && p.other == 0 && p.worded > 0
	if short && p.failed > 0 && (p.about > 1 || ended || p.grave > 0) { // what a console showed
		return true
	}
	// a program's log, whatever it is of
	if p.levels >= leastLevels && float64(p.levels) >= shareLevels*float64(p.lines) && p.about > 0 && p.failed > 0 {
		return true
	}
	// It says that it ended, in words of a setup.
	if p.about > 0 && slices.ContainsFunc(attempts, func(a *story.Attempt) bool {
		return a.Cancelled || slices.ContainsFunc(a.Messages, func(m *story.Message) bool { return m.Verdict })
	}) {
		return true
	}
	// It has steps, and says how they ended.
	if slices.ContainsFunc(attempts, func(a *story.Attempt) bool {
		verdict := slices.ContainsFunc(a.Messages, func(m *story.Message) bool { return m.Verdict })
		return len(a.Actions) >= leastSteps && verdict && p.failed > 0 && float64(p.other) < shareProse*float64(p.lines)
	}) {
		return true
	}
	// It says what it is, and its lines are set off as a program's are, or its
	// parts are, or what it ended with.
	if p.about > 0 && (p.front.Told() || len(p.front) > 1 || p.parted || ended) &&
		slices.ContainsFunc(attempts, func(a *story.Attempt) bool { return a.Product.Name != "" }) {
		return true
	}
	return p.about >= leastAbout && (ended || float64(p.about) >= shareAbout*float64(p.lines)) &&
		(p.failed >= leastFailed || slices.ContainsFunc(attempts, func(a *story.Attempt) bool { return a.Success != nil || a.Exit != nil }))
}

// MayTell says whether the text may be what somebody took down of a setup, with
// no word that says so: short, and each line stands for itself.
func (p *Plain) MayTell() bool {
	return p.lines > 0 && p.lines <= shortLines && float64(p.other) <= fewProse*float64(p.lines)
}

// fewProse is the share of lines up to which lines that look like a sentence
// going on, or like a word of a script ("done"), are chance.
const fewProse = 0.34

// leastSteps is how many steps make a text that tells how they ended a log,
// whatever they are of.
const leastSteps = 2

// failMark is what only a program sets in front of a line that tells of a
// failure, or the name that a runtime gives it.
var failMark = lazy.MustCompile(`^\W{0,6}\[? ?(?:FAIL|FAILED|NOT OK|ERR|ERROR|FATAL|KO) ?\]|\bE(?:PERM|ACCES|NOENT|EXIST|BUSY|NOSPC|NAMETOOLONG|NOTDIR|ISDIR|NOTEMPTY|ROFS|MFILE|TXTBSY|XDEV|CONNREFUSED|CONNRESET|TIMEDOUT|HOSTUNREACH|NOTFOUND|AI_AGAIN|PIPE|IO|INVAL|DQUOT)\b|\[WinError \d+\]|\b[A-Z]\w+(?:Exception|Error): `)

// shareProse is the share of lines of prose from which on a text that begins
// with a product's name is one about it.
const shareProse = 0.05

// partHead is the part of a program that says it.
var partHead = lazy.MustCompile(`^[\w.:-]{1,24}(?:> |\) |\] |: )`)

// dotted is a version that no count looks like.
var dotted = lazy.MustCompile(`\d\.\d`)

// shortLines are as many as a console shows of a setup that is quiet; a text so
// short in which every line stands for itself is asked for less than a long
// one.
const shortLines = 60

// fewLines are so few that one of them need not be about setups twice.
const fewLines = 6

// leastFailed is how many lines that speak of failures make a text of lines
// about setups the log of one, even if none says how it ended.
const leastFailed = 2

// begin begins a part of a report.
func (p *Plain) begin(line int, name string) {
	p.b.Ensure(line)
	p.close(line)
	p.stage, p.number, p.whole = p.b.Start(line, name, nil), "", false
}

// close ends the part under way where nothing said that it failed.
func (p *Plain) close(line int) {
	if p.stage != nil && p.stage.EndLine == 0 {
		p.b.End(p.stage, line, false, nil, "")
	}
}
