package why_test

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/logs/mask"
	"hollowkey/core/why"
)

// A masked log gives the verdict of the log itself.
func TestMaskedVerdicts(t *testing.T) {
	folder := os.Getenv("HOLLOWKEY_TEST_LOGS") // a folder of further logs to try
	if folder == "" {
		folder = filepath.Join("verdict", "testdata", "labelled")
	}
	logs, err := filepath.Glob(filepath.Join(folder, "*.*"))
	if err != nil || len(logs) == 0 {
		t.Fatal(err)
	}
	tried := 0
	for _, log := range logs {
		if ext := filepath.Ext(log); ext == ".json" || ext == ".yaml" {
			continue
		}
		b, err := os.ReadFile(log)
		if err != nil {
			t.Fatal(err)
		}
		want, err := why.Ask(t.Context(), why.Question{Logs: []string{log}})
		if err != nil {
			continue // no log by itself
		}
		tried++
		m := mask.New(nil, nil)
		var out bytes.Buffer
		if err := m.LearnFrom(bytes.NewReader(b)); err != nil {
			t.Fatal(err)
		}
		if err := m.Copy(&out, bytes.NewReader(b)); err != nil {
			t.Fatal(err)
		}
		got, err := why.Ask(t.Context(), why.Question{Logs: []string{write(t, filepath.Base(log), out.String())}})
		if err != nil {
			t.Errorf("%s: %v", log, err)
			continue
		}
		g, w := got.Verdict, want.Verdict
		class := func(c *string) string {
			if c == nil {
				return ""
			}
			return *c
		}
		if class(g.Cause.Class) != class(w.Cause.Class) || g.Outcome != w.Outcome || (g.ExitCode == nil) != (w.ExitCode == nil) {
			t.Errorf("%s: %s %s; want %s %s", filepath.Base(log), g.Outcome, class(g.Cause.Class), w.Outcome, class(w.Cause.Class))
		}
		if broke := class(w.BrokeAt.Action); broke != class(g.BrokeAt.Action) && m.Mask(broke) == broke {
			t.Errorf("%s: broke at %q; want %q", filepath.Base(log), class(g.BrokeAt.Action), broke)
		}
		if strings.Count(out.String(), "\n") != bytes.Count(b, []byte("\n")) {
			t.Errorf("%s: lines were lost", log)
		}
	}
	t.Logf("%d logs", tried)
}
