package verdict

import (
	_ "embed"
	"strings"
	"testing"

	"hollowkey/core/logs/story"
)

//go:embed testdata/tongues.txt
var tonguesText string

// around are the first two lines and the last one of a setup's log, by language.
var aroundIn = map[string][3]string{
	"de": {`Einrichtung von Kelp 3 beginnt`, `Dateien werden vorbereitet`, `Das Programm wurde nicht installiert.`},
	"fr": {`Installation de Kelp 3`, `préparation des fichiers`, `Le programme n'a pas été installé.`},
	"es": {`Instalación de Kelp 3`, `preparando archivos`, `El programa no se ha instalado.`},
	"it": {`Installazione di Kelp 3`, `preparazione dei file`, `Il programma non è stato installato.`},
	"pt": {`Instalação do Kelp 3`, `a preparar ficheiros`, `O programa não foi instalado.`},
	"nl": {`Installatie van Kelp 3`, `bestanden worden voorbereid`, `Het programma is niet geïnstalleerd.`},
	"pl": {`Instalacja programu Kelp 3`, `przygotowywanie plików`, `Program nie został zainstalowany.`},
	"cs": {`Instalace programu Kelp 3`, `příprava souborů`, `Program nebyl nainstalován.`},
	"sv": {`Installation av Kelp 3`, `förbereder filer`, `Programmet har inte installerats.`},
	"tr": {`Kelp 3 kurulumu`, `dosyalar hazırlanıyor`, `Program kurulmadı.`},
	"ru": {`Установка Kelp 3`, `подготовка файлов`, `Программа не установлена.`},
	"ja": {`Kelp 3 セットアップ`, `ファイルを準備しています`, `プログラムはインストールされませんでした。`},
	"ko": {`Kelp 3 설치`, `파일 준비 중`, `프로그램이 설치되지 않았습니다.`},
	"zh": {`Kelp 3 安装程序`, `正在准备文件`, `程序未安装。`},
}

// TestTongues: a cause that is told in one line in any of the languages is
// found, and the line by which such a run ends is taken for no cause: of
// another thing "was not installed" is what a setup needs.
func TestTongues(t *testing.T) {
	n := 0
	for row := range strings.Lines(tonguesText) {
		f := strings.SplitN(strings.TrimSpace(row), "|", 3)
		if len(f) != 3 || strings.HasPrefix(row, "#") {
			continue
		}
		n++
		if f[0] == "good" || f[0] == "close" {
			continue
		}
		log, class := "Kelp 3 setup\nstep 1\nstep 2\n"+f[2]+"\n", "unknown"
		if f[0] != "end" {
			around := aroundIn[f[1]]
			if f[1] == "en" {
				continue
			}
			log, class = around[0]+"\n"+around[1]+"\n"+f[2]+"\n"+around[2]+"\n", f[0]
		}
		v := reached(t, log)
		if v.Outcome != story.Failed || *v.Cause.Class != class {
			t.Errorf("%s: %q: %s, %s with %.2f, want %s", f[1], f[2], v.Outcome, *v.Cause.Class, v.Cause.Confidence, class)
		}
	}
	if n < 400 {
		t.Errorf("%d lines", n)
	}
}

// TestGoodTongues: so is that it worked, whatever line closes the log behind
// it.
func TestGoodTongues(t *testing.T) {
	good, closers := map[string][]string{}, map[string][]string{}
	for row := range strings.Lines(tonguesText) {
		switch f := strings.SplitN(strings.TrimSpace(row), "|", 3); f[0] {
		case "good":
			good[f[1]] = append(good[f[1]], f[2])
		case "close":
			closers[f[1]] = append(closers[f[1]], f[2])
		}
	}
	if len(good) != len(aroundIn)+1 { // and English
		t.Fatalf("%d languages", len(good))
	}
	for lang, lines := range good {
		for _, line := range lines {
			for _, closer := range append(closers[lang], "") {
				for _, note := range []string{"", "10:00:02 warning: old settings not found, defaults used\n"} {
					log := "10:00:00 Kelp 3 setup\n10:00:01 copying 44 files\n" + note + "10:00:03 registering 3 components\n10:00:04 " + line + "\n"
					if closer != "" {
						log += "10:00:05 " + closer + "\n"
					}
					if v := reached(t, log); v.Outcome != story.Succeeded {
						t.Errorf("%s: %q, then %q: %s", lang, line, closer, v.Outcome)
					}
				}
			}
		}
	}
}
