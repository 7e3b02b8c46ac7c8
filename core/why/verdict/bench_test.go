package verdict

import (
	"bytes"
	"context"
	"testing"
	"time"

	"hollowkey/demo/enginelog"
)

// failedLog is a made-up verbose log of a setup with so many files.
func failedLog(t testing.TB, files int) []byte {
	t.Helper()
	var b bytes.Buffer
	err := enginelog.Write(&b, enginelog.Setup{
		Product: "Wharfage Ledger", Folder: "Wharfage", Files: files, Started: time.Date(2026, 5, 4, 9, 12, 1, 0, time.UTC),
		Services: []enginelog.Service{{Name: "BerthSync", Display: "Berth Sync"}},
		Failure:  enginelog.Failure{Action: "StartServices", Lines: []string{"Error 1920. Service 'Berth Sync' (BerthSync) failed to start."}},
	})
	if err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func BenchmarkReach(b *testing.B) {
	log := failedLog(b, 900)
	b.SetBytes(int64(len(log)))
	b.ReportAllocs()
	for b.Loop() {
		if _, err := Reach(context.Background(), Input{"big.log", bytes.NewReader(log)}, Options{}); err != nil {
			b.Fatal(err)
		}
	}
}
