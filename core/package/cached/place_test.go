package cached_test

import (
	"strings"
	"testing"

	"hollowkey/core/machine/twin/twintest"
	"hollowkey/core/package/cached"
)

// The copy goes where the registration says, unless a good package of something
// else lies there, something else is registered with it, or no file is named:
// then it gets a name of its own, and the registration is corrected.
func TestSteps(t *testing.T) {
	m := twintest.Make(t, map[string]string{"twin.yaml": "name: T\n", "disk/C/Windows/Installer/abcdef.msi": "x"})
	src := cached.Source{Path: "quay.msi", Hash: "abcdef0123456789"}
	mine := cached.Entry{Kind: cached.Product, Code: "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C11}", User: "S-1-5-18",
		File: `C:\Windows\Installer\1.msi`, State: cached.Missing}
	other := cached.Entry{Kind: cached.Product, Code: "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C22}", User: "S-1-5-18",
		File: `c:\windows\installer\1.MSI`, State: cached.Good}
	with := func(change func(*cached.Entry)) cached.Entry {
		e := mine
		change(&e)
		return e
	}
	for name, c := range map[string]struct {
		e   cached.Entry
		all []cached.Entry
		own bool // a name of its own
	}{
		"missing":                  {mine, []cached.Entry{mine}, false},
		"damaged":                  {with(func(e *cached.Entry) { e.State = cached.Damaged }), []cached.Entry{mine}, false},
		"another's":                {with(func(e *cached.Entry) { e.State = cached.Wrong }), []cached.Entry{mine}, true},
		"registered twice":         {mine, []cached.Entry{mine, other}, true},
		"no file is named":         {with(func(e *cached.Entry) { e.File, e.State = "", cached.Unregistered }), []cached.Entry{mine}, true},
		"a patch without its file": {with(func(e *cached.Entry) { e.Kind, e.File = cached.Patch, "" }), nil, true},
	} {
		steps, err := c.e.Steps(m, c.all, src)
		if err != nil {
			t.Fatal(err)
		}
		out := steps[0]["place"]["out"]
		if c.own != (len(steps) == 2) || c.own &&
			(out == c.e.File || strings.HasSuffix(out, "abcdef.msi") || steps[1]["registry"]["value"] != out) || !c.own && out != c.e.File {
			t.Errorf("%s: %v", name, steps)
		}
		if want := map[bool]string{true: ".msp", false: ".msi"}[c.e.Kind == cached.Patch]; !strings.HasSuffix(out, want) {
			t.Errorf("%s: %s", name, out)
		}
	}
}
