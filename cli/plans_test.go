package cli

import (
	"bytes"
	"os"
	"testing"

	"hollowkey/core/logs/lazy"
)

// The list of plans is made of the patterns that the program has now: one that
// is missing would be slow, one that is old wrong.
func TestPlansAreCurrent(t *testing.T) {
	listed, err := os.ReadFile("../core/logs/lazy/plans.txt")
	if err != nil {
		t.Fatal(err)
	}
	if lines := bytes.Count(listed, []byte("\n")); lines < 300 || !bytes.Equal(listed, lazy.Plans()) {
		t.Errorf("%d plans are listed, and not those of the program: go generate ./core/logs/lazy", lines)
	}
}
