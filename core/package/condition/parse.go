// This file reads a condition into a tree.

package condition

const (
	maxTerms = 2000 // comparisons and operators of one condition
	maxDepth = 500  // brackets and NOTs within one another
)

// Parse reads a condition. An empty one gives nil, which is true. The error is
// a [*SyntaxError].
func Parse(in string) (Expr, error) {
	tokens, err := lex(in)
	if err != nil {
		return nil, err
	}
	p := &parser{in: in, tokens: tokens}
	if p.peek().kind == tokEnd {
		return nil, nil
	}
	e, err := p.logic(1)
	if err != nil {
		return nil, err
	}
	if t := p.peek(); t.kind != tokEnd {
		return nil, p.wrong(t, "an operator such as AND, or the end")
	}
	return e, nil
}

type parser struct {
	in     string  // the condition
	tokens []token // of it
	next   int     // index of the next token
	depth  int     // brackets and NOTs open, limited
	terms  int     // so far, limited
}

// peek looks at the next token and leaves it.
func (p *parser) peek() token { return p.tokens[p.next] }

// take goes past the next token; the end stays in place.
func (p *parser) take() token {
	t := p.tokens[p.next]
	if t.kind != tokEnd {
		p.next++
	}
	return t
}

// wrong says what stands there and what could have.
func (p *parser) wrong(t token, wanted string) error {
	return errorAt(p.in, t.at, "here is "+t.describe(p.in)+", where "+wanted+" is wanted")
}

// logic reads operators of one level of binding, and all that bind stronger.
// Those of one level go from left to right.
func (p *parser) logic(level int) (Expr, error) {
	if level > len(levels) {
		return p.not()
	}
	left, err := p.logic(level + 1)
	if err != nil {
		return nil, err
	}
	for p.peek().kind == tokWord && levels[p.peek().text] == level {
		op := p.take()
		if p.terms++; p.terms > maxTerms {
			return nil, errorAt(p.in, op.at, "the condition has more than 2000 terms")
		}
		right, err := p.logic(level + 1)
		if err != nil {
			return nil, err
		}
		left = &Logic{op.text, left, right}
	}
	return left, nil
}

// not reads NOTs and brackets. Their depth is bounded, for each one is a call.
func (p *parser) not() (Expr, error) {
	if p.depth++; p.depth > maxDepth {
		return nil, errorAt(p.in, p.peek().at, "brackets or NOTs lie more than 500 deep")
	}
	defer func() { p.depth-- }()
	if t := p.peek(); t.kind == tokWord && t.text == "NOT" {
		p.take()
		e, err := p.not()
		return &Not{e}, err
	}
	if p.peek().kind == tokOpen {
		open := p.take()
		e, err := p.logic(1)
		if err != nil {
			return nil, err
		}
		if t := p.take(); t.kind != tokClose {
			if t.kind == tokEnd {
				return nil, errorAt(p.in, open.at, "this bracket is never closed")
			}
			return nil, p.wrong(t, "a closing bracket or an operator")
		}
		return e, nil
	}
	return p.term()
}

// term reads a comparison, or an operand whose truth counts.
func (p *parser) term() (Expr, error) {
	left, err := p.operand()
	if err != nil {
		return nil, err
	}
	if p.peek().kind != tokOperator {
		return &Truth{left}, nil
	}
	op := p.take()
	right, err := p.operand()
	return &Compare{op.text, op.fold, left, right}, err
}

// operand reads a symbol, a text or a number.
func (p *parser) operand() (Operand, error) {
	switch t := p.take(); t.kind {
	case tokSymbol:
		return Operand{Symbol: &t.symbol}, nil
	case tokText:
		return Operand{Text: &t.text}, nil
	case tokNumber:
		return Operand{Number: t.number}, nil
	default:
		return Operand{}, p.wrong(t, "a property, a text in quotation marks or a number")
	}
}
