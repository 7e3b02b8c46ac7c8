package sddl

import (
	"errors"
	"strings"
	"testing"
)

const user SID = "S-1-5-21-304131484-1989617838-1007409150-1069"

func TestRoundTrip(t *testing.T) {
	for _, in := range []string{
		"O:SYG:SYD:P(A;OICI;FA;;;SY)(A;OICI;FA;;;BA)(A;OICI;0x1200a9;;;BU)",
		"O:BAG:SYD:AI(A;ID;FA;;;SY)(D;;FW;;;WD)S:(AU;SAFA;FA;;;WD)",
		"D:(A;CIIO;KA;;;CO)(A;CI;KR;;;AC)",
		"D:NO_ACCESS_CONTROL",
		"D:P",
		"O:S-1-5-21-304131484-1989617838-1007409150-1069D:(A;;CCDCLCSWRPWPDTLOCRSDRCWDWO;;;SY)",
		"D:(OA;CI;CR;ab721a53-1e2f-11d0-9819-00aa0040529b;;PS)",
		"O:DAG:DUD:(XA;;FX;;;AU;(Member_of {SID(BA)} && Exists x))",
		"D:(A;;0x1301bf;;;" + string(user) + ")",
	} {
		d, err := Parse(in)
		if err != nil {
			t.Errorf("Parse(%q): %v", in, err)
			continue
		}
		if got := d.String(); got != in {
			t.Errorf("Parse(%q).String() = %q", in, got)
		}
	}
	for _, in := range []string{
		"", "D", "X:SY", "D:(A;;FA;;SY)", "D:(A;;FA;;;SY", "D:(Q;;FA;;;SY)", "D:(A;XX;FA;;;SY)", "D:(A;;QQ;;;SY)", "D:(A;;F;;;SY)",
		"O:QQ", "O:S-1", "O:SYO:BA", "D:Z(A;;FA;;;SY)", "D:(A;;FA;;;SY)x", "O:S-1-5-99999999999",
		"D:" + strings.Repeat("(A;;FA;;;SY)", maxEntries+1),
	} {
		if d, err := Parse(in); !errors.Is(err, ErrSyntax) {
			t.Errorf("Parse(%.40q) = %v, %v; want ErrSyntax", in, d, err)
		}
	}
}

func TestEffective(t *testing.T) {
	groups := []SID{user, Users, Everyone, AuthenticatedUsers}
	tests := []struct {
		name, sddl string
		kind       Kind
		sids       []SID
		want       Mask
	}{
		{"no list lets everybody in", "O:SY", Folder, groups, FileAll},
		{"an empty list nobody", "O:SYD:P", Folder, groups, 0},
		{"generic rights of a file", "D:(A;;GRGX;;;BU)", File, groups, FileRead | FileExecute},
		{"generic rights of a key", "D:(A;;GA;;;BU)", Key, groups, KeyAll},
		{"rights add up", "D:(A;;FR;;;BU)(A;;FW;;;AU)", File, groups, FileRead | FileWrite},
		{"deny before allow", "D:(D;;FW;;;BU)(A;;FA;;;WD)", File, groups, FileAll &^ FileWrite},
		{"allow before deny, as written", "D:(A;;FW;;;BU)(D;;FW;;;WD)", File, groups, FileWrite},
		{"inherit-only does not count", "D:(A;OICIIO;FA;;;BU)(A;;FR;;;BU)", Folder, groups, FileRead},
		{"the owner may change the list", "O:" + string(user) + "D:P", File, groups, ReadControl | WriteDAC},
		{"owner rights take that away", "O:" + string(user) + "D:(A;;RC;;;OW)", File, groups, ReadControl},
		{"another account", "D:(A;;FA;;;SY)", File, groups, 0},
	}
	for _, tt := range tests {
		d, err := Parse(tt.sddl)
		if err != nil {
			t.Fatal(err)
		}
		if got := d.Effective(tt.kind, tt.sids); got != tt.want {
			t.Errorf("%s: %s gives %#x, want %#x", tt.name, tt.sddl, got, tt.want)
		}
	}
}

func TestChildAndGrant(t *testing.T) {
	d, _ := Parse("O:BAD:P(A;OICI;FA;;;SY)(A;CI;FR;;;BU)(A;OI;FW;;;AU)(A;OICIIO;FA;;;CO)(A;CINP;FX;;;WD)(A;;FA;;;BA)")
	if got, want := d.Child(Folder).String(),
		"O:BAD:AI(A;OICIID;FA;;;SY)(A;CIID;FR;;;BU)(A;OIIOID;FW;;;AU)(A;OICIID;FA;;;BA)(A;ID;FX;;;WD)"; got != want {
		t.Errorf("folder below: %s\nwant          %s", got, want)
	}
	if got, want := d.Child(File).String(), "O:BAD:AI(A;ID;FA;;;SY)(A;ID;FW;;;AU)(A;ID;FA;;;BA)"; got != want {
		t.Errorf("file below: %s\nwant        %s", got, want)
	}
	for _, tt := range []struct{ in, want string }{
		{"D:(A;OICIID;FA;;;SY)", "D:(A;OICI;0x1301bf;;;BU)(A;OICIID;FA;;;SY)"},
		{"D:(D;;FW;;;BG)(A;OICI;FR;;;BU)", "D:(D;;FW;;;BG)(A;OICI;0x1301bf;;;BU)"},
		{"O:SY", "O:SYD:(A;OICI;0x1301bf;;;BU)"},
	} {
		d, _ := Parse(tt.in)
		if got := d.Grant(Folder, Users, FileModify).String(); got != tt.want {
			t.Errorf("Grant on %s = %s, want %s", tt.in, got, tt.want)
		}
		if d.String() != tt.in {
			t.Errorf("Grant changed its receiver: %s", d)
		}
	}
}

func FuzzParse(f *testing.F) {
	f.Add("O:SYG:SYD:P(A;OICI;FA;;;SY)(A;OICI;0x1200a9;;;BU)")
	f.Add("D:(XA;;FX;;;AU;(Member_of {SID(BA)}))")
	f.Fuzz(func(t *testing.T, in string) {
		d, err := Parse(in)
		if err != nil {
			return
		}
		d.Effective(Folder, []SID{Users, Everyone})
		once := d.String()
		again, err := Parse(once)
		if err != nil || again.String() != once {
			t.Errorf("%q prints as %q, which reads as %v, %v", in, once, again, err)
		}
	})
}
