package engine

import (
	"context"
	"fmt"
	"strings"

	"gavrik/internal/core/cache"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

// column returns a field as a column of the record set, one value for each of
// its rows, gathered through the links on the way.
func (e *Engine) column(ctx context.Context, set string, ref catalog.Ref) (table.Column, error) {
	if len(ref.Links) == 0 {
		return e.stored(set, ref.Field.Key)
	}
	return cache.Get(ctx, e.cache, e.name+" column "+set+" "+ref.Path, func() (table.Column, int64, error) {
		rows, target, err := e.follow(ctx, set, ref.Links)
		if err != nil {
			return nil, 0, err
		}
		col, err := e.stored(target, ref.Field.Key)
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

func (e *Engine) stored(set, key string) (table.Column, error) {
	if t := e.snap.Tables[set]; t != nil {
		if c := t.Column(key); c != nil {
			return c, nil
		}
	}
	return nil, fmt.Errorf("engine: the snapshot holds no field %s.%s", set, key)
}

// follow returns, for each row of a set, the row that a chain of links leads to,
// or -1; and the set it lies in.
func (e *Engine) follow(ctx context.Context, set string, links []string) ([]int32, string, error) {
	t := e.snap.Tables[set]
	if t == nil || t.Link(links[0]) == nil {
		return nil, "", fmt.Errorf("engine: the snapshot holds no link %s.%s", set, links[0])
	}
	first := t.Link(links[0])
	if len(links) == 1 {
		return first.Rows, first.To, nil
	}
	type chain struct {
		rows []int32
		to   string
	}
	c, err := cache.Get(ctx, e.cache, e.name+" links "+set+" "+strings.Join(links, "."), func() (chain, int64, error) {
		rest, to, err := e.follow(ctx, first.To, links[1:])
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
