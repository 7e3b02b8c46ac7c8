package dialects

import (
	"bytes"
	"context"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/logs/dialects/apppackage"
	"hollowkey/core/logs/dialects/chain"
	"hollowkey/core/logs/dialects/driver"
	"hollowkey/core/logs/dialects/events"
	"hollowkey/core/logs/dialects/generic"
	"hollowkey/core/logs/dialects/response"
	"hollowkey/core/logs/dialects/script"
	"hollowkey/core/logs/dialects/servicing"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

const labelled = "../../why/verdict/testdata/labelled"

func TestEachLogIsRecognised(t *testing.T) {
	for name, want := range map[string]story.Dialect{
		"chain-good.log": story.Chain, "script-good.txt": story.Script, "cbs-corrupt.log": story.Servicing, "dism-source.log": story.Servicing,
		"setupapi.dev.log": story.Driver, "appx.txt": story.AppPackage, "setup-result.ini": story.Response, "events.csv": story.Events,
		"events.xml": story.Events,
		"java.log":   story.Generic, "json.log": story.Generic, "logfmt.log": story.Generic, "dotnet.log": story.Generic,
		"engine-ja-1920.log": story.Engine,
	} {
		f, err := os.Open(filepath.Join(labelled, name))
		if err != nil {
			t.Fatal(err)
		}
		s, err := Read(context.Background(), name, f, textfile.Options{})
		f.Close()
		if err != nil || s.Dialect != want {
			t.Errorf("%s: %v, %v; want %s", name, s, err, want)
		}
	}
}

func TestNoLog(t *testing.T) {
	for text, want := range map[string]error{
		"":                                ErrEmpty,
		"\r\n":                            ErrEmpty,
		"Dear Sirs,\nno error.\n":         ErrNoLog,
		"\x7fELF\x00\x00\x00\x00\x01\x00": ErrBinary,
		"[section]\nkey=value\n":          ErrNoLog,
		"{\n \"a\": 1\n}\n":               ErrNoLog,
	} {
		if s, err := Read(context.Background(), "x", bytes.NewReader([]byte(text)), textfile.Options{}); !errors.Is(err, want) {
			t.Errorf("%q: %v, %v; want %v", text, s, err, want)
		}
	}
}

// seedLines is how many lines of a labelled log a seed has, from its beginning
// and from its end: small seeds let thousands of edits run in a second.
const seedLines = 8

// seed is a small log out of a labelled one.
func seed(f *testing.F, name string) string {
	f.Helper()
	b, err := os.ReadFile(filepath.Join(labelled, name))
	if err != nil {
		f.Fatal(err)
	}
	lines := strings.SplitAfter(string(b), "\n")
	if len(lines) > 2*seedLines {
		lines = append(lines[:seedLines:seedLines], lines[len(lines)-seedLines:]...)
	}
	return strings.Join(lines, "")
}

// edit changes a log as logs are damaged: lines are lost, doubled, swapped, cut
// short or glued together. Each pair of bytes is one edit and its place.
func edit(log string, ops []byte) string {
	lines := strings.SplitAfter(log, "\n")
	for k := 0; k+1 < len(ops) && len(lines) > 1; k += 2 {
		i := int(ops[k+1]) % len(lines)
		switch ops[k] % 6 {
		case 0:
			lines = slices.Delete(lines, i, i+1)
		case 1:
			lines = slices.Insert(lines, i, lines[i])
		case 2:
			lines[i], lines[0] = lines[0], lines[i]
		case 3:
			lines[i] = lines[i][:len(lines[i])/2]
		case 4:
			lines[i] = strings.TrimRight(lines[i], "\r\n")
		case 5:
			lines[i] = "\t" + lines[i]
		}
	}
	return strings.Join(lines, "")
}

// fuzz drives one reader with edited logs: it ends, and what it keeps is
// bounded and stands where it says.
func fuzz(f *testing.F, open func(string) story.Reader, seeds ...string) {
	for _, s := range seeds {
		f.Add(seed(f, s), []byte{0, 3, 1, 5})
		f.Add(seed(f, s), []byte{3, 9, 4, 2, 2, 7})
	}
	f.Fuzz(func(t *testing.T, log string, ops []byte) {
		r := open("fuzz.log")
		var info textfile.Info
		for l, err := range textfile.Lines(context.Background(), strings.NewReader(edit(log, ops)), textfile.Options{}, &info) {
			if err != nil {
				t.Fatal(err)
			}
			r.Line(l)
		}
		for _, a := range r.Finish() {
			if len(a.Messages) > story.MaxMessages || len(a.Actions) > story.MaxActions {
				t.Errorf("%d messages, %d actions", len(a.Messages), len(a.Actions))
			}
			for _, m := range a.Messages {
				if m.Line < 1 || m.Line > info.Lines {
					t.Errorf("a message at line %d of %d", m.Line, info.Lines)
				}
			}
		}
	})
}

func FuzzChain(f *testing.F) {
	fuzz(f, func(n string) story.Reader { return chain.New(n) }, "chain-good.log", "chain-hash.log")
}

func FuzzScript(f *testing.F) {
	fuzz(f, func(n string) story.Reader { return script.New(n) }, "script-inuse.txt", "script-740.txt")
}

func FuzzServicing(f *testing.F) {
	fuzz(f, func(n string) story.Reader { return servicing.New(n) }, "cbs-corrupt.log", "dism-source.log")
}

func FuzzDriver(f *testing.F) {
	fuzz(f, func(n string) story.Reader { return driver.New(n) }, "setupapi.dev.log")
}

func FuzzResponse(f *testing.F) {
	fuzz(f, func(n string) story.Reader { return response.New(n) }, "setup-result.ini")
}

func FuzzAppPackage(f *testing.F) {
	fuzz(f, func(n string) story.Reader { return apppackage.New(n) }, "appx.txt")
}

func FuzzEvents(f *testing.F) {
	fuzz(f, func(n string) story.Reader { return events.New(n) }, "events.csv", "events.xml")
}

func FuzzGeneric(f *testing.F) {
	fuzz(f, func(n string) story.Reader { return generic.New(n) }, "java.log", "json.log", "logfmt.log", "dotnet.log")
}

// blocks is a log of names and values, parted by strokes.
const blocks = "Time: 04.05.2026 09:12:01\nLevel: Info\nText: Tidebook Desk 4.1.0 setup\n----\n" +
	"Time: 04.05.2026 09:12:02\nLevel: Error\nText: BerthSync did not start\n  at Start()\n----\n" +
	"Time: 04.05.2026 09:12:03\nLevel: Error\nText: setup failed\n----\n"

func FuzzBlocks(f *testing.F) {
	head := bytes.Split([]byte(blocks), []byte("\n"))
	f.Add(blocks, []byte{0, 3, 1, 5})
	fuzz(f, func(n string) story.Reader { return generic.NewBlocks(n, head) })
}

// FuzzRead takes any bytes through detection to the story.
func FuzzRead(f *testing.F) {
	f.Add([]byte("[0A10:0B20][2026-05-04T09:12:01]i001: x\n"))
	f.Add([]byte("2026-05-04 09:12:01.024   Log opened.\n"))
	for _, form := range []string{"setup.log:%d: [0A10:0B20][2026-05-04T09:12:01]i001: x\n", "%d,\"2026-05-04 09:12:01 Info: x\"\n",
		`{"time":%d,"message":"[0A10:0B20][2026-05-04T09:12:01]i001: x"}` + "\n", "<pre>out> %d &lt;x&gt;\n", "deploy: step %d\n", "08:00:01 agent[%d] x\n"} {
		f.Add([]byte(strings.Join(linesLike(24, form), "") + "\nsetup failed, exit code 3\n" + strings.Join(linesLike(24, "08:00:01 agent[%d] x\n"), "")))
	}
	f.Fuzz(func(t *testing.T, in []byte) {
		s, err := Read(context.Background(), "fuzz", bytes.NewReader(in), textfile.Options{})
		if s == nil && err == nil || s != nil && err != nil && !errors.Is(err, ErrNoLog) { // with that a story may come
			t.Errorf("%v and %v", s, err)
		}
		if s == nil {
			return
		}
		for _, a := range s.Attempts {
			for _, m := range a.Messages {
				if m.Line < 1 || m.Line > s.Sources[0].Lines {
					t.Errorf("a message at line %d of %d", m.Line, s.Sources[0].Lines)
				}
			}
		}
	})
}
