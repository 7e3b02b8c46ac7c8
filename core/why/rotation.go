package why

import (
	"bufio"
	"context"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
	"hollowkey/core/why/verdict"
)

// A rotation is one log in several files: a program that writes for long
// renames its log when it has grown, and goes on in a new one. It is read as
// one text, and told by its files.
type rotation struct {
	parts []part // the oldest first
}

// A part is a file of a rotation.
type part struct {
	name   string
	before int // lines in the parts before it
	lines  int // of its own
	bytes  int64
}

// turned are the names that a log has once it was put aside: x.log.2, x.2.log,
// x.log.old, x.lo_.
var turned = []*lazy.Regexp{
	lazy.MustCompile(`(?i)^(.+\.\w{2,5})\.(\d{1,3}|old|bak|prev)$`),
	lazy.MustCompile(`(?i)^(.+)\.(\d{1,3}|old|bak|prev)(\.(?:log|txt))$`),
	lazy.MustCompile(`(?i)^(.+\.lo)(_)$`),
}

// ageOf parts a file's name into that of the log it belongs to and how often it
// was turned; 0 for the one that is written now.
func ageOf(name string) (log string, age int) {
	folder, base := filepath.Split(name)
	for _, re := range turned {
		m := re.FindStringSubmatch(base)
		if m == nil {
			continue
		}
		age = 1
		if n, err := strconv.Atoi(m[2]); err == nil {
			age = n + 1 // some begin with 0
		}
		switch {
		case m[2] == "_":
			return folder + m[1] + "g", age
		case len(m) > 3:
			return folder + m[1] + m[3], age
		}
		return folder + m[1], age
	}
	return name, 0
}

// rotations finds the logs among files that were rotated: the newest part's
// name with all parts, the oldest first. A file that was turned and whose
// successor is not there is a log of its own.
func rotations(names []string) map[string][]string {
	logs := map[string][]string{}
	for _, n := range names {
		log, _ := ageOf(n)
		logs[strings.ToLower(log)] = append(logs[strings.ToLower(log)], n)
	}
	found := map[string][]string{}
	for _, parts := range logs {
		if len(parts) < 2 {
			continue
		}
		slices.SortStableFunc(parts, func(a, b string) int {
			_, x := ageOf(a)
			_, y := ageOf(b)
			return y - x
		})
		newest := parts[len(parts)-1]
		if _, age := ageOf(newest); age == 0 && alike(parts) {
			found[newest] = parts
		}
	}
	return found
}

// sniffed is how many bytes of a file tell its encoding.
const sniffed = 4096

// alike says whether files are texts in one encoding.
func alike(names []string) bool {
	var first textfile.Encoding
	for i, n := range names {
		f, err := os.Open(n)
		if err != nil {
			return false
		}
		head, _ := bufio.NewReaderSize(f, sniffed).Peek(sniffed)
		f.Close()
		enc, _ := textfile.Sniff(head)
		if i == 0 {
			first = enc
		}
		if enc != first || strings.HasPrefix(string(head), "ElfFile\x00") {
			return false
		}
	}
	return true
}

// join makes one text of the opened files of each rotation, under the newest's
// name. The lines of the parts are counted, so that a line of the whole can be
// told by its file.
func join(ctx context.Context, rotated map[string][]string, texts map[string]io.Reader, opt textfile.Options) (map[string]rotation, error) {
	joined := map[string]rotation{}
	for newest, names := range rotated {
		var r rotation
		var readers []io.Reader
		before := 0
		for i, name := range names {
			f, is := texts[name].(io.ReadSeeker)
			if !is {
				break
			}
			var info textfile.Info
			for _, err := range textfile.Lines(ctx, f, opt, &info) {
				if err != nil {
					return nil, err
				}
			}
			r.parts = append(r.parts, part{name, before, info.Lines, info.Bytes})
			if before += info.Lines; info.Unended { // it was turned in mid-line
				before--
			}
			if _, err := f.Seek(0, io.SeekStart); err != nil {
				return nil, err
			}
			one := bufio.NewReaderSize(f, sniffed)
			head, _ := one.Peek(sniffed)
			if _, mark := textfile.Sniff(head); mark > 0 && i > 0 {
				_, _ = one.Discard(mark) // it was peeked
			}
			readers = append(readers, one)
			texts[name] = nil
		}
		texts[newest], joined[newest] = io.MultiReader(readers...), r
	}
	return joined, nil
}

// at is the part of the whole's line, and its number there.
func (r rotation) at(line int) (name string, own int) {
	for _, p := range slices.Backward(r.parts) {
		if line > p.before {
			return p.name, line - p.before
		}
	}
	return r.parts[0].name, line
}

// tell names the files of rotations in a verdict that was reached on them as
// wholes.
func (in *inputs) tell(v *verdict.Verdict) {
	if len(in.turned) == 0 {
		return
	}
	place := func(file *string, line *int) {
		if r, is := in.turned[*file]; is && *line > 0 {
			*file, *line = r.at(*line)
		}
	}
	lines := func(ls []verdict.Line) {
		for i := range ls {
			place(&ls[i].File, &ls[i].Line)
		}
	}
	main := v.Logs[0].File
	lines(v.Chain)
	lines(v.Evidence)
	if b := &v.BrokeAt; b.Line != nil {
		if b.File == "" {
			b.File = main
		}
		n := *b.Line
		place(&b.File, &n)
		b.Line = &n
	}
	for i := range v.Hypotheses {
		points := slices.Clone(v.Hypotheses[i].Points)
		for k, p := range points {
			if p.Line != nil {
				m := *p.Line
				m.Place = story.Place{File: m.File, Line: m.Line}
				place(&m.Place.File, &m.Place.Line)
				points[k].Line = &m
			}
		}
		v.Hypotheses[i].Points = points
	}
	for i := range v.Others {
		file := main
		place(&file, &v.Others[i].Line)
	}
	for i := range v.Attempts {
		file := main
		place(&file, &v.Attempts[i].Line)
	}
	v.Logs = in.unjoined(v.Logs)
	for i := range v.More {
		v.More[i].Logs = in.unjoined(v.More[i].Logs)
	}
}

// unjoined puts the files of a rotation in the place of the whole.
func (in *inputs) unjoined(logs []verdict.Log) (out []verdict.Log) {
	for _, l := range logs {
		r, is := in.turned[l.File]
		if !is {
			out = append(out, l)
			continue
		}
		for _, p := range slices.Backward(r.parts) {
			one := l
			one.File, one.Lines, one.Bytes = p.name, p.lines, p.bytes
			out = append(out, one)
		}
	}
	return out
}
