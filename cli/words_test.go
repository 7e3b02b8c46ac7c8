package cli_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"
)

// banned are turns that sound translated, or are another word for what has one
// already; beside each is what to say.
var banned = []struct{ turn, better string }{
	{`set-up`, "setup (noun), set up (verb)"},
	{`puts? (?:it|them|that) right\b`, "fix"},
	{`\bsure \d+ ?%|\d+ ?% sure`, "confidence 95 %, proven by the log"},
	{`\bmay do nothing in\b`, "has no access to"},
	{`may not be changed by`, "cannot write to"},
	{`of that name stands there`, "a file with that name already exists"},
	{`in its place goes away`, "replaces the empty file there"},
	{`\btak(?:e|es|ing|en) (?:it |them |this |that )?back\b`, "undo, rolled back"},
	{`\bchanges little\b`, "small change"},
	{`is so already`, "already in place"},
	{`\bcannot tell\b|cannot be told(?:[.,;:]|$)`, "unknown"},
	{`\bbeware\b`, "warning"},
	{`nobody (?:is|was) there to be asked`, "no terminal to ask on; use --yes"},
	{`needs wants`, "the site requires"},
	{`without an ending`, "with no extension"},
	{`failed without a word`, "failed without a message"},
	{`ends at once`, "exits immediately"},
	{`the truth is in`, "has the details"},
	{`\bhere it broke`, "failed here"},
	{`goes the whole way|leads the way|the whole way on`, "end to end, walks you through it"},
	{`[Nn]ow type yourself`, "Try it yourself"},
	{`tell how it went`, "report the result"},
	{`the reckoning of`, "disk-space costing"},
	{`packages are told`, "Windows reports to packages"},
	{`when it is told wrongly`, "if detected wrongly"},
	{`\bsums? (?:a |any |them |it )?(?:\w+ )*up\b`, "summarizes"},
	{`carries no signature`, "loses the signature"},
	{`[Cc]arries out edits`, "checks references, then applies the edits"},
	{`\(1 times\)|\b1 (?:files|steps|rows|folders|lines|changes|items)\b`, "counted right"},
	{`\bfor you:`, "manual"},
}

// What people read has none of the banned turns: texts in the program, signs
// and other data, docs, the demo.
func TestWords(t *testing.T) {
	patterns := make([]*regexp.Regexp, len(banned))
	for i, b := range banned {
		patterns[i] = regexp.MustCompile(b.turn)
	}
	look := func(where, text string) {
		for i, p := range patterns {
			if m := p.FindString(text); m != "" {
				t.Errorf("%s: %q: say %q", where, m, banned[i].better)
			}
		}
	}
	read := 0
	root := ".."
	err := filepath.WalkDir(root, func(name string, d os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() {
			switch d.Name() {
			case ".git", "lexicon", "testdata", "fuzz", "endings": // words of other programs' logs
				return filepath.SkipDir
			}
			return nil
		}
		switch {
		case strings.HasSuffix(name, "_test.go"):
		case strings.HasSuffix(name, ".go"):
			read++
			return literals(name, look)
		case strings.HasSuffix(name, ".md"), strings.HasSuffix(name, ".yaml"), strings.HasSuffix(name, ".html"),
			strings.HasSuffix(name, ".txt") && !strings.Contains(name, "names"):
			read++
			b, err := os.ReadFile(name)
			if err != nil {
				return err
			}
			look(name, strings.Join(strings.Fields(string(b)), " "))
		}
		return nil
	})
	if err != nil || read < 100 {
		t.Fatal(read, err)
	}
}

// literals hands the texts in a Go file to look, without comments and without
// the patterns by which other programs' words are known.
func literals(name string, look func(where, text string)) error {
	fset := token.NewFileSet()
	f, err := parser.ParseFile(fset, name, nil, 0)
	if err != nil {
		return err
	}
	ast.Inspect(f, func(n ast.Node) bool {
		if c, ok := n.(*ast.CallExpr); ok {
			if s, ok := c.Fun.(*ast.SelectorExpr); ok && (s.Sel.Name == "MustCompile" || s.Sel.Name == "NewPattern") {
				return false
			}
		}
		if l, ok := n.(*ast.BasicLit); ok && l.Kind == token.STRING {
			if text, err := strconv.Unquote(l.Value); err == nil && strings.Contains(text, " ") {
				look(fset.Position(l.Pos()).String(), strings.Join(strings.Fields(text), " "))
			}
		}
		return true
	})
	return nil
}
