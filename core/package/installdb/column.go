// This file has what columns hold.

package installdb

import (
	"fmt"
	"strconv"
	"strings"
)

// The bits of a column's type. Source: docs/packages.md, "Columns".
const (
	typeSize        = 0x00FF // characters of a string, 0 for no limit; bytes of an integer
	typeValid       = 0x0100
	typeLocalizable = 0x0200
	typePersistent  = 0x0400 // set for strings and short integers
	typeString      = 0x0800
	typeNullable    = 0x1000
	typeKey         = 0x2000
)

// Kind is what a column's cells hold.
type Kind int

// The kinds of columns.
const (
	Text Kind = iota
	Short
	Long
	Binary // a stream
)

// A Column is one column of a table.
type Column struct {
	Name string // as the package has it
	Type uint16 // as the catalogue keeps it; the methods read it
}

// Kind is what the column's cells hold.
func (c Column) Kind() Kind {
	switch {
	case c.Type&typeString == 0 && c.Type&typeSize == 4:
		return Long
	case c.Type&typeString == 0:
		return Short
	case c.Type&(typeSize|typePersistent|typeLocalizable) == 0 && c.Type&typeValid != 0:
		return Binary
	}
	return Text
}

// Key says whether the column belongs to the primary key.
func (c Column) Key() bool { return c.Type&typeKey != 0 }

// Nullable says whether cells may be NULL.
func (c Column) Nullable() bool { return c.Type&typeNullable != 0 }

// Localizable says whether the text may differ between languages.
func (c Column) Localizable() bool { return c.Type&typeLocalizable != 0 }

// Size is the greatest number of characters of a text, 0 when there is no
// limit.
func (c Column) Size() int { return int(c.Type & typeSize) }

// Shape is the column's type in the short form of the engine's documentation:
// s72 text, l0 localizable text, i2 and i4 integers, v0 a stream; a capital
// letter when it may be NULL.
func (c Column) Shape() string {
	shape := ""
	switch c.Kind() {
	case Short:
		shape = "i2"
	case Long:
		shape = "i4"
	case Binary:
		shape = "v0"
	default:
		shape = "s" + strconv.Itoa(c.Size())
		if c.Localizable() {
			shape = "l" + strconv.Itoa(c.Size())
		}
	}
	if c.Nullable() {
		return strings.ToUpper(shape[:1]) + shape[1:]
	}
	return shape
}

// ParseShape makes a column of a name and a shape; a star in front of the shape
// makes it a key column.
func ParseShape(name, shape string) (Column, error) {
	c := Column{Name: name}
	bad := fmt.Errorf("the column type %q of %s is not one like s72, L0, i2, I4, v0 (with a star in front for a key)", shape, name)
	rest, key := strings.CutPrefix(shape, "*")
	if key {
		c.Type |= typeKey
	}
	if len(rest) < 2 {
		return c, bad
	}
	size, err := strconv.Atoi(rest[1:])
	if err != nil || size < 0 || size > 255 {
		return c, bad
	}
	// A capital letter says that a cell may be empty.
	if rest[0] < 'a' {
		c.Type |= typeNullable
	}
	switch kind := rest[0] | 0x20; {
	case kind == 's':
		c.Type |= typeValid | typeString | typePersistent | uint16(size)
	case kind == 'l':
		c.Type |= typeValid | typeString | typePersistent | typeLocalizable | uint16(size)
	case kind == 'i' && size == 2:
		c.Type |= typeValid | typePersistent | 2
	case kind == 'i' && size == 4:
		c.Type |= typeValid | 4
	case kind == 'v':
		c.Type |= typeValid | typeString
	default:
		return c, bad
	}
	return c, nil
}

// width is the number of bytes of a cell.
func (c Column) width(refSize int) int {
	switch c.Kind() {
	case Text:
		return refSize
	case Long:
		return 4
	}
	return 2
}
