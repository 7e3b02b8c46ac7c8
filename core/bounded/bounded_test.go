package bounded

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

func TestReadFile(t *testing.T) {
	name := filepath.Join(t.TempDir(), "x")
	if err := os.WriteFile(name, []byte("tide"), 0o600); err != nil {
		t.Fatal(err)
	}
	if b, err := ReadFile(name, 4); err != nil || string(b) != "tide" {
		t.Errorf("at the limit: %q, %v", b, err)
	}
	if b, err := ReadFile(name, 3); !errors.Is(err, ErrTooLarge) || b != nil || !strings.Contains(err.Error(), name) ||
		!strings.Contains(err.Error(), "3 bytes") {
		t.Errorf("one past it: %q, %v", b, err)
	}
	if _, err := ReadFile(name+"y", 3); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("a file that is not there: %v", err)
	}
}
