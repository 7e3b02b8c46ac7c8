package peel

import (
	_ "embed"
	"strings"
)

// A Gravity is how grave a line says it is.
type Gravity uint8

// The gravities. Unknown is of a word that is no level.
const (
	Unknown Gravity = iota
	Debug
	Info
	Warning
	Error
)

// levels.txt has a line for each gravity: its name, and the words for it in all
// languages, in small letters.
//
//go:embed levels.txt
var levelsText string

var gravities = func() map[string]Gravity {
	names := map[string]Gravity{"debug": Debug, "info": Info, "warning": Warning, "error": Error}
	all := map[string]Gravity{}
	for line := range strings.Lines(levelsText) {
		words := strings.Fields(line)
		if len(words) == 0 || words[0] == "#" {
			continue
		}
		for _, w := range words[1:] {
			all[w] = names[words[0]]
		}
	}
	return all
}()

// Level is how grave a level's word is.
func Level(word string) Gravity {
	if len(word) > 24 { // no level is longer
		return Unknown
	}
	return gravities[strings.ToLower(strings.TrimSpace(word))]
}
