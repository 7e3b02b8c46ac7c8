// This file reads what a site knows itself: its signs, and lists of a vendor's
// numbers.

package signs

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"hollowkey/core/logs/lazy"
	"hollowkey/core/step"
)

// FolderVariable names the environment variable that holds a site's folder.
const FolderVariable = "HOLLOWKEY_SIGNS"

// StandingFolder is where a site's signs lie on a machine that is set up for
// it, so that nobody has to name them.
func StandingFolder() string {
	if runtime.GOOS == "windows" {
		return filepath.Join(cmp.Or(os.Getenv("ProgramData"), `C:\ProgramData`), "Hollow Key", "signs")
	}
	return "/etc/hollowkey/signs"
}

// Folder is the site's folder that counts: the one that was given, that of the
// environment variable, or the standing one where it is there; empty when a
// site has none.
func Folder(given string) string {
	if folder := cmp.Or(given, os.Getenv(FolderVariable)); folder != "" {
		return folder
	}
	if i, err := os.Stat(StandingFolder()); err == nil && i.IsDir() {
		return StandingFolder()
	}
	return ""
}

// A numberList is a file of what a vendor's numbers mean: plain data for
// numbers that only their maker can explain.
type numberList struct {
	Program string        `yaml:"program"` // whose numbers they are, in words
	Product Pattern       `yaml:"product"` // of setups whose product has such a name; left out: of all
	Codes   []numberEntry `yaml:"codes"`
}

// A numberEntry is one number.
type numberEntry struct {
	Number      *int          `yaml:"number"`
	Meaning     string        `yaml:"meaning"`     // in a few words
	Class       string        `yaml:"class"`       // of the cause
	Strength    float64       `yaml:"strength"`    // as a sign's
	Subject     Subject       `yaml:"subject"`     // as a sign's
	Explanation string        `yaml:"explanation"` // in whole sentences; the meaning when left out
	Confirm     []Confirm     `yaml:"confirm"`     // as a sign's
	Remedies    []step.Remedy `yaml:"remedies"`    // as a sign's
}

// beforeNumber are the words that make a number in a text a code.
const beforeNumber = `(?:error|err|errno|code|status|exit\w*|result|return\w*|rc|ended with|fehler\w*|erreur|errore|błąd|chyba|hata|fel|fout)`

// What stands between the words of a site's text becomes one dash in the sign's
// identifier.
var noLetters = lazy.MustCompile(`[^a-z0-9]+`)

// parseNumbers makes signs of a list of numbers.
func parseNumbers(name string, b []byte) ([]*Sign, error) {
	dec := yaml.NewDecoder(bytes.NewReader(b))
	dec.KnownFields(true)
	var list numberList
	if err := dec.Decode(&list); err != nil {
		return nil, fileError(name, err)
	}
	if list.Program == "" || len(list.Codes) == 0 {
		return nil, fmt.Errorf("%s: program or codes is missing\nhint: a file with codes says whose they are, and lists them", name)
	}
	if err := list.Product.Check(); err != nil {
		return nil, fmt.Errorf("%s: product: %w", name, err)
	}
	of := strings.Trim(noLetters.ReplaceAllString(strings.ToLower(list.Program), "-"), "-")
	var signs []*Sign
	for i, e := range list.Codes {
		s, err := e.sign(list, of)
		if err != nil {
			return nil, fmt.Errorf("%s: code %d: %w", name, i+1, err)
		}
		s.from = name + ": sign " + s.ID
		if err := s.check(); err != nil {
			return nil, fmt.Errorf("%s: %w", s.from, err)
		}
		signs = append(signs, s)
	}
	return signs, nil
}

// sign makes a sign of an entry: it shows when a setup ends with the number,
// and when a line gives it as a code.
func (e numberEntry) sign(list numberList, of string) (*Sign, error) {
	if e.Number == nil || e.Meaning == "" {
		return nil, errors.New("number or meaning is missing")
	}
	n := *e.Number
	written := fmt.Sprintf("%d", n)
	if n < 0 || n > 9 {
		written = fmt.Sprintf("(?:%d|0x0*%x)", n, uint32(int32(n)))
	}
	said := NewPattern(`\b` + beforeNumber + `\W{1,4}(?:code\W{1,3})?` + written + `\b`)
	line := fmt.Sprintf("%s: error %d", list.Program, n)
	return &Sign{
		ID: fmt.Sprintf("%s-%d", of, n), Title: e.Meaning, Class: e.Class, Strength: cmp.Or(e.Strength, defaultStrength),
		Seen:        []Seen{{Exit: []int{n}, Product: list.Product}, {Text: []Pattern{said}, Product: list.Product}},
		Message:     n,
		Subject:     e.Subject,
		Explanation: cmp.Or(e.Explanation, fmt.Sprintf("%d of %s means: %s.", n, list.Program, strings.TrimRight(e.Meaning, "."))),
		Confirm:     e.Confirm, Remedies: e.Remedies,
		Tests:     Tests{Match: []string{line}, NearMiss: []string{strings.Replace(line, "error", "copied", 1)}},
		OfProgram: list.Program,
	}, nil
}

// ForNumberOf lists what a site's own signs say of a number, those of its lists
// of numbers and those that a message or exit code leads to.
func ForNumberOf(folder string, n int) (known []Known, err error) {
	if folder = Folder(folder); folder == "" {
		return nil, nil
	}
	site, err := WithSite(folder)
	if err != nil {
		return nil, err
	}
	if n > math.MaxInt32 { // what is negative may be written without its sign
		n = int(int32(uint32(n)))
	}
	for _, s := range site.Signs {
		if !s.Own() || s.Message != n &&
			!slices.ContainsFunc(s.Seen, func(w Seen) bool { return slices.Contains(w.Exit, n) || slices.Contains(w.Message, n) }) {
			continue
		}
		k := Known{ID: s.ID, Class: s.Class, Program: s.OfProgram}
		k.Title, _ = Fill(s.Title, nil)
		k.Explanation, _ = Fill(s.Explanation, nil)
		for _, r := range s.Remedies {
			title, _ := Fill(r.Title, nil)
			k.Remedies = append(k.Remedies, title)
		}
		known = append(known, k)
	}
	return known, nil
}
