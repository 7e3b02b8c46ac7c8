// This file works a condition out, over values that may be unknown.

package condition

import (
	"cmp"
	"strconv"
	"strings"
)

// A Value is what a symbol is worth. The zero Value is an unset property.
type Value struct {
	Text    string // empty for a symbol that is not set
	Unknown bool   // nobody can tell before the setup runs
}

// A Lookup gives the values of symbols. The states of components and features
// are numbers as text.
type Lookup func(Symbol) Value

// Truth values: a condition over unknown values may be decided all the same.
type Answer int

// The answers.
const (
	False Answer = iota
	True
	CannotTell
)

// String is the answer in words.
func (a Answer) String() string { return [...]string{"false", "true", "unknown"}[a] }

// answer makes an answer of what is known.
func answer(b bool) Answer {
	if b {
		return True
	}
	return False
}

// not turns an answer round; what cannot be told stays so.
func (a Answer) not() Answer {
	switch a {
	case True:
		return False
	case False:
		return True
	}
	return a
}

// Eval works a condition out. It looks at every symbol, even once the answer is
// known. No condition at all is true.
func Eval(e Expr, lookup Lookup) Answer {
	switch e := e.(type) {
	case *Logic:
		return join(e.Op, Eval(e.Left, lookup), Eval(e.Right, lookup))
	case *Not:
		return Eval(e.Of, lookup).not()
	case *Truth:
		v := worth(e.Of, lookup)
		if v.unknown {
			return CannotTell
		}
		if v.number && e.Of.Symbol == nil {
			return answer(v.n != 0)
		}
		if e.Of.Symbol != nil && e.Of.Symbol.Kind >= ComponentAction {
			n, ok := number(v.text)
			return answer(ok && n != 0 && v.text != "")
		}
		return answer(v.text != "")
	case *Compare:
		return compare(e, lookup)
	}
	return True
}

// join works a logical operator out over three answers: a side that decides
// alone makes the other one's uncertainty meaningless.
func join(op string, a, b Answer) Answer {
	switch op {
	case "AND":
		switch {
		case a == False || b == False:
			return False
		case a == True && b == True:
			return True
		}
		return CannotTell
	case "OR":
		return join("AND", a.not(), b.not()).not()
	case "IMP":
		return join("OR", a.not(), b)
	case "XOR", "EQV":
		if a == CannotTell || b == CannotTell {
			return CannotTell
		}
		return answer((a == b) == (op == "EQV"))
	}
	return CannotTell
}

type operandValue struct {
	text    string // as it stands
	n       int32  // of its text, where that is a number
	number  bool   // written as a number
	unknown bool   // only run time can tell
}

// worth is what an operand is: text, and number where the text is one. States
// of features and components are numbers from the start.
func worth(o Operand, lookup Lookup) operandValue {
	switch {
	case o.Symbol != nil:
		v := lookup(*o.Symbol)
		w := operandValue{text: v.Text, unknown: v.Unknown}
		if o.Symbol.Kind >= ComponentAction {
			w.n, w.number = number(v.Text)
		}
		return w
	case o.Text != nil:
		return operandValue{text: *o.Text}
	}
	return operandValue{n: o.Number, number: true}
}

// number reads the text of a symbol as a number: an optional minus, digits,
// nothing else.
func number(s string) (int32, bool) {
	n, err := strconv.ParseInt(s, 10, 32)
	return int32(n), err == nil && !strings.HasPrefix(s, "+")
}

// asNumber reads an operand as a number where the engine does. Beside a number,
// only a symbol is converted; beside a text, only digits are; two written texts
// only where halves and bits are compared.
func (v operandValue) asNumber(o, other Operand, op string) (int32, bool) {
	switch {
	case v.number:
		return v.n, true
	case other.Text == nil && other.Symbol == nil, other.Symbol != nil && other.Symbol.Kind >= ComponentAction:
		if o.Text != nil {
			return 0, false
		}
	case o.Text != nil && other.Text != nil && op != "><" && op != "<<" && op != ">>", strings.HasPrefix(v.text, "-"):
		return 0, false
	}
	return number(v.text)
}

// compare compares as numbers when both sides read as one, else as texts.
func compare(c *Compare, lookup Lookup) Answer {
	a, b := worth(c.Left, lookup), worth(c.Right, lookup)
	if a.unknown || b.unknown {
		return CannotTell
	}
	x, okA := a.asNumber(c.Left, c.Right, c.Op)
	y, okB := b.asNumber(c.Right, c.Left, c.Op)
	switch {
	case okA && okB:
		return answer(compareNumbers(c.Op, x, y))
	case a.number || b.number: // a text that is no number equals none
		return answer(c.Op == "<>")
	}
	if c.Fold {
		return answer(compareTexts(c.Op, strings.ToUpper(a.text), strings.ToUpper(b.text)))
	}
	return answer(compareTexts(c.Op, a.text, b.text))
}

// relation decides the six operators that any ordered values have; ok is false
// for the others.
func relation[T cmp.Ordered](op string, a, b T) (holds, ok bool) {
	switch op {
	case "=":
		return a == b, true
	case "<>":
		return a != b, true
	case "<":
		return a < b, true
	case "<=":
		return a <= b, true
	case ">":
		return a > b, true
	case ">=":
		return a >= b, true
	}
	return false, false
}

// compareNumbers compares two whole numbers; the operators of texts stand for
// bits there.
func compareNumbers(op string, a, b int32) bool {
	if holds, ok := relation(op, a, b); ok {
		return holds
	}
	switch op {
	case "><": // bits in common
		return a&b != 0
	case "<<": // the upper 16 bits
		return a>>16 == b
	}
	return a&0xFFFF == b // ">>", the lower 16 bits
}

// compareTexts compares two texts.
func compareTexts(op, a, b string) bool {
	if holds, ok := relation(op, a, b); ok {
		return holds
	}
	switch op {
	case "><": // an empty text holds nothing, not even an empty one
		return a != "" && strings.Contains(a, b)
	case "<<":
		return a != "" && strings.HasPrefix(a, b)
	}
	return a != "" && strings.HasSuffix(a, b)
}
