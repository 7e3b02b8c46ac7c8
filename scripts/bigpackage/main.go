// Command bigpackage writes a made-up package of any size, for measuring.
// usage: bigpackage FILE MEGABYTES
package main

import (
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"strconv"

	"hollowkey/core/package/compound"
	"hollowkey/demo"
)

// main writes a package of so many megabytes.
func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

// run makes the demo's package and puts a stream of noise into it, which no
// compression makes smaller.
func run() error {
	if len(os.Args) != 3 {
		return fmt.Errorf("usage: bigpackage FILE MEGABYTES")
	}
	mb, err := strconv.Atoi(os.Args[2])
	if err != nil {
		return err
	}
	db, err := demo.Planner()
	if err != nil {
		return err
	}
	for i := range 3000 {
		key := fmt.Sprintf("Chart%04d", i)
		if err := db.Insert("File", key, "Planner", key+".dat", 300_000, nil, nil, 512, 10+i); err != nil {
			return err
		}
	}
	if err := db.Insert("Media", 2, 3010, nil, "#charts.cab"); err != nil {
		return err
	}
	db.AddContent("charts.cab", noise(int64(mb)<<20))
	f, err := os.Create(os.Args[1])
	if err != nil {
		return err
	}
	defer f.Close()
	return db.Write(f)
}

// noise is a stream of so many bytes that nothing repeats.
type noise int64

func (n noise) Size() int64 { return int64(n) }

func (n noise) Reader() io.Reader { return rand.NewChaCha8([32]byte{7}) }

var _ compound.Content = noise(0)
