// This file writes the XML of a record out of its binary form, with templates
// and their values.

package evtx

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"unicode/utf16"
)

// Limits of one record: it has at most 64 KB, and the OS nests templates two
// deep.
const (
	maxNested = 12      // templates and elements within each other
	maxTokens = 20000   // of one record, templates and all
	maxOut    = 1 << 19 // bytes of XML that one record may become
)

var (
	// Any claim of a record that its bytes do not bear out; the record is left
	// out and counted.
	errDamaged = errors.New("the record is damaged")
	// A template that unfolds into more than the limits allow is left out in
	// the same way.
	errTooMuch = errors.New("the record says more than a record can hold")
)

// The tokens of binary XML. Source: [MS-EVEN6] 2.2.12; 0x40 is set where
// attributes, or more of the same, follow.
const (
	tokenEnd          = 0x00
	tokenOpenElement  = 0x01
	tokenCloseStart   = 0x02 // of an element with content
	tokenCloseEmpty   = 0x03
	tokenEndElement   = 0x04
	tokenValue        = 0x05
	tokenAttribute    = 0x06
	tokenCData        = 0x07
	tokenCharacter    = 0x08
	tokenEntity       = 0x09
	tokenInstruction  = 0x0a
	tokenInstructed   = 0x0b
	tokenTemplate     = 0x0c
	tokenSubstitution = 0x0d
	tokenOptional     = 0x0e
	tokenFragment     = 0x0f
	tokenMore         = 0x40
)

// An xmlWriter writes the XML of one record.
type xmlWriter struct {
	chunk  []byte
	out    *bytes.Buffer
	begun  int // length of out before the record
	tokens int // so far
}

// A fragment is a stretch of binary XML in the chunk, and what is put in its
// places.
type fragment struct {
	at, end int
	values  []value // of the template it belongs to; nil outside of one
	depth   int
	bare    bool     // its elements have no dependency: it stands in a value itself
	open    []string // names of the elements that are open
	inStart bool     // within the start tag of the last of them
}

// record writes the event of the record that begins at from and has so many
// bytes.
func (w *xmlWriter) record(from, size int) error {
	if err := w.write(&fragment{at: from + recordHead, end: from + size - recordTail}); err != nil {
		return err
	}
	if w.out.Len() == w.begun {
		return errDamaged
	}
	return nil
}

// u8 reads a byte of a fragment; an error where it ends before.
func (w *xmlWriter) u8(f *fragment) (byte, error) {
	if f.at+1 > f.end {
		return 0, errDamaged
	}
	f.at++
	return w.chunk[f.at-1], nil
}

// u16 reads a number of two bytes, the low one first.
func (w *xmlWriter) u16(f *fragment) (int, error) {
	if f.at+2 > f.end {
		return 0, errDamaged
	}
	f.at += 2
	return int(binary.LittleEndian.Uint16(w.chunk[f.at-2:])), nil
}

// u32 reads a number of four bytes, the low one first.
func (w *xmlWriter) u32(f *fragment) (int, error) {
	if f.at+4 > f.end {
		return 0, errDamaged
	}
	f.at += 4
	return int(binary.LittleEndian.Uint32(w.chunk[f.at-4:])), nil
}

// name reads the name that an offset leads to; it stands right here when it is
// used for the first time in the chunk.
func (w *xmlWriter) name(f *fragment) (string, error) {
	offset, err := w.u32(f)
	if err != nil {
		return "", err
	}
	// The next name with the same hash, the hash, the length in characters, the
	// characters, and a zero.
	if offset < 0 || offset+8 > len(w.chunk) {
		return "", errDamaged
	}
	n := int(binary.LittleEndian.Uint16(w.chunk[offset+6:]))
	end := offset + 8 + 2*n
	if end+2 > len(w.chunk) {
		return "", errDamaged
	}
	if offset == f.at {
		f.at = end + 2
	}
	name := decode(w.chunk[offset+8 : end])
	if !isName(name) {
		return "", errDamaged
	}
	return name, nil
}

// isName says whether a text can be the name of an element or attribute.
func isName(s string) bool {
	for i, c := range s {
		switch {
		case c >= 'a' && c <= 'z', c >= 'A' && c <= 'Z', c == '_', c >= 0x80:
		case i > 0 && (c >= '0' && c <= '9' || c == '-' || c == '.' || c == ':'):
		default:
			return false
		}
	}
	return s != ""
}

// decode is text of two bytes a letter; a byte left over at its end is dropped.
func decode(utf16le []byte) string {
	u := make([]uint16, len(utf16le)/2)
	for i := range u {
		u[i] = binary.LittleEndian.Uint16(utf16le[2*i:])
	}
	return string(utf16.Decode(u))
}

// write writes a fragment up to its end.
func (w *xmlWriter) write(f *fragment) error {
	if f.depth > maxNested {
		return errTooMuch
	}
	for f.at < f.end {
		if w.tokens++; w.tokens > maxTokens || w.out.Len()-w.begun > maxOut {
			return errTooMuch
		}
		token, err := w.u8(f)
		if err != nil {
			return err
		}
		if token == tokenEnd {
			break
		}
		if err := w.token(f, token); err != nil {
			return err
		}
	}
	if len(f.open) > 0 {
		return errDamaged
	}
	return nil
}

// token writes what one token says.
func (w *xmlWriter) token(f *fragment, token byte) error {
	// The high bit only says that more follows.
	switch token &^ tokenMore {
	case tokenFragment:
		f.at += 3 // version and flags
		return nil
	case tokenOpenElement:
		return w.element(f, token&tokenMore != 0)
	case tokenCloseStart, tokenCloseEmpty, tokenEndElement:
		return w.close(f, token)
	case tokenAttribute:
		return w.attribute(f)
	case tokenValue:
		_, err := w.u8(f) // of a literal: always a text
		if err != nil {
			return err
		}
		return w.literal(f)
	case tokenCData:
		return w.literal(f)
	case tokenCharacter:
		n, err := w.u16(f)
		if err != nil {
			return err
		}
		escape(w.out, string(rune(n)))
		return nil
	case tokenEntity:
		name, err := w.name(f)
		if err != nil {
			return err
		}
		w.out.WriteString("&" + name + ";")
		return nil
	case tokenInstruction:
		_, err := w.name(f)
		return err
	case tokenInstructed:
		n, err := w.u16(f)
		f.at += 2 * n
		return err
	case tokenTemplate:
		return w.template(f)
	case tokenSubstitution, tokenOptional:
		return w.substitution(f)
	}
	return fmt.Errorf("%w: %#x is no token", errDamaged, token)
}

// literal writes a text with its length in characters before it.
func (w *xmlWriter) literal(f *fragment) error {
	n, err := w.u16(f)
	if err != nil || f.at+2*n > f.end {
		return errDamaged
	}
	escape(w.out, decode(w.chunk[f.at:f.at+2*n]))
	f.at += 2 * n
	return nil
}

// element opens one.
func (w *xmlWriter) element(f *fragment, attributes bool) error {
	if !f.bare {
		f.at += 2 // the value that it depends on
	}
	f.at += 4 // size of all that is in it
	name, err := w.name(f)
	if err != nil {
		return err
	}
	if attributes {
		f.at += 4 // size of them all
	}
	if len(f.open) >= maxNested {
		return errTooMuch
	}
	w.out.WriteString("<" + name)
	f.open, f.inStart = append(f.open, name), true
	return nil
}

// close ends a start tag or an element. An attribute that waits for its value
// is closed before.
func (w *xmlWriter) close(f *fragment, token byte) error {
	if len(f.open) == 0 {
		return errDamaged
	}
	switch token {
	case tokenCloseStart:
		w.out.WriteString(">")
		f.inStart = false
		return nil
	case tokenCloseEmpty:
		w.out.WriteString("/>")
	default:
		w.out.WriteString("</" + f.open[len(f.open)-1] + ">")
	}
	f.open, f.inStart = f.open[:len(f.open)-1], false
	return nil
}

// attribute writes one with its value, which is the next token.
func (w *xmlWriter) attribute(f *fragment) error {
	name, err := w.name(f)
	if err != nil || !f.inStart {
		return errDamaged
	}
	w.out.WriteString(" " + name + `="`)
	for f.at < f.end { // a value may have several parts
		switch token := w.chunk[f.at] &^ tokenMore; token {
		case tokenValue, tokenCharacter, tokenEntity, tokenSubstitution, tokenOptional:
			f.at++
			if w.tokens++; w.tokens > maxTokens {
				return errTooMuch
			}
			if err := w.token(f, token); err != nil {
				return err
			}
			continue
		}
		break
	}
	w.out.WriteString(`"`)
	return nil
}

// template writes an instance: the definition lies where the offset leads, or
// right here at its first use in the chunk, and the values follow.
func (w *xmlWriter) template(f *fragment) error {
	f.at += 1 + 4 // version and the template's number
	offset, err := w.u32(f)
	if err != nil {
		return err
	}
	// Next template with the same hash, its GUID, and the size of its binary
	// XML.
	const head = 4 + 16 + 4
	if offset < 0 || offset+head > len(w.chunk) {
		return errDamaged
	}
	size := int(binary.LittleEndian.Uint32(w.chunk[offset+20:]))
	if size < 0 || offset+head+size > len(w.chunk) {
		return errDamaged
	}
	if offset == f.at {
		f.at += head + size
	}
	values, err := w.values(f)
	if err != nil {
		return err
	}
	return w.write(&fragment{at: offset + head, end: offset + head + size, values: values, depth: f.depth + 1})
}
