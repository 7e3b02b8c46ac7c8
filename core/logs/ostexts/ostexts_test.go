package ostexts

import (
	"strings"
	"testing"
)

// A text names its number wherever it stands, and the longer of two that lie in
// each other.
func TestIn(t *testing.T) {
	for line, want := range map[string]int{
		`copy c:\tide\a.dll: access is denied.`:                                             5,
		`der dienst antwortete nicht rechtzeitig auf die start- oder steuerungsanforderung`: 1053,
		`fehler: das medium ist schreibgeschützt.`:                                          19,
		`the system cannot open the device or file specified because it is locked.`:         212,
		`ошибка: указанная служба не установлена.`:                                          1060,
		`指定されたサービスはインストールされたサービスとして存在しません。`:                                                 1060,
		`the file size exceeds the limit allowed and cannot be saved.`:                      223,
		`this share requires the obsolete smb1 protocol, which is unsafe`:                   384,
		`le nom réseau spécifié n'est plus disponible.`:                                     64,
		`es steht nicht genug speicherplatz auf dem datenträger zur verfügung. 0x80070070`:  112,
		`o serviço não respondeu à requisição de início ou controle em tempo hábil. (1053)`: 1053,
		`nie można uruchomić określonej usługi, ponieważ jest ona wyłączona lub nie jest`:   1058,
		`nastala chyba: uvedený modul nebyl nalezen.`:                                       126,
		`enheten är inte klar.`:                                                               21,
		`belirtilen hizmet yüklü bir hizmet olarak mevcut değil.`:                             1060,
		`de bestandsnaam of extensie is te lang`:                                              206,
		`impossibile avviare il servizio perché è disattivato o perché non ha periferiche`:    1058,
		`no se puede iniciar el servicio, ya sea porque está deshabilitado o porque no tiene`: 1058,
		`서비스가 시작되지 않았습니다.`:                                                                    1062,
		`介质受写入保护。`:                                                                            19,
	} {
		all := In(line)
		if len(all) != 1 || all[0].Code != want {
			t.Errorf("%s: %v, not %d", line, all, want)
		}
	}
	if Any("the service was started, access is granted") {
		t.Error("a text in a line without one")
	}
}

// No text stands under two numbers, all are in small letters, and each is long
// enough not to be a word by chance.
func TestTexts(t *testing.T) {
	const least = 9 // bytes of "acceso denegado" and its like, less a few; three letters of Chinese
	under := map[string]int{}
	for code, words := range All() {
		for _, w := range words {
			if under[w] != 0 {
				t.Errorf("%q stands under %d and %d", w, under[w], code)
			}
			if under[w] = code; len(w) < least || w != strings.ToLower(w) || w != strings.TrimSpace(w) {
				t.Errorf("%d: %q", code, w)
			}
		}
	}
}

func FuzzIn(f *testing.F) {
	f.Add("access is denied. the disk is full")
	f.Fuzz(func(t *testing.T, line string) {
		for _, s := range In(line) {
			if s.From < 0 || s.To > len(line) || s.From >= s.To {
				t.Errorf("%q: %v", line, s)
			}
		}
	})
}
