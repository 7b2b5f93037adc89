package engine

import (
	"cmp"
	"context"
	"slices"

	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/turn"
)

// places are the groups of a level, by the numbers of their values, in their order.
type places struct {
	tree   *tree
	groups []plan.Group
	level  plan.Group
	keys   []uint32
	// first is the first node of each number.
	first map[uint32]int32
}

// place is a node down and a node across of the ledger.
type place struct{ down, across int32 }

// grid is the level along the axis, and the one that makes the series, if any.
type grid struct {
	axis places
	by   *places
	// each calls do with every cell: the places of its numbers among the keys of axis and
	// by, and where it stands. There may be millions, and none of them is kept.
	each func(ctx context.Context, do func(axis, by int, at place)) error
}

// lookUp is after how many cells a chart looks up from its work.
const lookUp = 1 << 13

// grid chooses the levels. Of two, the one that runs along time makes the axis.
func (d *drawer) grid() (*grid, error) {
	down, across := d.Plan.Groups, d.Plan.Across
	var first, second *places
	var err error
	pick := func(t *tree, groups []plan.Group, level int32) *places {
		var p *places
		if err == nil {
			p, err = d.level(t, groups, level)
		}
		return p
	}
	var cells func(ctx context.Context, do func(a, b uint32, at place)) error
	switch {
	case len(down) > 0 && len(across) > 0:
		first, second = pick(d.tree, down, 1), pick(d.across, across, 1)
		cells = func(ctx context.Context, do func(a, b uint32, at place)) error {
			return eachNode(ctx, d.across, 1, func(j int32) error {
				return eachNode(ctx, d.tree, 1, func(i int32) error {
					do(d.tree.nodes[i].key, d.across.nodes[j].key, place{i, j})
					return nil
				})
			})
		}
	case len(down) > 1:
		first, second = pick(d.tree, down, 1), pick(d.tree, down, 2)
		cells = func(ctx context.Context, do func(a, b uint32, at place)) error {
			return eachNode(ctx, d.tree, 2, func(i int32) error {
				n := d.tree.nodes[i]
				do(d.tree.nodes[n.parent].key, n.key, place{i, 0})
				return nil
			})
		}
	case len(across) > 0:
		first = pick(d.across, across, 1)
		cells = func(ctx context.Context, do func(a, b uint32, at place)) error {
			return eachNode(ctx, d.across, 1, func(j int32) error { do(d.across.nodes[j].key, 0, place{0, j}); return nil })
		}
	default:
		first = pick(d.tree, down, 1)
		cells = func(ctx context.Context, do func(a, b uint32, at place)) error {
			return eachNode(ctx, d.tree, 1, func(i int32) error { do(d.tree.nodes[i].key, 0, place{i, 0}); return nil })
		}
	}
	if err != nil {
		return nil, err
	}
	turned := second != nil && temporal(second.level) && !temporal(first.level)
	if turned {
		first, second = second, first
	}
	g := &grid{axis: *first, by: second}
	axisAt, byAt := placesOf(first.keys), map[uint32]int{0: 0}
	if second != nil {
		byAt = placesOf(second.keys)
	}
	g.each = func(ctx context.Context, do func(axis, by int, at place)) error {
		return cells(ctx, func(a, b uint32, at place) {
			if turned {
				a, b = b, a
			}
			do(axisAt[a], byAt[b], at)
		})
	}
	return g, nil
}

// eachNode calls do for every node of a level, in the order shown.
func eachNode(ctx context.Context, t *tree, level int32, do func(i int32) error) error {
	mine := turn.Of(ctx)
	at := int32(0)
	for seen := 0; int(at) < len(t.nodes); seen++ {
		if seen%lookUp == 0 {
			if err := mine.Wait(ctx); err != nil {
				return kernel.Stopped(err)
			}
		}
		n := t.nodes[at]
		if n.level < level {
			at++
			continue
		}
		if err := do(at); err != nil {
			return err
		}
		at = n.next // its parts are of no level asked for
	}
	return nil
}

// level lists the groups of a level, equal ones of several parents once. They stand
// as in the ledger or, for time and where parents differ, in the order of the values.
func (d *drawer) level(t *tree, groups []plan.Group, level int32) (*places, error) {
	out := &places{tree: t, groups: groups, level: groups[level-1], first: map[uint32]int32{}}
	err := eachNode(d.ctx, t, level, func(i int32) error {
		key := t.nodes[i].key
		if _, known := out.first[key]; !known {
			out.first[key] = i
			out.keys = append(out.keys, key)
		}
		return nil
	})
	if level > 1 || temporal(out.level) {
		slices.SortFunc(out.keys, func(a, b uint32) int {
			return cmp.Compare(a-1, b-1) // the blank's number, 0, comes last
		})
	}
	return out, err
}

// name is what a number of a level is called.
func (d *drawer) name(p places, key uint32) string {
	node := p.tree.nodes[p.first[key]]
	if node.joined > 0 && node.level > 1 && p.level.Rest == "" {
		return "others" // as many as differ from parent to parent
	}
	return result.Named(d.pen.Group(p.level, groupKey(p.tree, p.groups, p.first[key])))
}
