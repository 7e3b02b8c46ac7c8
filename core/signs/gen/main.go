// Command gen writes pack.json out of the signs in the current folder.
package main

import (
	"log"
	"os"

	"hollowkey/core/signs"
)

func main() {
	pack, err := signs.Load(os.DirFS("."))
	if err != nil {
		log.Fatal(err)
	}
	b, err := pack.Pack()
	if err != nil {
		log.Fatal(err)
	}
	if err := os.WriteFile("pack.json", b, 0o644); err != nil {
		log.Fatal(err)
	}
}
