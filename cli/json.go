package cli

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"unicode/utf16"
)

// printJSON writes v as one indented object; letters stand as they are.
func printJSON(w io.Writer, v any) error {
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

// escaped writes as numbers what a terminal would obey and JSON lets stand: the controls
// from U+007F to U+009F, and marks that change the direction of writing.
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
