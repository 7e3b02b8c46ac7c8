// This file looks whether a program is whole, by what its own header says.

package whole

import (
	"bytes"
	"crypto"
	_ "crypto/sha1" // older signatures are made with it
	_ "crypto/sha256"
	_ "crypto/sha512"
	"encoding/asn1"
	"encoding/binary"
	"errors"
	"io"

	"hollowkey/core/bounded"
)

// Places in a program's header. Source: [PE], "PE Format", COFF and optional
// headers.
const (
	headerAt      = 0x3C // where the place of the header stands
	coffBytes     = 24   // with its mark
	checksumAt    = 64   // in the optional header
	securityEntry = 4    // of the data directories
	directories32 = 96   // where the directories begin in the optional header
	directories64 = 112
	magic64       = 0x20B
	mostSections  = 96 // the OS loads no more

	certificateHead = 8 // bytes before a signature: length, revision, type
	pkcsSigned      = 2 // the type of signatures
	mostSignature   = 16 << 20
)

// A layout is where a program's parts lie in its file.
type layout struct {
	checksum  int64 // 4 bytes that a signature leaves out
	directory int64 // 8 bytes that a signature leaves out
	end       int64 // of the last section
	sign, len int64 // the signature; 0 without one
}

// A file that ends in ".exe" and is none: a page, an archive or a torn
// download, which is then said.
var errNoProgram = errors.New("no program's header")

// layoutOf reads a program's header.
func layoutOf(f io.ReaderAt, size int64) (l layout, err error) {
	at := func(where int64, n int) []byte {
		b := make([]byte, n)
		if _, bad := f.ReadAt(b, where); bad != nil && err == nil {
			err = bad
		}
		return b
	}
	head := int64(binary.LittleEndian.Uint32(at(headerAt, 4)))
	coff := at(head, coffBytes)
	if err != nil || string(coff[:4]) != "PE\x00\x00" {
		return l, errNoProgram
	}
	sections, optional := int(binary.LittleEndian.Uint16(coff[6:])), int64(binary.LittleEndian.Uint16(coff[20:]))
	start := head + coffBytes
	dirs := int64(directories32)
	if binary.LittleEndian.Uint16(at(start, 2)) == magic64 {
		dirs = directories64
	}
	l.checksum = start + checksumAt
	count := int64(binary.LittleEndian.Uint32(at(start+dirs-4, 4)))
	l.directory = start + dirs + securityEntry*8
	if count > securityEntry {
		d := at(l.directory, 8)
		l.sign, l.len = int64(binary.LittleEndian.Uint32(d)), int64(binary.LittleEndian.Uint32(d[4:]))
	} else {
		l.directory = 0
	}
	for i := range min(sections, mostSections) {
		s := at(start+optional+int64(40*i), 40)
		if n := int64(binary.LittleEndian.Uint32(s[16:])); n > 0 {
			l.end = max(l.end, int64(binary.LittleEndian.Uint32(s[20:]))+n)
		}
	}
	return l, err
}

// program looks whether a program reaches to where its header says, and whether
// its signature is the file's as it is. Who signed it is the OS's to say.
func (r *Report) program(f io.ReaderAt, size int64) {
	l, err := layoutOf(f, size)
	switch {
	case errors.Is(err, errNoProgram):
		r.Remarks = append(r.Remarks, "it is a program of another kind than those of the OS today")
		return
	case err != nil:
		r.fault(Cut, "", "its header is cut off: %v", err)
		return
	}
	r.Signature = "none"
	switch {
	case l.end > size:
		r.fault(Cut, "", "it has %d bytes, and its parts reach to %d: %d are missing", size, l.end, l.end-size)
	case l.sign > 0 && l.sign+l.len > size:
		r.Signature = "cut off"
		r.fault(Cut, "", "its signature stands at its end and is missing or cut: %d bytes are missing", l.sign+l.len-size)
	case l.sign > 0 && !r.deep:
		r.Signature = "there; not compared"
	case l.sign > 0 && l.len > certificateHead && l.len <= mostSignature:
		same, err := l.signed(f)
		switch {
		case err != nil:
			r.Signature = "not read"
			r.Remarks = append(r.Remarks, "its signature could not be read: "+bounded.Words(err))
		case same:
			r.Signature = "fits the file; whether its signer is trusted is not told here"
		default:
			r.Signature = "does not fit the file"
			r.fault(Changed, "", "its signature is of other contents: the file was changed or damaged after it was signed")
		}
	}
}

// signedData is what a signature is about. Source: "Windows Authenticode
// Portable Executable Signature Format"; RFC 2315, 9.1.
type signedData struct {
	Version int
	Digests asn1.RawValue `asn1:"set"`
	Content struct {
		Type asn1.ObjectIdentifier
		Data asn1.RawValue `asn1:"explicit,tag:0"`
	}
}

type indirectData struct {
	Kind   asn1.RawValue
	Digest struct {
		Algorithm struct {
			ID         asn1.ObjectIdentifier
			Parameters asn1.RawValue `asn1:"optional"`
		}
		Sum []byte
	}
}

// The object identifiers of the digests that a signature may name; another one
// cannot be checked here, and is said so.
var hashes = map[string]crypto.Hash{"1.3.14.3.2.26": crypto.SHA1, "2.16.840.1.101.3.4.2.1": crypto.SHA256,
	"2.16.840.1.101.3.4.2.2": crypto.SHA384, "2.16.840.1.101.3.4.2.3": crypto.SHA512}

// signed says whether the sum in a program's signature is the file's.
func (l layout) signed(f io.ReaderAt) (bool, error) {
	b := make([]byte, l.len)
	if _, err := f.ReadAt(b, l.sign); err != nil {
		return false, err
	}
	n := int64(binary.LittleEndian.Uint32(b))
	if n < certificateHead || n > l.len || binary.LittleEndian.Uint16(b[6:]) != pkcsSigned {
		return false, errors.New("it is of a kind that is not read")
	}
	var outer struct {
		Type    asn1.ObjectIdentifier
		Content asn1.RawValue `asn1:"explicit,tag:0"`
	}
	if _, err := asn1.Unmarshal(b[certificateHead:n], &outer); err != nil {
		return false, err
	}
	var in signedData
	if _, err := asn1.Unmarshal(outer.Content.Bytes, &in); err != nil {
		if _, err = asn1.Unmarshal(outer.Content.FullBytes, &in); err != nil {
			return false, err
		}
	}
	var about indirectData
	if _, err := asn1.Unmarshal(in.Content.Data.Bytes, &about); err != nil {
		if _, err = asn1.Unmarshal(in.Content.Data.FullBytes, &about); err != nil {
			return false, err
		}
	}
	h, ok := hashes[about.Digest.Algorithm.ID.String()]
	if !ok || !h.Available() {
		return false, errors.New("its sum is of a kind that is not read")
	}
	sum := h.New()
	at := int64(0)
	for _, gap := range [][2]int64{{l.checksum, 4}, {l.directory, 8}, {l.sign, 0}} {
		if _, err := io.Copy(sum, io.NewSectionReader(f, at, gap[0]-at)); err != nil {
			return false, err
		}
		at = gap[0] + gap[1]
	}
	return bytes.Equal(sum.Sum(nil), about.Digest.Sum), nil
}
