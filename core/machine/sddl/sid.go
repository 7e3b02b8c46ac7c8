// This file reads security IDs and their short names.

package sddl

import (
	"fmt"
	"strconv"
	"strings"
)

// A SID is a security ID in its string form, "S-1-5-18".
type SID string

// Well-known security IDs that the rest of the program names.
const (
	System             SID = "S-1-5-18"
	LocalService       SID = "S-1-5-19"
	NetworkService     SID = "S-1-5-20"
	Administrators     SID = "S-1-5-32-544"
	Users              SID = "S-1-5-32-545"
	Everyone           SID = "S-1-1-0"
	AuthenticatedUsers SID = "S-1-5-11"
	Interactive        SID = "S-1-5-4"
	CreatorOwner       SID = "S-1-3-0"
	OwnerRights        SID = "S-1-3-4"
	TrustedInstaller   SID = "S-1-5-80-956008885-3418522649-1831038044-1853292631-2271478464"
)

// aliases are the two-letter forms of well-known security IDs that need no
// domain. Source: [MS-DTYP] 2.5.1.1 and 2.4.2.4.
var aliases = []struct {
	alias string
	sid   SID
	name  string
}{
	{"SY", System, "SYSTEM"},
	{"BA", Administrators, "Administrators"},
	{"BU", Users, "Users"},
	{"BG", "S-1-5-32-546", "Guests"},
	{"PU", "S-1-5-32-547", "Power Users"},
	{"AO", "S-1-5-32-548", "Account Operators"},
	{"SO", "S-1-5-32-549", "Server Operators"},
	{"PO", "S-1-5-32-550", "Print Operators"},
	{"BO", "S-1-5-32-551", "Backup Operators"},
	{"RE", "S-1-5-32-552", "Replicators"},
	{"RU", "S-1-5-32-554", "Pre-Windows 2000 Compatible Access"},
	{"RD", "S-1-5-32-555", "Remote Desktop Users"},
	{"NO", "S-1-5-32-556", "Network Configuration Operators"},
	{"MU", "S-1-5-32-558", "Performance Monitor Users"},
	{"LU", "S-1-5-32-559", "Performance Log Users"},
	{"CD", "S-1-5-32-574", "Certificate Service DCOM Access"},
	{"ER", "S-1-5-32-573", "Event Log Readers"},
	{"HA", "S-1-5-32-578", "Hyper-V Administrators"},
	{"AA", "S-1-5-32-579", "Access Control Assistance Operators"},
	{"RM", "S-1-5-32-580", "Remote Management Users"},
	{"WD", Everyone, "Everyone"},
	{"CO", CreatorOwner, "CREATOR OWNER"},
	{"CG", "S-1-3-1", "CREATOR GROUP"},
	{"OW", OwnerRights, "OWNER RIGHTS"},
	{"NU", "S-1-5-2", "NETWORK"},
	{"IU", Interactive, "INTERACTIVE"},
	{"SU", "S-1-5-6", "SERVICE"},
	{"AN", "S-1-5-7", "ANONYMOUS LOGON"},
	{"ED", "S-1-5-9", "ENTERPRISE DOMAIN CONTROLLERS"},
	{"PS", "S-1-5-10", "SELF"},
	{"AU", AuthenticatedUsers, "Authenticated Users"},
	{"RC", "S-1-5-12", "RESTRICTED"},
	{"LS", LocalService, "LOCAL SERVICE"},
	{"NS", NetworkService, "NETWORK SERVICE"},
	{"WR", "S-1-5-33", "WRITE RESTRICTED"},
	{"AC", "S-1-15-2-1", "ALL APPLICATION PACKAGES"},
	{"LW", "S-1-16-4096", "Low Mandatory Level"},
	{"ME", "S-1-16-8192", "Medium Mandatory Level"},
	{"MP", "S-1-16-8448", "Medium Plus Mandatory Level"},
	{"HI", "S-1-16-12288", "High Mandatory Level"},
	{"SI", "S-1-16-16384", "System Mandatory Level"},
}

// Aliases that stand for an account of the machine or its domain have a fixed
// last part; they can be read only with a domain's security ID and stay as they
// are here.
var relative = map[string]string{
	"LA": "500", "LG": "501", "DA": "512", "DU": "513", "DG": "514", "DC": "515", "DD": "516", "CA": "517",
	"SA": "518", "EA": "519", "PA": "520", "RS": "553", "KA": "526", "EK": "527", "CN": "522", "RO": "498", "CY": "S-1-5-32-569",
}

const maxSubauthorities = 15 // [MS-DTYP] 2.4.2

// ParseSID reads a security ID: "S-1-…", a two-letter alias, or a well-known
// name such as SYSTEM. It fails for a name that only a machine could look up.
func ParseSID(text string) (SID, error) {
	for _, a := range aliases {
		if strings.EqualFold(text, a.alias) || strings.EqualFold(text, a.name) || strings.EqualFold(text, `BUILTIN\`+a.name) ||
			strings.EqualFold(text, `NT AUTHORITY\`+a.name) {
			return a.sid, nil
		}
	}
	if _, ok := relative[strings.ToUpper(text)]; ok && len(text) == 2 {
		return SID(strings.ToUpper(text)), nil
	}
	parts := strings.Split(text, "-")
	if len(parts) < 3 || len(parts) > 3+maxSubauthorities || !strings.EqualFold(parts[0], "S") {
		return "", fmt.Errorf("%.40q is no security ID", text)
	}
	for i, p := range parts[1:] {
		bits := 32
		if i == 1 {
			bits = 48
		}
		if _, err := strconv.ParseUint(p, 0, bits); err != nil {
			return "", fmt.Errorf("%.40q is no security ID: part %d", text, i+2)
		}
	}
	return SID(strings.ToUpper(text)), nil
}

// String is the alias where there is one.
func (s SID) String() string {
	for _, a := range aliases {
		if a.sid == s {
			return a.alias
		}
	}
	return string(s)
}

// Name is how a person calls a well-known security ID; others are given as they
// are.
func (s SID) Name() string {
	for _, a := range aliases {
		if a.sid == s {
			return a.name
		}
	}
	if s == TrustedInstaller {
		return "TrustedInstaller"
	}
	return string(s)
}
