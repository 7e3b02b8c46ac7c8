// This file has the forms by which a word is a file, a host or neither.

package names

import (
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"hollowkey/core/logs/lazy"
)

// fileName says whether a word is a file's name by its extension.
func fileName(w string) bool {
	dot := strings.LastIndexByte(w, '.')
	return dot > 0 && dot < len(w)-1 && (extensions[strings.ToLower(w[dot+1:])] || ownExtension.MatchString(w))
}

// ownExtension is a file of a kind that only its program knows: its stem is
// counted, as no host's, logger's or package's name is.
var ownExtension = lazy.MustCompile(`^[A-Za-z][A-Za-z-]*_\d+\.[a-z]{2,4}$`)

// extensions are those of files that setups bring, run and keep. One that is
// not here makes no file of a word: "Setup.Copy" is a logger's name.
var extensions = func() map[string]bool {
	m := map[string]bool{}
	for _, e := range strings.Fields(`exe dll msi msp mst msix appx msixbundle appxbundle cab zip 7z rar tar gz tgz bz2 xz zst lz4 lzma arc pak pck bin dat db sqlite mdb
		accdb mdf ldf sql sys inf cat drv ocx tlb olb ax cpl com bat cmd ps1 vbs js jar war class py pyd whl xml json yaml yml toml ini cfg
		conf config properties manifest txt log csv pdf chm hlp rtf htm html css ico png jpg bmp svg ttf otf fon reg lic key pem crt cer
		pfx p7b part tmp temp bak old new lock pid sh iso img wim esd vhd vhdx nupkg resx res mui nls rsp xsd xsl resources so lib obj
		pdb idx index qm ts mo po psd1 psm1 mof etl evtx dmp hash sha256 md5 sig asc delta diff patch bundle pkg deb rpm msu uid`) {
		m[e] = true
	}
	return m
}()

// pageHosts hold pages that the OS's messages send people to, and names of
// schemas: nobody was asked there.
var pageHosts = map[string]bool{"go.microsoft.com": true, "aka.ms": true, "schemas.microsoft.com": true, "www.w3.org": true,
	"schemas.xmlsoap.org": true, "docs.microsoft.com": true, "learn.microsoft.com": true, "support.microsoft.com": true}

// hostName says whether a word is a host: labels in small letters with a letter
// in the last one, or an address of four numbers.
func hostName(w string) bool {
	labels := strings.Split(w, ".")
	if len(labels) < 2 || pageHosts[w] {
		return false
	}
	if last := strings.ToLower(labels[len(labels)-1]); len(labels) > 2 && surelyDomains[last] && w == strings.ToUpper(w) && labels[0] != "" {
		w = strings.ToLower(w) // FS01.PORT.LOCAL
		labels = strings.Split(w, ".")
	}
	underscored := len(labels) > 2 && surelyDomains[labels[len(labels)-1]]
	numbers := 0
	for _, l := range labels {
		if l == "" || len(l) > 63 || l[0] == '-' {
			return false
		}
		all := true
		for i := range len(l) {
			if c := l[i]; c >= utf8.RuneSelf || c >= 'A' && c <= 'Z' || c == '_' && !underscored || c == '+' || c == '$' {
				return false
			} else if !digit(c) {
				all = false
			}
		}
		if all {
			numbers++
		}
	}
	last := labels[len(labels)-1]
	switch {
	case numbers == 4 && len(labels) == 4: // an address, no version
		return !slices.ContainsFunc(labels, func(l string) bool { n, err := strconv.ParseUint(l, 10, 8); return err != nil || n > 255 })
	case numbers > 0 && numbers >= len(labels)-1:
		return false
	}
	return domains[last]
}

// surelyDomains are those that no module's and no file's name ends in.
var surelyDomains = map[string]bool{"com": true, "net": true, "org": true, "edu": true, "gov": true, "local": true, "lan": true, "corp": true,
	"internal": true, "intranet": true, "localdomain": true, "example": true, "invalid": true}

// domains are the ends of hosts' names. Others are taken for names of modules
// and files, which are far more frequent in logs.
var domains = func() map[string]bool {
	m := map[string]bool{}
	for _, d := range strings.Fields(`com net org edu gov int info biz local lan internal corp intra intranet home localdomain example test
		invalid cloud dev app io co eu de at ch fr es it pt nl be pl cz sk se no dk fi is ie uk us ca au nz jp kr cn tw hk sg in br mx ar
		ru ua tr gr hu ro bg hr si ee lv lt il za`) {
		m[d] = true
	}
	return m
}()

// accountOrUnsure says whether a word is a name by its form: capitals inside,
// an underscore, letters with digits.
func accountOrUnsure(w string) bool {
	if len(w) < 4 {
		return false
	}
	inside, digits, letters := false, false, 0
	for i, c := range w {
		switch {
		case unicode.IsUpper(c) && i > 0:
			inside = true
		case c == '_':
			inside = true
		case unicode.IsDigit(c):
			digits = true
		}
		if unicode.IsLetter(c) {
			letters++
		}
	}
	if letters < 3 || strings.HasPrefix(w, "0x") {
		return false
	}
	return inside || digits
}
