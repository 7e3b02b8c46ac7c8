package realengine

import (
	"bytes"
	"encoding/json"
	"math/rand"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"

	"hollowkey/core/fix/kinds"
)

// What is quoted for a command file arrives in the program as it was, whatever
// stands beside it; what the shell cannot carry is refused.
func TestArgumentsThroughTheShell(t *testing.T) {
	if absent != "" {
		t.Skip("no real engine here: " + absent)
	}
	dir := t.TempDir()
	echo := build(t, "build", "hollowkey/realengine/echo")
	random := rand.New(rand.NewSource(1))
	pieces := []string{"a", "Quay", "C:\\", `\`, `\\`, " ", "%", "%TEMP%", "%%", "&", "|", "<", ">", "^", "(", ")",
		"=", ",", ";", "'", "`", "$x", "ä", "ß", "港", "é",
		"@", "#", "~", "*", "?", "/", "-", "del *", "1", `"`, "!", "\r\n", "\t", ".", ":"}
	const calls, each = 500, 20
	lines, want, refused := []string{}, [][]string{}, 0
	for i := range calls {
		number := strconv.Itoa(i) // tells which call an answer is to
		line, args := `"`+windowsPath(echo)+`" `+number, []string{number}
		for len(args) <= each {
			arg := ""
			for range 1 + random.Intn(7) {
				arg += pieces[random.Intn(len(pieces))]
			}
			quoted, err := kinds.CommandArgument(arg)
			if err != nil {
				if refused++; !strings.ContainsAny(arg, "\"!\r\n") {
					t.Fatalf("%q is refused: %v", arg, err)
				}
				continue
			}
			line, args = line+" "+quoted, append(args, arg)
		}
		lines, want = append(lines, line), append(want, args)
	}
	got := map[string][]string{}
	for try := 0; try < 3 && len(got) < calls; try++ { // on a busy machine a program is not always started
		var missing []string
		for i, line := range lines {
			if got[strconv.Itoa(i)] == nil {
				missing = append(missing, line)
			}
		}
		throughTheShell(t, dir, missing, got)
	}
	bad := 0
	for i, args := range want {
		if is := got[strconv.Itoa(i)]; !slices.Equal(is, args) {
			if bad++; bad <= 5 {
				t.Errorf("call %d:\n got %q\nwant %q", i, is, args)
			}
		}
	}
	t.Logf("%d arguments went through, %d were refused; %d calls differ", calls*each, refused, bad)
}

// throughTheShell runs calls of the echo program in one command file, and adds
// the arguments that each got, by the first.
func throughTheShell(t *testing.T, dir string, calls []string, got map[string][]string) {
	t.Helper()
	script, out := filepath.Join(dir, "run.cmd"), filepath.Join(dir, "out.ndjson")
	text := "@echo off\r\nchcp 65001 >nul\r\n" + strings.Join(calls, "\r\n") + "\r\n"
	if err := os.WriteFile(script, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	cmd := wine("wine", "cmd.exe", "/c", windowsPath(script))
	cmd.Env = append(cmd.Environ(), "ECHO_TO="+windowsPath(out))
	if said, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("%v\n%.2000s", err, said)
	}
	b, err := os.ReadFile(out)
	if err != nil {
		t.Fatal(err)
	}
	for d := json.NewDecoder(bytes.NewReader(b)); d.More(); {
		var args []string
		if err := d.Decode(&args); err != nil {
			t.Fatal(err)
		}
		for k, a := range args { // this engine's shell has no console here, and so no other code page than its first
			if raw, err := charmap.CodePage437.NewEncoder().String(a); err == nil && utf8.ValidString(raw) {
				args[k] = raw
			}
		}
		if len(args) > 0 {
			got[args[0]] = args
		}
	}
}
