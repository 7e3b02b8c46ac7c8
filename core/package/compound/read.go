// This file reads the header, the allocation tables and the directory, with a
// limit for each.

package compound

import (
	"encoding/binary"
	"io"
	"time"
)

// Open reads the header and the directory of a compound file of size bytes.
// The error wraps [ErrNotCompound] or [ErrDamaged], or is that of r.
func Open(r io.ReaderAt, size int64) (*File, error) {
	var h [headerSize]byte
	if size < headerSize {
		return nil, ErrNotCompound
	}
	if _, err := r.ReadAt(h[:], 0); err != nil {
		return nil, err
	}
	if string(h[:8]) != Signature {
		return nil, ErrNotCompound
	}
	f := &File{r: r, size: size, version: int(binary.LittleEndian.Uint16(h[26:]))}
	shift := binary.LittleEndian.Uint16(h[30:])
	switch {
	case f.version == 3 && shift == 9, f.version == 4 && shift == 12:
		f.sectorSize = 1 << shift
	default:
		return nil, damaged("version %d with sectors of 2^%d bytes", f.version, shift)
	}
	if s := binary.LittleEndian.Uint16(h[32:]); s != 6 {
		return nil, damaged("mini sectors of 2^%d bytes, not 2^6", s)
	}
	if c := binary.LittleEndian.Uint32(h[56:]); c != miniCutoff {
		return nil, damaged("streams are small below %d bytes, not below 4096", c)
	}
	u32 := func(at int) uint32 { return binary.LittleEndian.Uint32(h[at:]) }
	fats, err := f.fatSectors(h[76:], u32(44), u32(68), u32(72))
	if err != nil {
		return nil, err
	}
	f.fat = &table{f: f, sectors: fats, limit: f.sectors()}
	dir, err := f.chain(u32(48), -1, "the directory")
	if err != nil {
		return nil, err
	}
	if err := f.readDirectory(dir); err != nil {
		return nil, err
	}
	miniFAT, err := f.chain(u32(60), -1, "the table of small streams")
	if err != nil {
		return nil, err
	}
	f.miniFAT = &table{f: f, sectors: miniFAT.each(f.sectorSize), limit: f.mini.size / miniSectorSize}
	return f, nil
}

// sectors is the number of sectors that the file has room for, the last one
// perhaps cut short.
func (f *File) sectors() int64 { return (f.size - 1) / f.sectorSize }

// sectorAt is where a sector begins in the file.
func (f *File) sectorAt(s uint32) int64 { return (int64(s) + 1) * f.sectorSize }

// fatSectors lists the sectors of the allocation table: the first 109 stand in
// the header, the others in a chain of their own. [MS-CFB] 2.5
func (f *File) fatSectors(header []byte, count, first, more uint32) ([]uint32, error) {
	if int64(count) > f.sectors() {
		return nil, damaged("%d allocation sectors in a file of %d sectors", count, f.sectors())
	}
	list := make([]uint32, 0, count)
	add := func(b []byte) error {
		for ; len(b) >= 4 && len(list) < int(count); b = b[4:] {
			s := binary.LittleEndian.Uint32(b)
			if int64(s) >= f.sectors() {
				return damaged("allocation sector %d is past the end", s)
			}
			list = append(list, s)
		}
		return nil
	}
	if err := add(header[:4*headerFATs]); err != nil {
		return nil, err
	}
	buf := make([]byte, f.sectorSize)
	for s, n := first, uint32(0); len(list) < int(count); n++ {
		if int64(s) >= f.sectors() || n > more {
			return nil, damaged("%d of %d allocation sectors are listed", len(list), count)
		}
		if err := f.readSector(buf, s); err != nil {
			return nil, err
		}
		if err := add(buf[:f.sectorSize-4]); err != nil {
			return nil, err
		}
		s = binary.LittleEndian.Uint32(buf[f.sectorSize-4:])
	}
	return list, nil
}

// readSector fills buf with a sector; past the end of a file cut in its last
// sector there are zeros.
func (f *File) readSector(buf []byte, s uint32) error {
	n, err := f.r.ReadAt(buf, f.sectorAt(s))
	if err == io.EOF && n > 0 {
		clear(buf[n:])
		return nil
	}
	if err == io.EOF {
		return damaged("sector %d is past the end", s)
	}
	return err
}

// A table is an allocation table of which pages are read as they are asked for.
type table struct {
	f       *File             // the file it belongs to
	sectors []uint32          // sectors that hold the table
	limit   int64             // sectors that there are to be allocated
	pages   map[uint32][]byte // pages read so far, by their number
	last    []byte            // the page that was asked for last
	lastAt  uint32            // its number
}

// len is how many entries the table has; never more than the file has sectors.
func (t *table) len() int {
	return int(min(int64(len(t.sectors))*(t.f.sectorSize/4), t.limit))
}

// at gives what follows sector s in its chain.
func (t *table) at(s uint32) (uint32, error) {
	if int64(s) >= int64(t.len()) {
		return 0, damaged("a chain leads to sector %d of %d", s, t.len())
	}
	per := uint32(t.f.sectorSize / 4)
	if t.last == nil || t.lastAt != s/per {
		page, err := t.page(s / per)
		if err != nil {
			return 0, err
		}
		t.last, t.lastAt = page, s/per
	}
	return binary.LittleEndian.Uint32(t.last[4*(s%per):]), nil
}

// straight counts the sectors from s on that follow one another in the file and
// in their chain, up to most of them, and gives what comes after.
func (t *table) straight(s uint32, most int64) (n int64, next uint32, err error) {
	per := uint32(t.f.sectorSize / 4)
	for n < most {
		if next, err = t.at(s); err != nil {
			return n, next, err
		}
		page, k := t.last, s%per
		for {
			next = binary.LittleEndian.Uint32(page[4*k:])
			n++
			k++
			s++
			if next != s || n == most {
				return n, next, nil
			}
			if k == per {
				break
			}
		}
	}
	return n, next, nil
}

const pagesAtOnce = 64 // of the table, when its sectors follow one another

// page reads a page of the table, and those that follow it in the file.
func (t *table) page(n uint32) ([]byte, error) {
	if p, ok := t.pages[n]; ok {
		return p, nil
	}
	if t.pages == nil {
		t.pages = map[uint32][]byte{}
	}
	count := uint32(1)
	for count < pagesAtOnce && int(n+count) < len(t.sectors) && t.sectors[n+count] == t.sectors[n]+count {
		count++
	}
	size := t.f.sectorSize
	b := make([]byte, int64(count)*size)
	if err := t.f.readSector(b, t.sectors[n]); err != nil {
		return nil, err
	}
	for i := range int64(count) {
		t.pages[n+uint32(i)] = b[i*size : (i+1)*size]
	}
	return t.pages[n], nil
}

// chain walks a chain of sectors from first. With size -1 it goes to the end of
// the chain, else as far as size bytes reach. A chain longer than the file
// closes on itself.
func (f *File) chain(first uint32, size int64, what string) (runs, error) {
	return walk(f.fat, first, size, f.sectorSize, func(s uint32) int64 { return f.sectorAt(s) }, what)
}

// walk follows a chain of sectors and joins those that lie behind each other
// into runs. A chain longer than the file has sectors must be a circle.
func walk(t *table, first uint32, size, unit int64, at func(uint32) int64, what string) (runs, error) {
	var list runs
	count := int64(0)
	for s := first; s != endOfChain && (size < 0 || count*unit < size); count++ {
		if count >= t.limit {
			return nil, damaged("%s runs in a circle", what)
		}
		next, err := t.at(s)
		if err != nil {
			if first == freeSector && count == 0 && size < 0 {
				return nil, nil // some writers mark an absent chain so
			}
			return nil, damaged("%s: %v", what, err)
		}
		n := int64(1)
		if next == s+1 { // most chains are straight: those that follow one another go together
			most := t.limit - count
			if size >= 0 {
				most = min(most, (size-count*unit+unit-1)/unit)
			}
			if n, next, err = t.straight(s, most); err != nil {
				return nil, damaged("%s: %v", what, err)
			}
		}
		list = list.add(at(s), n*unit)
		count += n - 1
		s = next
	}
	if size >= 0 && count*unit < size {
		return nil, damaged("%s has %d bytes, its sectors hold %d", what, size, count*unit)
	}
	return list, nil
}

// readDirectory reads all entries and puts them in their tree. [MS-CFB] 2.6
func (f *File) readDirectory(dir runs) error {
	size := dir.size()
	if size < entrySize {
		return damaged("there is no directory")
	}
	if size/entrySize > maxEntries {
		return damaged("the directory has %d entries; at most %d are read", size/entrySize, maxEntries)
	}
	raw := make([]byte, size)
	if _, err := (&Stream{r: f.r, runs: dir, size: size}).ReadAt(raw, 0); err != nil && err != io.EOF {
		return err
	}
	d := directory{raw: raw, seen: make([]bool, size/entrySize), version: f.version}
	root, _, err := d.entry(0)
	if err != nil {
		return err
	}
	if raw[66] != typeRoot {
		return damaged("the first directory entry is of type %d, not the root", raw[66])
	}
	root.Storage = true
	if f.mini, err = f.stream(root, "the stream of small streams"); err != nil {
		return err
	}
	f.Root = root
	return d.fill(root, 0, 0)
}

const (
	typeStorage = 1 // [MS-CFB] 2.6.1
	// The kinds of directory entries; the root's stream holds the short
	// streams. [MS-CFB] 2.6.1
	typeStream = 2
	typeRoot   = 5
)

type directory struct {
	raw     []byte // all entries, 128 bytes each
	seen    []bool // entries that were met, so that a circle ends
	version int    // 3 or 4; 3 keeps sizes in 32 bits
}

type links struct{ left, right, child uint32 } // of the tree that the names stand in

// entry reads one entry of the directory, with its links.
func (d *directory) entry(i uint32) (*Entry, links, error) {
	b := d.raw[int64(i)*entrySize:][:entrySize]
	n := int(binary.LittleEndian.Uint16(b[64:]))
	if n > 64 || n%2 != 0 {
		return nil, links{}, damaged("directory entry %d has a name of %d bytes", i, n)
	}
	units := make([]uint16, 0, 32)
	for k := 0; k+2 < n; k += 2 {
		units = append(units, binary.LittleEndian.Uint16(b[k:]))
	}
	e := &Entry{Name: nameOf(units), Storage: b[66] == typeStorage, start: binary.LittleEndian.Uint32(b[116:])}
	size := binary.LittleEndian.Uint64(b[120:])
	if d.version == 3 {
		size &= 0xFFFFFFFF // the upper half may hold anything; 2.6.1
	}
	if size > 1<<62 {
		return nil, links{}, damaged("%q has %d bytes", e.Name, size)
	}
	e.size = int64(size)
	copy(e.Class[:], b[80:96])
	if t := binary.LittleEndian.Uint64(b[108:]); t != 0 {
		e.Modified = Time(t)
	}
	u := func(at int) uint32 { return binary.LittleEndian.Uint32(b[at:]) }
	return e, links{u(68), u(72), u(76)}, nil
}

// fill walks the tree of a storage's children in their order. It needs no
// recursion for siblings, whose tree a hostile file can make a mere list.
func (d *directory) fill(storage *Entry, index uint32, depth int) error {
	if depth > maxDepth {
		return damaged("storages lie more than %d deep", maxDepth)
	}
	_, l, err := d.entry(index)
	if err != nil {
		return err
	}
	type open struct {
		e     *Entry // read already
		index uint32 // its number
		right uint32 // its right link, to be followed later
	}
	var stack []open
	next := l.child
	for next != noStream || len(stack) > 0 {
		if next != noStream {
			if int64(next) >= int64(len(d.seen)) || next == 0 {
				return damaged("%q leads to directory entry %d of %d", storage.Name, next, len(d.seen))
			}
			if d.seen[next] {
				return damaged("directory entry %d is linked twice", next)
			}
			d.seen[next] = true
			e, l, err := d.entry(next)
			if err != nil {
				return err
			}
			stack = append(stack, open{e, next, l.right})
			next = l.left
			continue
		}
		top := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		switch d.raw[int64(top.index)*entrySize+66] {
		case typeStream:
			storage.Children = append(storage.Children, top.e)
		case typeStorage:
			storage.Children = append(storage.Children, top.e)
			if err := d.fill(top.e, top.index, depth+1); err != nil {
				return err
			}
		default:
			return damaged("directory entry %d is neither a storage nor a stream", top.index)
		}
		next = top.right
	}
	return nil
}

// Time turns a file time (100 ns steps since 1601) into a time.
func Time(t uint64) time.Time {
	const epoch = 116444736000000000 // 1970 in file time
	if t < epoch || t > 1<<62 {
		return time.Time{}
	}
	return time.Unix(int64((t-epoch)/1e7), int64((t-epoch)%1e7*100)).UTC()
}
