// This file looks whether what a program carries is whole.

package choose

import (
	"errors"
	"os"
	"path/filepath"

	"hollowkey/core/bounded"
	"hollowkey/core/machine"
	"hollowkey/core/package/unpack"
	"hollowkey/core/package/whole"
)

const (
	mostCarried      = 40       // packages and cabinets of one program that are looked at
	mostCarriedBytes = 1 << 30  // of them together, unpacked
	mostMark         = 64 << 20 // bytes of one that are unpacked to look at it
)

// carried looks whether what a program or an archive of this computer carries
// is whole. It is unpacked for that, into a folder that goes again.
func (s *Setup) carried() error {
	if _, _, bad := machine.SplitPath(s.Path); bad == nil {
		if _, err := os.Stat(s.Path); err != nil { // a machine's file, of which only a copy could be unpacked
			return nil
		}
	}
	dir, err := os.MkdirTemp("", "hollowkey-*")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	total, left := int64(0), 0
	items, err := unpack.Extract(s.Path, dir, func(i unpack.Item) bool {
		switch i.Kind {
		case unpack.PackageKind, unpack.PatchKind, unpack.CabinetKind:
		default:
			return false
		}
		if left+1 > mostCarried || total+i.Size > mostCarriedBytes || i.Size > mostMark {
			return false
		}
		left++
		total += i.Size
		return true
	}, func(int64) {})
	switch {
	case errors.Is(err, unpack.ErrNothing):
		return nil
	case errors.Is(err, unpack.ErrTooMuch):
		s.Whole.Remarks = append(s.Whole.Remarks, "what it carries was not looked at: "+bounded.Words(err))
		return nil
	case err != nil:
		s.Whole.Damage("what it carries cannot be unpacked: %v", err)
		return nil
	}
	for _, i := range items {
		f, err := placeOf("", nil).open(filepath.Join(dir, filepath.FromSlash(i.Path)))
		if err != nil {
			return err
		}
		s.Whole.Carry(i.Path, whole.Read(i.Path, f, f.size, nil, true)) // cabinets beside it may be among those that were left out
		f.Close()
	}
	return nil
}
