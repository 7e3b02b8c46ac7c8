package mask

import (
	"bytes"
	"strings"
	"testing"
)

func TestMask(t *testing.T) {
	m := New([]string{"Wendeline"}, []string{"TIDEHOUSE-9"})
	for _, l := range []string{`C:\Users\harbourmaster\x`, `"C:\\Users\\pilotone\\y"`,
		`open 'C:\Users\o'hara\x' C:\Users\tess moor\y`, `\\berthshare\setups\x`,
		`Property(S): LogonUser = tidewaiter`, `"C:\\Deploy\\x.msi"`, `QUAYS\tidewaiter`} {
		m.Learn(l)
	}
	for _, c := range []struct{ in, want string }{
		{"WENDELINE and wendeline", "user1 and user1"},
		{"Wendelines", "Wendelines"}, // another word
		{`C:\Users\HarbourMaster\AppData`, `C:\Users\user2\AppData`},
		{"pilotone", "user3"},
		{`C:\Users\O'Hara\x and C:\Users\tess moor\y`, `C:\Users\user4\x and C:\Users\user5\y`},
		{`\\BERTHSHARE\x`, `\\host2\x`},
		{`quays\tidewaiter`, `host3\user6`},
		{`C:\Deploy\x.msi`, `C:\Deploy\x.msi`},
		{"S-1-5-21-1-2-3-1107 and S-1-5-18", "S-1-5-21-0-0-0-1001 and S-1-5-18"},
		{"S-1-5-21-1-2-3-1107", "S-1-5-21-0-0-0-1001"},
		{"write to a.b@quay.example now", "write to mail1@masked.invalid now"},
		{`ADMINPASSWORD=x1 DB_PWD="a b" next`, `ADMINPASSWORD=(masked) DB_PWD=(masked) next`},
		{`"password": "q", "site": "x"`, `"password": (masked), "site": "x"`},
		{"PROPERTY CHANGE: Adding SQLPASSWORD property. Its value is 'p q'.",
			"PROPERTY CHANGE: Adding SQLPASSWORD property. Its value is (masked)."},
		{"setup.exe /password:abc /quiet", "setup.exe /password:(masked) /quiet"},
		{"PIDKEY=AB-12", "PIDKEY=serial1"},
		{"ProductKey={5D0B1C77-2E9A-4B6B-8C35-0A6C2E5F7D22}", "ProductKey={5D0B1C77-2E9A-4B6B-8C35-0A6C2E5F7D22}"},
		{"ABCDE-FGHIJ-KLMNO-PQRST-UVWXY", "serial2"},
		{"https://me:pw@host/x", "https://(masked)@host/x"},
		{"Return value 3.", "Return value 3."},
		{"Error 1920. Service 'Berth Sync' (BerthSync) failed to start.", "Error 1920. Service 'Berth Sync' (BerthSync) failed to start."},
	} {
		if got := m.Mask(c.in); got != c.want {
			t.Errorf("%q became %q, want %q", c.in, got, c.want)
		}
	}
	if n := m.Counts(); n[User] != 7 || n[SID] != 2 || n[Secret] < 6 || n[Serial] != 2 || n[Mail] != 1 {
		t.Errorf("%v", n)
	}
}

// Whatever comes, nothing of a known name stays, and a text without private
// data comes back to the byte, in any encoding.
func FuzzCopy(f *testing.F) {
	f.Add([]byte("Wendeline at C:\\Users\\x\r\n"))
	f.Add([]byte("\xFF\xFEW\x00e\x00n\x00d\x00e\x00l\x00i\x00n\x00e\x00\n\x00"))
	f.Add([]byte("\xE4\xF6 ansi\n"))
	f.Add([]byte("PASSWORD=\"unclosed"))
	f.Fuzz(func(t *testing.T, b []byte) {
		m := New([]string{"Wendeline"}, nil)
		if err := m.LearnFrom(bytes.NewReader(b)); err != nil {
			return
		}
		var out bytes.Buffer
		if err := m.Copy(&out, bytes.NewReader(b)); err != nil {
			return
		}
		if got := m.Mask(string(b)); strings.Contains(got, " Wendeline ") {
			t.Errorf("the name stays in %q", got)
		}
		if out.Len() > 40*len(b)+100 {
			t.Errorf("%d bytes became %d", len(b), out.Len())
		}
	})
}
