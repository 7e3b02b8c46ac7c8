// This file lists the files that a package puts on a machine.

package targets

import (
	"errors"
	"slices"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
)

// Files are the files that a package puts on a machine, with their sizes in
// bytes, and the folders of its components. What cannot be resolved there is
// left out.
func Files(db *installdb.Database, m machine.Machine) (files map[string]int64, folders []string, err error) {
	world := gates.NewWorld(db, m, nil)
	components, err := db.TableOrEmpty("Component")
	if err != nil {
		return nil, nil, err
	}
	where := map[string]string{}
	for _, r := range components.Rows {
		if path, ok := world.Folder(components.Get(r, "Directory_").Text); ok {
			path = strings.TrimRight(path, `\`)
			where[components.Get(r, "Component").Text] = path
			if !slices.Contains(folders, path) {
				folders = append(folders, path)
			}
		}
	}
	t, err := db.TableOrEmpty("File")
	if err != nil {
		return nil, nil, err
	}
	files = map[string]int64{}
	for _, r := range t.Rows {
		name := installdb.LongName(t.Get(r, "FileName").Text)
		if folder := where[t.Get(r, "Component_").Text]; folder != "" {
			files[folder+`\`+name] += int64(t.Get(r, "FileSize").Int)
		}
	}
	return files, folders, errors.Join(err, world.Err())
}
