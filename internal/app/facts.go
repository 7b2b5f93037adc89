package app

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"sync"
	"sync/atomic"

	"gavrik/internal/core/facts"
	"gavrik/internal/core/fault"
	"gavrik/internal/store"
)

// Facts are what people have added to the records, as of a stamp. They never change.
type Facts struct {
	stamp string
	last  int64 // the newest change that is in them
	// List are those that are not removed, Removed the others.
	List, Removed []store.Fact
	values        map[int64]map[string]string // by fact and record
}

// keptFacts are those that were read last, and what keeps them fresh.
type keptFacts struct {
	sync.Mutex // one reads at a time
	now        atomic.Pointer[Facts]
}

// Of finds a fact of a record set; nil if there is none.
func (f *Facts) Of(set, key string) *store.Fact {
	for i := range f.List {
		if f.List[i].Set == set && f.List[i].Body.Key == key {
			return &f.List[i]
		}
	}
	return nil
}

// Any says whether a record set has a fact of a key, or had one.
func (f *Facts) Any(set, key string) bool {
	for _, one := range slices.Concat(f.List, f.Removed) {
		if one.Set == set && one.Body.Key == key {
			return true
		}
	}
	return false
}

// Value is what is filled in of a fact for a record; empty for nothing.
func (f *Facts) Value(fact int64, record string) string { return f.values[fact][record] }

// Values counts what is filled in of a fact.
func (f *Facts) Values(fact int64) int { return len(f.values[fact]) }

// filled are the facts as they are laid over records.
func (f *Facts) filled() []facts.Filled {
	var out []facts.Filled
	for _, one := range f.List {
		out = append(out, facts.Filled{Set: one.Set, Fact: one.Body, Values: f.values[one.ID], Version: f.stamp})
	}
	return out
}

// Facts are what people have added to the records, as it is now.
func (a *App) Facts(ctx context.Context) (*Facts, error) {
	_, at, err := a.agreed(ctx)
	if err != nil {
		return nil, err
	}
	return a.factsAt(ctx, at)
}

// factsAt are the facts as of some stamps. Only what has changed since is read; while the database
// is silent, what was known is believed as long as the agreement is.
func (a *App) factsAt(ctx context.Context, at store.Stamps) (*Facts, error) {
	stamp, last := at.Facts, at.LastFilling
	now := a.facts.now.Load()
	if now != nil && (now.stamp == stamp || at == store.Stamps{}) {
		return now, nil
	}
	k := &a.facts
	k.Lock()
	defer k.Unlock()
	if now = k.now.Load(); now != nil && (now.stamp == stamp || now.last > last) {
		return now, nil // somebody else has read it
	}
	var fresh *Facts
	err := fault.Caught(func() (err error) {
		// Whoever asked first may give up; others wait for it, too.
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), readingAgreed)
		defer cancel()
		fresh, err = a.readFacts(ctx, now, stamp)
		return err
	})
	if err != nil {
		return nil, err
	}
	k.now.Store(fresh)
	return fresh, nil
}

func (a *App) readFacts(ctx context.Context, before *Facts, stamp string) (*Facts, error) {
	fresh := &Facts{stamp: stamp}
	all, err := a.Store.Facts(ctx)
	if err != nil {
		return nil, err
	}
	for _, f := range all {
		if f.Removed {
			fresh.Removed = append(fresh.Removed, f)
		} else {
			fresh.List = append(fresh.List, f)
		}
	}
	if before == nil {
		values, at, err := a.Store.FactValues(ctx)
		if err != nil {
			return nil, err
		}
		fresh.values, fresh.last = valuesOf(values), at
		// A change behind the stamp is in the values already; the next stamp tells of it.
		return fresh, nil
	}
	changes, err := a.Store.FillingsSince(ctx, before.last)
	if err != nil {
		return nil, err
	}
	fresh.values, fresh.last = maps.Clone(before.values), before.last
	copied := map[int64]bool{}
	for _, c := range changes {
		if !copied[c.Fact] {
			copied[c.Fact] = true
			if fresh.values[c.Fact] = maps.Clone(fresh.values[c.Fact]); fresh.values[c.Fact] == nil {
				fresh.values[c.Fact] = map[string]string{}
			}
		}
		if c.After == nil {
			delete(fresh.values[c.Fact], c.Record)
		} else {
			fresh.values[c.Fact][c.Record] = *c.After
		}
		fresh.last = c.ID
	}
	return fresh, nil
}

func valuesOf(all []store.FactValue) map[int64]map[string]string {
	out := map[int64]map[string]string{}
	for _, v := range all {
		if out[v.Fact] == nil {
			out[v.Fact] = map[string]string{}
		}
		out[v.Fact][v.Record] = v.Value
	}
	return out
}

// version tells these facts from others, as far as records look different with them; empty if there
// are none.
func (f *Facts) version() string {
	if f == nil || len(f.List) == 0 {
		return ""
	}
	return fmt.Sprint(f.stamp, " ", f.last)
}
