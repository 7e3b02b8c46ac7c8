package demotest

import (
	"regexp"
	"strings"
)

var (
	// printed finds a command in a line: alone, or behind a few words of ours.
	printed = regexp.MustCompile(`(?:^|\s)(hollowkey (?:[a-z]+ ?)[^│]*)$`)
	// forPerson are words in capitals that only a person can fill in, and lists
	// of choices.
	forPerson = regexp.MustCompile(`\b(?:FOLDER|FILE|LOG|PACKAGE|NAME|TWIN|KIND|NUMBER|WORD|TEXT|COMMAND|PRODUCT|SETUP)\b|…|--help| or |, then| prints | lists | tells `)
)

// Printed gives the commands in what the program printed that can be pasted as
// they are.
func Printed(text string) (commands []string) {
	for line := range strings.Lines(text) {
		if m := printed.FindStringSubmatch(strings.TrimRight(line, "\r\n")); m != nil {
			if c := strings.TrimRight(strings.TrimSpace(m[1]), ".;"); !forPerson.MatchString(c) {
				commands = append(commands, c)
			}
		}
	}
	return commands
}
