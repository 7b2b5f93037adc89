// How the values of a field are spread: stretches of round bounds, and their counts.

package engine

import (
	"context"
	"math"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/engine/numbering"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// Distribution counts a field's values under the plan's filter, against all, in at
// most so many bins.
func (e *Engine) Distribution(
	ctx context.Context, p *plan.Plan, ref catalog.Ref, bins int,
) (*result.Distribution, error) {
	f := ref.Field
	if f.Type == catalog.Text || f.Type == catalog.YesNo || f.Type == catalog.Picture {
		return e.commonest(ctx, p, ref, bins)
	}
	return within(e, ctx, p, func(r *run) (*result.Distribution, error) { return r.distribution(ref, bins) })
}

func (r *run) distribution(ref catalog.Ref, bins int) (*result.Distribution, error) {
	col, kept, err := r.under(ref)
	if err != nil {
		return nil, err
	}
	d := &distributor{
		job: r.job, plan: r.fields.Plan, weights: r.fields.Weights, ref: ref, kept: kept,
		bins: max(4, bins), out: &result.Distribution{},
	}
	switch c := col.(type) {
	case *table.Floats:
		return d.out, d.floats(c)
	case *table.Numbers:
		if ref.Field.Type.Temporal() {
			return d.out, d.dates(c)
		}
		return d.out, d.numbers(c)
	}
	return d.out, nil
}

// commonest is the distribution of values without a measure.
func (e *Engine) commonest(
	ctx context.Context, p *plan.Plan, ref catalog.Ref, bins int,
) (*result.Distribution, error) {
	v, err := e.Values(ctx, p, ref, "", bins)
	if err != nil {
		return nil, err
	}
	out := &result.Distribution{BlankKept: v.BlankKept, BlankAll: v.BlankAll}
	for _, x := range v.List {
		out.Bins = append(out.Bins, result.Bin{Value: x.Value, Kept: x.Kept, All: x.All})
	}
	if v.RestAll > 0 {
		out.Bins = append(out.Bins, result.Bin{Kept: v.RestKept, All: v.RestAll})
	}
	return out, nil
}

type distributor struct {
	job     *work.Job
	plan    *plan.Plan
	weights kernel.Weights
	ref     catalog.Ref
	kept    kernel.Bitmap
	bins    int
	out     *result.Distribution
}

// count puts every row into a bin; of is -1 for a blank.
func (d *distributor) count(rows int, of func(row int) int) error {
	for row := range rows {
		if row%kernel.BlockRows == 0 {
			if err := d.job.Stopped(); err != nil {
				return err
			}
		}
		many, in := int(d.weights.At(int32(row))), 0
		if d.kept.Has(row) {
			in = many
		}
		if b := of(row); b >= 0 {
			d.out.Bins[b].All += many
			d.out.Bins[b].Kept += in
		} else {
			d.out.BlankAll += many
			d.out.BlankKept += in
		}
	}
	return nil
}

// extent is the smallest and the largest of some values.
type extent[T int64 | float64] struct {
	lo, hi T
	any    bool
}

func (x *extent[T]) add(v T) {
	if !x.any {
		x.lo, x.hi, x.any = v, v, true
	}
	x.lo, x.hi = min(x.lo, v), max(x.hi, v)
}

// numbers cuts the range into stretches of one round width.
func (d *distributor) numbers(c *table.Numbers) error {
	lo, hi, ok := c.Bounds()
	if !ok {
		return d.count(c.Len(), func(int) int { return -1 })
	}
	width := roundWidth(uint64(hi)-uint64(lo), d.bins, d.ref.Field.Type == catalog.Duration)
	first := floorDiv(lo, width)
	// Counted, not compared with the last: behind the largest number there is none.
	stretches := int(floorDiv(hi, width)-first) + 1
	for n := range stretches {
		bin := result.Bin{}
		start := kernel.Wide(first).Plus(kernel.Wide(int64(n))).Times(width)
		from, okFrom := start.Narrow()
		below, okBelow := start.Plus(kernel.Wide(width)).Narrow()
		if okFrom { // always, but at the ends of what a number can be
			bin.From = cell.OfInt(from, d.ref.Field)
		}
		if okBelow {
			bin.Below, bin.To = cell.OfInt(below, d.ref.Field), cell.OfInt(below-1, d.ref.Field)
		}
		d.out.Bins = append(d.out.Bins, bin)
	}
	var kept extent[int64]
	err := d.count(c.Len(), func(row int) int {
		v := c.Values[row]
		if v == table.Blank {
			return -1
		}
		if d.kept.Has(row) {
			kept.add(v)
		}
		return int(floorDiv(v, width) - first)
	})
	if kept.any {
		d.out.Smallest, d.out.Largest = cell.OfInt(kept.lo, d.ref.Field), cell.OfInt(kept.hi, d.ref.Field)
	}
	return err
}

// roundWidth is the smallest of 1, 2, 5, 10, 20 … stored units, or of such numbers
// of minutes and hours, that covers a span in so many bins.
func roundWidth(span uint64, bins int, duration bool) int64 {
	steps := []uint64{1, 2, 5}
	unit := uint64(1)
	if duration {
		for _, w := range []int64{1, 2, 5, 10, 15, 30, 60, 120, 180, 360, 720} {
			if span/uint64(w*calendar.Minute) < uint64(bins) {
				return w * calendar.Minute
			}
		}
		unit = uint64(calendar.DayLen)
	}
	for ; ; unit *= 10 {
		for _, s := range steps {
			if w := unit * s; span/w < uint64(bins) {
				return int64(w)
			}
		}
	}
}

func floorDiv(v, by int64) int64 {
	q := v / by
	if v%by < 0 {
		q--
	}
	return q
}

// dates cuts the range into days, weeks, months, quarters or years, whichever is
// fine enough.
func (d *distributor) dates(c *table.Numbers) error {
	units := []calendar.Unit{
		calendar.ByDay, calendar.ByWeek, calendar.ByMonth, calendar.ByQuarter, calendar.ByYear,
	}
	all := kernel.Rows{N: c.Len()}
	var k *numbering.Keys
	unit := calendar.ByYear
	for _, unit = range units {
		span := numbering.Span{Group: plan.Group{Ref: d.ref}, Unit: unit, Others: all.N}
		var err error
		if k, err = numbering.Units(d.job, d.plan, c, all, span); err != nil {
			return err
		}
		if len(k.Values) <= d.bins {
			break
		}
	}
	// Years may still be too many: several of them make a bin.
	join := max(1, (len(k.Values)+d.bins-1)/d.bins)
	day := catalog.Field{Type: catalog.Date}
	for i := 0; i < len(k.Values); i += join {
		from, below := k.Values[i], d.plan.Calendar.Add(unit, k.Values[i], join)
		d.out.Bins = append(d.out.Bins, result.Bin{
			From: cell.OfInt(from, day), Below: cell.OfInt(below, day), To: cell.OfInt(below-1, day),
			Unit: unit, Units: join,
		})
	}
	var kept extent[int64]
	err := d.count(c.Len(), func(row int) int {
		v := c.Values[row]
		if v != table.Blank && d.kept.Has(row) {
			kept.add(v)
		}
		return (int(k.Numbers[row])-1+join)/join - 1
	})
	if kept.any {
		d.out.Smallest, d.out.Largest = cell.OfInt(kept.lo, d.ref.Field), cell.OfInt(kept.hi, d.ref.Field)
	}
	return err
}

// floats cuts the range of approximate values into equal stretches.
func (d *distributor) floats(c *table.Floats) error {
	var all extent[float64]
	err := work.Pass(d.job, c.Values, kernel.Rows{N: c.Len()}, func(_ int, vals []float64) {
		for _, v := range vals {
			if v == v {
				all.add(v)
			}
		}
	})
	if err != nil {
		return err
	}
	lo, hi := all.lo, all.hi
	// Each end by itself: their distance may be too large for a number.
	width := hi/float64(d.bins) - lo/float64(d.bins)
	if hi > lo {
		for b := range d.bins {
			from, below := lo+float64(b)*width, lo+float64(b+1)*width
			d.out.Bins = append(d.out.Bins, result.Bin{
				From: cell.OfFloat(from), Below: cell.OfFloat(below), To: cell.OfFloat(math.Nextafter(below, from)),
			})
		}
	} else if all.any {
		d.out.Bins = []result.Bin{{Value: cell.OfFloat(lo)}}
	}
	var kept extent[float64]
	err = d.count(c.Len(), func(row int) int {
		v := c.Values[row]
		if v != v {
			return -1
		}
		if d.kept.Has(row) {
			kept.add(v)
		}
		if hi == lo {
			return 0
		}
		return max(0, min(int(v/width-lo/width), d.bins-1))
	})
	if kept.any {
		d.out.Smallest, d.out.Largest = cell.OfFloat(kept.lo), cell.OfFloat(kept.hi)
	}
	return err
}
