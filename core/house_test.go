// Package core_test holds the house together: docs/architecture.md is the
// picture, this is the guard.
package core_test

import (
	"bytes"
	"go/parser"
	"go/scanner"
	"go/token"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// wings in the order in which data goes through them: a later one may use an
// earlier one, never the other way round.
var wings = []string{"bounded", "step", "logs", "machine", "package", "why", "fix", "record", "prove", "fleet"}

// terminal are packages that only cli may use: the rest can be called without a
// terminal and without flags.
var terminal = []string{
	"github.com/spf13/cobra", "charm.land/bubbletea/v2", "golang.org/x/term", "github.com/schollz/progressbar/v3",
	"github.com/mattn/go-runewidth",
}

func TestArrowsRunOneWay(t *testing.T) {
	seen := 0
	err := filepath.WalkDir(".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(name, ".go") || strings.HasSuffix(name, "_test.go") {
			return err
		}
		name = filepath.ToSlash(name)
		from := slices.Index(wings, strings.Split(name, "/")[0])
		if from < 0 {
			t.Errorf("%s lies in no wing", name)
			return nil
		}
		f, err := parser.ParseFile(token.NewFileSet(), name, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, i := range f.Imports {
			seen++
			what, err := strconv.Unquote(i.Path.Value)
			if err != nil {
				return err
			}
			below, ours := strings.CutPrefix(what, "hollowkey/")
			wing, inCore := strings.CutPrefix(below, "core/")
			switch {
			case slices.Contains(terminal, what):
				t.Errorf("%s uses %s, which only cli may", name, what)
			case !ours:
			case !inCore:
				t.Errorf("%s uses %s, which is no room of the core", name, what)
			case slices.Index(wings, strings.Split(wing, "/")[0]) > from:
				t.Errorf("%s uses %s: an arrow that runs back", name, what)
			}
		}
		return nil
	})
	if err != nil || seen == 0 {
		t.Fatal(seen, err)
	}
}

// Rooms that must not know each other, whatever their order.
func TestRoomsKeepApart(t *testing.T) {
	for from, not := range map[string][]string{
		"logs/dialects": {"core/why", "core/machine", "core/package"}, // a dialect knows nothing of signs
		"why/verdict":   {"core/machine"},                             // evidence asks machines through checks alone
		"why/signs":     {"core/machine", "core/package"},
		"step":          {"core/"},
	} {
		err := filepath.WalkDir(filepath.FromSlash(from), func(name string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(name, ".go") || strings.HasSuffix(name, "_test.go") {
				return err
			}
			f, err := parser.ParseFile(token.NewFileSet(), name, nil, parser.ImportsOnly)
			if err != nil {
				return err
			}
			for _, i := range f.Imports {
				for _, n := range not {
					if what := path.Clean(strings.Trim(i.Path.Value, `"`)); strings.HasPrefix(what, "hollowkey/"+n) {
						t.Errorf("%s uses %s", name, what)
					}
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
}

// widest is where a line of code stops being read in one glance; a screen
// beside a specification shows about so many letters.
const widest = 140

// Lines of code are short: what a string or a table of words holds is data and
// does not count.
func TestLinesAreShort(t *testing.T) {
	seen := 0
	err := filepath.WalkDir("..", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(name, ".go") {
			return err
		}
		text, err := os.ReadFile(name)
		if err != nil {
			return err
		}
		code := withoutStrings(text)
		for n, line := range bytes.Split(code, []byte("\n")) {
			seen++
			if len(line) > widest && bytes.Count(line, []byte(": true")) < 6 {
				t.Errorf("%s:%d has %d letters outside its strings, %d are the most: break it", name, n+1, len(line), widest)
			}
		}
		return nil
	})
	if err != nil || seen < 1000 {
		t.Fatal(seen, err)
	}
}

// withoutStrings gives the text with each string literal's contents left out;
// what stood on several lines still does.
func withoutStrings(text []byte) []byte {
	set := token.NewFileSet()
	file := set.AddFile("", -1, len(text))
	var s scanner.Scanner
	s.Init(file, text, nil, scanner.ScanComments)
	var out []byte
	done := 0
	for {
		pos, tok, literal := s.Scan()
		if tok == token.EOF {
			return append(out, text[done:]...)
		}
		if tok != token.STRING {
			continue
		}
		at := file.Offset(pos)
		out = append(out, text[done:at]...)
		out = append(out, bytes.Repeat([]byte("\n"), strings.Count(literal, "\n"))...)
		done = at + len(literal)
	}
}
