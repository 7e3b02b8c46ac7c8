// This file applies a patch.

package rehearse

import (
	"fmt"
	"strings"

	"hollowkey/core/package/installdb"
)

// patched puts the patch's transforms onto the cached package of the product
// that it is for; the run is then a repair with the new files.
func (s *session) patched(path string) error {
	s.patch = s.db
	info, err := s.patch.PatchInfo()
	if err != nil {
		return &stop{exit: exitInvalid, text: err.Error()}
	}
	// The first target that is installed is the one: its cached package with
	// the patch's transforms on it is then set up as a repair.
	for _, code := range info.Targets {
		if !s.isRegistered(code) {
			continue
		}
		cached, err := s.registered(code)
		if err != nil {
			return err
		}
		if s.db, err = s.open(cached); err != nil {
			return err
		}
		for _, name := range info.Transforms {
			if err := s.patchTransform(name); err != nil {
				return err
			}
		}
		s.props = map[string]string{}
		s.patchPath, s.patchCode, s.patchedFile = path, info.Code, cached
		return nil
	}
	return &stop{exit: exitPatchTarget, message: 1642,
		text: "The upgrade patch cannot be installed by the Windows Installer service because the program to be upgraded may be missing, or " +
			"the upgrade patch may update a different version of the program. Verify that the program to be upgraded exists on your computer " +
			"and that you have the correct upgrade patch."}
}

// patchTransform applies one transform out of the patch.
func (s *session) patchTransform(name string) error {
	inner, err := s.patch.Storage(name)
	if err == nil {
		var t *installdb.TransformFile
		if t, err = installdb.ReadTransform(inner, s.db.Columns); err == nil {
			err = s.db.Apply(t)
		}
	}
	if err != nil {
		return &stop{exit: exitTransforms, text: fmt.Sprintf("Error applying transforms: %s: %v", name, err)}
	}
	return nil
}

// publishPatch registers the patch with its product.
func (s *session) publishPatch() {
	if s.patch == nil {
		return
	}
	packed := installdb.PackCode(s.patchCode)
	own := userData + `Products\` + installdb.PackCode(s.props["ProductCode"]) + `\Patches\` + packed
	s.setValue("PublishProduct", userData+`Patches\`+packed, "LocalPackage", text(cacheRoot+strings.ToLower(packed[:6])+".msp"))
	s.setValue("PublishProduct", own, "DisplayName", text(s.props["ProductName"]+" update"))
	s.copyOnMachine("PublishProduct", s.patchPath, cacheRoot+strings.ToLower(packed[:6])+".msp")
}
