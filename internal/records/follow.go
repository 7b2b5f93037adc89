package records

import (
	"cmp"
	"context"
	"crypto/rand"
	"slices"
	"sync"
	"time"

	"gavrik/internal/records/incoming"
)

// Following keeps a load up to date: it knows which tables of the sources have changed, and reads what has.
// Where a database offers its changes as they are committed, they are followed; elsewhere its statistics tell
// which tables have changed.
type Following struct {
	from    []Source
	options FollowOptions
	woken   chan struct{}

	mu      sync.Mutex // one load at a time; protects following fields
	watches []*watch
	last    *Loaded

	telling sync.Mutex // protects following fields
	states  []State
	checked time.Time // when nothing was found to have changed since the last load

	// run tells the columns of this process from those of others, filedLoad is the load that lies in the
	// folder of kept records, filedTables are files that were written there. One writes at a time.
	run         string
	identify    func(ctx context.Context, w *watch) (string, error)
	filedLoad   *Loaded
	filedTables map[string]filedTable
}

// FollowOptions say how changes are followed.
type FollowOptions struct {
	// Publication is that of the installation, Slot what a server's connection is called by.
	Publication, Slot string
	// Patience is how long a database is waited for that says nothing, and a stream that lags; 20 seconds, if
	// zero.
	Patience time.Duration
	// Retry is after how long a stream that could not be had is tried again; 30 seconds, if zero.
	Retry time.Duration
	// Log, if set, is told how a source is followed, and when that changes.
	Log func(source, how string)
}

// Follow readies following; nothing is read yet.
func Follow(from []Source, o FollowOptions) *Following {
	f := &Following{
		from: from, options: o, woken: make(chan struct{}, 1),
		run: rand.Text(), filedTables: map[string]filedTable{}, identify: identity,
	}
	f.options.Patience = cmp.Or(f.options.Patience, 20*time.Second)
	f.options.Retry = cmp.Or(f.options.Retry, 30*time.Second)
	for i, one := range from {
		f.watches = append(f.watches, &watch{
			source: one, index: i, patience: f.options.Patience, counters: counters{source: one},
		})
		f.states = append(f.states, State{Source: one.Name, Files: len(one.Schemas) == 0})
	}
	return f
}

// State is how a source is followed.
type State struct {
	Source string
	// Files says that nothing but files that people brought in lies there.
	Files bool
	// How says it in words, since when.
	How   string
	Since time.Time
	// Streamed says that changes come as they are committed. Waiting counts the transactions that the next
	// load will take, and Behind says for how long the first of them has waited.
	Streamed bool
	Waiting  int
	Behind   time.Duration

	stream *stream
}

// UpToDate is a moment since the last load until which nothing has changed; the zero time if none is known.
// Statistics may tell late, and a stream takes a moment.
func (f *Following) UpToDate() time.Time {
	f.telling.Lock()
	defer f.telling.Unlock()
	if f.checked.IsZero() {
		return time.Time{}
	}
	late := time.Second
	for _, one := range f.states {
		if !one.Files && !one.Streamed {
			late = statisticsLate
		}
	}
	return f.checked.Add(-late)
}

// States say how the sources are followed. They do not wait for a load that is under way.
func (f *Following) States() []State {
	f.telling.Lock()
	out := slices.Clone(f.states)
	f.telling.Unlock()
	for i := range out {
		if s := out[i].stream; s != nil {
			out[i].Waiting, out[i].Behind = s.waiting()
		}
	}
	return out
}

// Asked says what a load is asked for beyond what has changed since the one before.
type Asked struct {
	// Anew reads everything, whatever is known of it.
	Anew bool
	// File is the table of a file that was brought in, and is read in any case.
	File string
}

// Load reads all records at first, and later what has changed since, as of one moment of each source.
func (f *Following) Load(ctx context.Context, set Settings, asked Asked) (*Loaded, error) {
	f.mu.Lock()
	defer f.mu.Unlock()
	for _, w := range f.watches {
		if err := f.prepare(ctx, w); err != nil {
			return nil, w.source.blamed(err)
		}
	}
	before := f.last
	if asked.Anew {
		before = nil
	}
	l, err := Again(ctx, f.from, set, before, func(ctx context.Context, i int, m *Moment) (Changes, error) {
		w := f.watches[i]
		c, err := w.changes(ctx, m)
		if asked.File != "" && w.source.Files {
			c.Tables[TableName{w.source.Name, incoming.FilesSchema, asked.File}] = TableChanges{Whole: true}
		}
		return c, err
	})
	if err != nil {
		return nil, err
	}
	for _, w := range f.watches {
		w.taken()
	}
	f.telling.Lock()
	f.checked = time.Time{}
	f.telling.Unlock()
	f.last = l
	return l, nil
}

func (f *Following) say(w *watch, how string) {
	f.telling.Lock()
	s := &f.states[w.index]
	s.How, s.Since, s.Streamed, s.stream = how, time.Now(), w.stream != nil, w.stream
	f.telling.Unlock()
	if f.options.Log != nil {
		f.options.Log(w.source.Name, how)
	}
}

// quietly is how long the stream is waited for until the log is made to move: on its own it may rest just
// before the moment of a load.
const quietly = 300 * time.Millisecond

// looking is how often it is looked whether anything has changed that no stream tells of.
const looking = time.Second

// Wait waits until records may have changed since the last load, or views may be read again.
func (f *Following) Wait(ctx context.Context) error {
	if f.justRestored() {
		return nil
	}
	tick := time.NewTicker(looking)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-f.woken:
			return nil
		case <-tick.C:
			moved, err := f.moved(ctx)
			if moved || err != nil {
				return err
			}
		}
	}
}

// check notes when nothing was found to have changed, where that can be told of every source.
func (f *Following) check(at time.Time) {
	for _, w := range f.watches {
		if w.stream == nil && !w.counts {
			return
		}
		if w.stream != nil {
			if waiting, _ := w.stream.waiting(); waiting > 0 || w.stream.ended() != nil {
				return
			}
		}
	}
	f.telling.Lock()
	defer f.telling.Unlock()
	f.checked = at
}

// justRestored says that the records are those that were kept.
func (f *Following) justRestored() bool {
	f.mu.Lock()
	defer f.mu.Unlock()
	return slices.ContainsFunc(f.watches, func(w *watch) bool { return w.restored })
}

// moved says whether some table that no stream tells of has changed.
func (f *Following) moved(ctx context.Context) (bool, error) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.last == nil {
		return true, nil
	}
	began := time.Now()
	ctx, cancel := context.WithTimeout(ctx, f.options.Patience) // a network may stall
	defer cancel()
	for _, w := range f.watches {
		if w.stays {
			continue
		}
		if f.tries(w) {
			return true, nil
		}
		moved, err := w.counters.moved(ctx)
		if err != nil {
			return false, w.source.blamed(err)
		}
		if !moved && !f.last.overdue() {
			continue
		}
		if err := w.counters.read(ctx); err != nil {
			return false, w.source.blamed(err)
		}
		another := f.last.overdue() || w.counters.shape != w.counters.seenShape
		if another || slices.ContainsFunc(w.counters.changed(), func(name TableName) bool {
			told := w.stream != nil && w.stream.keys[name] != nil && time.Now().After(w.beside)
			return f.last.tables[name] != nil && !told
		}) {
			return true, nil
		}
	}
	f.check(began)
	return false, nil
}

// Close ends following.
func (f *Following) Close(ctx context.Context) {
	f.mu.Lock()
	defer f.mu.Unlock()
	for _, w := range f.watches {
		if w.stream != nil {
			w.stream.close()
			w.stream = nil
		}
		w.counters.close(ctx)
	}
}
