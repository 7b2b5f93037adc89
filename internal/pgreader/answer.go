package pgreader

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
	"gavrik/internal/records"
)

// lines is what the database answers: a line for records that are not told apart.
type lines struct {
	asOf time.Time
	// many is how many records each line stands for, met which of the tests they meet; blank which of the fields
	// tested have no value.
	many       []int64
	met, blank [][]int64
	// alone are the columns that records are told apart by; sum and filled, of others, what the values come to and
	// how many there are.
	alone       map[string]table.Column
	sum, filled map[string][]int64
}

// answer asks the database, and finishes.
func (q *question) answer(ctx context.Context) (result.Result, error) {
	if err := q.samplePrices(ctx); err != nil {
		return nil, err
	}
	clear(q.uses)
	q.each, q.all, q.linking, q.empties = false, false, nil, nil
	err := q.settle()
	if err == nil && q.shown {
		err = q.settleShown()
	}
	if err == nil && q.sample > 0 && len(q.away.Key()) > 0 {
		err = q.needsEach()
	}
	if err != nil {
		return nil, err
	}
	var got *lines
	d := &deciding{question: q, by: map[*plan.Node]int{}}
	decided := true
	err = q.reading(ctx, func(tx pgx.Tx) error {
		d.tx = tx
		var err error = &undecided{"others than those kept count"}
		if !q.all {
			err = d.tree(ctx, q.plan.Filter)
		}
		if err == nil && q.plan.Compare != nil {
			err = d.tree(ctx, q.plan.Compare.Filter)
		}
		var not *undecided
		if errors.As(err, &not) { // the engine decides all of it, of all records
			d.tests, decided = nil, false
			err = q.needsConditions(q.plan.Filter)
			if err == nil && q.plan.Compare != nil {
				err = q.needsConditions(q.plan.Compare.Filter)
			}
			if err == nil && len(averages(q.plan)) > 0 && len(q.away.Key()) > 0 {
				err = q.needsEach() // which records come first matters
			}
		}
		if err == nil {
			got, err = d.ask(ctx, decided)
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	return d.finish(ctx, got, decided)
}

// averages are the averages and medians of money among a plan's measures, by their places.
func averages(p *plan.Plan) (out []int) {
	for i, m := range p.Measures {
		if m.Show == "" && (m.Fn == view.Average || m.Fn == view.Median) && m.Ref.Field.Type == catalog.Money {
			out = append(out, i)
		}
	}
	return out
}

// samplePrices looks at the first records, to tell amounts that repeat as prices do from others, as the engine does
// where it has them in their order.
func (q *question) samplePrices(ctx context.Context) error {
	if q.sample > 0 || q.shown && len(q.away.Key()) > 0 || len(averages(q.plan)) == 0 {
		return nil
	}
	p := *q.plan
	p.Groups, p.Across, p.Compare, p.Chart, p.Measures = nil, nil, nil, nil, slices.Clone(p.Measures)
	of := &question{
		Reader: q.Reader, plan: &p, away: q.away, links: q.links, uses: map[string]*use{}, oneByOne: true,
		sample: plan.PriceSample,
	}
	res, err := of.answer(ctx)
	if err != nil {
		return err
	}
	q.prices = map[int]bool{}
	for _, i := range averages(q.plan) {
		q.prices[i] = slices.ContainsFunc(res.Summarize().Heads, func(h result.Head) bool {
			return p.Columns[h.Column].Measure == i && h.Mixed > 0
		})
	}
	return nil
}

// ask carries out the query.
func (d *deciding) ask(ctx context.Context, decided bool) (*lines, error) {
	out := &lines{alone: map[string]table.Column{}, sum: map[string][]int64{}, filled: map[string][]int64{}}
	if err := d.tx.QueryRow(ctx, "SELECT now()").Scan(&out.asOf); err != nil {
		return nil, fmt.Errorf("pgreader: %w", err)
	}
	var inner, outer, by []string
	var as []records.Reading
	add := func(expr string, reading records.Reading, grouped bool) {
		outer = append(outer, expr)
		as = append(as, reading)
		if grouped {
			by = append(by, fmt.Sprint(len(outer)))
		}
	}
	for i, t := range d.tests {
		inner = append(inner, fmt.Sprintf("%s AS c%d, %s AS b%d", t.met, i, t.blank, i))
		add(fmt.Sprintf("c%d", i), records.ReadsYesNo(), true)
		add(fmt.Sprintf("b%d", i), records.ReadsYesNo(), true)
	}
	kept := "true"
	if decided {
		if kept = d.whole(d.plan.Filter); d.plan.Compare != nil {
			kept = "(" + kept + " OR " + d.whole(d.plan.Compare.Filter) + ")"
		}
	}
	when := func(expr string) string {
		if kept == "true" {
			return expr
		}
		return "CASE WHEN " + kept + " THEN " + expr + " END"
	}
	names := slices.Sorted(maps.Keys(d.uses))
	var alone, summed []string
	for i, name := range names {
		c, _ := d.away.Column(name)
		expr := c.Expr
		if u := d.uses[name]; u.alone {
			if u.byDay {
				var err error
				if expr, err = d.byDays(ctx, c); err != nil {
					return nil, err
				}
			}
			if u.among != "" {
				expr = "CASE WHEN " + u.among + " THEN " + expr + " END"
			}
			inner = append(inner, fmt.Sprintf("%s AS v%d", expr, i))
			if expr = fmt.Sprintf("v%d", i); !u.everywhere {
				expr = when(expr)
			}
			add(expr, d.away.Reads(name), true)
			alone = append(alone, name)
		}
	}
	many := "count(*)"
	if d.sample > 0 {
		many = "1::bigint"
	}
	add(many, records.ReadsWhole(), false)
	for i, name := range names {
		c, _ := d.away.Column(name)
		if d.uses[name].alone {
			continue
		}
		inner = append(inner, fmt.Sprintf("%s AS v%d", c.Expr, i))
		filter := ""
		if kept != "true" {
			filter = " FILTER (WHERE " + kept + ")"
		}
		reading := records.ReadsNumeric(c.Field.Scale)
		if c.Field.Type == catalog.Duration {
			reading = records.ReadsDuration()
		}
		expr := fmt.Sprintf("sum(v%d)%s", i, filter)
		if c.Field.Type != catalog.Duration {
			expr = "(" + expr + ")::numeric"
		}
		add(expr, reading, false)
		add(fmt.Sprintf("count(v%d)%s", i, filter), records.ReadsWhole(), false)
		summed = append(summed, name)
	}
	if len(inner) == 0 {
		inner = []string{"1"}
	}
	query := fmt.Sprintf("SELECT %s FROM (SELECT %s FROM %%s) q", strings.Join(outer, ", "), strings.Join(inner, ", "))
	if d.sample > 0 {
		query += " WHERE " + kept
	}
	switch {
	case d.sample > 0:
		var keys []string
		for _, name := range d.key {
			keys = append(keys, fmt.Sprintf("v%d", slices.Index(names, name)))
		}
		if d.each {
			query += " ORDER BY " + strings.Join(keys, ", ")
		}
		query += fmt.Sprintf(" LIMIT %d", d.sample)
	case len(by) > 0:
		query += " GROUP BY " + strings.Join(by, ", ")
	}
	columns, err := d.fetch(ctx, query, as)
	if err != nil {
		return nil, err
	}
	at := 0
	next := func() table.Column { at++; return columns[at-1] }
	numbers := func() []int64 { return next().(*table.Numbers).Values }
	for range d.tests {
		out.met, out.blank = append(out.met, numbers()), append(out.blank, numbers())
	}
	for _, name := range alone {
		out.alone[name] = next()
	}
	out.many = numbers()
	for _, name := range summed {
		out.sum[name], out.filled[name] = numbers(), numbers()
	}
	return out, nil
}

// mostDays is how many days moments are put together by.
const mostDays = 40_000

// byDays is a moment in the place of all of its day: the first one of the stretch of time that the clock shows that day
// in. The calendar says where the days begin, so that no other knowledge of zones decides.
func (d *deciding) byDays(ctx context.Context, c records.AwayColumn) (string, error) {
	var from, to *time.Time
	err := d.eachPart(ctx, func(of string) string {
		return fmt.Sprintf("SELECT min(%[1]s), max(%[1]s) FROM %[2]s WHERE isfinite(%[1]s)", c.Expr, of)
	}, func(row pgx.CollectableRow) error {
		var least, most *time.Time
		err := row.Scan(&least, &most)
		if least != nil && (from == nil || least.Before(*from)) {
			from = least
		}
		if most != nil && (to == nil || most.After(*to)) {
			to = most
		}
		return err
	})
	if err != nil {
		return "", err
	}
	if from == nil || to.Sub(*from) > mostDays*24*time.Hour || from.Year() < 1 || to.Year() > 9998 {
		return c.Expr, nil
	}
	cal := d.plan.Calendar
	var starts []int64
	for at := calendar.FloorDay(from.UnixMicro()) - 2; at <= calendar.FloorDay(to.UnixMicro())+2; at++ {
		for _, span := range cal.Moments(at*calendar.DayLen, (at+1)*calendar.DayLen-1) {
			starts = append(starts, span.From)
		}
	}
	slices.Sort(starts)
	texts := make([]string, len(starts))
	for i, v := range starts {
		texts[i] = "'" + moment(v) + "'"
	}
	array := "(ARRAY[" + strings.Join(texts, ",") + "]::timestamptz[])"
	return fmt.Sprintf("CASE WHEN isfinite(%[1]s) THEN %[2]s[width_bucket(%[1]s, %[2]s)] END", c.Expr, array), nil
}

// hourly says that groups are by the hour.
func hourly(g plan.Group) bool { return g.Unit == calendar.ByHour }

// finish works the result out of the lines.
func (d *deciding) finish(ctx context.Context, got *lines, decided bool) (result.Result, error) {
	stand := &standing{lines: got, deciding: d}
	p := *d.plan
	p.Columns, p.Measures = slices.Clone(p.Columns), slices.Clone(p.Measures)
	for i, is := range d.prices {
		if !d.each { // else the engine sees it for itself
			p.Measures[i].Prices = &is
		}
	}
	if !d.shown {
		p.Sort = nil
		for i := range p.Columns {
			p.Columns[i].Values = false
		}
	}
	if decided {
		p.Filter = nil
		if d.plan.Compare != nil || len(d.empties) > 0 {
			p.Filter = &plan.Node{Path: "filter", Kind: plan.All, Children: append(
				[]*plan.Node{stand.flag(keptFlag)}, d.bounding(d.plan.Filter)...,
			)}
		}
		if d.plan.Compare != nil {
			compare := *p.Compare
			compare.Filter, p.Compare = stand.flag(otherFlag), &compare
		}
	}
	snap, err := stand.snapshot(ctx, decided)
	if err != nil {
		return nil, err
	}
	res, err := engine.New(snap, d.loaded.Catalog, d.opts.Engine).Run(ctx, &p)
	if err != nil {
		return nil, err
	}
	sum := res.Summarize()
	sum.Plan, sum.AsOf = d.plan, got.asOf
	if decided {
		sum.All, sum.Steps = int(total(got.many)), stand.steps()
	}
	return res, nil
}

// bounding are the conditions that bound days which are shown without records, too; whatever is kept meets them.
func (q *question) bounding(n *plan.Node) (out []*plan.Node) {
	switch {
	case n == nil:
	case n.Kind == plan.All:
		for _, c := range n.Children {
			out = append(out, q.bounding(c)...)
		}
	case n.Kind == plan.Leaf && n.Predicate.Days != nil && !n.Predicate.Negate &&
		slices.ContainsFunc(q.empties, func(g plan.Group) bool { return g.Ref.Path == n.Predicate.Ref.Path }):
		out = append(out, n)
	}
	return out
}

func total(many []int64) (n int64) {
	for _, m := range many {
		n += m
	}
	return n
}
