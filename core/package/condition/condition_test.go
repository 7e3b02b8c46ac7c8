package condition

import (
	"errors"
	"strings"
	"testing"
)

// values are what the tests' symbols are worth.
func values(s Symbol) Value {
	switch s.String() {
	case "LATER", "%LATER":
		return Value{Unknown: true}
	case "&Main":
		return Value{Text: "3"}
	}
	return Value{Text: map[string]string{"A": "1", "B": "2", "V": "603", "S": "Quay", "N": "-5", "%TIDE": "ebb"}[s.String()]}
}

func TestEval(t *testing.T) {
	for in, want := range map[string]Answer{
		"": True, "A": True, "UNSET": False, "NOT UNSET": True, "A AND S": True, "A AND UNSET": False, "UNSET OR A": True,
		"A XOR S": False, "A XOR UNSET": True, "A EQV S": True, "UNSET IMP UNSET": True, "A IMP UNSET": False,
		"V >= 600": True, "V < 600": False, `V >= "600"`: True, "S = 3": False, "S <> 3": True, `S = "quay"`: False, `S ~= "quay"`: True,
		`S >< "ua"`: True, `S << "Qu"`: True, `S >> "ay"`: True, `UNSET >< ""`: False, "V >< 1": True, "&Main = 3": True, "&Other": False,
		`%TIDE = "ebb"`: True, "0": False, "-1": True, `""`: False, `"10" > "9"`: False, `"1" = 1`: False,
		// Precedence: NOT, AND, OR, XOR, EQV, IMP.
		"A OR UNSET AND UNSET": True, "A XOR A OR A": False, "UNSET EQV UNSET XOR A": False, "A IMP UNSET EQV UNSET": True,
		"NOT UNSET AND UNSET": False,
		// Unknown values: decided where the other side decides.
		"LATER": CannotTell, "NOT LATER": CannotTell, "LATER AND UNSET": False, "LATER OR A": True, "LATER AND A": CannotTell,
		"LATER XOR A": CannotTell, "LATER IMP A": True, "UNSET IMP LATER": True, "LATER = 5": CannotTell, "%LATER OR LATER": CannotTell,
	} {
		e, err := Parse(in)
		if err != nil {
			t.Errorf("Parse(%q): %v", in, err)
		} else if got := Eval(e, values); got != want {
			t.Errorf("Eval(%q) = %v, want %v", in, got, want)
		}
	}
}

func TestSyntaxErrors(t *testing.T) {
	for in, want := range map[string]string{
		"VersionNT >= 603 AND": `column 21: here is the end, where a property, a text in quotation marks or a number is wanted`,
		"(A OR B":              "column 1: this bracket is never closed",
		"A B":                  `column 3: here is "B", where an operator such as AND, or the end is wanted`,
		`S = "open`:            "column 5: the text that begins here has no closing quotation mark",
		"A = 1 = 1":            "column 7",
		"A # 1":                `column 3: "#" cannot stand here`,
		"A == 1":               `column 4`,
		"99999999999":          "column 1: the number 99999999999 does not fit 32 bits",
		"A AND %":              "column 7: a name must follow %",
		"é":                    "column 1",
		"A)":                   "column 2",
		strings.Repeat("(", 501) + "A" + strings.Repeat(")", 501): "500 deep",
		"A" + strings.Repeat(" OR A", 2001):                       "2000 terms",
	} {
		_, err := Parse(in)
		var s *SyntaxError
		if !errors.As(err, &s) || !strings.Contains(err.Error(), want) {
			t.Errorf("Parse(%.30q): %v; want %q", in, err, want)
		}
	}
	for _, in := range []string{strings.Repeat("(", 499) + "A" + strings.Repeat(")", 499), "A" + strings.Repeat(" OR A", 2000)} {
		if _, err := Parse(in); err != nil {
			t.Errorf("at the limit: %v", err)
		}
	}
}

func TestDecidersAndWays(t *testing.T) {
	for in, want := range map[string]struct{ deciders, ways string }{
		"V >= 501 AND V < 600":       {"V < 600", "V < 600=true"},
		"UNSET OR V < 600":           {"UNSET; V < 600", "UNSET=true | V < 600=true"},
		"A AND (UNSET OR NOT B)":     {"UNSET; B", "UNSET=true | B=false"},
		"UNSET AND U2":               {"UNSET; U2", "UNSET=true,U2=true"},
		"A AND S":                    {"A; S", ""},
		"NOT (A AND S)":              {"A; S", "A=false | S=false"},
		"A IMP UNSET":                {"A; UNSET", "A=false | UNSET=true"},
		"A XOR B":                    {"A; B", "B=false | A=false"},
		"UNSET AND A OR V < 1 AND A": {"UNSET; V < 1", "UNSET=true | V < 1=true"},
	} {
		e, err := Parse(in)
		if err != nil {
			t.Fatal(err)
		}
		var terms, ways []string
		for _, d := range Deciders(e, values) {
			terms = append(terms, d.String())
		}
		for _, way := range Ways(e, true, values) {
			var parts []string
			for _, w := range way {
				parts = append(parts, w.Term.String()+map[bool]string{true: "=true", false: "=false"}[w.Want])
			}
			ways = append(ways, strings.Join(parts, ","))
		}
		if got := strings.Join(terms, "; "); got != want.deciders {
			t.Errorf("%q: decided by %q, want %q", in, got, want.deciders)
		}
		if got := strings.Join(ways, " | "); got != want.ways {
			t.Errorf("%q: ways %q, want %q", in, got, want.ways)
		}
	}
}

// Every way, carried out, makes the condition true.
func TestFulfil(t *testing.T) {
	for _, in := range []string{"V < 600", "V > 700", "V = 5", "S = \"Mole\"", "NOT A", "UNSET", "N >= 0", "V <> 603", `S >< "berth"`,
		`"x" = UNSET`, "700 < V", "UNSET << 3", "S ~= \"mole\""} {
		e, err := Parse(in)
		if err != nil {
			t.Fatal(err)
		}
		for _, way := range Ways(e, true, values) {
			s, ok := Fulfil(way[0], values)
			if !ok {
				t.Errorf("%q: no value is found", in)
				continue
			}
			with := func(x Symbol) Value {
				if x == s.Symbol {
					return Value{Text: s.Value}
				}
				return values(x)
			}
			if Eval(e, with) != True {
				t.Errorf("%q with %s = %q is not true", in, s.Symbol, s.Value)
			}
		}
	}
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"", "A", "NOT (A OR B) AND V >= 603", `S ~>< "ua" XOR &Main = 3`, "A IMP B EQV C", "%X ~= 1", "((A))",
		"-1 >> 2"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, in string) {
		e, err := Parse(in)
		if err != nil || e == nil {
			return
		}
		again, err := Parse(e.String())
		if err != nil || again.String() != e.String() {
			t.Fatalf("%q prints as %q, which reads as %v, %v", in, e, again, err)
		}
		want := Eval(e, values)
		if got := Eval(again, values); got != want {
			t.Errorf("%q is %v, printed and read again %v", in, want, got)
		}
		if len(Terms(e)) < 12 {
			Ways(e, true, values)
			Deciders(e, values)
		}
	})
}
