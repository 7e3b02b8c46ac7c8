// This file lists what is inside of a package.

package unpack

import (
	"fmt"
	"io"
	"os"
	"path"
	"strings"

	"hollowkey/core/package/compound"
	"hollowkey/core/package/installdb"
)

// database goes through a package, transform or patch: embedded cabinets with
// the names that their files get, Binary rows, icons, embedded transforms, and
// cabinets beside it.
func (w *walk) database(r source, size int64, prefix, where string) error {
	db, err := installdb.Open(r, size)
	if err != nil {
		return err
	}
	names, err := fileNames(db)
	if err != nil {
		return err
	}
	cabinets := map[string]bool{}
	media, err := db.TableOrEmpty("Media")
	if err != nil {
		return err
	}
	for _, row := range media.Rows {
		name := media.Get(row, "Cabinet").Text
		inner, embedded := strings.CutPrefix(name, "#")
		if name == "" {
			continue
		}
		if !embedded {
			if err := w.beside(r, prefix, name, names); err != nil {
				return err
			}
			continue
		}
		cabinets[inner] = true
		s, err := db.Stream(inner)
		if err != nil {
			return err
		}
		if s == nil {
			return fmt.Errorf("the package names the cabinet %q, which is not in it", inner)
		}
		if err := w.cabinet(s.(source), s.Size(), path.Join(prefix, "files"), inner, names); err != nil {
			return err
		}
	}
	if err := w.streams(db, prefix, where, cabinets); err != nil {
		return err
	}
	return w.storages(db, prefix)
}

// beside goes through a cabinet that lies in the package's folder.
func (w *walk) beside(r source, prefix, name string, names func(string) string) error {
	f, ok := r.(*os.File)
	if !ok {
		return nil // a package inside of something has no folder
	}
	at := path.Join(path.Dir(f.Name()), path.Base(SafePath(name)))
	info, err := os.Stat(at)
	if err != nil {
		return fmt.Errorf("the cabinet %s should lie beside the package: %w", name, err)
	}
	c, err := os.Open(at)
	if err != nil {
		return err
	}
	defer c.Close()
	return w.cabinet(c, info.Size(), path.Join(prefix, "files"), name, names)
}

// streams goes through all streams that are neither tables nor cabinets.
func (w *walk) streams(db *installdb.Database, prefix, where string, cabinets map[string]bool) error {
	for _, s := range db.Streams() {
		if s.Table || cabinets[s.Name] || strings.HasPrefix(s.Name, "\x05") {
			continue
		}
		c, err := db.Stream(s.Name)
		if err != nil {
			return err
		}
		i := Item{Path: path.Join(prefix, "streams", s.Name), Kind: StreamKind, Size: s.Size, Where: where}
		if table, name, ok := strings.Cut(s.Name, "."); ok {
			i.Path = path.Join(prefix, strings.ToLower(table), name)
			if path.Ext(name) == "" {
				i.Path += extension(c.Reader())
			}
			i.Where = "table " + table
		}
		if err := w.put(i, func() (io.Reader, error) { return c.Reader(), nil }); err != nil {
			return fmt.Errorf("stream %q: %w", s.Name, err)
		}
	}
	return nil
}

// extension guesses a file name's ending from how the data begin.
func extension(r io.Reader) string {
	var head [8]byte
	n, err := io.ReadFull(r, head[:])
	if err != nil && n < 2 {
		return ""
	}
	for begin, ext := range map[string]string{"MZ": ".exe", compound.Signature: ".msi", "MSCF": ".cab", "PK\x03\x04": ".zip", "BM": ".bmp",
		"\x00\x00\x01\x00": ".ico", "\xFF\xD8": ".jpg", "\x89PNG": ".png"} {
		if strings.HasPrefix(string(head[:n]), begin) {
			return ext
		}
	}
	return ""
}

// storages lays embedded storages out as files: the transforms of a package or
// a patch.
func (w *walk) storages(db *installdb.Database, prefix string) error {
	for _, name := range db.Storages() {
		node, err := db.ExtractStorage(name)
		if err != nil {
			return err
		}
		i := Item{Path: path.Join(prefix, "storages", name+".mst"), Kind: MstKind, Size: contentSize(node), Where: "storage"}
		err = w.put(i, func() (io.Reader, error) { return storageFile(node) })
		if err != nil {
			return fmt.Errorf("storage %q: %w", name, err)
		}
	}
	return nil
}

// contentSize is the size of all that a storage holds.
func contentSize(n *compound.Node) (size int64) {
	if n.Content != nil {
		return n.Content.Size()
	}
	for _, c := range n.Children {
		size += contentSize(c)
	}
	return size
}

// storageFile writes a storage to a temporary file, which goes when it has been
// read.
func storageFile(n *compound.Node) (io.Reader, error) {
	f, err := os.CreateTemp("", "hollowkey-")
	if err != nil {
		return nil, err
	}
	if err := compound.Write(f, n, 3); err != nil {
		f.Close()
		os.Remove(f.Name())
		return nil, err
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return nil, err
	}
	return &fading{f}, nil
}

// A fading file is deleted at its end.
type fading struct{ f *os.File } // a temporary one

// Read deletes the temporary file at its end.
func (r *fading) Read(p []byte) (int, error) {
	n, err := r.f.Read(p)
	if err != nil {
		r.f.Close()
		os.Remove(r.f.Name())
	}
	return n, err
}

// fileNames gives the way from a file's key, under which cabinets hold it, to
// its folder and name on the machine.
func fileNames(db *installdb.Database) (func(string) string, error) {
	files, err := db.TableOrEmpty("File")
	if err != nil {
		return nil, err
	}
	components, err := db.TableOrEmpty("Component")
	if err != nil {
		return nil, err
	}
	tree, err := db.Directories()
	if err != nil {
		return nil, err
	}
	folderOf := map[string]string{}
	for _, r := range components.Rows {
		folderOf[components.Get(r, "Component").Text] = components.Get(r, "Directory_").Text
	}
	where := func(key string) string {
		at := ""
		chain, _ := tree.Up(key)
		for _, d := range chain {
			if d.Key == "TARGETDIR" {
				break
			}
			name := d.Target
			if name == "" { // it stands for a folder of the machine, or for the one above it
				name = strings.Trim(d.Key, "_")
			}
			at = path.Join(name, at)
		}
		return at
	}
	paths := map[string]string{}
	for _, r := range files.Rows {
		paths[files.Get(r, "File").Text] = path.Join(where(folderOf[files.Get(r, "Component_").Text]),
			installdb.LongName(files.Get(r, "FileName").Text))
	}
	return func(key string) string {
		if p, ok := paths[key]; ok {
			return p
		}
		return key
	}, nil
}
