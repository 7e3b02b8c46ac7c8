// This file takes the escapes out of a line with which a console colours it.

package lines

import "bytes"

// Plain is a line without the escapes that colour it.
func Plain(line []byte) []byte {
	at := bytes.IndexByte(line, 0x1b)
	if at < 0 {
		return line
	}
	out := bytes.Clone(line[:at])
	for i := at; i < len(line); i++ {
		if line[i] != 0x1b {
			out = append(out, line[i])
			continue
		}
		switch {
		case i+1 < len(line) && line[i+1] == '[': // ECMA-48 5.4: parameters, then one letter
			for i += 2; i < len(line) && (line[i] < '@' || line[i] > '~'); i++ {
			}
		case i+1 < len(line) && line[i+1] == ']': // a title, up to BEL or ESC
			for i += 2; i < len(line) && line[i] != 7 && line[i] != 0x1b; i++ {
			}
		default:
			i++
		}
	}
	return out
}
