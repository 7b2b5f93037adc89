package engine

import (
	"maps"
	"slices"

	"gavrik/internal/core/formula"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// builder makes a result of the kept records.
type builder struct {
	*run
	kept kernel.Bitmap
	res  *Result
	g    *grouping
	// figures are those of the plan's measures for the groups down; others those of
	// a comparison's other side.
	figures, others []*aggregates
}

// rowsOf lists the marked rows.
func rowsOf(b kernel.Bitmap) rows {
	if b.Count() == b.N {
		return rows{n: b.N}
	}
	return listed(b.Rows())
}

// build groups, totals and orders the kept records.
func (b *builder) build() error {
	kept := rowsOf(b.kept)
	if err := b.need(4*int64(kept.n), "listing the records"); err != nil {
		return err
	}
	all := kept
	if c := b.plan.Compare; c != nil {
		other, _, err := b.filter(c.Filter)
		if err != nil {
			return err
		}
		others := rowsOf(other)
		b.res.Others = others.n
		all = listed(slices.Concat(kept.slice(0, kept.n), others.slice(0, others.n)))
	}
	var err error
	if b.g, err = b.group(b.plan.Groups, all, kept.n); err != nil {
		return err
	}
	t := b.g.tree
	res := b.res
	res.tree, res.side = t, b.g.side(0, kept.n)
	w := b.totaller(t, res.side)
	if b.figures, err = w.totals(); err != nil {
		return err
	}
	if b.plan.Compare != nil {
		res.others = b.g.side(kept.n, all.n)
		if b.others, err = b.totaller(t, res.others).totals(); err != nil {
			return err
		}
	}
	b.currencies()
	res.Check = w.check
	res.Check.Groups = len(b.plan.Groups)+len(b.plan.Across) > 0
	var cross *crosstab
	if len(b.plan.Across) > 0 {
		if cross, err = b.crosstab(kept); err != nil {
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
	t.forgetRecords()
	for i := range res.Heads {
		res.allHeads = append(res.allHeads, i)
	}
	res.GrandTotal = res.windower(b.ctx, nil).group(0)
	return nil
}

// addresses finds what records are opened by.
func (b *builder) addresses() (err error) {
	set := b.e.catalog.Set(b.plan.Records)
	if set == nil || set.Field(b.plan.Address) == nil {
		return nil
	}
	b.res.addressField = *set.Field(b.plan.Address)
	b.res.address, err = b.e.stored(b.plan.Records, b.plan.Address)
	return err
}

// order arranges the groups and the records, and makes the columns of the ledger.
func (b *builder) order(cross *crosstab) error {
	res := b.res
	keys, err := b.sortKeys(b.plan.Sort, res.side.rows)
	if err != nil {
		return err
	}
	if len(b.plan.Groups) > 0 {
		from := b.arrange(res.tree, res.side, b.figures, b.plan.Groups)
		place := res.side.arrange(res.tree, from)
		keys = append([]sortKey{&placeKey{leaf: res.side.leaf, place: place}}, keys...)
		if res.others != nil {
			res.others.arrange(res.tree, from)
		}
		for _, figs := range [][]*aggregates{b.figures, b.others} {
			for i, f := range figs {
				if f != nil {
					figs[i] = f.rearranged(from)
				}
			}
		}
		if cross != nil {
			cross.cameDown = from
		}
	} else {
		res.tree.nodes[0].next = 1
	}
	res.sorter = newSorter(res.side.rows, keys, b.e.opts.Workers)
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
			if col, err = b.column(c.Ref); err != nil {
				return err
			}
		}
		b.res.columns = append(b.res.columns, col)
		if c.Measure < 0 {
			b.head(result.Head{Column: i, Field: c.Ref.Field}, nil)
			continue
		}
		mine := b.shownFigures(b.figures, c.Measure)
		b.head(result.Head{Column: i, Field: mine.field}, mine)
		if b.plan.Compare != nil {
			b.compared(i, mine, b.shownFigures(b.others, c.Measure))
		}
	}
	return nil
}

func (b *builder) head(h result.Head, f *aggregates) {
	h.Field.Format = b.plan.FormatOf(h.Column)
	if h.Part == result.Percent {
		h.Field.Format = nil
	}
	h.Mixed = f.mixedLines()
	b.res.Heads = append(b.res.Heads, h)
	b.res.cells = append(b.res.cells, f)
}

// problems gathers what went wrong.
func (b *builder) problems() error {
	for _, key := range slices.Sorted(maps.Keys(b.plan.Derived)) { // the same order every time
		d := b.plan.Derived[key]
		if d.There == nil && (d.Calculation() == nil || d.Formula.PerTotal()) {
			continue
		}
		counts, err := b.failures(d, b.kept)
		if err != nil {
			return err
		}
		for reason, n := range counts {
			if n > 0 {
				b.res.Problems = append(b.res.Problems, result.Problem{Label: d.Ref.Label, Path: d.Ref.Path, Reason: formula.Reason(reason), Count: n})
			}
		}
	}
	for _, f := range slices.Concat(b.figures, b.others) {
		if f == nil {
			continue
		}
		f.failed[formula.TooLarge] += f.tooLarge
		for reason, n := range f.failed {
			if n > 0 {
				b.res.Problems = append(b.res.Problems, result.Problem{Label: f.measure.Label, Reason: formula.Reason(reason), Count: n, Groups: true})
			}
		}
	}
	slices.SortStableFunc(b.res.Problems, func(x, y result.Problem) int { return y.Count - x.Count })
	return nil
}
