package fix

import (
	"bytes"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"hollowkey/core/machine/twin"
	"hollowkey/core/step"
)

// FuzzJournalLife lives a journal's life: changes, undoing, lines that are cut,
// repeated, left out or edited, and opening again. While nobody touched the
// journal, all can be undone to the byte; once somebody did, nothing is changed
// on its word.
func FuzzJournalLife(f *testing.F) {
	f.Add([]byte{0, 1, 2, 8, 8, 3, 8, 15})
	f.Add([]byte{0, 0, 8, 9, 1, 8, 10, 2})
	f.Add([]byte{0, 1, 12, 2, 8, 11, 1, 8})
	f.Add([]byte{0, 13, 14, 0, 8})
	f.Fuzz(func(t *testing.T, life []byte) {
		if len(life) > 24 {
			t.Skip()
		}
		dir := t.TempDir()
		folder := filepath.Join(dir, "twin")
		const registry = "Windows Registry Editor Version 5.00\r\n\r\n[HKEY_LOCAL_MACHINE\\SOFTWARE\\Quay]\r\n\"A\"=\"0\"\r\n"
		for name, text := range map[string]string{"twin.yaml": "name: T\n", "registry/m.reg": registry} {
			if err := os.MkdirAll(filepath.Dir(filepath.Join(folder, name)), 0o755); err != nil {
				t.Fatal(err)
			}
			if err := os.WriteFile(filepath.Join(folder, name), []byte(text), 0o600); err != nil {
				t.Fatal(err)
			}
		}
		m, err := twin.Open(folder)
		if err != nil {
			t.Fatal(err)
		}
		defer m.Close()
		own := filepath.Join(dir, "own")
		path := filepath.Join(own, journalName)
		open := func() *Journal {
			j, err := OpenJournal(own, time.Now)
			if err != nil {
				return nil
			}
			return j
		}
		now := func() string {
			b, _ := os.ReadFile(filepath.Join(folder, "registry", "m.reg"))
			return string(b)
		}
		j, cut, touched := open(), false, false
		for i, op := range life {
			text, _ := os.ReadFile(path)
			lines := bytes.SplitAfter(text, []byte("\n"))
			switch before := now(); {
			case j == nil: // a journal that is not trusted stays so
				if j = open(); j != nil && touched {
					t.Fatal("a journal that was touched is trusted")
				}
				return
			case op < 8:
				p, err := Draft(m, "x",
					[]step.Model{step.New("registry", "key", `HKLM\SOFTWARE\Quay`, "name", "A", "type", "string", "value", fmt.Sprint(op, i))})
				if err != nil {
					t.Fatal(err)
				}
				if err := p.Apply(m, j); err != nil && !errors.Is(err, ErrForeign) && !cut && !touched {
					t.Fatal(err)
				}
			case op == 8:
				for _, i := range j.LastPlan(m.Name()) {
					if err := j.Undo(m, i.Change, false); err != nil && !errors.Is(err, ErrForeign) && !cut {
						t.Fatal(err)
					}
				}
			case op == 9:
				j = open()
			case op == 10 && len(text) > 5: // the power goes while a record is written
				cut = true
				if err := os.WriteFile(path, text[:len(text)-5], 0o600); err != nil {
					t.Fatal(err)
				}
				if j = open(); j == nil {
					t.Fatal("a last record that was cut is no reason to trust nothing")
				}
				if _, err := j.Recover(m); err != nil {
					t.Fatal(err)
				}
			case op > 10 && op < 15 && len(lines) > 2:
				touched = true
				harmed := [][]byte{
					bytes.Join(append(lines[:1:1], lines[0], lines[1]), nil), bytes.Join(lines[1:], nil),
					bytes.Replace(text, []byte("Quay"), []byte("Evil"), 1),
					append(bytes.Join([][]byte{lines[1], lines[0]}, nil), bytes.Join(lines[2:], nil)...),
				}[op-11]
				if err := os.WriteFile(path, harmed, 0o600); err != nil {
					t.Fatal(err)
				}
				if j = open(); j != nil && !bytes.Equal(harmed, text) {
					t.Fatalf("it is trusted:\n%s", harmed)
				}
				if now() != before {
					t.Fatal("opening changed the machine")
				}
				return
			}
		}
		if j == nil {
			return
		}
		if j = open(); j == nil {
			t.Fatal("an untouched journal is not trusted")
		}
		for _, i := range j.InForce(m.Name()) {
			if err := j.Undo(m, i.Change, cut); err != nil {
				t.Fatalf("change %d: %v", i.Change, err)
			}
		}
		if !cut && now() != registry {
			t.Fatalf("after all is undone: %q", now())
		}
	})
}
