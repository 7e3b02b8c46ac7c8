// Package dialects tells of what kind a log is and reads it with the reader for
// that kind.
package dialects

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"

	"hollowkey/core/logs/dialects/apppackage"
	"hollowkey/core/logs/dialects/chain"
	"hollowkey/core/logs/dialects/driver"
	"hollowkey/core/logs/dialects/engine"
	"hollowkey/core/logs/dialects/events"
	"hollowkey/core/logs/dialects/generic"
	"hollowkey/core/logs/dialects/response"
	"hollowkey/core/logs/dialects/script"
	"hollowkey/core/logs/dialects/servicing"
	"hollowkey/core/logs/evtx"
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// Errors that say why something is not read as a log.
var (
	ErrEmpty  = errors.New("the file is empty")
	ErrBinary = errors.New("this is not text but a binary file")
	ErrNoLog  = errors.New("this is text, but no setup log that is known here")
)

const (
	headLines = 400      // lines looked at to tell the dialect
	headBytes = 1 << 20  // and at most so many bytes
	nulShare  = 1.0 / 50 // more zero bytes than this share mean a binary file
)

// A dialect is one kind of log.
type dialect struct {
	name story.Dialect // as the verdict names it
	// score says how many of the first lines are surely of this dialect.
	score func(lines [][]byte) int
	open  func(file string) story.Reader // a reader for one log of it
}

var known = []dialect{
	{story.Engine, engine.Score, func(f string) story.Reader { return engine.New(f) }},
	{story.Chain, chain.Score, func(f string) story.Reader { return chain.New(f) }},
	{story.Script, script.Score, func(f string) story.Reader { return script.New(f) }},
	{story.Servicing, servicing.Score, func(f string) story.Reader { return servicing.New(f) }},
	{story.Driver, driver.Score, func(f string) story.Reader { return driver.New(f) }},
	{story.Events, events.Score, func(f string) story.Reader { return events.New(f) }},
	{story.Response, response.Score, func(f string) story.Reader { return response.New(f) }},
	{story.AppPackage, apppackage.Score, func(f string) story.Reader { return apppackage.New(f) }},
	{story.Generic, generic.Score, func(f string) story.Reader { return generic.New(f) }},
}

// Read reads one log. name is what the log is called in the story. The errors
// ErrEmpty, ErrBinary and ErrNoLog say that it is none; with ErrNoLog the story
// of a short text may come, which whoever was handed it by its name may still
// take for one.
func Read(ctx context.Context, name string, r io.Reader, opt textfile.Options) (*story.Story, error) {
	var info textfile.Info
	opt.Ahead = &textfile.Ahead{Of: sentence}
	s := sniffer{name: name, ahead: opt.Ahead}
	r, binaryLog := unpacked(r)
	for l, err := range textfile.Lines(ctx, r, opt, &info) {
		if err != nil {
			return nil, fmt.Errorf("%s: after line %d: %w", name, l.Number, err)
		}
		if s.windows == 1 && len(s.head) == 0 && isBinary(info, s.size) {
			return nil, fmt.Errorf("%s: %w", name, ErrBinary)
		}
		s.line(l)
	}
	attempts, chosen := s.finish()
	switch {
	case info.Bytes == 0:
		return nil, fmt.Errorf("%s: %w", name, ErrEmpty)
	case s.size == 0: // as a file is found that was written when the power went
		return nil, fmt.Errorf("%s: %w: its %d bytes are zeros or blanks", name, ErrEmpty, info.Bytes)
	case chosen == "" && float64(s.control) > controlShare*float64(s.size):
		return nil, fmt.Errorf("%s: %w", name, ErrBinary)
	case chosen == "" && isBinary(info, s.size), s.windows <= 1 && isBinary(info, s.size):
		return nil, fmt.Errorf("%s: %w", name, ErrBinary)
	case chosen == "":
		err := fmt.Errorf("%s: %w", name, ErrNoLog)
		if len(attempts) == 0 {
			return nil, err
		}
		src := story.Source{Name: name, Dialect: story.Generic, Encoding: info.Encoding.String(), Bytes: info.Bytes, Lines: info.Lines,
			Unended: info.Unended}
		return &story.Story{Dialect: story.Generic, Attempts: attempts, Sources: []story.Source{src}}, err
	}
	src := story.Source{Name: name, Dialect: chosen, Encoding: info.Encoding.String(), Bytes: info.Bytes,
		Lines: info.Lines, Unended: info.Unended,
		Host: s.around.Host, Build: s.around.Build, Zone: s.around.Zone, Person: s.around.Person}
	if binaryLog != nil {
		src.Encoding, src.Bytes, src.Damaged = "EVTX", binaryLog.Size(), binaryLog.Damaged()
	}
	return &story.Story{Dialect: chosen, Attempts: attempts, Sources: []story.Source{src}}, nil
}

// unpacked gives the text of a log that is kept in a form of its own: of a
// binary event log the XML, an event a line. log is nil for others.
func unpacked(r io.Reader) (text io.Reader, log *evtx.Log) {
	b := bufio.NewReader(r)
	if head, err := b.Peek(len(evtx.Magic)); err != nil || string(head) != evtx.Magic {
		return b, nil
	}
	log = evtx.New(b)
	return log, log
}

// controlShare is the share of control signs from which on a file is no text:
// random bytes hold one in nine, a program or picture more than one in thirty.
const controlShare = 0.03

// isBinary says whether a file is no text: a text in any encoding has fewer
// zeros.
func isBinary(info textfile.Info, size int) bool {
	return float64(info.NULs) > nulShare*float64(size)
}
