package app

import (
	"context"
	"log/slog"
	"time"

	"gavrik/internal/core/fault"
)

const (
	// gathering is how long changes are gathered before they are loaded: what comes together is loaded
	// together.
	gathering = 200 * time.Millisecond
	// afterFailure is how long following rests after it has failed.
	afterFailure = 5 * time.Second
)

// KeepUp loads what has changed as soon as it has, until the context ends. wait returns when records may have
// changed since the last load.
func (w *Workspace) KeepUp(ctx context.Context, wait func(ctx context.Context) error, log *slog.Logger) {
	pause := gathering
	for ctx.Err() == nil {
		err := fault.Caught(func() error {
			if err := wait(ctx); err != nil {
				return err
			}
			rest(ctx, pause)
			began := time.Now()
			err := w.Update(ctx)
			pause = max(gathering, time.Since(began)) // what takes long is not done all the time
			return err
		})
		if err != nil && ctx.Err() == nil {
			log.Error("following changes; the records in memory stay", "error", err)
			rest(ctx, afterFailure)
		}
	}
}

func rest(ctx context.Context, d time.Duration) {
	select {
	case <-ctx.Done():
	case <-time.After(d):
	}
}
