// Package condition is the language in which installer packages say when an
// action runs and which machines they refuse: symbols, comparisons, and logic.
// It is pure: what symbols are worth comes from whoever asks.
//
// Source: the platform SDK's installer documentation, "Conditional Statement
// Syntax". Where the documentation is silent, the tests say what a real engine
// does (realengine).
package condition

import (
	"strconv"
	"strings"
)

// Kind is what a symbol names.
type Kind int

// The kinds of symbols, each with its mark in front of the name.
const (
	Property        Kind = iota // no mark
	Environment                 // %: an environment variable
	ComponentAction             // $: what is done to a component
	ComponentState              // ?: how a component is installed
	FeatureAction               // &: what is done to a feature
	FeatureState                // !: how a feature is installed
)

// A blank stands for a plain property; the others are environment variables,
// features and components by state and action.
const marks = " %$?&!"

// A Symbol is a name whose value the machine or the setup decides.
type Symbol struct {
	Kind Kind   // told by its prefix
	Name string // without its prefix
}

// String writes the symbol as it stands in a condition.
func (s Symbol) String() string { return strings.TrimSpace(marks[s.Kind:s.Kind+1]) + s.Name }

// An Expr is a condition or a part of one.
type Expr interface {
	String() string // parses back to the same tree
	level() int     // how strongly it binds
}

// A Logic is two conditions joined by AND, OR, XOR, EQV or IMP.
type Logic struct {
	Op          string // AND, OR, XOR, EQV or IMP
	Left, Right Expr   // in the order of the condition
}

// A Not turns a condition round.
type Not struct{ Of Expr } // its opposite holds

// A Compare compares two operands. Fold leaves letter case out of account.
type Compare struct {
	Op          string  // = <> < <= > >= >< << >>
	Fold        bool    // ~ : letter case does not count
	Left, Right Operand // in the order of the condition
}

// A Truth is an operand that stands alone: set, or another number than 0.
type Truth struct{ Of Operand } // it holds when the operand is not empty, and not 0

// An Operand is a symbol, a text, or a number.
type Operand struct {
	Symbol *Symbol // nil for a constant
	Text   *string // nil for a number
	Number int32   // when both others are nil
}

// levels of binding, strongest first. Source: "Conditional Statement Syntax",
// operator precedence.
var levels = map[string]int{"IMP": 1, "EQV": 2, "XOR": 3, "OR": 4, "AND": 5}

// How tightly an expression binds: only a term binds more than NOT.
const notLevel, termLevel = 6, 7

// level is how strongly the operator binds.
func (l *Logic) level() int { return levels[l.Op] }

// level is how strongly NOT binds.
func (n *Not) level() int { return notLevel }

// level is that of a term, which needs no brackets.
func (c *Compare) level() int { return termLevel }

// level is that of a term, which needs no brackets.
func (t *Truth) level() int { return termLevel }

// in writes e, in brackets when it binds less than its place needs.
func in(e Expr, least int) string {
	if e.level() < least {
		return "(" + e.String() + ")"
	}
	return e.String()
}

// String writes both sides, in brackets only where they are needed.
func (l *Logic) String() string {
	return in(l.Left, l.level()) + " " + l.Op + " " + in(l.Right, l.level()+1)
}

// String writes NOT and what it turns round.
func (n *Not) String() string { return "NOT " + in(n.Of, notLevel) }

// String writes the comparison as it would stand in a package.
func (c *Compare) String() string {
	op := c.Op
	if c.Fold {
		op = "~" + op
	}
	return c.Left.String() + " " + op + " " + c.Right.String()
}

// String writes the operand alone.
func (t *Truth) String() string { return t.Of.String() }

// String writes a symbol, a text in quotation marks, or a number.
func (o Operand) String() string {
	switch {
	case o.Symbol != nil:
		return o.Symbol.String()
	case o.Text != nil:
		return `"` + *o.Text + `"`
	}
	return strconv.Itoa(int(o.Number))
}

// Symbols lists the symbols of a condition, each once, in their order.
func Symbols(e Expr) (list []Symbol) {
	seen := map[Symbol]bool{}
	add := func(o Operand) {
		if o.Symbol != nil && !seen[*o.Symbol] {
			seen[*o.Symbol] = true
			list = append(list, *o.Symbol)
		}
	}
	for _, t := range Terms(e) {
		switch t := t.(type) {
		case *Compare:
			add(t.Left)
			add(t.Right)
		case *Truth:
			add(t.Of)
		}
	}
	return list
}

// Terms lists the comparisons and lone operands of a condition from left to
// right.
func Terms(e Expr) []Expr {
	switch e := e.(type) {
	case *Logic:
		return append(Terms(e.Left), Terms(e.Right)...)
	case *Not:
		return Terms(e.Of)
	case nil:
		return nil
	}
	return []Expr{e}
}
