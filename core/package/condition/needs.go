// This file says which terms decided, and the smallest changes that would turn
// the answer.

package condition

import (
	"slices"
	"strconv"
)

// A Wish is one term and the truth that it would need to have.
type Wish struct {
	Term Expr // a comparison or a lone operand
	Want bool // what it has to come out as
}

// Deciders are the terms that made a condition what it is: for a false AND its
// false sides, for a true one both.
func Deciders(e Expr, lookup Lookup) []Expr {
	switch e := e.(type) {
	case *Not:
		return Deciders(e.Of, lookup)
	case *Logic:
		whole := Eval(e, lookup)
		left, right := Deciders(e.Left, lookup), Deciders(e.Right, lookup)
		a, b := Eval(e.Left, lookup), Eval(e.Right, lookup)
		switch e.Op {
		case "IMP":
			a = a.not()
			fallthrough
		case "AND", "OR":
			switch { // a side that differs from the whole did not decide it
			case a != whole && b == whole:
				return right
			case b != whole && a == whole:
				return left
			}
		}
		return append(left, right...)
	case nil:
		return nil
	}
	return []Expr{e}
}

// maxWays bounds what is multiplied out; nobody reads more than a handful.
const maxWays = 64

// Ways lists the smallest sets of terms that would have to turn for the
// condition to come out as wanted, fewest first. Terms that are as needed
// already are not listed.
func Ways(e Expr, want bool, lookup Lookup) [][]Wish {
	ways := waysTo(e, want, lookup)
	slices.SortStableFunc(ways, func(a, b []Wish) int { return len(a) - len(b) })
	return ways
}

// waysTo lists the sets of wishes by which an expression comes out as wanted; a
// nil set among them says that it does already.
func waysTo(e Expr, want bool, lookup Lookup) [][]Wish {
	if Eval(e, lookup) == answer(want) {
		return [][]Wish{nil}
	}
	switch e := e.(type) {
	case *Not:
		return waysTo(e.Of, !want, lookup)
	case *Logic:
		var ways [][]Wish
		for _, p := range pairs(e.Op, want) {
			for _, l := range waysTo(e.Left, p[0], lookup) {
				for _, r := range waysTo(e.Right, p[1], lookup) {
					if len(ways) < maxWays {
						ways = append(ways, slices.Concat(l, r))
					}
				}
			}
		}
		for _, one := range alone(e, want) {
			ways = append(ways, waysTo(one.e, one.want, lookup)...)
		}
		slices.SortStableFunc(ways, func(a, b []Wish) int { return len(a) - len(b) })
		return ways[:min(len(ways), maxWays)]
	case nil:
		return nil
	}
	return [][]Wish{{{e, want}}}
}

// pairs are the truths of both sides that an operator needs together.
func pairs(op string, want bool) [][2]bool {
	switch {
	case op == "AND" && want:
		return [][2]bool{{true, true}}
	case op == "OR" && !want:
		return [][2]bool{{false, false}}
	case op == "IMP" && !want:
		return [][2]bool{{true, false}}
	case op == "XOR" && want, op == "EQV" && !want:
		return [][2]bool{{true, false}, {false, true}}
	case op == "XOR", op == "EQV":
		return [][2]bool{{true, true}, {false, false}}
	}
	return nil
}

type side struct {
	e    Expr // one side of an operator
	want bool // what it has to come out as
}

// alone are the sides of which either suffices by itself.
func alone(l *Logic, want bool) []side {
	switch {
	case l.Op == "OR" && want:
		return []side{{l.Left, true}, {l.Right, true}}
	case l.Op == "AND" && !want:
		return []side{{l.Left, false}, {l.Right, false}}
	case l.Op == "IMP" && want:
		return []side{{l.Left, false}, {l.Right, true}}
	}
	return nil
}

// A Setting is a value that a symbol would need; Clear means unset.
type Setting struct {
	Symbol Symbol // what is to be set
	Value  string // to this
	Clear  bool   // it must not be set at all
}

// Fulfil gives a value for the symbol of a term that makes it as wished; ok is
// false where no single value does.
func Fulfil(w Wish, lookup Lookup) (Setting, bool) {
	switch t := w.Term.(type) {
	case *Truth:
		if t.Of.Symbol == nil {
			return Setting{}, false
		}
		if !w.Want {
			return Setting{Symbol: *t.Of.Symbol, Clear: true}, true
		}
		return Setting{Symbol: *t.Of.Symbol, Value: "1"}, true
	case *Compare:
		symbol, other, op := t.Left.Symbol, t.Right, t.Op
		if symbol == nil {
			symbol, other, op = t.Right.Symbol, t.Left, mirror[t.Op]
		}
		if symbol == nil || op == "" {
			return Setting{}, false
		}
		for _, v := range candidates(op, worth(other, lookup)) {
			try := func(s Symbol) Value {
				if s == *symbol {
					return Value{Text: v}
				}
				return lookup(s)
			}
			if Eval(t, try) == answer(w.Want) {
				return Setting{*symbol, v, v == ""}, true
			}
		}
	}
	return Setting{}, false
}

// mirror gives the operator with its sides exchanged.
var mirror = map[string]string{"=": "=", "<>": "<>", "<": ">", "<=": ">=", ">": "<", ">=": "<=", "><": "><"}

// candidates are values that may make a comparison true or false, the plainest
// first.
func candidates(op string, other operandValue) []string {
	n, isNumber := other.n, other.number
	if !isNumber {
		n, isNumber = number(other.text)
	}
	text := other.text
	if other.number {
		text = strconv.Itoa(int(n))
	}
	list := []string{text, ""}
	if isNumber {
		up, down := strconv.Itoa(int(n)+1), strconv.Itoa(int(n)-1)
		if op == "<" || op == "<=" {
			up, down = down, up
		}
		list = append(list, up, down, strconv.Itoa(int(n)<<16))
	}
	return append(list, text+"1", "1", "0")
}
