package engine

import (
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// Result is an answered plan. What it says never changes; any goroutine may read it.
type Result struct {
	result.Summary

	tree    *tree
	side    *side
	others  *side // of a comparison, or nil
	sorter  *sorter
	columns []table.Column // of the plan's columns
	// address is what records are opened by, or nil.
	address      table.Column
	addressField catalog.Field
	cells        []*aggregates // of the heads; nil where a head shows no figure
	// allHeads are the places of the heads; counts the records of a crosstab's cells, by head.
	allHeads []int
	counts   []*aggregates
	across   *tree // the groups across, of a crosstab

	// e is the engine that looks at the records again where a figure is explained.
	e      *Engine
	scales scales
}

// Summarize is what the result says as a whole.
func (r *Result) Summarize() *result.Summary { return &r.Summary }

// Bytes estimates the memory that the result holds, the order of its records included,
// which is worked out when they are first looked at.
func (r *Result) Bytes() int64 {
	bytes := int64(4096) + r.tree.bytes() + r.side.bytes() + r.others.bytes() + r.across.bytes() + 4*int64(r.Kept)
	seen := map[*aggregates]bool{nil: true}
	for _, f := range slices.Concat(r.counts, r.cells) {
		if !seen[f] {
			seen[f] = true
			bytes += f.bytes()
		}
	}
	for i, c := range r.columns {
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

// groupsOf counts the groups of each level, the outermost first.
func groupsOf(t *tree, levels int) []int {
	out := make([]int, levels)
	for _, n := range t.nodes[1:] {
		out[n.level-1]++
	}
	return out
}
