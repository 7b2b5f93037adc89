package records

import (
	"errors"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pglogrepl"
)

// transaction is what a committed one has changed.
type transaction struct {
	xid    uint32
	at     time.Time // when it was told
	tables map[TableName]*changedKeys
}

// changedKeys are those of one table's records; nil keys mean all of them.
type changedKeys struct {
	whole bool
	keys  map[string][]string
}

func (t *transaction) of(name TableName) *changedKeys {
	c := t.tables[name]
	if c == nil {
		c = &changedKeys{keys: map[string][]string{}}
		t.tables[name] = c
	}
	return c
}

// note keeps the key of a record that a transaction has changed.
func (s *stream) note(open *transaction, r *pglogrepl.RelationMessage, tuple *pglogrepl.TupleData) {
	if open == nil || r == nil || tuple == nil {
		return
	}
	name := s.name(r)
	columns, watched := s.keys[name]
	c := open.of(name)
	if !watched || c.whole {
		c.whole = true
		return
	}
	key := make([]string, len(columns))
	for i, column := range columns {
		at := slices.IndexFunc(r.Columns, func(c *pglogrepl.RelationMessageColumn) bool { return c.Name == column })
		if at < 0 || at >= len(tuple.Columns) || tuple.Columns[at].DataType != pglogrepl.TupleDataTypeText {
			c.whole = true // the key is another by now
			return
		}
		key[i] = string(tuple.Columns[at].Data)
	}
	c.keys[strings.Join(key, "\x00")] = key
	if len(c.keys) > mostKeys {
		c.whole, c.keys = true, nil
	}
}

// commit keeps a transaction for the next load.
func (s *stream) commit(t *transaction, end pglogrepl.LSN) {
	s.mu.Lock()
	if t != nil && len(t.tables) > 0 {
		t.at = time.Now()
		s.committed = append(s.committed, t)
		for _, c := range t.tables {
			s.held += len(c.keys)
		}
	}
	if s.held > mostHeld {
		for _, t := range s.committed {
			for _, c := range t.tables {
				c.whole, c.keys = true, nil
			}
		}
		s.held = 0
	}
	tooMany := len(s.committed) > mostCommitted
	s.mu.Unlock()
	s.reach(end)
	if tooMany {
		s.end(errors.New("more was committed than is remembered"))
		s.stop()
	}
	if t != nil && len(t.tables) > 0 {
		s.wake()
	}
}

// changes are those of the transactions that a moment sees.
func (s *stream) changes(m *Moment) map[TableName]TableChanges {
	s.mu.Lock()
	defer s.mu.Unlock()
	all := map[TableName]*changedKeys{}
	for _, t := range s.committed {
		if !m.sees(t.xid) {
			continue
		}
		for name, c := range t.tables {
			into := all[name]
			if into == nil {
				into = &changedKeys{keys: map[string][]string{}}
				all[name] = into
			}
			if into.whole = into.whole || c.whole; !into.whole {
				maps.Copy(into.keys, c.keys)
			}
		}
	}
	out := map[TableName]TableChanges{}
	for name, c := range all {
		out[name] = TableChanges{
			KeyColumns: s.keys[name], Keys: slices.Collect(maps.Values(c.keys)), Whole: c.whole,
		}
	}
	return out
}

// waiting is how many transactions wait for a load, and for how long the first has.
func (s *stream) waiting() (int, time.Duration) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.committed) == 0 {
		return 0, 0
	}
	return len(s.committed), time.Since(s.committed[0].at)
}

// taken forgets the transactions that a moment sees: a load has taken them.
func (s *stream) taken(m *Moment) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.committed = slices.DeleteFunc(s.committed, func(t *transaction) bool { return m.sees(t.xid) })
	s.held = 0
	for _, t := range s.committed {
		for _, c := range t.tables {
			s.held += len(c.keys)
		}
	}
}
