package records

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"sync"
	"time"

	"github.com/jackc/pglogrepl"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgproto3"

	"gavrik/internal/core/fault"
)

// stream follows the changes that are committed to the tables of a publication (PostgreSQL's documentation,
// "Logical Streaming Replication Protocol"). It reads the keys of changed records alone: their values are
// read as of the moment of the next load, in the same way as all others.
//
// Its slot is temporary: the database drops it with the connection, and keeps nothing for a reader that
// does not come back.
type stream struct {
	source Source
	conn   *pgconn.PgConn
	keys   map[TableName][]string // of watched tables, by the names of their key columns
	// woken is told of commits, without waiting.
	woken chan<- struct{}
	stop  context.CancelFunc
	done  chan struct{} // closed when it has ended

	mu        sync.Mutex    // protects following fields
	reached   pglogrepl.LSN // all before it has been read
	moved     chan struct{} // closed when reached moves or the stream ends
	err       error         // why it ended
	committed []*transaction
	held      int    // keys of all of them
	asking    bool   // somebody waits to be told how far it is
	interrupt func() // ends the reader's waiting
}

const (
	// mostHeld is how many keys are kept until a load takes them; beyond it, tables are read whole.
	mostHeld = 500_000
	// mostCommitted is how many transactions are.
	mostCommitted = 100_000
	// reporting is how often the database is told how far the stream is.
	reporting = 5 * time.Second
)

// newStream begins to follow: whatever is committed from now on is told.
func newStream(
	ctx context.Context, from Source, publication, slot string, woken chan<- struct{},
) (*stream, error) {
	conn, err := Connect(ctx, from.URL)
	if err != nil {
		return nil, err
	}
	defer hangUp(ctx, conn)
	s := &stream{source: from, woken: woken, moved: make(chan struct{}), done: make(chan struct{})}
	if s.keys, err = publishedKeys(ctx, conn, from, publication); err != nil {
		return nil, err
	}
	if len(s.keys) == 0 {
		return nil, fmt.Errorf("there is no publication %s of tables with a primary key", publication)
	}
	cfg, err := pgconn.ParseConfig(from.URL)
	if err != nil {
		return nil, errors.New("the database URL cannot be read")
	}
	maps.Copy(cfg.RuntimeParams, map[string]string{
		"replication": "database", "application_name": slot,
		"DateStyle": "ISO", "IntervalStyle": "postgres", "extra_float_digits": "3",
	})
	if s.conn, err = pgconn.ConnectConfig(ctx, cfg); err != nil {
		return nil, fmt.Errorf("its changes cannot be followed: %s", reasonOf(err))
	}
	temporary := pglogrepl.CreateReplicationSlotOptions{
		Temporary: true, SnapshotAction: "NOEXPORT_SNAPSHOT", Mode: pglogrepl.LogicalReplication,
	}
	_, err = pglogrepl.CreateReplicationSlot(ctx, s.conn, slot, "pgoutput", temporary)
	if err == nil {
		err = pglogrepl.StartReplication(ctx, s.conn, slot, 0, pglogrepl.StartReplicationOptions{
			Mode:       pglogrepl.LogicalReplication,
			PluginArgs: []string{"proto_version '1'", "publication_names " + Literal(quote(publication))},
		})
	}
	if err != nil {
		hangUp(ctx, s.conn)
		return nil, fmt.Errorf("its changes cannot be followed: %s", reasonOf(err))
	}
	reading, stop := context.WithCancel(context.WithoutCancel(ctx))
	s.stop = stop
	go func() {
		err := fault.Caught(func() error { return s.read(reading) })
		hangUp(reading, s.conn)
		s.end(err)
		close(s.done)
	}()
	return s, nil
}

// reasonOf is what the database says, or why it says nothing.
func reasonOf(err error) string {
	var said *pgconn.PgError
	if errors.As(err, &said) {
		return said.Message
	}
	return err.Error()
}

// Only tables are watched of which a publication tells all, by a primary key.
const publishedSQL = `
SELECT t.schemaname, t.tablename,
       ARRAY(SELECT a.attname::text FROM unnest(k.conkey) WITH ORDINALITY u(n, i)
             JOIN pg_attribute a ON a.attrelid = k.conrelid AND a.attnum = u.n ORDER BY u.i)
FROM pg_publication p
JOIN pg_publication_tables t ON t.pubname = p.pubname
JOIN pg_namespace n ON n.nspname = t.schemaname
JOIN pg_class c ON c.relnamespace = n.oid AND c.relname = t.tablename
JOIN pg_constraint k ON k.conrelid = c.oid AND k.contype = 'p'
WHERE p.pubname = $1 AND p.pubinsert AND p.pubupdate AND p.pubdelete AND p.pubtruncate
  AND c.relreplident IN ('d', 'f') AND c.relpersistence = 'p' AND NOT c.relispartition
  AND to_jsonb(t)->>'rowfilter' IS NULL`

func publishedKeys(
	ctx context.Context, conn *pgx.Conn, from Source, publication string,
) (map[TableName][]string, error) {
	out := map[TableName][]string{}
	var schema, name string
	var key []string
	rows, _ := conn.Query(ctx, publishedSQL, publication) // ForEachRow returns its error
	_, err := pgx.ForEachRow(rows, []any{&schema, &name, &key}, func() error {
		out[TableName{from.Name, schema, name}] = slices.Clone(key)
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("records: publication: %w", err)
	}
	return out, nil
}

// read takes messages until the stream ends.
func (s *stream) read(ctx context.Context) error {
	relations := map[uint32]*pglogrepl.RelationMessage{}
	var open *transaction
	report := time.Now()
	answer := false
	for {
		waiting, cancel := context.WithDeadline(ctx, report)
		at, ask := s.listen(cancel)
		if ask || answer || time.Now().After(report) {
			err := pglogrepl.SendStandbyStatusUpdate(
				ctx, s.conn, pglogrepl.StandbyStatusUpdate{WALWritePosition: at, ReplyRequested: ask},
			)
			if err != nil {
				cancel()
				return err
			}
			if answer = false; time.Now().After(report) {
				report = time.Now().Add(reporting)
				cancel()
				continue
			}
		}
		message, err := s.conn.ReceiveMessage(waiting)
		interrupted := waiting.Err() != nil
		cancel()
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case err != nil && interrupted && !s.conn.IsClosed():
			continue
		case err != nil:
			return err
		}
		if said, ok := message.(*pgproto3.ErrorResponse); ok {
			return errors.New(said.Message)
		}
		data, ok := message.(*pgproto3.CopyData)
		if !ok || len(data.Data) == 0 {
			continue
		}
		switch data.Data[0] {
		case pglogrepl.PrimaryKeepaliveMessageByteID:
			alive, err := pglogrepl.ParsePrimaryKeepaliveMessage(data.Data[1:])
			if err != nil {
				return err
			}
			answer = alive.ReplyRequested
			if open == nil {
				s.reach(alive.ServerWALEnd)
			}
		case pglogrepl.XLogDataByteID:
			piece, err := pglogrepl.ParseXLogData(data.Data[1:])
			if err != nil {
				return err
			}
			change, err := pglogrepl.Parse(piece.WALData)
			if err != nil {
				return err
			}
			if open, err = s.take(change, relations, open); err != nil {
				return err
			}
		}
	}
}

// take adds what a message tells to the transaction that is open, and returns that which is then.
func (s *stream) take(
	message pglogrepl.Message, relations map[uint32]*pglogrepl.RelationMessage, open *transaction,
) (*transaction, error) {
	switch m := message.(type) {
	case *pglogrepl.RelationMessage:
		relations[m.RelationID] = m
	case *pglogrepl.BeginMessage:
		return &transaction{xid: m.Xid, tables: map[TableName]*changedKeys{}}, nil
	case *pglogrepl.CommitMessage:
		s.commit(open, m.TransactionEndLSN)
		return nil, nil
	case *pglogrepl.InsertMessage:
		s.note(open, relations[m.RelationID], m.Tuple)
	case *pglogrepl.UpdateMessage:
		s.note(open, relations[m.RelationID], m.OldTuple)
		s.note(open, relations[m.RelationID], m.NewTuple)
	case *pglogrepl.DeleteMessage:
		s.note(open, relations[m.RelationID], m.OldTuple)
	case *pglogrepl.TruncateMessage:
		for _, id := range m.RelationIDs {
			if r := relations[id]; r != nil && open != nil {
				open.of(s.name(r)).whole = true
			}
		}
	}
	return open, nil
}

func (s *stream) name(r *pglogrepl.RelationMessage) TableName {
	return TableName{s.source.Name, r.Namespace, r.RelationName}
}

// listen tells the reader how far it is, and whether somebody asks the database for it; it lets the others
// end its waiting.
func (s *stream) listen(interrupt func()) (at pglogrepl.LSN, ask bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	ask, s.asking, s.interrupt = s.asking, false, interrupt
	return s.reached, ask
}

func (s *stream) reach(at pglogrepl.LSN) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if at > s.reached {
		s.reached = at
		close(s.moved)
		s.moved = make(chan struct{})
	}
}

// end says why the stream has; the first reason counts.
func (s *stream) end(err error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.err == nil {
		if s.err = err; err == nil {
			s.err = errors.New("the stream of changes has ended")
		}
		close(s.moved)
		s.moved = make(chan struct{})
		s.wake()
	}
}

// wake tells who waits for changes, if nobody has yet.
func (s *stream) wake() {
	select {
	case s.woken <- struct{}{}:
	default:
	}
}

// ended is why the stream has ended, nil if it goes on.
func (s *stream) ended() error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.err
}

// until waits until everything before a place in the log has been read.
func (s *stream) until(ctx context.Context, at pglogrepl.LSN) error {
	for {
		s.mu.Lock()
		reached, moved, err := s.reached, s.moved, s.err
		if err == nil && reached < at {
			if s.asking = true; s.interrupt != nil {
				s.interrupt()
			}
		}
		s.mu.Unlock()
		if err != nil || reached >= at {
			return err
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-moved:
		}
	}
}

// close ends the stream with its connection; the database drops its slot then.
func (s *stream) close() {
	s.stop()
	<-s.done
}
