// This file lists what a setup program carries, without running it.

package unpack

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"

	"hollowkey/core/package/cabinet"
	"hollowkey/core/package/compound"
)

const (
	scanChunk  = 1 << 20 // bytes read at once
	maxCarried = 1000    // things in one program
)

// marks are what carried files begin with.
var marks = [][]byte{[]byte(compound.Signature), []byte(cabinet.Signature + "\x00\x00\x00\x00"), []byte("PK\x03\x04")}

// program finds the packages, cabinets and zips that a setup program carries in
// its resources, sections or behind its end, by their structure. What is found
// is an item; archives are gone through.
func (w *walk) program(r source, size int64, prefix string, depth int) error {
	if depth >= maxDeep {
		return nil
	}
	sections := peSections(r, size)
	zipped := hasZipEnd(r, size)
	buf := make([]byte, scanChunk+16)
	found, idle := 0, [3]int{}
	for at := int64(1); at < size; {
		n, err := r.ReadAt(buf, at)
		if err != nil && err != io.EOF {
			return err
		}
		next := at + scanChunk
		ahead := [3]int{} // where each mark stands next; -1 for nowhere
		for pos := 0; pos < n; {
			hit, mark := firstMark(buf[:n], pos, &ahead)
			if hit < 0 || hit >= scanChunk && n > scanChunk {
				break
			}
			start := at + int64(hit)
			length := int64(0)
			if idle[mark] < maxFalse && (mark != zipMark || zipped) { // a zip's end would be searched for behind each of any number of marks
				if length, err = w.carried(r, start, size, mark, prefix, sections, depth); err != nil {
					return err
				}
			}
			if length == 0 {
				idle[mark]++
				pos = hit + 1
				continue
			}
			if found++; found > maxCarried {
				return fmt.Errorf("more than %d packages and archives are inside", maxCarried)
			}
			next = start + length
			break
		}
		at = next
	}
	return nil
}

// maxFalse is how many marks of a kind may have nothing behind them; programs
// have a few among their own code.
const maxFalse = 2000

// zipMark is the place of a zip's in marks.
const zipMark = 2

// zipTail is how near the end of a file a zip's directory ends: behind it
// stands a comment of at most 65,535 bytes; [APPNOTE] 4.3.16.
const zipTail = 22 + 1<<16

// hasZipEnd says whether a file has what each zip has at its end.
func hasZipEnd(r source, size int64) bool {
	b := make([]byte, min(size, zipTail))
	if _, err := r.ReadAt(b, size-int64(len(b))); err != nil && err != io.EOF {
		return false
	}
	return bytes.Contains(b, []byte("PK\x05\x06"))
}

// firstMark finds the first mark of something carried from a place on. ahead
// remembers where each stands, so that one that is rare is not looked for again
// at each that is not.
func firstMark(b []byte, from int, ahead *[3]int) (at, mark int) {
	at = -1
	for i, m := range marks {
		if ahead[i] >= 0 && (ahead[i] < from || from == 0) {
			if ahead[i] = bytes.Index(b[from:], m); ahead[i] >= 0 {
				ahead[i] += from
			}
		}
		if k := ahead[i]; k >= 0 && (at < 0 || k < at) {
			at, mark = k, i
		}
	}
	return at, mark
}

// carried takes what begins at a byte, and gives its length; 0 when it only
// looked like something.
func (w *walk) carried(r source, start, size int64, mark int, prefix string, sections []peSection, depth int) (int64, error) {
	part := io.NewSectionReader(r, start, size-start)
	where := fmt.Sprintf("%s, byte %d", sectionAt(sections, start), start)
	name := fmt.Sprintf("at-%d", start)
	switch mark {
	case 0:
		f, err := compound.Open(part, size-start)
		if err != nil {
			return 0, ignore(err, compound.ErrDamaged, compound.ErrNotCompound)
		}
		length, err := f.Length()
		if err != nil {
			return 0, ignore(err, compound.ErrDamaged)
		}
		kind, about, err := About(part, size-start)
		if err != nil {
			return 0, nil
		}
		ext := map[Kind]string{PackageKind: ".msi", PatchKind: ".msp", MstKind: ".mst"}[kind]
		i := Item{Path: path.Join(prefix, "carried", name+ext), Kind: kind, Size: length, Where: where, About: about}
		return length, w.put(i, func() (io.Reader, error) { return io.NewSectionReader(r, start, length), nil })
	case 1:
		c, err := cabinet.Open(part, size-start)
		if err != nil {
			return 0, ignore(err, cabinet.ErrDamaged)
		}
		i := Item{Path: path.Join(prefix, "carried", name+".cab"), Kind: CabinetKind, Size: c.Length, Where: where,
			About: fmt.Sprintf("%d files", len(c.Files))}
		if err := w.put(i, func() (io.Reader, error) { return io.NewSectionReader(r, start, c.Length), nil }); err != nil {
			return 0, err
		}
		return c.Length, w.cabinet(io.NewSectionReader(r, start, c.Length), c.Length, path.Join(prefix, "carried", name), name+".cab", nil)
	}
	z, err := zip.NewReader(part, size-start)
	if err != nil && !errors.Is(err, zip.ErrInsecurePath) || len(z.File) == 0 {
		return 0, nil
	}
	local := make([]byte, 30) // the entry that begins here must be one of the archive's; [APPNOTE] 4.3.7
	if _, err := part.ReadAt(local, 0); err != nil {
		return 0, nil
	}
	data := 30 + int64(binary.LittleEndian.Uint16(local[26:])) + int64(binary.LittleEndian.Uint16(local[28:]))
	end, here := int64(0), false
	for _, f := range z.File {
		if o, err := f.DataOffset(); err == nil {
			end = max(end, o+int64(f.CompressedSize64))
			here = here || o == data
		}
	}
	if !here {
		return 0, nil
	}
	return max(end, 4), w.archive(part, size-start, path.Join(prefix, "carried", name), name+".zip", depth+1)
}

// ignore forgets the errors that say that it was no such file after all.
func ignore(err error, those ...error) error {
	for _, t := range those {
		if errors.Is(err, t) {
			return nil
		}
	}
	if err == io.EOF || errors.Is(err, io.ErrUnexpectedEOF) {
		return nil
	}
	return err
}

type peSection struct {
	name       string // as the header has it
	begin, end int64  // offsets in the file
}

// maxSections is the loader's own limit.
const maxSections = 96

// peSections reads the section table of a program. Source: the PE format's
// specification, "Section Table".
func peSections(r io.ReaderAt, size int64) (list []peSection) {
	var b [4]byte
	if _, err := r.ReadAt(b[:], 0x3C); err != nil {
		return nil
	}
	at := int64(binary.LittleEndian.Uint32(b[:]))
	head := make([]byte, 24)
	if _, err := r.ReadAt(head, at); err != nil || string(head[:4]) != "PE\x00\x00" {
		return nil
	}
	n, optional := int(binary.LittleEndian.Uint16(head[6:])), int64(binary.LittleEndian.Uint16(head[20:]))
	for i := range min(n, maxSections) {
		s := make([]byte, 40)
		if _, err := r.ReadAt(s, at+24+optional+int64(40*i)); err != nil {
			return list
		}
		begin := int64(binary.LittleEndian.Uint32(s[20:]))
		list = append(list, peSection{strings.TrimRight(string(s[:8]), "\x00"), begin, begin + int64(binary.LittleEndian.Uint32(s[16:]))})
	}
	return list
}

// sectionAt is the part of a program that a place lies in.
func sectionAt(list []peSection, at int64) string {
	for _, s := range list {
		if at >= s.begin && at < s.end {
			if s.name == ".rsrc" {
				return "resources"
			}
			return "section " + s.name
		}
	}
	return "appended data"
}
