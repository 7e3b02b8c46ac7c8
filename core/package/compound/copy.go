// This file copies what did not change from file to file.

package compound

import (
	"bufio"
	"cmp"
	"io"
	"os"
	"slices"
)

const (
	copyBuffer = 1 << 20 // bytes
	largeBytes = 1 << 20 // streams from here on keep their place when their file is copied
)

// copyContent appends a stream's contents to out. A stream of another file on
// disk is copied run by run, which the OS can do without our reading it.
func copyContent(out *os.File, c Content) error {
	if s, ok := c.(*Stream); ok {
		if in, ok := s.r.(*os.File); ok {
			return s.copyFrom(in, out)
		}
	}
	n, err := io.Copy(out, bufio.NewReaderSize(io.LimitReader(c.Reader(), c.Size()), copyBuffer))
	if err == nil && n < c.Size() {
		err = io.ErrUnexpectedEOF
	}
	return err
}

// copyFrom copies the stream's runs file to file, so that the OS can do it
// without the bytes passing through here.
func (s *Stream) copyFrom(in, out *os.File) error {
	left := s.size
	for _, r := range s.runs {
		n := min(r.n, left)
		if _, err := in.Seek(r.at, io.SeekStart); err != nil {
			return err
		}
		if _, err := io.CopyN(out, in, n); err != nil {
			if err == io.EOF {
				err = damaged("a stream of %d bytes is cut off", s.size)
			}
			return err
		}
		left -= n
	}
	return nil
}

// begin readies the output: empty, or a copy of the file that most of the
// contents come from, in which its large streams stay where they are. One copy
// of a whole file is far quicker than copies of its parts.
func (w *writer) begin() error {
	// Cutting an empty file to nothing makes some file systems write it out at
	// once when it is closed.
	if info, err := w.out.Stat(); err != nil {
		return err
	} else if info.Size() > 0 {
		if err := w.out.Truncate(0); err != nil {
			return err
		}
	}
	in, kept := w.source()
	if in == nil {
		return nil
	}
	info, err := in.Stat()
	if err != nil {
		return err
	}
	sectors := (info.Size() - 1) / w.sectorSize
	total := int64(0)
	for _, s := range kept {
		total += s.size
	}
	if total < info.Size()/2 || sectors > maxRegular {
		return nil
	}
	copied := make(chan error, 1)
	go func() { copied <- w.copyWhole(in) }() // while the table is laid out; both take their time for large files
	if !w.keep(kept, sectors) {
		w.fat, w.free = nil, nil // written anew from the beginning
	}
	return <-copied
}

// copyWhole copies the old file as it is; what changed is then written over it.
func (w *writer) copyWhole(in *os.File) error {
	for _, f := range []*os.File{in, w.out} {
		if _, err := f.Seek(0, io.SeekStart); err != nil {
			return err
		}
	}
	if _, err := io.Copy(w.out, in); err != nil {
		return err
	}
	_, err := w.out.WriteAt(make([]byte, len(Signature)), 0) // no compound file until it is whole
	return err
}

// keep takes the sectors of streams as they are in the copied file, and lists
// the others as free. It is false when a stream is cut off in the last sector.
func (w *writer) keep(kept []*slot, sectors int64) bool {
	w.fat = make([]uint32, sectors)
	var used []span
	for _, s := range kept {
		var list []span
		for _, r := range s.node.Content.(*Stream).runs {
			p := span{uint32(r.at/w.sectorSize - 1), r.n / w.sectorSize}
			if int64(p.first)+p.n > sectors {
				return false
			}
			list = append(list, p)
		}
		w.link(list)
		s.start = startOf(list)
		used = append(used, list...)
	}
	slices.SortFunc(used, func(a, b span) int { return cmp.Compare(a.first, b.first) })
	at := int64(0)
	for _, u := range append(used, span{uint32(sectors), 0}) {
		if n := int64(u.first) - at; n > 0 {
			w.free = append(w.free, span{uint32(at), n})
		}
		at = max(at, int64(u.first)+u.n)
	}
	for _, s := range kept {
		s.kept = true
	}
	return true
}

// source finds the file with the same size of sectors that large streams come
// from, and those streams.
func (w *writer) source() (in *os.File, kept []*slot) {
	for _, s := range w.entries {
		c, ok := s.node.Content.(*Stream)
		if !ok || s.size < largeBytes || c.sectorSize != w.sectorSize {
			continue
		}
		f, ok := c.r.(*os.File)
		if ok && (in == nil || in == f) {
			in = f
			kept = append(kept, s)
		}
	}
	return in, kept
}
