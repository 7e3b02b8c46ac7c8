//go:build ignore

// Writes data/names.txt, the names of system errors, HRESULTs and NTSTATUS
// values, out of the headers of the Debian package mingw-w64-common:
//
//	go run ./core/codes/gen/names.go /usr/share/mingw-w64/include core/why/codes/data/names.txt
package main

import (
	"bufio"
	"cmp"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
)

type name struct {
	kind  string // w system error, h HRESULT, n NTSTATUS
	value uint64 // as the header defines it
	name  string // as the header defines it
}

var (
	// A constant of the OS's headers with a decimal value: "#define
	// ERROR_ACCESS_DENIED 5".
	plain = regexp.MustCompile(`^#define\s+((?:ERROR|DNS|RPC_S|RPC_X|OR|EPT_S)_\w+|WSA\w+)\s+(?:__MSABI_LONG\()?(\d+)\)?\s*$`)
	// One that is reckoned from a base: the bases themselves are read by the
	// first expression.
	based = regexp.MustCompile(`^#define\s+(\w+)\s+\((?:INTERNET_ERROR_BASE|WINHTTP_ERROR_BASE|WSABASEERR)\s*\+\s*(\d+)\)`)
	// One with eight figures: "_HRESULT_TYPEDEF_(0x80070005)".
	hresult = regexp.MustCompile(`^#define\s+(\w+)\s+_HRESULT_TYPEDEF_\(0x([0-9A-Fa-f]{8})`)
	// The kernel's: "((NTSTATUS)0xC0000022)".
	status = regexp.MustCompile(`^#define\s+(STATUS_\w+)\s+\(\(NTSTATUS\)0x([0-9A-Fa-f]{8})`)
	// Setup's, reckoned from two flags.
	setup = regexp.MustCompile(`^#define\s+(\w+)\s+\(APPLICATION_ERROR_MASK\|ERROR_SEVERITY_ERROR\|0x([0-9A-Fa-f]+)\)`)
	// The update agent's.
	update = regexp.MustCompile(`^#define\s+(WU_\w+)\s+_HRESULT_TYPEDEF_\(0x([0-9A-Fa-f]{8})`)
)

// setupBase is what ERROR_SEVERITY_ERROR and APPLICATION_ERROR_MASK make
// together (winnt.h).
const setupBase = 0xE0000000

// main reads the OS's own headers in a folder and writes the numbers that they
// name as a table. Each header numbers from a base of its own, below which its
// names are none of ours.
func main() {
	dir, out := os.Args[1], os.Args[2]
	var all []name
	for file, base := range map[string]uint64{"winerror.h": 10000, "wininet.h": 12000, "winhttp.h": 12000, "ntstatus.h": 0, "wuerror.h": 0,
		"setupapi.h": setupBase} {
		f, err := os.Open(filepath.Join(dir, file))
		if err != nil {
			log.Fatal(err)
		}
		for s := bufio.NewScanner(f); s.Scan(); {
			for _, p := range []struct {
				re    *regexp.Regexp
				kind  string
				base  uint64
				radix int
			}{{plain, "w", 0, 10}, {based, "w", base, 10}, {hresult, "h", 0, 16}, {setup, "h", base, 16},
				{update, "h", 0, 16}, {status, "n", 0, 16}} {
				m := p.re.FindStringSubmatch(s.Text())
				if m == nil {
					continue
				}
				v, err := strconv.ParseUint(m[2], p.radix, 32)
				if err != nil {
					log.Fatalf("%s: %s: %v", file, m[1], err)
				}
				all = append(all, name{p.kind, p.base + v, m[1]})
			}
		}
		f.Close()
	}
	slices.SortStableFunc(all, func(a, b name) int {
		return cmp.Or(cmp.Compare(a.kind, b.kind), cmp.Compare(a.value, b.value), cmp.Compare(len(a.name), len(b.name)),
			cmp.Compare(a.name, b.name))
	})
	all = slices.CompactFunc(all, func(a, b name) bool { return a.kind == b.kind && a.value == b.value })
	f, err := os.Create(out)
	if err != nil {
		log.Fatal(err)
	}
	w := bufio.NewWriter(f)
	for _, n := range all {
		if n.kind == "w" {
			fmt.Fprintf(w, "w%d|%s\n", n.value, n.name)
		} else {
			fmt.Fprintf(w, "%s%08X|%s\n", n.kind, n.value, n.name)
		}
	}
	if err := w.Flush(); err != nil {
		log.Fatal(err)
	}
	if err := f.Close(); err != nil {
		log.Fatal(err)
	}
}
