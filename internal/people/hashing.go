package people

import (
	"context"
	"errors"
	"runtime"
)

// ErrCrowded says that more people sign in than can be served in a moment.
var ErrCrowded = errors.New("many people are signing in just now; try again in a few seconds")

// A hash takes 64 MiB and a good part of a second of every core, on purpose. So few are
// made at once, and strangers do not keep those waiting who have been here before.
const (
	// strangersWaiting is how many strangers wait for a hash; more are sent away at once.
	strangersWaiting = 20
	// knownWaiting is the same for known devices.
	knownWaiting = 200
)

// hashing bounds the hashes that are made at the same time.
type hashing struct {
	// seats are for all; strangers are those of them that strangers may take.
	seats, strangers chan struct{}
	// lines bound how many wait.
	strangersLine, knownLine chan struct{}
}

func newHashing() *hashing {
	seats := max(2, runtime.GOMAXPROCS(0)/2)
	return &hashing{
		seats: make(chan struct{}, seats), strangers: make(chan struct{}, seats-1),
		strangersLine: make(chan struct{}, strangersWaiting), knownLine: make(chan struct{}, knownWaiting),
	}
}

// do makes one hash when it is its turn.
func (h *hashing) do(ctx context.Context, known bool, work func()) error {
	line := h.knownLine
	if !known {
		line = h.strangersLine
	}
	select {
	case line <- struct{}{}:
		defer func() { <-line }()
	default:
		return ErrCrowded
	}
	take := []chan struct{}{h.seats}
	if !known {
		take = []chan struct{}{h.strangers, h.seats}
	}
	for _, seat := range take {
		select {
		case seat <- struct{}{}:
			defer func() { <-seat }()
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	work()
	return nil
}
