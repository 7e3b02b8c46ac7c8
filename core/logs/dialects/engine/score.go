// This file counts lines that only the engine writes.

package engine

import "bytes"

// Score counts the lines that only the installer engine writes.
func Score(lines [][]byte) (n int) {
	marks := 0
	for _, l := range lines {
		if _, _, _, ok := prefixed(l); ok {
			n++
			continue
		}
		if bytes.HasPrefix(l, propertyMark) || bytes.HasPrefix(l, debugMark) ||
			bytes.HasPrefix(l, []byte("=== ")) && bytes.Contains(l, []byte("Build type:")) {
			n++
			continue
		}
		if m, ok := parseMark(l); ok && (standard[string(m.name)] || m.kind != markPlain) {
			marks++
		}
	}
	if marks >= 2 || n > 0 {
		n += marks
	}
	return 5 * n
}
