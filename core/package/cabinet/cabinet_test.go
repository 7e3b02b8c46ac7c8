package cabinet

import (
	"bytes"
	"compress/flate"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
)

// text is n bytes with many repetitions, near and far.
func text(n int) []byte {
	r := rand.New(rand.NewPCG(3, uint64(n)))
	var b []byte
	for len(b) < n {
		switch r.IntN(4) {
		case 0:
			b = append(b, byte(r.Uint32()))
		case 1:
			b = fmt.Appendf(b, "berth %d of quay %d; ", r.IntN(40), r.IntN(5))
		default:
			from := r.IntN(len(b) + 1)
			b = append(b, b[from:min(len(b), from+r.IntN(400))]...)
		}
	}
	return b[:n]
}

// wrap puts compressed blocks into a cabinet of one file.
func wrap(method uint16, size int, blocks [][]byte) []byte {
	cab, err := Write([]Item{{"berth.dat", nil}})
	if err != nil {
		panic(err)
	}
	binary.LittleEndian.PutUint32(cab[headerSize+8:], uint32(size))
	binary.LittleEndian.PutUint16(cab[40:], uint16(len(blocks)))
	binary.LittleEndian.PutUint16(cab[42:], method)
	for i, b := range blocks {
		head := binary.LittleEndian.AppendUint16(nil, uint16(len(b)))
		head = binary.LittleEndian.AppendUint16(head, uint16(min(blockSize, size-i*blockSize)))
		cab = binary.LittleEndian.AppendUint32(cab, checksum(b, head))
		cab = append(append(cab, head...), b...)
	}
	binary.LittleEndian.PutUint32(cab[8:], uint32(len(cab)))
	return cab
}

func zipped(data []byte) (blocks [][]byte) {
	for at := 0; at < len(data); at += blockSize {
		var b bytes.Buffer
		b.WriteString("CK")
		w, _ := flate.NewWriterDict(&b, 9, data[max(0, at-blockSize):at])
		w.Write(data[at:min(len(data), at+blockSize)])
		w.Close()
		blocks = append(blocks, b.Bytes())
	}
	return blocks
}

func extract(cab []byte) (map[string][]byte, error) {
	c, err := Open(bytes.NewReader(cab), int64(len(cab)))
	if err != nil {
		return nil, err
	}
	out := map[string]*bytes.Buffer{}
	err = c.Extract(func(f File) (io.Writer, error) {
		out[f.Name] = &bytes.Buffer{}
		return out[f.Name], nil
	})
	files := map[string][]byte{}
	for n, b := range out {
		files[n] = b.Bytes()
	}
	return files, err
}

func TestMethods(t *testing.T) {
	data := text(150_000)
	blocks := []lzxBlock{{lzxVerbatim, 50_000}, {lzxAligned, 30_001}, {lzxUncompressed, 20_001}, {lzxVerbatim, 20_000},
		{lzxUncompressed, 29_998}}
	for name, cab := range map[string][]byte{
		"MSZIP":                   wrap(mszip, len(data), zipped(data)),
		"LZX":                     wrap(lzx|15<<8, len(data), encode(data, blocks, 0)),
		"LZX, one block":          wrap(lzx|15<<8, len(data), encode(data, []lzxBlock{{lzxVerbatim, len(data)}}, 0)),
		"LZX, aligned throughout": wrap(lzx|15<<8, len(data), encode(data, []lzxBlock{{lzxAligned, len(data)}}, 0)),
		"LZX, plain throughout":   wrap(lzx|15<<8, len(data), encode(data, []lzxBlock{{lzxUncompressed, len(data)}}, 0)),
	} {
		got, err := extract(cab)
		if err != nil || !bytes.Equal(got["berth.dat"], data) {
			at := 0
			for at < min(len(got["berth.dat"]), len(data)) && got["berth.dat"][at] == data[at] {
				at++
			}
			t.Errorf("%s: %v; %d bytes, the first %d are right", name, err, len(got["berth.dat"]), at)
		}
		if tool, err := exec.LookPath("cabextract"); err == nil { // another reader agrees, where there is one
			path := filepath.Join(t.TempDir(), "x.cab")
			os.WriteFile(path, cab, 0o644)
			if out, err := exec.Command(tool, "-p", "-q", path).Output(); err != nil || !bytes.Equal(out, data) {
				t.Errorf("%s: the other reader: %v, %d bytes", name, err, len(out))
			}
		}
	}
}

// Calls in programs were made absolute; they come back relative.
func TestCallsAreTurnedBack(t *testing.T) {
	data := bytes.Repeat([]byte{0x90}, 40_000)
	coded := bytes.Clone(data)
	for _, at := range []int{100, 5000, 33_000} {
		data[at], coded[at] = 0xE8, 0xE8
		binary.LittleEndian.PutUint32(data[at+1:], 77)
		binary.LittleEndian.PutUint32(coded[at+1:], uint32(77+at))
	}
	got, err := extract(wrap(lzx|15<<8, len(data), encode(coded, []lzxBlock{{lzxVerbatim, len(coded)}}, 1_000_000)))
	if err != nil || !bytes.Equal(got["berth.dat"], data) {
		t.Errorf("%v", err)
	}
}

func TestStored(t *testing.T) {
	items := []Item{{"Berth.exe", text(70_000)}, {"empty", nil}, {`sub\Größe.txt`, []byte("x")}}
	cab, err := Write(items)
	if err != nil {
		t.Fatal(err)
	}
	got, err := extract(cab)
	if err != nil || len(got) != 3 {
		t.Fatalf("%v, %d files", err, len(got))
	}
	for _, i := range items {
		if !bytes.Equal(got[i.Name], i.Data) {
			t.Errorf("%s: %d bytes, want %d", i.Name, len(got[i.Name]), len(i.Data))
		}
	}
	c, err := Open(bytes.NewReader(cab), int64(len(cab)))
	if err != nil {
		t.Fatal(err)
	}
	var only bytes.Buffer
	err = c.Extract(func(f File) (io.Writer, error) {
		if f.Name == `sub\Größe.txt` {
			return &only, nil
		}
		return nil, nil
	})
	if err != nil || only.String() != "x" {
		t.Errorf("one file alone: %q, %v", only.String(), err)
	}
}

func TestDamage(t *testing.T) {
	data := text(60_000)
	cab := wrap(mszip, len(data), zipped(data))
	for name, spoil := range map[string]func([]byte) []byte{
		"cut":            func(b []byte) []byte { return b[:len(b)-100] },
		"signature":      func(b []byte) []byte { b[0] = 'X'; return b },
		"checksum":       func(b []byte) []byte { b[len(b)-1] ^= 1; return b },
		"a larger file":  func(b []byte) []byte { binary.LittleEndian.PutUint32(b[44:], 1<<30); return b },
		"folder number":  func(b []byte) []byte { b[52] = 9; return b },
		"method":         func(b []byte) []byte { b[42] = 2; return b },
		"LZX window":     func(b []byte) []byte { b[42], b[43] = 3, 30; return b },
		"folder's place": func(b []byte) []byte { binary.LittleEndian.PutUint32(b[36:], 1<<30); return b },
	} {
		if _, err := extract(spoil(bytes.Clone(cab))); err == nil {
			t.Errorf("%s: no error", name)
		}
	}
	cab[52], cab[53] = 0xFE, 0xFF // continued in the next cabinet
	if _, err := extract(cab); !errors.Is(err, ErrSpans) {
		t.Errorf("a file that spans cabinets: %v", err)
	}
}

func FuzzExtract(f *testing.F) {
	data := text(40_000)
	stored, _ := Write([]Item{{"a", data[:100]}})
	f.Add(stored)
	f.Add(wrap(mszip, len(data), zipped(data)))
	f.Add(wrap(lzx|15<<8, len(data), encode(data, []lzxBlock{{lzxVerbatim, 20_000}, {lzxAligned, 10_001}, {lzxUncompressed, 9_999}}, 0)))
	f.Fuzz(func(t *testing.T, cab []byte) {
		c, err := Open(bytes.NewReader(cab), int64(len(cab)))
		if err != nil {
			return
		}
		for i := range c.Files { // sums that damage would break are not what is fuzzed
			if c.Files[i].Size > 1<<20 {
				return
			}
		}
		c.Extract(func(File) (io.Writer, error) { return io.Discard, nil })
	})
}
