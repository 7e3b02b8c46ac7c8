// This file reads the values that stand in a template's places, by their types.

package evtx

import (
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"
)

// A value is what stands in a template's place: where it lies in the chunk, and
// its type.
type value struct {
	at, size int
	kind     byte
}

// The types of values. Source: [MS-EVEN6] 2.2.18.
const (
	typeNull     = 0x00
	typeText     = 0x01 // UTF-16
	typeANSI     = 0x02
	typeInt8     = 0x03
	typeUint8    = 0x04
	typeInt16    = 0x05
	typeUint16   = 0x06
	typeInt32    = 0x07
	typeUint32   = 0x08
	typeInt64    = 0x09
	typeUint64   = 0x0a
	typeFloat    = 0x0b
	typeDouble   = 0x0c
	typeBool     = 0x0d
	typeBinary   = 0x0e
	typeGUID     = 0x0f
	typeSize     = 0x10
	typeFileTime = 0x11
	typeSysTime  = 0x12
	typeSID      = 0x13
	typeHex32    = 0x14
	typeHex64    = 0x15
	typeBinXML   = 0x21
	typeArray    = 0x80 // of any of them
)

// maxValues is how many values one template may have; those of the OS have a
// few dozen.
const maxValues = 2048

// values reads the values behind a template: their number, size and type of
// each, and then themselves.
func (w *xmlWriter) values(f *fragment) ([]value, error) {
	n, err := w.u32(f)
	if err != nil || n < 0 || n > maxValues || f.at+4*n > f.end {
		return nil, errDamaged
	}
	all := make([]value, n)
	at := f.at + 4*n
	for i := range all {
		d := w.chunk[f.at+4*i:]
		all[i] = value{at, int(binary.LittleEndian.Uint16(d)), d[2]}
		at += all[i].size
	}
	if at > f.end {
		return nil, errDamaged
	}
	f.at = at
	return all, nil
}

// substitution writes the value that a place in a template names.
func (w *xmlWriter) substitution(f *fragment) error {
	i, err := w.u16(f)
	if err != nil {
		return err
	}
	if _, err := w.u8(f); err != nil { // the type that the template expects
		return err
	}
	if i >= len(f.values) {
		return nil // a place that was left out
	}
	v := f.values[i]
	if v.kind == typeBinXML {
		return w.write(&fragment{at: v.at, end: v.at + v.size, depth: f.depth + 1, bare: !w.dependent(v)})
	}
	escape(w.out, v.text(w.chunk[v.at:v.at+v.size]))
	return nil
}

// dependent says whether the elements of a value's binary XML name what they
// depend on. They do where a template writes them; in a bare one the element's
// size stands there instead, which fits in the value.
func (w *xmlWriter) dependent(v value) bool {
	const before = 4 + 1 // fragment's head, and the element's token
	b := w.chunk[v.at : v.at+v.size]
	if len(b) < before+6 || b[0] != tokenFragment || b[4]&^tokenMore != tokenOpenElement {
		return true
	}
	size := int(binary.LittleEndian.Uint32(b[before:]))
	return size <= 0 || size > v.size
}

// text is a value in words. One that is shorter than its type is empty.
func (v value) text(b []byte) string {
	if v.kind&typeArray != 0 {
		return v.list(b)
	}
	if need := width(v.kind); len(b) < need {
		return ""
	}
	// Any number is read as eight bytes; each type then takes as many as it
	// has.
	n := func() uint64 {
		var whole [8]byte
		copy(whole[:], b)
		return binary.LittleEndian.Uint64(whole[:])
	}
	switch v.kind {
	case typeText:
		return strings.TrimRight(decode(b), "\x00")
	case typeANSI:
		b = bytes.TrimRight(b, "\x00")
		if utf8.Valid(b) {
			return string(b)
		}
		runes := make([]rune, len(b))
		for i, c := range b {
			runes[i] = rune(c)
		}
		return string(runes)
	case typeInt8:
		return strconv.Itoa(int(int8(b[0])))
	case typeInt16:
		return strconv.Itoa(int(int16(n())))
	case typeInt32:
		return strconv.Itoa(int(int32(n())))
	case typeInt64:
		return strconv.FormatInt(int64(n()), 10)
	case typeUint8, typeUint16, typeUint32, typeUint64:
		return strconv.FormatUint(n()&mask(width(v.kind)), 10)
	case typeFloat:
		return fmt.Sprint(math.Float32frombits(uint32(n())))
	case typeDouble:
		return fmt.Sprint(math.Float64frombits(n()))
	case typeBool:
		return strconv.FormatBool(n()&mask(4) != 0)
	case typeHex32:
		return fmt.Sprintf("0x%x", uint32(n()))
	case typeHex64:
		return fmt.Sprintf("0x%x", n())
	case typeSize:
		return fmt.Sprintf("0x%x", n()&mask(len(b)))
	case typeBinary:
		return strings.ToUpper(hex.EncodeToString(b))
	case typeGUID:
		return fmt.Sprintf("{%08X-%04X-%04X-%X-%X}", binary.LittleEndian.Uint32(b), binary.LittleEndian.Uint16(b[4:]),
			binary.LittleEndian.Uint16(b[6:]), b[8:10], b[10:16])
	case typeFileTime:
		return fileTime(n()).Format("2006-01-02T15:04:05.0000000Z")
	case typeSysTime:
		u := func(i int) int { return int(binary.LittleEndian.Uint16(b[2*i:])) }
		return fmt.Sprintf("%04d-%02d-%02dT%02d:%02d:%02d.%03dZ", u(0), u(1), u(3), u(4), u(5), u(6), u(7))
	case typeSID:
		return sid(b)
	case typeNull:
		return ""
	}
	return base64.StdEncoding.EncodeToString(b)
}

// list is an array in words, its parts with a comma between.
func (v value) list(b []byte) string {
	one := value{kind: v.kind &^ typeArray}
	if one.kind == typeText {
		return strings.ReplaceAll(strings.TrimRight(decode(b), "\x00"), "\x00", ", ")
	}
	size := width(one.kind)
	if size == 0 {
		return one.text(b)
	}
	var parts []string
	for ; len(b) >= size; b = b[size:] {
		parts = append(parts, one.text(b[:size]))
	}
	return strings.Join(parts, ", ")
}

// width is the size of a type that has one, in bytes; the least of a SID.
func width(kind byte) int {
	switch kind {
	case typeInt8, typeUint8:
		return 1
	case typeInt16, typeUint16:
		return 2
	case typeInt32, typeUint32, typeFloat, typeBool, typeHex32, typeSize:
		return 4
	case typeInt64, typeUint64, typeDouble, typeFileTime, typeHex64, typeSID:
		return 8
	case typeGUID, typeSysTime:
		return 16
	}
	return 0
}

// mask has a one for each bit of a number of so many bytes.
func mask(bytes int) uint64 {
	if bytes >= 8 {
		return math.MaxUint64
	}
	return 1<<(8*bytes) - 1
}

// fileTime is a count of 100 nanoseconds since 1601. Source: [MS-DTYP] 2.3.3.
func fileTime(ticks uint64) time.Time {
	const to1970 = 116444736000000000 // ticks between 1601 and 1970
	since := int64(ticks) - to1970
	return time.Unix(since/1e7, since%1e7*100).UTC()
}

// sid writes a security identifier. Source: [MS-DTYP] 2.4.2.
func sid(b []byte) string {
	count := int(b[1])
	if len(b) < 8+4*count {
		return ""
	}
	authority := uint64(binary.BigEndian.Uint16(b[2:]))<<32 | uint64(binary.BigEndian.Uint32(b[4:]))
	s := fmt.Sprintf("S-%d-%d", b[0], authority)
	for i := range count {
		s += fmt.Sprintf("-%d", binary.LittleEndian.Uint32(b[8+4*i:]))
	}
	return s
}

// escape writes a text so that it stays one line and well-formed: the exports
// of the OS have a line a record, too.
func escape(out *bytes.Buffer, s string) {
	for _, c := range s {
		switch {
		case c == '&':
			out.WriteString("&amp;")
		case c == '<':
			out.WriteString("&lt;")
		case c == '>':
			out.WriteString("&gt;")
		case c == '"':
			out.WriteString("&quot;")
		case c == '\n':
			out.WriteString("&#10;")
		case c == '\r':
		case c == '\t':
			out.WriteString("&#9;")
		case c < ' ' || c == 0xfffe || c == 0xffff: // XML 1.0, 2.2: no character
			out.WriteRune(utf8.RuneError)
		default:
			out.WriteRune(c)
		}
	}
}
