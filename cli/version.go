// This file tells the version with what a report of a defect needs.

package cli

import (
	"fmt"
	"runtime"
	"runtime/debug"

	"github.com/spf13/cobra"
)

// release is set at a release build with -ldflags "-X
// hollowkey/cli.release=1.2.3".
var release string

// newVersion is the command that tells the version, with what a report of a
// defect needs: the system and the platform.
func (a *app) newVersion() *cobra.Command {
	return &cobra.Command{
		Use:   "version",
		Short: "prints what was built, from which sources, for which system",
		Args:  cobra.NoArgs,
		RunE: func(*cobra.Command, []string) error {
			_, err := fmt.Fprintln(a.out, versionText())
			return err
		},
	}
}

// versionText is the version, the sources and the system in one line.
func versionText() string {
	version, revision, dirty := release, "", ""
	if info, ok := debug.ReadBuildInfo(); ok {
		if version == "" {
			version = info.Main.Version
		}
		for _, s := range info.Settings {
			switch s.Key {
			case "vcs.revision":
				revision = " " + s.Value[:min(len(s.Value), 12)]
			case "vcs.modified":
				if s.Value == "true" {
					dirty = " with changes"
				}
			}
		}
	}
	if version == "" {
		version = "(devel)"
	}
	return fmt.Sprintf("hollowkey %s%s%s, %s, %s/%s", version, revision, dirty, runtime.Version(), runtime.GOOS, runtime.GOARCH)
}
