package page

import (
	"bytes"
	"context"
	"encoding/xml"
	"fmt"
	"io"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"hollowkey/core/fleet/fold"
	"hollowkey/core/fleet/store"
)

// filled is a store of twenty machines that fail from two causes, on two days.
func filled(t *testing.T) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), filepath.Join(t.TempDir(), "t.db"), true)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	var list []store.Found
	for n := range 20 {
		host := fmt.Sprintf("ellery-d%02d", n)
		facts := &fold.Facts{Class: "service", Sign: "s", Kind: "service", Subject: "BerthSync",
			Title: "the service BerthSync did not start", Host: host}
		if n%4 == 0 {
			facts = &fold.Facts{Class: "path", Kind: "folder", Subject: `<b>R&D</b>`, Title: `<script>alert(1)</script> is gone`, Host: host}
		}
		a := store.Attempt{ID: fmt.Sprintf("%024d", n), Path: host + "/setup.log", Machine: host, Build: "22631",
			Product: "Tidebook Desk", Version: "2.8.1", Outcome: "failed",
			Happened: time.Date(2026, 5, 4+n%2, 9, 0, 0, 0, time.UTC), Facts: facts, Confidence: 0.9,
			Summary: "it failed on " + strings.ToUpper(host), Line: 3, Proof: `Error on \\` + host + `\share`}
		list = append(list, store.Found{File: store.File{Path: a.Path, State: store.Log}, Attempts: []store.Attempt{a},
			Tried: []store.Tried{{Facts: *facts, Class: "service", Remedy: "start it", Result: store.Helped, Machine: host, Happened: a.Happened}}})
	}
	if err := s.Add(context.Background(), list); err != nil {
		t.Fatal(err)
	}
	return s
}

func written(t *testing.T, s *store.Store, names bool) (Page, string) {
	t.Helper()
	p, err := Collect(context.Background(), s, Options{Names: names, Most: 20, Made: time.Date(2026, 5, 6, 8, 0, 0, 0, time.UTC)})
	if err != nil {
		t.Fatal(err)
	}
	var b bytes.Buffer
	if err := HTML(&b, p); err != nil {
		t.Fatal(err)
	}
	return p, b.String()
}

// The page tells what the store has; what logs say is text on it, and nothing
// comes from outside.
func TestPage(t *testing.T) {
	p, text := written(t, filled(t), false)
	if p.Total.Failed != 20 || p.Total.Machines != 20 || len(p.Causes) != 2 || p.Causes[0].Machines != 15 ||
		p.Causes[0].Share != 75 || p.Fresh != 0 || p.Span != "2026-05-04 to 2026-05-05" {
		t.Errorf("%+v", p)
	}
	if len(p.Helped) != 2 || p.Helped[0].Trial.Helped != 15 {
		t.Errorf("what helped: %+v", p.Helped)
	}
	for _, want := range []string{"20 setups failed on 20 machines", "&lt;script&gt;alert(", "Tidebook Desk 2.8.1",
		"22631", "What helped", "75 %"} {
		if !strings.Contains(text, want) {
			t.Errorf("it lacks %q: %.300s", want, text[max(0, strings.Index(text, "alert")-80):])
		}
	}
	if regexp.MustCompile(`(?i)(?:src|href)\s*=\s*["']?(?:https?:)?//`).MatchString(text) || strings.Contains(text, "<script>alert") {
		t.Error("something comes from outside, or from a log")
	}
	if n := len(p.Causes[0].Spark); n != sparkDays {
		t.Errorf("%d bars", n)
	}
}

// Names of machines are tokens, the same for the same machine, unless they are
// to stay.
func TestNames(t *testing.T) {
	s := filled(t)
	_, masked := written(t, s, false)
	if strings.Contains(strings.ToLower(masked), "ellery-d") || !strings.Contains(masked, "machine 3") {
		t.Error("a machine's name stands on the page")
	}
	if !regexp.MustCompile(`it failed on machine \d+`).MatchString(masked) {
		t.Error("a sample calls its machine otherwise than the list")
	}
	if _, open := written(t, s, true); !strings.Contains(open, "ellery-d03") || strings.Contains(open, "machine 3") {
		t.Error("the names do not stand on the page")
	}
}

// The pictures are well-formed.
func TestPictures(t *testing.T) {
	_, text := written(t, filled(t), false)
	pictures := regexp.MustCompile(`(?s)<svg.*?</svg>`).FindAllString(text, -1)
	if len(pictures) != 2 {
		t.Fatalf("%d pictures", len(pictures))
	}
	for _, p := range pictures {
		d := xml.NewDecoder(strings.NewReader(p))
		for {
			if _, err := d.Token(); err == io.EOF {
				break
			} else if err != nil {
				t.Fatal(err, p)
			}
		}
	}
}
