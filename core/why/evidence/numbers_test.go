package evidence

import (
	"fmt"
	"strings"
	"testing"
)

func numbers(text string) string {
	names := [...]string{"", "system", "error", "exit", "errno", "http", "alone"}
	var out []string
	for _, n := range Numbers(strings.ToLower(text)) {
		v := fmt.Sprint(n.Value)
		if n.Hex {
			v = fmt.Sprintf("%#x", n.Value)
		}
		out = append(out, names[n.Kind]+" "+v)
	}
	return strings.Join(out, ", ")
}

func TestNumbers(t *testing.T) {
	for text, want := range map[string]string{
		"WriteFile R:\\stage\\pak08.part off 115343360 len 1048576: 112":  "system 112",
		"S:\\Quay\\9.2\\rules.yrp -> 3 The system cannot find the path.":  "alone 3",
		"QFile::open C:/Users/pilot/maps.lock: Отказано в доступе. (5)":   "alone 5",
		"FileNotFoundError: [WinError 2] The system cannot find the file": "system 2",
		"OpenService FAILED 1060:": "error 1060",
		"AddPrinterDriverEx(\"Fairway PS 3\") 失敗: 1722 RPC サーバーを利用できません。": "error 1722",
		"installer exited attempt=1 code=1618":                            "error 1618",
		"{\"error\":\"logon failure\",\"errno\":1069}":                    "errno 1069",
		"HTTP 407, content-length 3412":                                   "http 407",
		"HTTP/1.1 503 Service Unavailable":                                "http 503",
		"the download took 4096 ms, 1603 files, 12 of 15":                 "",
		"version 10.0.19045, build 19045, port 8080, attempt 5":           "",
		"2026-05-04 09:12:01.024 [5120] copied":                           "",
		"hr=0x80070005":                                                   "system 0x80070005",
		"CoCreateInstance returned 80040154":                              "system 0x80040154",
		"exit code -1073741515":                                           "exit -1073741515",
		"Rückgabewert: 1603":                                              "exit 1603",
		"エラーコード 5":                                                        "error 5",
		"エラー（112）":                                                        "error 112",
		"Result 5":                                                        "error 5",
		"C:\\1603\\x 16:03 5% a5 5b 1.5":                                  "",
		"progress: 50":                                                    "alone 50",
	} {
		if got := numbers(text); got != want {
			t.Errorf("%s\n has %q; want %q", text, got, want)
		}
	}
}

// TestNumbersAreCodesInAnyNotation holds the names under which programs write a
// code, and what counts instead.
func TestNumbersAreCodesInAnyNotation(t *testing.T) {
	for _, form := range []string{"state 1, win32 exit %s", "dwWin32ExitCode=%s", "winerr %s", "os says %s", "lasterr=%s", "dwErr: %s", "nErr=%s", "lError=%s",
		"iErr = %s", "ErrCode=%s", "err-code: %s", "error_code=%s", "(err %s)", "ec=%s", "win_error=%s", "w32err %s", "syserr=%s", "Win32 failure %s",
		"failure %s", "failed #%s", "error #%s", "err#%s", "error-%s", "return=%s", "retcode %s", "came back with %s", "yielded %s", "got %s", "ended in %s"} {
		if got := numbers(fmt.Sprintf(form, "1069")); !strings.HasSuffix(got, " 1069") {
			t.Errorf(form+" has %q", "1069", got)
		}
	}
	for _, text := range []string{"got 12", "got 1069 files", "came back with 112 rows", "part #112", "kelp-1069", "ended in 1069 ms",
		"tool.exe ended with 1069", "rows read: got 1069",
		"server query came back with 225", "benchmark ended in 1058", "loaded module err-112 messages", "tidewin 5", "colerr2 5"} {
		if got := numbers(text); got != "" {
			t.Errorf("%s has %q", text, got)
		}
	}
	if got := numbers("get\nerr=32 path=c:\\kelp"); got != "error 32" { // the first of a record's further values
		t.Errorf("a record has %q", got)
	}
}

func FuzzNumbers(f *testing.F) {
	f.Add("error 5, (112) 0x80070005 -1 http 407")
	f.Add("エラー（5）")
	f.Fuzz(func(t *testing.T, text string) {
		lower := strings.ToLower(text)
		for _, n := range Numbers(lower) {
			if n.At >= len(lower) || lower[n.At] < '0' || lower[n.At] > '9' {
				t.Fatalf("%+v in %q", n, lower)
			}
		}
	})
}
