// This file runs a sequence up to its end or its first failure.

package rehearse

import (
	"errors"
	"slices"
	"strings"

	"hollowkey/core/package/gates"
	"hollowkey/core/package/installdb"
)

// newWorld is what the package sees of the twin; searches and conditions are
// worked out there, so that `package gates` and a rehearsal never disagree.
func newWorld(db *installdb.Database, m gates.Machine, given map[string]string) *gates.World {
	return gates.NewWorld(db, m, given)
}

// actions are the engine's own actions that do something here; the others of
// its actions are written to the log and do nothing on a twin.
func (s *session) actions() map[string]func() error {
	return map[string]func() error{
		"AppSearch": s.appSearch, "LaunchConditions": s.launchConditions, "FindRelatedProducts": s.findRelated,
		"CostInitialize": s.costInitialize, "CostFinalize": s.costFinalize,
		"InstallValidate": s.validate, "RemoveExistingProducts": s.removeExisting, "InstallInitialize": s.initialize,
		"ProcessComponents": s.processComponents, "StopServices": s.stopServices, "DeleteServices": s.deleteServices,
		"RemoveRegistryValues": s.removeRegistry,
		"RemoveIniValues":      s.removeIni, "RemoveShortcuts": s.removeShortcuts, "RemoveEnvironmentStrings": s.removeEnvironment,
		"RemoveFiles":   s.removeFiles,
		"RemoveFolders": s.removeFolders, "CreateFolders": s.createFolders, "InstallFiles": s.installFiles, "CreateShortcuts": s.createShortcuts,
		"WriteRegistryValues": s.writeRegistry, "WriteIniValues": s.writeIni, "WriteEnvironmentStrings": s.writeEnvironment,
		"InstallServices": s.installServices,
		"StartServices":   s.startServices, "RegisterProduct": s.registerProduct, "PublishProduct": s.publishProduct, "InstallExecute": s.execute,
		"InstallFinalize": s.execute,
		"ScheduleReboot":  func() error { s.restart = true; return nil },
	}
}

// descriptions are what the log says beside an action's name.
var descriptions = map[string]string{
	"AppSearch": "Searching for installed applications", "LaunchConditions": "Evaluating launch conditions",
	"FindRelatedProducts": "Searching for related applications",
	"CostInitialize":      "Computing space requirements", "FileCost": "Computing space requirements",
	"CostFinalize": "Computing space requirements", "InstallValidate": "Validating install",
	"RemoveExistingProducts": "Removing applications", "ProcessComponents": "Updating component registration",
	"StopServices": "Stopping services", "DeleteServices": "Deleting services",
	"RemoveRegistryValues": "Removing system registry values", "RemoveShortcuts": "Removing shortcuts",
	"RemoveEnvironmentStrings": "Updating environment strings", "RemoveFiles": "Removing files",
	"RemoveFolders": "Removing folders", "CreateFolders": "Creating folders", "InstallFiles": "Copying new files",
	"CreateShortcuts":     "Creating shortcuts",
	"WriteRegistryValues": "Writing system registry values", "WriteIniValues": "Writing INI files values",
	"RemoveIniValues":         "Removing INI files entries",
	"WriteEnvironmentStrings": "Updating environment strings", "InstallServices": "Installing new services",
	"StartServices": "Starting services", "RegisterUser": "Registering user",
	"RegisterProduct": "Registering product", "PublishFeatures": "Publishing Product Features",
	"PublishProduct": "Publishing product information", "UnpublishFeatures": "Unpublishing Product Features",
	"MigrateFeatureStates": "Migrating feature states from related applications",
}

// sequence runs the execute sequence up to its end or the first failure.
func (s *session) sequence() error {
	list, err := s.rows("InstallExecuteSequence")
	if err != nil {
		return err
	}
	// Negative numbers are dialogs of an end: those are shown by who runs the
	// sequence.
	list = slices.DeleteFunc(list, func(r row) bool { return r.number("Sequence") <= 0 })
	slices.SortStableFunc(list, func(a, b row) int { return a.number("Sequence") - b.number("Sequence") })
	own := s.actions()
	for _, r := range list {
		name := r.text("Action")
		runs, err := s.holds(r.text("Condition"))
		if err != nil {
			return s.fail(name, &stop{message: 2771, text: err.Error()})
		}
		if !runs {
			s.log.server("Skipping action: %s (condition is false)", name)
			continue
		}
		// An action of the package's own may have the name of one of the
		// engine's; the table of custom actions decides.
		do := own[name]
		custom, ok, err := s.custom(name)
		if err != nil {
			return err
		}
		if ok {
			do = custom
		}
		if err := s.act(name, do); err != nil {
			return err
		}
	}
	return nil
}

// act runs one action with its lines in the log.
func (s *session) act(name string, do func() error) error {
	s.log.server("Doing action: %s", name)
	s.log.raw("Action %s: %s. %s", s.log.clock(), name, descriptions[name])
	s.log.raw("Action start %s: %s.", s.log.clock(), name)
	var err error
	if do != nil {
		err = do()
	}
	var no *stop
	if errors.As(err, &no) {
		if s.res.Failed == "" { // not yet told by the script
			s.complain(no)
			s.res.Failed = name
		}
		s.log.raw("Action ended %s: %s. Return value 3.", s.log.clock(), name)
		s.rollBack()
		return err
	}
	if err == nil {
		s.log.raw("Action ended %s: %s. Return value 1.", s.log.clock(), name)
	}
	return err
}

// fail ends an action that could not even begin.
func (s *session) fail(name string, no *stop) error {
	return s.act(name, func() error { return no })
}

// appSearch sets the properties that the package's searches find. What a twin
// cannot tell stays unset and is told as assumed.
func (s *session) appSearch() error {
	list, err := s.rows("AppSearch")
	if err != nil {
		return err
	}
	for _, r := range list {
		name := r.text("Property")
		k, _ := s.world.Search(name)
		switch {
		case k.Unknown:
			s.assume("the search for %s finds nothing (%s)", name, k.Detail)
		case k.Text != "":
			s.set(name, k.Text)
		}
	}
	return nil
}

// launchConditions stops at the first condition that does not hold, with the
// package's own words.
func (s *session) launchConditions() error {
	list, err := s.rows("LaunchCondition")
	if err != nil {
		return err
	}
	for _, r := range list {
		ok, err := s.holds(r.text("Condition"))
		if err != nil {
			return &stop{message: 2771, text: err.Error()}
		}
		if !ok {
			return s.said(s.format(r.text("Description")))
		}
	}
	return nil
}

// said is a stop with the package's own words, which the log shows without a
// number.
func (s *session) said(text string) *stop {
	s.log.raw("%s", text)
	s.log.server("Product: %s -- %s", s.res.Product, text)
	s.log.raw("")
	return &stop{text: text}
}

// findRelated sets the properties of the Upgrade table. The engine looks only
// at a first installation.
func (s *session) findRelated() error {
	if s.props["Installed"] != "" {
		return nil
	}
	list, err := s.rows("Upgrade")
	if err != nil {
		return err
	}
	for _, r := range list {
		name := r.text("ActionProperty")
		k, _ := s.world.Related(name)
		if k.Text == "" || strings.Contains(s.props[name], k.Text) {
			continue
		}
		s.log.server("PROPERTY CHANGE: Adding %s property. Its value is '%s'.", name, k.Text)
		s.props[name] = strings.TrimPrefix(s.props[name]+";"+k.Text, ";")
	}
	return nil
}
