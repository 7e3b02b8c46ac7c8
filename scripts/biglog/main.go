// Command biglog writes a made-up verbose log of about the given size, for
// measuring:
//
//	go run ./scripts/biglog OUT MEGABYTES [engine|servicing|chain|vendor|json]
package main

import (
	"log"
	"os"
	"strconv"
	"time"

	"hollowkey/demo/enginelog"
)

const bytesPerFile = 1940 // what one installed file adds to the log, in UTF-16

// main writes a log of so many megabytes, of the engine's kind or another.
func main() {
	if len(os.Args) != 3 && len(os.Args) != 4 {
		log.Fatal("usage: biglog OUT MEGABYTES [KIND]")
	}
	mb, err := strconv.Atoi(os.Args[2])
	if err != nil {
		log.Fatal(err)
	}
	f, err := os.Create(os.Args[1])
	if err != nil {
		log.Fatal(err)
	}
	if len(os.Args) == 4 && os.Args[3] != "engine" {
		err = writeKind(f, os.Args[3], int64(mb)*1e6)
	} else {
		err = writeEngine(f, mb)
	}
	if err != nil {
		log.Fatal(err)
	}
	if err := f.Close(); err != nil {
		log.Fatal(err)
	}
}

// writeEngine writes a log of the engine's that fails near its end; the files
// in it make up the size.
func writeEngine(f *os.File, mb int) error {
	return enginelog.Write(f, enginelog.Setup{
		Product: "Wharfage Ledger", Version: "7.0.1", Code: "{3B8E1C70-9D2F-4A61-8C55-7E0F1A2B3C44}", Manufacturer: "Nine Fathom Systems",
		Folder: "Wharfage", Package: `C:\Deploy\wharfage.msi`, User: "mwhitlow", SID: "S-1-5-21-2104885761-1177238915-682003330-1107",
		Computer: "ELLERY-D02", Started: time.Date(2026, 5, 4, 9, 12, 1, 0, time.UTC), Files: max(1, mb*1e6/bytesPerFile),
		Services: []enginelog.Service{{Name: "BerthSync", Display: "Berth Sync"}},
		Failure: enginelog.Failure{Action: "StartServices", Wait: 31 * time.Second, Lines: []string{
			`Error 1920. Service 'Berth Sync' (BerthSync) failed to start.  Verify that you have sufficient privileges to start system services.`,
			`Product: Wharfage Ledger -- Error 1920. Service 'Berth Sync' (BerthSync) failed to start.`,
		}},
	})
}
