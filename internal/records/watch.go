package records

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"github.com/jackc/pglogrepl"
)

// watch follows one source.
type watch struct {
	source   Source
	index    int // its place among all
	counters counters
	patience time.Duration
	stream   *stream
	// moment is that of the load under way; fresh says that the stream began after the last one.
	moment *Moment
	fresh  bool
	// counts says that the database keeps statistics.
	counts bool
	// stays says that the server has no such thing: all of its records stay there.
	stays bool
	// restored says that the last load was one that was kept: what has changed since, only statistics tell.
	// They may tell late of what was committed shortly before; until then they are asked beside the stream.
	restored bool
	beside   time.Time
	// why there is no stream, and when one is tried again.
	why   string
	again time.Time
}

// prepare sees to it that nothing escapes that is committed after the moment of the load to come.
func (f *Following) prepare(ctx context.Context, w *watch) error {
	ctx, cancel := context.WithTimeout(ctx, w.patience)
	defer cancel()
	if err := w.counters.connect(ctx); err != nil {
		return err
	}
	can, err := dialectOf(ctx, w.counters.conn)
	if err != nil {
		w.counters.close(ctx)
		return err
	}
	if w.stays = !can.Catalogs; w.stays {
		return nil
	}
	if w.stream != nil {
		ended := w.stream.ended()
		if ended == nil {
			is, err := w.published(ctx, f.options.Publication)
			if err != nil {
				return err
			}
			if !is {
				ended = errors.New("the publication is another")
			}
		}
		if ended != nil { // what it had told goes with it
			w.stream.close()
			w.stream, w.fresh, w.again = nil, true, time.Time{}
			f.say(w, "the stream of its changes has ended ("+ended.Error()+"); all is read again")
		}
	}
	if f.tries(w) {
		s, err := newStream(ctx, w.source, f.options.Publication, f.options.Slot, f.woken)
		if err == nil {
			w.stream, w.fresh, w.why = s, true, ""
			f.say(w, fmt.Sprintf("changes of %d tables come as they are committed", len(s.keys)))
		} else {
			if w.again = time.Now().Add(f.options.Retry); w.why != err.Error() {
				w.why = err.Error()
				f.say(w, err.Error()+"; its statistics tell which tables have changed")
			}
		}
	}
	if w.stream == nil && f.options.Publication == "" && f.last == nil {
		f.say(w, "its statistics tell which tables have changed")
	}
	if err := w.counters.read(ctx); err != nil {
		return err
	}
	on, err := counts(ctx, w.counters.conn)
	if w.counts = on; !on && w.restored { // nothing tells what has changed since
		w.restored, w.fresh = false, true
	}
	return err
}

// tries says that it is time to try for a stream.
func (f *Following) tries(w *watch) bool {
	return w.stream == nil && f.options.Publication != "" && len(w.source.Schemas) > 0 && !time.Now().Before(w.again)
}

// published says whether the publication is what it was when the stream began.
func (w *watch) published(ctx context.Context, publication string) (bool, error) {
	if err := w.counters.connect(ctx); err != nil {
		return false, err
	}
	keys, err := publishedKeys(ctx, w.counters.conn, w.source, publication)
	if err != nil {
		w.counters.close(ctx)
		return false, err
	}
	return maps.EqualFunc(keys, w.stream.keys, slices.Equal), nil
}

// changes are those since the last load, as of a moment.
func (w *watch) changes(ctx context.Context, m *Moment) (Changes, error) {
	w.moment = m
	c := Changes{Watched: map[TableName]bool{}, Tables: map[TableName]TableChanges{}}
	if w.restored {
		w.beside = time.Now().Add(statisticsLate)
	}
	if w.stays || w.fresh && !w.restored || w.counters.seen == nil {
		c.Anew = true
		return c, nil
	}
	if w.counts {
		for name := range w.counters.now {
			c.Watched[name] = true
		}
		for _, name := range w.counters.changed() {
			c.Tables[name] = TableChanges{Whole: true}
		}
	}
	if w.stream == nil {
		return c, nil
	}
	if err := w.reach(ctx); err != nil {
		return c, err
	}
	for name := range w.stream.keys {
		c.Watched[name] = true
	}
	late := c.Tables
	if c.Tables = w.stream.changes(m); time.Now().Before(w.beside) {
		maps.Copy(c.Tables, late)
		return c, nil
	}
	for name, change := range late {
		if w.stream.keys[name] == nil { // of the others, the stream knows better
			c.Tables[name] = change
		}
	}
	return c, nil
}

// reach waits until the stream has come to the moment of the load.
func (w *watch) reach(ctx context.Context) error {
	var text string
	err := w.counters.conn.QueryRow(ctx, "SELECT pg_current_wal_insert_lsn()::text").Scan(&text)
	if err != nil {
		return fmt.Errorf("records: %w", err)
	}
	at, err := pglogrepl.ParseLSN(text)
	if err != nil {
		return fmt.Errorf("records: %w", err)
	}
	soon, cancel := context.WithTimeout(ctx, quietly)
	defer cancel()
	if err = w.stream.until(soon, at); err == nil || ctx.Err() != nil {
		return err
	}
	// Who may not move it waits for others to.
	_, _ = w.counters.conn.Exec(ctx, "SELECT pg_logical_emit_message(true, 'gavrik', '')")
	late, cancel := context.WithTimeout(ctx, w.patience)
	defer cancel()
	if err = w.stream.until(late, at); errors.Is(err, context.DeadlineExceeded) && ctx.Err() == nil {
		w.stream.end(errors.New("changes came too slowly"))
		return errors.New("the changes of the database come too slowly; all is read again")
	}
	return err
}

// taken says that a load was.
func (w *watch) taken() {
	w.counters.seen, w.counters.seenShape = w.counters.now, w.counters.shape
	w.fresh, w.restored = false, false
	if w.stream != nil && w.moment != nil {
		w.stream.taken(w.moment)
	}
}
