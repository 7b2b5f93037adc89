// Levels of groups, from the outermost in, each by a table or by sorting.

package grouping

import (
	"fmt"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/engine/numbering"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// Grouper divides records among groups for one job.
type Grouper struct {
	Job    *work.Job
	Fields *fields.Fields
	// MaxGroups is how many groups it makes before it ends with a LimitError.
	MaxGroups int
	// DenseSpace is the least number of possible pairs of a group and a value for which a
	// table is made; none is with zero.
	DenseSpace uint64
	// Rank works a measure out for the groups so far, which a level that keeps the first ones
	// is ordered by.
	Rank func(t *Tree, s *Side, measure int) (Ranking, error)
}

// Group divides records among the groups of some levels. The positions from others on
// are the other side of a comparison.
func (r Grouper) Group(groups []plan.Group, rs kernel.Rows, others int) (*Grouping, error) {
	if err := r.Job.Need(4*int64(rs.N), "dividing the records among their groups"); err != nil {
		return nil, err
	}
	g := &Grouping{
		Grouper: r, levels: groups, rows: rs, others: others, Leaf: make([]uint32, rs.N), counts: []int32{int32(rs.N)},
		Tree: &Tree{Nodes: []Node{{Parent: -1}}, Base: []int{0}},
	}
	var ahead *numbering.Keys
	for i := 0; i < len(groups); {
		keys := ahead
		ahead = nil
		if keys == nil {
			var err error
			if keys, err = g.levelKeys(groups[i]); err != nil {
				return nil, err
			}
		}
		run, space := []*numbering.Keys{keys}, uint64(g.parents())*uint64(keys.Card)
		dense := r.DenseSpace
		if !g.fitsDense(groups[i], space) {
			if err := g.partitionSparse(keys, groups[i]); err != nil {
				return nil, err
			}
		} else {
			// Levels of few values are filled at once, in one pass over the records.
			for !decides(groups[i+len(run)-1]) && i+len(run) < len(groups) {
				next, err := g.levelKeys(groups[i+len(run)])
				if err != nil {
					return nil, err
				}
				if space*uint64(next.Card) > dense {
					ahead = next
					break
				}
				run, space = append(run, next), space*uint64(next.Card)
			}
			if err := g.partitionDense(run, groups[i:i+len(run)], int(space)); err != nil {
				return nil, err
			}
		}
		i += len(run)
		last := groups[i-1]
		if last.Keep != nil {
			if err := g.keepByTotal(last); err != nil {
				return nil, err
			}
		}
		if last.Top > 0 {
			if err := g.keepTop(last); err != nil {
				return nil, err
			}
		}
	}
	return g, nil
}

// decides says whether a level decides which of its groups stay.
func decides(level plan.Group) bool { return level.Top > 0 || level.Keep != nil }

// emptySpace is up to how many combinations groups without records are looked for.
const emptySpace = 1 << 24

// fitsDense says whether a table of every combination beats sorting those that
// occur: up to a size, or a few for each record.
func (g *Grouping) fitsDense(level plan.Group, space uint64) bool {
	dense := g.DenseSpace
	return space <= dense || dense > 0 && space <= 4*uint64(g.rows.N) || level.Empty && space <= emptySpace
}

// Grouping is records divided among groups, level by level.
type Grouping struct {
	Grouper
	Tree *Tree
	// Leaf says for each record its innermost group, counted from the first of them.
	Leaf   []uint32
	levels []plan.Group
	rows   kernel.Rows
	others int
	counts []int32 // the records of each innermost group
	// LeftOut is what levels left out that keep groups by their total.
	LeftOut []LeftOut
}

// Records are those of the view's own side, after what was left out; All are those of both sides.
func (g *Grouping) Records() kernel.Rows { return g.rows.Part(0, g.others) }

// All are the records of both sides of a comparison.
func (g *Grouping) All() kernel.Rows { return g.rows }

// parents counts the innermost groups so far.
func (g *Grouping) parents() int { return g.Tree.LevelSize(len(g.Tree.Levels)) }

func (g *Grouping) levelKeys(level plan.Group) (*numbering.Keys, error) {
	col, err := g.Fields.Column(level.Ref)
	if err != nil {
		return nil, err
	}
	if err := g.Job.Need(4*int64(g.rows.N), "grouping by "+catalog.LowerFirst(level.Label())); err != nil {
		return nil, err
	}
	u := numbering.Span{Group: level, Unit: level.Unit, Others: g.others}
	if c := g.Fields.Plan.Compare; c != nil && c.Path == level.Ref.Path && !level.Unit.Cyclic() &&
		g.others < g.rows.N {
		u.Shift = &c.Shift
		if level.Unit == "" && level.Ref.Field.Type == catalog.Date {
			u.Unit = calendar.ByDay
		}
	}
	if u.Unit != "" {
		return numbering.Units(g.Job, g.Fields.Plan, col, g.rows, u)
	}
	if c, ok := col.(*table.Numbers); ok && level.Empty && level.Ref.Field.Type == catalog.YesNo {
		return numbering.YesNo(g.Job, c, g.rows)
	}
	k, err := numbering.Values(g.Job, numbering.InOrder(col), g.rows)
	if err == nil && level.Empty {
		k.Listable, err = g.values(level.Ref, k)
	}
	return k, err
}

// values says which values of a field exist at all: in the linked record set, if
// the field is of one, else in any record of the view's; every band of a bucket.
func (g *Grouping) values(ref catalog.Ref, k *numbering.Keys) (func(key uint32) bool, error) {
	if d := g.Fields.Plan.Derived[ref.Path]; d != nil && d.Bucket != nil {
		return func(key uint32) bool {
			return k.Dict.Value(key) != d.Bucket.Rest && k.Dict.Value(key) != d.Bucket.Blank
		}, nil
	}
	col, err := g.Fields.Column(ref)
	if err == nil && len(ref.Links) > 0 {
		col, err = g.Fields.InOwnSet(ref)
	}
	if err != nil {
		return nil, err
	}
	texts, ok := numbering.InOrder(col).(*table.Texts)
	if !ok {
		return nil, nil // yes and no
	}
	there := make([]bool, k.Card)
	for _, code := range texts.Codes {
		there[code] = code != 0
	}
	return func(key uint32) bool { return there[key] }, nil
}

// tooMany stops a run whose groups pass the limit.
func (g *Grouping) tooMany(n int, level plan.Group) error {
	if n <= g.MaxGroups {
		return nil
	}
	return &result.LimitError{
		Step: fmt.Sprintf("grouping by %s makes more than %d groups", level.Label(), g.MaxGroups),
		Mend: "group by something coarser, or filter first",
	}
}

// Side makes a side of the positions from lo on, hi left out.
func (g *Grouping) Side(lo, hi int) *Side {
	s := &Side{Rows: g.rows.Part(lo, hi), Leaf: g.Leaf[lo:hi], Counts: g.counts, Weights: g.Fields.Weights}
	if hi-lo < g.rows.N {
		s.Counts = make([]int32, g.parents())
		for _, l := range s.Leaf {
			s.Counts[l]++
		}
	}
	s.Place(g.Tree)
	return s
}
