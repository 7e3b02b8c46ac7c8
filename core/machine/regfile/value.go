// This file is a registry value with its type, in bytes as the registry keeps
// them.

package regfile

import (
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"strconv"
	"strings"
	"unicode/utf16"
)

// A Type is a registry value's type, numbered as the OS does.
type Type uint32

// The types that have a name here; others are kept as bytes.
const (
	None     Type = 0
	String   Type = 1
	Expand   Type = 2
	Binary   Type = 3
	DWord    Type = 4
	MultiStr Type = 7
	QWord    Type = 11
)

var typeNames = map[Type]string{
	None: "none", String: "string", Expand: "expand", Binary: "binary", DWord: "dword", MultiStr: "multi", QWord: "qword",
}

// String is the type's name here, or its number where it has none.
func (t Type) String() string {
	if n, ok := typeNames[t]; ok {
		return n
	}
	return fmt.Sprintf("type %d", uint32(t))
}

// ParseType reads a type by its name here.
func ParseType(name string) (Type, error) {
	for t, n := range typeNames {
		if strings.EqualFold(n, name) {
			return t, nil
		}
	}
	return None, fmt.Errorf("the value type %q is not one of string, expand, multi, dword, qword, binary, none", name)
}

// A Value is a registry value's type and bytes, strings in UTF-16LE with their
// final zero.
type Value struct {
	Type Type   `json:"type"`           // which tells how the bytes are read
	Data []byte `json:"data"`           // as the OS keeps them
	Text string `json:"text,omitempty"` // as it stood in registry text; written back as it is
}

// Make makes a value of type t out of words: strings as they are, numbers
// decimal or with 0x, the strings of multi parted by newlines, binary in hex.
// It fails for words that are none of the type's, such as letters for a number.
func Make(t Type, words string) (Value, error) {
	switch t {
	case String, Expand:
		return Value{Type: t, Data: utf16Bytes(words + "\x00")}, nil
	case MultiStr:
		s := ""
		if words != "" {
			s = strings.ReplaceAll(strings.TrimSuffix(words, "\n"), "\n", "\x00") + "\x00"
		}
		return Value{Type: t, Data: utf16Bytes(s + "\x00")}, nil
	case DWord:
		n, err := strconv.ParseUint(words, 0, 32)
		if err != nil {
			return Value{}, fmt.Errorf("%q is no number from 0 to 4294967295", words)
		}
		return Value{Type: t, Data: binary.LittleEndian.AppendUint32(nil, uint32(n))}, nil
	case QWord:
		n, err := strconv.ParseUint(words, 0, 64)
		if err != nil {
			return Value{}, fmt.Errorf("%q is no number of 64 bits", words)
		}
		return Value{Type: t, Data: binary.LittleEndian.AppendUint64(nil, n)}, nil
	}
	b, err := hex.DecodeString(strings.NewReplacer(" ", "", ",", "").Replace(words))
	if err != nil {
		return Value{}, fmt.Errorf("%q is no row of bytes in hex", words)
	}
	return Value{Type: t, Data: b}, nil
}

// Words is the value for reading, the inverse of [Make].
func (v Value) Words() string {
	switch v.Type {
	case String, Expand:
		return strings.TrimRight(utf16Text(v.Data), "\x00")
	case MultiStr:
		return strings.ReplaceAll(strings.TrimRight(utf16Text(v.Data), "\x00"), "\x00", "\n")
	case DWord:
		if len(v.Data) == 4 {
			return strconv.FormatUint(uint64(binary.LittleEndian.Uint32(v.Data)), 10)
		}
	case QWord:
		if len(v.Data) == 8 {
			return strconv.FormatUint(binary.LittleEndian.Uint64(v.Data), 10)
		}
	}
	return hex.EncodeToString(v.Data)
}

// Equal says whether two values have the same type and bytes.
func (v Value) Equal(w Value) bool { return v.Type == w.Type && string(v.Data) == string(w.Data) }

// utf16Bytes writes text as the registry keeps it, without a final zero.
func utf16Bytes(s string) []byte {
	var b []byte
	for _, u := range utf16.Encode([]rune(s)) {
		b = binary.LittleEndian.AppendUint16(b, u)
	}
	return b
}

// utf16Text reads it; an odd last byte is left out.
func utf16Text(b []byte) string {
	units := make([]uint16, len(b)/2)
	for i := range units {
		units[i] = binary.LittleEndian.Uint16(b[2*i:])
	}
	return string(utf16.Decode(units))
}

// format writes a value as registry text does; plain strings without line
// breaks in quotes, the rest as bytes.
func (v Value) format() string {
	if v.Text != "" {
		if w, err := parseValue(v.Text); err == nil && w.Equal(v) {
			return v.Text
		}
	}
	switch v.Type {
	case String:
		s := utf16Text(v.Data)
		plain, ok := strings.CutSuffix(s, "\x00")
		if ok && !strings.ContainsAny(plain, "\x00\r\n") && string(utf16Bytes(s)) == string(v.Data) {
			return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(plain) + `"`
		}
	case DWord:
		if len(v.Data) == 4 {
			return fmt.Sprintf("dword:%08x", binary.LittleEndian.Uint32(v.Data))
		}
	case Binary:
		return "hex:" + hexList(v.Data)
	}
	return fmt.Sprintf("hex(%x):", uint32(v.Type)) + hexList(v.Data)
}

// hexList writes bytes as registry text does.
func hexList(b []byte) string {
	parts := make([]string, len(b))
	for i, c := range b {
		parts[i] = fmt.Sprintf("%02x", c)
	}
	return strings.Join(parts, ",")
}

// parseValue reads what stands behind the equals sign; lines that go on with a
// backslash have been joined with newlines.
func parseValue(t string) (Value, error) {
	joined := strings.TrimSpace(t)
	if strings.Contains(joined, "\n") {
		var b strings.Builder
		for line := range strings.SplitSeq(joined, "\n") {
			line = strings.TrimSpace(strings.TrimSuffix(line, "\r"))
			b.WriteString(strings.TrimSuffix(line, `\`))
		}
		joined = b.String()
	}
	switch {
	case strings.HasPrefix(joined, `"`):
		s, rest, err := unquote(joined)
		if err != nil {
			return Value{}, err
		}
		if rest = strings.TrimSpace(rest); rest != "" && rest[0] != ';' {
			return Value{}, fmt.Errorf("%.20q stands behind the string", rest)
		}
		return Make(String, s)
	case hasPrefixFold(joined, "dword:"):
		n, err := strconv.ParseUint(strings.TrimSpace(cutComment(joined[6:])), 16, 32)
		if err != nil {
			return Value{}, fmt.Errorf("%.20q is no dword", joined)
		}
		return Value{Type: DWord, Data: binary.LittleEndian.AppendUint32(nil, uint32(n))}, nil
	case hasPrefixFold(joined, "hex"):
		return parseHex(joined[3:])
	}
	return Value{}, fmt.Errorf("the value %.30q is of no known kind", joined)
}

// parseHex reads "hex:" and "hex(n):" values, which may go over many lines.
func parseHex(t string) (Value, error) {
	v := Value{Type: Binary}
	if strings.HasPrefix(t, "(") {
		number, rest, ok := strings.Cut(t[1:], ")")
		n, err := strconv.ParseUint(number, 16, 32)
		if !ok || err != nil {
			return v, fmt.Errorf("%.20q is no value type", number)
		}
		v.Type, t = Type(n), rest
	}
	list, ok := strings.CutPrefix(t, ":")
	if !ok {
		return v, fmt.Errorf("a colon is missing before %.20q", t)
	}
	v.Data = []byte{}
	for part := range strings.SplitSeq(cutComment(list), ",") {
		part = strings.TrimSpace(part)
		if part == "" {
			continue
		}
		n, err := strconv.ParseUint(part, 16, 8)
		if err != nil {
			return v, fmt.Errorf("%.10q is no byte in hex", part)
		}
		v.Data = append(v.Data, byte(n))
	}
	return v, nil
}

// cutComment leaves out a remark; only values without quotes can have one.
func cutComment(t string) string {
	before, _, _ := strings.Cut(t, ";")
	return before
}

// hasPrefixFold says whether a text begins with another one, letter case aside.
func hasPrefixFold(t, prefix string) bool {
	return len(t) >= len(prefix) && strings.EqualFold(t[:len(prefix)], prefix)
}

// unquote reads a quoted text with \\ and \" and gives what follows it.
func unquote(t string) (s, rest string, err error) {
	var b strings.Builder
	for i := 1; i < len(t); i++ {
		switch t[i] {
		case '\\':
			if i+1 < len(t) && (t[i+1] == '\\' || t[i+1] == '"') {
				i++
			}
			b.WriteByte(t[i])
		case '"':
			return b.String(), t[i+1:], nil
		default:
			b.WriteByte(t[i])
		}
	}
	return "", "", fmt.Errorf("the string %.30q has no closing quotation mark", t)
}
