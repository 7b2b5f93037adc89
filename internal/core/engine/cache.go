package engine

import (
	"container/list"
	"sync"
)

// cache keeps what is costly to work out and depends on the snapshot only:
// selections of single conditions and columns gathered through links. It drops
// what was used longest ago. Two runs that miss at once both work the value out;
// they get the same.
type cache struct {
	limit int64

	mu    sync.Mutex // protects following fields
	bytes int64
	items map[string]*list.Element
	used  *list.List // most recent first
}

type cacheItem struct {
	key   string
	value any
	bytes int64
}

func newCache(limit int64) *cache {
	return &cache{limit: limit, items: map[string]*list.Element{}, used: list.New()}
}

// cached returns the value of a key, making it if it is not there. size is the
// bytes the value holds.
func cached[T any](c *cache, key string, make func() (T, int64, error)) (T, error) {
	c.mu.Lock()
	if el, ok := c.items[key]; ok {
		c.used.MoveToFront(el)
		c.mu.Unlock()
		return el.Value.(*cacheItem).value.(T), nil
	}
	c.mu.Unlock()
	value, bytes, err := make()
	if err != nil || bytes > c.limit/4 {
		return value, err
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if _, ok := c.items[key]; !ok {
		c.items[key] = c.used.PushFront(&cacheItem{key, value, bytes})
		c.bytes += bytes
	}
	for c.bytes > c.limit {
		last := c.used.Back()
		item := c.used.Remove(last).(*cacheItem)
		delete(c.items, item.key)
		c.bytes -= item.bytes
	}
	return value, nil
}
