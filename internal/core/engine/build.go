// The course of a run: from selected records to a result, through the rooms.

package engine

import (
	"maps"
	"slices"

	"gavrik/internal/core/engine/aggregation"
	"gavrik/internal/core/engine/grouping"
	"gavrik/internal/core/engine/ordering"
	"gavrik/internal/core/engine/selection"
	"gavrik/internal/core/engine/windows"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// builder makes a result of the kept records.
type builder struct {
	*run
	plan *plan.Plan
	kept kernel.Bitmap
	res  *windows.Result
	g    *grouping.Grouping
	// figures are those of the plan's measures for the groups down; others those of
	// a comparison's other side.
	figures, others []*aggregation.Aggregates
}

// build groups, totals and orders the kept records.
func (b *builder) build() error {
	kept := kernel.RowsOf(b.kept)
	if err := b.job.Need(4*int64(kept.N), "listing the records"); err != nil {
		return err
	}
	all := kept
	if c := b.plan.Compare; c != nil {
		other, _, err := selection.Select(b.job, b.fields, c.Filter)
		if err != nil {
			return err
		}
		others := kernel.RowsOf(other)
		b.res.Others = b.fields.Weights.CountRows(others)
		all = kernel.Listed(slices.Concat(kept.Slice(0, kept.N), others.Slice(0, others.N)))
	}
	var err error
	if b.g, err = b.grouper().Group(b.plan.Groups, all, kept.N); err != nil {
		return err
	}
	var across *grouping.Grouping
	if len(b.plan.Across) > 0 {
		if across, err = b.acrossGroups(); err != nil {
			return err
		}
	}
	b.leftOut(across)
	kept, all = b.g.Records(), b.g.All()
	t := b.g.Tree
	res := b.res
	res.Tree, res.Side = t, b.g.Side(0, kept.N)
	w := aggregation.New(b.job, b.fields, t, res.Side)
	if b.figures, err = w.Totals(); err != nil {
		return err
	}
	if b.plan.Compare != nil {
		res.Other = b.g.Side(kept.N, all.N)
		if b.others, err = aggregation.New(b.job, b.fields, t, res.Other).Totals(); err != nil {
			return err
		}
	}
	b.currencies()
	res.Check = w.Check()
	res.Check.Groups = len(b.plan.Groups)+len(b.plan.Across) > 0
	var cross *crosstab
	if across != nil {
		if cross, err = b.crosstab(across); err != nil {
			return err
		}
	}
	if err := b.order(cross); err != nil {
		return err
	}
	if err := b.problems(); err != nil {
		return err
	}
	if err := b.addresses(); err != nil {
		return err
	}
	res.Levels = groupsOf(t, len(b.plan.Groups))
	t.ForgetRecords()
	res.Complete()
	return nil
}

// acrossGroups divides the records across, of those that the groups down have left; if it leaves
// some out itself, the groups down are narrowed to the others.
func (b *builder) acrossGroups() (*grouping.Grouping, error) {
	rows, own := b.g.All(), b.g.Records().N
	g, err := b.grouper().Group(b.plan.Across, rows, own)
	if err != nil || len(g.LeftOut) == 0 {
		return g, err
	}
	n := b.kept.N
	left := g.All()
	return g, b.g.Keep(bitmapOf(g.Records(), n), bitmapOf(left.From(g.Records().N), n))
}

// leftOut accounts for the records that groups took with them which were not kept.
func (b *builder) leftOut(across *grouping.Grouping) {
	all := b.g.LeftOut
	if across != nil {
		all = slices.Concat(all, across.LeftOut)
	}
	if len(all) == 0 {
		return
	}
	for _, l := range all {
		b.res.LeftOut = append(b.res.LeftOut, result.LeftOut{
			Label: l.Level.Label(), Groups: l.Groups, Records: l.Records,
		})
	}
	b.kept = bitmapOf(b.g.Records(), b.kept.N)
	b.res.Kept = b.fields.Weights.CountRows(b.g.Records())
	if b.plan.Compare != nil {
		b.res.Others = b.fields.Weights.CountRows(b.g.All().From(b.g.Records().N))
	}
}

// bitmapOf marks rows among n.
func bitmapOf(rows kernel.Rows, n int) kernel.Bitmap {
	b := kernel.NewBitmap(n)
	for i := range rows.N {
		row := rows.At(i)
		b.Words[row/64] |= 1 << (row % 64)
	}
	return b
}

// addresses finds what records are opened by.
func (b *builder) addresses() (err error) {
	set := b.catalog.Set(b.plan.Records)
	if set == nil || set.Field(b.plan.Address) == nil {
		return nil
	}
	b.res.AddressField = *set.Field(b.plan.Address)
	b.res.Address, err = b.fields.Stored(b.plan.Records, b.plan.Address)
	return err
}

// order arranges the groups and the records, and makes the columns of the ledger.
func (b *builder) order(cross *crosstab) error {
	res := b.res
	keys, err := ordering.Keys(b.fields, b.plan.Sort, res.Side.Rows)
	if err != nil {
		return err
	}
	if len(b.plan.Groups) > 0 {
		from := b.arrange(res.Tree, res.Side, b.figures, b.plan.Groups)
		place := res.Side.Arrange(res.Tree, from)
		keys = append([]ordering.Key{&ordering.ByPlace{Leaf: res.Side.Leaf, Place: place}}, keys...)
		if res.Other != nil {
			res.Other.Arrange(res.Tree, from)
		}
		for _, figs := range [][]*aggregation.Aggregates{b.figures, b.others} {
			for i, f := range figs {
				if f != nil {
					figs[i] = f.Rearranged(from)
				}
			}
		}
		if cross != nil {
			cross.cameDown = from
		}
	} else {
		res.Tree.Nodes[0].Next = 1
	}
	res.Sorter = ordering.NewSorter(res.Side.Rows, keys, b.job.Workers)
	if cross != nil {
		return cross.heads()
	}
	return b.heads()
}

// heads makes the columns of a ledger without groups across.
func (b *builder) heads() error {
	for i, c := range b.plan.Columns {
		var col table.Column
		if c.Values {
			var err error
			if col, err = b.fields.Column(c.Ref); err != nil {
				return err
			}
		}
		b.res.Columns = append(b.res.Columns, col)
		if c.Measure < 0 {
			b.head(result.Head{Column: i, Field: c.Ref.Field}, nil)
			continue
		}
		mine := b.shownFigures(b.figures, c.Measure)
		b.head(result.Head{Column: i}, mine)
		if b.plan.Compare != nil {
			b.compared(result.Head{Column: i}, mine, b.shownFigures(b.others, c.Measure))
		}
	}
	return nil
}

// head adds a column with its figures, or of values that the head describes.
func (b *builder) head(h result.Head, f *aggregation.Aggregates) {
	if f != nil {
		h.Field = f.Field
	}
	h.Field.Format = b.plan.FormatOf(h.Column)
	if h.Part == result.Percent {
		h.Field.Format = nil
	}
	h.Mixed = f.MixedLines()
	b.res.Heads = append(b.res.Heads, h)
	b.res.Figures = append(b.res.Figures, f)
}

// problems gathers what went wrong.
func (b *builder) problems() error {
	for _, key := range slices.Sorted(maps.Keys(b.plan.Derived)) { // the same order every time
		d := b.plan.Derived[key]
		if d.PerTotal() || d.Bucket != nil {
			continue
		}
		made, err := b.fields.Derive(d)
		if err != nil {
			return err
		}
		if n := b.keptOf(made.Tied); n > 0 {
			b.res.Ties = append(b.res.Ties, result.Tie{Label: d.Ref.Label, By: d.OrderedBy(), Count: n})
		}
		if made.Failed == nil {
			continue
		}
		for reason, marked := range made.Failed.Rows {
			if n := b.keptOf(marked); n > 0 {
				b.res.Problems = append(b.res.Problems, result.Problem{
					Label: d.Ref.Label, Path: d.Ref.Path, Reason: formula.Reason(reason), Count: n,
				})
			}
		}
	}
	for _, f := range slices.Concat(b.figures, b.others) {
		if f == nil {
			continue
		}
		f.Failed[formula.TooLarge] += f.TooLarge
		for reason, n := range f.Failed {
			if n > 0 {
				b.res.Problems = append(b.res.Problems, result.Problem{
					Label: f.Measure.Label, Reason: formula.Reason(reason), Count: n, Groups: true,
				})
			}
		}
	}
	slices.SortStableFunc(b.res.Problems, func(x, y result.Problem) int { return y.Count - x.Count })
	return nil
}

// keptOf counts the records marked that are kept; none is marked by nil.
func (b *builder) keptOf(marked []uint64) int {
	if marked == nil {
		return 0
	}
	return b.fields.Weights.CountAnd(b.kept, kernel.Bitmap{Words: marked, N: b.kept.N})
}

// shownFigures are a measure's figures for the nodes in the order shown: its own,
// or what is shown in place of another's.
func (b *builder) shownFigures(figs []*aggregation.Aggregates, measure int) *aggregation.Aggregates {
	m := b.plan.Measures[measure]
	if m.Show == "" {
		return figs[measure]
	}
	of := figs[m.Of]
	return aggregation.Shown(m, b.res.Tree, of, of)
}

// groupsOf counts the groups of each level, the outermost first.
func groupsOf(t *grouping.Tree, levels int) []int {
	out := make([]int, levels)
	for _, n := range t.Nodes[1:] {
		out[n.Level-1]++
	}
	return out
}

// grouper divides the run's records among groups.
func (r *run) grouper() grouping.Grouper {
	return grouping.Grouper{
		Job: r.job, Fields: r.fields, MaxGroups: r.opts.MaxGroups, DenseSpace: r.denseSpace,
		Rank: func(t *grouping.Tree, s *grouping.Side, measure int) (grouping.Ranking, error) {
			return aggregation.New(r.job, r.fields, t, s).Total(measure)
		},
	}
}

// arrange puts groups into the order they are shown, and says where each came from.
func (r *run) arrange(
	t *grouping.Tree, s *grouping.Side, figures []*aggregation.Aggregates, groups []plan.Group,
) []int32 {
	rank := func(measure int) grouping.Ranking { return figures[measure] }
	return t.Arrange(r.job, r.fields.Plan.Calendar, s, groups, rank)
}
