package engine

import (
	"fmt"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// group divides records among the groups of some levels. The positions from others on
// are the other side of a comparison.
func (r *run) group(groups []plan.Group, rs rows, others int) (*grouping, error) {
	if err := r.need(4*int64(rs.n), "dealing the records to their groups"); err != nil {
		return nil, err
	}
	g := &grouping{run: r, rows: rs, others: others, leaf: make([]uint32, rs.n), counts: []int32{int32(rs.n)}, tree: &tree{nodes: []node{{parent: -1}}, base: []int{0}}}
	var ahead *levelKeys
	for i := 0; i < len(groups); {
		keys := ahead
		ahead = nil
		if keys == nil {
			var err error
			if keys, err = g.levelKeys(groups[i]); err != nil {
				return nil, err
			}
		}
		run, space := []*levelKeys{keys}, uint64(g.parents())*uint64(keys.card)
		dense := r.e.denseSpace
		if !g.fitsDense(groups[i], space) {
			if err := g.partitionSparse(keys, groups[i]); err != nil {
				return nil, err
			}
		} else {
			// Levels of few values are filled at once, in one pass over the records.
			for groups[i+len(run)-1].Top == 0 && i+len(run) < len(groups) {
				next, err := g.levelKeys(groups[i+len(run)])
				if err != nil {
					return nil, err
				}
				if space*uint64(next.card) > dense {
					ahead = next
					break
				}
				run, space = append(run, next), space*uint64(next.card)
			}
			if err := g.partitionDense(run, groups[i:i+len(run)], int(space)); err != nil {
				return nil, err
			}
		}
		i += len(run)
		if top := groups[i-1]; top.Top > 0 {
			if err := g.keepTop(top); err != nil {
				return nil, err
			}
		}
	}
	return g, nil
}

// emptySpace is up to how many combinations groups without records are looked for.
const emptySpace = 1 << 24

// fitsDense says whether a table of every combination beats sorting those that
// occur: up to a size, or a few for each record.
func (g *grouping) fitsDense(level plan.Group, space uint64) bool {
	dense := g.e.denseSpace
	return space <= dense || dense > 0 && space <= 4*uint64(g.rows.n) || level.Empty && space <= emptySpace
}

// grouping is the state of dealing records to groups, level by level.
type grouping struct {
	*run
	rows   rows
	others int
	tree   *tree
	leaf   []uint32
	counts []int32 // the records of each innermost group
}

// parents counts the innermost groups so far.
func (g *grouping) parents() int { return levelSize(g.tree, len(g.tree.levels)) }

func (g *grouping) levelKeys(level plan.Group) (*levelKeys, error) {
	col, err := g.column(level.Ref)
	if err != nil {
		return nil, err
	}
	if err := g.need(4*int64(g.rows.n), "grouping by "+catalog.LowerFirst(level.Label())); err != nil {
		return nil, err
	}
	u := unitSpan{group: level, unit: level.Unit, others: g.others}
	if c := g.plan.Compare; c != nil && c.Path == level.Ref.Path && !level.Unit.Cyclic() && g.others < g.rows.n {
		u.shift = &c.Shift
		if level.Unit == "" && level.Ref.Field.Type == catalog.Date {
			u.unit = calendar.ByDay
		}
	}
	if u.unit != "" {
		return g.numberUnits(col, g.rows, u)
	}
	if c, ok := col.(*table.Numbers); ok && level.Empty && level.Ref.Field.Type == catalog.YesNo {
		return g.numberYesNo(c, g.rows)
	}
	k, err := g.numberValues(inOrder(col), g.rows)
	if err == nil && level.Empty {
		k.listable, err = g.values(level.Ref, k)
	}
	return k, err
}

// values says which values of a field exist at all: in the linked record set, if
// the field is of one, else in any record of the view's; every band of a bucket.
func (g *grouping) values(ref catalog.Ref, k *levelKeys) (func(key uint32) bool, error) {
	if d := g.plan.Derived[ref.Path]; d != nil && d.Bucket != nil {
		return func(key uint32) bool {
			return k.dict.Value(key) != d.Bucket.Rest && k.dict.Value(key) != d.Bucket.Blank
		}, nil
	}
	col, err := g.column(ref)
	if err == nil && len(ref.Links) > 0 {
		col, err = g.inOwnSet(ref)
	}
	if err != nil {
		return nil, err
	}
	texts, ok := inOrder(col).(*table.Texts)
	if !ok {
		return nil, nil // yes and no
	}
	there := make([]bool, k.card)
	for _, code := range texts.Codes {
		there[code] = code != 0
	}
	return func(key uint32) bool { return there[key] }, nil
}

// tooMany stops a run whose groups pass the limit.
func (g *grouping) tooMany(n int, level plan.Group) error {
	if n <= g.e.opts.MaxGroups {
		return nil
	}
	return &result.LimitError{
		Step: fmt.Sprintf("grouping by %s makes more than %d groups", level.Label(), g.e.opts.MaxGroups),
		Mend: "group by something coarser, or filter first",
	}
}

// side makes a side of the positions from lo on, hi left out.
func (g *grouping) side(lo, hi int) *side {
	s := &side{rows: g.rows.part(lo, hi), leaf: g.leaf[lo:hi], counts: g.counts}
	if hi-lo < g.rows.n {
		s.counts = make([]int32, g.parents())
		for _, l := range s.leaf {
			s.counts[l]++
		}
	}
	s.place(g.tree)
	return s
}
