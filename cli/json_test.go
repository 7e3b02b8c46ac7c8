package cli_test

import (
	"encoding/json"
	"strings"
	"testing"
)

// The JSON of the main job keeps its promised shape.
func TestWhyJSONKeepsItsShape(t *testing.T) {
	dir := layOut(t)
	var v map[string]any
	if err := json.Unmarshal([]byte(mustRun(t, dir, 3, "why", "--json", "tidebook.log").out), &v); err != nil {
		t.Fatal(err)
	}
	if v["schema"] != "hollowkey.why/1" || v["outcome"] != "failed" || v["exit_code"] != 1603.0 {
		t.Errorf("head: %v %v %v", v["schema"], v["outcome"], v["exit_code"])
	}
	has := func(name string, keys ...string) {
		t.Helper()
		var m map[string]any
		switch x := v[name].(type) {
		case map[string]any:
			m = x
		case []any:
			if len(x) == 0 {
				t.Errorf("%s is empty", name)
				return
			}
			m = x[0].(map[string]any)
		}
		for _, k := range keys {
			if _, ok := m[k]; !ok {
				t.Errorf("%s has no %s: %v", name, k, m)
			}
		}
	}
	has("product", "name", "version", "product_code")
	has("broke_at", "action", "line")
	has("cause", "class", "message", "subject", "summary", "confidence")
	has("chain", "line", "file", "text")
	has("evidence", "line", "file", "text")
	has("remedies", "class", "title", "target", "undo")
	if s := v["cause"].(map[string]any)["subject"].(map[string]any); s["kind"] != "service" || s["name"] != "BerthSync" {
		t.Errorf("subject: %v", s)
	}
}

func TestFixJSON(t *testing.T) {
	dir := layOut(t)
	type change struct {
		Kind, Target  string
		Before, After map[string]any
	}
	type fix struct {
		Schema, Machine string
		Remedy          int
		Applied         bool
		Plan            struct{ Changes []change }
		Undo            string `json:"undo_with"`
	}
	f := decode[fix](t, mustRun(t, dir, 0, "fix", "berthline.log", "--machine", twinName, "--preview", "--json").out)
	if f.Schema != "hollowkey.fix/1" || f.Machine != twinName || f.Applied || f.Remedy != 1 || len(f.Plan.Changes) != 1 {
		t.Fatalf("preview: %+v", f)
	}
	before, after := f.Plan.Changes[0].Before["security"].(map[string]any), f.Plan.Changes[0].After["security"].(map[string]any)
	if strings.Contains(before["sddl"].(string), ";SY)") || !strings.Contains(after["sddl"].(string), "(A;OICI;0x1301bf;;;SY)") {
		t.Errorf("from %v to %v", before, after)
	}
	f = decode[fix](t, mustRun(t, dir, 0, "fix", "berthline.log", "--machine", twinName, "--yes", "--json").out)
	if !f.Applied || f.Undo != "hollowkey undo --machine "+twinName {
		t.Errorf("applied: %+v", f)
	}
	j := decode[struct {
		Changes []struct{ Status, Words string }
	}](t, mustRun(t, dir, 0, "journal", "--machine", twinName, "--json").out)
	if n := len(j.Changes); n != 1 || j.Changes[0].Status != "done" {
		t.Errorf("journal: %+v", j)
	}
}

func TestCodeJSON(t *testing.T) {
	dir := t.TempDir()
	c := decode[struct {
		Values []struct {
			Asked    string
			Readings []struct{ Kind, Hex, Meaning, Name string }
			Signs    []struct{ ID string }
		}
	}](t, mustRun(t, dir, 0, "code", "1920", "0x80070643", "--json", "--", "-2147287035").out)
	if len(c.Values) != 3 || c.Values[0].Readings[0].Kind != "installer message" || len(c.Values[0].Signs) == 0 ||
		c.Values[1].Readings[0].Hex != "0x80070643" || c.Values[2].Readings[0].Name != "STG_E_ACCESSDENIED" {
		t.Errorf("%+v", c)
	}
}

func TestRemedyChoice(t *testing.T) {
	dir := layOut(t)
	if r := mustRun(t, dir, 3, "fix", "tidebook.log", "--machine", twinName, "--remedy", "2", "--preview"); !strings.Contains(r.err,
		"is advice for a person") {
		t.Errorf("advice as a fix: %s", r.err)
	}
	mustRun(t, dir, 2, "fix", "tidebook.log", "--machine", twinName, "--remedy", "9", "--preview")
	mustRun(t, dir, 0, "fix", "tidebook.log", "--machine", twinName, "--remedy", "1", "--preview")
}
