// Package twintest makes small twins for tests.
package twintest

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/machine/twin"
)

// Make makes a twin out of files, by their names in the twin's folder.
func Make(t testing.TB, files map[string]string) *twin.Twin {
	t.Helper()
	dir := t.TempDir()
	for name, text := range files {
		path := filepath.Join(dir, filepath.FromSlash(name))
		if strings.HasSuffix(name, "/") {
			if err := os.MkdirAll(path, 0o755); err != nil {
				t.Fatal(err)
			}
			continue
		}
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	m, err := twin.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { m.Close() })
	return m
}

// Registry is registry text with its first line, of keys and values with plain
// line ends.
func Registry(keys string) string {
	return "Windows Registry Editor Version 5.00\r\n\r\n" + strings.ReplaceAll(keys, "\n", "\r\n")
}
