// This file prints objects for other programs. Lists are never null, and
// nothing in them can be obeyed by a terminal.

package cli

import (
	"bytes"
	"encoding"
	"encoding/json"
	"fmt"
	"io"
	"reflect"
	"strings"
	"unicode/utf16"
)

// printJSON writes v as one indented object; letters stand as they are.
func printJSON(w io.Writer, v any) error {
	v = filled(reflect.ValueOf(v)).Interface()
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	if err := enc.Encode(v); err != nil {
		return err
	}
	_, err := io.WriteString(w, escaped(b.String()))
	return err
}

// filled gives a value with empty lists and objects in place of those that are
// nil, so that nobody who reads the JSON meets null for a list. The value
// itself stays as it is.
func filled(v reflect.Value) reflect.Value {
	if !v.IsValid() || v.Type().Implements(jsonMarshaler) || v.Type().Implements(textMarshaler) {
		return v
	}
	out := reflect.New(v.Type()).Elem()
	out.Set(v)
	// A copy is filled, never the value itself: it may be in use.
	switch v.Kind() {
	case reflect.Slice:
		if v.Type().Elem().Kind() == reflect.Uint8 {
			return v
		}
		out.Set(reflect.MakeSlice(v.Type(), v.Len(), v.Len()))
		for i := range v.Len() {
			out.Index(i).Set(filled(v.Index(i)))
		}
	case reflect.Map:
		out.Set(reflect.MakeMapWithSize(v.Type(), v.Len()))
		for it := v.MapRange(); it.Next(); {
			out.SetMapIndex(it.Key(), filled(it.Value()))
		}
	case reflect.Struct:
		for i := range v.NumField() {
			if f := out.Field(i); f.CanSet() && (v.Type().Field(i).IsExported() || f.Kind() == reflect.Struct) {
				f.Set(filled(f))
			}
		}
	case reflect.Pointer:
		if !v.IsNil() && !reflect.PointerTo(v.Type().Elem()).Implements(jsonMarshaler) {
			out.Set(reflect.New(v.Type().Elem()))
			out.Elem().Set(filled(v.Elem()))
		}
	case reflect.Interface:
		if !v.IsNil() {
			out.Set(filled(v.Elem()))
		}
	}
	return out
}

var (
	jsonMarshaler = reflect.TypeFor[json.Marshaler]()
	textMarshaler = reflect.TypeFor[encoding.TextMarshaler]()
)

// escaped writes as numbers what a terminal would obey and JSON lets stand: the
// controls from U+007F to U+009F, and marks that change the direction of
// writing.
func escaped(text string) string {
	if strings.IndexFunc(text, func(r rune) bool { return !plain(r) }) < 0 {
		return text
	}
	var b strings.Builder
	for _, r := range text {
		switch {
		case plain(r):
			b.WriteRune(r)
		case r > 0xffff:
			hi, lo := utf16.EncodeRune(r)
			fmt.Fprintf(&b, `\u%04x\u%04x`, hi, lo)
		default:
			fmt.Fprintf(&b, `\u%04x`, r)
		}
	}
	return b.String()
}
