// This file lays a machine's event logs beside the setup's own, for the time in
// which it ran.

package why

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"hollowkey/core/logs/evtx"
	"hollowkey/core/logs/lazy"
	"hollowkey/core/logs/story"
	"hollowkey/core/machine"
	"hollowkey/core/why/verdict"
)

// eventFolder is where the OS keeps its event logs, and eventLogs those in
// which something of a setup can stand.
const eventFolder = `C:\Windows\System32\winevt\Logs\`

// The logs in which setups, services, apps and the OS's protection leave their
// traces, by their file names.
var eventLogs = []string{"Application.evtx", "System.evtx", "Microsoft-Windows-AppXDeploymentServer%4Operational.evtx",
	"Microsoft-Windows-CodeIntegrity%4Operational.evtx", "Microsoft-Windows-AppLocker%4EXE and DLL.evtx",
	"Microsoft-Windows-AppLocker%4MSI and Script.evtx",
	"Microsoft-Windows-Windows Defender%4Operational.evtx"}

// eventSources write records that have to do with setups; a warning of any
// other program at the same time proves nothing.
var eventSources = []string{"MsiInstaller", "Service Control Manager", "Application Error", "Application Hang",
	".NET Runtime", "SideBySide",
	"Microsoft-Windows-AppXDeployment", "Microsoft-Windows-CodeIntegrity", "Microsoft-Windows-AppLocker", "Microsoft-Windows-Windows Defender",
	"Microsoft-Windows-RestartManager", "Ntfs", "disk"}

const (
	eventsBefore = 2 * time.Minute // before a setup began: what it depends on may have failed already
	eventsAfter  = time.Minute     // behind its last line
	maxEventText = 4 << 20         // bytes of records that are looked at
	sureAlone    = 0.6             // a verdict so sure is more likely right than what happened at the same time
	firstYear    = 1601            // in which the OS's time begins
)

// besideEvents judges the logs together with what a machine's event logs say of
// the time of the setup, when the logs alone do not tell why it failed.
func (a *Answer) besideEvents(ctx context.Context, m machine.Machine, opt verdict.Options) error {
	alone := a.Verdict
	tells := alone.Cause.Class != nil && *alone.Cause.Class != "unknown"
	if alone.Worked() || tells && alone.Cause.Confidence >= sureAlone || len(a.Stories) == 0 {
		return nil
	}
	spans := spansOf(a.Stories[len(a.Stories)-1].Last(), m.Facts().Time.Location())
	if len(spans) == 0 {
		return nil
	}
	stories := a.Stories
	var names []string
	for _, name := range eventLogs {
		s, records, err := eventsOf(ctx, m, name, spans, opt)
		if err != nil {
			return err
		}
		if records > 0 {
			stories = append(stories, s)
			names = append(names, fmt.Sprintf("%s (%d)", name, records))
		}
	}
	if len(names) == 0 {
		return nil
	}
	v, err := verdict.JudgeAll(stories, opt)
	if err != nil {
		return err
	}
	v.Remarks = append(v.Remarks, "read beside the log, for the time of the setup: "+strings.Join(names, ", "))
	a.Verdict, a.Stories = v, stories
	return nil
}

// eventsOf reads the records of one event log that count. A log that is not
// there, or cannot be read, holds none.
func eventsOf(ctx context.Context, m machine.Machine, name string, spans []span,
	opt verdict.Options) (s *story.Story, records int, err error) {
	f, err := m.Open(eventFolder + name)
	if err != nil {
		return nil, 0, nil
	}
	defer f.Close()
	log := evtx.New(f).Within(func(t time.Time) bool {
		for _, s := range spans {
			if t.After(s.from) && t.Before(s.to) {
				return true
			}
		}
		return false
	})
	all, err := io.ReadAll(io.LimitReader(log, maxEventText))
	if err != nil && !errors.Is(err, evtx.ErrTruncated) {
		return nil, 0, nil
	}
	var kept []byte
	zone := m.Facts().Time.Location()
	for line := range bytes.Lines(all) {
		if ofSetups(line) {
			kept = append(kept, inZone(line, zone)...)
			records++
		}
	}
	if records == 0 {
		return nil, 0, nil
	}
	s, err = verdict.Read(ctx, verdict.Input{Name: name, Text: bytes.NewReader(kept)}, opt.Reading)
	if err != nil {
		return nil, 0, fmt.Errorf("%s: %w", name, err)
	}
	// warnings alone tell no end; they count as those of the setup that failed
	if a := s.Last(); a != nil && a.Success == nil && a.Exit == nil {
		a.Success = new(false)
	}
	return s, records, nil
}

// An event's time as the export has it; brought to the log's clock before the
// two are laid side by side.
var systemTime = lazy.MustCompile(`(SystemTime=")([^"]+)"`)

// inZone writes a record's time as the machine's clock showed it, as setup logs
// do.
func inZone(record []byte, zone *time.Location) []byte {
	m := systemTime.FindSubmatch(record)
	if m == nil {
		return record
	}
	t, err := time.Parse(time.RFC3339Nano, string(m[2]))
	if err != nil {
		return record
	}
	return systemTime.Compiled().ReplaceAll(record, []byte("${1}"+t.In(zone).Format("2006-01-02T15:04:05.000")+`"`))
}

// ofSetups says whether a record has to do with setups: the engine's, and what
// other sources of ours warn of.
func ofSetups(record []byte) bool {
	for i, source := range eventSources {
		if bytes.Contains(record, []byte(`<Provider Name="`+source)) {
			return i == 0 || !bytes.Contains(record, []byte("<Level>4</Level>")) && !bytes.Contains(record, []byte("<Level>0</Level>"))
		}
	}
	return false
}

// A span is a stretch of time.
type span struct{ from, to time.Time }

// spansOf are the times at which an attempt can have run: its date may be
// written with the day or with the month first. zone is the machine's.
func spansOf(a *story.Attempt, zone *time.Location) (spans []span) {
	if a == nil || a.FirstTime < 0 {
		return nil
	}
	for _, day := range daysOf(a.Date, zone) {
		last := max(a.LastTime, a.FirstTime)
		spans = append(spans, span{day.Add(a.FirstTime - eventsBefore), day.Add(last + eventsAfter)})
	}
	return spans
}

// daysOf are the days that a date can mean.
func daysOf(date string, zone *time.Location) (days []time.Time) {
	f := strings.FieldsFunc(date, func(c rune) bool { return c < '0' || c > '9' })
	if len(f) != 3 {
		return nil
	}
	n := make([]int, len(f))
	for i := range f {
		n[i], _ = strconv.Atoi(f[i])
	}
	add := func(year, month, day int) {
		if year < 100 {
			year += 2000
		}
		if year >= firstYear && month >= 1 && month <= 12 && day >= 1 && day <= 31 {
			days = append(days, time.Date(year, time.Month(month), day, 0, 0, 0, 0, zone))
		}
	}
	if len(f[0]) == 4 {
		add(n[0], n[1], n[2])
		return days
	}
	add(n[2], n[1], n[0])
	if n[0] != n[1] {
		add(n[2], n[0], n[1])
	}
	return days
}
