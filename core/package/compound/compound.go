// Package compound reads and writes compound files: storages and streams inside
// one file, the container of installer packages, transforms and patches.
//
// A file is read through [io.ReaderAt], and only what is asked for: opening one
// reads its header, its list of allocation sectors and its directory. Every
// number in the file is checked against what is really there.
//
// Source: [MS-CFB].
package compound

import (
	"errors"
	"fmt"
	"io"
	"strings"
	"time"
	"unicode/utf16"
)

// ErrDamaged says that the file breaks the format's rules.
var ErrDamaged = errors.New("damaged compound file")

// ErrNotCompound says that the file is no compound file at all.
var ErrNotCompound = errors.New("not a compound file")

// Signature is what every compound file begins with.
const Signature = "\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1"

const (
	headerSize     = 512  // bytes; [MS-CFB] 2.2
	entrySize      = 128  // bytes of a directory entry; 2.6.1
	miniSectorSize = 64   // bytes; 2.2
	miniCutoff     = 4096 // bytes; shorter streams lie in mini sectors; 2.2
	headerFATs     = 109  // allocation sectors that the header itself lists; 2.2

	maxRegular = 0xFFFFFFFA // the last number that a sector can have; 2.1
	difSector  = 0xFFFFFFFC // it lists allocation sectors
	fatSector  = 0xFFFFFFFD // it is an allocation sector
	endOfChain = 0xFFFFFFFE // nothing follows
	freeSector = 0xFFFFFFFF // nobody's
	noStream   = 0xFFFFFFFF // of a directory entry: no such neighbour; 2.6.1

	maxEntries = 200_000 // directory entries that we read
	maxDepth   = 32      // storages within storages
)

// damaged makes an error that callers can tell by [ErrDamaged].
func damaged(format string, args ...any) error {
	return fmt.Errorf("%w: %s", ErrDamaged, fmt.Sprintf(format, args...))
}

// A ClassID names the kind of a storage, in the byte order of the file.
type ClassID [16]byte

// String writes the class ID as {8-4-4-4-12}.
func (c ClassID) String() string {
	return fmt.Sprintf("{%02X%02X%02X%02X-%02X%02X-%02X%02X-%X-%X}", c[3], c[2], c[1], c[0], c[5], c[4], c[7], c[6], c[8:10], c[10:])
}

// An Entry is one storage or stream of a file.
type Entry struct {
	Name     string    // UTF-16 units as they are; unpaired surrogates become U+FFFD
	Storage  bool      // false: a stream
	Class    ClassID   // of a storage
	Modified time.Time // zero where the file does not tell
	Children []*Entry  // of a storage, in the order of the format

	start uint32 // first sector
	size  int64  // bytes; of the root: of the stream of small ones
}

// Size is the length of a stream in bytes.
func (e *Entry) Size() int64 { return e.size }

// Child finds a stream or storage by its name; nil when there is none. Letter
// case does not count.
func (e *Entry) Child(name string) *Entry {
	for _, c := range e.Children {
		if strings.EqualFold(c.Name, name) {
			return c
		}
	}
	return nil
}

// A File is a compound file that is open for reading.
type File struct {
	Root *Entry // the root storage

	r          io.ReaderAt // the file
	size       int64       // bytes
	sectorSize int64       // 512 or 4096 bytes
	version    int         // 3 or 4
	fat        *table      // which sector follows which
	miniFAT    *table      // the same for small streams
	mini       *Stream     // the root's stream, which holds the small streams
}

// Version is 3 (512-byte sectors) or 4 (4096-byte sectors).
func (f *File) Version() int { return f.version }

// Length is the number of bytes that the sectors in use reach to: where the
// compound file ends, when something follows it.
func (f *File) Length() (int64, error) {
	reach, err := f.Reach()
	return min(reach, f.size), err
}

// Reach is [File.Length] even where the file is cut short before it.
func (f *File) Reach() (int64, error) {
	for s := int64(f.fat.len()) - 1; s >= 0; s-- { // the free ones at the end are few
		next, err := f.fat.at(uint32(s))
		if err != nil {
			return 0, err
		}
		if next != freeSector {
			return (s + 2) * f.sectorSize, nil
		}
	}
	return f.sectorSize, nil
}

// nameOf makes a string of a directory entry's name.
func nameOf(units []uint16) string { return string(utf16.Decode(units)) }
