// Package cabinet reads cabinet files, stored, MSZIP or LZX, and writes stored
// ones.
//
// Source: [MS-CAB]; for LZX [MS-PATCH] 2 with the block headers of [MS-CAB] 3.
package cabinet

import (
	"bufio"
	"cmp"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"
)

// ErrDamaged says that the cabinet breaks the format's rules.
var ErrDamaged = errors.New("damaged cabinet")

// ErrSpans says that a file continues in another cabinet.
var ErrSpans = errors.New("the file continues in another cabinet of the set")

// Signature is what a cabinet begins with.
const Signature = "MSCF"

// damaged makes an error that callers can tell by [ErrDamaged].
func damaged(format string, args ...any) error {
	return fmt.Errorf("%w: %s", ErrDamaged, fmt.Sprintf(format, args...))
}

const (
	headerSize = 36    // bytes; [MS-CAB] 2.1
	blockSize  = 32768 // uncompressed bytes of a block at most; 2.4
	maxName    = 1024  // bytes

	flagPrevious = 1 // its first file began in the cabinet before; 2.1
	flagNext     = 2 // its last file goes on in the next one
	flagReserve  = 4 // the sizes of areas for a program's own use follow

	fromPrevious = 0xFFFD // folder numbers of files that span cabinets; 2.3
	attributeUTF = 0x80   // a file's name is UTF-8, else in the machine's code page; 2.3
)

// A File is one file in a cabinet.
type File struct {
	Name   string    // as it stands there; may hold backslashes
	Size   int64     // unpacked, in bytes
	Time   time.Time // local time of whoever made it
	folder int       // index of its folder
	offset int64     // in the unpacked folder
	spans  bool      // goes on from or into another cabinet
}

type folder struct {
	at     int64  // offset of its first block
	blocks int    // how many it has
	method uint16 // how they are packed
}

// A Cabinet is an open cabinet.
type Cabinet struct {
	Files   []File      // in the order of the directory
	Length  int64       // bytes of the whole cabinet, as its header says
	Set     uint16      // number of the row of cabinets that it belongs to
	Next    string      // the cabinet that continues it
	r       io.ReaderAt // the cabinet
	folders []folder    // in the order of the directory
	reserve int         // bytes in each block's header
}

// Open reads the directory of a cabinet of at most size bytes. Errors say at
// which byte it is damaged.
func Open(r io.ReaderAt, size int64) (*Cabinet, error) {
	var h [headerSize]byte
	if size < headerSize {
		return nil, damaged("%d bytes", size)
	}
	if _, err := r.ReadAt(h[:], 0); err != nil {
		return nil, err
	}
	if string(h[:4]) != Signature {
		return nil, damaged("it does not begin with MSCF")
	}
	u16 := func(at int) int { return int(binary.LittleEndian.Uint16(h[at:])) }
	c := &Cabinet{r: r, Length: int64(binary.LittleEndian.Uint32(h[8:])), Set: uint16(u16(32))}
	// [MS-CAB] 2.1: the head tells its own length and version, and what is
	// reserved in it.
	if c.Length > size || h[25] != 1 {
		return nil, damaged("version %d, %d bytes of %d", h[25], c.Length, size)
	}
	in := &reader{bufio.NewReader(io.NewSectionReader(r, headerSize, c.Length-headerSize)), nil}
	folderReserve := 0
	flags := u16(30)
	if flags&flagReserve != 0 {
		n := int64(in.u16())
		folderReserve, c.reserve = int(in.u8()), int(in.u8())
		in.skip(n)
	}
	if flags&flagPrevious != 0 {
		in.text()
		in.text()
	}
	if flags&flagNext != 0 {
		c.Next = in.text()
		in.text()
	}
	// A count from the file bounds nothing here: each folder is read before the
	// next, and the file ends.
	for range u16(26) {
		f := folder{at: int64(in.u32()), blocks: int(in.u16()), method: in.u16()}
		in.skip(int64(folderReserve))
		if in.err == nil && f.at >= c.Length {
			return nil, damaged("folder %d begins at byte %d of %d", len(c.folders), f.at, c.Length)
		}
		c.folders = append(c.folders, f)
	}
	if in.err != nil {
		return nil, in.err
	}
	files := int64(binary.LittleEndian.Uint32(h[16:]))
	if files >= c.Length {
		return nil, damaged("the list of files begins at byte %d of %d", files, c.Length)
	}
	return c, c.readFiles(&reader{bufio.NewReader(io.NewSectionReader(r, files, c.Length-files)), nil}, u16(28))
}

// readFiles reads the directory of files (CFFILE): sizes, places, times and
// names.
func (c *Cabinet) readFiles(in *reader, n int) error {
	for range n {
		f := File{Size: int64(in.u32()), offset: int64(in.u32()), folder: int(in.u16())}
		date, clock := in.u16(), in.u16()
		utf := in.u16()&attributeUTF != 0
		f.Name = in.text()
		if in.err != nil {
			return in.err
		}
		if !utf {
			f.Name = latin(f.Name)
		}
		f.Time = time.Date(1980+int(date>>9), time.Month(date>>5&15), int(date&31), int(clock>>11), int(clock>>5&63), int(clock&31)*2, 0,
			time.UTC)
		if f.folder >= fromPrevious {
			f.spans = true
		} else if f.folder >= len(c.folders) {
			return damaged("file %q is in folder %d of %d", f.Name, f.folder, len(c.folders))
		}
		c.Files = append(c.Files, f)
	}
	return nil
}

// latin reads a name of one byte a letter.
func latin(s string) string {
	for i := range len(s) {
		if s[i] >= 0x80 {
			var b strings.Builder
			for k := range len(s) {
				b.WriteRune(rune(s[k]))
			}
			return b.String()
		}
	}
	return s
}

// Says is the size in bytes that a cabinet's header tells; ok is false for
// another file.
func Says(r io.ReaderAt) (size int64, ok bool) {
	var h [12]byte
	if _, err := r.ReadAt(h[:], 0); err != nil || string(h[:4]) != Signature {
		return 0, false
	}
	return int64(binary.LittleEndian.Uint32(h[8:])), true
}

// Check reads all blocks and compares their sums, without unpacking them. The
// first block whose sum is another ends it, with an error that names it.
func (c *Cabinet) Check() error {
	for i, f := range c.folders {
		b := &blocks{r: bufio.NewReaderSize(io.NewSectionReader(c.r, f.at, c.Length-f.at), 2*blockSize), left: f.blocks, reserve: c.reserve}
		for b.left > 0 {
			if _, _, err := b.next(); err != nil {
				return fmt.Errorf("folder %d: %w", i, err)
			}
		}
	}
	return nil
}

// Extract hands the contents of files to take, in the order of the cabinet. A
// nil writer passes a file over. A file that spans cabinets is an error that
// wraps [ErrSpans].
func (c *Cabinet) Extract(take func(File) (io.Writer, error)) error {
	for i := range c.folders {
		var files []File
		for _, f := range c.Files {
			if f.folder == i {
				files = append(files, f)
			}
		}
		slices.SortStableFunc(files, func(a, b File) int { return cmp.Compare(a.offset, b.offset) })
		if err := c.extractFolder(i, files, take); err != nil {
			return err
		}
	}
	for _, f := range c.Files {
		if f.spans {
			if w, err := take(f); err != nil || w == nil {
				return err
			}
			return fmt.Errorf("%q: %w", f.Name, ErrSpans)
		}
	}
	return nil
}

// extractFolder unpacks one folder of the cabinet. Its files lie in one stream
// behind each other, so those that nobody wants are unpacked too, and dropped.
func (c *Cabinet) extractFolder(i int, files []File, take func(File) (io.Writer, error)) error {
	var in io.Reader
	at := int64(0)
	for _, f := range files {
		w, err := take(f)
		if err != nil {
			return err
		}
		if w == nil {
			continue
		}
		if in == nil || f.offset < at { // files may overlap; then the folder is read again
			if in, err = c.folder(i); err != nil {
				return err
			}
			at = 0
		}
		if _, err := io.CopyN(io.Discard, in, f.offset-at); err != nil {
			return short(f, err)
		}
		n, err := io.CopyN(w, in, f.Size)
		at = f.offset + n
		if err != nil {
			return short(f, err)
		}
	}
	return nil
}

// short tells an end that came too early as damage of the cabinet.
func short(f File, err error) error {
	if err == io.EOF || errors.Is(err, io.ErrUnexpectedEOF) {
		return damaged("the data end before file %q does", f.Name)
	}
	return fmt.Errorf("file %q: %w", f.Name, err)
}

// The compression methods. Source: [MS-CAB] 2.2.
const (
	stored  = 0
	mszip   = 1
	quantum = 2
	lzx     = 3
)

// folder reads the uncompressed data of a folder.
func (c *Cabinet) folder(i int) (io.Reader, error) {
	f := c.folders[i]
	b := &blocks{r: io.NewSectionReader(c.r, f.at, c.Length-f.at), left: f.blocks, reserve: c.reserve}
	switch f.method & 0xF {
	case stored:
		return &unpacker{blocks: b, unpack: func(in []byte, n int) ([]byte, error) {
			if len(in) != n {
				return nil, damaged("a stored block of %d bytes has %d", n, len(in))
			}
			return in, nil
		}}, nil
	case mszip:
		return &unpacker{blocks: b, unpack: (&inflater{}).block}, nil
	case lzx:
		d, err := newLZX(int(f.method >> 8 & 0x1F))
		if err != nil {
			return nil, err
		}
		return &unpacker{blocks: b, unpack: d.block}, nil
	}
	return nil, fmt.Errorf("compression method %d (Quantum is 2) is not read", f.method&0xF)
}

// A reader reads little-endian numbers and keeps the first error.
type reader struct {
	r   *bufio.Reader // stands in the directory
	err error         // the first one; it stays
}

// bytes reads n bytes. The first error stays, so that a row of reads needs one
// look at the end.
func (r *reader) bytes(n int) []byte {
	b := make([]byte, n)
	if r.err == nil {
		if _, err := io.ReadFull(r.r, b); err != nil {
			r.err = damaged("the directory is cut off")
		}
	}
	return b
}

// u8 reads one byte.
func (r *reader) u8() uint8 { return r.bytes(1)[0] }

// u16 reads a number of two bytes, the lower one first.
func (r *reader) u16() uint16 { return binary.LittleEndian.Uint16(r.bytes(2)) }

// u32 reads a number of four bytes, the lowest one first.
func (r *reader) u32() uint32 { return binary.LittleEndian.Uint32(r.bytes(4)) }

// skip passes over bytes that are reserved for others.
func (r *reader) skip(n int64) {
	if _, err := io.CopyN(io.Discard, r.r, n); err != nil && r.err == nil {
		r.err = damaged("the directory is cut off")
	}
}

// text reads a name up to its zero.
func (r *reader) text() string {
	var b []byte
	for len(b) < maxName {
		c := r.u8()
		if c == 0 || r.err != nil {
			return string(b)
		}
		b = append(b, c)
	}
	r.err = damaged("a name is longer than %d bytes", maxName)
	return ""
}
