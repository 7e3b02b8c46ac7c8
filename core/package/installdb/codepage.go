// This file reads and writes text in code pages.

package installdb

import (
	"fmt"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
	"golang.org/x/text/encoding/korean"
	"golang.org/x/text/encoding/simplifiedchinese"
	"golang.org/x/text/encoding/traditionalchinese"
)

// utf8Page is the number of the code page that is UTF-8.
const utf8Page = 65001

// codePages are the Windows code pages by their number; 0 is the neutral one,
// which holds ASCII and is read as 1252.
var codePages = map[int]encoding.Encoding{
	0: charmap.Windows1252, 437: charmap.CodePage437, 850: charmap.CodePage850, 852: charmap.CodePage852,
	866: charmap.CodePage866, 874: charmap.Windows874, 932: japanese.ShiftJIS, 936: simplifiedchinese.GBK,
	949: korean.EUCKR, 950: traditionalchinese.Big5, 1250: charmap.Windows1250, 1251: charmap.Windows1251,
	1252: charmap.Windows1252, 1253: charmap.Windows1253, 1254: charmap.Windows1254, 1255: charmap.Windows1255,
	1256: charmap.Windows1256, 1257: charmap.Windows1257, 1258: charmap.Windows1258, 20127: charmap.Windows1252,
	28591: charmap.ISO8859_1, 54936: simplifiedchinese.GB18030,
}

// decodeText reads text in a code page. An unknown page is read as 1252, so
// that ASCII comes through.
func decodeText(b []byte, page int) string {
	ascii := true
	for _, c := range b {
		ascii = ascii && c < utf8.RuneSelf
	}
	if ascii || page == utf8Page {
		return string(b)
	}
	enc, ok := codePages[page]
	if !ok {
		enc = charmap.Windows1252
	}
	t, err := enc.NewDecoder().Bytes(b)
	if err != nil {
		return string(b)
	}
	return string(t)
}

// encodeText writes text in a code page; text that the page lacks is an error.
func encodeText(s string, page int) ([]byte, error) {
	ascii := true
	for i := range len(s) {
		ascii = ascii && s[i] < utf8.RuneSelf
	}
	if ascii || page == utf8Page {
		return []byte(s), nil
	}
	enc, ok := codePages[page]
	if !ok || page == 0 {
		return nil, fmt.Errorf("the text %.60q does not fit the database's code page %d\nhint: write it in plain letters", s, page)
	}
	b, err := enc.NewEncoder().Bytes([]byte(s))
	if err != nil {
		return nil, fmt.Errorf("the text %.60q does not fit the database's code page %d\nhint: write it in the letters of that page", s, page)
	}
	return b, nil
}
