// Package paged lets lines of a log of any size be read at any place: it keeps
// the text, as it was decoded, in a scratch file, and only where every few
// hundredth line begins in memory.
package paged

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"io"
	"os"
	"strings"

	"hollowkey/core/logs/textfile"
)

const (
	every    = 256     // lines from one remembered place to the next
	longLine = 8 << 10 // bytes of one line that are given
)

// Pages are the lines of a log. Close deletes the scratch file.
type Pages struct {
	f     *os.File
	at    []int64 // where each of the lines 1, 1+every, … begins
	lines int
}

// Copy reads a log.
func Copy(ctx context.Context, r io.Reader, opt textfile.Options) (*Pages, error) {
	f, err := os.CreateTemp("", "hollowkey-view-*")
	if err != nil {
		return nil, err
	}
	p := &Pages{f: f}
	w := bufio.NewWriterSize(f, 1<<20)
	place := int64(0)
	for l, err := range textfile.Lines(ctx, r, opt, nil) {
		if err != nil {
			return nil, errors.Join(err, p.Close())
		}
		if p.lines%every == 0 {
			p.at = append(p.at, place)
		}
		p.lines++
		n, err := w.Write(l.Text)
		if err == nil {
			err = w.WriteByte('\n')
		}
		if err != nil {
			return nil, errors.Join(err, p.Close())
		}
		place += int64(n) + 1
	}
	if err := w.Flush(); err != nil {
		return nil, errors.Join(err, p.Close())
	}
	return p, nil
}

// Close deletes the scratch file.
func (p *Pages) Close() error { return errors.Join(p.f.Close(), os.Remove(p.f.Name())) }

// Len is how many lines there are.
func (p *Pages) Len() int { return p.lines }

// Lines gives up to n lines from a number on, which counts from 1.
func (p *Pages) Lines(from, n int) (lines []string, err error) {
	err = p.walk(max(from, 1), func(_ int, line []byte) bool {
		if len(lines) >= n {
			return false
		}
		lines = append(lines, strings.ToValidUTF8(string(line[:min(len(line), longLine)]), "·"))
		return len(lines) < n
	})
	return lines, err
}

// walk hands over lines from a number on, until take wants no more.
func (p *Pages) walk(from int, take func(number int, line []byte) bool) error {
	if from > p.lines {
		return nil
	}
	block := (from - 1) / every
	r := bufio.NewReaderSize(io.NewSectionReader(p.f, p.at[block], 1<<62), 256<<10)
	for number := block*every + 1; number <= p.lines; number++ {
		line, err := r.ReadSlice('\n')
		whole := line
		for errors.Is(err, bufio.ErrBufferFull) { // a line longer than the buffer: its beginning is enough
			whole = bytes.Clone(whole[:min(len(whole), longLine)])
			_, err = r.ReadSlice('\n')
		}
		if err != nil && err != io.EOF {
			return err
		}
		if number >= from && !take(number, bytes.TrimSuffix(whole, []byte("\n"))) {
			return nil
		}
	}
	return nil
}

// Find gives the first line from a number on that holds one of some words,
// letter case aside; 0 where there is none. Backwards it is the last one before
// it.
func (p *Pages) Find(words []string, from int, backwards bool) (int, error) {
	low := make([][]byte, len(words))
	for i, w := range words {
		low[i] = bytes.ToLower([]byte(w))
	}
	has := func(line []byte) bool {
		line = bytes.ToLower(line)
		for _, w := range low {
			if len(w) > 0 && bytes.Contains(line, w) {
				return true
			}
		}
		return false
	}
	found := 0
	if !backwards {
		err := p.walk(max(from, 1), func(n int, line []byte) bool {
			if has(line) {
				found = n
			}
			return found == 0
		})
		return found, err
	}
	for block := (min(from, p.lines+1) - 2) / every; block >= 0 && found == 0; block-- {
		err := p.walk(block*every+1, func(n int, line []byte) bool {
			if n >= from || n > (block+1)*every {
				return false
			}
			if has(line) {
				found = n
			}
			return true
		})
		if err != nil {
			return 0, err
		}
	}
	return found, nil
}
