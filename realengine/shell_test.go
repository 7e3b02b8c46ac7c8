package realengine

import (
	"bytes"
	"encoding/json"
	"math/rand"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"

	"hollowkey/core/fix/kinds"
)

// What is quoted for a command file arrives in the program as it was, whatever stands
// beside it; what the shell cannot carry is refused.
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
	text, want, refused := "@echo off\r\nchcp 65001 >nul\r\n", [][]string{}, 0
	for range calls {
		line, args := `"`+windowsPath(echo)+`"`, []string{}
		for len(args) < each {
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
		text, want = text+line+"\r\n", append(want, args)
	}
	script, out := filepath.Join(dir, "run.cmd"), filepath.Join(dir, "out.ndjson")
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
	d, bad := json.NewDecoder(bytes.NewReader(b)), 0
	for i, args := range want {
		var got []string
		if err := d.Decode(&got); err != nil {
			t.Fatalf("call %d: %v", i, err)
		}
		for k, a := range got { // this engine's shell has no console here, and so no other code page than its first
			if raw, err := charmap.CodePage437.NewEncoder().String(a); err == nil && utf8.ValidString(raw) {
				got[k] = raw
			}
		}
		if !slices.Equal(got, args) {
			if bad++; bad <= 5 {
				t.Errorf("call %d:\n got %q\nwant %q", i, got, args)
			}
		}
	}
	t.Logf("%d arguments went through, %d were refused; %d calls differ", calls*each, refused, bad)
}
