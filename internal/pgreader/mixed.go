package pgreader

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/records"
)

// memoryFor is an engine over the records in memory, with those beside them that a plan about them asks for
// and that stay: the ones that records in memory lead to, or all that something is drawn from.
func (r *Reader) memoryFor(ctx context.Context, p *plan.Plan, more ...catalog.Ref) (*engine.Engine, error) {
	memory := r.Memory.Snapshot()
	snap, err := r.withOthers(ctx, p, more, memory, stood{})
	if err != nil {
		return nil, err
	}
	if snap == memory {
		return r.Memory, nil
	}
	return engine.New(snap, r.Catalog, r.opts.Engine), nil
}

// withOthers are records with those of sets that stay which a plan about others asks for: such first as are
// led to from what is there.
func (r *Reader) withOthers(
	ctx context.Context, p *plan.Plan, more []catalog.Ref, snap *table.Snapshot, stood stood,
) (*table.Snapshot, error) {
	reached := r.reached(p, more)
	left := others(reached, p.Records)
	if r.inCircles(p, reached) {
		return nil, refused(
			"%s that are looked at from others, or from each other, and stay in the database", p.Many,
		)
	}
	waits := func(set string) bool {
		return slices.ContainsFunc(reached[set].from, func(l records.AwayLink) bool {
			return l.From != set && slices.Contains(left, l.From)
		})
	}
	for len(left) > 0 {
		i := slices.IndexFunc(left, func(set string) bool { return !waits(set) })
		if i < 0 {
			return nil, refused("%s, which lead to each other, and stay in the database", strings.Join(left, " and "))
		}
		got, err := r.beside(ctx, p, left[i], reached[left[i]], stood)
		if err != nil {
			return nil, err
		}
		if got != nil {
			if snap, err = got.snapshot(ctx, snap); err != nil {
				return nil, err
			}
		}
		left = slices.Delete(left, i, i+1)
	}
	return snap, nil
}

// beside asks for the records of a set that stays which a plan about others needs; nil if it needs none.
func (r *Reader) beside(
	ctx context.Context, p *plan.Plan, set string, by *reach, stood stood,
) (*standing, error) {
	words := r.Catalog.Set(set)
	q := r.question(&plan.Plan{Records: set, One: words.One, Many: words.Many, Calendar: p.Calendar})
	q.stood, q.single = stood, p.SingleRecords()
	for _, ref := range by.fields {
		if err := q.needs(ref, exactly); err != nil {
			return nil, err
		}
	}
	for _, key := range by.links {
		if err := q.needsLink(catalog.Ref{Label: words.Label, Links: []string{key}}); err != nil {
			return nil, err
		}
	}
	var only []string
	for _, link := range by.from {
		if slices.ContainsFunc(q.linking, func(l records.AwayLink) bool {
			return l.From == link.From && l.Key == link.Key
		}) {
			continue
		}
		if r.Loaded.Away[link.From] != nil && stood[link.From][link.Columns[0]] == nil {
			continue // nothing that is asked for now goes by it
		}
		if len(link.Columns) != 1 {
			return nil, refused("%s that %s lead to by several columns", words.Many, link.From)
		}
		text, err := q.led(link)
		if err != nil {
			return nil, refused("more %s are led to than can be listed", words.Many)
		}
		only = append(only, text)
		q.linking = append(q.linking, link)
	}
	if !by.all {
		if len(only) == 0 {
			return nil, nil
		}
		q.only = "(" + strings.Join(only, " OR ") + ")"
	}
	d := &deciding{question: q, by: map[*plan.Node]int{}}
	got, err := d.bring(ctx)
	if err != nil {
		return nil, err
	}
	return &standing{lines: got.lines, deciding: d}, nil
}

// led says in SQL that a link from records in memory leads to a record, which is told apart by what the link
// goes by.
func (q *question) led(link records.AwayLink) (string, error) {
	c, ok := q.away.Column(link.ToColumns[0])
	column := q.held(link.From, link.Columns[0])
	if !ok || column == nil {
		return "", &undecided{"a link by what is not kept"}
	}
	keys, err := differentKeys(column)
	if err != nil {
		return "", err
	}
	q.needsWhole(link.ToColumns[0])
	return fmt.Sprintf("(%s) = ANY(%s)", c.Expr, keys), nil
}
