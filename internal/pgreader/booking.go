package pgreader

import (
	"context"
	"sync/atomic"

	"gavrik/internal/core/turn"
)

type bookedKey struct{}

// booking is a context of one question, the memory of which is booked as it is taken; release gives it back.
func booking(ctx context.Context) (of context.Context, release func()) {
	if ctx.Value(bookedKey{}) != nil { // a part of another one
		return ctx, func() {}
	}
	booked := &atomic.Int64{}
	return context.WithValue(ctx, bookedKey{}, booked), func() {
		// Giving back neither waits nor fails.
		_ = turn.Of(ctx).Book(context.WithoutCancel(ctx), -booked.Load())
	}
}

// book takes so many bytes.
func book(ctx context.Context, bytes int64) error {
	if err := turn.Of(ctx).Book(ctx, bytes); err != nil {
		return err
	}
	if booked, ok := ctx.Value(bookedKey{}).(*atomic.Int64); ok {
		booked.Add(bytes)
	}
	return nil
}
