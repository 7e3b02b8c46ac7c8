// Command echo appends its arguments to the file that ECHO_TO names, a line a
// call, as JSON: what a shell made of the words of a line.
package main

import (
	"encoding/json"
	"os"
)

// main writes its arguments as a line of JSON to a file that the environment
// names: how a shell has parted a printed command is then there to see.
func main() {
	f, err := os.OpenFile(os.Getenv("ECHO_TO"), os.O_APPEND|os.O_CREATE|os.O_WRONLY, 0o600)
	if err != nil {
		os.Exit(1)
	}
	if json.NewEncoder(f).Encode(os.Args[1:]) != nil || f.Close() != nil {
		os.Exit(1)
	}
}
