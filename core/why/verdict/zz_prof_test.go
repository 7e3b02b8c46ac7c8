package verdict

import (
	"bytes"
	"context"
	"os"
	"testing"
)

func BenchmarkFile(b *testing.B) {
	log, _ := os.ReadFile(os.Getenv("LOGFILE"))
	b.SetBytes(int64(len(log)))
	for b.Loop() {
		if _, err := Reach(context.Background(), Input{"x.log", bytes.NewReader(log)}, Options{}); err != nil {
			b.Fatal(err)
		}
	}
}
