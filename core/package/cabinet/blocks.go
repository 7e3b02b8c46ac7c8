// This file reads the data blocks of a folder, with their checksums.

package cabinet

import (
	"bytes"
	"compress/flate"
	"encoding/binary"
	"io"
)

// blocks reads the data blocks of a folder one by one.
type blocks struct {
	r       io.Reader // stands at the next block
	left    int       // blocks that are left
	reserve int       // bytes that are reserved in each block
}

// next gives a block's data and the number of bytes that they unpack to.
func (b *blocks) next() ([]byte, int, error) {
	if b.left == 0 {
		return nil, 0, io.EOF
	}
	b.left--
	h := make([]byte, 8+b.reserve)
	if _, err := io.ReadFull(b.r, h); err != nil {
		return nil, 0, damaged("a block is cut off")
	}
	size, n := int(binary.LittleEndian.Uint16(h[4:])), int(binary.LittleEndian.Uint16(h[6:]))
	if n > blockSize {
		return nil, 0, damaged("a block of %d bytes", n)
	}
	data := make([]byte, size)
	if _, err := io.ReadFull(b.r, data); err != nil {
		return nil, 0, damaged("a block is cut off")
	}
	if sum := binary.LittleEndian.Uint32(h); sum != 0 && sum != checksum(data, h[4:]) {
		return nil, 0, damaged("a block's checksum is wrong")
	}
	return data, n, nil
}

// checksum is that of a block's data and of what follows the sum in its header.
// Source: [MS-CAB] 3.1.
func checksum(data, header []byte) uint32 { return fold(header, fold(data, 0)) }

// fold is the format's checksum: words of four bytes combined by exclusive or,
// the rest read the other way round.
func fold(b []byte, sum uint32) uint32 {
	for ; len(b) >= 4; b = b[4:] {
		sum ^= binary.LittleEndian.Uint32(b)
	}
	last := uint32(0)
	for _, c := range b {
		last = last<<8 | uint32(c)
	}
	return sum ^ last
}

// An unpacker is a folder's data unpacked.
type unpacker struct {
	blocks *blocks                                // packed ones
	unpack func(in []byte, n int) ([]byte, error) // a block of n bytes, unpacked
	out    []byte                                 // unpacked bytes that nobody has read yet
}

// Read implements [io.Reader].
func (u *unpacker) Read(p []byte) (int, error) {
	for len(u.out) == 0 {
		in, n, err := u.blocks.next()
		if err != nil {
			return 0, err
		}
		if u.out, err = u.unpack(in, n); err != nil {
			return 0, err
		}
	}
	n := copy(p, u.out)
	u.out = u.out[n:]
	return n, nil
}

// An inflater unpacks MSZIP blocks: each a deflate stream of its own, which may
// look back into the 32 KiB before it. Source: [MS-MCI].
type inflater struct{ before []byte } // before is the dictionary: the last 32 KiB

// block unpacks one MSZIP block; what was before it is its dictionary.
func (f *inflater) block(in []byte, n int) ([]byte, error) {
	if !bytes.HasPrefix(in, []byte("CK")) {
		return nil, damaged("a block has no MSZIP mark")
	}
	out := make([]byte, n)
	if _, err := io.ReadFull(flate.NewReaderDict(bytes.NewReader(in[2:]), f.before), out); err != nil {
		return nil, damaged("a block does not unpack: %v", err)
	}
	f.before = append(f.before[:0:0], append(f.before, out...)[max(0, len(f.before)+n-blockSize):]...)
	return out, nil
}
