// Package dialects tells of what kind a log is and reads it with the reader for
// that kind.
package dialects

import (
	"bytes"
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
	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// Errors that say why something is not read as a log.
var (
	ErrEmpty  = errors.New("the file is empty")
	ErrBinary = errors.New("this is not text but a binary file")
	ErrNoLog  = errors.New("this is text, but no set-up log that is known here")
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
// ErrEmpty, ErrBinary and ErrNoLog say that it is none.
func Read(ctx context.Context, name string, r io.Reader, opt textfile.Options) (*story.Story, error) {
	var (
		info   textfile.Info
		head   []textfile.Line
		size   int
		reader story.Reader
		chosen dialect
	)
	choose := func() bool {
		chosen = detect(head)
		if chosen.open == nil {
			return false
		}
		reader = chosen.open(name)
		for _, l := range head {
			reader.Line(l)
		}
		head = nil
		return true
	}
	for l, err := range textfile.Lines(ctx, r, opt, &info) {
		if err != nil {
			return nil, fmt.Errorf("%s: after line %d: %w", name, l.Number, err)
		}
		if reader != nil {
			reader.Line(l)
			continue
		}
		size += len(l.Text)
		head = append(head, textfile.Line{Number: l.Number, Text: bytes.Clone(l.Text), Cut: l.Cut})
		if len(head) < headLines && size < headBytes {
			continue
		}
		if binary(info, size) {
			return nil, fmt.Errorf("%s: %w", name, ErrBinary)
		}
		if !choose() {
			return nil, fmt.Errorf("%s: %w", name, ErrNoLog)
		}
	}
	if reader == nil {
		switch {
		case info.Bytes == 0 || size == 0:
			return nil, fmt.Errorf("%s: %w", name, ErrEmpty)
		case binary(info, size):
			return nil, fmt.Errorf("%s: %w", name, ErrBinary)
		case !choose():
			return nil, fmt.Errorf("%s: %w", name, ErrNoLog)
		}
	}
	s := &story.Story{Dialect: chosen.name, Attempts: reader.Finish()}
	s.Sources = []story.Source{{
		Name: name, Dialect: chosen.name, Encoding: info.Encoding.String(),
		Bytes: info.Bytes, Lines: info.Lines, Unended: info.Unended,
	}}
	return s, nil
}

// binary says whether a file is no text: a text in any encoding has fewer zeros.
func binary(info textfile.Info, size int) bool {
	return float64(info.NULs) > nulShare*float64(size)
}

// detect picks the dialect that most of the first lines are of.
func detect(head []textfile.Line) (best dialect) {
	lines := make([][]byte, len(head))
	for i, l := range head {
		lines[i] = l.Text
	}
	most := 0
	for _, d := range known {
		if n := d.score(lines); n > most {
			best, most = d, n
		}
		if most > 2*len(lines) { // most lines are surely of this one
			break
		}
	}
	return best
}
