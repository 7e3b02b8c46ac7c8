package whole

import (
	"bytes"
	"crypto/sha256"
	"encoding/asn1"
	"encoding/binary"
	"io"
	"os"
	"path/filepath"
	"testing"

	"hollowkey/core/package/cabinet"
	"hollowkey/core/package/installdb"
	"hollowkey/demo"
)

const (
	headBytesOfTest = 512
	headerOfTest    = 128
	optionalOfTest  = 224 // of a 32-bit program
)

// unsigned is a program with one section.
func unsigned(body []byte) []byte {
	b := make([]byte, headBytesOfTest)
	copy(b, "MZ")
	binary.LittleEndian.PutUint32(b[headerAt:], headerOfTest)
	copy(b[headerOfTest:], "PE\x00\x00")
	binary.LittleEndian.PutUint16(b[headerOfTest+6:], 1)
	binary.LittleEndian.PutUint16(b[headerOfTest+20:], optionalOfTest)
	start := headerOfTest + coffBytes
	binary.LittleEndian.PutUint16(b[start:], 0x10B)
	binary.LittleEndian.PutUint32(b[start+directories32-4:], 16)
	s := b[start+optionalOfTest:]
	binary.LittleEndian.PutUint32(s[16:], uint32(len(body)))
	binary.LittleEndian.PutUint32(s[20:], headBytesOfTest)
	return append(b, body...)
}

func der(t testing.TB, v any, params string) []byte {
	t.Helper()
	b, err := asn1.MarshalWithParams(v, params)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// signed appends a signature to a program, with its true sum.
func signed(t testing.TB, b []byte) []byte {
	t.Helper()
	start := headerOfTest + coffBytes
	directory := start + directories32 + securityEntry*8
	h := sha256.New()
	h.Write(b[:start+checksumAt])
	h.Write(b[start+checksumAt+4 : directory])
	h.Write(b[directory+8:])
	type algorithm struct{ ID asn1.ObjectIdentifier }
	digest := struct {
		Algorithm algorithm
		Sum       []byte
	}{algorithm{asn1.ObjectIdentifier{2, 16, 840, 1, 101, 3, 4, 2, 1}}, h.Sum(nil)}
	about := der(t, struct {
		Kind   algorithm
		Digest any
	}{algorithm{asn1.ObjectIdentifier{1, 3, 6, 1, 4, 1, 311, 2, 1, 15}}, asn1.RawValue{FullBytes: der(t, digest, "")}}, "")
	raw := func(b []byte) asn1.RawValue { return asn1.RawValue{FullBytes: b} }
	wrap := func(b []byte) asn1.RawValue {
		return asn1.RawValue{Class: asn1.ClassContextSpecific, Tag: 0, IsCompound: true, Bytes: b}
	}
	content := der(t, struct {
		Type asn1.ObjectIdentifier
		Data asn1.RawValue
	}{asn1.ObjectIdentifier{1, 3, 6, 1, 4, 1, 311, 2, 1, 4}, wrap(about)}, "")
	data := der(t, struct {
		Version int
		Digests asn1.RawValue
		Content asn1.RawValue
	}{1, asn1.RawValue{Tag: asn1.TagSet, IsCompound: true}, raw(content)}, "")
	all := der(t, struct {
		Type    asn1.ObjectIdentifier
		Content asn1.RawValue
	}{asn1.ObjectIdentifier{1, 2, 840, 113549, 1, 7, 2}, wrap(data)}, "")
	row := make([]byte, certificateHead, certificateHead+len(all)+8)
	binary.LittleEndian.PutUint32(row, uint32(certificateHead+len(all)))
	binary.LittleEndian.PutUint16(row[4:], 0x200)
	binary.LittleEndian.PutUint16(row[6:], pkcsSigned)
	row = append(row, all...)
	for len(row)%8 != 0 {
		row = append(row, 0)
	}
	out := bytes.Clone(b)
	binary.LittleEndian.PutUint32(out[directory:], uint32(len(b)))
	binary.LittleEndian.PutUint32(out[directory+4:], uint32(len(row)))
	return append(out, row...)
}

// A signature fits the file that it was made for, and no other.
func TestASignature(t *testing.T) {
	b := signed(t, unsigned(bytes.Repeat([]byte("tides and winds "), 100)))
	look := func(b []byte) *Report { return Read("setup.exe", bytes.NewReader(b), int64(len(b)), nil, true) }
	if r := look(b); !r.Whole() || r.Signature != "fits the file; whether its signer is trusted is not told here" {
		t.Errorf("as signed: %+v", r)
	}
	for name, change := range map[string]func([]byte) []byte{
		"a byte of the body":   func(b []byte) []byte { b[headBytesOfTest+40] ^= 1; return b },
		"a byte of the header": func(b []byte) []byte { b[headerOfTest+9] ^= 1; return b },
	} {
		if r := look(change(bytes.Clone(b))); len(r.Faults) != 1 || r.Faults[0].What != Changed {
			t.Errorf("%s: %+v", name, r)
		}
	}
	sum := bytes.Clone(b)
	sum[headerOfTest+coffBytes+checksumAt] ^= 1 // the loader's own sum is not signed
	if r := look(sum); !r.Whole() {
		t.Errorf("with another sum of the loader's: %+v", r)
	}
	if r := look(b[:len(b)-10]); len(r.Faults) != 1 || r.Faults[0].What != Cut || r.Signature != "cut off" {
		t.Errorf("cut: %+v", r)
	}
	if r := look(unsigned([]byte("x"))); r.Signature != "none" || !r.Whole() {
		t.Errorf("unsigned: %+v", r)
	}
}

// A large file is not read whole, and what its container tells is found all the
// same.
func TestNotDeep(t *testing.T) {
	db, err := demo.Planner()
	if err != nil {
		t.Fatal(err)
	}
	look := func(cut int64) *Report {
		f, err := os.Create(filepath.Join(t.TempDir(), "p.msi"))
		if err != nil {
			t.Fatal(err)
		}
		defer f.Close()
		if err := db.Write(f); err != nil {
			t.Fatal(err)
		}
		info, err := f.Stat()
		if err != nil {
			t.Fatal(err)
		}
		return Read("p.msi", io.NewSectionReader(f, 0, info.Size()-cut), info.Size()-cut, nil, false)
	}
	if r := look(0); !r.Whole() || r.Database() == nil || len(r.Remarks) == 0 {
		t.Errorf("whole: %+v", r)
	}
	if r := look(600); r.Whole() || r.Faults[0].What != Cut {
		t.Errorf("cut: %+v", r)
	}
	if err := db.SetCell("Media", 0, "Cabinet", installdb.TextValue("#gone.cab")); err != nil {
		t.Fatal(err)
	}
	if r := look(0); r.Whole() || r.Faults[0].What != NoCabinet {
		t.Errorf("without its cabinet: %+v", r)
	}
}

// Nothing of a strange file ends the program or takes long.
func FuzzRead(f *testing.F) {
	f.Add("setup.exe", signed(f, unsigned([]byte("body"))))
	cab, err := cabinet.Write([]cabinet.Item{{Name: "a", Data: []byte("b")}})
	if err != nil {
		f.Fatal(err)
	}
	f.Add("Data1.cab", cab)
	f.Add("page.msi", []byte("<html><title>x</title>"))
	f.Add("a.zip", []byte("PK\x05\x06"+string(make([]byte, 18))))
	f.Fuzz(func(t *testing.T, name string, b []byte) {
		if len(b) > 1<<16 {
			return
		}
		r := Read(name, bytes.NewReader(b), int64(len(b)), func(string) (io.ReaderAt, int64, func(), error) {
			return bytes.NewReader(b), int64(len(b)), func() {}, nil
		}, true)
		if r.Kind == "" || r.Faults == nil {
			t.Errorf("%+v", r)
		}
	})
}
