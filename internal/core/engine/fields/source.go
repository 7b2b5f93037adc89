// Package fields gives the fields that a plan speaks of as columns of its record set: stored ones,
// those gathered through links, and those worked out by formulas and buckets.
package fields

import (
	"context"
	"fmt"
	"strings"

	"gavrik/internal/core/cache"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// Source reads the fields of a snapshot, and keeps what it has gathered through links. Any
// goroutine may use it.
type Source struct {
	Snapshot *table.Snapshot
	Catalog  *catalog.Catalog
	// Cache keeps columns, and what rooms further on put into it.
	Cache *cache.Cache
	// Select says which records of fields' own set meet a condition; package selection does.
	// The caller must not change the bits.
	Select func(job *work.Job, of *Fields, n *plan.Node) (kernel.Bitmap, error)
	// Beside sets records beside others; package beside does.
	Beside func(job *work.Job, of *Fields, d *plan.Derived) (Derived, error)
	// Name tells the source's values in the cache from those of others.
	Name string
	// reads, if set, are told what is read.
	reads *Reads
}

// Column returns a stored field as a column of the record set, one value for each of
// its rows, gathered through the links on the way.
func (s *Source) Column(ctx context.Context, set string, ref catalog.Ref) (table.Column, error) {
	if len(ref.Links) == 0 {
		return s.Stored(set, ref.Field.Key)
	}
	return keep(ctx, s, "column "+set+" "+ref.Path, func(s *Source) (table.Column, int64, error) {
		rows, target, err := s.Follow(ctx, set, ref.Links)
		if err != nil {
			return nil, 0, err
		}
		col, err := s.Stored(target, ref.Field.Key)
		if err != nil {
			return nil, 0, err
		}
		out := col.Gather(rows)
		return out, ownBytes(out), nil
	})
}

// ownBytes is what a gathered column holds of its own: its texts are another's.
func ownBytes(c table.Column) int64 {
	if t, ok := c.(*table.Texts); ok {
		return 4 * int64(len(t.Codes))
	}
	return c.Bytes()
}

// Stored is a field of a record set's own, or tells its records apart by one.
func (s *Source) Stored(set, key string) (table.Column, error) {
	if field, ok := catalog.Named(key); ok {
		return s.each(set, field)
	}
	if t := s.Snapshot.Tables[set]; t != nil {
		if c := t.Column(key); c != nil {
			s.reads.note(place{set: set, field: key}, c.ID())
			return c, nil
		}
	}
	return nil, fmt.Errorf("fields: the snapshot holds no field %s.%s", set, key)
}

// Follow returns, for each row of a set, the row that a chain of links leads to,
// or -1; and the set it lies in.
func (s *Source) Follow(ctx context.Context, set string, links []string) ([]int32, string, error) {
	t := s.Snapshot.Tables[set]
	if t == nil || t.Link(links[0]) == nil {
		return nil, "", fmt.Errorf("fields: the snapshot holds no link %s.%s", set, links[0])
	}
	first := t.Link(links[0])
	s.reads.note(place{set: set, link: links[0]}, first.ID())
	if len(links) == 1 {
		return first.Rows, first.To, nil
	}
	type chain struct {
		rows []int32
		to   string
	}
	name := "links " + set + " " + strings.Join(links, ".")
	c, err := keep(ctx, s, name, func(s *Source) (chain, int64, error) {
		s.reads.note(place{set: set, link: links[0]}, first.ID())
		rest, to, err := s.Follow(ctx, first.To, links[1:])
		if err != nil {
			return chain{}, 0, err
		}
		rows := make([]int32, len(first.Rows))
		for i, r := range first.Rows {
			rows[i] = -1
			if r >= 0 {
				rows[i] = rest[r]
			}
		}
		return chain{rows, to}, 4 * int64(len(rows)), nil
	})
	return c.rows, c.to, err
}

// RowsOf is how many records a set has.
func (s *Source) RowsOf(set string) (n int, there bool) {
	t := s.Snapshot.Tables[set]
	if t == nil {
		return 0, false
	}
	s.reads.note(place{set: set}, uint64(t.Rows)+1)
	return t.Rows, true
}
