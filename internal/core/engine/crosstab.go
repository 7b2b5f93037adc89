// A crosstab: groups across, and the figures of every cell.

package engine

import (
	"fmt"
	"slices"

	"gavrik/internal/core/engine/aggregation"
	"gavrik/internal/core/engine/grouping"
	"gavrik/internal/core/engine/windows"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// crosstab is the groups across and the figures of every cell.
type crosstab struct {
	*builder
	across *grouping.Tree
	// mine is the view's own side, other that of a comparison, or nil.
	mine, other *crossSide
	// cameDown and cameAcross say where the groups down and across, in the order
	// shown, came from.
	cameDown, cameAcross []int32
	baseDown, baseAcross []int
}

// crossSide is the figures of one side of a comparison.
type crossSide struct {
	// figures are those of the columns: of all records of each group across, by the places they
	// came from.
	figures []*aggregation.Aggregates
	// pairs are those of the cells, by level down and across.
	pairs [][]*aggregation.Pairing
}

func (b *builder) crosstab(g *grouping.Grouping) (*crosstab, error) {
	own, all := g.Records().N, g.All().N
	x := &crosstab{builder: b, across: g.Tree, baseDown: b.g.Tree.Base, baseAcross: g.Tree.Base}
	columns := 0
	for _, c := range b.plan.Columns {
		if c.Measure >= 0 {
			columns += partsOf(b.plan, c)
		}
	}
	if n := len(g.Tree.Nodes) * columns; n > b.opts.MaxColumns {
		return nil, &result.LimitError{
			Step: fmt.Sprintf(
				"%s across makes %d columns; at most %d can be shown", b.plan.Across[0].Label(), n, b.opts.MaxColumns,
			),
			Mend: "choose something coarser across, keep only the top groups, or put it down the side",
		}
	}
	s := g.Side(0, own)
	var err error
	if x.mine, err = x.side(g, s, 0, own); err != nil {
		return nil, err
	}
	if b.plan.Compare != nil {
		if x.other, err = x.side(g, g.Side(own, all), own, all); err != nil {
			return nil, err
		}
	}
	x.cameAcross = b.arrange(g.Tree, s, x.mine.figures, b.plan.Across)
	b.res.Across = g.Tree
	g.Tree.ForgetRecords()
	return x, nil
}

// partsOf is how many columns a total makes: in a comparison, the other side and the changes, too.
func partsOf(p *plan.Plan, c plan.Column) int {
	switch {
	case p.Compare == nil:
		return 1
	case p.Measures[c.Measure].Result().Type.Numeric():
		return 4
	}
	return 2
}

// side works out the figures of the records at the positions from lo on, hi left out.
func (x *crosstab) side(g *grouping.Grouping, s *grouping.Side, lo, hi int) (*crossSide, error) {
	out := &crossSide{}
	var err error
	if out.figures, err = aggregation.New(x.job, x.fields, g.Tree, s).Totals(); err != nil {
		return nil, err
	}
	for down := 1; down <= len(x.plan.Groups); down++ {
		var line []*aggregation.Pairing
		first := aggregation.LevelPartition(x.g.Tree, x.g.Leaf[lo:hi], down)
		for across := 1; across <= len(x.plan.Across); across++ {
			p, err := aggregation.Pair(
				x.job, x.fields, s.Rows, first, aggregation.LevelPartition(g.Tree, g.Leaf[lo:hi], across),
			)
			if err != nil {
				return nil, err
			}
			line = append(line, p)
		}
		out.pairs = append(out.pairs, line)
	}
	return out, nil
}

// whole is a side's figures of the groups down, of all records across.
func (x *crosstab) whole(s *crossSide) []*aggregation.Aggregates {
	if s == x.other {
		return x.others
	}
	return x.figures
}

// column reads a side's figures of a measure for one group across and every group down.
func (x *crosstab) column(s *crossSide, measure int, across int32) *aggregation.Aggregates {
	if across == 0 {
		return x.whole(s)[measure]
	}
	came := int(x.cameAcross[across])
	level := int(x.across.Nodes[across].Level)
	whole := s.figures[measure]
	return aggregation.Gathered(whole, len(x.res.Tree.Nodes), func(i int) (*aggregation.Aggregates, int32) {
		down := int(x.res.Tree.Nodes[i].Level)
		if down == 0 {
			return whole, int32(came)
		}
		p := s.pairs[down-1][level-1]
		return p.Figures[measure], p.At(int(x.cameDown[i])-x.baseDown[down], came-x.baseAcross[level])
	})
}

// shown is column, or what is shown in place of a total.
func (x *crosstab) shown(s *crossSide, measure int, across int32) *aggregation.Aggregates {
	m := x.plan.Measures[measure]
	if m.Show == "" {
		return x.column(s, measure, across)
	}
	return aggregation.Shown(m, x.res.Tree, x.column(s, m.Of, across), x.whole(s)[m.Of])
}

// heads makes the columns: for every group across, behind its parts, those of each
// total; then those of all records.
func (x *crosstab) heads() error {
	// Every column has a figure for each group down, and so have its records.
	cells := len(x.across.Nodes) * len(x.res.Tree.Nodes)
	for _, c := range x.plan.Columns {
		if c.Measure >= 0 {
			cells += len(x.across.Nodes) * len(x.res.Tree.Nodes) * partsOf(x.plan, c)
		}
	}
	if err := x.job.Need(12*int64(cells), "crossing the groups"); err != nil {
		return err
	}
	if len(x.across.Nodes) == 1 {
		x.across.Nodes[0].Next = 1
	}
	x.headsOf(0, nil)
	return nil
}

// headsOf makes the columns of a group across and of its parts.
func (x *crosstab) headsOf(n int32, keys []result.Key) {
	for c := n + 1; c < x.across.Nodes[n].Next; c = x.across.Nodes[c].Next {
		x.headsOf(c, append(slices.Clone(keys), windows.KeyOf(x.across, x.plan.Across, c)))
	}
	counts := x.column(x.mine, x.recordsMeasure(), n)
	for i, c := range x.plan.Columns {
		if c.Measure < 0 {
			continue
		}
		h := result.Head{Column: i, Across: keys, AcrossPath: x.across.PathOf(n)}
		mine := x.shown(x.mine, c.Measure, n)
		x.head(h, mine)
		x.res.Counts = append(x.res.Counts, counts)
		if x.other == nil {
			continue
		}
		x.compared(h, mine, x.shown(x.other, c.Measure, n))
		for len(x.res.Counts) < len(x.res.Heads) {
			of := counts
			if x.res.Heads[len(x.res.Counts)].Part == result.Other {
				of = x.column(x.other, x.recordsMeasure(), n)
			}
			x.res.Counts = append(x.res.Counts, of)
		}
	}
}

// recordsMeasure is the measure that counts the records of every cell: the plan of a crosstab
// always has it.
func (x *crosstab) recordsMeasure() int {
	return slices.IndexFunc(x.plan.Measures, func(m plan.Measure) bool {
		return m.Fn == view.Records && m.Show == ""
	})
}
