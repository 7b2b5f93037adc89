package app

import (
	"context"
	"time"
)

// Every calls do again and again, so long apart, until it says that it is enough or the context ends.
func Every(ctx context.Context, long time.Duration, do func(ctx context.Context) (enough bool)) {
	tick := time.NewTicker(long)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			if do(ctx) {
				return
			}
		}
	}
}
