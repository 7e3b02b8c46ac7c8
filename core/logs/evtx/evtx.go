// Package evtx turns binary event logs into the XML that the OS exports of
// them, one event a line, so that whatever reads an export reads the log
// itself.
//
// Sources: [MS-EVEN6] 2.2.12 to 2.2.18 for the binary XML within a record. The
// file around it is a head of 4096 bytes and chunks of 65536, each with its own
// names and templates; offsets within a chunk count from its begin, all numbers
// are little-endian.
package evtx

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"time"
)

// Sizes of the file's parts, in bytes.
const (
	headSize   = 4096
	chunkSize  = 65536
	chunkHead  = 512 // before the first record of a chunk
	recordHead = 24  // magic, size, number, time
	recordTail = 4   // the size once more
	maxChunks  = 1 << 16
	// maxChunkTokens bounds the work on one chunk, whose records can name the
	// same long template over and over; those of the OS have some 20,000 in
	// all.
	maxChunkTokens = 400000
	chunkMagic     = "ElfChnk\x00"
	recordMagic    = 0x00002a2a
)

// Magic is what a binary event log begins with.
const Magic = "ElfFile\x00"

// ErrTruncated says that a file ends within its head.
var ErrTruncated = errors.New("the event log ends within its head")

// A Log is a binary event log that is read as XML.
type Log struct {
	r       io.Reader
	chunk   []byte       // the one under way
	at      int          // of the next record in it
	out     bytes.Buffer // XML that was not read yet
	chunks  int          // read so far
	tokens  int          // of the chunk's records
	records int
	damaged int // chunks and records that could not be read
	begun   bool
	err     error                  // that ends the reading
	within  func(t time.Time) bool // which records count; nil for all
}

// New reads a log, the head of which is still to come.
func New(r io.Reader) *Log { return &Log{r: r} }

// Within leaves out the records that were not written at such a time: they cost
// next to nothing.
func (l *Log) Within(counts func(t time.Time) bool) *Log {
	l.within = counts
	return l
}

// Damaged is how many chunks and records could not be read so far.
func (l *Log) Damaged() int { return l.damaged }

// Size is how many bytes of the file were read so far.
func (l *Log) Size() int64 { return headSize + int64(l.chunks)*chunkSize }

// Records is how many events were read so far.
func (l *Log) Records() int { return l.records }

// Read gives the next bytes of XML.
func (l *Log) Read(p []byte) (int, error) {
	for l.out.Len() == 0 && l.err == nil {
		l.err = l.next()
	}
	if l.out.Len() > 0 {
		return l.out.Read(p)
	}
	return 0, l.err
}

// next writes one more event to out, or reads the chunk of the next.
func (l *Log) next() error {
	if !l.begun {
		l.begun = true
		head := make([]byte, headSize)
		if n, err := io.ReadFull(l.r, head); err != nil {
			if n < len(Magic) || errors.Is(err, io.ErrUnexpectedEOF) {
				return ErrTruncated
			}
			return err
		}
	}
	if l.chunk == nil {
		return l.nextChunk()
	}
	from, size, ok := l.record()
	// A chunk that is damaged, or made to unfold without end, costs itself
	// only.
	if !ok || l.tokens > maxChunkTokens {
		l.chunk = nil
		return nil
	}
	// A record's time stands in front of it: what is not asked for is never
	// unfolded.
	if l.within != nil && !l.within(fileTime(binary.LittleEndian.Uint64(l.chunk[from+16:]))) {
		return nil
	}
	x := xmlWriter{chunk: l.chunk, out: &l.out, begun: l.out.Len()}
	err := x.record(from, size)
	if l.tokens += x.tokens; err != nil {
		l.damaged++
		l.out.Truncate(x.begun)
		return nil
	}
	l.records++
	l.out.WriteByte('\n')
	return nil
}

// nextChunk reads a chunk. One that is none is passed over: a log that was not
// closed has some at its end that were never written.
func (l *Log) nextChunk() error {
	if l.chunks >= maxChunks {
		return fmt.Errorf("the event log has more than %d chunks", maxChunks)
	}
	chunk := make([]byte, chunkSize)
	n, err := io.ReadFull(l.r, chunk)
	switch {
	case errors.Is(err, io.ErrUnexpectedEOF) && n > chunkHead: // cut off: what is there counts
		l.damaged++
		clear(chunk[n:])
	case errors.Is(err, io.ErrUnexpectedEOF):
		return io.EOF
	case err != nil:
		return err
	}
	l.chunks++
	l.tokens = 0
	switch {
	case bytes.HasPrefix(chunk, []byte(chunkMagic)):
		l.chunk, l.at = chunk, chunkHead
	case len(bytes.Trim(chunk, "\x00")) > 0:
		l.damaged++
	}
	return nil
}

// record finds the next record of the chunk, past what is damaged: a record
// begins with its magic and ends with its size.
func (l *Log) record() (from, size int, ok bool) {
	damaged := false
	for l.at+recordHead+recordTail <= len(l.chunk) {
		rest := l.chunk[l.at:]
		magic, size := binary.LittleEndian.Uint32(rest), int(binary.LittleEndian.Uint32(rest[4:]))
		if magic == recordMagic && size >= recordHead+recordTail && size <= len(rest) &&
			int(binary.LittleEndian.Uint32(rest[size-recordTail:])) == size {
			l.at += size
			return l.at - size, size, true
		}
		if !damaged && magic != recordMagic && len(bytes.Trim(rest[:recordHead], "\x00")) == 0 {
			break // the free rest of the chunk
		}
		if !damaged {
			l.damaged++
		}
		damaged = true
		next := bytes.Index(rest[1:], recordBegin)
		if next < 0 {
			break
		}
		l.at += 1 + next
	}
	l.at = len(l.chunk)
	return 0, 0, false
}

// recordBegin are the bytes of recordMagic.
var recordBegin = binary.LittleEndian.AppendUint32(nil, recordMagic)
