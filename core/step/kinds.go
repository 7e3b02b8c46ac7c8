// This file is the list of all kinds, by which a plan from outside is checked.
// What carries them out is core/fix/kinds.

package step

import "slices"

// A Kind is what is known of one kind of step before it meets a machine.
type Kind struct {
	Name   string   // as models and journals name it
	Args   []string // the arguments that it takes
	Target []string // those of them that can name its target; none when the target is fixed
	Needs  []string // those of them that must be there besides one that names the target
	OneWay string   // why it cannot be undone; empty when it can
	Cost
}

// A Cost is what a step asks of people and machine, beside what it fixes.
type Cost struct {
	Size    int    `json:"size"`             // how much it changes: 1 one entry or value, up to 8 the whole product
	Minutes int    `json:"minutes"`          // of waiting, beyond the moment
	Restart bool   `json:"restart"`          // it counts after one only
	Effect  string `json:"effect,omitempty"` // on others
}

// The objects whose access list a step can change.
var secured = []string{"folder", "file", "key"}

// What keeps the kinds without a way back from having one.
const (
	programEnded = "a program that was ended can only be started again"
	userSignedIn = "the user has to sign in again"
	noWayBack    = "the OS keeps no way back of its own here"
)

// kinds are all kinds of steps; core/fix/kinds carries each of them out.
var kinds = []Kind{
	{Name: "grant", Args: with(secured, "account", "right"), Target: secured, Needs: []string{"account", "right"}, Cost: Cost{Size: 1}},
	{Name: "revoke", Args: with(secured, "account", "entries"), Target: secured,
		Cost: Cost{Size: 2, Effect: "whoever relied on the entries loses that access"}},
	{Name: "security", Args: with(secured, "sddl"), Target: secured, Needs: []string{"sddl"},
		Cost: Cost{Size: 4, Effect: "the whole access list is replaced"}},
	{Name: "owner", Args: with(secured, "account"), Target: secured, Needs: []string{"account"},
		Cost: Cost{Size: 2, Effect: "the owner may change the access list"}},
	{Name: "inherit", Args: with(secured, "state"), Target: secured, Needs: []string{"state"},
		Cost: Cost{Size: 3, Effect: "entries come from above, or no longer do"}},

	{Name: "service", Args: []string{"name", "start", "state"}, Target: []string{"name"},
		Cost: Cost{Size: 2, Effect: "what the service does begins or ends"}},
	{Name: "dependency", Args: []string{"name", "on", "state"}, Target: []string{"name"}, Needs: []string{"on", "state"},
		Cost: Cost{Size: 3, Effect: "counts when the service starts next"}},
	{Name: "remove-service", Args: []string{"name"}, Target: []string{"name"},
		Cost: Cost{Size: 6, Effect: "the service is gone for every program"}},
	{Name: "installer-service", Cost: Cost{Size: 5}},
	{Name: "logon-right", Args: []string{"account", "right", "state"}, Target: []string{"account"},
		Cost: Cost{Size: 3, Effect: "the account may log on in that way"}},

	{Name: "registry", Args: []string{"key", "name", "type", "value"}, Target: []string{"key"}, Needs: []string{"type"}, Cost: Cost{Size: 1}},
	{Name: "unset", Args: []string{"key", "name"}, Target: []string{"key"}, Cost: Cost{Size: 2}},
	{Name: "policy", Args: []string{"name", "state"}, Target: []string{"name"}, Needs: []string{"state"},
		Cost: Cost{Size: 3, Effect: "holds for every user; management may set it back"}},
	{Name: "path-entry", Args: []string{"entry", "state", "at", "scope"}, Target: []string{"entry"}, Needs: []string{"state"},
		Cost: Cost{Size: 2, Effect: "programs that run see it after they are started anew"}},
	{Name: "restart", Args: []string{"command"}, Target: []string{"command"},
		Cost: Cost{Size: 3, Restart: true, Effect: "everybody's open work must be saved"}},
	{Name: "key", Args: []string{"key"}, Target: []string{"key"}, Cost: Cost{Size: 1}},
	{Name: "remove-key", Args: []string{"key"}, Target: []string{"key"}, Cost: Cost{Size: 6, Effect: "deletes all subkeys"}},
	{Name: "import", Args: []string{"from", "text"}, Target: []string{"from"},
		Cost: Cost{Size: 4, Effect: "all values that the file names are set"}},

	{Name: "ini", Args: []string{"file", "section", "key", "value", "account", "copy"}, Target: []string{"file"},
		Needs: []string{"section", "key"}, Cost: Cost{Size: 2}},
	{Name: "transform", Args: []string{"out", "package", "edits"}, Target: []string{"out"},
		Needs: []string{"package", "edits"}, Cost: Cost{Size: 2}},
	{Name: "copy", Args: []string{"out", "package", "edits", "folder"}, Target: []string{"out", "folder"}, Needs: []string{"package", "edits"},
		Cost: Cost{Size: 3, Effect: "the copy lacks the vendor's signature"}},
	{Name: "command", Args: []string{"out", "package", "properties", "transforms"}, Target: []string{"out"},
		Needs: []string{"package"}, Cost: Cost{Size: 1}},
	{Name: "away", Args: []string{"file"}, Target: []string{"file"}, Cost: Cost{Size: 3}},
	{Name: "place", Args: []string{"out", "from", "inside", "sha256"}, Target: []string{"out"}, Needs: []string{"from"}, Cost: Cost{Size: 2}},
	{Name: "folder", Args: []string{"folder"}, Target: []string{"folder"}, Cost: Cost{Size: 1}},
	{Name: "quarantine", Args: []string{"path"}, Target: []string{"path"},
		Cost: Cost{Size: 5, Effect: "programs that use the files no longer find them"}},
	{Name: "free-space", Args: []string{"folder", "older"}, Target: []string{"folder"},
		Cost: Cost{Size: 4, Effect: "the space is free once the quarantine is emptied, or at once when the case lies on another drive"}},

	{Name: "task", Args: []string{"path", "state"}, Target: []string{"path"}, Needs: []string{"state"}, Cost: Cost{Size: 2}},
	{Name: "remove-task", Args: []string{"path"}, Target: []string{"path"}, Cost: Cost{Size: 4}},
	{Name: "safe-boot", Args: []string{"mode"}, Target: []string{"mode"},
		Cost: Cost{Size: 6, Restart: true, Effect: "most services and drivers do not start until it is released"}},

	{Name: "end-process", Args: []string{"process"}, Target: []string{"process"}, OneWay: programEnded,
		Cost: Cost{Size: 5, Effect: "unsaved work in it is lost"}},
	{Name: "sign-out", Args: []string{"user"}, Target: []string{"user"}, OneWay: userSignedIn,
		Cost: Cost{Size: 7, Effect: "unsaved work of that user is lost"}},
	{Name: "restore-point", Args: []string{"title"}, Target: []string{"title"}, OneWay: noWayBack, Cost: Cost{Size: 1, Minutes: 2}},
	{Name: "repair", Args: []string{"what"}, Target: []string{"what"}, OneWay: noWayBack,
		Cost: Cost{Size: 8, Minutes: 15, Effect: "the OS or the product puts its own files and settings back"}},
}

// with is a list and more of the same, without touching the list.
func with(list []string, more ...string) []string { return slices.Concat(list, more) }

// Kinds are all kinds of steps.
func Kinds() []Kind { return kinds }

// KindOf finds a kind by its name.
func KindOf(name string) (Kind, bool) {
	i := slices.IndexFunc(kinds, func(k Kind) bool { return k.Name == name })
	if i < 0 {
		return Kind{}, false
	}
	return kinds[i], true
}

// Names are the names of all kinds, sorted.
func Names() []string {
	var names []string
	for _, k := range kinds {
		names = append(names, k.Name)
	}
	slices.Sort(names)
	return names
}
