// This file lays a compound file out and writes it.

package compound

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"fmt"
	"io"
	"os"
	"slices"
	"unicode"
	"unicode/utf16"
)

// A Node is a storage or stream to be written. A node with Content is a stream.
type Node struct {
	Name     string  // as the directory has it
	Class    ClassID // zero for a stream
	Children []*Node // of a storage
	Content  Content // of a stream; nil: a storage
}

// Content is what a stream is to hold.
type Content interface {
	Size() int64
	Reader() io.Reader
}

// Bytes are a stream's contents held in memory.
type Bytes []byte

// Size implements [Content].
func (b Bytes) Size() int64 { return int64(len(b)) }

// Reader implements [Content].
func (b Bytes) Reader() io.Reader { return bytes.NewReader(b) }

// Copy makes the nodes that write the same storage again: streams are read
// from f when they are written.
func (f *File) Copy(e *Entry) (*Node, error) {
	n := &Node{Name: e.Name, Class: e.Class}
	if !e.Storage {
		s, err := f.Stream(e)
		n.Content = s
		return n, err
	}
	for _, c := range e.Children {
		child, err := f.Copy(c)
		if err != nil {
			return nil, err
		}
		n.Children = append(n.Children, child)
	}
	return n, nil
}

// Child finds a child by name; nil when there is none.
func (n *Node) Child(name string) *Node {
	for _, c := range n.Children {
		if compareNames(c.Name, name) == 0 {
			return c
		}
	}
	return nil
}

// Write writes a compound file of version 3 or 4 to out, from its beginning.
// Large streams are copied, never held in memory. When most of the file is one
// that out's streams come from, that file is copied whole and only what differs
// is written anew.
func Write(out *os.File, root *Node, version int) error {
	w := &writer{out: out, sectorSize: 512, version: version}
	switch version {
	case 3:
	case 4:
		w.sectorSize = 4096
	default:
		return fmt.Errorf("compound files have version 3 or 4, not %d", version)
	}
	if err := w.list(root, 0); err != nil {
		return err
	}
	if err := w.begin(); err != nil {
		return err
	}
	return w.write()
}

type writer struct {
	out        *os.File // at its beginning
	sectorSize int64    // 512 or 4096 bytes
	version    int      // 3 or 4
	entries    []*slot  // the root first
	fat        []uint32 // which sector follows which
	free       []span   // sectors that a copied file has room in
	miniFAT    []uint32 // the same for small streams
	mini       []byte   // the small streams behind each other
}

// A span is sectors that follow one another.
type span struct {
	first uint32 // its first sector
	n     int64  // how many follow each other
}

// A slot is a directory entry on its way to the file.
type slot struct {
	node  *Node  // what it is written from
	links links  // in the tree of names
	red   bool   // colour in the tree, which the format asks for
	kept  bool   // its sectors lie where they were
	start uint32 // first sector
	size  int64  // bytes
}

// list gives the nodes their places in the directory, and each storage's
// children the tree that readers search.
func (w *writer) list(n *Node, depth int) error {
	if depth > maxDepth {
		return fmt.Errorf("storages lie more than %d deep", maxDepth)
	}
	if units := utf16.Encode([]rune(n.Name)); depth > 0 && (len(units) == 0 || len(units) > 31) {
		return fmt.Errorf("the stream name %q has %d characters; a compound file takes 1 to 31", n.Name, len(units))
	}
	self := &slot{node: n, links: links{noStream, noStream, noStream}, start: endOfChain}
	w.entries = append(w.entries, self)
	if len(w.entries) > maxEntries {
		return fmt.Errorf("more than %d streams", maxEntries)
	}
	if n.Content != nil {
		self.size = n.Content.Size()
		return nil
	}
	if depth > 0 {
		self.start = 0
	}
	sorted := slices.Clone(n.Children)
	slices.SortStableFunc(sorted, func(a, b *Node) int { return compareNames(a.Name, b.Name) })
	places := make([]uint32, len(sorted))
	for i, c := range sorted {
		if i > 0 && compareNames(sorted[i-1].Name, c.Name) == 0 {
			return fmt.Errorf("two streams are called %q", c.Name)
		}
		places[i] = uint32(len(w.entries))
		if err := w.list(c, depth+1); err != nil {
			return err
		}
	}
	self.links.child = w.tree(places, levels(len(places)))
	return nil
}

// levels is the number of full levels of a balanced tree of n nodes.
func levels(n int) (full int) {
	for ; n+1 >= 1<<(full+1); full++ {
	}
	return full
}

// tree links places, which are in order, into a balanced tree. The nodes of the
// last level, when it is not full, are red, which makes it a red-black tree.
// [MS-CFB] 2.6.4
func (w *writer) tree(places []uint32, black int) uint32 {
	if len(places) == 0 {
		return noStream
	}
	m := len(places) / 2
	s := w.entries[places[m]]
	s.red = black <= 0
	s.links.left = w.tree(places[:m], black-1)
	s.links.right = w.tree(places[m+1:], black-1)
	return places[m]
}

// compareNames orders names as the format does: by length, then by the upper
// case of each UTF-16 unit. [MS-CFB] 2.6.4
func compareNames(a, b string) int {
	x, y := utf16.Encode([]rune(a)), utf16.Encode([]rune(b))
	if c := cmp.Compare(len(x), len(y)); c != 0 {
		return c
	}
	return slices.CompareFunc(x, y, func(a, b uint16) int { return cmp.Compare(upper(a), upper(b)) })
}

// upper is a letter in upper case as the directory is sorted by: one unit for
// one unit, since pairs are compared by their halves.
func upper(u uint16) rune {
	if r := unicode.ToUpper(rune(u)); r < 0x10000 {
		return r
	}
	return rune(u)
}

// write puts the sectors into the file in the order: large streams, small
// streams, their table, directory, allocation table, list of its sectors; the
// header comes last, so a file cut off while writing is no compound file.
func (w *writer) write() error {
	for _, s := range w.entries {
		if s.node.Content == nil || s.size == 0 || s.kept {
			continue
		}
		if err := w.content(s); err != nil {
			return fmt.Errorf("stream %q: %w", s.node.Name, err)
		}
	}
	root := w.entries[0]
	var err error
	root.size = int64(len(w.mini))
	if root.start, err = w.sectors(w.mini); err != nil {
		return err
	}
	miniFAT, err := w.sectors(words(w.miniFAT, w.sectorSize))
	if err != nil {
		return err
	}
	miniFATs := w.count(4 * int64(len(w.miniFAT)))
	dir, err := w.sectors(w.directory())
	if err != nil {
		return err
	}
	return w.tables(dir, miniFAT, miniFATs)
}

// count is how many sectors hold so many bytes.
func (w *writer) count(bytes int64) int64 { return (bytes + w.sectorSize - 1) / w.sectorSize }

// claim takes n sectors, free ones first, and links them into a chain.
func (w *writer) claim(n int64) (list []span) {
	for n > 0 && len(w.free) > 0 {
		f := &w.free[0]
		take := min(n, f.n)
		list = append(list, span{f.first, take})
		f.first, f.n, n = f.first+uint32(take), f.n-take, n-take
		if f.n == 0 {
			w.free = w.free[1:]
		}
	}
	if n > 0 {
		list = append(list, span{uint32(len(w.fat)), n})
		for range n {
			w.fat = append(w.fat, freeSector)
		}
	}
	w.link(list)
	return list
}

// link makes a chain of spans.
func (w *writer) link(list []span) {
	next := uint32(endOfChain)
	for _, s := range slices.Backward(list) {
		for i := s.n - 1; i >= 0; i-- {
			at := s.first + uint32(i)
			w.fat[at] = next
			next = at
		}
	}
}

// startOf is the first sector of a table, or the mark of an empty one.
func startOf(list []span) uint32 {
	if len(list) == 0 {
		return endOfChain
	}
	return list[0].first
}

// content puts a stream into the file: a small one into the stream of small
// ones, a large one into sectors of its own.
func (w *writer) content(s *slot) error {
	if s.size < miniCutoff {
		b := make([]byte, (s.size+miniSectorSize-1)/miniSectorSize*miniSectorSize)
		if _, err := io.ReadFull(s.node.Content.Reader(), b[:s.size]); err != nil {
			return err
		}
		s.start = uint32(len(w.miniFAT))
		w.mini = append(w.mini, b...)
		for n := len(b) / miniSectorSize; n > 1; n-- {
			w.miniFAT = append(w.miniFAT, uint32(len(w.miniFAT))+1)
		}
		w.miniFAT = append(w.miniFAT, endOfChain)
		return nil
	}
	n := w.count(s.size)
	if int64(len(w.fat))+n > maxRegular {
		return fmt.Errorf("the file would be larger than the format allows")
	}
	list := w.claim(n)
	s.start = startOf(list)
	return w.put(list, s.node.Content)
}

// put writes a stream into its sectors, and zeros behind its end.
func (w *writer) put(list []span, c Content) error {
	if len(list) == 1 {
		if _, err := w.out.Seek(w.place(list[0].first), io.SeekStart); err != nil {
			return err
		}
		if err := copyContent(w.out, c); err != nil {
			return err
		}
		_, err := w.out.Write(make([]byte, list[0].n*w.sectorSize-c.Size()))
		return err
	}
	r := io.MultiReader(io.LimitReader(c.Reader(), c.Size()), zeros{})
	for _, s := range list {
		if _, err := w.out.Seek(w.place(s.first), io.SeekStart); err != nil {
			return err
		}
		if _, err := io.CopyN(w.out, r, s.n*w.sectorSize); err != nil {
			return err
		}
	}
	return nil
}

type zeros struct{}

// Read gives zeros without end, to fill sectors up.
func (zeros) Read(p []byte) (int, error) {
	clear(p)
	return len(p), nil
}

// place is where a sector begins in the file; the head takes the first one's
// room.
func (w *writer) place(sector uint32) int64 { return (int64(sector) + 1) * w.sectorSize }

// sectors writes b into sectors of its own.
func (w *writer) sectors(b []byte) (uint32, error) {
	if len(b) == 0 {
		return endOfChain, nil
	}
	list := w.claim(w.count(int64(len(b))))
	return startOf(list), w.put(list, Bytes(b))
}

// words writes numbers as they stand in sectors; the last sector is filled with
// the mark of free ones.
func words(list []uint32, sectorSize int64) []byte {
	b := make([]byte, (4*int64(len(list))+sectorSize-1)/sectorSize*sectorSize)
	for i, u := range list {
		binary.LittleEndian.PutUint32(b[4*i:], u)
	}
	for i := 4 * len(list); i < len(b); i += 4 {
		binary.LittleEndian.PutUint32(b[i:], freeSector)
	}
	return b
}

// directory writes the entries, whose order was laid down before.
func (w *writer) directory() []byte {
	var b []byte
	for i, s := range w.entries {
		e := make([]byte, entrySize)
		name := s.node.Name
		if i == 0 {
			name = "Root Entry"
		}
		units := utf16.Encode([]rune(name))
		for k, u := range units {
			binary.LittleEndian.PutUint16(e[2*k:], u)
		}
		binary.LittleEndian.PutUint16(e[64:], uint16(2*len(units)+2))
		switch {
		case i == 0:
			e[66] = typeRoot
		case s.node.Content != nil:
			e[66] = typeStream
		default:
			e[66] = typeStorage
		}
		if !s.red {
			e[67] = 1
		}
		binary.LittleEndian.PutUint32(e[68:], s.links.left)
		binary.LittleEndian.PutUint32(e[72:], s.links.right)
		binary.LittleEndian.PutUint32(e[76:], s.links.child)
		copy(e[80:], s.node.Class[:])
		binary.LittleEndian.PutUint32(e[116:], s.start)
		binary.LittleEndian.PutUint64(e[120:], uint64(s.size))
		b = append(b, e...)
	}
	for int64(len(b))%w.sectorSize != 0 {
		e := make([]byte, entrySize)
		for _, at := range []int{68, 72, 76} {
			binary.LittleEndian.PutUint32(e[at:], noStream)
		}
		b = append(b, e...)
	}
	return b
}

// tables writes the allocation table, which lists its own sectors too, the list
// of its sectors, and the header.
func (w *writer) tables(dir, miniFAT uint32, miniFATs int64) error {
	for _, f := range w.free { // what is left over is written as free
		for i := range f.n {
			w.fat[f.first+uint32(i)] = freeSector
		}
	}
	for len(w.fat) > 0 && w.fat[len(w.fat)-1] == freeSector {
		w.fat = w.fat[:len(w.fat)-1]
	}
	per := w.sectorSize / 4
	var fats, difs int64
	for {
		need := (int64(len(w.fat)) + fats + difs + per - 1) / per
		more := int64(0)
		if need > headerFATs {
			more = (need - headerFATs + per - 2) / (per - 1)
		}
		if need == fats && more == difs {
			break
		}
		fats, difs = need, more
	}
	firstFAT := uint32(len(w.fat))
	list := make([]uint32, fats)
	for i := range list {
		list[i] = firstFAT + uint32(i)
		w.fat = append(w.fat, fatSector)
	}
	firstDIF := uint32(len(w.fat))
	for range difs {
		w.fat = append(w.fat, difSector)
	}
	if _, err := w.out.WriteAt(words(w.fat, w.sectorSize), w.place(firstFAT)); err != nil {
		return err
	}
	var pages []byte
	for i, rest := int64(0), list[min(len(list), headerFATs):]; i < difs; i++ {
		n := min(int64(len(rest)), per-1)
		page := words(rest[:n], w.sectorSize)
		next := uint32(endOfChain)
		if i+1 < difs {
			next = firstDIF + uint32(i) + 1
		}
		binary.LittleEndian.PutUint32(page[w.sectorSize-4:], next)
		pages = append(pages, page...)
		rest = rest[n:]
	}
	if _, err := w.out.WriteAt(pages, w.place(firstDIF)); err != nil {
		return err
	}
	if err := w.out.Truncate(w.place(uint32(len(w.fat)))); err != nil {
		return err
	}
	return w.header(list, firstDIF, difs, [...]uint32{dir, miniFAT, uint32(miniFATs)})
}

// header writes the header.
func (w *writer) header(list []uint32, firstDIF uint32, difs int64, first [3]uint32) error {
	h := make([]byte, w.sectorSize)
	copy(h, Signature)
	binary.LittleEndian.PutUint16(h[24:], 0x3E)
	binary.LittleEndian.PutUint16(h[26:], uint16(w.version))
	binary.LittleEndian.PutUint16(h[28:], 0xFFFE) // little endian
	binary.LittleEndian.PutUint16(h[30:], map[int]uint16{3: 9, 4: 12}[w.version])
	binary.LittleEndian.PutUint16(h[32:], 6)
	if w.version == 4 {
		binary.LittleEndian.PutUint32(h[40:], uint32(w.count(int64(len(w.entries))*entrySize)))
	}
	for at, u := range map[int]uint32{44: uint32(len(list)), 48: first[0], 56: miniCutoff, 60: first[1], 64: first[2], 68: endOfChain,
		72: uint32(difs)} {
		binary.LittleEndian.PutUint32(h[at:], u)
	}
	if difs > 0 {
		binary.LittleEndian.PutUint32(h[68:], firstDIF)
	}
	for i := range headerFATs {
		u := uint32(freeSector)
		if i < len(list) {
			u = list[i]
		}
		binary.LittleEndian.PutUint32(h[76+4*i:], u)
	}
	_, err := w.out.WriteAt(h, 0)
	return err
}
