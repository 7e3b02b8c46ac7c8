package apppackage

import (
	"bytes"
	"testing"
)

// Any program gives an HRESULT: a log is of an app's deployment only where it
// speaks of one, or the number is of those.
func TestScore(t *testing.T) {
	for text, want := range map[string]bool{
		"checking 14 files\nSystem.DllNotFoundException: (Exception from HRESULT: 0x8007007E)\nsetup failed":          false,
		"call failed, HRESULT: 0x800706BA\nremoving files":                                                            false,
		"Deployment Add operation failed with error 0x80073CF3\nmore":                                                 true,
		"Add-AppxPackage : Deployment failed with HRESULT: 0x80073D02, the package could not be installed\nat line:1": true,
		"error HRESULT: 0x80073CF9": true,
	} {
		if got := Score(bytes.Split([]byte(text), []byte("\n"))) > 0; got != want {
			t.Errorf("%q: %v", text, got)
		}
	}
}
