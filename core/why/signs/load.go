// This file reads signs, the built-in ones from what was packed at the build, a
// site's from its YAML.

package signs

import (
	"bytes"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"os"
	"path"
	"slices"
	"strings"
	"sync"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
	"hollowkey/core/step"
)

// The built-in signs are embedded as JSON made of the YAML files beside this
// one, since reading those at each start of the program would take longer than
// reading a log: what they are matched by in one file, what they say once they
// were seen in another, a line each in the same order.
//
//go:generate go run ./gen
var (
	//go:embed pack.json
	packed []byte
	//go:embed texts.jsonl
	textsOfPacked string
)

// needsText lists what the patterns of the built-in signs cannot match without,
// since parsing them all at each start would take longer than reading a small
// log: in each line a pattern, then its pieces, with tabs between, and an empty
// cell before each further set.
//
//go:embed needs.txt
var needsText string

// Limits of a signs file, which may come from anywhere.
const (
	maxFile  = 4 << 20 // bytes
	maxSigns = 5000    // ten times what is built in
)

// A Pack is a set of signs that are matched together.
type Pack struct {
	Signs []*Sign // in the order of their files

	once  sync.Once
	index *index // of their patterns, made at the first match
}

// sources are the built-in signs as they were written, with their tests, for
// those who want to read them.
//
//go:embed *.yaml
var sources embed.FS

// builtInFrom begins where a sign of sources stands.
const builtInFrom = "built in, "

// BuiltIn reads the built-in signs with their tests.
func BuiltIn() (*Pack, error) {
	p, err := Load(sources)
	if err != nil {
		return nil, err
	}
	for _, s := range p.Signs {
		s.from = builtInFrom + s.from
	}
	return p, nil
}

// Default is the pack that ships with the program.
var Default = sync.OnceValues(func() (*Pack, error) {
	p := &Pack{}
	if err := json.Unmarshal(packed, &p.Signs); err != nil {
		return nil, fmt.Errorf("the built-in signs: %w", err)
	}
	texts := strings.Split(textsOfPacked, "\n")
	for i, s := range p.Signs {
		s.later = &later{texts: texts[i]}
	}
	return p, nil
})

// later is what a sign says once it was seen, until then as it is embedded.
type later struct {
	once  sync.Once
	texts string
}

// read reads what the sign says, once.
func (s *Sign) read() {
	if s.later == nil {
		return
	}
	s.later.once.Do(func() {
		if err := json.Unmarshal([]byte(s.later.texts), s); err != nil {
			panic(err) // our own data; a test reads it
		}
	})
}

// WithSite adds the signs of a site's folder to the default pack. A site's sign
// with an ID that is known takes that one's place. Errors name the file, the
// sign and the field.
func WithSite(folder string) (*Pack, error) {
	base, err := Default()
	if err != nil || folder == "" {
		return base, err
	}
	site, err := Load(os.DirFS(folder))
	if err != nil {
		return nil, fmt.Errorf("signs folder %s: %w", folder, err)
	}
	if len(site.Signs) == 0 {
		return nil, fmt.Errorf("signs folder %s: it holds no .yaml file\nhint: docs/signs.md shows what one looks like", folder)
	}
	own := map[string]*Sign{}
	for _, s := range site.Signs {
		own[s.ID] = s
	}
	p := &Pack{Signs: slices.Clone(site.Signs)}
	for _, s := range base.Signs {
		switch o := own[s.ID]; {
		case o == nil:
			p.Signs = append(p.Signs, s)
		case !o.Replaces: // knowledge from outside takes no place unseen
			return nil, fmt.Errorf("%s: the sign %s is built in\nhint: give yours another id, or say replaces: true", o.From(), s.ID)
		}
	}
	return p, nil
}

// Pack writes the signs, without their tests, in the two forms in which they
// are embedded.
func (p *Pack) Pack() (pack, texts []byte, err error) {
	short := make([]Sign, len(p.Signs))
	var b, long bytes.Buffer
	line := json.NewEncoder(&long)
	line.SetEscapeHTML(false)
	for i, s := range p.Signs {
		said := Sign{Title: s.Title, Subject: s.Subject, Explanation: s.Explanation, Confirm: s.Confirm, Remedies: s.Remedies}
		if err := line.Encode(said); err != nil {
			return nil, nil, err
		}
		short[i] = *s
		short[i].Tests = Tests{}
		short[i].Title, short[i].Subject, short[i].Explanation, short[i].Confirm, short[i].Remedies = "", Subject{}, "", nil, nil
	}
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	err = enc.Encode(short)
	return b.Bytes(), long.Bytes(), err
}

// Needs writes the list that patterns look their needs up in.
func (p *Pack) Needs() []byte {
	lines := map[string]string{}
	for _, s := range p.Signs {
		for _, w := range s.Seen {
			for _, pat := range w.patterns() {
				line := pat.source
				for i, set := range pieces.Needs(pat.source, true) {
					if i > 0 {
						line += "\t"
					}
					line += "\t" + strings.Join(set, "\t")
				}
				lines[pat.source] = line + "\n"
			}
		}
	}
	var b []byte
	for _, source := range slices.Sorted(maps.Keys(lines)) {
		b = append(b, lines[source]...)
	}
	return b
}

// listedNeeds are the lines of needsText behind their patterns.
var listedNeeds = sync.OnceValue(func() map[string]string {
	known := make(map[string]string, strings.Count(needsText, "\n"))
	for line := range strings.SplitSeq(needsText, "\n") {
		source, rest, _ := strings.Cut(line, "\t")
		known[source] = rest
	}
	return known
})

// needs are sets of texts, in small letters, of each of which every match of a
// pattern holds one; the best first.
func needs(source string) (sets [][]string) {
	line, listed := listedNeeds()[source]
	if !listed {
		return pieces.Needs(source, true)
	}
	for set := range strings.SplitSeq(line, "\t\t") {
		if set != "" {
			sets = append(sets, strings.Split(set, "\t"))
		}
	}
	return sets
}

// Load reads every .yaml file at the top of dir. An error names file and line.
func Load(dir fs.FS) (*Pack, error) {
	files, err := fs.Glob(dir, "*.yaml")
	if err != nil {
		return nil, err
	}
	p := &Pack{}
	at := map[string]string{}
	for _, f := range files {
		signs, err := readFile(dir, f)
		if err != nil {
			return nil, err
		}
		for _, s := range signs {
			if before, ok := at[s.ID]; ok {
				return nil, fmt.Errorf("%s: the ID %q stands in %s already", s.from, s.ID, before)
			}
			at[s.ID] = s.from
		}
		if p.Signs = append(p.Signs, signs...); len(p.Signs) > maxSigns {
			return nil, fmt.Errorf("%s: more than %d signs", f, maxSigns)
		}
	}
	return p, nil
}

// readFile reads one file of signs, within a limit.
func readFile(dir fs.FS, name string) ([]*Sign, error) {
	f, err := dir.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := io.ReadAll(io.LimitReader(f, maxFile+1))
	if err != nil {
		return nil, err
	}
	if len(b) > maxFile {
		return nil, fmt.Errorf("%s: the file is over %d bytes", name, maxFile)
	}
	return parse(path.Base(name), b)
}

// defaultStrength is a sign's that gives none: most are read by one clear
// sentence.
const defaultStrength = 0.85

// listed says whether a file lists numbers: it is a mapping at its top, and a
// file of signs a list.
func listed(b []byte) bool {
	for line := range bytes.Lines(b) {
		if t := bytes.TrimSpace(line); len(t) > 0 && t[0] != '#' && !bytes.HasPrefix(t, []byte("---")) {
			return t[0] != '-' && t[0] != '['
		}
	}
	return false
}

// parse reads signs strictly: a key that is spelled wrongly would make a sign
// that is never seen, and nobody would know why.
func parse(name string, b []byte) ([]*Sign, error) {
	if listed(b) {
		return parseNumbers(name, b)
	}
	dec := yaml.NewDecoder(bytes.NewReader(b))
	dec.KnownFields(true)
	var signs []*Sign
	if err := dec.Decode(&signs); err != nil && !errors.Is(err, io.EOF) {
		return nil, fileError(name, err)
	}
	for i, s := range signs {
		if s == nil {
			return nil, fmt.Errorf("%s: sign %d is empty", name, i+1)
		}
		s.from = name + ": sign " + s.ID
		if err := s.check(); err != nil {
			return nil, fmt.Errorf("%s: %w", s.from, err)
		}
		if s.Strength == 0 {
			s.Strength = defaultStrength
		}
	}
	return signs, nil
}

var (
	// How the YAML package words a key that nobody knows; the line and the key
	// are told in our own words.
	unknownKey = lazy.MustCompile(`line (\d+): field (\S+) not found in type`)
	// Its prefix before any other fault, for the same end.
	yamlLine = lazy.MustCompile(`^(?:yaml: )?(?:unmarshal errors:\s+)?line (\d+): `)
)

// knownKeys are all keys that a signs file may hold.
var knownKeys = []string{
	"id", "title", "class", "strength", "says", "seen", "message", "subject", "explanation", "confirm", "remedies", "tests",
	"dialect", "fields", "said", "text", "also", "not", "action", "result", "exit", "property", "policy", "quiet", "refusal", "product",
	"program", "codes", "number", "meaning",
	"kind", "name", "check", "with", "target", "undo", "needs", "steps", "match", "nearMiss",
}

// fileError puts file and line in front, and offers the nearest known key.
func fileError(name string, err error) error {
	text := err.Error()
	if m := unknownKey.FindStringSubmatch(text); m != nil {
		hint := "docs/signs.md tells the keys"
		if near := step.Nearest(m[2], knownKeys); near != "" {
			hint = "did you mean " + near + "?"
		}
		return fmt.Errorf("%s:%s: the key %q is not known\nhint: %s", name, m[1], m[2], hint)
	}
	if m := yamlLine.FindStringSubmatch(text); m != nil {
		return fmt.Errorf("%s:%s: %s", name, m[1], strings.TrimPrefix(text, m[0]))
	}
	return fmt.Errorf("%s: %w", name, err)
}

// check refuses a sign that could not work.
func (s *Sign) check() error {
	switch {
	case s.ID == "" || strings.ContainsAny(s.ID, " \t/\\"):
		return fmt.Errorf("the id %q is empty or holds blanks or slashes", s.ID)
	case s.Title == "" || s.Explanation == "":
		return errors.New("title or explanation is missing")
	case !slices.Contains(Classes, s.Class):
		return fmt.Errorf("the class %q is not one of %s", s.Class, strings.Join(Classes, ", "))
	case len(s.Seen) == 0:
		return errors.New("seen is missing: what shows this sign?")
	case s.Subject.Kind != "" && !slices.Contains(SubjectKinds, s.Subject.Kind):
		return fmt.Errorf("the subject kind %q is not one of %s", s.Subject.Kind, strings.Join(SubjectKinds, ", "))
	case s.Strength < 0 || s.Strength > 1:
		return fmt.Errorf("the strength %v is not between 0 and 1", s.Strength)
	case s.Says != "" && !slices.Contains(Nearness, s.Says):
		return fmt.Errorf("says is %q, and not one of %s", s.Says, strings.Join(Nearness, ", "))
	case len(s.Remedies) == 0:
		return errors.New("remedies is missing: give at least advice")
	case len(s.Tests.Match) == 0 || len(s.Tests.NearMiss) == 0:
		return errors.New("tests need at least one match and one nearMiss")
	}
	for _, r := range s.Remedies {
		if !slices.Contains(step.Classes, r.Class) || r.Title == "" {
			return fmt.Errorf("the remedy %q has the class %q, which is not one of %s", r.Title, r.Class, strings.Join(step.Classes, ", "))
		}
		for _, st := range r.Steps {
			if len(st) != 1 {
				return fmt.Errorf("a step of %q must have one kind", r.Title)
			}
		}
	}
	for _, w := range s.Seen {
		if err := w.check(); err != nil {
			return err
		}
	}
	return nil
}

// check refuses a way that everything would be seen by, and patterns that
// cannot be read.
func (w Seen) check() error {
	if len(w.Message)+len(w.Text)+len(w.Exit)+len(w.Property)+len(w.Result)+len(w.Policy)+len(w.Refusal) == 0 && w.Action.IsZero() {
		return errors.New("a way of being seen needs a message, text, action, result, exit, policy or property")
	}
	for _, p := range w.patterns() {
		if err := p.Check(); err != nil {
			return err
		}
	}
	return nil
}
