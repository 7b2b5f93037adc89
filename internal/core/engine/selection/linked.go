// Conditions on the records that link here: how many, the latest, their sum or average.

package selection

import (
	"fmt"
	"math"
	"slices"

	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// within returns the records that another view keeps.
func (f *filter) within(n *plan.Node) (kernel.Bitmap, error) {
	if len(n.Children) == 0 {
		return kernel.FullBitmap(f.fields.Rows), nil
	}
	return all(f.job, f.fields, n.Children[0])
}

// all is what a condition includes of all records; its steps are not counted.
func all(job *work.Job, of *fields.Fields, n *plan.Node) (kernel.Bitmap, error) {
	f := &filter{job: job, fields: of}
	b, err := f.node(n, kernel.FullBitmap(of.Rows))
	return b.Clone(), err
}

// linked returns the records whose linking records meet a test, and how many have no sum
// or average because their amounts are in several currencies.
func (f *filter) linked(l *plan.Linked) (met kernel.Bitmap, mixed int, err error) {
	// Those of the other set's records; it has no derived fields here.
	other, err := f.fields.Over(&plan.Plan{Records: l.Records, Calendar: f.fields.Plan.Calendar})
	if err != nil {
		return kernel.Bitmap{}, 0, err
	}
	to, _, err := other.Linked(l.Links)
	if err != nil {
		return kernel.Bitmap{}, 0, err
	}
	counts := kernel.FullBitmap(other.Rows)
	if l.Where != nil {
		if counts, err = all(f.job, other, l.Where); err != nil {
			return kernel.Bitmap{}, 0, err
		}
	}
	links := &linking{job: f.job, fields: other, linked: l, to: to, rows: counts.Rows(), targets: f.fields.Rows}
	var meets func(target int) bool
	switch l.Test {
	case view.LatestLinked, view.EarliestLinked:
		meets, err = links.chosen()
	case view.SumLinked, view.AverageLinked:
		meets, err = links.figure()
	default:
		meets = links.count()
	}
	if err != nil {
		return kernel.Bitmap{}, 0, err
	}
	for i := range links.which {
		mixed += int(kernel.Bit(links.severalAt(i)))
	}
	out := kernel.NewBitmap(f.fields.Rows)
	return out, mixed, f.mark(out, func(words []uint64, lo, hi int) {
		for i := lo; i < hi; i++ {
			words[(i-lo)/64] |= kernel.Bit(meets(i)) << (i % 64)
		}
	})
}

// linking goes over the records that link to those of another set.
type linking struct {
	job     *work.Job
	fields  *fields.Fields
	linked  *plan.Linked
	to      []int32 // for each of its records the row it links to, or -1
	rows    []int32 // those that count
	targets int     // how many records they may link to
	// which is in which currency each target's amounts are; nil if they have none.
	which []uint32
}

func (l *linking) count() func(target int) bool {
	n := make([]int32, l.targets)
	for _, row := range l.rows {
		if to := l.to[row]; to >= 0 {
			n[to]++
		}
	}
	switch l.linked.Test {
	case view.NoneLinked:
		return func(i int) bool { return n[i] == 0 }
	case view.AtLeastLinked:
		return func(i int) bool { return int(n[i]) >= l.linked.N }
	case view.AtMostLinked:
		return func(i int) bool { return int(n[i]) <= l.linked.N }
	}
	return func(i int) bool { return n[i] > 0 }
}

// chosen finds each record's latest or earliest linking record and asks whether it
// meets the condition. Records without a date are passed over; of two with the same
// date, the later in the table is the latest.
func (l *linking) chosen() (func(target int) bool, error) {
	col, err := l.fields.Column(l.linked.Date)
	if err != nil {
		return nil, err
	}
	dates, ok := col.(*table.Numbers)
	if !ok {
		return nil, fmt.Errorf("selection: %s is no date", l.linked.Date.Label)
	}
	met, err := all(l.job, l.fields, l.linked.Meets)
	if err != nil {
		return nil, err
	}
	best := make([]int32, l.targets)
	for i := range best {
		best[i] = -1
	}
	latest := l.linked.Test == view.LatestLinked
	for _, row := range l.rows {
		to, v := l.to[row], dates.Values[row]
		if to < 0 || v == table.Blank {
			continue
		}
		if have := best[to]; have < 0 || latest && v >= dates.Values[have] || !latest && v < dates.Values[have] {
			best[to] = row
		}
	}
	return func(i int) bool { return best[i] >= 0 && met.Has(int(best[i])) }, nil
}

// figure sums or averages a field over each record's linking records and tests the
// figure. Where there is none, nothing is met; amounts of several currencies have none.
func (l *linking) figure() (func(target int) bool, error) {
	col, each, err := l.values()
	if err != nil {
		return nil, err
	}
	if err := l.spoken(); err != nil {
		return nil, err
	}
	t := l.linked.Figure
	n := make([]int64, l.targets)
	if c, ok := col.(*table.Floats); ok {
		sums := make([]float64, l.targets)
		err := each(func(to, row int32) {
			if v := c.Values[row]; v == v {
				sums[to] += v
				n[to]++
			}
		})
		return func(i int) bool {
			v := sums[i]
			if l.linked.Fn == view.Average {
				v /= float64(n[i])
			}
			return n[i] > 0 && !l.severalAt(i) && t.MeetsFloat(v)
		}, err
	}
	c := col.(*table.Numbers)
	sums := make([]kernel.Int128, l.targets)
	err = each(func(to, row int32) {
		if v := c.Values[row]; v != table.Blank {
			sums[to] = sums[to].Plus(kernel.Wide(v))
			n[to]++
		}
	})
	shift := table.Pow10(t.Ref.Field.Scale - l.linked.Of.Field.Scale)
	return func(i int) bool {
		if n[i] == 0 || l.severalAt(i) {
			return false
		}
		v, ok := sums[i].Narrow()
		if l.linked.Fn == view.Average {
			v, ok = sums[i].Ratio(n[i], shift)
		}
		if !ok { // beyond 64 bits; only its sign decides
			v = math.MaxInt64
			if sums[i].Negative() {
				v = math.MinInt64 + 1
			}
		}
		return t.Meets(v)
	}, err
}

// values is the column of what is summed, and a walk over the values that each target has:
// those of further linked records once each.
func (l *linking) values() (table.Column, func(do func(target, row int32)) error, error) {
	of := l.linked.Of
	if len(of.Links) == 0 {
		col, err := l.fields.Column(of)
		return col, func(do func(target, row int32)) error {
			return l.eachRow(func(row int32) {
				if to := l.to[row]; to >= 0 {
					do(to, row)
				}
			})
		}, err
	}
	col, err := l.fields.InOwnSet(of)
	if err != nil {
		return nil, nil, err
	}
	further, _, err := l.fields.Linked(of.Links)
	if err != nil {
		return nil, nil, err
	}
	if err := l.job.Need(8*int64(len(l.rows)), "looking at the linked records"); err != nil {
		return nil, nil, err
	}
	pairs := make([]uint64, 0, len(l.rows))
	err = l.eachRow(func(row int32) {
		if to, held := l.to[row], further[row]; to >= 0 && held >= 0 {
			pairs = append(pairs, uint64(to)<<32|uint64(held))
		}
	})
	slices.Sort(pairs)
	pairs = slices.Compact(pairs)
	return col, func(do func(target, row int32)) error {
		for i, p := range pairs {
			if i%kernel.BlockRows == 0 && l.job.IsStopped() {
				return l.job.Stopped()
			}
			do(int32(p>>32), int32(uint32(p)))
		}
		return nil
	}, err
}

// eachRow calls do with every record that counts.
func (l *linking) eachRow(do func(row int32)) error {
	for i, row := range l.rows {
		if i%kernel.BlockRows == 0 && l.job.IsStopped() {
			return l.job.Stopped()
		}
		do(row)
	}
	return nil
}

// spoken finds the targets whose amounts are in several currencies.
func (l *linking) spoken() error {
	by := l.linked.Of.CurrencyPath()
	if by == "" {
		return nil
	}
	amounts, err := l.fields.Column(l.linked.Of)
	if err != nil {
		return err
	}
	named, err := l.fields.Currencies(by)
	if named == nil || err != nil {
		return err
	}
	blank := table.BlankTest(amounts)
	l.which = make([]uint32, l.targets)
	err = l.eachRow(func(row int32) {
		if to := l.to[row]; to >= 0 && !blank(row) {
			l.which[to] = fields.JoinedCurrency(l.which[to], named.Codes[row]+1)
		}
	})
	return err
}

func (l *linking) severalAt(target int) bool {
	return l.which != nil && l.which[target] == fields.SeveralCurrencies
}
