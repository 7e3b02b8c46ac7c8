// This file changes one value in a YAML file and leaves all else as a person
// wrote it.

package twin

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"
)

// A sheet is a YAML file that is changed in place: only the text of the value
// that is set changes, all else stays to the byte.
type sheet struct {
	name string     // file name in the twin
	text []byte     // as it stands in the file
	doc  *yaml.Node // the outermost mapping or sequence; nil when empty
}

// A pair is one entry of a mapping.
type pair struct{ key, value *yaml.Node } // of one mapping

// sheet opens one of the twin's lists; one that is not there is empty.
func (t *Twin) sheet(name string) (*sheet, error) {
	b, err := t.read(name)
	if errors.Is(err, fs.ErrNotExist) {
		return &sheet{name: name}, nil
	}
	if err != nil {
		return nil, err
	}
	s := &sheet{name: name, text: b}
	return s, s.parse()
}

// parse reads the text into nodes, which know their places.
func (s *sheet) parse() error {
	var n yaml.Node
	if err := yaml.Unmarshal(s.text, &n); err != nil {
		return fmt.Errorf("%s: %w", s.name, err)
	}
	s.doc = nil
	if len(n.Content) > 0 {
		s.doc = n.Content[0]
	}
	return nil
}

// pairs are the entries of the outermost mapping.
func (s *sheet) pairs() []pair { return pairsOf(s.doc) }

// pairsOf are the entries of a mapping; anything else has none.
func pairsOf(n *yaml.Node) (ps []pair) {
	if n == nil || n.Kind != yaml.MappingNode {
		return nil
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		ps = append(ps, pair{n.Content[i], n.Content[i+1]})
	}
	return ps
}

// find gives the value of a key, in any case.
func find(n *yaml.Node, key string) *yaml.Node {
	for _, p := range pairsOf(n) {
		if strings.EqualFold(p.key.Value, key) {
			return p.value
		}
	}
	return nil
}

// offset is where a node's text begins.
func (s *sheet) offset(n *yaml.Node) int {
	at := 0
	for line := 1; line < n.Line; line++ {
		next := strings.IndexByte(string(s.text[at:]), '\n')
		if next < 0 {
			break
		}
		at += next + 1
	}
	// Columns count characters.
	rest := string(s.text[at:])
	column := 1
	for i := range rest {
		if column == n.Column {
			return at + i
		}
		column++
	}
	return len(s.text)
}

// length is how many bytes the scalar at from takes in the text.
func (s *sheet) length(n *yaml.Node, from int) (int, error) {
	rest := string(s.text[from:])
	line, _, _ := strings.Cut(rest, "\n")
	// How long the value is as it is written, which depends on its quotes.
	switch n.Style {
	case yaml.SingleQuotedStyle:
		for i := 1; i < len(line); i++ {
			if line[i] == '\'' {
				if i+1 < len(line) && line[i+1] == '\'' {
					i++
					continue
				}
				return i + 1, nil
			}
		}
	case yaml.DoubleQuotedStyle:
		for i := 1; i < len(line); i++ {
			switch line[i] {
			case '\\':
				i++
			case '"':
				return i + 1, nil
			}
		}
	default:
		if strings.HasPrefix(line, n.Value) {
			return len(n.Value), nil
		}
	}
	return 0, fmt.Errorf("%s:%d: the value goes over several lines, which cannot be changed in place", s.name, n.Line)
}

// set puts another text in place of a scalar, in the same kind of quotes.
func (s *sheet) set(n *yaml.Node, value string) error {
	from := s.offset(n)
	length, err := s.length(n, from)
	if err != nil {
		return err
	}
	was := s.text
	out := append([]byte{}, s.text[:from]...)
	out = append(out, scalar(value, n.Style)...)
	s.text = append(out, s.text[from+length:]...)
	if err := s.parse(); err == nil && holds(s.doc, n.Line, n.Column, value) {
		return nil
	}
	s.text = was
	return errors.Join(fmt.Errorf("%s:%d: the value cannot be changed in place\nhint: put it into quotes", s.name, n.Line), s.parse())
}

// holds says whether a scalar with this value stands at a place.
func holds(n *yaml.Node, line, column int, value string) bool {
	if n == nil {
		return false
	}
	if n.Kind == yaml.ScalarNode && n.Line == line && n.Column == column && n.Value == value {
		return true
	}
	return slices.ContainsFunc(n.Content, func(c *yaml.Node) bool { return holds(c, line, column, value) })
}

// scalar writes a value in a style of quotes.
func scalar(value string, style yaml.Style) string {
	switch style {
	case yaml.SingleQuotedStyle:
		return "'" + strings.ReplaceAll(value, "'", "''") + "'"
	case yaml.DoubleQuotedStyle:
		return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(value) + `"`
	}
	return value
}

// add appends an entry to the outermost mapping, on a line of its own at the
// end.
func (s *sheet) add(key, value string) error {
	line := scalar(key, yaml.SingleQuotedStyle) + ": " + scalar(value, yaml.SingleQuotedStyle)
	if n := len(s.text); n == 0 || s.text[n-1] == '\n' {
		line += "\n"
	} else {
		line = "\n" + line
	}
	s.text = append(s.text[:len(s.text):len(s.text)], line...)
	return s.parse()
}

// remove takes the line of an entry out.
func (s *sheet) remove(key string) error {
	for _, p := range s.pairs() {
		if !strings.EqualFold(p.key.Value, key) {
			continue
		}
		lines := strings.SplitAfter(string(s.text), "\n")
		i := p.key.Line - 1
		lines = append(lines[:i], lines[i+1:]...)
		text := strings.Join(lines, "")
		if n := len(s.text); s.text[n-1] != '\n' && i == len(lines) {
			text = strings.TrimSuffix(text, "\n")
		}
		s.text = []byte(text)
		return s.parse()
	}
	return nil
}

// entryLines gives the lines of an entry of a list, from 0, the last one
// included: up to the next entry, or to what follows the list, without blank
// lines and comments between. It is an error when the entry shares a line with
// another.
func (s *sheet) entryLines(list *yaml.Node, i int) (from, to int, err error) {
	lines := strings.SplitAfter(string(s.text), "\n")
	from, limit := list.Content[i].Line-1, s.after(list)
	hyphen := func(line int) bool {
		return line >= 0 && line < len(lines) && strings.HasPrefix(lines[line], strings.Repeat(" ", max(0, list.Column-1))+"-")
	}
	own := hyphen(from)
	if i+1 < len(list.Content) {
		limit = list.Content[i+1].Line - 1
		own = own && hyphen(limit)
	}
	// Up to the next entry; remarks and empty lines before that belong to it.
	for to = from; to+1 < min(limit, len(lines)); to++ {
		if t := strings.TrimRight(lines[to+1], "\r\n"); t == "---" || t == "..." {
			break
		}
	}
	for to > from {
		t := strings.TrimSpace(lines[to])
		if t != "" && t[0] != '#' {
			break
		}
		to--
	}
	flow := list.Style&yaml.FlowStyle != 0
	if limit <= from || from >= len(lines) || flow && len(list.Content) > 1 || !flow && !own {
		return 0, 0, fmt.Errorf("%s:%d: the entries of the list do not stand on lines of their own, so one cannot be taken out\n"+
			"hint: write each on a line that begins with a hyphen", s.name, from+1)
	}
	return from, to, nil
}

// cutEntry takes an entry out of a list and looks whether just that one is
// gone. list finds the list, before and after.
func (s *sheet) cutEntry(list func() *yaml.Node, i, from, to int) error {
	n, was := len(list().Content), s.text
	if err := s.cut(from, to); err != nil {
		return err
	}
	left := 0
	if l := list(); l != nil {
		left = len(l.Content)
	}
	if left == n-1 {
		return nil
	}
	s.text = was
	return errors.Join(fmt.Errorf("%s:%d: entry %d unknown from its neighbours\n"+
		"hint: write each on lines of its own that begin with a hyphen", s.name, from+1, i+1), s.parse())
}

// after is the line, from 0, of what follows a list that is a value of the
// outermost mapping; for one that is the whole file there is no end.
func (s *sheet) after(list *yaml.Node) int {
	end := 1 << 30
	for _, p := range s.pairs() {
		if p.key.Line > list.Line && p.value != list {
			end = min(end, p.key.Line-1)
		}
	}
	return end
}

// cut takes whole lines out; both ends are included.
func (s *sheet) cut(from, to int) error {
	lines := strings.SplitAfter(string(s.text), "\n")
	return s.become(strings.Join(append(slices.Clone(lines[:from]), lines[to+1:]...), ""))
}

// lines gives whole lines as they stand.
func (s *sheet) lines(from, to int) string {
	return strings.Join(strings.SplitAfter(string(s.text), "\n")[from:to+1], "")
}

// put puts whole lines in front of line at, or at the end.
func (s *sheet) put(text string, at int) error {
	lines := strings.SplitAfter(string(s.text), "\n")
	if n := len(lines); lines[n-1] == "" {
		lines = lines[:n-1]
	}
	at = min(max(at, 0), len(lines))
	if at > 0 && !strings.HasSuffix(lines[at-1], "\n") {
		lines[at-1] += "\n"
	}
	return s.become(strings.Join(slices.Insert(lines, at, text), ""))
}

// become takes a new text, unless it is no longer what can be read.
func (s *sheet) become(text string) error {
	was := s.text
	s.text = []byte(text)
	if err := s.parse(); err != nil {
		s.text = was
		return errors.Join(err, s.parse())
	}
	return nil
}
