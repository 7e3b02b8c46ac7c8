// This file reads a stream out of its runs.

package compound

import (
	"fmt"
	"io"
	"sort"
)

// A run is a piece of a stream that lies in one place of the file.
type run struct {
	from int64 // in the stream
	at   int64 // in what lies below
	n    int64 // bytes
}

type runs []run

// add appends n bytes at a place, to the last run when they follow it.
func (r runs) add(at, n int64) runs {
	if k := len(r) - 1; k >= 0 {
		if r[k].at+r[k].n == at {
			r[k].n += n
			return r
		}
		return append(r, run{r[k].from + r[k].n, at, n})
	}
	return append(r, run{0, at, n})
}

// size is how many bytes the runs hold together.
func (r runs) size() int64 {
	if len(r) == 0 {
		return 0
	}
	last := r[len(r)-1]
	return last.from + last.n
}

// each lists the numbers of the sectors that the runs cover.
func (r runs) each(sectorSize int64) (list []uint32) {
	for _, p := range r {
		for o := int64(0); o < p.n; o += sectorSize {
			list = append(list, uint32((p.at+o)/sectorSize-1))
		}
	}
	return list
}

// A Stream is the contents of one stream. It is an [io.ReaderAt], and reads
// through to the file at each call.
type Stream struct {
	r    io.ReaderAt // the file
	runs runs        // where its bytes lie
	size int64       // bytes

	sectorSize int64 // of the file
}

// Size is the stream's length in bytes.
func (s *Stream) Size() int64 { return s.size }

// Reader reads the stream from its beginning.
func (s *Stream) Reader() io.Reader { return io.NewSectionReader(s, 0, s.size) }

// ReadAt implements [io.ReaderAt].
func (s *Stream) ReadAt(p []byte, off int64) (n int, err error) {
	if off < 0 {
		return 0, fmt.Errorf("read at %d", off)
	}
	for n < len(p) && off < s.size {
		i := sort.Search(len(s.runs), func(i int) bool { return s.runs[i].from > off }) - 1
		if i < 0 || off-s.runs[i].from >= s.runs[i].n {
			return n, damaged("byte %d of a stream is nowhere", off)
		}
		r := s.runs[i]
		want := min(int64(len(p)-n), r.n-(off-r.from), s.size-off)
		got, err := s.r.ReadAt(p[n:int64(n)+want], r.at+off-r.from)
		n += got
		off += int64(got)
		if int64(got) < want {
			if err == io.EOF || err == nil {
				err = damaged("a stream of %d bytes is cut off at %d", s.size, off)
			}
			return n, err
		}
	}
	if n < len(p) {
		return n, io.EOF
	}
	return n, nil
}

// Stream opens a stream of the file.
func (f *File) Stream(e *Entry) (*Stream, error) {
	if e.Storage {
		return nil, fmt.Errorf("%q is a storage, not a stream", e.Name)
	}
	return f.stream(e, fmt.Sprintf("stream %q", e.Name))
}

// stream finds where the bytes of an entry lie. A size larger than the file is
// damage and is refused before anything is set aside for it.
func (f *File) stream(e *Entry, what string) (*Stream, error) {
	s := &Stream{r: f.r, size: e.size, sectorSize: f.sectorSize}
	var err error
	switch {
	case e.size == 0:
	case e.size > f.size:
		return nil, damaged("%s has %d bytes in a file of %d", what, e.size, f.size)
	case e.size < miniCutoff && f.mini != nil:
		s.r = f.mini
		s.runs, err = walk(f.miniFAT, e.start, e.size, miniSectorSize, func(s uint32) int64 { return int64(s) * miniSectorSize }, what)
	default:
		s.runs, err = f.chain(e.start, e.size, what)
	}
	return s, err
}

// ReadAll reads a stream whole. One longer than limit bytes is an error.
func (f *File) ReadAll(e *Entry, limit int64) ([]byte, error) {
	s, err := f.Stream(e)
	if err != nil {
		return nil, err
	}
	if s.size > limit {
		return nil, damaged("stream %q has %d bytes; at most %d are read at once", e.Name, s.size, limit)
	}
	b := make([]byte, s.size) // no more than the file has, as stream has seen
	if _, err := s.ReadAt(b, 0); err != nil && err != io.EOF {
		return nil, err
	}
	return b, nil
}
