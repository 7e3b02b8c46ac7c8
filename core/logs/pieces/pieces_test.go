package pieces

import (
	"fmt"
	"slices"
	"strings"
	"testing"
)

// found lists what a set finds, as piece@end.
func found(pieces []string, text string) (got []string) {
	New(pieces).Find(text, func(p, end int) { got = append(got, fmt.Sprintf("%s@%d", pieces[p], end)) })
	return got
}

// slow finds the same with the plainest means.
func slow(pieces []string, text string) (got []string) {
	for _, p := range pieces {
		for at := 0; p != ""; {
			i := strings.Index(text[at:], p)
			if i < 0 {
				break
			}
			got = append(got, fmt.Sprintf("%s@%d", p, at+i+len(p)))
			at += i + 1
		}
	}
	return got
}

func same(t *testing.T, pieces []string, text string) {
	t.Helper()
	a, b := found(pieces, text), slow(pieces, text)
	slices.Sort(a)
	slices.Sort(b)
	if !slices.Equal(a, b) {
		t.Errorf("%q in %q: %v; want %v", pieces, text, a, b)
	}
	if New(pieces).Any(text) != (len(b) > 0) {
		t.Errorf("%q in %q: Any is wrong", pieces, text)
	}
	begins := slices.ContainsFunc(pieces, func(p string) bool { return p != "" && strings.HasPrefix(text, p) })
	if New(pieces).Begin(text) != begins {
		t.Errorf("%q in %q: Begin is wrong", pieces, text)
	}
	if len(pieces) <= few { // among many others they are looked for in another way
		same(t, slices.Concat(pieces, others), text)
	}
}

// others are pieces of no text here, more than few.
var others = func() (all []string) {
	for i := range few + 1 {
		all = append(all, fmt.Sprintf("\x00\x01%d", i))
	}
	return all
}()

func TestPieces(t *testing.T) {
	same(t, []string{"he", "she", "his", "hers"}, "ushers and his")
	same(t, []string{"a", "aa", "aaa", ""}, "aaaa")
	same(t, []string{"abcd", "bc", "c"}, "abcabcd")
	same(t, []string{"denied", "denied", "access"}, "access is denied")
	same(t, []string{"ошибка", "шиб"}, "произошла ошибка")
	same(t, nil, "nothing is looked for")
	crowd := strings.Split("ab ac ad ae af ag ah ai aj", " ") // more followers than are looked through
	same(t, crowd, "abacadaeafagahaiajak")
}

func TestWords(t *testing.T) {
	for text, want := range map[string]bool{"the disk": true, "subdisk": false, "a-disk": true, "_disk": true, "4disk": false} {
		if at := strings.Index(text, "disk"); Begins(text, at) != want {
			t.Errorf("a word begins in %q: %v", text, !want)
		}
	}
	for text, want := range map[string]bool{"disk full": true, "disks": false, "disk": true, "disk2": true, "disk失敗": true} {
		if at := strings.Index(text, "disk") + len("disk"); Ends(text, at) != want {
			t.Errorf("a word ends in %q: %v", text, !want)
		}
	}
}

func FuzzFind(f *testing.F) {
	f.Add("he she his hers", "ushers")
	f.Add("a aa", "aaa")
	f.Fuzz(func(t *testing.T, pieces, text string) {
		if len(pieces) > 60 || len(text) > 200 { // the plain way is quadratic
			return
		}
		same(t, slices.Compact(slices.Sorted(slices.Values(strings.Fields(pieces)))), text)
	})
}

func BenchmarkFind(b *testing.B) {
	s := New(strings.Fields("denied refused failed failure cannot timeout unreachable corrupt quarantine blocked locked missing"))
	line := strings.Repeat("2026-05-04 09:12:01.024 [5120] INFO copying berthsync.dll to the folder of the product, 4096 bytes\n", 100)
	b.SetBytes(int64(len(line)))
	for b.Loop() {
		s.Find(line, func(int, int) {})
	}
}

// Lower is what strings.ToLower gives.
func FuzzLower(f *testing.F) {
	for _, s := range []string{"", "abc", "Grüße ÄÖ", "積算：MsiConfigureProductEx 戻り値 1612", "설치 FAILED", "İstanbul",
		"ab\xe3\x81", "\xed\xa0\x80", "Ꭰꭰ ＡＢ", "\xff\xfeA"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		if got, want := Lower(s), strings.ToLower(s); got != want {
			t.Errorf("%q: %q; want %q", s, got, want)
		}
	})
}

// A phrase is found with either apostrophe.
func TestEitherApostrophe(t *testing.T) {
	for phrase, want := range map[string]string{"l'accès refusé": "l'acces refuse|l’accès refusé", "can't be started": "can’t be started", "n’a pas": "n'a pas"} {
		if got := strings.Join(Unmarked(phrase), "|"); got != want {
			t.Errorf("%q: %q, want %q", phrase, got, want)
		}
	}
}
