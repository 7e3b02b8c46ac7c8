// This file writes cabinets that store files as they are.

package cabinet

import (
	"encoding/binary"
	"fmt"
)

// An Item is a file to be written into a cabinet.
type Item struct {
	Name string // path within the cabinet, with backslashes
	Data []byte // its contents
}

const maxStored = 0x7FFF0000 // bytes of a folder

// Write makes a cabinet that stores files uncompressed. It fails for names and
// sizes that the format has no room for.
func Write(items []Item) ([]byte, error) {
	var files, data []byte
	total := 0
	for _, f := range items {
		if len(f.Name) > 255 {
			return nil, fmt.Errorf("the name %.40q is longer than 255 bytes", f.Name)
		}
		files = binary.LittleEndian.AppendUint32(files, uint32(len(f.Data)))
		files = binary.LittleEndian.AppendUint32(files, uint32(total))
		files = append(files, 0, 0, 0x21, 0x28, 0, 0, attributeUTF, 0) // folder 0, 2000-01-01
		files = append(append(files, f.Name...), 0)
		total += len(f.Data)
	}
	if total > maxStored {
		return nil, fmt.Errorf("%d bytes do not fit one folder of a cabinet", total)
	}
	// All files make one folder, in blocks that are stored as they are.
	all := make([]byte, 0, total)
	for _, f := range items {
		all = append(all, f.Data...)
	}
	blocks := 0
	for ; len(all) > 0; blocks++ {
		n := min(len(all), blockSize)
		head := binary.LittleEndian.AppendUint16(nil, uint16(n))
		head = binary.LittleEndian.AppendUint16(head, uint16(n))
		data = binary.LittleEndian.AppendUint32(data, checksum(all[:n], head))
		data = append(append(data, head...), all[:n]...)
		all = all[n:]
	}
	const folderSize = 8 // bytes of a folder's entry; [MS-CAB] 2.2
	start := headerSize + folderSize + len(files)
	h := make([]byte, headerSize+folderSize)
	copy(h, Signature)
	binary.LittleEndian.PutUint32(h[8:], uint32(start+len(data)))
	binary.LittleEndian.PutUint32(h[16:], headerSize+folderSize)
	h[24], h[25] = 3, 1
	binary.LittleEndian.PutUint16(h[26:], 1)
	binary.LittleEndian.PutUint16(h[28:], uint16(len(items)))
	binary.LittleEndian.PutUint32(h[36:], uint32(start))
	binary.LittleEndian.PutUint16(h[40:], uint16(blocks))
	return append(append(h, files...), data...), nil
}
