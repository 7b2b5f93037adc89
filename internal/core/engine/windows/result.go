// Package windows reads parts of an answered plan: lines that are in sight, groups, records.
package windows

import (
	"context"
	"slices"
	"time"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine/aggregation"
	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/engine/grouping"
	"gavrik/internal/core/engine/ordering"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// Result is an answered plan. What it says never changes; any goroutine may read it.
type Result struct {
	result.Summary

	Tree *grouping.Tree
	// Side is the records of the view; Other those of a comparison's other side, or nil.
	Side, Other *grouping.Side
	Sorter      *ordering.Sorter
	// Columns are those of the plan's columns that show values; nil for others.
	Columns []table.Column
	// Figures are those of the heads; nil where a head shows no total.
	Figures []*aggregation.Aggregates
	// Across are the groups across, and Counts the records of every cell by head, of a
	// crosstab.
	Across *grouping.Tree
	Counts []*aggregation.Aggregates
	// Address is what records are opened by, or nil.
	Address      table.Column
	AddressField catalog.Field
	// Column reads a field of the records again, where a figure is explained.
	Column func(ctx context.Context, ref catalog.Ref) (table.Column, error)
	// Reads are what it was worked out of.
	Reads *fields.Reads

	heads  []int // the places of all heads
	scales *scales
}

// Of is the result as of another moment, at which it is the same; column reads the records of then.
func (r *Result) Of(asOf time.Time, column func(context.Context, catalog.Ref) (table.Column, error)) *Result {
	out := *r
	out.AsOf, out.Column = asOf, column
	return &out
}

// Complete readies a result whose parts are all there.
func (r *Result) Complete() {
	r.scales = &scales{}
	for i := range r.Heads {
		r.heads = append(r.heads, i)
	}
	r.GrandTotal = r.windower(context.Background(), nil).group(0)
}

// Summarize is what the result says as a whole.
func (r *Result) Summarize() *result.Summary { return &r.Summary }

// Bytes estimates the memory that the result holds, the order of its records included,
// which is worked out when they are first looked at.
func (r *Result) Bytes() int64 {
	bytes := int64(4096) + 4*int64(r.Side.Rows.N) +
		r.Tree.Bytes() + r.Side.Bytes() + r.Other.Bytes() + r.Across.Bytes()
	seen := map[*aggregation.Aggregates]bool{nil: true}
	for _, f := range slices.Concat(r.Counts, r.Figures) {
		if !seen[f] {
			seen[f] = true
			bytes += f.Bytes()
		}
	}
	for i, c := range r.Columns {
		if c != nil && r.Plan.Derived[r.Plan.Columns[i].Ref.Path] != nil {
			bytes += c.Bytes()
		}
	}
	for _, s := range r.Steps {
		for _, text := range s.Unmatched {
			bytes += int64(len(text))
		}
	}
	return bytes
}
