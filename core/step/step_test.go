package step

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"
)

// The catalogue is whole: every kind has a name of its own, a target among its
// arguments, and a price.
func TestCatalogue(t *testing.T) {
	seen := map[string]bool{}
	for _, k := range Kinds() {
		if k.Name == "" || seen[k.Name] || strings.ToLower(k.Name) != k.Name {
			t.Errorf("the name %q is empty, not in small letters, or there twice", k.Name)
		}
		seen[k.Name] = true
		for _, a := range k.Target {
			if !slices.Contains(k.Args, a) {
				t.Errorf("%s: its target %q is none of its arguments %v", k.Name, a, k.Args)
			}
		}
		if k.Size < 1 || k.Size > 8 || k.Minutes < 0 {
			t.Errorf("%s: the price is %+v", k.Name, k.Cost)
		}
		if found, ok := KindOf(k.Name); !ok || found.Name != k.Name {
			t.Errorf("%s is not found by its name", k.Name)
		}
	}
	if _, ok := KindOf("tide"); ok {
		t.Error("a kind that nobody knows is found")
	}
	names := Names()
	if len(names) != len(Kinds()) || !slices.IsSorted(names) {
		t.Errorf("%d names of %d kinds, sorted: %v", len(names), len(Kinds()), slices.IsSorted(names))
	}
}

func TestNew(t *testing.T) {
	m := New("grant", "folder", `C:\Deploy`, "account", "SYSTEM", "odd")
	if b, err := json.Marshal(m); err != nil || string(b) != `{"grant":{"account":"SYSTEM","folder":"C:\\Deploy"}}` {
		t.Errorf("%s, %v", b, err)
	}
}

// Remedies that a program can take stand in the order of their price; advice
// keeps its place.
func TestOrder(t *testing.T) {
	remedy := func(title string, kinds ...string) Remedy {
		r := Remedy{Title: title}
		for _, k := range kinds {
			r.Steps = append(r.Steps, New(k))
		}
		return r
	}
	for _, tt := range []struct{ name, in, want string }{
		{"the smaller one first", "repair, advice, registry", "registry, advice, repair"},
		{"equal ones stay", "registry, grant, key", "registry, grant, key"},
		{"two small ones are more than one", "registry+registry+registry, service", "service, registry+registry+registry"},
		{"minutes count where the size is the same", "restore-point, registry", "registry, restore-point"},
		{"nothing to order", "", ""},
	} {
		var list []Remedy
		for title := range strings.SplitSeq(tt.in, ", ") {
			switch title {
			case "":
			case "advice":
				list = append(list, remedy(title))
			default:
				list = append(list, remedy(title, strings.Split(title, "+")...))
			}
		}
		Order(list)
		var got []string
		for _, r := range list {
			got = append(got, r.Title)
		}
		if g := strings.Join(got, ", "); g != tt.want {
			t.Errorf("%s: %q; want %q", tt.name, g, tt.want)
		}
	}
}

func TestPriceInWords(t *testing.T) {
	for _, tt := range []struct{ kinds, want string }{
		{"registry", "small change; no restart"},
		{"transform command", "larger change; no restart"},
		{"safe-boot", "larger change; needs a restart; most services and drivers do not start until it is released"},
		{"end-process", "larger change; no restart; it cannot be undone; unsaved work in it is lost"},
		{"restore-point", "small change; no restart; about 2 minutes; it cannot be undone"},
		{"owner owner", "larger change; no restart; the owner may change the access list"}, // said once
		{"tide", "small change; no restart"},
	} {
		var models []Model
		for k := range strings.FieldsSeq(tt.kinds) {
			models = append(models, New(k))
		}
		if got := Price(models).Words(); got != tt.want {
			t.Errorf("%s: %q; want %q", tt.kinds, got, tt.want)
		}
	}
}

// What lets others in over the network is started and enabled by nobody who did
// not ask for it.
func TestDoorsWaitToBeNamed(t *testing.T) {
	for name, named := range map[string]bool{"RemoteRegistry": true, "winrm": true, "TermService ": true, "Spooler": false, "KelpSync": false} {
		for _, m := range []Model{New("service", "name", name, "start", "manual"), New("service", "name", name, "state", "running")} {
			list := []Remedy{{Title: "start it", Steps: []Model{m}}}
			if Order(list); list[0].OnlyNamed != named {
				t.Errorf("%v: waits to be named: %v", m, list[0].OnlyNamed)
			}
		}
	}
	list := []Remedy{{Steps: []Model{New("service", "name", "RemoteRegistry", "state", "stopped")}}}
	if Order(list); list[0].OnlyNamed {
		t.Error("stopping one waits to be named")
	}
}
