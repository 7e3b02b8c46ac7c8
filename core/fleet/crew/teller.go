// This file hands on what the queue has to say of errors.

package crew

import (
	"context"
	"log/slog"
)

// A teller hands on what the queue logs, from errors on: its jobs tell their
// own.
type teller struct {
	told func(string)
}

// Enabled says which levels are of interest.
func (t *teller) Enabled(_ context.Context, level slog.Level) bool { return level >= slog.LevelError }

// Handle hands one record on.
func (t *teller) Handle(_ context.Context, r slog.Record) error {
	text := r.Message
	r.Attrs(func(a slog.Attr) bool {
		if a.Key == "error" || a.Key == "err" {
			text += ": " + a.Value.String()
		}
		return true
	})
	t.told(text)
	return nil
}

// WithAttrs does nothing: what the queue says of itself each time is not told.
func (t *teller) WithAttrs([]slog.Attr) slog.Handler { return t }

// WithGroup does nothing: groups are not told.
func (t *teller) WithGroup(string) slog.Handler { return t }
