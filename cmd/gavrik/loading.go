package main

import (
	"context"
	"crypto/rand"
	"errors"
	"log/slog"
	"strings"
	"time"

	"gavrik/internal/core/fault"
	"gavrik/internal/records"
	"gavrik/internal/store"
)

// loading is how a server comes by its records: from its own folder at first, if there is one, and from the
// databases.
type loading struct {
	*records.Following
	o     serveOptions
	state *store.Store
	log   *slog.Logger
	// progress is told of the first load; later ones are nobody's to wait for. restore says that the records
	// that were kept have not been looked at yet.
	progress *records.Progress
	restore  bool
}

func newLoading(
	o serveOptions, from []records.Source, state *store.Store, progress *records.Progress, log *slog.Logger,
) *loading {
	following := records.Follow(from, records.FollowOptions{
		Publication: o.publication(), Slot: o.publication() + "_" + strings.ToLower(rand.Text()[:12]),
		Log: func(source, how string) { log.Info("records", "source", source, "followed", how) },
	})
	return &loading{following, o, state, log, progress, o.keepIn != ""}
}

// settings are those of a load, and the keys of record sets that are remembered.
func (l *loading) settings(ctx context.Context) (records.Settings, []store.SetKey, error) {
	known, err := l.state.SetKeys(ctx)
	if err != nil {
		return records.Settings{}, nil, err
	}
	staying, err := l.state.Staying(ctx)
	return records.Settings{
		Zone: l.o.zone, Keys: setKeys(known), Most: l.o.mostRecords, StayBeyond: true,
		Away: append(staying, l.o.inDatabase...),
	}, known, err
}

// load is an app.Loading.
func (l *loading) load(ctx context.Context, asked records.Asked) (*records.Loaded, error) {
	set, known, err := l.settings(ctx)
	if err != nil {
		return nil, err
	}
	if restore := l.restore && len(set.Away) == 0; restore {
		l.restore = false
		kept, err := l.Restore(ctx, l.o.keepIn, set)
		if err != nil {
			l.log.Warn("the records are loaded", "because", err)
		}
		if kept != nil {
			return kept, nil
		}
	}
	set.Progress, l.progress = l.progress, nil
	made, err := l.Load(ctx, set, asked)
	if err != nil {
		return nil, err
	}
	return made, l.state.KeepSetKeys(ctx, newKeys(made, known))
}

// keep writes the records into the server's folder, for the next start.
func (l *loading) keep(ctx context.Context) {
	set, _, err := l.settings(ctx)
	err = errors.Join(err, fault.Caught(func() error { return l.File(ctx, l.o.keepIn, set) }))
	if err != nil {
		l.log.Error("keeping the records for the next start", "error", err)
	}
}

const (
	// keeping is how often the records are kept for the next start, keepingLast how long it may take when the
	// server ends.
	keeping     = 10 * time.Minute
	keepingLast = 30 * time.Second
)
