// Package fleetlogs makes the setup logs of a made-up fleet: a folder or a zip
// for each machine, causes that are known, and all that differs from machine to
// machine: for the demo, for tests of what is one cause, and for measuring.
//
// The same plan gives the same logs, byte for byte.
package fleetlogs

import (
	"archive/zip"
	"bytes"
	"cmp"
	_ "embed"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"hollowkey/demo/enginelog"
)

//go:embed causes.yaml
var causesText []byte

// A Cause is one that setups of the fleet may fail from.
type Cause struct {
	Name    string   `yaml:"name"`
	Known   bool     `yaml:"known"`   // the folding rules were looked at with it
	Form    string   `yaml:"form"`    // of the log: engine, chain or vendor
	Action  string   `yaml:"action"`  // that breaks, of an engine's log
	Product string   `yaml:"product"` // that alone fails so; empty: any
	Lines   []string `yaml:"lines"`
}

// Causes are all that there are.
func Causes() ([]Cause, error) {
	var list []Cause
	return list, yaml.Unmarshal(causesText, &list)
}

// A Plan says what fleet is made.
type Plan struct {
	Machines int
	Logs     int
	Worked   int       // of a hundred logs tell of a setup that worked
	Zips     int       // of a hundred machines have a zip in place of a folder
	Least    int       // bytes of the smallest log, about
	Most     int       // bytes of the largest, about; sizes between are spread by their order of size
	From     time.Time // of the first day
	Days     int       // that the logs are spread over
	Seed     uint64
	Causes   []Cause // empty: all
	Product  string  // all logs are of it; empty: of any
	Name     string  // that logs begin with; empty: setup
}

// A Log is one that was made.
type Log struct {
	Path    string // below the fleet's folder, with ! before the name in a zip
	Machine string
	Product string
	Cause   string // its name; empty where the setup worked
	Day     time.Time
}

type product struct{ name, version, code, maker, folder string }

var products = []product{
	{"Berthline Planner", "3.4.0", "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C11}", "Saltmarsh Quay Software", "Berthline"},
	{"Tidebook Desk", "2.8.1", "{5D0B1C77-2E9A-4B6B-8C35-0A6C2E5F7D22}", "Saltmarsh Quay Software", "Tidebook"},
	{"Pilot Roster", "5.2.0", "{A7C41E90-5B3D-4E8F-9A26-1D0F8B6C3E33}", "Nine Fathom Systems", "Pilot"},
	{"Wharfage Ledger", "7.0.1", "{3B8E1C70-9D2F-4A61-8C55-7E0F1A2B3C44}", "Nine Fathom Systems", "Wharfage"},
	{"Fairway Radio", "2.1.0", "{9D52B6E8-4C1F-4B7A-8E03-6A5C2F1D7B55}", "Nine Fathom Systems", "Fairway"},
}

var builds = []string{"19045", "22631", "22631", "26100"}

var users = []string{"mwhitlow", "j.oakes", "o'hara", "tess moor", "r.penhallow", "anna lisa", "d-quill", "svc deploy"}

// A desk is one machine with who works at it.
type desk struct{ name, user, sid, build string }

// deskOf is a machine with its user. Beyond the names that there are, users
// have a number behind theirs.
func deskOf(n int) desk {
	user := users[n%len(users)]
	if n >= len(users) {
		user = fmt.Sprintf("%s%d", user, n)
	}
	return desk{fmt.Sprintf("ELLERY-D%02d", n+1), user,
		fmt.Sprintf("S-1-5-21-2104885761-1177238915-682003330-%d", 1100+n), builds[n%len(builds)]}
}

// Write makes a fleet below dir and tells what it made.
func Write(dir string, p Plan) ([]Log, error) {
	causes := p.Causes
	if len(causes) == 0 {
		var err error
		if causes, err = Causes(); err != nil {
			return nil, err
		}
	}
	r := rand.New(rand.NewPCG(p.Seed, 17))
	zips := map[int]*zip.Writer{}
	files := map[int]*os.File{}
	var made []Log
	for n := range p.Logs {
		at := r.IntN(p.Machines)
		if n < p.Machines {
			at = n // each has one
		}
		d := deskOf(at)
		day := p.From.AddDate(0, 0, r.IntN(max(p.Days, 1))).Add(time.Duration(8*3600+r.IntN(9*3600)) * time.Second)
		c := &causes[r.IntN(len(causes))]
		if r.IntN(100) < p.Worked {
			c = nil
		}
		size := int(math.Exp(math.Log(float64(max(p.Least, 1))) +
			r.Float64()*math.Log(float64(max(p.Most, p.Least, 1))/float64(max(p.Least, 1)))))
		prod := products[r.IntN(len(products))]
		if p.Product != "" {
			prod = productOf(p.Product)
		}
		text, name, err := one(d, c, prod, day, size, r)
		if err != nil {
			return nil, err
		}
		l := Log{Machine: d.name, Product: name, Day: day}
		if c != nil {
			l.Cause = c.Name
		}
		file := fmt.Sprintf("%s-%05d.log", cmp.Or(p.Name, "setup"), n)
		if at%100 < p.Zips {
			z := zips[at]
			if z == nil {
				f, err := os.Create(filepath.Join(dir, d.name+".zip"))
				if err != nil {
					return nil, err
				}
				files[at], z = f, zip.NewWriter(f)
				zips[at] = z
			}
			l.Path = d.name + ".zip!" + file
			w, err := z.CreateHeader(&zip.FileHeader{Name: file, Method: zip.Deflate, Modified: day})
			if err != nil {
				return nil, err
			}
			if _, err := w.Write(text); err != nil {
				return nil, err
			}
		} else {
			l.Path = d.name + "/" + file
			full := filepath.Join(dir, d.name, file)
			if err := os.MkdirAll(filepath.Dir(full), 0o755); err != nil {
				return nil, err
			}
			if err := os.WriteFile(full, text, 0o644); err != nil {
				return nil, err
			}
			if err := os.Chtimes(full, day, day); err != nil {
				return nil, err
			}
		}
		made = append(made, l)
	}
	for at, z := range zips {
		if err := z.Close(); err != nil {
			return nil, err
		}
		if err := files[at].Close(); err != nil {
			return nil, err
		}
	}
	return made, nil
}

// one makes one log of about size bytes, and tells the product that it names.
func one(d desk, c *Cause, p product, day time.Time, size int, r *rand.Rand) (text []byte, name string, err error) {
	form := "engine"
	var lines []string
	if c != nil {
		form = c.Form
		if c.Product != "" {
			p = productOf(c.Product)
		}
		lines = filled(c.Lines, d, day, r)
	}
	var b bytes.Buffer
	switch form {
	case "engine":
		s := enginelog.Setup{Product: p.name, Version: p.version, Code: p.code, Manufacturer: p.maker,
			Folder: p.folder, Package: `C:\Deploy\` + p.folder + `.msi`,
			User: d.user, SID: d.sid, Computer: d.name, Build: d.build, Started: day, Files: max(2, (size-frame)/bytesPerFile)}
		if form == "engine" && c != nil {
			s.Failure = enginelog.Failure{Action: c.Action, Lines: lines, Wait: time.Duration(r.IntN(90)) * time.Second}
		}
		if c != nil && (c.Action == "StartServices" || c.Action == "InstallServices") {
			s.Services = []enginelog.Service{{Name: "BerthSync", Display: "Berth Sync"}}
		}
		err = enginelog.Write(&b, s)
	case "chain":
		chain(&b, d, p, lines, day, size, r)
	case "vendor":
		vendor(&b, p, lines, day, size)
	default:
		err = fmt.Errorf("the cause %s has no form %q", c.Name, form)
	}
	return b.Bytes(), p.name, err
}

// productOf is a product by its name; one that is not listed is made up, so
// that a plan may name any.
func productOf(name string) product {
	for _, p := range products {
		if p.name == name {
			return p
		}
	}
	return product{name, "4.0.0", "{C3E0A5D1-7B24-4F6E-9C18-2A4D6F8B0E66}", "Saltmarsh Quay Software", "Suite"}
}

// filled puts what is a machine's and a run's own into lines.
func filled(lines []string, d desk, day time.Time, r *rand.Rand) []string {
	home := `C:\Users\` + d.user
	temp := home + `\AppData\Local\Temp`
	if r.IntN(4) == 0 {
		short := strings.ToUpper(strings.NewReplacer(" ", "", ".", "", "'", "").Replace(d.user))
		temp = `C:\Users\` + short[:min(6, len(short))] + `~1\AppData\Local\Temp`
	}
	guid := fmt.Sprintf("{%08X-%04X-4%03X-8%03X-%012X}", r.Uint32(), r.IntN(1<<16), r.IntN(1<<12), r.IntN(1<<12), r.Int64N(1<<48))
	fill := strings.NewReplacer("{user}", d.user, "{host}", d.name, "{sid}", d.sid, "{home}", home, "{temp}", temp,
		"{guid}", guid, "{pid}", fmt.Sprint(1000+r.IntN(30000)),
		"{date}", day.Format("2006-01-02"), "{clock}", day.Format("15:04:05"), "{n}", fmt.Sprint(1000+r.IntN(9000)),
		"{drive}", []string{"D", "E", "F", "R"}[r.IntN(4)])
	out := make([]string, len(lines))
	for i, l := range lines {
		out[i] = fill.Replace(l)
	}
	return out
}

const (
	frame        = 30_000 // bytes of an engine's log of no files
	bytesPerFile = 1940   // what one installed file adds to it
)

// chain writes a bootstrapper's log.
func chain(w io.Writer, d desk, p product, lines []string, at time.Time, size int, r *rand.Rand) {
	line := func(text string) {
		at = at.Add(40 * time.Millisecond)
		fmt.Fprintf(w, "[0B1C:1F04][%s]%s\r\n", at.Format("2006-01-02T15:04:05"), text)
	}
	line(fmt.Sprintf("i001: Setup engine v1.4.0, Windows v10.0 (Build %s: Service Pack 0), path: "+
		"C:\\Windows\\Temp\\{%08X-1D2C-4A5B-9E0F-7C1A2B3D4E5F}\\.cr\\suite.exe", d.build, r.Uint32()))
	line("i000: Setting string variable 'BundleName' to value '" + p.name + "'")
	line("i000: Setting version variable 'BundleVersion' to value '" + p.version + ".0'")
	line("i100: Detect begin, 4 packages")
	for n := 0; n < (size-1500)/110; n++ {
		line(fmt.Sprintf("i103: Detected related package: {A7C41E90-5B3D-4E8F-9A26-1D0F8B%06X}, scope: "+
			"PerMachine, version: 2.%d.0.0, language: 0 operation: MajorUpgrade", n, n%50))
	}
	line("i199: Detect complete, result: 0x0")
	line("i300: Apply begin")
	code := ""
	for _, l := range lines {
		line(l)
		if _, rest, ok := strings.Cut(l, "result: "); ok {
			code, _, _ = strings.Cut(rest, ",")
		}
	}
	line("i399: Apply complete, result: " + code + ", restart: None, ba requested restart:  No")
}

// vendor writes the log of a setup of a vendor's own.
func vendor(w io.Writer, p product, lines []string, at time.Time, size int) {
	line := func(text string) {
		at = at.Add(15 * time.Millisecond)
		fmt.Fprintf(w, "%s %s\n", at.Format("2006-01-02 15:04:05,000"), text)
	}
	line("INFO  [main] setup.start - " + p.name + " " + p.version + " setup, by " + p.maker)
	for n := 0; n < (size-500)/105; n++ {
		line(fmt.Sprintf(`INFO  [main] setup.copy - tile%05d.dll copied to C:\Program Files\%s (%d bytes)`, n, p.folder, 4000+n*37%90000))
	}
	for _, l := range lines {
		line(l)
	}
}
