// This file reads properties and transforms out of a command line.

package story

import (
	"slices"
	"strings"
)

// ownProperties are those that the engine adds to a call itself, and those that
// name other files to be run: a log does not choose these. Source: the platform
// SDK, "Property Reference".
var ownProperties = []string{"CURRENTDIRECTORY", "CLIENTUILEVEL", "CLIENTPROCESSID", "PATCH", "MSIPATCHREMOVE",
	"TRANSFORMS", "TRANSFORMSATSOURCE", "TRANSFORMSSECURE",
	"UPGRADINGPRODUCTCODE", "ACTION", "EXECUTEACTION", "SOURCELIST"}

// hiddenValue is how the engine writes a value that nobody may read.
const hiddenValue = "**********"

// Call reads the properties and transforms that a setup was called with out of
// its command line, as the log shows it: NAME=VALUE, unquoted, in their order,
// and paths.
func Call(command string) (properties, transforms []string) {
	for rest := strings.TrimSpace(command); rest != ""; rest = strings.TrimLeft(rest, " ") {
		name, after, ok := strings.Cut(rest, "=")
		if !ok {
			break
		}
		name = name[strings.LastIndexByte(name, ' ')+1:] // a switch may stand before it
		value, more := valueOf(after)
		rest = more
		switch {
		case name == "TRANSFORMS":
			transforms = append(transforms, strings.FieldsFunc(value, func(r rune) bool { return r == ';' })...)
		case name == "" || name != strings.ToUpper(name) || slices.Contains(ownProperties, name), value == hiddenValue:
		default:
			properties = append(properties, name+"="+value)
		}
	}
	return properties, transforms
}

// valueOf takes a value, quoted or not, from the begin of a text. A quote
// within a quoted value is doubled.
func valueOf(text string) (value, rest string) {
	in, quoted := strings.CutPrefix(text, `"`)
	if !quoted {
		value, rest, _ = strings.Cut(text, " ")
		return value, rest
	}
	var b strings.Builder
	for i := 0; i < len(in); i++ {
		if in[i] != '"' {
			b.WriteByte(in[i])
			continue
		}
		if i+1 == len(in) || in[i+1] != '"' {
			return b.String(), in[i+1:]
		}
		b.WriteByte('"')
		i++
	}
	return b.String(), ""
}
