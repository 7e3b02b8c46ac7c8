// This file knows the services that no step may stop.

package step

import (
	"slices"
	"strings"
)

// vitalServices are services that no step stops or disables: those without
// which the OS does not run or nobody can sign in, and those that protect it.
// Source: the OS's documentation of its services, "required" and "critical".
var vitalServices = map[string]string{
	"rpcss": osNeeds, "dcomlaunch": osNeeds, "rpceptmapper": osNeeds, "lsm": osNeeds, "samss": osNeeds, "plugplay": osNeeds, "power": osNeeds,
	"profsvc": osNeeds, "gpsvc": osNeeds, "brokerinfrastructure": osNeeds, "systemeventsbroker": osNeeds, "usermanager": osNeeds,
	"coremessagingregistrar": osNeeds, "nsi": osNeeds, "netlogon": osNeeds, "kdc": osNeeds, "ntds": osNeeds, "eventlog": osKeeps,
	"bfe": osProtects, "mpssvc": osProtects, "windefend": osProtects, "wdnissvc": osProtects, "wdboot": osProtects, "wdfilter": osProtects,
	"sense": osProtects, "wscsvc": osProtects, "securityhealthservice": osProtects, "mdcoresvc": osProtects, "webthreatdefsvc": osProtects,
	"appidsvc": osProtects, "keyiso": osNeeds, "vaultsvc": osNeeds,
}

// Why such a service is left alone.
const (
	osNeeds    = "the OS does not run without it"
	osKeeps    = "it keeps what happens on the machine"
	osProtects = "it protects the machine"
)

// Vital says why a service, by its short name, is neither stopped nor disabled;
// empty for one that may be.
func Vital(service string) (why string) {
	return vitalServices[strings.ToLower(strings.TrimSpace(service))]
}

// doors are services that let others in over the network. A log says which
// service does not run; whether this one should is for a person to say, so that
// no step enables or starts it unasked. Source: the OS's documentation of its
// services.
var doors = map[string]bool{"remoteregistry": true, "termservice": true, "umrdpservice": true, "sessionenv": true, "winrm": true, "sshd": true, "ssh-agent": true,
	"tlntsvr": true, "remoteaccess": true, "rasman": true, "snmp": true, "snmptrap": true, "ftpsvc": true, "msftpsvc": true, "w3svc": true, "iisadmin": true,
	"simptcp": true, "lpdsvc": true, "sharedaccess": true, "upnphost": true, "ssdpsrv": true, "lltdsvc": true, "fdrespub": true, "seclogon": true, "msmq": true}

// opens says whether steps enable or start such a service.
func opens(models []Model) bool {
	return slices.ContainsFunc(models, func(m Model) bool {
		s := m["service"]
		return s != nil && doors[strings.ToLower(strings.TrimSpace(s["name"]))] && (s["start"] != "" && s["start"] != "disabled" || s["state"] == "running")
	})
}
