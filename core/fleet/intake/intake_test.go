package intake

import (
	"archive/zip"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hollowkey/core/fleet/store"
)

// failed is a verbose log of a setup that failed, as the engine writes it, on a
// machine of a user.
func failed(machine, user, product, action, message string) string {
	return fmt.Sprintf(`=== Verbose logging started: 5/4/2026  09:12:01  Build type: SHIP UNICODE 5.00.10011.00  Calling process: C:\Windows\system32\msiexec.exe ===
MSI (c) (B4:5C) [09:12:01:004]: ******* RunEngine:
           ******* Product: C:\Users\%[2]s\Downloads\Quay.msi
           ******* Action: 
Action start 9:12:01: INSTALL.
Action start 9:12:02: %[4]s.
%[5]s
MSI (s) (9C:E8) [09:12:02:969]: Product: %[3]s -- %[5]s
Action ended 9:12:03: %[4]s. Return value 3.
Action ended 9:12:03: INSTALL. Return value 3.
Property(S): ComputerName = %[1]s
Property(S): LogonUser = %[2]s
Property(S): ProductName = %[3]s
Property(S): ProductVersion = 2.8.1
MSI (c) (B4:5C) [09:12:03:400]: MainEngineThread is returning 1603
=== Verbose logging stopped: 5/4/2026  09:12:03 ===
`, machine, user, product, action, message)
}

// kinds are causes that must stay apart; %s is the user's name.
var kinds = []struct{ product, action, message string }{
	{"Tidebook Desk", "StartServices",
		"Error 1920. Service 'Berth Sync' (BerthSync) failed to start.  Verify that you have sufficient privileges to start system services."},
	{"Tidebook Desk", "StartServices",
		"Error 1920. Service 'Tide Clock' (TideClock) failed to start.  Verify that you have sufficient privileges to start system services."},
	{"Pilot Roster", "CostFinalize", `Error 1327. Invalid Drive: Z:\`},
	{"Berthline Planner", "InstallFiles",
		`Error 1304. Error writing to file: C:\Users\%s\AppData\Local\Temp\tides.dll.  Verify that you have access to that directory.`},
	{"Wharfage Ledger", "CreateFolders", `Error 1312. Cannot create the directory 'C:\ProgramData\Saltmarsh Quay\Ledger'. A file with this name already exists. Please rename or remove the file and click retry, or click Cancel to exit.`},
}

// fleet writes logs of known causes on many machines, half of them in zips, and
// gives for each path which cause it is of.
func fleet(t testing.TB, dir string, machines int) map[string]int {
	t.Helper()
	truth := map[string]int{}
	users := []string{"mwhitlow", "dpayne", "anna o'neil", "Wendeline Brook", "r.stone"}
	for n := range machines {
		host := fmt.Sprintf("ELLERY-D%02d", n)
		user := users[n%len(users)]
		logs := map[string]string{}
		for k, c := range kinds {
			if (n+k)%3 == 0 {
				continue
			}
			message := c.message
			if strings.Contains(message, "%s") {
				message = fmt.Sprintf(message, user)
			}
			logs[fmt.Sprintf("setup-%d.log", k)] = failed(host, user, c.product, c.action, message)
		}
		logs["notes.txt"] = "the coffee is out"
		if n%2 == 0 {
			at := filepath.Join(dir, host)
			if err := os.MkdirAll(at, 0o755); err != nil {
				t.Fatal(err)
			}
			for name, text := range logs {
				write(t, filepath.Join(at, name), []byte(text))
				fmt.Sscanf(name, "setup-%d.log", new(int))
				note(truth, filepath.Join(at, name))
			}
			continue
		}
		at := filepath.Join(dir, host+".zip")
		f, err := os.Create(at)
		if err != nil {
			t.Fatal(err)
		}
		z := zip.NewWriter(f)
		for name, text := range logs {
			w, err := z.Create("logs/" + name)
			if err != nil {
				t.Fatal(err)
			}
			w.Write([]byte(text))
			note(truth, at+"!logs/"+name)
		}
		if err := z.Close(); err != nil {
			t.Fatal(err)
		}
		f.Close()
	}
	return truth
}

func note(truth map[string]int, path string) {
	var k int
	if _, err := fmt.Sscanf(filepath.Base(strings.ReplaceAll(path, "!", "/")), "setup-%d.log", &k); err == nil {
		truth[path] = k
	}
}

func write(t testing.TB, name string, b []byte) {
	t.Helper()
	if err := os.MkdirAll(filepath.Dir(name), 0o755); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(name, b, 0o644); err != nil {
		t.Fatal(err)
	}
}

func open(t testing.TB, dir string) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), filepath.Join(dir, "t.db"), true)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

// One cause on many machines is one row, different causes stay apart, and what
// was read is not read again.
func TestGrouping(t *testing.T) {
	dir, at := t.TempDir(), t.TempDir()
	truth := fleet(t, dir, 24)
	s := open(t, at)
	ctx := context.Background()
	rep, err := Add(ctx, s, []string{dir}, Options{})
	if err != nil || rep.Logs != len(truth) || rep.Others != 24 || rep.Unread != 0 || rep.Known != 0 {
		t.Fatalf("%+v %v, want %d logs", rep, err, len(truth))
	}
	list, err := s.Attempts(ctx, store.Filter{}, false, 10_000)
	if err != nil || len(list) != len(truth) {
		t.Fatal(len(list), err)
	}
	together, right, pairs := 0, 0, 0
	for i, a := range list {
		if !strings.HasPrefix(a.Machine, "ellery-d") ||
			!a.Happened.Equal(time.Date(2026, 5, 4, 9, 12, 1, 0, time.UTC).Truncate(time.Second)) &&
				a.Happened.Format("2006-01-02") != "2026-05-04" {
			t.Errorf("%+v", a)
		}
		for _, b := range list[:i] {
			same := truth[a.Path] == truth[b.Path]
			if same {
				pairs++
			}
			if a.Cause == b.Cause {
				together++
				if same {
					right++
				}
			}
		}
	}
	if precision, recall := float64(right)/float64(max(together, 1)),
		float64(right)/float64(max(pairs, 1)); precision < 0.99 || recall < 0.95 {
		t.Errorf("precision %.3f, recall %.3f", precision, recall)
	}
	rows, err := s.Top(ctx, store.Filter{}, 100)
	if err != nil || len(rows) != len(kinds) || rows[0].Machines < 15 {
		t.Errorf("%+v %v", rows, err)
	}
	again, err := Add(ctx, s, []string{dir}, Options{})
	if err != nil || again.Known < len(truth) || again.Logs != 0 {
		t.Errorf("read again: %+v %v", again, err)
	}
	// A copy of a log elsewhere counts once.
	copied := filepath.Join(t.TempDir(), "copy.log")
	for path := range truth {
		if !strings.Contains(path, "!") {
			b, err := os.ReadFile(path)
			if err != nil {
				t.Fatal(err)
			}
			write(t, copied, b)
			break
		}
	}
	if _, err := Add(ctx, s, []string{copied}, Options{}); err != nil {
		t.Fatal(err)
	}
	if sum, err := s.Total(ctx, store.Filter{}); err != nil || sum.Attempts != len(truth) || sum.Machines != 24 {
		t.Errorf("%+v %v", sum, err)
	}
	n, err := s.Forget(ctx, "ELLERY-D03", time.Time{})
	if err != nil || n == 0 {
		t.Errorf("forgot %d: %v", n, err)
	}
	if list, err := s.Attempts(ctx, store.Filter{Machine: "ellery-d03"}, false, 10); err != nil || len(list) != 0 {
		t.Errorf("%+v %v", list, err)
	}
}

// An interrupted run keeps what it has, and the next one brings the rest:
// everything once.
func TestInterrupted(t *testing.T) {
	dir, at := t.TempDir(), t.TempDir()
	truth := fleet(t, dir, 60)
	s := open(t, at)
	for round := 0; ; round++ {
		ctx, stop := context.WithCancel(context.Background())
		_, err := Add(ctx, s, []string{dir}, Options{Watch: func(done, _ int64) {
			if done == 60 && round < 2 {
				stop()
			}
		}})
		stop()
		if err != nil && round >= 2 {
			t.Fatal(err)
		}
		if round == 2 {
			break
		}
	}
	if sum, err := s.Total(context.Background(), store.Filter{}); err != nil || sum.Attempts != len(truth) {
		t.Errorf("%+v %v, want %d", sum, err, len(truth))
	}
}

// What is hostile or broken is told, and never stops the rest.
func TestHostilePlaces(t *testing.T) {
	dir := t.TempDir()
	write(t, filepath.Join(dir, "good.log"), []byte(failed("ELLERY-D07", "u1", "Tidebook Desk", kinds[0].action, kinds[0].message)))
	write(t, filepath.Join(dir, "broken.zip"), []byte("PK\x03\x04 and no more"))
	bomb, err := os.Create(filepath.Join(dir, "bomb.zip"))
	if err != nil {
		t.Fatal(err)
	}
	z := zip.NewWriter(bomb)
	w, _ := z.Create("zeros.log")
	for range 64 {
		w.Write(make([]byte, 1<<20))
	}
	z.Close()
	bomb.Close()
	many, err := os.Create(filepath.Join(dir, "many.zip"))
	if err != nil {
		t.Fatal(err)
	}
	z = zip.NewWriter(many)
	for n := range 20_000 + 1 {
		z.CreateHeader(&zip.FileHeader{Name: fmt.Sprintf("../../%d.log", n)})
	}
	z.Close()
	many.Close()
	if err := os.Mkdir(filepath.Join(dir, "closed"), 0o000); err != nil {
		t.Fatal(err)
	}
	defer os.Chmod(filepath.Join(dir, "closed"), 0o755)
	told := map[string]string{}
	s := open(t, t.TempDir())
	rep, err := Add(context.Background(), s, []string{dir}, Options{Problem: func(path, why string) { told[filepath.Base(path)] = why }})
	if err != nil || rep.Logs != 1 {
		t.Fatalf("%+v %v", rep, err)
	}
	for name, want := range map[string]string{"broken.zip": "zip", "bomb.zip": "would come out", "many.zip": "entries"} {
		if !strings.Contains(told[name], want) {
			t.Errorf("%s: %q", name, told[name])
		}
	}
	if _, err := Add(context.Background(), s, []string{filepath.Join(dir, "none")}, Options{}); err == nil {
		t.Error("a place that is not there is no error")
	}
	if _, err := Add(context.Background(), s, []string{filepath.Join(dir, "*.nothing")}, Options{}); err == nil {
		t.Error("a pattern that fits nothing is no error")
	}
}

// A machine is known by the folder or zip that a log lies in.
func TestMachineOf(t *testing.T) {
	for path, want := range map[string]string{"logs/ELLERY-D07/setup.log": "ELLERY-D07",
		"week/ELLERY-D07.zip!logs/a.log": "ELLERY-D07", "logs/setup.log": "", "PC00123/Temp/x.log": "PC00123"} {
		if got := machineOf(path); got != want {
			t.Errorf("%s: %q, want %q", path, got, want)
		}
	}
}
