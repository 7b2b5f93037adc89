package app

import (
	"reflect"
	"strings"
	"sync"

	"gavrik/internal/core/cache"
	"gavrik/internal/core/table"
)

// before is the load before another one. What was worked out over it holds as far as what it was worked out
// of is the same.
type before struct {
	*Dataset
	once sync.Once // protects own
	own  int64
}

// carry takes what still holds over to a dataset, for the same way to see the records. Answers that are other
// ones now are kept apart, for those who look at them.
func (b *before) carry(to *Dataset) {
	if b == nil {
		return
	}
	from := b.sees(to.name)
	if from == nil || !reflect.DeepEqual(from.Catalog.Sets, to.Catalog.Sets) {
		return
	}
	to.engine.Carry(b.selections)
	prefix := to.resultKey("")
	cache.Each(b.results, func(key string, value any, bytes int64) {
		a, ok := value.(*Answer)
		if !ok || !strings.HasPrefix(key, prefix) || a.Result == nil {
			return
		}
		if name, _, _ := strings.Cut(a.Name, "."); key != prefix+name {
			return // no answer of an engine: it is made again of one
		}
		if a.Asked && a.Set.Stays && to.policy.Clear() { // it is told of when, and holds for a while
			cache.Put(to.results, key, a, bytes)
			return
		}
		still, holds := to.engine.Still(a.Result)
		if !holds {
			cache.Put(to.earlier, to.resultKey(a.Name), a, bytes+b.bytes(to.engine.Snapshot()))
			return
		}
		now := *a
		now.Result, now.Summary, now.Set = still, still.Summarize(), to.Catalog.Set(a.Doc.Records)
		cache.Put(to.results, key, &now, bytes)
	})
}

// bytes are what the records of the load before hold of their own: they are kept with every answer.
func (b *before) bytes(now *table.Snapshot) int64 {
	b.once.Do(func() { b.own = table.OwnBytes(b.engine.Snapshot(), now) })
	return b.own
}

// sees is the load before as it is seen in the way of a name, or nil.
func (b *before) sees(name string) *Dataset {
	if b.name == name {
		return b.Dataset
	}
	b.describing.Lock()
	last := b.describing.last
	b.describing.Unlock()
	if last != nil && last.name == name {
		return last
	}
	d, _ := cache.Find[*Dataset](b.restricted, name)
	return d
}

// arrivals tell whoever waits that a load has come.
type arrivals struct {
	mu   sync.Mutex // protects next
	next chan struct{}
}

// tell wakes all who wait.
func (a *arrivals) tell() {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.next != nil {
		close(a.next)
		a.next = nil
	}
}

// End has nobody wait for loads any more.
func (w *Workspace) End() { w.ending.Do(func() { close(w.ended) }) }

// Ended is closed when nobody should wait for loads any more.
func (w *Workspace) Ended() <-chan struct{} { return w.ended }

// Arrival is closed when the next load has come.
func (w *Workspace) Arrival() <-chan struct{} {
	a := &w.arrivals
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.next == nil {
		a.next = make(chan struct{})
	}
	return a.next
}
