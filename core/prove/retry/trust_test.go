package retry

import (
	"errors"
	"testing"

	"hollowkey/core/machine/twin/twintest"
)

// What only a log names is run from where ordinary users cannot put another
// file, and from nowhere else.
func TestTrusted(t *testing.T) {
	m := twintest.Make(t, map[string]string{
		"twin.yaml": "name: T\ndrives: [{ letter: 'C:', kind: fixed }, { letter: 'S:', kind: network }, { letter: 'E:', kind: removable }]\n",
		"access.yaml": `'C:\': O:SYD:P(A;OICI;FA;;;SY)(A;OICI;FA;;;BA)(A;OICI;0x1200a9;;;BU)(A;CI;LC;;;AU)
'C:\Deploy': O:BAD:P(A;OICI;FA;;;SY)(A;OICI;FA;;;BA)(A;OICI;0x1200a9;;;BU)
'C:\Open': O:BAD:P(A;OICI;FA;;;SY)(A;OICI;0x1301bf;;;AU)
'C:\Renamed': O:BAD:P(A;OICI;FA;;;SY)(A;OICI;FA;;;BA)(A;;0x40;;;WD)
'C:\Renamed\Kept': O:BAD:P(A;OICI;FA;;;SY)
'C:\Users\pilot': O:S-1-5-21-1-2-3-1001D:P(A;OICI;FA;;;SY)(A;OICI;FA;;;S-1-5-21-1-2-3-1001)
'C:\Owned': O:S-1-5-21-1-2-3-1001D:P(A;OICI;FA;;;SY)
'C:\Null': O:BAD:NO_ACCESS_CONTROL
`,
		"disk/C/Deploy/quay.msi": "x", "disk/C/Open/quay.msi": "x", "disk/C/Renamed/Kept/quay.msi": "x", "disk/C/Users/pilot/quay.msi": "x",
		"disk/C/Owned/quay.msi": "x", "disk/C/Null/quay.msi": "x", "disk/S/quay.msi": "x", "disk/E/quay.msi": "x",
	})
	for path, ok := range map[string]bool{
		`C:\Deploy\quay.msi`: true, `C:\Open\quay.msi`: false, `C:\Renamed\Kept\quay.msi`: false, `C:\Users\pilot\quay.msi`: false,
		`C:\Owned\quay.msi`: false, `C:\Null\quay.msi`: false, `S:\quay.msi`: false, `E:\quay.msi`: false, `\\quay-fs\s\quay.msi`: false,
		`https://quay.example/quay.msi`: false, `quay.msi`: false, `C:\Open\..\Deploy\quay.msi`: false, `\\?\C:\Deploy\quay.msi`: false,
	} {
		if err := trusted(m, path); (err == nil) != ok || err != nil && !errors.Is(err, ErrNotNamed) {
			t.Errorf("%s: %v", path, err)
		}
	}
}

// The question is put with the whole command, and only what the call names is
// spared the look at where it lies.
func TestAllowed(t *testing.T) {
	m := twintest.Make(t, map[string]string{"twin.yaml": "name: T\n",
		"access.yaml": "'C:\\': O:BAD:P(A;OICI;FA;;;WD)\n", "disk/C/quay.msi": "x", "disk/C/x.mst": "x"})
	req := Request{Package: `C:\quay.msi`, Properties: []string{"A=1"}, Transforms: []string{`C:\x.mst`}}
	asked := ""
	no := errors.New("no")
	ask := func(command string) error { asked = command; return no }
	for _, w := range []Wish{{Ask: ask}, {Of: `C:\quay.msi`, Ask: ask}, {Of: "quay.log", With: []string{`C:\x.mst`}, Ask: ask}} {
		if err := w.allowed(m, req, nil); !errors.Is(err, ErrNotNamed) || asked != "" {
			t.Errorf("%+v: %v; asked %q", w, err, asked)
		}
	}
	w := Wish{Of: `c:\QUAY.msi`, With: []string{`C:\x.mst`}}
	if err := w.allowed(m, req, nil); err == nil {
		t.Error("nobody was asked")
	}
	w.Ask = ask
	if err := w.allowed(m, req, nil); !errors.Is(err, no) || asked == "" {
		t.Errorf("%v; asked %q", err, asked)
	}
}
