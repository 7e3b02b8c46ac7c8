package names

import (
	"fmt"
	"strings"
	"testing"
)

// TestFields holds what a record's further values are, in the forms in which
// programs write them.
func TestFields(t *testing.T) {
	for text, want := range map[string]string{
		`path=C:\Kelp\kelp.exe err=32`:                  `path=C:\Kelp\kelp.exe; err=32`,
		`component=.NET Desktop Runtime required=8.0.0`: `component=.NET Desktop Runtime; required=8.0.0`,
		`{"drive":"C:","required":"4.2 GB"}`:            `drive=C:; required=4.2 GB`,
		"status: error\nresult_code: 31\n</log>":        `status=error; result_code=31`,
		`context=drive=C:; required=4.2 GB`:             `drive=C:; required=4.2 GB`,
		`open for write`:                                ``,
	} {
		var got []string
		for name, value := range Fields(text, 16) {
			got = append(got, fmt.Sprintf("%s=%s", name, value))
		}
		if strings.Join(got, "; ") != want {
			t.Errorf("%s: %q, want %q", text, strings.Join(got, "; "), want)
		}
	}
}
