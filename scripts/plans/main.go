// Command plans lists how the program's patterns are looked for, in
// core/logs/lazy/plans.txt: go generate ./core/logs/lazy
package main

import (
	"log"
	"os"

	_ "hollowkey/cli" // with it all rooms, and their patterns
	"hollowkey/core/logs/lazy"
)

// main writes the plans of all patterns into the present folder.
func main() {
	if err := os.WriteFile("plans.txt", lazy.Plans(), 0o644); err != nil {
		log.Fatal(err)
	}
}
