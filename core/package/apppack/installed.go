// This file lists the app packages of a user.

package apppack

import (
	"slices"
	"strings"

	"hollowkey/core/machine"
)

// repository is where the OS notes a user's app packages, below the user's
// hive. Source: the keys that a machine has after installing some.
const repository = `\Software\Classes\Local Settings\Software\Microsoft\Windows\CurrentVersion\AppModel\Repository\Packages`

// An Installed is an app package that a user has.
type Installed struct {
	Full         string // Name_Version_Architecture_Resource_PublisherID
	Name         string // of the identity
	Version      string // four numbers
	Architecture string // as in the manifest
	PublisherID  string // a hash of the publisher
	Folder       string // where it lies; empty where that is not noted
}

// parts are how many a package's full name has.
const parts = 5

// Of lists the app packages of the user whose hive this is (HKCU, HKU\SID), by
// full name. A user without any has none.
func Of(m machine.Registry, hive string) (list []Installed) {
	names, err := m.Subkeys(hive + repository)
	if err != nil {
		return nil
	}
	slices.Sort(names)
	for _, full := range names {
		p := strings.Split(full, "_")
		if len(p) != parts {
			continue
		}
		list = append(list, Installed{Full: full, Name: p[0], Version: p[1], Architecture: strings.ToLower(p[2]), PublisherID: p[4],
			Folder: machine.TextOf(m, hive+repository+`\`+full, "PackageRootFolder")})
	}
	return list
}
