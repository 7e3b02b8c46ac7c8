// Command hollowkey says why a set-up failed and puts it right.
package main

import (
	"os"

	"hollowkey/cli"
)

func main() {
	os.Exit(cli.Main(os.Args[1:], os.Stdin, os.Stdout, os.Stderr))
}
