// This file reads the tables of numbers. They stay text until one is asked for,
// since most verdicts ask for few.

package codes

import (
	_ "embed"
	"regexp"
	"strconv"
	"strings"
	"sync"
)

// The tables are text with one row a line, columns parted by "|", the number
// first. They are searched where they lie: a look-up touches a few hundred
// kilobytes and nothing is built at the start of the program. A log asks for
// the same few numbers again and again, so what was found is kept.
var (
	//go:embed data/win32.txt
	win32Words string
	//go:embed data/engine.txt
	engineWords string
	//go:embed data/exit.txt
	exitWords string
	//go:embed data/hresult.txt
	hresultWords string
	//go:embed data/ntstatus.txt
	ntstatusWords string
	//go:embed data/facility.txt
	facilityWords string
	//go:embed data/names.txt
	names string
	//go:embed data/names-more.txt
	moreNames string
	//go:embed data/http.txt
	httpWords string
	//go:embed data/byname.txt
	byName string
)

// A told is an expression that names match, and the class of the cause that
// they tell.
type told struct {
	class string
	names *regexp.Regexp
}

var byNames = sync.OnceValue(func() (all []told) {
	for line := range strings.Lines(byName) {
		class, names, ok := strings.Cut(strings.TrimSpace(line), "|")
		if !ok || strings.HasPrefix(line, "#") {
			continue
		}
		if class == "-" {
			class = ""
		}
		all = append(all, told{class, regexp.MustCompile(strings.Join(strings.Fields(names), "|"))})
	}
	return all
})

// classOf is the class of the cause that a name tells, empty for none.
func classOf(name string) string {
	for _, t := range byNames() {
		if name != "" && t.names.MatchString(name) {
			return t.class
		}
	}
	return ""
}

// row finds the row that begins with key and gives its columns after the key.
func row(table, key string, columns int) ([]string, bool) {
	start := strings.Index(table, "\n"+key+"|")
	if start < 0 {
		if !strings.HasPrefix(table, key+"|") {
			return nil, false
		}
		start = -1
	}
	line := table[start+1:]
	if end := strings.IndexByte(line, '\n'); end >= 0 {
		line = line[:end]
	}
	cells := strings.Split(line, "|")[1:]
	for i, c := range cells {
		if c == "-" {
			cells[i] = ""
		}
	}
	for len(cells) < columns {
		cells = append(cells, "")
	}
	return cells, true
}

// mostNames is how many numbers' names are kept; a log has a few dozen.
const mostNames = 4096

var asked struct {
	sync.Mutex
	names map[string]string
}

// name is a number's name in the OS's own headers.
func name(key string) string {
	asked.Lock()
	defer asked.Unlock()
	if n, known := asked.names[key]; known {
		return n
	}
	n := lookUp(key)
	if asked.names == nil {
		asked.names = map[string]string{}
	}
	if len(asked.names) < mostNames {
		asked.names[key] = n
	}
	return n
}

// lookUp is the OS's own name of a number, from the table that is made of its
// headers, else from the one by hand; empty for a number that has none.
func lookUp(key string) string {
	for _, table := range []string{names, moreNames} {
		if cells, ok := row(table, key, 1); ok {
			return cells[0]
		}
	}
	return ""
}

// Named gives the number that a name of the OS's headers, in capitals, stands
// for: a system error, or, where status is true, the 32 bits of an HRESULT or
// NTSTATUS.
func Named(name string) (value int64, status, ok bool) {
	for _, table := range []string{names, moreNames} {
		at := strings.Index(table, "|"+name+"\n")
		if at < 0 {
			continue
		}
		key := table[strings.LastIndexByte(table[:at], '\n')+1 : at]
		if len(key) < 2 {
			return 0, false, false
		}
		base := 16
		if key[0] == 'w' {
			base = 10
		}
		n, err := strconv.ParseInt(key[1:], base, 64)
		return n, key[0] != 'w', err == nil
	}
	return 0, false, false
}
