// This file has the words with which the engine begins its messages in the
// languages that it speaks.

package engine

import "hollowkey/core/logs/story"

// words are the first words of numbered messages that are not errors, in the
// languages of the OS, in small letters. Every other word means an error.
var words = []struct {
	word string
	kind story.Kind
}{
	{"warning", story.KindWarning},
	{"warnung", story.KindWarning},
	{"avertissement", story.KindWarning},
	{"attention", story.KindWarning},
	{"advertencia", story.KindWarning},
	{"avviso", story.KindWarning},
	{"aviso", story.KindWarning},
	{"waarschuwing", story.KindWarning},
	{"ostrzeżenie", story.KindWarning},
	{"upozornění", story.KindWarning},
	{"varning", story.KindWarning},
	{"предупреждение", story.KindWarning},
	{"警告", story.KindWarning},
	{"info", story.KindInfo},
	{"information", story.KindInfo},
	{"información", story.KindInfo},
	{"informação", story.KindInfo},
	{"informazioni", story.KindInfo},
	{"informacja", story.KindInfo},
	{"informace", story.KindInfo},
	{"сведения", story.KindInfo},
	{"информация", story.KindInfo},
	{"情報", story.KindInfo},
	{"信息", story.KindInfo},
	{"資訊", story.KindInfo},
}
