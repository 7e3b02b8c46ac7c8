// This file is one cell.

package installdb

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"hollowkey/core/package/compound"
)

// A Value is one cell. The zero Value is NULL; an empty text is NULL too, as
// the format keeps no difference.
type Value struct {
	Int   int32  // when IsInt
	IsInt bool   // an integer, not a text
	Text  string // empty for NULL
	// Stream is what a cell of a stream column holds.
	Stream compound.Content
}

// TextValue makes a text cell.
func TextValue(s string) Value { return Value{Text: s} }

// IntValue makes an integer cell.
func IntValue(n int32) Value { return Value{Int: n, IsInt: true} }

// Null says whether the cell holds nothing.
func (v Value) Null() bool { return !v.IsInt && v.Text == "" && v.Stream == nil }

// String writes the cell for people: a stream as its size.
func (v Value) String() string {
	switch {
	case v.IsInt:
		return strconv.Itoa(int(v.Int))
	case v.Stream != nil:
		return fmt.Sprintf("(%d bytes)", v.Stream.Size())
	}
	return v.Text
}

// same says whether two cells hold the same; streams are compared by
// [sameStream].
func (v Value) same(o Value) bool {
	return v.IsInt == o.IsInt && v.Int == o.Int && v.Text == o.Text && (v.Stream == nil) == (o.Stream == nil)
}

// ParseValue reads a cell for a column from its text; an empty text is NULL.
func (c Column) ParseValue(s string) (Value, error) {
	if s == "" {
		if !c.Nullable() && c.Kind() != Text { // an empty text stands in many columns that forbid NULL
			return Value{}, fmt.Errorf("column %s may not be empty", c.Name)
		}
		return Value{}, nil
	}
	switch c.Kind() {
	case Short, Long:
		n, err := strconv.ParseInt(strings.TrimSpace(s), 10, 64)
		low, high := int64(math.MinInt32+1), int64(math.MaxInt32)
		if c.Kind() == Short {
			low, high = math.MinInt16+1, math.MaxInt16
		}
		if err != nil || n < low || n > high {
			return Value{}, fmt.Errorf("column %s takes a whole number from %d to %d, not %.40q", c.Name, low, high, s)
		}
		return IntValue(int32(n)), nil
	case Binary:
		return Value{}, fmt.Errorf("column %s holds a stream; give a file for it", c.Name)
	}
	if n := len([]rune(s)); c.Size() > 0 && n > c.Size() {
		return Value{}, fmt.Errorf("column %s takes at most %d characters; %.40q has %d", c.Name, c.Size(), s, n)
	}
	return TextValue(s), checkText(s)
}
