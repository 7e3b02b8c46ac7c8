// This file settles what a call does not say: from the environment, then from
// the user's file. The command shows each value with where it is from, since
// that is asked when something surprises.

package cli

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"
	"go.yaml.in/yaml/v3"

	"hollowkey/core/bounded"
	"hollowkey/core/why/signs"
)

// A configuration is what holds where a call says nothing. The file has the
// same names.
type configuration struct {
	Machine string `yaml:"machine"`  // a twin's folder, or live
	Signs   string `yaml:"signs"`    // folder of the site's own signs
	Cases   string `yaml:"cases"`    // folder in which cases lie
	Store   string `yaml:"store"`    // of many logs, which why and fix ask
	SiteKey string `yaml:"site-key"` // file with the key of pseudonyms
	Width   int    `yaml:"width"`    // columns
	Color   *bool  `yaml:"color"`    // nil: where the terminal has them
}

const maxConfig = 64 << 10 // bytes; it has seven lines

// configPath is where the OS keeps a user's settings of programs.
func configPath() string {
	if at := os.Getenv("HOLLOWKEY_CONFIG"); at != "" {
		return at
	}
	dir, err := os.UserConfigDir()
	if err != nil {
		return ""
	}
	return filepath.Join(dir, "hollowkey", "config.yaml")
}

// readConfig reads the user's file; without one everything is empty.
func readConfig() (c configuration, err error) {
	name := configPath()
	if name == "" {
		return c, nil
	}
	b, err := bounded.ReadFile(name, maxConfig)
	if errors.Is(err, fs.ErrNotExist) {
		return c, nil
	}
	if err != nil {
		return c, err
	}
	d := yaml.NewDecoder(bytes.NewReader(b))
	d.KnownFields(true)
	if err := d.Decode(&c); err != nil && !errors.Is(err, io.EOF) {
		return c, wrongCall("%s: %v\nhint: it may have machine, signs, cases, store, site-key, width and color", name, err)
	}
	return c, nil
}

// A setting is one value with where it is from.
type setting struct {
	Name  string `json:"name"`
	Value string `json:"value"` // empty: none
	From  string `json:"from"`  // an option, a variable, the file, or the default
}

// settle fills in what the call does not say: from the environment, then from
// the file.
func (a *app) settle(c *cobra.Command) error {
	file, err := readConfig()
	if err != nil {
		return err
	}
	// The call goes before the environment, that before the file, that before
	// what is usual.
	take := func(name, flag, variable, own, elsewise string) string {
		s := setting{Name: name, Value: elsewise, From: "default"}
		switch f := c.Flags().Lookup(flag); {
		case f != nil && f.Changed:
			s.Value, s.From = f.Value.String(), "--"+flag
		case variable != "" && os.Getenv(variable) != "":
			s.Value, s.From = os.Getenv(variable), variable
		case own != "":
			s.Value, s.From = own, configPath()
		}
		a.settings = append(a.settings, s)
		return s.Value
	}
	a.machine = take("machine", "machine", "HOLLOWKEY_MACHINE", file.Machine, "")
	if take("signs", "signs", signs.FolderVariable, file.Signs, signs.Folder("")) == file.Signs && file.Signs != "" {
		if err := os.Setenv(signs.FolderVariable, file.Signs); err != nil { // from where all that reads signs takes it
			return err
		}
	}
	a.cases = take("cases", "", "HOLLOWKEY_CASES", file.Cases, "")
	if a.cases != "" && a.caseDir != "" && !strings.ContainsAny(a.caseDir, `/\`) { // a name, not a path
		if _, err := os.Stat(a.caseDir); err != nil {
			a.caseDir = filepath.Join(a.cases, a.caseDir)
		}
	}
	if at := take("store", "store", "HOLLOWKEY_STORE", file.Store, ""); at != "" {
		a.store = at
		if f := c.Flags().Lookup("store"); f != nil && !f.Changed {
			if err := f.Value.Set(at); err != nil {
				return err
			}
		}
	}
	a.siteKey = take("site-key", "", "HOLLOWKEY_SITE_KEY", file.SiteKey, "")
	width := 0
	if file.Width != 0 {
		width = file.Width
	}
	text := take("width", "width", "HOLLOWKEY_WIDTH", map[bool]string{true: strconv.Itoa(width)}[width > 0], "0")
	if a.width, err = strconv.Atoi(text); err != nil {
		return wrongCall("HOLLOWKEY_WIDTH %q is no number", text)
	}
	// The variable says that there are no colours, the file that there are
	// some.
	own := ""
	if file.Color != nil {
		own = strconv.FormatBool(!*file.Color)
	}
	a.noColor = take("no-color", "no-color", "NO_COLOR", own, "false") != "false"
	return nil
}

// newConfig is the command that shows the settings and where each is from.
func (a *app) newConfig() *cobra.Command {
	return &cobra.Command{
		Use:   "config",
		Short: "shows the settings, and where each is from",
		Long: `Shows what holds where a call says nothing: machine, signs, cases, width, colour. An option
wins over a variable of the environment, that over the file, which you write yourself:

  machine: ELLERY-D07
  signs: /srv/signs
  cases: /srv/cases
  width: 100
  color: false

The variables are HOLLOWKEY_MACHINE, HOLLOWKEY_SIGNS, HOLLOWKEY_CASES, HOLLOWKEY_WIDTH and
NO_COLOR; HOLLOWKEY_CONFIG names another file. It reads only. Exit status: 0 shown, 2 wrong
call.`,
		Example: "  hollowkey config",
		Args:    cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			if a.json {
				return printJSON(a.out, struct {
					Schema   string    `json:"schema"`
					File     string    `json:"file"`
					Settings []setting `json:"settings"`
				}{"hollowkey.config/1", configPath(), a.settings})
			}
			fmt.Fprintf(a.out, "file  %s\n\n", configPath())
			rows := [][]string{{"setting", "value", "from"}}
			for _, s := range a.settings {
				value := s.Value
				if value == "" {
					value = "none"
				}
				rows = append(rows, []string{s.Name, value, s.From})
			}
			return a.printGrid(rows)
		},
	}
}
