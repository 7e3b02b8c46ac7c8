// Package gather packs logs, verdicts and facts into one zip for second-line
// support, with private data masked in all of it, file names too.
package gather

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"hollowkey/core/logs/mask"
	"hollowkey/core/machine"
	"hollowkey/core/why/checks"
)

// Options say what is packed.
type Options struct {
	Logs    []string        // files
	There   []string        // logs that lie on the machine, by their paths there
	Limit   int64           // bytes of them that are packed at most, the first ones first; 0: all
	Case    string          // folder of a case; may be empty
	Machine machine.Machine // facts and checks of; may be nil
	Mask    *mask.Masker    // knows the names to be masked
	Now     time.Time       // of the packing
	Key     []byte          // of the site, for the machine's pseudonym; empty: it has none
	Name    string          // of the machine; empty: nobody knows it
}

// A File is one file of the zip.
type File struct {
	Name   string        `json:"name"`   // in the zip, masked
	Size   int64         `json:"size"`   // as packed, in bytes
	SHA256 string        `json:"sha256"` // of the masked contents, in hex
	from   string        // on this computer; empty when made here
	on     machine.Files // the machine that it lies on, at from; nil for this computer
	made   []byte        // contents of a file that lies nowhere
}

// A Report is the zip's manifest.
type Report struct {
	Schema  string            `json:"schema"`             // names the shape
	Made    time.Time         `json:"made"`               // UTC
	Files   []File            `json:"files"`              // in the order of the zip
	Machine string            `json:"machine,omitempty"`  // its pseudonym, the same in all zips of a site
	LeftOut []string          `json:"left_out,omitempty"` // and why
	Masked  map[mask.Kind]int `json:"masked"`             // how often
}

// Schema names the shape of the manifest.
const Schema = "hollowkey.gather/1"

const (
	manifestName = "manifest.json"
	maxFiles     = 5000    // in one archive; a machine's logs of setups are hundreds
	sniffed      = 8 << 10 // bytes looked at to tell text from other files
)

// leftOut are parts of a case that stay: what was taken away may hold anything.
var leftOut = []string{"quarantine"}

// Pseudonym stands for a machine in zips whose names are masked: the same for
// the same machine at one site, and no way back without the site's key. It is
// empty without key or name.
func Pseudonym(key []byte, machine string) string {
	if len(key) == 0 || machine == "" {
		return ""
	}
	h := hmac.New(sha256.New, key)
	h.Write([]byte(strings.ToLower(machine)))
	return "machine-" + hex.EncodeToString(h.Sum(nil)[:6])
}

// Plan lists what would be packed. left tells what stays out and why. It fails
// for a log that is named and cannot be read.
func Plan(opt Options) (files []File, left []string, err error) {
	taken := map[string]bool{}
	add := func(name, from string) {
		unique := name
		for n := 2; taken[strings.ToLower(unique)]; n++ {
			unique = strings.TrimSuffix(name, path.Ext(name)) + fmt.Sprintf("-%d", n) + path.Ext(name)
		}
		taken[strings.ToLower(unique)] = true
		files = append(files, File{Name: unique, from: from})
	}
	// Only text is packed: what cannot be read cannot be masked.
	for _, l := range opt.Logs {
		if text, err := isText(l); err != nil {
			return nil, nil, err
		} else if !text {
			left = append(left, filepath.Base(l)+": not a text, so it cannot be masked")
			continue
		}
		add("logs/"+filepath.Base(l), l)
	}
	packed := int64(0)
	for _, l := range opt.There {
		info, err := opt.Machine.Stat(l)
		switch text, bad := isTextOn(opt.Machine, l); {
		case err != nil || bad != nil:
			left = append(left, l+": it cannot be read")
			continue
		case !text:
			left = append(left, l+": not a text, so it cannot be masked")
			continue
		case opt.Limit > 0 && packed+info.Size > opt.Limit:
			left = append(left, fmt.Sprintf("%s: its %d bytes go beyond the limit", l, info.Size))
			continue
		}
		packed += info.Size
		add("logs/"+strings.ReplaceAll(strings.Replace(l, ":", "", 1), `\`, "/"), l) // with its folders, as names come more than once
		files[len(files)-1].on = opt.Machine
	}
	if opt.Case != "" {
		err = filepath.WalkDir(opt.Case, func(p string, e fs.DirEntry, err error) error {
			if err != nil {
				return err
			}
			rel, err := filepath.Rel(opt.Case, p)
			if err != nil {
				return err
			}
			switch {
			case e.IsDir() && slices.Contains(leftOut, rel):
				left = append(left, rel+": what was taken away from the machine")
				return filepath.SkipDir
			case !e.Type().IsRegular() || strings.HasSuffix(rel, ".new"):
				return nil
			case len(files) >= maxFiles:
				return fmt.Errorf("%s holds more than %d files", opt.Case, maxFiles)
			}
			text, err := isText(p)
			if err == nil && !text {
				left = append(left, rel+": not a text, so it cannot be masked")
				return nil
			}
			add("case/"+filepath.ToSlash(rel), p)
			return err
		})
	}
	return files, left, err
}

// isText says whether a file can be read as text in some encoding.
func isText(name string) (bool, error) {
	f, err := os.Open(name)
	if err != nil {
		return false, err
	}
	return textIn(f)
}

// isTextOn says whether a file of the machine is text, by its first bytes.
func isTextOn(m machine.Files, name string) (bool, error) {
	f, err := m.Open(name)
	if err != nil {
		return false, err
	}
	return textIn(f)
}

// textIn says the same of an open file, and closes it.
func textIn(f io.ReadCloser) (bool, error) {
	defer f.Close()
	head := make([]byte, sniffed)
	n, err := io.ReadFull(f, head)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		return false, err
	}
	return mask.IsText(head[:n]), nil
}

// Write packs everything. It learns names from all texts first, so that a name
// that one log tells is masked in the others, too.
func Write(ctx context.Context, w io.Writer, opt Options) (Report, error) {
	rep := Report{Schema: Schema, Made: opt.Now.UTC().Truncate(time.Second), Machine: Pseudonym(opt.Key, opt.Name)}
	files, left, err := Plan(opt)
	if err != nil {
		return rep, err
	}
	rep.LeftOut = left
	made, err := facts(opt)
	if err != nil {
		return rep, err
	}
	files = append(files, made...)
	for _, f := range files {
		if err := ctx.Err(); err != nil {
			return rep, err
		}
		in, err := f.open()
		if err != nil {
			return rep, err
		}
		err = opt.Mask.LearnFrom(in)
		in.Close()
		if err != nil {
			return rep, fmt.Errorf("%s: %w", f.Name, err)
		}
	}
	z := zip.NewWriter(w)
	for _, f := range files {
		if err := ctx.Err(); err != nil {
			return rep, err
		}
		if f, err = pack(z, f, opt); err != nil {
			return rep, err
		}
		rep.Files = append(rep.Files, f)
	}
	for i, l := range rep.LeftOut {
		rep.LeftOut[i] = opt.Mask.Mask(l)
	}
	rep.Masked = opt.Mask.Counts()
	b, err := json.MarshalIndent(rep, "", "  ")
	if err != nil {
		return rep, err
	}
	out, err := z.Create(manifestName)
	if err == nil {
		_, err = out.Write(b)
	}
	return rep, errors.Join(err, z.Close())
}

// open opens the file, or gives what was made here.
func (f File) open() (io.ReadCloser, error) {
	if f.from == "" {
		return io.NopCloser(bytes.NewReader(f.made)), nil
	}
	if f.on != nil {
		return f.on.Open(f.from)
	}
	return os.Open(f.from)
}

// pack writes one file, masked, and gives its size and hash.
func pack(z *zip.Writer, f File, opt Options) (File, error) {
	f.Name = opt.Mask.Mask(f.Name)
	in, err := f.open()
	if err != nil {
		return f, err
	}
	defer in.Close()
	out, err := z.CreateHeader(&zip.FileHeader{Name: f.Name, Method: zip.Deflate, Modified: opt.Now})
	if err != nil {
		return f, err
	}
	h := sha256.New()
	n := counter{}
	if err := opt.Mask.Copy(io.MultiWriter(out, h, &n), in); err != nil {
		return f, fmt.Errorf("%s: %w", f.Name, err)
	}
	f.Size, f.SHA256 = n.n, hex.EncodeToString(h.Sum(nil))
	return f, nil
}

type counter struct{ n int64 } // bytes so far

// Write counts.
func (c *counter) Write(p []byte) (int, error) { c.n += int64(len(p)); return len(p), nil }

// facts are what is told of the machine, made for this zip.
func facts(opt Options) ([]File, error) {
	if opt.Machine == nil {
		return nil, nil
	}
	f := opt.Machine.Facts()
	about := struct {
		Machine string
		OS      machine.OS
		Drives  []machine.Drive
		Started time.Time
	}{opt.Machine.Name(), f.OS, f.Drives, f.Booted}
	var out []File
	for name, v := range map[string]any{"machine/facts.json": about, "machine/ready.json": checks.Ready(opt.Machine, checks.Options{})} {
		b, err := json.MarshalIndent(v, "", "  ")
		if err != nil {
			return nil, err
		}
		out = append(out, File{Name: name, made: b})
	}
	slices.SortFunc(out, func(a, b File) int { return strings.Compare(a.Name, b.Name) })
	return out, nil
}
