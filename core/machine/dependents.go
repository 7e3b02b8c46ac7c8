// This file tells what stops with a service.

package machine

import "strings"

// Dependents are the running services that depend on one, directly or through
// others, those that nothing depends on first.
func Dependents(m Machine, name string) (out []string) {
	names, err := m.ServiceNames()
	if err != nil {
		return nil
	}
	needs := map[string][]string{} // by the service that is needed, in small letters
	for _, n := range names {
		if s, err := m.Service(n); err == nil && s.Running {
			for _, d := range s.DependsOn {
				needs[strings.ToLower(d)] = append(needs[strings.ToLower(d)], s.Name)
			}
		}
	}
	seen := map[string]bool{strings.ToLower(name): true}
	var walk func(string)
	walk = func(of string) {
		for _, n := range needs[strings.ToLower(of)] {
			if low := strings.ToLower(n); !seen[low] {
				seen[low] = true
				walk(n)
				out = append(out, n)
			}
		}
	}
	walk(name)
	return out
}
