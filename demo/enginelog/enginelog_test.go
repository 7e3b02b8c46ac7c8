package enginelog_test

import (
	"bytes"
	"context"
	"strings"
	"testing"
	"time"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
	"hollowkey/core/why/verdict"
	"hollowkey/demo/enginelog"
)

func write(t *testing.T, s enginelog.Setup) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := enginelog.Write(&b, s); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func setup(f enginelog.Failure) enginelog.Setup {
	return enginelog.Setup{Product: "Tidebook Desk", Version: "2.8.1", Code: "{5D0B1C77-2E9A-4B6B-8C35-0A6C2E5F7D22}", Folder: "Tidebook",
		User:    "mwhitlow",
		Started: time.Date(2026, 5, 4, 9, 12, 1, 0, time.UTC), Files: 50, Folders: 10,
		Services: []enginelog.Service{{Name: "BerthSync", Display: "Berth Sync"}}, Failure: f}
}

func TestSameSetupSameLog(t *testing.T) {
	a, b := write(t, setup(enginelog.Failure{})), write(t, setup(enginelog.Failure{}))
	if !bytes.Equal(a, b) {
		t.Error("two logs of the same setup differ")
	}
	if !bytes.HasPrefix(a, []byte{0xFF, 0xFE}) || !bytes.Contains(a, []byte("\r\x00\n\x00")) {
		t.Error("the log is not UTF-16LE with mark and CR LF")
	}
}

// Whatever action fails, the log tells that it was this one.
func TestEachFailureIsRead(t *testing.T) {
	for _, action := range []string{"FindRelatedProducts", "AppSearch", "LaunchConditions", "CostInitialize", "CostFinalize",
		"InstallValidate", "RemoveExistingProducts",
		"InstallInitialize", "CreateFolders", "InstallFiles", "WriteRegistryValues", "InstallServices", "StartServices"} {
		log := write(t, setup(enginelog.Failure{Action: action,
			Lines: []string{"Error 1303. The installer has insufficient privileges to access this directory: C:\\Quay."}}))
		v, err := verdict.Reach(context.Background(), verdict.Input{Name: action, Text: bytes.NewReader(log)}, verdict.Options{})
		if err != nil {
			t.Fatal(err)
		}
		if v.Outcome != story.Failed || v.BrokeAt.Action == nil || *v.BrokeAt.Action != action || *v.Cause.Class != "permission" {
			t.Errorf("%s: broke at %v, %s", action, v.BrokeAt, *v.Cause.Class)
		}
	}
	v, err := verdict.Reach(context.Background(), verdict.Input{Name: "good", Text: bytes.NewReader(write(t, setup(enginelog.Failure{})))},
		verdict.Options{})
	if err != nil || v.Outcome != story.Succeeded || v.Cause.Class != nil || len(v.Remedies) != 0 {
		t.Errorf("a good setup: %v, %v", v, err)
	}
}

// The engine's stamp never goes back in time.
func TestTimeGoesOn(t *testing.T) {
	before := ""
	for l := range textfile.Lines(context.Background(), bytes.NewReader(write(t, setup(enginelog.Failure{}))), textfile.Options{}, nil) {
		if text := string(l.Text); strings.HasPrefix(text, "MSI (") {
			_, rest, _ := strings.Cut(text, "[")
			stamp := rest[:12]
			if stamp < before {
				t.Fatalf("line %d: %s after %s", l.Number, stamp, before)
			}
			before = stamp
		}
	}
}
