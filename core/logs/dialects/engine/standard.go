// This file has the names of the engine's own actions. Any other is the
// package's.

package engine

// standard holds the names of the engine's own actions and dialogs' usual
// names; every other action is a custom action of the package.
//
// Source: the platform SDK's installer documentation, "Standard Actions
// Reference".
var standard = set(
	"ADMIN", "ADVERTISE", "INSTALL", "SEQUENCE", "AllocateRegistrySpace", "AppSearch", "BindImage",
	"CCPSearch", "CostFinalize", "CostInitialize", "CreateFolders", "CreateShortcuts", "DeleteServices",
	"DisableRollback", "DuplicateFiles", "ExecuteAction", "FileCost", "FindRelatedProducts", "ForceReboot",
	"InstallAdminPackage", "InstallExecute", "InstallExecuteAgain", "InstallFiles", "InstallFinalize",
	"InstallInitialize", "InstallODBC", "InstallServices", "InstallSFPCatalogFile", "InstallValidate",
	"IsolateComponents", "LaunchConditions", "MigrateFeatureStates", "MoveFiles", "MsiConfigureServices",
	"MsiPublishAssemblies", "MsiUnpublishAssemblies", "PatchFiles", "ProcessComponents", "PublishComponents",
	"PublishFeatures", "PublishProduct", "RegisterClassInfo", "RegisterComPlus", "RegisterExtensionInfo",
	"RegisterFonts", "RegisterMIMEInfo", "RegisterProduct", "RegisterProgIdInfo", "RegisterTypeLibraries",
	"RegisterUser", "RemoveDuplicateFiles", "RemoveEnvironmentStrings", "RemoveExistingProducts",
	"RemoveFiles", "RemoveFolders", "RemoveIniValues", "RemoveODBC", "RemoveRegistryValues",
	"RemoveShortcuts", "ResolveSource", "RMCCPSearch", "ScheduleReboot", "SelfRegModules",
	"SelfUnregModules", "SetODBCFolders", "StartServices", "StopServices", "UnpublishComponents",
	"UnpublishFeatures", "UnpublishProduct", "UnregisterClassInfo", "UnregisterComPlus",
	"UnregisterExtensionInfo", "UnregisterFonts", "UnregisterMIMEInfo", "UnregisterProgIdInfo",
	"UnregisterTypeLibraries", "ValidateProductID", "WriteEnvironmentStrings", "WriteIniValues",
	"WriteRegistryValues", "Rollback", "RollbackCleanup", "GenerateScript", "CommitRollback",
	"FatalError", "UserExit", "ExitDialog", "SetupCompleteError", "SetupCompleteSuccess", "PrepareDlg",
)

// set is a set of names.
func set(names ...string) map[string]bool {
	m := make(map[string]bool, len(names))
	for _, n := range names {
		m[n] = true
	}
	return m
}

// scriptHosts are the actions that carry out the installation script.
var scriptHosts = set("InstallFinalize", "InstallExecute", "InstallExecuteAgain")
