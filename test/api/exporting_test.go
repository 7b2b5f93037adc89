package api

import (
	"bytes"
	"context"
	"errors"
	"io"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/app"
	"gavrik/internal/demo"
	"gavrik/internal/store"
	"gavrik/test/harness"
)

// exporter makes files for a person.
type exporter struct {
	*harness.Gavrik
	person int64
}

func (x exporter) begin(t *testing.T, name string, write app.Writing) (id string) {
	t.Helper()
	id, err := x.Export(
		t.Context(), store.Export{Person: x.person, Name: name, About: []string{}}, write, error.Error,
	)
	require.NoError(t, err)
	return id
}

// ended is an export, once nothing more becomes of it.
func (x exporter) ended(t *testing.T, id string) (e store.Export) {
	t.Helper()
	require.Eventually(t, func() bool {
		var err error
		e, err = x.Store.Export(t.Context(), x.person, id)
		require.NoError(t, err)
		return e.State != store.Making
	}, 20*time.Second, 5*time.Millisecond)
	return e
}

func writes(text []byte, err error) app.Writing {
	return func(_ context.Context, to io.Writer, tell func(int)) error {
		tell(1)
		if _, e := to.Write(text); e != nil {
			return e
		}
		return err
	}
}

func waits(ctx context.Context, _ io.Writer, _ func(int)) error {
	<-ctx.Done()
	return ctx.Err()
}

// A file is there as a whole or not at all; what fails, grows too large or faults ends with its cause, and
// leaves no room taken.
func TestExportsAreWholeOrNotAtAll(t *testing.T) {
	g := harness.StartWith(
		t, func(_ string, p *harness.Parts) { p.App.Exports = app.ExportBounds{One: 4 << 20, All: 8 << 20} },
	)
	jory, tamsin := exporter{g, personID(t, g, 1)}, exporter{g, personID(t, g, 0)}
	text := bytes.Repeat([]byte("all of it "), 250_000) // in parts
	whole := jory.ended(t, jory.begin(t, "whole", writes(text, nil)))
	require.Equal(t, store.ExportReady, whole.State)
	read, err := io.ReadAll(g.ReadExport(t.Context(), whole))
	require.NoError(t, err)
	require.True(t, bytes.Equal(text, read))
	_, err = g.Store.Export(t.Context(), tamsin.person, whole.ID)
	require.ErrorIs(t, err, store.ErrNotFound, "it is of one person")

	for name, of := range map[string]struct {
		write app.Writing
		says  string
	}{
		"fails":  {writes([]byte("half"), errors.New("broken")), "broken"},
		"large":  {writes(make([]byte, 5<<20), nil), "larger than 4 MB"},
		"faults": {func(context.Context, io.Writer, func(int)) error { panic("a fault") }, "a fault"},
	} {
		e := jory.ended(t, jory.begin(t, name, of.write))
		require.Equal(t, store.ExportFailed, e.State)
		require.Contains(t, e.Failure, of.says)
	}
	// Nothing but the whole file takes room.
	full := jory.ended(t, jory.begin(t, "full", writes(make([]byte, 3<<20), nil)))
	require.Equal(t, store.ExportReady, full.State)
	more := tamsin.ended(t, tamsin.begin(t, "more", writes(make([]byte, 3<<20), nil)))
	require.Contains(t, more.Failure, "filled the room")
	require.NoError(t, g.DropExport(t.Context(), jory.person, full.ID))
	require.ErrorIs(t, g.DropExport(t.Context(), jory.person, full.ID), store.ErrNotFound)
	require.Equal(
		t, "2500000 3", g.Ask(t, "SELECT sum(length(content)) || ' ' || count(*) FROM gavrik.export_parts"),
	)
}

// One person has so many files; the oldest that has ended makes room, one that is being made does not. What
// is stopped hears of it, and so does what a server makes that ends.
func TestExportsOfOnePerson(t *testing.T) {
	g := harness.Start(t)
	jory, tamsin := exporter{g, personID(t, g, 1)}, exporter{g, personID(t, g, 0)}
	first := jory.begin(t, "first", writes([]byte("first"), nil))
	jory.ended(t, first)
	stopped := make(chan error, 8)
	var waiting []string
	for range 8 {
		waiting = append(waiting, jory.begin(t, "waits", func(
			ctx context.Context, to io.Writer, tell func(int),
		) error {
			err := waits(ctx, to, tell)
			stopped <- err
			return err
		}))
	}
	_, err := g.Store.Export(t.Context(), jory.person, first)
	require.ErrorIs(t, err, store.ErrNotFound, "it made room")
	_, err = g.Export(t.Context(), store.Export{Person: jory.person, About: []string{}}, waits, error.Error)
	require.ErrorContains(t, err, "8 files are being made for you already")
	hers := tamsin.ended(t, tamsin.begin(t, "hers", writes([]byte("hers"), nil)))
	require.Equal(t, store.ExportReady, hers.State, "others are not held up")
	for _, id := range waiting[:4] {
		require.NoError(t, g.DropExport(t.Context(), jory.person, id))
		require.ErrorIs(t, <-stopped, context.Canceled)
	}
	for _, id := range waiting[4:6] { // as another server would
		require.NoError(t, g.Store.DropExport(t.Context(), jory.person, id))
		require.ErrorIs(t, <-stopped, context.Canceled)
	}
	g.EndExports(t.Context())
	require.Equal(t, store.ExportLost, jory.ended(t, waiting[6]).State)
	require.Equal(t, store.ExportReady, tamsin.ended(t, hers.ID).State)
	_, err = g.Export(t.Context(), store.Export{Person: jory.person, About: []string{}}, waits, error.Error)
	require.ErrorContains(t, err, "is being restarted")

	// A server that is not heard of any more has ended, too.
	g.Ask(t, `INSERT INTO gavrik.exports (id, person_id, name, media, lines, about, beat_at)
		VALUES ('silent', $1, '', '', 0, '{}', clock_timestamp() - interval '1 minute') RETURNING id`, jory.person)
	require.Equal(t, store.ExportLost, jory.ended(t, "silent").State)
}

// personID is the number of one of the demo's people.
func personID(t *testing.T, g *harness.Gavrik, n int) int64 {
	t.Helper()
	id, err := strconv.ParseInt(
		g.Ask(t, "SELECT id::text FROM gavrik.people WHERE email = $1", demo.People[n].Email), 10, 64,
	)
	require.NoError(t, err)
	return id
}
