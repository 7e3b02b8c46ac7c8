package cli_test

import (
	"strings"
	"testing"
)

// A call with too few or too many arguments is told what is missing or too
// much, with a call that works, in our words.
func TestCountOfArguments(t *testing.T) {
	dir := t.TempDir()
	for call, want := range map[string]string{
		"leftovers":            "NAME|CODE|PATTERN|FOLDER is missing",
		"code":                 "VALUE is missing",
		"capture":              "FOLDER is missing",
		"signs draft":          "LOG is missing",
		"products mend":        "PRODUCT is missing",
		"triage compare a":     "B is missing",
		"triage join a":        "ID is missing",
		"logs verbose":         "on|off|show is missing",
		"logs verbose maybe":   `logs verbose knows no "maybe"`,
		"package gates a b":    `package gates takes no further argument, and got "b"`,
		"products a b":         `products takes no further argument, and got "b"`,
		"config x":             `config takes no argument, and got "x"`,
		"undo 2":               `undo takes no argument, and got "2"`,
		"case shaw":            `unknown command "shaw" for "hollowkey case"`,
		"ladder --help":        `unknown command "ladder" for "hollowkey"`,
		"help triage ad":       `did you mean this? hollowkey triage add`,
		"why --against":        "--against needs a value",
		"why setup.log --widt": "unknown flag: --widt",
		"signs draft a.log":    "--line is missing",

		"rehearse x.msi --uninstall --repair": "--repair and --uninstall do not go together",
	} {
		r := run(t, dir, nil, strings.Fields(call)...)
		if r.code != 2 || !strings.Contains(r.err, want) || !strings.Contains(r.err, "\nhint: ") || strings.Contains(r.err, "(s)") {
			t.Errorf("%s: %d, %q, want %q and a hint", call, r.code, r.err, want)
		}
	}
}
