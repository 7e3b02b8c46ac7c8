package remedy

import (
	"context"

	"hollowkey/core/machine"
)

// kind is what the program knows about one kind of step.
type kind struct {
	args   []string // that it takes
	target []string // those that can name its target
	// prepare completes a step from its arguments; may be nil.
	prepare func(*Step) error
	// read gives the target's present state.
	read func(machine.Machine, Step) (State, error)
	// want gives the state that the step leads to, from the present one.
	want func(machine.Machine, Step, State) (State, error)
	// write brings the target into a state, whichever it is in.
	write func(machine.Machine, Step, State) error
	words func(Step) string
	lines func(State, machine.Accounts) []string
	fits  func(State) bool // whether a state is one of this kind

	// run does a step whose result shows only in how it ends, in place of write.
	run    func(context.Context, machine.Machine, Step, func(string)) (State, error)
	oneWay string // why it cannot be taken back
	Cost
}

// kinds are all kinds of steps, in one place.
func kinds() map[string]kind {
	security := func(args []string, want func(machine.Machine, Step, State) (State, error), words func(Step) string, c Cost) kind {
		return kind{args: append([]string{"folder", "file", "key"}, args...), target: []string{"folder", "file", "key"}, read: readSecurity, want: want, write: writeSecurity,
			words: words, lines: securityLines, fits: isSecurity, Cost: c}
	}
	value := func(k kind) kind {
		k.read, k.write, k.lines, k.fits = readValue, writeValue, valueLines, isValue
		return k
	}
	file := func(k kind) kind {
		k.fits = isFile
		return k
	}
	return map[string]kind{
		"grant":    security([]string{"account", "right"}, wantGrant, grantWords, Cost{Size: 1}),
		"revoke":   security([]string{"account", "entries"}, wantRevoke, revokeWords, Cost{Size: 2, Effect: "whoever relied on the entries loses that access"}),
		"security": security([]string{"sddl"}, wantSecurity, securityWords, Cost{Size: 4, Effect: "the whole access list is replaced"}),
		"owner":    security([]string{"account"}, wantOwner, ownerWords, Cost{Size: 2, Effect: "the owner may change the access list"}),
		"inherit":  security([]string{"state"}, wantInherit, inheritWords, Cost{Size: 3, Effect: "entries come from above, or no longer do"}),

		"service": {args: []string{"name", "start", "state"}, target: []string{"name"}, read: readService, want: wantService, write: writeService, words: serviceWords,
			lines: serviceLines, fits: func(s State) bool { return s.Service != nil }, Cost: Cost{Size: 2, Effect: "what the service does begins or ends"}},
		"dependency":        entryKind([]string{"name", "on", "state"}, wantDependency, dependencyWords, Cost{Size: 3, Effect: "counts when the service starts next"}),
		"remove-service":    entryKind([]string{"name"}, wantNoService, noServiceWords, Cost{Size: 6, Effect: "the service is gone for every program"}),
		"installer-service": entryKind(nil, wantInstaller, installerWords, Cost{Size: 5}),
		"logon-right": {args: []string{"account", "right", "state"}, target: []string{"account"}, read: readRight, want: wantRight, write: writeRight, words: rightWords,
			lines: rightLines, fits: func(s State) bool { return s.Right != nil }, Cost: Cost{Size: 3, Effect: "the account may log on in that way"}},

		"registry":   value(kind{args: []string{"key", "name", "type", "value"}, target: []string{"key"}, want: wantValue, words: valueWords, Cost: Cost{Size: 1}}),
		"unset":      value(kind{args: []string{"key", "name"}, target: []string{"key"}, want: wantUnset, words: unsetWords, Cost: Cost{Size: 2}}),
		"policy":     value(kind{args: []string{"name", "state"}, target: []string{"name"}, prepare: preparePolicy, want: wantValue, words: policyWords, Cost: Cost{Size: 3, Effect: "holds for every user; management may set it back"}}),
		"path-entry": value(kind{args: []string{"entry", "state", "at", "scope"}, target: []string{"entry"}, prepare: preparePath, want: wantPath, words: pathWords, Cost: Cost{Size: 2, Effect: "programs that run see it after they are started anew"}}),
		"restart":    value(kind{args: []string{"command"}, target: []string{"command"}, prepare: prepareRestart, want: wantValue, words: restartWords, Cost: Cost{Size: 3, Restart: true, Effect: "everybody's open work must be saved"}}),
		"key":        keysKind([]string{"key"}, readNewKey, wantNewKey, newKeyWords, Cost{Size: 1}),
		"remove-key": keysKind([]string{"key"}, readTree, wantNoTree, noTreeWords, Cost{Size: 6, Effect: "all below the key goes with it"}),
		"import":     importKind(),

		"ini": file(kind{args: []string{"file", "section", "key", "value", "account", "copy"}, target: []string{"file"}, prepare: func(s *Step) error { s.Target = iniTarget(*s); return nil },
			read: readIni, want: wantIni, write: writeFile, words: iniWords, lines: fileLines, Cost: Cost{Size: 2}}),
		"transform": file(kind{args: []string{"out", "package", "edits"}, target: []string{"out"}, read: readFile, want: wantTransform, write: writeFile, words: transformWords, lines: fileLines, Cost: Cost{Size: 2}}),
		"copy":      file(kind{args: []string{"out", "package", "edits"}, target: []string{"out"}, read: readCopy, want: wantCopy, write: writeCopy, words: copyWords, lines: fileLines, Cost: Cost{Size: 3, Effect: "the copy lacks the vendor's signature"}}),
		"command":   file(kind{args: []string{"out", "package", "properties", "transforms"}, target: []string{"out"}, read: readFile, want: wantCommand, write: writeFile, words: commandWords, lines: fileLines, Cost: Cost{Size: 1}}),
		"away":      file(kind{args: []string{"file"}, target: []string{"file"}, read: readFile, want: wantAway, write: writeFile, words: awayWords, lines: awayLines, Cost: Cost{Size: 3}}),
		"place":     file(kind{args: []string{"out", "from", "inside", "sha256"}, target: []string{"out"}, read: readPlace, want: wantPlace, write: writePlace, words: placeWords, lines: placeLines, Cost: Cost{Size: 2}}),
		"folder": {args: []string{"folder"}, target: []string{"folder"}, read: readFolder, want: wantFolder, write: writeFolder, words: folderWords, lines: folderLines,
			fits: func(s State) bool { return s.Place != nil }, Cost: Cost{Size: 1}},
		"quarantine": heldKind([]string{"path"}, "path", readHeld, quarantineWords, Cost{Size: 5, Effect: "programs that use the files no longer find them"}),
		"free-space": heldKind([]string{"folder", "older"}, "folder", readOld, freeSpaceWords, Cost{Size: 4, Effect: "the space is free once the quarantine is emptied, or at once when the case lies on another drive"}),

		"task": {args: []string{"path", "state"}, target: []string{"path"}, read: readTask, want: wantTask, write: writeTask, words: taskWords, lines: taskLines, fits: isTask, Cost: Cost{Size: 2}},
		"remove-task": {args: []string{"path"}, target: []string{"path"}, read: readTask, want: wantNoTask, write: writeTask, words: noTaskWords, lines: taskLines, fits: isTask,
			Cost: Cost{Size: 4}},
		"safe-boot": {args: []string{"mode"}, target: []string{"mode"}, read: readBoot, want: wantBoot, write: writeBoot, words: bootWords, lines: bootLines,
			fits: func(s State) bool { return s.Boot != "" }, Cost: Cost{Size: 6, Restart: true, Effect: "most services and drivers do not start until it is released"}},

		"end-process": {args: []string{"process"}, target: []string{"process"}, read: readProcess, want: wantNobody, write: writeProcess, words: processWords, lines: runningLines,
			fits: isRunning, oneWay: "a program that was ended can only be started again", Cost: Cost{Size: 5, Effect: "unsaved work in it is lost"}},
		"sign-out": {args: []string{"user"}, target: []string{"user"}, read: readSession, want: wantNobody, write: writeSession, words: sessionWords, lines: runningLines,
			fits: isRunning, oneWay: "the user has to sign in again", Cost: Cost{Size: 7, Effect: "unsaved work of that user is lost"}},
		"restore-point": ranKind([]string{"title"}, "title", restorePointWords, restorePointCommand, Cost{Size: 1, Minutes: 2}),
		"repair":        ranKind([]string{"what"}, "what", repairWords, repairCommand, Cost{Size: 8, Minutes: 15, Effect: "the OS or the product puts its own files and settings back"}),
	}
}

func isSecurity(s State) bool { return s.Security != nil }
func isFile(s State) bool     { return s.File != nil }
func isTask(s State) bool     { return s.Task != nil }
func isRunning(s State) bool  { return s.Running != nil }
func isValue(s State) bool {
	return s.Registry != nil && (!s.Registry.There || s.Registry.Value != nil)
}

// A Cost is what a step asks of people and machine, beside what it puts right.
type Cost struct {
	Size    int    `json:"size"`    // how much it changes: 1 one entry or value, up to 8 the whole product
	Minutes int    `json:"minutes"` // of waiting, beyond the moment
	Restart bool   `json:"restart"`
	Effect  string `json:"effect,omitempty"` // on others
}

// Price is what a step costs.
func (s Step) Price() Cost { return s.kind().Cost }
