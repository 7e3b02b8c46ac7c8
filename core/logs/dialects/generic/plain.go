package generic

import (
	"bytes"
	"regexp"
	"slices"

	"hollowkey/core/logs/story"
	"hollowkey/core/logs/textfile"
)

// A Plain reads a text whose lines tell neither time nor level, such as what a
// console showed. Whether it is about a setup at all, it says at the end.
type Plain struct {
	Reader
	lines int // that are not empty
	about int // of them that speak of setups
}

// NewPlain makes a reader for the text called file.
func NewPlain(file string) *Plain {
	p := &Plain{Reader: *New(file)}
	p.plain = true
	return p
}

// Line takes the next line.
func (p *Plain) Line(l textfile.Line) {
	if len(bytes.TrimSpace(l.Text)) > 0 {
		p.lines++
		if speaksOfSetups(l.Text) {
			p.about++
		}
	}
	p.Reader.Line(l)
}

// What a text needs to be taken for a setup's: lines that speak of setups, so
// many and such a share, and one that tells how it went.
const (
	leastAbout = 2
	shareAbout = 0.04
)

// Told says whether the text, read into these attempts, is one of a setup that
// tells how it went.
func (p *Plain) Told(attempts []*story.Attempt) bool {
	return p.about >= leastAbout && float64(p.about) >= shareAbout*float64(p.lines) &&
		slices.ContainsFunc(attempts, func(a *story.Attempt) bool { return a.Success != nil || a.Exit != nil })
}

// setupWords begin the words for installing, updating and what it is done with,
// in small letters, in the languages that we read.
var setupWords = [][]byte{[]byte("install"), []byte("setup"), []byte("set-up"), []byte("upgrad"), []byte("updat"), []byte("deploy"),
	[]byte(".msi"), []byte("msiexec"), []byte("instala"), []byte("instalo"), []byte("aktualis"), []byte("aktualiz"), []byte("mise à jour"),
	[]byte("mise en place"), []byte("actualiza"), []byte("aggiorna"), []byte("atualiza"), []byte("bijwerk"), []byte("uppdater"),
	[]byte("güncelle"), []byte("kurulum"), []byte("yükle"), []byte("установ"), []byte("обновл"), []byte("インストール"), []byte("セットアップ"),
	[]byte("설치"), []byte("업데이트"), []byte("安装"), []byte("安裝"), []byte("更新"), []byte("package"), []byte("paket")}

// setupThings is what setups handle: files of programs, registry keys, Windows
// paths.
var setupThings = regexp.MustCompile(`(?i)\.(?:dll|exe|msi|cab|inf|sys|ocx|reg)\b|\b[a-z]:\\|\bHK(?:LM|CU|CR|EY_)|\bSOFTWARE\\`)

func speaksOfSetups(line []byte) bool {
	low := bytes.ToLower(line)
	for _, w := range setupWords {
		if bytes.Contains(low, w) {
			return true
		}
	}
	return setupThings.Match(line)
}
