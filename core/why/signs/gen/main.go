// Command gen writes pack.json, texts.jsonl, numbers.txt and needs.txt out of
// the signs in the current folder.
package main

import (
	"log"
	"os"

	"hollowkey/core/why/signs"
)

// main packs the signs of the present folder into what the program embeds: to
// read YAML at every start would take longer than a verdict.
func main() {
	pack, err := signs.Load(os.DirFS("."))
	if err != nil {
		log.Fatal(err)
	}
	b, texts, err := pack.Pack()
	if err != nil {
		log.Fatal(err)
	}
	for name, text := range map[string][]byte{"pack.json": b, "texts.jsonl": texts, "numbers.txt": pack.Numbers(), "needs.txt": pack.Needs()} {
		if err := os.WriteFile(name, text, 0o644); err != nil {
			log.Fatal(err)
		}
	}
}
