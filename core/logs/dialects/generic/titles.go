// This file reads lines that are titles: of the product, or of a part of the
// report.

package generic

import (
	"slices"
	"strings"
	"sync"

	"hollowkey/core/logs/endings"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/pieces"
)

// titleLines is how many lines stand at most above a title: a rule, the program
// that writes.
const titleLines = 3

// title says whether a line names a product and its version, and says no more,
// and whether it has a word for a setup too: "Tide Watch 3.1 installer".
func title(line string) (named, ofSetup bool) {
	t := strings.Trim(partHead.ReplaceAllString(line, ""), " \t=-*#~_.:>[]()")
	if len(t) > longestTitle || strings.Count(t, ",") > 1 || !titleOf.MatchString(t) {
		return false, false
	}
	for _, w := range strings.FieldsFunc(strings.ToLower(t), func(c rune) bool { return c == ' ' || c == ',' || c == ':' }) {
		if ofBooks[w] {
			return false, false
		}
		ofSetup = ofSetup || endings.IsSetup(w)
	}
	return ofSetup || dotted.MatchString(t), ofSetup // "Copying 14 files" names no product
}

// longestTitle is how many bytes a title has at most: longer ones are
// sentences.
const longestTitle = 70

// titleOf holds a name and a version.
var titleOf = lazy.MustCompile(`^\W*\p{Lu}[\pL\d]+\b.*\bv?\d+(?:\.\d+)*\b`)

// ofBooks are words in titles of texts that people read.
var ofBooks = map[string]bool{"notes": true, "guide": true, "manual": true, "changelog": true, "changes": true, "license": true, "licence": true,
	"readme": true, "faq": true, "documentation": true, "copyright": true, "reference": true, "tutorial": true, "handbuch": true, "manuel": true,
	"version": true, "news": true, "rfc": true, "copying": true, "howto": true, "instructions": true, "anleitung": true}

// section reads the name of a part of a report: "[Dienst anlegen]" alone on a
// line, or "- name: start-driver" in a list.
func section(line []byte) (name string, ok bool) {
	t := strings.TrimSpace(string(line))
	if f := ruled.FindStringSubmatch(t); f != nil && !titles(f[1]) { // a rule around it, and maybe the time
		return f[1], true
	}
	if in, found := strings.CutPrefix(t, "["); found && strings.HasSuffix(in, "]") && len(in) > 3 && len(in) < 60 &&
		!strings.ContainsAny(in[:len(in)-1], "[]=") {
		return in[:len(in)-1], true
	}
	if in, found := strings.CutSuffix(t, ":"); found && len(line) > 0 && line[0] != ' ' && line[0] != '\t' &&
		len(in) > 3 && len(in) < 40 && !strings.ContainsAny(in, `:=\\/"()[]{}<>.`) &&
		strings.Count(in, " ") < 4 && !hasAny(strings.ToLower(in), []string{"error", "fail", "fehler", "erreur", "note", "caused by", "warn"}) {
		return in, true
	}
	for _, head := range []string{"- name: ", "- step: ", "- stage: ", "- task: ", "- phase: "} {
		if in, found := strings.CutPrefix(t, head); found && in != "" {
			return strings.Trim(in, `"'`), true
		}
	}
	return "", false
}

// titles says whether a name is that of the whole: "Tide Watch 12 upgrade".
func titles(name string) bool {
	last := strings.ToLower(name[strings.LastIndexByte(name, ' ')+1:])
	return endings.IsSetup(last) || speaksOfSetups([]byte(name)) && strings.ContainsAny(name, "0123456789")
}

// ruled is such a name between rules: ---- [print driver] 09:14:03 ----, ===
// drivers ===.
var ruled = lazy.MustCompile(`^[-=*#~+]{2,}\s*\[?\s*(\p{L}[\p{L}\d ._/&-]{2,50}?)\s*\]?(?:\s+[\d:.,TZ-]{4,30})?\s*[-=*#~+]{2,}$`)

// ofWhole are sections of a report that are about all of it.
var ofWhole = map[string]bool{"setup": true, "installation": true, "general": true, "summary": true, "end": true, "result": true, "results": true,
	"header": true, "info": true, "report": true, "installer": true, "product": true, "total": true, "ende": true, "ergebnis": true, "fin": true,
	"résumé": true, "resumen": true, "riepilogo": true, "zusammenfassung": true, "allgemein": true}

// setupWords begin the words for installing, updating and what it is done with,
// in small letters, in the languages that we read.
var setupWords = []string{"install", "setup", "set-up", "upgrad", "updat", "deploy", "rollout", "bereitstell", "déploi", "despliegue", "implementación",
	"distribuzione", "implantação", "uitrol", "wdrożen", "nasazen", "utrullning", "dağıtım", "развёртыв", "развертыв", ".msi", "msiexec", "instala",
	"instalo", "aktualis", "aktualiz", "einricht",
	"mise à jour", "mise en place", "actualiza", "aggiorna", "atualiza", "bijwerk", "uppdater", "güncelle",
	"kurulum", "yükle", "установ", "обновл",
	"インストール", "セットアップ", "설치", "업데이트", "安装", "安裝", "更新", "package", "paket", "bootstrap", "provisioning", "prerequisites",
	// and for what it does file by file
	"copying ", "extracting ", "unpacking ", "registering ", "kopiere ", "entpacke ", "registriere ", "copie de ", "extraction de ",
	"copiando ", "extrayendo ", "extraindo ", "copia di ", "estrazione ", "kopiuję ", "rozpakow", "kopíruji ", "kopierar ", "kopiëren ",
	"kopyalan", "копирован", "распаков", "をコピー", "を展開", "복사 중", "正在复制", "正在解压"}

// setupThings is what setups handle: registry keys, Windows paths, and, ended
// by something else than a letter, files of programs.
var setupThings = []string{`:\`, "hklm", "hkcu", "hkcr", "hkey_", `software\`, ".dll", ".exe", ".cab", ".inf", ".sys", ".ocx", ".reg", ".msp",
	".msu", ".msix", ".appx"}

// aboutSetups are both in one set.
var aboutSetups = sync.OnceValue(func() *pieces.Set { return pieces.New(slices.Concat(setupWords, setupThings)) })

// speaksOfSetups says whether a line has a word that setups use, whichever.
func speaksOfSetups(line []byte) bool {
	speaks, _ := ofSetups(line)
	return speaks
}

// ofSetups says whether a line speaks of setups or of what they handle, and
// whether in a word for them.
func ofSetups(line []byte) (speaks, worded bool) {
	low := pieces.Lower(string(line))
	aboutSetups().Find(low, func(k, end int) {
		word := k < len(setupWords)
		whole := word || setupThings[k-len(setupWords)][0] != '.' || pieces.Ends(low, end)
		speaks, worded = speaks || whole, worded || word
	})
	return speaks, worded
}
