// Command hollowkey says why a setup failed and fixes it.
package main

import (
	"os"
	"runtime/debug"

	"hollowkey/cli"
)

// gcPercent is how much memory may be laid on top of what is in use before it is cleared, in
// per cent; the runtime takes 100. A run is over in a tenth of a second, of which a fifth went
// into clearing; with 200 a large log needs 45 MiB at most, of the 64 that it may.
// Source: measured, docs/performance.md.
const gcPercent = 200

func main() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(gcPercent)
	}
	os.Exit(cli.Main(os.Args[1:], os.Stdin, os.Stdout, os.Stderr))
}
