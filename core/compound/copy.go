package compound

import (
	"bufio"
	"io"
	"os"
)

const copyBuffer = 1 << 20 // bytes

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
