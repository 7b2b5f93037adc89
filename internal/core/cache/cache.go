// Package cache keeps values that are costly to make, as many bytes of them as it may.
//
// What was used longest ago is dropped first. Sizes decide, never a count: a thousand
// small answers may stay where one large one would not. A value that several ask for
// at once is made by the first of them, and the others wait for it.
package cache

import (
	"container/list"
	"context"
	"strings"
	"sync"

	"gavrik/internal/core/turn"
)

// Cache keeps values by their keys. Any goroutine may use it.
type Cache struct {
	limit int64

	mu     sync.Mutex // protects following fields
	bytes  int64
	items  map[string]*list.Element
	used   *list.List // of *item, the most recent first
	making map[string]*call
}

type item struct {
	key   string
	value any
	bytes int64
}

// call is a value in the making.
type call struct {
	done  chan struct{} // closed when the others may look
	value any
	ok    bool
}

// New returns a cache of at most so many bytes.
func New(limit int64) *Cache {
	return &Cache{limit: limit, items: map[string]*list.Element{}, used: list.New(), making: map[string]*call{}}
}

// Get returns the value of a key, making it if it is not there; bytes is what it holds.
// A value of more than a quarter of the limit is handed out and not kept. Whoever waits
// for another to make it rests meanwhile, and tries by itself if that fails: the other
// may have been cancelled.
func Get[T any](
	ctx context.Context, c *Cache, key string, make func() (value T, bytes int64, err error),
) (T, error) {
	for {
		value, mine, others := c.look(key)
		switch {
		case mine != nil:
			return made(c, key, mine, make)
		case others == nil:
			return value.(T), nil
		}
		waiting := turn.Of(ctx)
		waiting.Rest()
		select {
		case <-others.done:
		case <-ctx.Done():
		}
		if err := waiting.Wait(ctx); err != nil {
			var none T
			return none, err
		}
		if others.ok {
			return others.value.(T), nil
		}
	}
}

// look finds a value, or the call of somebody who makes it; if there is neither, it
// opens a call for the caller to make it.
func (c *Cache) look(key string) (value any, mine, others *call) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if el, ok := c.items[key]; ok {
		c.used.MoveToFront(el)
		return el.Value.(*item).value, nil, nil
	}
	if others = c.making[key]; others == nil {
		mine = &call{done: make(chan struct{})}
		c.making[key] = mine
	}
	return nil, mine, others
}

func made[T any](c *Cache, key string, mine *call, make func() (T, int64, error)) (value T, err error) {
	var bytes int64
	defer func() { c.settle(key, mine, value, bytes) }() // after a panic, too: mine.ok is not set then
	value, bytes, err = make()
	mine.ok = err == nil
	return value, err
}

// settle keeps what was made, and lets the others look.
func (c *Cache) settle(key string, mine *call, value any, bytes int64) {
	c.mu.Lock()
	defer c.mu.Unlock()
	delete(c.making, key)
	mine.value = value
	close(mine.done)
	if !mine.ok || bytes > c.limit/4 {
		return
	}
	c.keep(&item{key, value, bytes})
}

// Find returns a value that is there.
func Find[T any](c *Cache, key string) (value T, ok bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	el, ok := c.items[key]
	if !ok {
		return value, false
	}
	c.used.MoveToFront(el)
	return el.Value.(*item).value.(T), true
}

// Recent returns up to n values, those used last first.
func Recent[T any](c *Cache, n int) []T {
	c.mu.Lock()
	defer c.mu.Unlock()
	out := make([]T, 0, min(n, c.used.Len()))
	for el := c.used.Front(); el != nil && len(out) < n; el = el.Next() {
		out = append(out, el.Value.(*item).value.(T))
	}
	return out
}

// Carry moves what is kept under keys of a prefix from one cache to another, as far as it still holds.
func Carry(from, to *Cache, prefix string, holds func(value any) bool) {
	Each(from, func(key string, value any, bytes int64) {
		if strings.HasPrefix(key, prefix) && holds(value) {
			to.put(&item{key, value, bytes})
		}
	})
}

// Each calls do with all that is kept, that used longest ago first.
func Each(c *Cache, do func(key string, value any, bytes int64)) {
	c.mu.Lock()
	all := make([]*item, 0, c.used.Len())
	for el := c.used.Back(); el != nil; el = el.Prev() {
		all = append(all, el.Value.(*item))
	}
	c.mu.Unlock()
	for _, it := range all {
		do(it.key, it.value, it.bytes)
	}
}

// Put keeps a value under a key, in place of that which was there.
func Put(c *Cache, key string, value any, bytes int64) { c.put(&item{key, value, bytes}) }

func (c *Cache) put(it *item) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if it.bytes <= c.limit/4 {
		c.keep(it)
	}
}

// keep puts a value in front, in place of that of its key, and drops those used longest ago that there is no
// room for.
func (c *Cache) keep(it *item) {
	if el, ok := c.items[it.key]; ok {
		c.drop(el)
	}
	c.items[it.key] = c.used.PushFront(it)
	c.bytes += it.bytes
	for c.bytes > c.limit {
		c.drop(c.used.Back())
	}
}

func (c *Cache) drop(el *list.Element) {
	it := c.used.Remove(el).(*item)
	delete(c.items, it.key)
	c.bytes -= it.bytes
}

// Drop gives up the value of a key, if there is one.
func Drop(c *Cache, key string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if el := c.items[key]; el != nil {
		c.drop(el)
	}
}

// Clear drops all values.
func (c *Cache) Clear() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.items, c.bytes = map[string]*list.Element{}, 0
	c.used.Init()
}

// Bytes is what the values hold.
func (c *Cache) Bytes() int64 {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.bytes
}
