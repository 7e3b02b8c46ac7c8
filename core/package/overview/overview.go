// Package overview summarizes a package, transform or patch.
package overview

import (
	"errors"
	"maps"
	"slices"
	"strconv"
	"strings"

	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
)

// An Overview is what a technician asks of a package first.
type Overview struct {
	Format      installdb.Format `json:"format"`                 // package, patch or transform
	Size        int64            `json:"size"`                   // bytes
	Product     string           `json:"product,omitempty"`      // ProductName
	Version     string           `json:"version,omitempty"`      // ProductVersion
	Vendor      string           `json:"vendor,omitempty"`       // Manufacturer
	ProductCode string           `json:"product_code,omitempty"` // with braces
	UpgradeCode string           `json:"upgrade_code,omitempty"` // with braces; empty when it has none
	PackageCode string           `json:"package_code,omitempty"` // with braces
	Title       string           `json:"title,omitempty"`        // of the summary information
	Comments    string           `json:"comments,omitempty"`     // of the summary information
	Platform    string           `json:"platform,omitempty"`     // as the summary information names it
	Languages   []string         `json:"languages,omitempty"`    // language numbers
	Schema      int              `json:"engine,omitempty"`       // the least of the installer: 200 for 2.0
	CodePage    int              `json:"code_page"`              // of the strings; 0 is neutral
	Signed      bool             `json:"signed"`                 // a signature is in the file; whether it holds is not told
	Elevation   string           `json:"elevation,omitempty"`    // who may install it, in words
	Tables      int              `json:"tables"`                 // how many it has
	Features    int              `json:"features"`               // rows of that table
	Components  int              `json:"components"`             // rows of that table
	Files       int              `json:"files"`                  // rows of that table
	FileBytes   int64            `json:"file_bytes"`             // unpacked, together
	Registry    int              `json:"registry"`               // rows of that table
	Services    []string         `json:"services,omitempty"`     // names of those that it installs
	Cabinets    []Cabinet        `json:"cabinets,omitempty"`     // where its files lie
	Folder      string           `json:"folder,omitempty"`       // where it installs to, as far as that can be told
	Custom      int              `json:"custom_actions"`         // custom actions
	Needs       []string         `json:"needs,omitempty"`        // public properties that conditions ask for and nothing sets
	Gates       []gates.Gate     `json:"gates,omitempty"`        // worked out for the machine, when there is one
	Embedded    []string         `json:"embedded,omitempty"`     // transforms in the file
	Changes     []TableChange    `json:"changes,omitempty"`      // of a transform
	Patch       *Patch           `json:"patch,omitempty"`        // nil when it is no patch
}

// A Cabinet is where files lie: in the package, beside it, or loose.
type Cabinet struct {
	Disk     int    `json:"disk"`              // media number
	Name     string `json:"name"`              // as the package names it
	Embedded bool   `json:"embedded"`          // inside of the package
	Size     int64  `json:"size,omitempty"`    // bytes; 0 when it lies beside
	Missing  bool   `json:"missing,omitempty"` // embedded by name, but not there
}

// A TableChange counts what a transform does to one table. Without the package
// that it is for, a new row and one that is overwritten look alike.
type TableChange struct {
	Table   string `json:"table"`          // which one
	Put     int    `json:"put"`            // rows added or overwritten
	Changed int    `json:"changed"`        // rows with other cells
	Removed int    `json:"removed"`        // rows taken away
	Note    string `json:"note,omitempty"` // added, dropped
}

// changes reads a transform by the columns of the engine's own tables.
func (o *Overview) changes(db *installdb.Database) error {
	t, err := installdb.ReadTransform(db, installdb.StandardColumns)
	if errors.Is(err, installdb.ErrNoTable) { // one of the vendor's own
		o.Changes = []TableChange{{Note: err.Error() + "; package compare shows it against the package"}}
		return nil
	}
	if err != nil {
		return err
	}
	at := map[string]int{}
	row := func(table string) *TableChange {
		if _, ok := at[table]; !ok {
			at[table] = len(o.Changes)
			o.Changes = append(o.Changes, TableChange{Table: table})
		}
		return &o.Changes[at[table]]
	}
	for _, name := range t.Dropped {
		row(name).Note = "dropped"
	}
	for _, name := range slices.Sorted(maps.Keys(t.Added)) {
		row(name).Note = "added"
	}
	for _, c := range t.Changes {
		switch r := row(c.Table); c.Op {
		case installdb.Put:
			r.Put++
		case installdb.Modify:
			r.Changed++
		default:
			r.Removed++
		}
	}
	return nil
}

// A Patch is what a patch says of itself.
type Patch struct {
	Code       string   `json:"code"`                 // with braces
	Targets    []string `json:"targets"`              // product codes
	Obsoletes  []string `json:"obsoletes,omitempty"`  // patch codes that it replaces
	Transforms []string `json:"transforms,omitempty"` // names of those inside
	Family     []string `json:"family,omitempty"`     // family and sequence
	Name       string   `json:"name,omitempty"`       // of the summary information
}

// The bits of the word count. Source: the platform SDK, "Word Count Summary".
const noElevation = 8

// Of sums a database up. w may be nil for transforms and patches.
func Of(db *installdb.Database, size int64, w *gates.World) (Overview, error) {
	o := Overview{Format: db.Format, Size: size, CodePage: db.CodePage(), Signed: db.Signed(), Tables: len(db.Tables()),
		Embedded: db.Storages()}
	s, err := db.Summary()
	if err != nil {
		return o, err
	}
	o.Title, o.Comments = s.Text(installdb.SummarySubject), s.Text(installdb.SummaryComments)
	if db.Format == installdb.Patch {
		return o, o.patch(db)
	}
	o.Platform, o.Languages, o.Schema = s.Platform(), s.Languages(), s.Number(installdb.SummaryPages)
	o.PackageCode = s.Text(installdb.SummaryRevision)
	if db.Format == installdb.Transform {
		return o, o.changes(db)
	}
	if s.Number(installdb.SummaryWords)&noElevation != 0 {
		o.Elevation = "none: installs for one user"
	} else {
		o.Elevation = "administrator"
	}
	get := func(name string) string {
		v, _ := property(db, name)
		return v
	}
	o.Product, o.Version, o.Vendor = get("ProductName"), get("ProductVersion"), get("Manufacturer")
	o.ProductCode, o.UpgradeCode = get("ProductCode"), get("UpgradeCode")
	o.Features, o.Components, o.Registry, o.Custom = db.RowCount("Feature"), db.RowCount("Component"), db.RowCount("Registry"),
		db.RowCount("CustomAction")
	if err := o.files(db); err != nil {
		return o, err
	}
	if o.Gates, err = gates.Find(w); err != nil {
		return o, err
	}
	o.needs()
	return o, nil
}

// property looks one property up, and whether it is there at all.
func property(db *installdb.Database, name string) (string, bool) {
	all, _ := db.Properties() // a damaged table is told where the gates are worked out
	v, ok := all[name]
	return v, ok
}

// files adds up what the package installs.
func (o *Overview) files(db *installdb.Database) error {
	t, err := db.TableOrEmpty("File")
	if err != nil {
		return err
	}
	o.Files = len(t.Rows)
	for _, r := range t.Rows {
		o.FileBytes += int64(t.Get(r, "FileSize").Int)
	}
	media, err := db.TableOrEmpty("Media")
	if err != nil {
		return err
	}
	for _, r := range media.Rows {
		c := Cabinet{Disk: int(media.Get(r, "DiskId").Int), Name: media.Get(r, "Cabinet").Text}
		if inner, ok := strings.CutPrefix(c.Name, "#"); ok {
			c.Name, c.Embedded, c.Missing = inner, true, true
			for _, s := range db.Streams() {
				if s.Name == inner && !s.Table {
					c.Size, c.Missing = s.Size, false
				}
			}
		}
		if c.Name != "" {
			o.Cabinets = append(o.Cabinets, c)
		}
	}
	services, err := db.TableOrEmpty("ServiceInstall")
	if err != nil {
		return err
	}
	for _, r := range services.Rows {
		o.Services = append(o.Services, services.Get(r, "Name").Text)
	}
	return nil
}

// needs lists the properties that gates ask for and that nothing in the package
// or on the machine sets.
func (o *Overview) needs() {
	for _, g := range o.Gates {
		for _, r := range g.Why {
			if g.Answer == gates.Fails && r.Origin == gates.Nowhere && r.Symbol == strings.ToUpper(r.Symbol) && !slices.Contains(o.Needs, r.Symbol) {
				o.Needs = append(o.Needs, r.Symbol)
			}
		}
	}
}

// patch tells of a patch which products it is for and what it replaces.
func (o *Overview) patch(db *installdb.Database) error {
	info, err := db.PatchInfo()
	if err != nil {
		return err
	}
	p := &Patch{Code: info.Code, Targets: info.Targets, Obsoletes: info.Obsoletes}
	for _, t := range info.Transforms {
		if !strings.HasPrefix(t, "#") {
			p.Transforms = append(p.Transforms, t)
		}
	}
	families, err := db.TableOrEmpty("MsiPatchSequence")
	if err != nil {
		return err
	}
	for _, r := range families.Rows {
		p.Family = append(p.Family, families.Get(r, "PatchFamily").Text+" "+families.Get(r, "Sequence").Text)
	}
	about, err := db.TableOrEmpty("MsiPatchMetadata")
	if err != nil {
		return err
	}
	for _, r := range about.Rows {
		switch about.Get(r, "Property").Text {
		case "DisplayName":
			p.Name = about.Get(r, "Value").Text
		case "ManufacturerName":
			o.Vendor = about.Get(r, "Value").Text
		case "TargetProductName":
			o.Product = about.Get(r, "Value").Text
		}
	}
	o.Patch = p
	return nil
}

// SchemaWords says which engine a schema number asks for.
func SchemaWords(n int) string {
	if n == 0 {
		return ""
	}
	return strconv.Itoa(n/100) + "." + strconv.Itoa(n%100/10)
}
