// Package bounded reads what may come from a stranger, or may have grown, up to
// a limit and no further.
package bounded

import (
	"errors"
	"fmt"
	"io"
	"os"
)

// ErrTooLarge is wrapped by the error about something over its limit.
var ErrTooLarge = errors.New("too large")

// ReadFile reads a file of at most so many bytes. A longer one is
// [ErrTooLarge], before more than that is in memory; links are followed.
func ReadFile(name string, most int64) ([]byte, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	b, err := ReadAll(f, most)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return b, nil
}

// ReadAll reads to the end of r, which must come within so many bytes. Else it
// is [ErrTooLarge], and what was read so far is not given.
func ReadAll(r io.Reader, most int64) ([]byte, error) {
	b, err := io.ReadAll(io.LimitReader(r, most+1))
	if err == nil && int64(len(b)) > most {
		err = fmt.Errorf("%w: it has more than the %d bytes that are read of it", ErrTooLarge, most)
	}
	if err != nil {
		return nil, err
	}
	return b, nil
}
