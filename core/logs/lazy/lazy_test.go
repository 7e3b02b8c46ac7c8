package lazy

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"reflect"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"testing"
)

// house is where the patterns are that the program has.
const house = "../../.."

// patterns are those that are written down in one piece somewhere in the house.
var patterns = sync.OnceValue(func() (all []string) {
	filepath.WalkDir(house, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		if err != nil {
			return err
		}
		ast.Inspect(file, func(n ast.Node) bool {
			call, ok := n.(*ast.CallExpr)
			if !ok || len(call.Args) != 1 {
				return true
			}
			if of, ok := call.Fun.(*ast.SelectorExpr); ok && of.Sel.Name == "MustCompile" {
				if text, ok := written(call.Args[0]); ok {
					all = append(all, text)
				}
			}
			return true
		})
		return nil
	})
	return all
})

// written is a text that the source has in one piece, or in several that are
// put together.
func written(e ast.Expr) (text string, ok bool) {
	switch e := e.(type) {
	case *ast.BasicLit:
		text, err := strconv.Unquote(e.Value)
		return text, err == nil && e.Kind == token.STRING
	case *ast.BinaryExpr:
		left, ok1 := written(e.X)
		right, ok2 := written(e.Y)
		return left + right, ok1 && ok2
	}
	return "", false
}

// spoken are lines of logs in many layouts and languages.
func spoken(t testing.TB, each int) (lines []string) {
	err := filepath.WalkDir(house+"/core/why/verdict/testdata", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := os.ReadFile(path)
		for i, line := range strings.Split(string(b), "\n") {
			if i%each == 0 {
				lines = append(lines, line)
			}
		}
		return err
	})
	if err != nil || len(lines) == 0 {
		t.Fatalf("no logs to read: %v", err)
	}
	return lines
}

// same compares what a pattern finds with what the library does.
func same(t *testing.T, source, line string) {
	t.Helper()
	re, ours := regexp.MustCompile(source), MustCompile(source)
	if is, want := ours.MatchString(line), re.MatchString(line); is != want {
		t.Errorf("%q in %q: match is %v, want %v", source, line, is, want)
	}
	if is, want := ours.FindStringSubmatchIndex(line), re.FindStringSubmatchIndex(line); !reflect.DeepEqual(is, want) {
		t.Errorf("%q in %q: first is at %v, want %v", source, line, is, want)
	}
	for _, n := range []int{-1, 2} {
		is, want := ours.FindAllStringSubmatch(line, n), re.FindAllStringSubmatch(line, n)
		if len(is) != len(want) || len(is) > 0 && !reflect.DeepEqual(is, want) {
			t.Errorf("%q in %q: the first %d are %q, want %q", source, line, n, is, want)
		}
	}
}

// What is found must not depend on where it is looked for.
func TestPatternsOfTheHouse(t *testing.T) {
	if len(patterns()) < 150 {
		t.Fatalf("only %d patterns were found in the house", len(patterns()))
	}
	headed := 0
	lines := strings.Join(spoken(t, 97), "\n")
	for _, source := range patterns() {
		r := MustCompile(source)
		r.look()
		if r.heads != nil {
			headed++
		}
		for i := 0; i < len(lines); i += 2000 { // long texts try more places than lines do
			same(t, source, lines[i:min(i+2000, len(lines))])
		}
	}
	if headed < len(patterns())/4 {
		t.Errorf("of %d patterns %d are looked for at their heads", len(patterns()), headed)
	}
}

func TestForms(t *testing.T) {
	texts := []string{"", "error", "an error", "xerror error 5", "Error ERROR eRRor", "errorerror error", "no step here", "step 4: copy",
		"(step 4: copy)", "astep 4", "[step 5: x step 6: y", "İstep 4 step 5", "No K step 7", "stepstep 8", "Шаг 3: copy", "xшаг 4 шаг 5", "50 %", "%"}
	for _, source := range []string{`\b(?:error|fault) (\d)`, `(?i)\b(?:error|fault)`, `(?:^|[\s\[(])(?:step|шаг) (\d)`, `(?i)(?:^|[\s\[(])(?:step|шаг) (\d)`,
		`^(?:step|error)\b`, `(?i)^(?:step|no|шаг)`, `\b(?:st(?:ep|op)|err[ao]r)s? ?(\d?)`, `(?:^|[^\pL])(?:step|error)+`, `\d ?%`, `(?i)(?:step|шаг)`,
		`(?:a|b)?step`, `(?:step){2}`, `\b(?:step)\b|^error`, `(?:^|s)(?:step|tep) ?`, `(?i)(?:^|\W)k|step`, `\bшаг (\d)`} {
		for _, text := range texts {
			same(t, source, text)
		}
	}
}

func FuzzAsTheLibrary(f *testing.F) {
	for i, line := range spoken(f, 211) {
		f.Add(uint(i), line)
	}
	f.Fuzz(func(t *testing.T, which uint, text string) {
		if len(text) > 2000 {
			t.Skip()
		}
		same(t, patterns()[which%uint(len(patterns()))], text)
	})
}
