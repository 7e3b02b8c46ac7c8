package signs

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"hollowkey/core/logs/pieces"
	"hollowkey/core/logs/story"
	"hollowkey/core/step"
)

// lineOf makes a weighed line.
func lineOf(line int, weight float64, kind story.Kind, number int, text string, fields ...string) Weighed {
	return Weighed{&story.Message{Place: story.Place{File: "x", Line: line}, Kind: kind, Number: number, Text: text, Raw: text,
		Fields: fields}, weight}
}

func scene(lines ...Weighed) Scene {
	return Scene{Attempt: &story.Attempt{Dialect: story.Engine, Properties: map[string]story.Property{}}, Lines: lines}
}

// one parses a sign that consists of its way of being seen.
func one(t *testing.T, seen string) *Pack {
	t.Helper()
	signs, err := parse("t.yaml", []byte("- id: t\n  title: T\n  class: path\n  strength: 0.9\n  seen: ["+seen+
		"]\n  explanation: e\n  remedies: [{class: advice, title: r}]\n  tests: {match: [a], nearMiss: [b]}\n"))
	if err != nil {
		t.Fatalf("%s: %v", seen, err)
	}
	return &Pack{Signs: signs}
}

func TestEachKeyOfSeen(t *testing.T) {
	note := lineOf(5, 0.9, story.KindNote, 1920, "Note: 1: 1920 2: Berth Sync 3: BerthSync", "1920", "Berth Sync", "BerthSync")
	failed := lineOf(6, 1, story.KindError, 1920, "Error 1920. Service 'Berth Sync' (BerthSync) failed to start.")
	hint := lineOf(3, 0.5, story.KindText, 0, "Right refused: 0xC0000022")
	full := scene(hint, note, failed)
	full.Attempt.Exit = &story.Exit{Code: 1603}
	full.Attempt.Properties["PersonalFolder"] = story.Property{Value: `Z:\Documents`}
	full.Attempt.Policies = map[string]story.Property{"DisableMsi": {Value: "2"}}
	full.Broke = &story.Action{Name: "StartServices", Code: new(64)}
	full.Refusal = &lineOfSlice(lineOf(7, 1, story.KindProduct, 0, "Needs the tide"))[0]
	for _, tt := range []struct {
		seen  string
		score float64 // 0: not seen
		caps  string
	}{
		{"{message: [1920]}", 0.9, ""},
		{"{message: [1327]}", 0, ""},
		{"{message: [1327, 1920], strength: 0.5}", 0.5, ""},
		{"{message: [1920], fields: {3: '(?P<service>.+)'}}", 0.81, "service=BerthSync"},
		{"{message: [1920], fields: {3: 'Other'}}", 0, ""},
		{"{message: [1920], fields: {3: 'Other'}, said: ['\\((?P<service>\\w+)\\)']}", 0, ""}, // the record decides over words
		{"{message: [1920], said: ['failed to stop']}", 0, ""},
		{"{text: ['FAILED to start']}", 0.9, ""},
		{"{text: ['nothing of that']}", 0, ""},
		{"{text: ['nothing', 'refused: (?P<code>0x\\w+)']}", 0.45, "code=0xC0000022"},
		{"{message: [1920], also: ['refused: (?P<code>\\w+)']}", 0.9, "code=0xC0000022"},
		{"{message: [1920], also: ['granted']}", 0, ""},
		{"{message: [1920], not: ['refused']}", 0, ""},
		{"{message: [1920], not: ['granted']}", 0.9, ""},
		{"{message: [1920], text: ['refused']}", 0.9, ""},
		{"{message: [1920], text: ['granted']}", 0, ""},
		{"{action: '^start(?P<what>services)$'}", 0.9, "what=Services"},
		{"{action: '^Stop'}", 0, ""},
		{"{exit: [1, 1603]}", 0.9, ""},
		{"{exit: [1618]}", 0, ""},
		{"{result: [64]}", 0.9, ""},
		{"{result: [3]}", 0, ""},
		{"{property: {PersonalFolder: '^(?P<drive>[A-Z]:)'}}", 0.9, "drive=Z:"},
		{"{property: {PersonalFolder: '^C:'}}", 0, ""},
		{"{property: {Absent: '.'}}", 0, ""},
		{"{policy: {DisableMsi: '^[12]'}}", 0.9, ""},
		{"{refusal: ['tide']}", 0.9, "said=Needs the tide"},
		{"{refusal: ['ebb']}", 0, ""},
		{"{message: [1920], dialect: [chain]}", 0, ""},
		{"{message: [1920], dialect: [chain, engine]}", 0.9, ""},
		{"{action: '^Start', quiet: true}", 0, ""},
	} {
		hits := one(t, tt.seen).Match(full)
		score, caps := 0.0, ""
		if len(hits) > 0 {
			score = hits[0].Score
			for k, v := range hits[0].Captures {
				caps += k + "=" + v
			}
		}
		if fmt.Sprintf("%.2f", score) != fmt.Sprintf("%.2f", tt.score) || caps != tt.caps {
			t.Errorf("%s: score %.2f, captures %q; want %.2f, %q", tt.seen, score, caps, tt.score, tt.caps)
		}
	}
	silent := scene(hint)
	silent.Broke, silent.Quiet = full.Broke, true
	if hits := one(t, "{action: '^Start', quiet: true}").Match(silent); len(hits) != 1 {
		t.Errorf("a silent action: %v", hits)
	}
	if hits := one(t, "{refusal: ['.']}").Match(silent); len(hits) != 0 {
		t.Errorf("no refusal was given, and yet: %v", hits)
	}
}

func lineOfSlice(w Weighed) []Weighed { return []Weighed{w} }

// The surest comes first; of equals the one that shows earlier.
func TestOrderOfHits(t *testing.T) {
	var p Pack
	for _, s := range []struct {
		id, word string
		strength float64
	}{{"late", "late", 0.8}, {"early", "early", 0.8}, {"sure", "sure", 0.9}} {
		p.Signs = append(p.Signs, &Sign{ID: s.id, Strength: s.strength, Seen: []Seen{{Text: []Pattern{NewPattern(s.word)}}}})
	}
	hits := p.Match(scene(lineOf(1, 1, story.KindText, 0, "early"), lineOf(2, 1, story.KindText, 0, "late"),
		lineOf(3, 1, story.KindText, 0, "sure")))
	var ids []string
	for _, h := range hits {
		ids = append(ids, h.Sign.ID)
	}
	if got := strings.Join(ids, " "); got != "sure early late" {
		t.Errorf("order: %s", got)
	}
}

func TestPieces(t *testing.T) {
	for _, tt := range []struct{ pattern, want string }{
		{"Failed to expand", "failed to expand"}, {"a|b", ""}, {"(?:a|b)cde", "cde"}, {"[]%z%z+]ab", "ab"}, {"[[:alpha:]]xy", "xy"},
		{"(?:abc)+d", "abc"}, {`\x41bc`, "abc"}, {`x\.reg\b`, "x.reg"}, {"colou?r is", "colo"}, {"[abc]def[gh]ij", "def"},
		{"^Log opened", "log opened"}, {`\d+ files`, " files"}, {"ab*cde", "cde"}, {"ab{2,3}cde", "cde"}, {"(never)", "never"},
		{"(?:a|b)", ""}, {"größe", "größe"}, {"ΣΣΗΡΩΝ", "ων"}, {"мало|нет", "мал не"}, {"空间", "空间"}, {"", ""},
		{"denied|refused", "denied refused"}, {"(?:access|zugriff) .* (?:denied|verweigert)", "access zugriff"},
		{"(?:denied|.*)", ""}, {`lost|\d+ gone`, "lost  gone"},
	} {
		if got := strings.Join(NewPattern(tt.pattern).pieces(), " "); got != tt.want {
			t.Errorf("pieces of %q: = %q, want %q", tt.pattern, got, tt.want)
		}
	}
}

// A pattern of whose pieces none stands in a text cannot match it.
func FuzzPieces(f *testing.F) {
	f.Add("Failed (to|not) expand? x{2}", "failed to expan xx")
	f.Add("denied|(?:re)?fused", "refused")
	f.Add(`[a-z]+\.log$`, "setup.log")
	f.Fuzz(func(t *testing.T, pattern, text string) {
		p := NewPattern(pattern)
		if p.Check() != nil || strings.ContainsAny(pattern, "KkSsſK") { // letters whose case folds to other letters
			return
		}
		if p.re().MatchString(text) && !p.find(text, strings.ToLower(text), nil) {
			t.Errorf("%q matches %q, which lacks %q", pattern, text, p.pieces())
		}
	})
}

func TestNearestKey(t *testing.T) {
	for wrong, want := range map[string]string{"sean": "seen", "explanatoin": "explanation", "remedy": "remedies", "feilds": "fields",
		"nearmiss": "nearMiss"} {
		if got := step.Nearest(wrong, knownKeys); got != want {
			t.Errorf("nearest to %q = %q, want %q", wrong, got, want)
		}
	}
}

func TestForNumber(t *testing.T) {
	known := ForNumber(1920)
	if len(known) < 3 || known[0].ID != "service-logon-right" {
		t.Errorf("behind 1920: %v", known)
	}
	if known := ForNumber(99999); known != nil {
		t.Errorf("behind a number that nobody knows: %v", known)
	}
}

// What is listed of a pattern is what is worked out of it.
func TestListedNeeds(t *testing.T) {
	p, err := Default()
	if err != nil {
		t.Fatal(err)
	}
	for _, s := range p.Signs {
		for _, w := range s.Seen {
			for _, pat := range w.patterns() {
				got, want := needs(pat.source), pieces.Needs(pat.source, true)
				if !slices.EqualFunc(got, want, slices.Equal) {
					t.Errorf("%s: %q is listed with %q, needs %q", s.ID, pat.source, got, want)
				}
			}
		}
	}
}
