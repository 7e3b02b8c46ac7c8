package installdb

import (
	"strings"
	"testing"
)

func TestDirectories(t *testing.T) {
	db := New(Package, 1252)
	for _, r := range [][3]any{
		{"TARGETDIR", nil, "SourceDir"}, {"ProgramFilesFolder", "TARGETDIR", "."},
		{"QUAY", "ProgramFilesFolder", "SALT|Saltmarsh Quay:src|Source"},
		{"INSTALLDIR", "QUAY", "."}, {"DATA", "INSTALLDIR", "Data:."}, {"SELF", "SELF", "Own"}, {"A", "B", "a"}, {"B", "A", "b"},
		{"LOST", "Nowhere", "lost"},
	} {
		if err := db.Insert("Directory", r[0], r[1], r[2]); err != nil {
			t.Fatal(err)
		}
	}
	tree, err := db.Directories()
	if err != nil {
		t.Fatal(err)
	}
	paths := map[string]string{"ProgramFilesFolder": `C:\Program Files\`, "Nowhere": `D:\Here`, "FREE": `E:\Free`}
	known := func(key string) (string, bool) { p, ok := paths[key]; return p, ok }
	for key, want := range map[string]string{
		"INSTALLDIR": `C:\Program Files\Saltmarsh Quay\`, "DATA": `C:\Program Files\Saltmarsh Quay\Data\`, "LOST": `D:\Here\lost\`,
		"FREE": `E:\Free\`, "TARGETDIR": "", "SELF": "", "A": "", "nothing": "",
	} {
		if got, ok := tree.Resolve(key, known); got != want || ok != (want != "") {
			t.Errorf("%s is %q, %v; want %q", key, got, ok, want)
		}
	}
	chain, whole := tree.Up("DATA")
	var names []string
	for _, d := range chain {
		names = append(names, d.Key+"="+d.Source)
	}
	if got := strings.Join(names, " "); !whole || got != "DATA= INSTALLDIR= QUAY=Source ProgramFilesFolder= TARGETDIR=SourceDir" {
		t.Errorf("from DATA up: %s, %v", got, whole)
	}
	if chain, whole := tree.Up("A"); whole || len(chain) != 0 {
		t.Errorf("a circle has %d rows", len(chain))
	}
	if _, whole := tree.Up("SELF"); !whole || tree.Has("nothing") || len(tree.Keys()) != 9 {
		t.Errorf("a row that is its own parent is no root, or %d rows are not 9", len(tree.Keys()))
	}
}

func TestLongName(t *testing.T) {
	for in, want := range map[string]string{"SALT~1|Saltmarsh Quay": "Saltmarsh Quay", "plain": "plain", "": "", "a|": ""} {
		if got := LongName(in); got != want {
			t.Errorf("LongName(%q) = %q; want %q", in, got, want)
		}
	}
}
