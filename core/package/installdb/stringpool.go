// This file reads and writes the pool of strings.

package installdb

import (
	"encoding/binary"
	"fmt"
	"strings"
)

const (
	longRefs   = 0x80000000 // in the first word of the pool: references have 3 bytes
	shortLimit = 0xFFFF     // strings that 2-byte references can name
)

// A StringPool holds every string of a database once. Table cells hold
// references into it; reference 0 is NULL, which is the empty string too.
//
// Source: docs/packages.md, "String pool".
type StringPool struct {
	page    int               // Windows code page; 0 is the neutral one
	long    bool              // references have 3 bytes
	data    []byte            // texts behind each other, as in the file
	entries []poolEntry       // index 0 is unused
	byText  map[string]uint32 // references, made when one is first looked up
}

type poolEntry struct {
	at, size uint32  // in data, or nowhere when text is set
	uses     uint16  // how many cells name it
	text     *string // nil while it lies in data only
}

// ReadPool reads a string pool: index holds the code page and 4 bytes for each
// string (length, uses), data the text of all strings. The error wraps
// [ErrDamaged] when index promises more text than data holds.
func ReadPool(index, data []byte) (*StringPool, error) {
	p := &StringPool{data: data}
	if len(index) < 4 {
		return nil, damaged("the string pool has %d bytes", len(index))
	}
	head := binary.LittleEndian.Uint32(index)
	p.page, p.long = int(head&^longRefs), head&longRefs != 0
	for _, highFirst := range []bool{true, false} {
		end, err := p.readEntries(index[4:], highFirst)
		if err == nil && end == uint64(len(data)) || !highFirst {
			return p, err
		}
	}
	return p, nil
}

// readEntries reads the list of strings, and gives where the last one ends. A
// string over 64 KB takes two entries: the first has no length but uses. Two
// readings of it are in the wild: the upper half of the length in the uses of
// the first entry, or in those of the second. The right one fills the data.
func (p *StringPool) readEntries(index []byte, highFirst bool) (end uint64, err error) {
	p.entries = make([]poolEntry, 1, len(index)/4+1)
	for len(index) >= 4 {
		size, uses := uint64(binary.LittleEndian.Uint16(index)), binary.LittleEndian.Uint16(index[2:])
		index = index[4:]
		if size == 0 && uses != 0 && len(index) >= 4 {
			high, low, second := uses, uint64(binary.LittleEndian.Uint16(index)), binary.LittleEndian.Uint16(index[2:])
			if uses = second; !highFirst {
				high, uses = uses, high
			}
			size = uint64(high)<<16 | low
			index = index[4:]
		}
		if end+size > uint64(len(p.data)) {
			return end, damaged("string %d ends at byte %d of %d", len(p.entries), end+size, len(p.data))
		}
		p.entries = append(p.entries, poolEntry{at: uint32(end), size: uint32(size), uses: uses})
		end += size
	}
	return end, nil
}

// newPool makes an empty pool.
func newPool(page int) *StringPool { return &StringPool{page: page, entries: make([]poolEntry, 1)} }

// Len is the highest reference.
func (p *StringPool) Len() int { return len(p.entries) - 1 }

// At gives the string that a reference names. A number beyond the pool is
// damage, and an error.
func (p *StringPool) At(ref uint32) (string, error) {
	if int64(ref) >= int64(len(p.entries)) {
		return "", damaged("string %d is past the end of the pool (%d strings)", ref, p.Len())
	}
	e := &p.entries[ref]
	if e.text == nil {
		t := decodeText(p.data[e.at:e.at+e.size], p.page)
		e.text = &t
	}
	return *e.text, nil
}

// index makes the way from text to reference.
func (p *StringPool) index() {
	if p.byText != nil {
		return
	}
	p.byText = make(map[string]uint32, len(p.entries))
	for i := len(p.entries) - 1; i > 0; i-- {
		if p.entries[i].uses > 0 {
			t, _ := p.At(uint32(i))
			p.byText[t] = uint32(i)
		}
	}
}

// Find gives the reference of a string; ok is false when the pool lacks it.
func (p *StringPool) Find(s string) (ref uint32, ok bool) {
	p.index()
	ref, ok = p.byText[s]
	return ref, ok || s == ""
}

// use counts one more use of a string, which joins the pool when it is new.
func (p *StringPool) use(s string) (uint32, error) {
	if s == "" {
		return 0, nil
	}
	p.index()
	ref, ok := p.byText[s]
	if !ok {
		if _, err := encodeText(s, p.page); err != nil {
			return 0, err
		}
		ref = uint32(len(p.entries))
		p.entries = append(p.entries, poolEntry{text: &s})
		p.byText[s] = ref
	}
	if e := &p.entries[ref]; e.uses < 0xFFFF {
		e.uses++
	}
	return ref, nil
}

// release counts one use less. A string without uses leaves the pool when it is
// written; its reference stays free.
func (p *StringPool) release(ref uint32) {
	if ref == 0 || int64(ref) >= int64(len(p.entries)) {
		return
	}
	if e := &p.entries[ref]; e.uses > 0 && e.uses < 0xFFFF { // a full count has lost its number
		if e.uses--; e.uses == 0 && p.byText != nil {
			if t, err := p.At(ref); err == nil {
				delete(p.byText, t)
			}
		}
	}
}

// refSize is the number of bytes of a reference.
func (p *StringPool) refSize() int {
	if p.long {
		return 3
	}
	return 2
}

// write gives the pool's two streams.
func (p *StringPool) write() (index, data []byte, err error) {
	head := uint32(p.page)
	if p.long {
		head |= longRefs
	}
	index = binary.LittleEndian.AppendUint32(make([]byte, 0, 4*len(p.entries)), head)
	for i := 1; i < len(p.entries); i++ {
		e := p.entries[i]
		var text []byte
		switch {
		case e.uses == 0:
		case e.size > 0:
			text = p.data[e.at : e.at+e.size] // as it was, whatever its bytes
		case e.text != nil:
			if text, err = encodeText(*e.text, p.page); err != nil {
				return nil, nil, err
			}
		}
		if len(text) == 0 {
			e.uses = 0
		}
		if high := uint16(len(text) >> 16); high > 0 { // with the same uses in both entries, either reading is right
			index = binary.LittleEndian.AppendUint16(index, 0)
			index = binary.LittleEndian.AppendUint16(index, high)
			e.uses = high
		}
		index = binary.LittleEndian.AppendUint16(index, uint16(len(text)))
		index = binary.LittleEndian.AppendUint16(index, e.uses)
		data = append(data, text...)
	}
	return index, data, nil
}

// checkText says whether a string can stand in the pool.
func checkText(s string) error {
	if strings.ContainsRune(s, 0) {
		return fmt.Errorf("the text %.40q holds a zero character", s)
	}
	return nil
}
