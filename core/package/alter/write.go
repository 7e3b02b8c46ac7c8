// This file writes transforms and copies, whole or not at all.

package alter

import (
	"crypto/sha256"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"hollowkey/core/bounded"
	"hollowkey/core/package/installdb"
)

// What a transform checks before it is used. Source: the platform SDK,
// "Character Count Summary".
const checkProduct = 0x00000002 // the product code must be the package's

// Transform makes the transform that leads from one database to another. Both
// stay as they are; it fails where a table cannot be read, or a text does not
// fit the code page.
func Transform(from, to *installdb.Database) (*installdb.Database, *installdb.Difference, error) {
	d, err := installdb.Compare(from, to)
	if err != nil {
		return nil, nil, err
	}
	old, err := from.Summary()
	if err != nil {
		return nil, nil, err
	}
	product := func(db *installdb.Database) string {
		return property(db, "ProductCode") + property(db, "ProductVersion")
	}
	s := &installdb.Summary{CodePage: old.CodePage}
	s.SetText(installdb.SummaryTitle, "Transform")
	s.SetText(installdb.SummaryTemplate, old.Text(installdb.SummaryTemplate))
	s.SetText(installdb.SummaryLastAuthor, old.Text(installdb.SummaryTemplate))
	s.SetText(installdb.SummaryRevision, product(from)+";"+product(to)+";"+property(from, "UpgradeCode"))
	s.SetNumber(installdb.SummaryPages, old.Number(installdb.SummaryPages))
	s.SetNumber(installdb.SummaryCharacters, checkProduct<<16)
	s.SetText(installdb.SummaryApplication, "Hollow Key")
	t, err := installdb.MakeTransform(d, to.CodePage(), s)
	return t, d, err
}

// property looks one property up.
func property(db *installdb.Database, name string) string {
	all, _ := db.Properties() // a damaged table ends the alteration itself
	return all[name]
}

// FreshCode gives an altered copy a package code of its own, as the engine
// takes two files of one code for the same.
func FreshCode(db *installdb.Database) (code string, err error) {
	code = newCode()
	return code, SetCode(db, code)
}

// ErrThere says that a file to be written is there already.
var ErrThere = errors.New("the file is there already")

// Save writes a database to a file through a new one beside it, so that it is
// whole or not there at all. One that is there is kept unless replace is set.
func Save(db *installdb.Database, path string, replace bool) error {
	if _, err := os.Lstat(path); err == nil && !replace {
		return fmt.Errorf("%s: %w\nhint: give another name, or --replace", path, ErrThere)
	} else if err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return SaveOver(db, path, func() {})
}

// SaveOver is Save in place of whatever is there. release is called before the
// new file takes its place: the OS may keep a file that is open from being
// replaced, and the database's own source may be the one.
func SaveOver(db *installdb.Database, path string, release func()) error {
	f, err := os.CreateTemp(filepath.Dir(path), ".hollowkey-*")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	if err := db.Write(f); err != nil {
		f.Close()
		return err
	}
	if err := errors.Join(f.Chmod(0o644), f.Close()); err != nil {
		return err
	}
	release()
	return os.Rename(f.Name(), path)
}

// TransformName is the name that a package's transform gets when none is given:
// in the present folder, as the package's may be read-only.
func TransformName(packagePath string) string {
	base := filepath.Base(packagePath)
	return strings.TrimSuffix(base, filepath.Ext(base)) + ".mst"
}

// CopyName is where an altered copy of a package goes when nobody says.
func CopyName(packagePath string) string {
	base := filepath.Base(packagePath)
	return strings.TrimSuffix(base, filepath.Ext(base)) + "-altered" + filepath.Ext(base)
}

// Bytes gives a small database, such as a transform, as it stands in a file of
// at most limit bytes. More than limit bytes are an error.
func Bytes(db *installdb.Database, limit int64) ([]byte, error) {
	f, err := os.CreateTemp("", "hollowkey-*")
	if err != nil {
		return nil, err
	}
	defer os.Remove(f.Name())
	defer f.Close()
	if err := db.Write(f); err != nil {
		return nil, err
	}
	if info, err := f.Stat(); err != nil || info.Size() > limit {
		return nil, errors.Join(err, fmt.Errorf("the transform is larger than %d bytes", limit))
	}
	return bounded.ReadFile(f.Name(), limit)
}

// DerivedCode makes the package code of an altered copy out of the package's
// and the edits, so that the same edits give the same code.
func DerivedCode(db *installdb.Database, edits string) (string, error) {
	s, err := db.Summary()
	if err != nil {
		return "", err
	}
	sum := sha256.Sum256([]byte(s.Text(installdb.SummaryRevision) + "\n" + edits))
	return codeOf(sum[:16]), nil
}

// SetCode gives a package its code.
func SetCode(db *installdb.Database, code string) error {
	s, err := db.Summary()
	if err != nil {
		return err
	}
	s.SetText(installdb.SummaryRevision, code)
	return nil
}
