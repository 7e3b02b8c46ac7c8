package steps

import (
	"strings"
	"testing"
	"unicode/utf8"
)

func TestRead(t *testing.T) {
	for _, c := range []struct {
		text string
		want Head
	}{
		{"operation: copy fonts", Head{Name: "copy fonts", Sure: true}},
		{"Schritt 3 von 7: Schriften kopieren", Head{Name: "Schriften kopieren", Number: "3", Sure: true}},
		{"Arbeitsschritt Index aufbauen gestartet", Head{Name: "Index aufbauen", Sure: true}},
		{"adım Dosya kopyalama tamamlanamadı", Head{Name: "Dosya kopyalama", Sure: true, Ends: true}},
		{"étape « copier polices »", Head{Name: "copier polices", Sure: true}},
		{"手順「部品の展開」を開始します", Head{Name: "部品の展開", Sure: true}},
		{"步骤：复制字体", Head{Name: "复制字体", Sure: true}},
		{"module 2: fonts", Head{Name: "fonts", Number: "2", Sure: true}},
		{"=== copy-fonts ===", Head{Name: "copy-fonts"}},
		{"3) copy fonts", Head{Name: "copy fonts", Number: "3"}},
		{"copy-fonts: begin", Head{Name: "copy-fonts"}},
		{"entering copy-fonts", Head{Name: "copy-fonts", Led: true}},
		{"CopyFonts()", Head{Name: "CopyFonts"}},
	} {
		if h, ok := Read(c.text); !ok || h != c.want {
			t.Errorf("%q: %+v, %v; want %+v", c.text, h, ok, c.want)
		}
	}
	for _, text := range []string{"running as SYSTEM", "component fonts", "operation completed", "action required: none", "step failed",
		"Task: yes", "starting setup", "module C:\\Tide\\a.dll loaded", "start-agent.exe was not found", "copied a.ttf", "phase: ok",
		"Beginn der Installation: 12.03.2026", "operation timed out", "do not close this window", "the next file is large"} {
		if h, ok := Read(text); ok {
			t.Errorf("%q: %+v", text, h)
		}
	}
}

// Whatever a line holds, the name of a step is a part of it, and whole letters.
func FuzzRead(f *testing.F) {
	for _, seed := range []string{"step 3 of 7: copy fonts", "手順：展開：開始", "=== a-b ===", "adım Dosya tamamlandı", "[3] copy", "begin begin x", "作業「」", "CopyFonts()"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		h, ok := Read(text)
		sure, is := Sure(text)
		switch {
		case ok && (h.Name == "" || !strings.Contains(text, h.Name) || utf8.ValidString(text) && !utf8.ValidString(h.Name)):
			t.Errorf("%q: %+v", text, h)
		case is && sure != h:
			t.Errorf("%q: %+v, and for sure %+v", text, h, sure)
		}
	})
}
