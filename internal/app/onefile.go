package app

import (
	"context"
	"maps"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/description"
	"gavrik/internal/core/table"
	"gavrik/internal/records"
	"gavrik/internal/store"
)

// BroughtInAs is how a record set was brought in; nil if it was not.
func (d *Agreement) BroughtInAs(set string) *store.BroughtIn {
	i := slices.IndexFunc(d.BroughtIn, func(b store.BroughtIn) bool { return b.Set == set })
	if i < 0 {
		return nil
	}
	return &d.BroughtIn[i]
}

// RefreshFile loads the records of one file again, or takes them away if they are not there any
// more. All others stay as they are, and so does their moment.
func (w *Workspace) RefreshFile(ctx context.Context, table, set string) error {
	w.refreshing.Lock()
	defer w.refreshing.Unlock()
	fresh, err := w.load(ctx, table)
	if err != nil {
		return err
	}
	before := w.current.Load()
	x := before.describing
	x.Lock()
	read := maps.Clone(x.read)
	x.Unlock()
	d := loaded(merged(x.loaded, fresh, set), w.bounds, w.ran)
	d.describing.read = read
	if w.taken != nil {
		w.taken(ctx, before, d)
	}
	w.current.Store(d)
	return nil
}

// merged is a load with what one file became in place of its record set. Files stand behind
// everything else, in the order of their keys.
func merged(old description.Records, fresh *records.Loaded, set string) *records.Loaded {
	cat := *old.Catalog
	cat.Sets = slices.DeleteFunc(slices.Clone(cat.Sets), func(s *catalog.RecordSet) bool { return s.Key == set })
	snap := &table.Snapshot{AsOf: old.Snapshot.AsOf, Tables: maps.Clone(old.Snapshot.Tables)}
	delete(snap.Tables, set)
	for _, s := range fresh.Catalog.Sets {
		at := slices.IndexFunc(cat.Sets, func(o *catalog.RecordSet) bool { return o.File && o.Key > s.Key })
		if at < 0 {
			at = len(cat.Sets)
		}
		cat.Sets = slices.Insert(cat.Sets, at, s)
		snap.Tables[s.Key] = fresh.Snapshot.Tables[s.Key]
	}
	cat.Notices = slices.Clone(cat.Notices)
	for _, notice := range fresh.Catalog.Notices {
		if !slices.Contains(cat.Notices, notice) {
			cat.Notices = append(cat.Notices, notice)
		}
	}
	return &records.Loaded{Catalog: &cat, Snapshot: snap}
}
