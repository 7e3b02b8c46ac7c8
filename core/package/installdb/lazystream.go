// This file opens streams when they are read.

package installdb

import (
	"io"

	"hollowkey/core/package/compound"
)

// A rowStream is the stream of a row, opened when it is read: a package may
// have large ones that nobody asks for.
type rowStream struct {
	file  *compound.File  // where it lies
	entry *compound.Entry // its entry in the directory
}

// Size is the stream's size in bytes, known without reading it.
func (s rowStream) Size() int64 { return s.entry.Size() }

// Reader reads the stream; damage in its chain comes as an error of the reader.
func (s rowStream) Reader() io.Reader {
	c, err := s.file.Stream(s.entry)
	if err != nil {
		return failing{err}
	}
	return c.Reader()
}

type failing struct{ err error } // is told to whoever reads

// Read gives the error that opening the stream gave: it is told where the
// stream is wanted, not where its row is read.
func (f failing) Read([]byte) (int, error) { return 0, f.err }

// lazyStream is the cell of a stream column. One whose stream is missing is
// empty: the engine shows it so.
func (db *Database) lazyStream(name string) (Value, error) {
	if c, ok := db.streams[name]; ok {
		return Value{Stream: c}, nil
	}
	e := db.entry(name, false)
	if e == nil {
		return Value{Stream: compound.Bytes(nil)}, nil
	}
	return Value{Stream: rowStream{db.file, e}}, nil
}
