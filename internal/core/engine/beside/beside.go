// Package beside sets records beside others: those of their group, or the one before them in an order.
package beside

import (
	"fmt"
	"math"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/engine/grouping"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/program"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// maxGroups is into how many groups records may be divided.
const maxGroups = 1 << 24

// Column works a field beside others out for every record of its set; those that are not among
// the others have no value.
func Column(job *work.Job, of *fields.Fields, d *plan.Derived) (fields.Derived, error) {
	c := &compared{
		job: job, fields: of, beside: d.Beside, step: "working out " + catalog.LowerFirst(d.Ref.Label),
	}
	if err := c.divide(); err != nil {
		return fields.Derived{}, err
	}
	if c.beside.Take == view.GroupCount {
		return c.counts()
	}
	if c.beside.Take != view.Position {
		if err := c.look(); err != nil {
			return fields.Derived{}, err
		}
	}
	if c.beside.Take.Ordered() {
		return c.ordered()
	}
	if c.beside.Take == view.GroupRank {
		return c.ranks()
	}
	return c.ofGroups(d.Ref.Field)
}

// compared is the records that are set beside each other.
type compared struct {
	job    *work.Job
	fields *fields.Fields
	beside *plan.Beside
	step   string

	// rows are the records, ascending; leaf is the group of each, of so many.
	rows   kernel.Rows
	leaf   []uint32
	groups int
	// col is the field that is looked at; exact or approx are its values, by row.
	col    table.Column
	exact  []int64
	approx []float64
	// several says which groups hold amounts of several currencies; nil if none can.
	several []bool
	failed  *program.Failures
}

// divide finds the records and divides them among their groups.
func (c *compared) divide() error {
	c.rows = kernel.Rows{N: c.fields.Rows}
	c.failed = program.NewFailures(c.fields.Rows)
	if c.beside.Among != nil {
		among, err := c.fields.Select(c.job, c.fields, c.beside.Among)
		if err != nil {
			return err
		}
		c.rows = kernel.RowsOf(among)
	}
	if err := c.job.Need(12*int64(c.rows.N)+8*int64(c.fields.Rows), c.step); err != nil {
		return err
	}
	if len(c.beside.Each) == 0 {
		c.leaf, c.groups = make([]uint32, c.rows.N), 1
		return nil
	}
	of := *c.fields
	bare := *c.fields.Plan
	bare.Compare = nil // groups are those of these records alone
	of.Plan = &bare
	g, err := (grouping.Grouper{Job: c.job, Fields: &of, MaxGroups: maxGroups, DenseSpace: 1 << 16}).Group(
		c.beside.Each, c.rows, c.rows.N)
	if err != nil {
		return err
	}
	c.leaf, c.groups = g.Leaf, len(g.Tree.Nodes)-g.Tree.First()
	return nil
}

// look reads the field that is looked at, and the currencies of its values.
func (c *compared) look() (err error) {
	if c.col, err = c.fields.Column(c.beside.Of); err != nil {
		return err
	}
	switch col := c.col.(type) {
	case *table.Numbers:
		c.exact = col.Values
	case *table.Floats:
		c.approx = col.Values
	}
	if c.beside.CurrencyBy == "" {
		return nil
	}
	named, err := c.fields.Currencies(c.beside.CurrencyBy)
	if named == nil || err != nil {
		return err
	}
	which := make([]uint32, c.groups)
	blank := table.BlankTest(c.col)
	err = c.each(func(at int, row int32) {
		if !blank(row) {
			which[c.leaf[at]] = fields.JoinedCurrency(which[c.leaf[at]], named.Codes[row]+1)
		}
	})
	c.several = make([]bool, c.groups)
	for g, w := range which {
		c.several[g] = w == fields.SeveralCurrencies
	}
	return err
}

// each calls do with every record, in the order of the table.
func (c *compared) each(do func(at int, row int32)) error {
	for lo := 0; lo < c.rows.N; lo += kernel.BlockRows {
		if err := c.job.Stopped(); err != nil {
			return err
		}
		for at := lo; at < min(lo+kernel.BlockRows, c.rows.N); at++ {
			do(at, c.rows.At(at))
		}
	}
	return nil
}

// fail marks a record that has no value for a reason.
func (c *compared) fail(row int32, why formula.Reason) { c.failed.Rows[why][row/64] |= 1 << (row % 64) }

// blanks is a column of no values yet.
func (c *compared) blanks() []int64 {
	out := make([]int64, c.fields.Rows)
	for i := range out {
		out[i] = table.Blank
	}
	return out
}

func (c *compared) blankFloats() []float64 {
	out := make([]float64, c.fields.Rows)
	for i := range out {
		out[i] = math.NaN()
	}
	return out
}

func (c *compared) made(col table.Column) fields.Derived {
	return fields.Derived{Column: col, Failed: c.failed}
}

// counts is how many records each record's group has.
func (c *compared) counts() (fields.Derived, error) {
	n, out := make([]int64, c.groups), c.blanks()
	for _, l := range c.leaf {
		n[l]++
	}
	err := c.each(func(at int, row int32) { out[row] = n[c.leaf[at]] })
	return c.made(table.NewNumbers(out)), err
}

// ofGroups sets each value beside the total or the average of its group.
func (c *compared) ofGroups(result catalog.Field) (fields.Derived, error) {
	switch {
	case c.exact != nil:
		return c.exactGroups(result)
	case c.approx != nil:
		return c.approxGroups()
	}
	return fields.Derived{}, fmt.Errorf("beside: %s has no total", c.beside.Of.Label)
}

func (c *compared) exactGroups(result catalog.Field) (fields.Derived, error) {
	sums, n := make([]kernel.Int128, c.groups), make([]int64, c.groups)
	err := c.each(func(at int, row int32) {
		if v := c.exact[row]; v != table.Blank {
			sums[c.leaf[at]] = sums[c.leaf[at]].Plus(kernel.Wide(v))
			n[c.leaf[at]]++
		}
	})
	if err != nil {
		return fields.Derived{}, err
	}
	shift := table.Pow10(result.Scale - c.beside.Of.Field.Scale)
	if c.beside.Take == view.GroupShare || result.Scale < c.beside.Of.Field.Scale {
		shift = 1
	}
	totals := make([]int64, c.groups) // or averages
	fits := make([]bool, c.groups)
	for g := range totals {
		switch {
		case n[g] == 0:
			totals[g], fits[g] = table.Blank, true
		case c.beside.Take == view.GroupAverage || c.beside.Take == view.FromAverage:
			totals[g], fits[g] = sums[g].Ratio(n[g], shift)
		default:
			totals[g], fits[g] = sums[g].Narrow()
		}
	}
	out := c.blanks()
	return c.made(table.NewNumbers(out)), c.each(func(at int, row int32) {
		g, v := c.leaf[at], c.exact[row]
		switch {
		case c.several != nil && c.several[g]:
			c.fail(row, formula.SeveralCurrencies)
		case c.beside.Take == view.GroupShare:
			if v == table.Blank {
				return
			}
			if out[row] = kernel.PercentOf(kernel.Wide(v), sums[g]); out[row] == table.Blank {
				c.fail(row, reasonOf(sums[g]))
			}
		case !fits[g]:
			c.fail(row, formula.TooLarge)
		case c.beside.Take != view.FromAverage:
			out[row] = totals[g]
		case v != table.Blank:
			far, ok := kernel.Wide(v).Times(shift).Plus(kernel.Wide(totals[g]).Negated()).Narrow()
			if out[row] = far; !ok {
				out[row] = table.Blank
				c.fail(row, formula.TooLarge)
			}
		}
	})
}

// reasonOf is why there is no share of a total.
func reasonOf(total kernel.Int128) formula.Reason {
	if total.Compare(kernel.Wide(0)) == 0 {
		return formula.DividedByZero
	}
	return formula.TooLarge
}

func (c *compared) approxGroups() (fields.Derived, error) {
	sums, n := make([]float64, c.groups), make([]float64, c.groups)
	err := c.each(func(at int, row int32) {
		if v := c.approx[row]; v == v {
			sums[c.leaf[at]] += v
			n[c.leaf[at]]++
		}
	})
	if err != nil {
		return fields.Derived{}, err
	}
	if c.beside.Take == view.GroupShare {
		out := c.blanks()
		return c.made(table.NewNumbers(out)), c.each(func(at int, row int32) {
			if v := c.approx[row]; v == v {
				if out[row] = kernel.PercentOfFloat(v, sums[c.leaf[at]]); out[row] == table.Blank {
					c.fail(row, formula.DividedByZero)
				}
			}
		})
	}
	out := c.blankFloats()
	return c.made(table.NewFloats(out)), c.each(func(at int, row int32) {
		g := c.leaf[at]
		switch {
		case n[g] == 0:
		case c.beside.Take == view.GroupTotal:
			out[row] = sums[g]
		case c.beside.Take == view.GroupAverage:
			out[row] = sums[g] / n[g]
		default:
			out[row] = c.approx[row] - sums[g]/n[g]
		}
		if math.IsInf(out[row], 0) {
			out[row] = math.NaN()
			c.fail(row, formula.TooLarge)
		}
	})
}

// ranks is the place of each value among those of its group, the largest first; equal values
// share one.
func (c *compared) ranks() (fields.Derived, error) {
	if err := c.job.Need(32*int64(c.rows.N), c.step); err != nil {
		return fields.Derived{}, err
	}
	pairs := make([]kernel.Pair, 0, c.rows.N)
	err := c.each(func(at int, row int32) {
		v := int64(table.Blank)
		if c.exact != nil {
			v = c.exact[row]
		} else {
			v = kernel.OrderedBits(c.approx[row])
		}
		if v != table.Blank {
			pairs = append(pairs, kernel.Pair{Key: ^(uint64(v) ^ 1<<63), Pos: int32(at)})
		}
	})
	if err != nil {
		return fields.Derived{}, err
	}
	spare := make([]kernel.Pair, len(pairs))
	pairs, spare = kernel.SortPairs(pairs, spare, 64, c.job.IsStopped)
	keys := make([]uint64, c.rows.N)
	for _, p := range pairs {
		keys[p.Pos] = p.Key
	}
	for i := range pairs {
		pairs[i].Key = uint64(c.leaf[pairs[i].Pos])
	}
	pairs, _ = kernel.SortPairs(pairs, spare, bitsOf(c.groups), c.job.IsStopped)
	out := c.blanks()
	first, rank := 0, int64(0)
	for i, p := range pairs {
		if i == 0 || pairs[i-1].Key != p.Key {
			first = i
		}
		if i == first || keys[pairs[i-1].Pos] != keys[p.Pos] {
			rank = int64(i - first + 1)
		}
		out[c.rows.At(int(p.Pos))] = rank
	}
	return c.made(table.NewNumbers(out)), c.job.Stopped()
}
