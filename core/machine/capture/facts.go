// This file takes what the machine is, its services and its tasks.

package capture

import (
	"errors"
	"strings"

	"hollowkey/core/machine"
	"hollowkey/core/machine/twinfile"
)

// facts takes what the machine is. Whatever it cannot tell stays out of the
// file, so that a twin says "unknown" where the machine did.
func (c *capture) facts() error {
	f := c.m.Facts()
	about := twinfile.About{Name: c.m.Name(), SignedIn: c.user.Name, Environment: f.Environment, Hosts: f.Hosts, Time: f.Time,
		Booted: f.Booted}
	about.OS = twinfile.OS{Name: f.OS.Name, Version: f.OS.Version, Build: f.OS.Build, Edition: f.OS.Edition, Ring: f.OS.Ring,
		Architecture: f.OS.Architecture}
	for _, d := range f.Drives {
		about.Drives = append(about.Drives, twinfile.Drive{Letter: d.Letter, Kind: d.Kind, Size: twinfile.Size(d.Size),
			Free: twinfile.Size(d.Free)})
	}
	if c.user.Name != "" {
		u := twinfile.User{Name: c.user.Name, SID: string(c.user.SID), Profile: c.user.Profile}
		for _, g := range c.user.Groups {
			u.Groups = append(u.Groups, string(g))
		}
		about.Users = []twinfile.User{u}
	}
	// What is not known is left out: a twin says of it that it is not known,
	// too.
	if f.Unknown["elevated"] == "" {
		about.Elevated = &f.Elevated
	}
	if b, err := c.m.SafeBoot(); err != nil {
		c.skip("safe mode", err)
	} else if b != machine.SafeBootOff {
		about.SafeBoot = string(b)
	}
	sessions, err := c.m.Sessions()
	if err != nil {
		c.skip("the sessions", err)
	}
	for _, s := range sessions {
		state := "disconnected"
		if s.Active {
			state = "active"
		}
		about.Sessions = append(about.Sessions, twinfile.Session{ID: s.ID, User: s.User, State: state})
	}
	processes, err := c.m.Processes()
	if err != nil {
		c.skip("the processes", err)
	}
	for _, p := range processes {
		about.Processes = append(about.Processes, twinfile.Process{ID: p.ID, Name: p.Name, User: p.User})
	}
	return errors.Join(c.yaml(twinfile.AboutName, about), c.tasks())
}

// tasks takes what the scheduler runs beside the OS's own tasks.
func (c *capture) tasks() error {
	all, err := c.m.Tasks()
	if err != nil {
		c.skip("the scheduler's tasks", err)
		return nil
	}
	var list []twinfile.Task
	for _, t := range all {
		if !strings.HasPrefix(strings.ToLower(t.Path), `\microsoft\`) {
			list = append(list, twinfile.Task{Path: t.Path, Runs: t.Runs, Author: t.Author, AtLogon: t.AtLogon, Enabled: &t.Enabled})
		}
	}
	if list == nil {
		return nil
	}
	return c.yaml(twinfile.TasksName, list)
}

// services takes every service, the OS's own too: what a setup's service
// depends on is often one of those.
func (c *capture) services() error {
	names, err := c.m.ServiceNames()
	if err != nil {
		c.skip("the services", err)
		return nil
	}
	var list []twinfile.Service
	for _, n := range names {
		s, err := c.m.Service(n)
		if err != nil {
			c.skip("service "+n, err)
			continue
		}
		state := "stopped"
		if s.Running {
			state = "running"
		}
		list = append(list, twinfile.Service{Name: s.Name, Display: s.Display, Binary: s.Binary, Start: string(s.Start), Delayed: s.Delayed,
			Account: s.Account, Depends: s.DependsOn, State: state})
	}
	c.rep.Services = len(list)
	return c.yaml(twinfile.ServicesName, list)
}
