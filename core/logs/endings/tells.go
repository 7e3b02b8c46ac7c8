// This file tells whether a line says anything of how a run goes.

package endings

import (
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

// waits is a line, in small letters, that says that something is waited for or
// tried again: what a run does that hangs.
var waits = lazy.MustCompile(`\b(?:wait|await|retry|retrie|trying|pending|not yet|still |until |wart[eu]|attend|attente|esper|aguard|attes|aspett|wacht|czeka|oczek|ček|vänt|beklen|bekliyor)|ожид|жд[её]|待|대기|기다|等`)

// Tells says whether a line tells how something went, that the run is over, or
// that it waits for something. One that does not could be anybody's.
func Tells(line string) bool {
	said := Read(line)
	return said.Fails || said.Ends || said.Worked || said.GivesUp || said.Refuses || said.Cancelled || said.Exit != nil ||
		waits.MatchString(pieces.Lower(line))
}
