package intake

import (
	"context"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"hollowkey/core/fleet/store"
	"hollowkey/demo/fleetlogs"
)

// pairs counts how the causes of a store part logs whose causes are known: of
// the pairs that it holds for one cause, the share that is one; of those that
// are one, the share that it holds for one.
func pairs(list []store.Seen, truth map[string]string) (precision, recall float64) {
	choose := func(n int) float64 { return float64(n) * float64(n-1) / 2 }
	both, found, real := map[string]int{}, map[string]int{}, map[string]int{}
	for _, a := range list {
		t := truth[a.Path]
		if t == "" {
			continue
		}
		both[a.Cause+"|"+t]++
		found[a.Cause]++
		real[t]++
	}
	sum := func(m map[string]int) (n float64) {
		for _, k := range m {
			n += choose(k)
		}
		return n
	}
	return sum(both) / sum(found), sum(both) / sum(real)
}

// The same cause on many machines is one, and different ones stay apart: on
// causes that the rules were made with, and on others.
func TestCausesOfAFleet(t *testing.T) {
	causes, err := fleetlogs.Causes()
	if err != nil {
		t.Fatal(err)
	}
	for _, of := range []struct {
		name              string
		known             bool
		precision, recall float64
	}{{"known", true, 0.99, 0.95}, {"first sight", false, 0.95, 0.85}} {
		t.Run(of.name, func(t *testing.T) {
			dir := t.TempDir()
			p := fleetlogs.Plan{Machines: 60, Logs: 400, Worked: 5, Zips: 30, Least: 1000, Most: 1000,
				From: time.Date(2026, 5, 4, 0, 0, 0, 0, time.UTC), Days: 5, Seed: 5}
			for _, c := range causes {
				if c.Known == of.known {
					p.Causes = append(p.Causes, c)
				}
			}
			made, err := fleetlogs.Write(dir, p)
			if err != nil {
				t.Fatal(err)
			}
			truth := map[string]string{}
			for _, l := range made {
				truth[filepath.Join(dir, filepath.FromSlash(l.Path))] = l.Cause
			}
			s := open(t, t.TempDir())
			if rep, err := Add(context.Background(), s, []string{dir}, Options{}); err != nil || rep.Logs != len(made) {
				t.Fatalf("%+v %v", rep, err)
			}
			list, err := s.Attempts(context.Background(), store.Filter{}, false, 1<<20)
			if err != nil {
				t.Fatal(err)
			}
			precision, recall := pairs(list, truth)
			t.Logf("precision %.3f, recall %.3f, causes %d", precision, recall, len(p.Causes))
			if precision < of.precision || recall < of.recall {
				split := map[string]map[string]string{}
				for _, a := range list {
					if split[truth[a.Path]] == nil {
						split[truth[a.Path]] = map[string]string{}
					}
					split[truth[a.Path]][a.Cause] = a.Title + " <- " + a.Proof
				}
				for cause, ids := range split {
					if len(ids) > 1 {
						t.Errorf("%s is %d causes: %v", cause, len(ids), strings.Join(sortedValues(ids), "; "))
					}
				}
				t.Errorf("precision %.3f and recall %.3f; want %.2f and %.2f", precision, recall, of.precision, of.recall)
			}
		})
	}
}

func sortedValues(m map[string]string) (list []string) {
	for id, v := range m {
		list = append(list, id+" "+v)
	}
	return list
}

// A bootstrapper's log and the one that it names for its package are one
// attempt, which counts for what the package failed from, whichever is read
// first.
func TestABootstrapperAndItsPackage(t *testing.T) {
	dir := t.TempDir()
	stamp := func(text string) string { return "[0B1C:1F04][2026-05-05T09:12:01]" + text + "\r\n" }
	write(t, filepath.Join(dir, "ELLERY-D31", "Suite.log"),
		[]byte(stamp("i001: Setup engine v1.4.0, Windows v10.0 (Build 22631: Service Pack 0), path: C:\\Suite.exe")+
			stamp("i000: Setting string variable 'BundleName' to value 'Berthline Suite'")+
			stamp(`i000: Setting string variable 'BundleLog_BerthlinePlanner' to value 'C:\Users\tess\AppData\Local\Temp\Suite_000_BerthlinePlanner.log'`)+
			stamp("i100: Detect begin, 1 packages")+stamp("i300: Apply begin")+
			stamp("e000: Error 0x80070643: Failed to install MSI package.")+
			stamp("i319: Applied execute package: BerthlinePlanner, result: 0x80070643, restart: None")+
			stamp("i399: Apply complete, result: 0x80070643, restart: None, ba requested restart:  No")))
	write(t, filepath.Join(dir, "ELLERY-D31", "Suite_000_BerthlinePlanner.log"),
		[]byte(failed("ELLERY-D31", "tess", "Berthline Planner", kinds[0].action, kinds[0].message)))
	write(t, filepath.Join(dir, "ELLERY-D32", "Suite_000_BerthlinePlanner.log"),
		[]byte(failed("ELLERY-D32", "anna", "Berthline Planner", kinds[0].action, kinds[0].message)))
	s := open(t, t.TempDir())
	if rep, err := Add(context.Background(), s, []string{dir}, Options{}); err != nil || rep.Logs != 3 {
		t.Fatalf("%+v %v", rep, err)
	}
	rows, err := s.Top(context.Background(), store.Filter{}, 10)
	if err != nil || len(rows) != 1 || rows[0].Attempts != 2 || rows[0].Subject != "berthsync" {
		t.Errorf("%+v %v", rows, err)
	}
	list, err := s.Attempts(context.Background(), store.Filter{Machine: "ELLERY-D31"}, false, 10)
	if err != nil || len(list) != 1 || list[0].Product != "Berthline Suite" || list[0].Build != "22631" {
		t.Errorf("%+v %v", list, err)
	}
}
