package compound

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"path/filepath"
	"testing"
)

func writeFile(t testing.TB, root *Node, version int) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "file")
	f, err := os.Create(path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	if err := Write(f, root, version); err != nil {
		t.Fatal(err)
	}
	return path
}

func openFile(t testing.TB, path string) (*File, *os.File) {
	t.Helper()
	in, err := os.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { in.Close() })
	info, _ := in.Stat()
	f, err := Open(in, info.Size())
	if err != nil {
		t.Fatal(err)
	}
	return f, in
}

// noise is n bytes that nothing repeats.
func noise(n int) Bytes {
	r := rand.New(rand.NewPCG(uint64(n), 7))
	b := make([]byte, n)
	for i := range b {
		b[i] = byte(r.Uint32())
	}
	return b
}

// tree is a storage with streams of sizes on both sides of every limit.
func tree(large int) *Node {
	root := &Node{Class: ClassID{0x84, 0x10, 0x0C, 0, 0, 0, 0, 0, 0xC0, 0, 0, 0, 0, 0, 0, 0x46}}
	for _, n := range []int{0, 1, 63, 64, 65, 511, 512, 513, 4095, 4096, 4097, 5000, 100_000, large} {
		root.Children = append(root.Children, &Node{Name: fmt.Sprintf("size %d", n), Content: noise(n)})
	}
	inner := &Node{Name: "storage", Class: ClassID{1, 2, 3}}
	for i := range 40 {
		inner.Children = append(inner.Children, &Node{Name: fmt.Sprintf("s%03d", i*7%40), Content: noise(i)})
	}
	inner.Children = append(inner.Children, &Node{Name: "deeper", Children: []*Node{{Name: "䡀ab", Content: noise(9000)}}})
	root.Children = append(root.Children, inner, &Node{Name: "empty storage"})
	return root
}

// equal compares what was written with what is read.
func equal(t *testing.T, f *File, n *Node, e *Entry) {
	t.Helper()
	if n.Content != nil {
		got, err := f.ReadAll(e, 1<<30)
		want, _ := io.ReadAll(n.Content.Reader())
		if err != nil || !bytes.Equal(got, want) {
			t.Errorf("stream %q: %d bytes, %v; want %d", n.Name, len(got), err, len(want))
		}
		return
	}
	if len(e.Children) != len(n.Children) || e.Class != n.Class {
		t.Errorf("storage %q: %d children, class %s; want %d, %s", n.Name, len(e.Children), e.Class, len(n.Children), n.Class)
	}
	for _, c := range n.Children {
		child := e.Child(c.Name)
		if child == nil {
			t.Errorf("%q is not in %q", c.Name, n.Name)
			continue
		}
		equal(t, f, c, child)
	}
}

func TestRoundTrip(t *testing.T) {
	for _, version := range []int{3, 4} {
		root := tree(9 << 20) // more than 109 allocation sectors of version 3 reach
		f, in := openFile(t, writeFile(t, root, version))
		if f.Version() != version {
			t.Errorf("version %d, want %d", f.Version(), version)
		}
		equal(t, f, root, f.Root)
		if f.Root.Class.String() != "{000C1084-0000-0000-C000-000000000046}" {
			t.Errorf("class %s", f.Root.Class)
		}
		info, _ := in.Stat()
		if n, err := f.Length(); err != nil || n != info.Size() {
			t.Errorf("length %d, %v; the file has %d", n, err, info.Size())
		}
		copied, err := f.Copy(f.Root) // from file to file
		if err != nil {
			t.Fatal(err)
		}
		again, _ := openFile(t, writeFile(t, copied, version))
		equal(t, again, root, again.Root)
	}
}

// Readers of other makers search the tree of names, which must be ordered, and
// red and black as the format wants it.
func TestTreeIsRedBlack(t *testing.T) {
	for n := range 70 {
		root := &Node{}
		for i := range n {
			root.Children = append(root.Children, &Node{Name: fmt.Sprintf("%c%d", 'a'+i%26, i), Content: Bytes("x")})
		}
		b, err := os.ReadFile(writeFile(t, root, 3))
		if err != nil {
			t.Fatal(err)
		}
		dir := b[(int(binary.LittleEndian.Uint32(b[48:]))+1)*512:]
		entry := func(i uint32) []byte { return dir[int(i)*entrySize:][:entrySize] }
		var last string
		var walk func(i uint32, red bool) int
		walk = func(i uint32, red bool) int {
			if i == noStream {
				return 0
			}
			e := entry(i)
			own := e[67] == 0
			if own && red {
				t.Errorf("%d names: a red entry below a red one", n)
			}
			left := walk(binary.LittleEndian.Uint32(e[68:]), own)
			units := make([]uint16, (int(binary.LittleEndian.Uint16(e[64:]))-2)/2)
			for k := range units {
				units[k] = binary.LittleEndian.Uint16(e[2*k:])
			}
			name := nameOf(units)
			if last != "" && compareNames(last, name) >= 0 {
				t.Errorf("%d names: %q comes before %q", n, last, name)
			}
			last = name
			right := walk(binary.LittleEndian.Uint32(e[72:]), own)
			if left != right {
				t.Errorf("%d names: %d black entries left of %q, %d right", n, left, name, right)
			}
			if own {
				return left
			}
			return left + 1
		}
		walk(binary.LittleEndian.Uint32(entry(0)[76:]), false)
	}
}

func TestWriteRefuses(t *testing.T) {
	out, err := os.Create(filepath.Join(t.TempDir(), "x"))
	if err != nil {
		t.Fatal(err)
	}
	defer out.Close()
	for name, root := range map[string]*Node{
		"two of one name": {Children: []*Node{{Name: "Quay", Content: Bytes("1")}, {Name: "quay", Content: Bytes("2")}}},
		"a long name":     {Children: []*Node{{Name: "a name of more than thirty-one characters", Content: Bytes("1")}}},
		"no name":         {Children: []*Node{{Content: Bytes("1")}}},
	} {
		if Write(out, root, 3) == nil {
			t.Errorf("%s: written", name)
		}
	}
	if Write(out, &Node{}, 5) == nil {
		t.Error("version 5: written")
	}
}

// Damage of every kind is told as such, and nothing goes on for ever.
func TestHostile(t *testing.T) {
	good, err := os.ReadFile(writeFile(t, tree(20_000), 3))
	if err != nil {
		t.Fatal(err)
	}
	put := func(at int, v uint32) func([]byte) {
		return func(b []byte) { binary.LittleEndian.PutUint32(b[at:], v) }
	}
	dir := (int(binary.LittleEndian.Uint32(good[48:])) + 1) * 512
	fat := (int(binary.LittleEndian.Uint32(good[76:])) + 1) * 512
	for name, spoil := range map[string]func([]byte){
		"no signature":             func(b []byte) { b[0] = 0 },
		"version":                  func(b []byte) { b[26] = 9 },
		"sector size":              func(b []byte) { b[30] = 30 },
		"directory past the end":   put(48, 0xFFFFFF),
		"many allocation sectors":  put(44, 0xFFFFFFF),
		"allocation past the end":  put(76, 0xFFFFF0),
		"directory in a circle":    put(fat+4*(dir/512-1), uint32(dir/512-1)),
		"entry linked to itself":   put(dir+entrySize+72, 1),
		"child past the end":       put(dir+76, 9999),
		"root of another type":     func(b []byte) { b[dir+66] = 2 },
		"a name of 200 bytes":      func(b []byte) { b[dir+entrySize+64] = 200 },
		"a stream of many bytes":   put(dir+entrySize+120, 0x7FFFFFFF),
		"mini table past the end":  put(60, 0xFFFFF),
		"entries of unknown types": func(b []byte) { b[dir+entrySize+66] = 9 },
	} {
		b := bytes.Clone(good)
		spoil(b)
		f, err := Open(bytes.NewReader(b), int64(len(b)))
		if err == nil {
			for _, e := range f.Root.Children {
				if !e.Storage {
					if _, bad := f.ReadAll(e, 1<<30); bad != nil {
						err = bad
					}
				}
			}
		}
		if !errors.Is(err, ErrDamaged) && !errors.Is(err, ErrNotCompound) {
			t.Errorf("%s: %v", name, err)
		}
	}
	for n := 0; n < len(good); n += 301 {
		if f, err := Open(bytes.NewReader(good[:n]), int64(n)); err == nil {
			for _, e := range f.Root.Children {
				f.ReadAll(e, 1<<30)
			}
		}
	}
}

func FuzzOpen(f *testing.F) {
	b, err := os.ReadFile(writeFile(f, tree(4100), 3))
	if err != nil {
		f.Fatal(err)
	}
	f.Add(b)
	f.Fuzz(func(t *testing.T, b []byte) {
		c, err := Open(bytes.NewReader(b), int64(len(b)))
		if err != nil {
			return
		}
		total := int64(0)
		for _, e := range c.Root.Children {
			if data, err := c.ReadAll(e, 1<<20); err == nil {
				if total += int64(len(data)); int64(len(data)) != e.Size() {
					t.Errorf("%q: %d bytes of %d", e.Name, len(data), e.Size())
				}
			}
		}
		c.Length()
	})
}
