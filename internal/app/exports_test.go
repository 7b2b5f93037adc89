package app

import (
	"bytes"
	"context"
	"errors"
	"io"
	"log/slog"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/scheduler"
)

func exporting(t *testing.T) *App {
	t.Helper()
	return &App{Options: Options{Scheduler: scheduler.New(scheduler.Options{}), Log: slog.New(slog.DiscardHandler)}}
}

// made waits until an export has ended.
func (e *Export) made(t *testing.T) ExportState {
	t.Helper()
	ctx, cancel := context.WithTimeout(t.Context(), 20*time.Second)
	defer cancel()
	state, err := e.Next(ctx, -1)
	for err == nil && !state.Ready && state.Err == nil {
		state, err = e.Next(ctx, state.Step)
	}
	require.NoError(t, err)
	return state
}

func writes(text []byte, err error) func(context.Context, io.Writer, func(int)) error {
	return func(_ context.Context, to io.Writer, tell func(int)) error {
		tell(1)
		if _, e := to.Write(text); e != nil {
			return e
		}
		return err
	}
}

// A file is there as a whole or not at all; what fails, grows too large or faults ends with its
// cause, and leaves no room taken.
func TestExportsAreWholeOrNotAtAll(t *testing.T) {
	a := exporting(t)
	a.exports.most, a.exports.mostOfAll = 4<<20, 6<<20
	whole := &Export{Name: "whole"}
	require.NoError(t, a.Export(1, whole, writes([]byte("all of it"), nil)))
	require.True(t, whole.made(t).Ready)
	text, err := io.ReadAll(whole.Read())
	require.NoError(t, err)
	require.Equal(t, "all of it", string(text))
	require.Same(t, whole, a.FindExport(1, whole.ID))
	require.Nil(t, a.FindExport(2, whole.ID), "it is of one person")

	broken := errors.New("broken")
	for name, of := range map[string]struct {
		write func(context.Context, io.Writer, func(int)) error
		says  string
	}{
		"fails":  {writes([]byte("half"), broken), "broken"},
		"large":  {writes(make([]byte, 5<<20), nil), "larger than 4 MB"},
		"faults": {func(context.Context, io.Writer, func(int)) error { panic("a fault") }, "a fault"},
	} {
		e := &Export{Name: name}
		require.NoError(t, a.Export(1, e, of.write))
		state := e.made(t)
		require.False(t, state.Ready)
		require.ErrorContains(t, state.Err, of.says)
		e.Drop()
	}
	// Nothing but the whole file takes room.
	full := &Export{}
	require.NoError(t, a.Export(1, full, writes(bytes.Repeat([]byte("x"), 3<<20), nil)))
	require.True(t, full.made(t).Ready)
	more := &Export{}
	require.NoError(t, a.Export(2, more, writes(make([]byte, 3<<20+1), nil)))
	require.ErrorContains(t, more.made(t).Err, "filled the room")
	full.Drop()
	more.Drop()
	require.Nil(t, a.FindExport(1, full.ID))
	a.exports.mu.Lock()
	require.EqualValues(t, len("all of it"), a.exports.bytes)
	a.exports.mu.Unlock()
}

// One person has so many files; the oldest that is ready makes room, one that is being made does
// not. What is stopped hears of it.
func TestExportsOfOnePerson(t *testing.T) {
	a := exporting(t)
	stopped := make(chan error, exportsEach)
	waits := func(ctx context.Context, _ io.Writer, _ func(int)) error {
		<-ctx.Done()
		stopped <- ctx.Err()
		return ctx.Err()
	}
	first := &Export{}
	require.NoError(t, a.Export(1, first, writes([]byte("first"), nil)))
	first.made(t)
	var waiting []*Export
	for range exportsEach {
		e := &Export{}
		require.NoError(t, a.Export(1, e, waits))
		waiting = append(waiting, e)
	}
	require.Eventually(t, func() bool { return a.FindExport(1, first.ID) == nil }, 10*time.Second, time.Millisecond)
	require.ErrorContains(t, a.Export(1, &Export{}, waits), "8 files are being made for you already")
	other := &Export{}
	require.NoError(t, a.Export(2, other, writes([]byte("hers"), nil)))
	require.True(t, other.made(t).Ready, "others are not held up")
	for _, e := range waiting {
		e.Drop()
		require.ErrorIs(t, <-stopped, context.Canceled)
	}
}
