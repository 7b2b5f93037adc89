package engine

import (
	"sync"
	"time"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// Result is an answered view. It never changes; any goroutine may read it.
type Result struct {
	Plan *plan.Plan
	AsOf time.Time
	// All and Kept count the records before and after the filter.
	All, Kept int
	Steps     []Step
	Check     Check
	// Problems are what went wrong for single values, in words.
	Problems []string

	// rows are the kept rows in the order they are shown, sorted when first asked
	// for: closed groups show none of them.
	rows    func() []int32
	columns []table.Column
	tree    *tree
	figures []*figures
}

// Check tells how the subtotals were verified: every sum was worked out once
// more over all kept records, apart from the groups, and compared.
type Check struct {
	Groups   bool     // there are groups at all
	Measures int      // how many sums were compared
	Wrong    []string // the labels of those that differ; none, unless the engine is broken
}

// Groups counts the groups of all levels.
func (r *Result) Groups() int { return len(r.tree.nodes) - 1 }

// GroupsAt counts the groups of one level; 0 is the outermost.
func (r *Result) GroupsAt(level int) int {
	n := 0
	for _, g := range r.tree.nodes[1:] {
		if int(g.level) == level+1 {
			n++
		}
	}
	return n
}

// build groups, totals and orders the kept rows.
func (r *run) build(res *Result, rows []int32) error {
	t, err := r.group(rows)
	if err != nil {
		return err
	}
	t.measure()
	figs, check, err := r.totals(t, rows)
	if err != nil {
		return err
	}
	keys, err := r.sortKeys()
	if err != nil {
		return err
	}
	place, figs := r.arrange(t, figs)
	if place != nil {
		keys = append([]sortKey{&placeKey{leaf: t.leaf, place: place}}, keys...)
	}
	res.figures = figs
	res.rows = sync.OnceValue(func() []int32 { return rowOrder(rows, keys, r.e.opts.Workers) })
	res.tree, res.Check = t, check
	for _, k := range t.levels {
		k.keys = nil // four bytes a row that nothing reads any more
	}
	for _, c := range r.plan.Columns {
		col, err := r.e.column(r.plan.Records, c.Ref)
		if err != nil {
			return err
		}
		res.columns = append(res.columns, col)
	}
	for _, f := range figs {
		if f.tooLarge > 0 {
			res.Problems = append(res.Problems, f.measure.Label+" is too large to show on some lines; they are left blank")
		}
	}
	return nil
}
