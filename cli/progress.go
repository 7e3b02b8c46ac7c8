// This file shows how far a long reading is, on a terminal only: in a file the
// bar would be noise.

package cli

import (
	"io"
	"os"
	"time"

	"github.com/schollz/progressbar/v3"
	"golang.org/x/term"
)

const (
	progressAfter = time.Second       // work that is done sooner shows none
	progressSize  = 100 * 1000 * 1000 // bytes below which the work is surely done sooner
)

// A progress shows how far the reading is, on standard error, only when that is
// a terminal and the work takes a while.
type progress struct {
	bar   *progressbar.ProgressBar // nil where nothing is shown
	since time.Time                // the reading began
	read  int64                    // bytes
	shown bool                     // it stands on the screen
}

// progress makes the bar for reading, or one that shows nothing: where nobody
// looks at a terminal, or where the reading is over before an eye sees it.
func (a *app) progress(total int64) *progress {
	f, ok := a.err.(*os.File)
	if !ok || total < progressSize || !term.IsTerminal(int(f.Fd())) {
		return &progress{}
	}
	return &progress{since: time.Now(), bar: progressbar.NewOptions64(total, progressbar.OptionSetWriter(a.err),
		progressbar.OptionSetDescription("reading"),
		progressbar.OptionShowBytes(true), progressbar.OptionThrottle(200*time.Millisecond), progressbar.OptionClearOnFinish(),
		progressbar.OptionSetWidth(30))}
}

// search shows how far a search through files is.
func (a *app) search(total int64) (add func(n int64), stop func()) {
	p := a.progress(total)
	return p.add, p.stop
}

// reader counts what is read through it.
func (p *progress) reader(r io.Reader) io.Reader {
	if p.bar == nil {
		return r
	}
	return countedReader{r, p}
}

// stop takes the bar away, so that the verdict stands on a clean screen.
func (p *progress) stop() {
	if p.bar != nil && p.shown {
		p.bar.Finish()
	}
}

type countedReader struct {
	r io.Reader // what is read
	p *progress // that is told
}

// Read reads and counts.
func (c countedReader) Read(b []byte) (int, error) {
	n, err := c.r.Read(b)
	c.p.add(int64(n))
	return n, err
}

// add counts bytes that were worked through.
func (p *progress) add(n int64) {
	if p.bar == nil {
		return
	}
	if p.read += n; time.Since(p.since) > progressAfter {
		p.shown = true
		p.bar.Set64(p.read)
	}
}
