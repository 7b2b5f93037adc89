// A crosstab: groups across, and the figures of every cell.

package engine

import (
	"fmt"
	"slices"

	"gavrik/internal/core/engine/aggregation"
	"gavrik/internal/core/engine/grouping"
	"gavrik/internal/core/engine/windows"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// crosstab is the groups across and the figures of every cell.
type crosstab struct {
	*builder
	across  *grouping.Tree
	figures []*aggregation.Aggregates // of the columns: all records of each group across
	pairs   [][]*aggregation.Pairing
	// cameDown and cameAcross say where the groups down and across, in the order
	// shown, came from.
	cameDown, cameAcross []int32
	baseDown, baseAcross []int
}

func (b *builder) crosstab(kept kernel.Rows) (*crosstab, error) {
	g, err := b.grouper().Group(b.plan.Across, kept, kept.N)
	if err != nil {
		return nil, err
	}
	x := &crosstab{builder: b, across: g.Tree, baseDown: b.g.Tree.Base, baseAcross: g.Tree.Base}
	columns := 0
	for _, c := range b.plan.Columns {
		if c.Measure >= 0 {
			columns++
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
	s := g.Side(0, kept.N)
	if x.figures, err = aggregation.New(b.job, b.fields, g.Tree, s).Totals(); err != nil {
		return nil, err
	}
	for down := 1; down <= len(b.plan.Groups); down++ {
		var line []*aggregation.Pairing
		first := aggregation.LevelPartition(b.g.Tree, b.g.Leaf, down)
		for across := 1; across <= len(b.plan.Across); across++ {
			p, err := aggregation.Pair(
				b.job, b.fields, kept, first, aggregation.LevelPartition(g.Tree, g.Leaf, across),
			)
			if err != nil {
				return nil, err
			}
			line = append(line, p)
		}
		x.pairs = append(x.pairs, line)
	}
	x.cameAcross = b.arrange(g.Tree, s, x.figures, b.plan.Across)
	b.res.Across = g.Tree
	g.Tree.ForgetRecords()
	return x, nil
}

// column reads the figures of a measure for one group across and every group down.
func (x *crosstab) column(measure int, across int32) *aggregation.Aggregates {
	if across == 0 {
		return x.builder.figures[measure]
	}
	came := int(x.cameAcross[across])
	level := int(x.across.Nodes[across].Level)
	whole := x.figures[measure] // not rearranged: by the places they came from
	return aggregation.Gathered(whole, len(x.res.Tree.Nodes), func(i int) (*aggregation.Aggregates, int32) {
		down := int(x.res.Tree.Nodes[i].Level)
		if down == 0 {
			return whole, int32(came)
		}
		p := x.pairs[down-1][level-1]
		return p.Figures[measure], p.At(int(x.cameDown[i])-x.baseDown[down], came-x.baseAcross[level])
	})
}

// heads makes the columns: for every group across, behind its parts, one of each
// total; then those of all records.
func (x *crosstab) heads() error {
	var add func(n int32, keys []result.Key)
	add = func(n int32, keys []result.Key) {
		for c := n + 1; c < x.across.Nodes[n].Next; c = x.across.Nodes[c].Next {
			add(c, append(slices.Clone(keys), windows.KeyOf(x.across, x.plan.Across, c)))
		}
		counts := x.column(x.recordsMeasure(), n)
		for i, c := range x.plan.Columns {
			if c.Measure < 0 {
				continue
			}
			m := x.plan.Measures[c.Measure]
			var f *aggregation.Aggregates
			if m.Show == "" {
				f = x.column(c.Measure, n)
			} else {
				f = aggregation.Shown(m, x.res.Tree, x.column(m.Of, n), x.builder.figures[m.Of])
			}
			x.head(result.Head{Column: i, Field: f.Field, Across: keys, AcrossPath: x.across.PathOf(n)}, f)
			x.res.Counts = append(x.res.Counts, counts)
		}
	}
	// Every column has a figure for each group down, and so have its records.
	cells := len(x.across.Nodes) * (len(x.plan.Columns) + 1) * len(x.res.Tree.Nodes)
	if err := x.job.Need(12*int64(cells), "crossing the groups"); err != nil {
		return err
	}
	if len(x.across.Nodes) == 1 {
		x.across.Nodes[0].Next = 1
	}
	add(0, nil)
	return nil
}

// recordsMeasure is the measure that counts the records of every cell: the plan of a crosstab
// always has it.
func (x *crosstab) recordsMeasure() int {
	return slices.IndexFunc(x.plan.Measures, func(m plan.Measure) bool {
		return m.Fn == view.Records && m.Show == ""
	})
}
