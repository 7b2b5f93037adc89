package fields

import (
	"context"
	"sync"

	"gavrik/internal/core/cache"
	"gavrik/internal/core/table"
)

// Reads are what something was worked out of: columns, links and numbers of records of a snapshot. It holds
// over every snapshot that has the same ones. Any goroutine may use it.
type Reads struct {
	mu  sync.Mutex // protects all
	all map[place]uint64
}

// place is where something was read in a snapshot: a field or a link of a record set, or with neither the
// number of its records. A set that is not there has no records, a field no identity.
type place struct{ set, field, link string }

func newReads() *Reads { return &Reads{all: map[place]uint64{}} }

func (r *Reads) note(at place, id uint64) {
	if r == nil {
		return
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	r.all[at] = id
}

// add notes what something else was worked out of.
func (r *Reads) add(of *Reads) {
	if r == nil || of == nil {
		return
	}
	of.mu.Lock()
	defer of.mu.Unlock()
	r.mu.Lock()
	defer r.mu.Unlock()
	for at, id := range of.all {
		r.all[at] = id
	}
}

// Hold says whether a snapshot has the same columns, links and numbers of records.
func (r *Reads) Hold(s *table.Snapshot) bool {
	if r == nil {
		return false
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	for at, id := range r.all {
		if at.in(s) != id {
			return false
		}
	}
	return true
}

// in identifies what a snapshot has there, in this process; 0 for nothing.
func (at place) in(s *table.Snapshot) uint64 { return at.of(s, content.ID) }

// content is a column or a link.
type content interface {
	ID() uint64
	Digest() uint64
}

// of tells by a number what a snapshot has there: that of the column or link, or how many records there are;
// 0 for nothing.
func (at place) of(s *table.Snapshot, tell func(content) uint64) uint64 {
	t := s.Tables[at.set]
	switch {
	case t == nil:
	case at.field != "":
		if c := t.Column(at.field); c != nil {
			return tell(c)
		}
	case at.link != "":
		if l := t.Link(at.link); l != nil {
			return tell(l)
		}
	default:
		return uint64(t.Rows) + 1
	}
	return 0
}

// Kept is a value in the cache, with what it was worked out of.
type Kept struct {
	value any
	reads *Reads
}

// Holds says whether a value of a cache holds over another snapshot.
func Holds(value any, s *table.Snapshot) bool {
	k, ok := value.(Kept)
	return ok && k.reads.Hold(s)
}

// Prefix begins the keys of all that the source keeps.
func (s *Source) Prefix() string { return s.Name + "\x00" }

// recording is the source as something is worked out of it that is kept: what it reads is noted.
func (s *Source) recording() *Source {
	out := *s
	out.reads = newReads()
	return &out
}

// keep returns what is worked out under a key, from the cache if it is there. make gets the source that it
// must read from.
func keep[T any](
	ctx context.Context, s *Source, key string, make func(s *Source) (value T, bytes int64, err error),
) (value T, err error) {
	k, err := cache.Get(ctx, s.Cache, s.Prefix()+key, func() (Kept, int64, error) {
		from := s.recording()
		value, bytes, err := make(from)
		return Kept{value, from.reads}, bytes, err
	})
	if err != nil {
		return value, err
	}
	s.reads.add(k.reads)
	return k.value.(T), nil
}

// Keep is what is worked out of fields under a key, from the cache if it is there. make gets the fields that
// it must read.
func Keep[T any](f *Fields, key string, make func(f *Fields) (value T, bytes int64, err error)) (T, error) {
	return keep(f.job.Ctx, f.Source, key, func(s *Source) (T, int64, error) {
		own := *f
		own.Source = s
		return make(&own)
	})
}

// Recorded are the same fields, and what is read of them from now on.
func (f *Fields) Recorded() (*Fields, *Reads) {
	own := *f
	own.Source = f.recording()
	own.RowsOf(f.Plan.Records)
	return &own, own.reads
}
