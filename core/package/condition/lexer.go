// This file cuts a condition into tokens.

package condition

import (
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"
)

type tokenKind int

const (
	tokEnd tokenKind = iota
	tokOpen
	tokClose
	tokWord // AND, OR, XOR, EQV, IMP, NOT
	tokOperator
	tokSymbol
	tokText
	tokNumber
)

type token struct {
	kind   tokenKind // what it is
	text   string    // word in capitals, operator, text between the quotes
	fold   bool      // an operator with ~ in front
	symbol Symbol    // of a symbol
	number int32     // of a number
	at     int       // byte offset
	end    int       // offset behind it, in bytes
}

// describe names a token for a message.
func (t token) describe(in string) string {
	if t.kind == tokEnd {
		return "the end"
	}
	return fmt.Sprintf("%.30q", in[t.at:t.end])
}

var words = map[string]bool{"NOT": true, "AND": true, "OR": true, "XOR": true, "EQV": true, "IMP": true}

// operators, the longer ones first.
var operators = []string{"<>", "<=", ">=", "><", "<<", ">>", "=", "<", ">"}

// lex cuts a condition into its tokens.
func lex(in string) ([]token, error) {
	var list []token
	for at := 0; at < len(in); {
		switch c := in[at]; {
		case c == ' ' || c == '\t' || c == '\r' || c == '\n':
			at++
			continue
		case c == '(':
			list = append(list, token{kind: tokOpen, at: at, end: at + 1})
		case c == ')':
			list = append(list, token{kind: tokClose, at: at, end: at + 1})
		case c == '"':
			n := strings.IndexByte(in[at+1:], '"')
			if n < 0 {
				return nil, errorAt(in, at, "the text that begins here has no closing quotation mark")
			}
			list = append(list, token{kind: tokText, text: in[at+1 : at+1+n], at: at, end: at + n + 2})
		default:
			t, err := lexOther(in, at)
			if err != nil {
				return nil, err
			}
			list = append(list, t)
		}
		at = list[len(list)-1].end
	}
	return append(list, token{kind: tokEnd, at: len(in), end: len(in)}), nil
}

// lexOther reads an operator or a bracket; a ~ before an operator leaves letter
// case aside.
func lexOther(in string, at int) (token, error) {
	rest := in[at:]
	fold := strings.HasPrefix(rest, "~")
	for _, op := range operators {
		if strings.HasPrefix(rest[boolInt(fold):], op) {
			return token{kind: tokOperator, text: op, fold: fold, at: at, end: at + boolInt(fold) + len(op)}, nil
		}
	}
	c := rest[0]
	if c >= '0' && c <= '9' || c == '-' && len(rest) > 1 && rest[1] >= '0' && rest[1] <= '9' {
		end := 1
		for end < len(rest) && rest[end] >= '0' && rest[end] <= '9' {
			end++
		}
		n, err := strconv.ParseInt(rest[:end], 10, 32)
		if err != nil {
			return token{}, errorAt(in, at, "the number "+cut(rest[:end])+" does not fit 32 bits")
		}
		return token{kind: tokNumber, number: int32(n), at: at, end: at + end}, nil
	}
	kind, mark := Property, 0
	if k := strings.IndexByte(marks, c); k > 0 {
		kind, mark = Kind(k), 1
	}
	end := mark
	for end < len(rest) && nameByte(rest[end], end == mark) {
		end++
	}
	if end == mark {
		if mark == 1 {
			return token{}, errorAt(in, at, "a name must follow "+rest[:1])
		}
		_, size := utf8.DecodeRuneInString(rest)
		return token{}, errorAt(in, at, fmt.Sprintf("%q cannot stand here", rest[:size]))
	}
	name := rest[mark:end]
	if w := strings.ToUpper(name); mark == 0 && words[w] {
		return token{kind: tokWord, text: w, at: at, end: at + end}, nil
	}
	return token{kind: tokSymbol, symbol: Symbol{kind, name}, at: at, end: at + end}, nil
}

// nameByte says whether a byte can stand in a name. A point and digits can, but
// not at its beginning.
func nameByte(c byte, first bool) bool {
	switch {
	case c >= 'a' && c <= 'z', c >= 'A' && c <= 'Z', c == '_':
		return true
	}
	return !first && (c >= '0' && c <= '9' || c == '.')
}

// boolInt is 1 for true: the width of a sign that is there.
func boolInt(b bool) int {
	if b {
		return 1
	}
	return 0
}

// cut keeps a message short, whatever the condition.
func cut(s string) string {
	if len(s) > 30 {
		return s[:30] + "…"
	}
	return s
}

// A SyntaxError is a fault at one place of a condition.
type SyntaxError struct {
	Condition string // as it was given
	Column    int    // in characters, from 1
	Problem   string // what is wrong there
}

// Error says where in the condition reading stopped, counted in letters.
func (e *SyntaxError) Error() string {
	return fmt.Sprintf("condition %.120q, column %d: %s", e.Condition, e.Column, e.Problem)
}

// errorAt makes the error for a place given in bytes.
func errorAt(in string, at int, problem string) error {
	return &SyntaxError{in, utf8.RuneCountInString(in[:at]) + 1, problem}
}
