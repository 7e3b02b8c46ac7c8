// This file packs product codes as the registry keeps them.

package installdb

import "strings"

// codeOrder is the order in which the hex digits of a product code stand in the
// engine's registry keys. Source: docs/packages.md, "Packed codes".
var codeOrder = [32]int{7, 6, 5, 4, 3, 2, 1, 0, 11, 10, 9, 8, 15, 14, 13, 12, 17, 16, 19, 18, 21, 20, 23, 22, 25, 24, 27, 26, 29, 28, 31,
	30}

// PackCode writes a {…} code as the engine's registry keys have it; what is no
// code stays as it is.
func PackCode(code string) string {
	digits := strings.ToUpper(strings.NewReplacer("{", "", "}", "", "-", "").Replace(code))
	if len(digits) != 32 {
		return code
	}
	var out [32]byte
	for i, from := range codeOrder {
		out[i] = digits[from]
	}
	return string(out[:])
}

// IsCode says whether a text is a product's, package's or component's code: a
// GUID in braces.
func IsCode(text string) bool {
	if len(text) != 38 || text[0] != '{' || text[37] != '}' {
		return false
	}
	for i, c := range text[1:37] {
		dash := i == 8 || i == 13 || i == 18 || i == 23
		if dash != (c == '-') || !dash && !strings.ContainsRune("0123456789abcdefABCDEF", c) {
			return false
		}
	}
	return true
}

// UnpackCode is the inverse of [PackCode].
func UnpackCode(packed string) string {
	if len(packed) != 32 {
		return packed
	}
	d := PackCode(packed) // turning the groups round twice gives them back
	return "{" + d[:8] + "-" + d[8:12] + "-" + d[12:16] + "-" + d[16:20] + "-" + d[20:] + "}"
}
