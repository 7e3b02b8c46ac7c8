package cli

import (
	"encoding/json"
	"io"
)

// printJSON writes v as one indented object; letters stand as they are.
func printJSON(w io.Writer, v any) error {
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return enc.Encode(v)
}
