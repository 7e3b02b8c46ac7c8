package textfile

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"testing/iotest"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/simplifiedchinese"
	"golang.org/x/text/encoding/traditionalchinese"
	"golang.org/x/text/encoding/unicode"
)

func readAll(t testing.TB, r io.Reader) (lines []string, info Info) {
	t.Helper()
	for l, err := range Lines(context.Background(), r, Options{}, &info) {
		if err != nil {
			t.Fatalf("line %d: %v", l.Number, err)
		}
		if l.Number != len(lines)+1 {
			t.Fatalf("line number %d after %d lines", l.Number, len(lines))
		}
		lines = append(lines, string(l.Text))
	}
	return lines, info
}

func encoded(t testing.TB, e encoding.Encoding, text string) []byte {
	t.Helper()
	b, err := e.NewEncoder().Bytes([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	return b
}

func TestEncodings(t *testing.T) {
	german := "Aktion gestartet um 06:12:44: INSTALL.\r\nDer Dienst konnte nicht gestartet werden. Überprüfen Sie, ob Größe und Rechte genügen.\r\n"
	polish := "Akcja rozpoczęta 11:05:31: INSTALL.\r\nNie można uruchomić usługi. Sprawdź, czy masz wystarczające uprawnienia.\r\n"
	czech := "Akce zahájena 11:05:31: INSTALL.\r\nSlužbu nelze spustit. Ověřte, zda máte dostatečná oprávnění ke spouštění služeb.\r\n"
	russian := "Действие начато 11:05:31: INSTALL.\r\nНе удалось запустить службу. Проверьте права доступа.\r\n"
	japanese_ := "アクション開始 11:05:31: INSTALL。\r\nサービスを開始できませんでした。権限を確認してください。\r\n"
	simplified := "操作开始 11:05:31: INSTALL。\r\n操作结束 11:05:31: INSTALL。返回值 1。\r\n安装失败，文件夹无效。\r\n"
	traditional := "動作開始 11:05:31: INSTALL。\r\n動作結束 11:05:31: INSTALL。傳回值 1。\r\n安裝失敗，資料夾無效。\r\n"
	french := "Copie du modèle terminée.\r\nÉchec : accès refusé à la clé, déjà utilisée par un autre. Veuillez réessayer.\r\n"
	spanish := "No se pudo iniciar el servicio. Compruebe que tiene permisos suficientes en la carpeta de instalación.\r\nAcción añadida.\r\n"
	turkish := "Kurulum başlatılıyor.\r\nHizmet başlatılamadı: erişim engellendi. Lütfen yöneticinize başvurun, günlük dosyası ığdır.\r\n"
	portuguese := "A instalação não pôde ser concluída: permissão negada na pasta.\r\nVersão já está em execução.\r\n"
	le := unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM)
	be := unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM)
	tests := []struct {
		name string
		raw  []byte
		text string
		enc  Encoding
	}{
		{"UTF-16LE with mark", append([]byte{0xFF, 0xFE}, encoded(t, le, german)...), german, UTF16LE},
		{"UTF-16LE without mark", encoded(t, le, german), german, UTF16LE},
		{"UTF-16BE with mark", append([]byte{0xFE, 0xFF}, encoded(t, be, german)...), german, UTF16BE},
		{"UTF-16BE without mark", encoded(t, be, german), german, UTF16BE},
		{"UTF-8 with mark", append([]byte{0xEF, 0xBB, 0xBF}, german...), german, UTF8},
		{"UTF-8 without mark", []byte(russian), russian, ANSI},
		{"plain ASCII", []byte("Action start\nAction ended\n"), "Action start\nAction ended\n", ANSI},
		{"1252", encoded(t, charmap.Windows1252, german), german, CP1252},
		{"1250 Polish", encoded(t, charmap.Windows1250, polish), polish, CP1250},
		{"1250 Czech", encoded(t, charmap.Windows1250, czech), czech, CP1250},
		{"1251", encoded(t, charmap.Windows1251, russian), russian, CP1251},
		{"932", encoded(t, japanese.ShiftJIS, japanese_), japanese_, CP932},
		{"936", encoded(t, simplifiedchinese.GBK, simplified), simplified, CP936},
		{"1252 French", encoded(t, charmap.Windows1252, french), french, CP1252},
		{"1252 Spanish", encoded(t, charmap.Windows1252, spanish), spanish, CP1252},
		{"1252 Portuguese", encoded(t, charmap.Windows1252, portuguese), portuguese, CP1252},
		{"1254", encoded(t, charmap.Windows1254, turkish), turkish, CP1254},
		{"console, German", encoded(t, charmap.CodePage850, german), german, CP850},
		{"console, French", encoded(t, charmap.CodePage850, french), french, CP850},
		{"console, Spanish", encoded(t, charmap.CodePage850, spanish), spanish, CP850},
		{"console, Portuguese", encoded(t, charmap.CodePage850, portuguese), portuguese, CP850},
		{"console, Polish", encoded(t, charmap.CodePage852, polish), polish, CP852},
		{"console, Czech", encoded(t, charmap.CodePage852, czech), czech, CP852},
		{"console, Turkish", encoded(t, turkishConsole{}, turkish), turkish, CP857},
		{"console, Russian", encoded(t, charmap.CodePage866, russian), russian, CP866},
		{"950", encoded(t, traditionalchinese.Big5, traditional), traditional, CP950},
	}
	for _, tt := range tests {
		want := strings.Split(strings.TrimSuffix(strings.ReplaceAll(tt.text, "\r\n", "\n"), "\n"), "\n")
		for _, r := range []io.Reader{bytes.NewReader(tt.raw), iotest.OneByteReader(bytes.NewReader(tt.raw))} {
			got, info := readAll(t, r)
			if fmt.Sprint(got) != fmt.Sprint(want) || info.Encoding != tt.enc {
				t.Errorf("%s: got %v %q; want %v %q", tt.name, info.Encoding, got, tt.enc, want)
			}
		}
	}
}

func TestLineEndsAndLimits(t *testing.T) {
	long := strings.Repeat("x", MaxLine)
	tests := []struct {
		name, in string
		want     []string
		unended  bool
	}{
		{"empty", "", nil, false},
		{"one line end", "\n", []string{""}, false},
		{"LF, CR LF, doubled CR", "a\nb\r\nc\r\r\n", []string{"a", "b", "c"}, false},
		{"no end", "a\nb", []string{"a", "b"}, true},
		{"CR alone is text", "a\rb\n", []string{"a\rb"}, false},
		{"CR alone ends lines where no LF is", "a\rb\rc", []string{"a", "b", "c"}, true},
		{"zeros at the end, as a lost power leaves them", "a\nb\n\x00\x00\x00", []string{"a", "b"}, true},
		{"zeros before a line's end", "a\x00\x00\nb\r\x00\n", []string{"a", "b"}, false},
		{"at the limit", long + "\nb\n", []string{long, "b"}, false},
		{"past the limit", long + "yy\nb\n", []string{long, "b"}, false},
		{"far past the limit", strings.Repeat(long, 20) + "\nb\n", []string{long, "b"}, false},
	}
	for _, tt := range tests {
		got, info := readAll(t, strings.NewReader(tt.in))
		if fmt.Sprint(got) != fmt.Sprint(tt.want) || info.Unended != tt.unended {
			t.Errorf("%s: got %d lines, unended %v; want %d, %v", tt.name, len(got), info.Unended, len(tt.want), tt.unended)
		}
	}
	for l := range Lines(context.Background(), strings.NewReader(long+"y\n"), Options{}, nil) {
		if !l.Cut {
			t.Errorf("a line of MaxLine+1 bytes is not marked as cut")
		}
	}
}

func TestHalfCharactersAndSurrogates(t *testing.T) {
	raw := []byte{0xFF, 0xFE, 'a', 0, 0x3D, 0xD8, 0x00, 0xDE, 0x3D, 0xD8, 'b', 0, '\n', 0, 'c'}
	got, _ := readAll(t, iotest.OneByteReader(bytes.NewReader(raw)))
	if want := []string{"a\U0001F600\uFFFDb", "\uFFFD"}; fmt.Sprint(got) != fmt.Sprint(want) {
		t.Errorf("got %q, want %q", got, want)
	}
}

// TestZeros: those in the middle are counted, those of the text's ends are not.
func TestZeros(t *testing.T) {
	for in, want := range map[string]int64{"a\nb\x00\x00": 0, "\x00\x00a\n": 0, "a\x00b\n": 1, "a\x00\n" + strings.Repeat("\x00", 1<<20): 1} {
		if _, info := readAll(t, strings.NewReader(in)); info.NULs != want {
			t.Errorf("%.10q: %d zeros, want %d", in, info.NULs, want)
		}
	}
}

func TestReadErrorAndCancel(t *testing.T) {
	broken := errors.New("disk fault")
	r := io.MultiReader(strings.NewReader("one\ntwo\n"), iotest.ErrReader(broken))
	var n int
	var last error
	for _, err := range Lines(context.Background(), r, Options{}, nil) {
		if last = err; err == nil {
			n++
		}
	}
	if n != 2 || !errors.Is(last, broken) {
		t.Errorf("got %d lines and %v; want 2 and %v", n, last, broken)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	for _, err := range Lines(ctx, strings.NewReader("one\n"), Options{}, nil) {
		last = err
	}
	if !errors.Is(last, context.Canceled) {
		t.Errorf("after cancelling got %v", last)
	}
}

func FuzzLines(f *testing.F) {
	f.Add([]byte("a\r\nb\n"))
	f.Add([]byte{0xFF, 0xFE, 0x3D, 0xD8})
	f.Add([]byte("cut in a character\xe5"))
	f.Add([]byte("\xe4\xf6\xfc\nplain\n\x00\x1b[31m"))
	f.Fuzz(func(t *testing.T, in []byte) {
		lines, info := readAll(t, bytes.NewReader(in))
		if info.Bytes != int64(len(in)) || len(lines) > len(in)+1 {
			t.Errorf("%d bytes and %d lines out of %d bytes", info.Bytes, len(lines), len(in))
		}
		for _, l := range lines {
			if !utf8.ValidString(l) {
				t.Errorf("line %q is not UTF-8 (%v)", l, info.Encoding)
			}
		}
	})
}

func BenchmarkLinesUTF16(b *testing.B) {
	le := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)
	line := "MSI (s) (E0:E4) [06:12:57:486]: Executing op: FileCopy(SourceName=BERTHS~1.DLL|berthsync.dll,SourceCabKey=fil9D755698E49DC18121147C94AA77959C)\r\n"
	raw := encoded(b, le, strings.Repeat(line, 200_000))
	b.SetBytes(int64(len(raw)))
	b.ReportAllocs()
	for b.Loop() {
		for _, err := range Lines(context.Background(), bytes.NewReader(raw), Options{}, nil) {
			if err != nil {
				b.Fatal(err)
			}
		}
	}
}
