// Command hollowkey says why a setup failed and fixes it.
package main

import (
	"os"
	"runtime"
	"runtime/debug"

	"hollowkey/cli"
)

// gcPercent is how much memory may be laid on top of what is in use before it
// is cleared, in per cent; the runtime takes 100. A run is over in a tenth of a
// second, of which a fifth went into clearing; with 200 a large log needs 45
// MiB at most, of the 64 that it may. Source: measured, docs/performance.md.
const gcPercent = 200

// firstPercent is the same up to the first clearing, which so comes at 24 MiB
// in place of 8: most logs are read with less, and are never cleared up behind.
const firstPercent = 600

func main() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(firstPercent)
		afterFirstClearing(func() { debug.SetGCPercent(gcPercent) })
	}
	os.Exit(cli.Main(os.Args[1:], os.Stdin, os.Stdout, os.Stderr))
}

// afterFirstClearing calls do once memory was cleared up for the first time:
// what nobody holds is gone then. It is of two words, since smaller things may
// share their place with what is held.
func afterFirstClearing(do func()) {
	runtime.AddCleanup(&[2]*int{}, func(do func()) { do() }, do)
}
