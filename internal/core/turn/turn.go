// Package turn is what lets many runs share one machine fairly.
//
// A run looks up from its work between two blocks of records, as it does to see
// whether it was cancelled. Here it also waits for its turn, and books the memory it
// is about to take. Who goes first is not decided here: whoever starts a run puts a
// Turn into its context. A run without one works as if it were alone.
package turn

import (
	"context"
	"errors"
)

// ErrBusy says that the machine cannot take the work now; the same may go well later.
// What wraps it is said to people.
var ErrBusy = errors.New("the server is busy")

// Turn is the place of one piece of work among others. Any goroutine of the work may
// call its methods.
type Turn interface {
	// Wait returns once the work may go on. It costs next to nothing while nobody else
	// waits. Its error is the context's, or wraps ErrBusy.
	Wait(ctx context.Context) error
	// Rest says that the work stands still until the next Wait: somebody else may go
	// on meanwhile.
	Rest()
	// Book takes so many bytes, or gives them back if they are negative. It may wait
	// for others to give back; its error is the context's, or wraps ErrBusy.
	Book(ctx context.Context, bytes int64) error
}

type key struct{}

// With is a context of work that has its turn from t.
func With(ctx context.Context, t Turn) context.Context { return context.WithValue(ctx, key{}, t) }

// Of is the turn of a context's work.
func Of(ctx context.Context) Turn {
	if t, ok := ctx.Value(key{}).(Turn); ok {
		return t
	}
	return alone{}
}

// alone is the turn of work that nothing else competes with.
type alone struct{}

func (alone) Wait(ctx context.Context) error          { return ctx.Err() }
func (alone) Rest()                                   {}
func (alone) Book(ctx context.Context, _ int64) error { return ctx.Err() }
