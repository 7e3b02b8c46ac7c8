package cli_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"hollowkey/cli/columns"
)

// calls are calls of every command, good ones and bad ones.
func calls(t *testing.T, dir string) [][]string {
	t.Helper()
	on := func(args ...string) []string { return append(args, "--machine", "ELLERY-D07") }
	write(t, dir, "needs.yaml", "free: 900 TB\nproducts:\n  - { name: Pilot Roster, absent: true }\n")
	return [][]string{
		{"why", "tidebook.log"}, {"why", "roster.log", "--explain"}, on("why", "berthline.log"),
		{"why", "--exit", "1603"}, {"why", "nothing.log"}, {"why"},
		{"code", "1603"}, {"code", "0x80070643"}, {"code", "nonsense"}, {"trail", "tidebook.log"}, {"trail", "tidebook.log", "--around", "2442"},
		on("logs"), {"logs", "level"}, on("logs", "verbose", "show"), on("fix", "tidebook.log", "--preview"),
		on("fix", "tidebook.log", "--yes"), on("journal"),
		on("undo", "--preview"), on("undo", "--yes"), on("undo", "--yes"), on("fix", "tidebook.log"),
		on("fix", "tidebook.log", "--ladder", "--preview"),
		{"fix", "--step", "help"}, on("fix", "--step", "grant"), {"fix", "tidebook.log", "--command"},
		on("ready"), on("ready", msi, "--needs", "needs.yaml"), on("ready", "mend", "--preview"), on("products"), on("products", "Pilot Roster"),
		on("products", "mend", "Pilot Roster", "--from", "share", "--preview"), on("products", "stop", "Fairway Radio 1", "--preview"),
		on("cache"), on("cache", "restore", "--from", "share", "--preview"), on("leftovers", "Fairway Radio 1"),
		on("leftovers", "clear", "Fairway Radio 1", "--preview"),
		on("leftovers", "No Such Product"), on("startup"), on("startup", "hold", "--preview"),
		on("startup", "release"), on("startup", "hunt", "--yes"), on("startup", "hunt", "--stop", "--yes"),
		on("startup", "safe", "minimal", "--preview"), {"package", "overview", msi}, {"package", "tables", msi},
		{"package", "rows", msi, "Property"},
		{"package", "find", msi, "ChartRuntime"}, {"package", "order", msi}, on("package", "gates", msi), {"package", "unpack", msi},
		{"package", "alter", msi, "--set-property", "A=1", "--preview"}, {"package", "compare", msi, msi},
		{"signs", "list"}, {"signs", "show", "shell-folder-drive-missing"},
		on("rehearse", `C:\Deploy\Tidebook.msi`), on("retry", "tidebook.log"), on("case"), {"case", "list", "."},
		{"case", "open", "--case", "berth-17"}, {"case", "note", "tides", "--case", "berth-17"},
		{"case", "add", "tidebook.log", "--case", "berth-17"}, {"case", "close", "--case", "berth-17"}, {"case", "--case", "berth-17"},
		{"triage", "add", "."}, {"triage", "top"}, {"triage", "new"}, {"triage", "cause", "none"},
		{"triage", "machine", "ELLERY-D07"}, {"triage", "compare", "product=Tide*", "product=Pilot*"},
		{"triage", "forget", "--before", "2001-01-01"},
		on("case", "report"), on("gather", "--preview"), {"config"}, {"wyh"}, {"why", "--jsn"},
		on("fix", "--step", "grnat"), {"ready", "--machine", "nowhere"},
	}
}

// What commands print as JSON is one object that holds to its schema, with
// errors and a "no" as well.
func TestJSONHoldsToItsSchema(t *testing.T) {
	t.Parallel() // it takes long, and most of it is waiting for processes
	dir := layOut(t)
	compiler := jsonschema.NewCompiler()
	files, err := filepath.Glob(filepath.Join("..", "docs", "json", "*.schema.json"))
	if err != nil || len(files) < 30 {
		t.Fatal(len(files), err)
	}
	for _, name := range files {
		f, err := os.Open(name)
		if err != nil {
			t.Fatal(err)
		}
		doc, err := jsonschema.UnmarshalJSON(f)
		f.Close()
		if err == nil {
			err = compiler.AddResource(doc.(map[string]any)["$id"].(string), doc)
		}
		if err != nil {
			t.Fatal(name, err)
		}
	}
	seen := map[string]bool{}
	for _, call := range calls(t, dir) {
		r := run(t, dir, nil, append(call, "--json")...)
		what := strings.Join(call, " ")
		var head struct{ Schema string }
		if err := json.Unmarshal([]byte(r.out), &head); err != nil {
			t.Errorf("%s: exit %d, no JSON: %v\n%.300s\n%s", what, r.code, err, r.out, r.err)
			continue
		}
		schema, err := compiler.Compile(head.Schema)
		if err != nil {
			t.Errorf("%s: %s has no schema: %v", what, head.Schema, err)
			continue
		}
		seen[head.Schema] = true
		v, err := jsonschema.UnmarshalJSON(strings.NewReader(r.out))
		if err == nil {
			err = schema.Validate(v)
		}
		if err != nil {
			t.Errorf("%s: %v", what, err)
		}
		if head.Schema == "hollowkey.error/1" && r.code == 0 {
			t.Errorf("%s: an error that ends with 0", what)
		}
	}
	if len(seen) < 25 {
		t.Errorf("only %d shapes were seen", len(seen))
	}
}

// commandLine is in lines that hold a command, which is never wrapped or cut.
var commandLine = regexp.MustCompile(`hollowkey |msiexec|Start-Process|Usage|^\s+--?[a-z]`)

// At 80 columns every output fits, exit statuses are those that are documented,
// and a wrong call leaves standard output empty.
func TestEveryCallFits(t *testing.T) {
	dir := layOut(t)
	check := func(what, text string) {
		for line := range strings.Lines(text) {
			line = strings.TrimRight(line, "\n")
			if n := columns.Width(line); n > 80 && !commandLine.MatchString(line) {
				t.Errorf("%s: %d columns: %s", what, n, line)
			}
		}
	}
	for _, call := range calls(t, dir) {
		what := strings.Join(call, " ")
		r := run(t, dir, nil, append(call, "--width", "80")...)
		if r.code < 0 || r.code > 3 {
			t.Errorf("%s: exit status %d", what, r.code)
		}
		if r.code == 2 && r.out != "" {
			t.Errorf("%s: a wrong call prints %q", what, r.out)
		}
		if (r.code == 1 || r.code == 2) && r.err == "" {
			t.Errorf("%s: an error without a word", what)
		}
		for _, no := range []string{"strconv", "*fs.", "panic", "goroutine", "%!", "<nil>"} {
			if strings.Contains(r.out+r.err, no) {
				t.Errorf("%s: says %q: %s%s", what, no, r.out, r.err)
			}
		}
		if call[0] != "signs" { // shows files as they are
			check(what, r.out)
		}
	}
	var walk func(path ...string)
	seen := 0
	walk = func(path ...string) {
		seen++
		help := mustRun(t, dir, 0, append(slices.Clone(path), "--help", "--width", "80")...).out
		check(strings.Join(path, " ")+" --help", help)
		_, list, ok := strings.Cut(help, "\nCommands:\n")
		if !ok {
			return
		}
		list, _, _ = strings.Cut(list, "\n\n")
		for line := range strings.Lines(list) {
			if name := strings.Fields(line); strings.HasPrefix(line, "  ") && line[2] != ' ' && name[0] != "help" && name[0] != "completion" {
				walk(append(slices.Clone(path), name[0])...)
			}
		}
	}
	walk()
	if seen < 50 {
		t.Errorf("only %d commands were seen", seen)
	}
}
