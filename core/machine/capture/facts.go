package capture

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"hollowkey/core/machine"
)

func (c *capture) facts() error {
	f := c.m.Facts()
	type drive struct{ Letter, Kind, Size, Free string }
	type user struct {
		Name, SID string
		Groups    []string `yaml:",omitempty"`
		Profile   string   `yaml:",omitempty"`
	}
	type session struct {
		ID          int
		User, State string
	}
	type process struct {
		ID   int
		Name string
		User string `yaml:",omitempty"`
	}
	size := func(n int64) string { return fmt.Sprintf("%d MB", n/bytesUnit) }
	about := struct {
		Name string
		OS   struct {
			Name, Version               string
			Build                       int
			Edition, Ring, Architecture string
		}
		Drives      []drive
		Users       []user            `yaml:",omitempty"`
		SignedIn    string            `yaml:"signed in,omitempty"`
		Environment map[string]string `yaml:",omitempty"`
		Hosts       map[string]bool   `yaml:",omitempty"`
		Elevated    *bool             `yaml:",omitempty"`
		Time        *time.Time        `yaml:",omitempty"`
		Booted      *time.Time        `yaml:",omitempty"`
		SafeBoot    string            `yaml:"safe boot,omitempty"`
		Sessions    []session         `yaml:",omitempty"`
		Processes   []process         `yaml:",omitempty"`
	}{Name: c.m.Name(), SignedIn: c.user.Name, Environment: f.Environment, Hosts: f.Hosts}
	o := f.OS
	about.OS.Name, about.OS.Version, about.OS.Build, about.OS.Edition, about.OS.Ring, about.OS.Architecture = o.Name, o.Version, o.Build, o.Edition, o.Ring, o.Architecture
	for _, d := range f.Drives {
		about.Drives = append(about.Drives, drive{d.Letter, d.Kind, size(d.Size), size(d.Free)})
	}
	if c.user.Name != "" {
		u := user{Name: c.user.Name, SID: string(c.user.SID), Profile: c.user.Profile}
		for _, g := range c.user.Groups {
			u.Groups = append(u.Groups, string(g))
		}
		about.Users = []user{u}
	}
	if f.Unknown["elevated"] == "" {
		about.Elevated = &f.Elevated
	}
	if !f.Time.IsZero() {
		about.Time = &f.Time
	}
	if !f.Booted.IsZero() {
		about.Booted = &f.Booted
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
		about.Sessions = append(about.Sessions, session{s.ID, s.User, state})
	}
	processes, err := c.m.Processes()
	if err != nil {
		c.skip("the processes", err)
	}
	for _, p := range processes {
		about.Processes = append(about.Processes, process{p.ID, p.Name, p.User})
	}
	return errors.Join(c.yaml("twin.yaml", about), c.tasks())
}

// tasks takes what the scheduler runs beside the OS's own tasks.
func (c *capture) tasks() error {
	all, err := c.m.Tasks()
	if err != nil {
		c.skip("the scheduler's tasks", err)
		return nil
	}
	type task struct {
		Path, Runs string
		Author     string `yaml:",omitempty"`
		AtLogon    bool   `yaml:"at logon"`
		Enabled    bool
	}
	var list []task
	for _, t := range all {
		if !strings.HasPrefix(strings.ToLower(t.Path), `\microsoft\`) {
			list = append(list, task{t.Path, t.Runs, t.Author, t.AtLogon, t.Enabled})
		}
	}
	if list == nil {
		return nil
	}
	return c.yaml("tasks.yaml", list)
}

func (c *capture) services() error {
	names, err := c.m.ServiceNames()
	if err != nil {
		c.skip("the services", err)
		return nil
	}
	type service struct {
		Name, Display, Binary, Start, Account string
		Depends                               []string `yaml:"depends on,omitempty"`
		State                                 string
	}
	var list []service
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
		list = append(list, service{s.Name, s.Display, s.Binary, string(s.Start), s.Account, s.DependsOn, state})
	}
	c.rep.Services = len(list)
	return c.yaml("services.yaml", list)
}
