// Command fleet makes the setup logs of a made-up fleet and a list of what
// failed in each, for measuring:
//
//	go run ./scripts/fleet OUT [--logs 10000] [--machines 2000] [--least 30000] [--most 2000000] [--known|--unknown]
//
// or fills a store with attempts that no log stands behind, and tells how long
// questions to it take:
//
//	go run ./scripts/fleet STORE --rows 1000000
package main

import (
	"encoding/csv"
	"flag"
	"log"
	"os"
	"time"

	"hollowkey/demo/fleetlogs"
)

// main writes the logs of a fleet, or fills a store with rows and asks it, for
// measurements.
func main() {
	p := fleetlogs.Plan{From: time.Date(2026, 4, 20, 0, 0, 0, 0, time.UTC), Days: 21, Worked: 10, Zips: 20}
	var known, unknown bool
	rows := 0
	flag.IntVar(&rows, "rows", 0, "fill a store with so many attempts and ask it")
	flag.IntVar(&p.Logs, "logs", 10_000, "how many logs")
	flag.IntVar(&p.Machines, "machines", 2000, "of how many machines")
	flag.IntVar(&p.Least, "least", 30_000, "bytes of the smallest log")
	flag.IntVar(&p.Most, "most", 2_000_000, "bytes of the largest log")
	flag.Uint64Var(&p.Seed, "seed", 1, "of what is made up")
	flag.BoolVar(&known, "known", false, "only causes that the folding rules were looked at with")
	flag.BoolVar(&unknown, "unknown", false, "only the others")
	if len(os.Args) < 2 {
		log.Fatal("usage: fleet OUT [OPTIONS]")
	}
	out := os.Args[1]
	if err := flag.CommandLine.Parse(os.Args[2:]); err != nil {
		log.Fatal(err)
	}
	if rows > 0 {
		if err := ask(out, rows); err != nil {
			log.Fatal(err)
		}
		return
	}
	causes, err := fleetlogs.Causes()
	if err != nil {
		log.Fatal(err)
	}
	for _, c := range causes {
		if !(known && !c.Known || unknown && c.Known) {
			p.Causes = append(p.Causes, c)
		}
	}
	if err := os.MkdirAll(out, 0o755); err != nil {
		log.Fatal(err)
	}
	made, err := fleetlogs.Write(out, p)
	if err != nil {
		log.Fatal(err)
	}
	f, err := os.Create(out + ".csv")
	if err != nil {
		log.Fatal(err)
	}
	w := csv.NewWriter(f)
	for _, l := range made {
		if err := w.Write([]string{l.Path, l.Machine, l.Product, l.Cause}); err != nil {
			log.Fatal(err)
		}
	}
	w.Flush()
	if err := f.Close(); err != nil {
		log.Fatal(err)
	}
}
