// Command hollowkey says why a setup failed and fixes it.
package main

import (
	"os"

	"hollowkey/cli"
)

func main() {
	os.Exit(cli.Main(os.Args[1:], os.Stdin, os.Stdout, os.Stderr))
}
