// Package demotest lays the scenario out for tests.
package demotest

import (
	"path/filepath"
	"testing"

	"hollowkey/core/machine/twin"
	"hollowkey/demo"
)

// LayOut lays the scenario out in a folder of the test's own, and opens its
// desktop's twin.
func LayOut(t testing.TB) (folder string, m *twin.Twin) {
	t.Helper()
	folder = filepath.Join(t.TempDir(), "demo")
	if err := demo.LayOut(folder); err != nil {
		t.Fatal(err)
	}
	m, err := twin.Open(filepath.Join(folder, demo.Machine))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { m.Close() })
	return folder, m
}
