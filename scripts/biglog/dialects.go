// This file writes made-up logs of the other kinds.

package main

import (
	"bufio"
	"fmt"
	"io"
	"time"
)

// lines writes one entry of a made-up log; n counts the entries.
type lines func(w io.Writer, at time.Time, n int)

// endings close each kind with a failure, so that the whole way is measured.
var kinds = map[string]struct{ entry, end lines }{
	"servicing": {
		func(w io.Writer, at time.Time, n int) {
			fmt.Fprintf(w, "%s, Info                  CBS    Appl: Evaluating package applicability for package "+
				"Harbour-Client-Feature%05d~31bf3856ad364e35~amd64~~10.0.19041.%d, applicable state: Installed\n",
				at.Format("2006-01-02 15:04:05"), n%90000, n%4000)
		},
		func(w io.Writer, at time.Time, _ int) {
			fmt.Fprintf(w, "%s, Error                 CBS    Failed to perform operation. [HRESULT = 0x80070070 "+
				"- ERROR_DISK_FULL]\n", at.Format("2006-01-02 15:04:05"))
		},
	},
	"chain": {
		func(w io.Writer, at time.Time, n int) {
			fmt.Fprintf(w, "[0B1C:1F%02X][%s]i%03d: Detected package: Berthline_%05d, state: Present, authored: "+
				"Yes, cached: Complete\n", n%256, at.Format("2006-01-02T15:04:05"), 100+n%90, n%90000)
		},
		func(w io.Writer, at time.Time, _ int) {
			stamp := at.Format("2006-01-02T15:04:05")
			fmt.Fprintf(w, "[0B1C:1F04][%s]e000: Error 0x80070642: Failed to execute package: Berthline_Core.\n"+
				"[0B1C:1F04][%s]i399: Apply complete, result: 0x80070642, restart: None, ba requested restart:  No\n", stamp, stamp)
		},
	},
	"vendor": {
		func(w io.Writer, at time.Time, n int) {
			level := "INFO "
			if n%3 == 0 {
				level = "DEBUG"
			}
			fmt.Fprintf(w, "%s %s [main] quay.copy - tile%05d.dll copied to C:\\Program "+
				"Files\\Quay\\Tidebook (%d bytes)\n", at.Format("2006-01-02 15:04:05,000"), level, n%90000, 4000+n*37%90000)
		},
		func(w io.Writer, at time.Time, _ int) {
			stamp := at.Format("2006-01-02 15:04:05,000")
			fmt.Fprintf(w, "%s ERROR [main] quay.copy - There is not enough space on the disk\n"+
				"%s ERROR [main] quay.setup - Installation failed with exit code 1603\n", stamp, stamp)
		},
	},
	"json": {
		func(w io.Writer, at time.Time, n int) {
			fmt.Fprintf(w, `{"ts":"%s","lvl":"info","logger":"quay.copy","msg":"tile%05d.dll copied","bytes":%d}`+
				"\n", at.Format("2006-01-02T15:04:05.000Z"), n%90000, 4000+n*37%90000)
		},
		func(w io.Writer, at time.Time, _ int) {
			fmt.Fprintf(w, `{"ts":"%s","lvl":"error","logger":"quay.setup","msg":"There is not enough space on the disk","exit":112}`+"\n", at.Format("2006-01-02T15:04:05.000Z"))
		},
	},
}

// writeKind writes a log of the kind until it has the size in bytes.
func writeKind(out io.Writer, kind string, size int64) error {
	k, known := kinds[kind]
	if !known {
		return fmt.Errorf("no kind %q of log: engine, servicing, chain, vendor and json are made", kind)
	}
	c := &counting{w: bufio.NewWriterSize(out, 1<<20)}
	at := time.Date(2026, 5, 4, 9, 12, 1, 0, time.UTC)
	for n := 0; c.n < size; n++ {
		k.entry(c, at, n)
		at = at.Add(20 * time.Millisecond)
	}
	k.end(c, at, 0)
	return c.w.Flush()
}

type counting struct {
	w *bufio.Writer
	n int64
}

// Write counts what is written, since a log is asked for by its size.
func (c *counting) Write(p []byte) (int, error) {
	c.n += int64(len(p))
	return c.w.Write(p)
}
