package realengine

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hollowkey/core/package/alter"
	"hollowkey/realengine/ask"
)

// What the engine itself writes we read as it does: tables made by SQL, every
// column type, code pages, streams, texts over 64 KB, rows that came and went.
func TestWeReadWhatTheEngineWrites(t *testing.T) {
	if absent != "" {
		t.Skip("no real engine here: " + absent)
	}
	dir := t.TempDir()
	stream := filepath.Join(dir, "plan.bin")
	must(t, os.WriteFile(stream, []byte(strings.Repeat("plan of the quay ", 3000)), 0o644))
	for page, word := range map[int]string{0: "quay", 1252: "Grüße", 1251: "причал", 932: "桟橋", 65001: "Ł причал 桟橋"} {
		path := filepath.Join(dir, fmt.Sprintf("p%d.msi", page))
		force := filepath.Join(dir, fmt.Sprintf("c%d.idt", page))
		must(t, os.WriteFile(force, fmt.Appendf(nil, "\r\n\r\n%d\t_ForceCodepage\r\n", page), 0o644))
		sql := []ask.SQL{
			{Text: "CREATE TABLE `Berths` (`Berth` CHAR(72) NOT NULL, `Quay` SHORT NOT NULL, `Depth` LONG NOT NULL, `Note` LONGCHAR, `Label` CHAR(64) LOCALIZABLE, `Small` SHORT, `Large` LONG, `Plan` OBJECT PRIMARY KEY `Berth`, `Quay`)"},
			{Text: "INSERT INTO `Berths` (`Berth`, `Quay`, `Depth`, `Note`, `Label`, `Small`, `Large`, `Plan`) VALUES (?, ?, 7, ?, ?, -5, -70000, ?)", Params: []string{"North", "1", strings.Repeat(word+" ", 20), word}, Stream: windowsPath(stream)},
			{Text: "INSERT INTO `Berths` (`Berth`, `Quay`, `Depth`) VALUES ('South', 2, 2147483647)"},
			{Text: "INSERT INTO `Berths` (`Berth`, `Quay`, `Depth`, `Note`) VALUES ('Long', 3, 0, ?)",
				Params: []string{strings.Repeat("a long note. ", 16000)}},
			{Text: "CREATE TABLE `Property` (`Property` CHAR(72) NOT NULL, `Value` LONGCHAR NOT NULL LOCALIZABLE PRIMARY KEY `Property`)"},
		}
		for i := range 40 {
			sql = append(sql, ask.SQL{Text: fmt.Sprintf("INSERT INTO `Property` (`Property`, `Value`) VALUES ('Key%02d', ?)", i*7%40),
				Params: []string{fmt.Sprint(word, i%5)}})
		}
		for i := range 10 {
			sql = append(sql, ask.SQL{Text: fmt.Sprintf("DELETE FROM `Property` WHERE `Property` = 'Key%02d'", i*4)})
		}
		sql = append(sql, ask.SQL{Text: "UPDATE `Property` SET `Value` = 'changed' WHERE `Property` = 'Key01'"},
			ask.SQL{Text: "ALTER TABLE `Property` ADD `Remark` CHAR(20)"})
		engine(t, ask.Request{Database: windowsPath(path), Create: true, Import: []string{windowsPath(force)}, SQL: sql,
			Summary: map[int]string{1: "1252", 2: "Installation Database", 7: "x64;1033", 9: "{0C1E8D5B-7A40-4F0E-9E0B-6D1B7B2A4C99}", 14: "200",
				15: "2"}})
		db := open(t, path)
		if db.CodePage() != page {
			t.Errorf("code page %d, want %d", db.CodePage(), page)
		}
		same(t, db, engine(t, ask.Request{Database: windowsPath(path), Dump: true}))
		// And altered by us, the engine still reads it as we do.
		_, err := alter.Apply(db, []alter.Edit{{Kind: "remove-row", Text: "Berths,Long,3"}, {Kind: "set-property", Text: "Key01=" + word},
			{Kind: "add-row", Text: "Berths,East,4,9," + word}}, false)
		must(t, err)
		copied := save(t, db, "altered.msi")
		same(t, open(t, copied), engine(t, ask.Request{Database: windowsPath(copied), Dump: true}))
	}
}
