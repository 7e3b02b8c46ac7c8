// This file has the words for how grave a line is.

package peel

import (
	_ "embed"
	"strings"

	"hollowkey/core/logs/pieces"
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

// longestLevel is how many bytes the longest word for a level has, and some
// more.
const longestLevel = 24

// Level is how grave a level's word is.
func Level(word string) Gravity {
	if word == "" || len(word) > longestLevel {
		return Unknown
	}
	return gravities[pieces.Lower(strings.TrimSpace(word))]
}

// levelOf is Level for bytes: it is asked of every word that a line could begin
// with.
func levelOf(word []byte) Gravity {
	var low [longestLevel]byte
	if len(word) > len(low) {
		return Unknown
	}
	for i, c := range word {
		if c >= 0x80 || c <= ' ' {
			return Level(string(word))
		}
		if c >= 'A' && c <= 'Z' {
			c |= 0x20
		}
		low[i] = c
	}
	return gravities[string(low[:len(word)])]
}
