package lexicon

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"
)

func in(text string) string {
	var out []string
	for _, w := range Default().In(strings.ToLower(text)) {
		out = append(out, fmt.Sprintf("%s %v", w.Class, w.Strength))
	}
	return strings.Join(out, ", ")
}

func TestIn(t *testing.T) {
	for text, want := range map[string]string{
		"Access to the path 'C:\\Program Files\\Fairway\\radio.dll' is denied.":                           "permission echo",
		"The process cannot access the file because it is being used by another process.":                 "in-use root",
		"Der Prozess kann nicht auf die Datei zugreifen, da sie von einem anderen Prozess verwendet wird": "in-use root",
		"L'accès au chemin d'accès 'D:\\Quay' est refusé.":                                                "permission echo",
		"Отказано в доступе. (5)":                                                                         "permission echo",
		"nicht genügend Speicherplatz auf dem Datenträger":                                                "space root",
		"ディスクの空き容量が不足しています":                                                                               "space root",
		"서비스를 시작할 수 없습니다: BerthSync":                                                                      "service tells",
		"'reg' is not recognized as an internal or external command":                                      "path root",
		"copied 12 files to the folder of the product":                                                    "",
		"no threats found":       "security-software against",
		"the threats of the sea": "",
		"java.lang.UnsupportedClassVersionError: has been compiled by a more recent version": "prerequisite root, prerequisite root",
		"spawn helper.exe ENOENT": "path echo",
	} {
		if got := in(text); got != want {
			t.Errorf("%s\n is %q; want %q", text, got, want)
		}
	}
}

// Every language has words for the classes that setups fail with most, and
// every line names a class that there is.
func TestEveryLanguage(t *testing.T) {
	classes := strings.Fields("permission elevation service registry condition prerequisite custom-action source cached-package corrupt in-use busy " +
		"space path policy installer-service component-store security-software network platform leftover command-line database cancelled")
	needed := strings.Fields("permission elevation service condition prerequisite source corrupt in-use busy space path policy security-software " +
		"network platform leftover command-line cancelled")
	names, err := files.ReadDir(".")
	if err != nil {
		t.Fatal(err)
	}
	if len(names) < 15 {
		t.Errorf("%d languages", len(names))
	}
	for _, n := range names {
		text, err := files.ReadFile(n.Name())
		if err != nil {
			t.Fatal(err)
		}
		l := empty()
		if err := l.read(n.Name(), string(text)); err != nil {
			t.Error(err)
		}
		has := map[string]bool{}
		for i, key := range l.keys {
			has[l.says[l.of[i]&^again].class] = true
			text := l.phrase(i)
			if text != strings.ToLower(text) || strings.Contains(text, "  ") {
				t.Errorf("%s: %q is not in small letters with single blanks", n.Name(), text)
			}
			if len(key) < 2 {
				t.Errorf("%s: %q has no word to look it up by", n.Name(), text)
			}
		}
		for c := range maps.Keys(has) {
			if !slices.Contains(classes, c) {
				t.Errorf("%s: %q is no class", n.Name(), c)
			}
		}
		for _, c := range needed {
			if !has[c] && n.Name() != "any.txt" {
				t.Errorf("%s: no words for %s", n.Name(), c)
			}
		}
	}
}

func TestBadFiles(t *testing.T) {
	for text, want := range map[string]string{
		"permission root\n":             "x.txt:1: \"root\" is no strength",
		"# a remark\npermission much a": "x.txt:2: \"much\" is no strength",
		"permission root a | | b":       "x.txt:1: a phrase is empty",
	} {
		if err := empty().read("x.txt", text); err == nil || !strings.HasPrefix(err.Error(), want) {
			t.Errorf("%q: %v; want %s", text, err, want)
		}
	}
}

// Every phrase is found in a text that holds it.
func TestEveryPhraseIsFound(t *testing.T) {
	l := Default()
	for i := range l.keys {
		text := strings.ReplaceAll(strings.ReplaceAll(l.phrase(i), " * ", " x "), "*", "")
		if words := l.In(text); len(words) == 0 {
			t.Errorf("%q is not found in itself", text)
		}
	}
}

func FuzzIn(f *testing.F) {
	f.Add("access to x is denied")
	f.Add("отказано в доступе")
	f.Fuzz(func(t *testing.T, text string) {
		lower := strings.ToLower(text)
		end := 0
		for _, w := range Default().In(lower) {
			if w.At < end || w.End > len(lower) || w.End <= w.At {
				t.Fatalf("%+v after %d in %q", w, end, lower)
			}
			end = w.End
		}
	})
}

// What a small log costs whatever it says.
func BenchmarkBuild(b *testing.B) {
	for b.Loop() {
		build()
	}
}

func BenchmarkIn(b *testing.B) {
	line := strings.Repeat("2026-05-04 09:12:01.024 [5120] info copying berthsync.dll to the folder of the product, 4096 bytes ", 100)
	b.SetBytes(int64(len(line)))
	for b.Loop() {
		Default().In(line)
	}
}
