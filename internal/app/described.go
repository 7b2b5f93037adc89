package app

import (
	"context"
	"crypto/sha256"
	"fmt"
	"slices"
	"sync"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/description"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/table"
	"gavrik/internal/store"
)

// describing is a load and the last way in which it was described.
type describing struct {
	loaded description.Records

	sync.Mutex // one at a time
	stamp      string
	last       *Dataset
	read       description.Read
}

// describe takes over what people say about the records.
func (d *Agreement) describe(all []store.Described) error {
	d.Described, d.Description = all, store.Whole(all)
	if len(d.Description.Sets) == 0 {
		return nil
	}
	text, err := d.Description.File()
	d.descriptionStamp = fmt.Sprintf("%x", sha256.Sum256(text))
	return err
}

// DescribedSet is what people say about a record set; the zero one, if nobody has said anything.
func (d *Agreement) DescribedSet(key string) store.Described {
	i := slices.IndexFunc(d.Described, func(one store.Described) bool { return one.Set == key })
	if i < 0 {
		return store.Described{Set: key, Body: &description.Set{}}
	}
	return d.Described[i]
}

// describedBy is a load as an agreement describes it. It is made once for all who see it so.
// What was read as another type stays read when something else is said.
func (d *Dataset) describedBy(ctx context.Context, by *Agreement, cal calendar.Calendar) (*Dataset, error) {
	if by.descriptionStamp == "" {
		return d, nil
	}
	x := d.describing
	x.Lock()
	defer x.Unlock()
	if x.stamp == by.descriptionStamp {
		return x.last, nil
	}
	var made *description.Applied
	err := fault.Caught(func() (err error) {
		// Whoever asked first may give up; others wait for it, too.
		made, err = description.Apply(context.WithoutCancel(ctx), x.loaded, by.Description, cal, x.read)
		return err
	})
	if err != nil {
		return nil, err
	}
	made.Catalog.Notices = slices.Clone(made.Catalog.Notices)
	for _, p := range made.Problems {
		made.Catalog.Notices = append(made.Catalog.Notices, p.String())
	}
	h := newDataset("described "+by.descriptionStamp, made.Snapshot, made.Catalog, d.shared)
	h.describing, h.Problems = x, made.Problems
	x.stamp, x.last, x.read = by.descriptionStamp, h, made.Read
	return h, nil
}

// AsLoaded is the catalog as the databases describe it.
func (d *Dataset) AsLoaded() *catalog.Catalog { return d.describing.loaded.Catalog }

// Describes says what would be wrong with a description of one record set, beside what is wrong
// already; nil if nothing is.
func (s *Scope) Describes(ctx context.Context, set string, said *description.Set) ([]description.Problem, error) {
	tried := &description.Description{Sets: map[string]*description.Set{}}
	for key, other := range s.Agreed.Description.Sets {
		tried.Sets[key] = other
	}
	if tried.Sets[set] = said; said == nil {
		delete(tried.Sets, set)
	}
	x := s.describing
	x.Lock()
	read := x.read
	x.Unlock()
	made, err := description.Apply(ctx, x.loaded, tried, s.Calendar, read)
	if err != nil {
		return nil, err
	}
	x.Lock()
	x.read = made.Read // it is likely to be said
	x.Unlock()
	return slices.DeleteFunc(made.Problems, func(p description.Problem) bool { return slices.Contains(s.Problems, p) }), nil
}

// LoadedColumn is a column as the database has it, with its field; nil if there is none.
func (d *Dataset) LoadedColumn(set, field string) (table.Column, *catalog.Field) {
	of := d.describing.loaded.Catalog.Set(set)
	if of == nil || of.Field(field) == nil {
		return nil, nil
	}
	return d.describing.loaded.Snapshot.Tables[set].Column(field), of.Field(field)
}
