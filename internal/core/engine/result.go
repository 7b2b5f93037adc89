package engine

import (
	"maps"
	"slices"
	"time"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/program"
	"gavrik/internal/core/table"
)

// Result is an answered view. What it says never changes; any goroutine may read it.
type Result struct {
	Plan *plan.Plan
	AsOf time.Time
	// All and Kept count the records before and after the filter; Others those of
	// the other side of a comparison.
	All, Kept, Others int
	Steps             []Step
	Check             Check
	// Problems are what went wrong for single values.
	Problems []Problem
	// Currencies are the amounts that no total can put together.
	Currencies []Currencies
	// Heads are the columns of the ledger from left to right.
	Heads []Head

	tree    *tree
	side    *side
	others  *side // of a comparison, or nil
	sorter  *sorter
	columns []table.Column // of the plan's columns
	cells   []*figures     // of the heads; nil where a head shows no figure
	// counts are the records of a crosstab's cells, by the path of the group across.
	counts map[string]*figures
	across *tree // the groups across, of a crosstab

	scales scales
}

// Bytes estimates the memory that the result holds, the order of its records included,
// which is worked out when they are first looked at.
func (r *Result) Bytes() int64 {
	bytes := int64(4096) + r.tree.bytes() + r.side.bytes() + r.others.bytes() + r.across.bytes() + 4*int64(r.Kept)
	seen := map[*figures]bool{nil: true}
	for _, f := range append(slices.Collect(maps.Values(r.counts)), r.cells...) {
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

// Check tells how the subtotals were verified: every sum was worked out once
// more over all kept records, apart from the groups, and compared.
type Check struct {
	Groups   bool     // there are groups at all
	Measures int      // how many sums were compared
	Wrong    []string // the labels of those that differ; none, unless the engine is broken
}

// Problem is values that could not be worked out, and are blank.
type Problem struct {
	// Label is the field's or total's; Path the field's, whose failed records can be
	// asked for by it, unless Groups is set.
	Label, Path string
	Reason      program.Reason
	// Count is how many records, or groups if Groups is set, it befell.
	Count  int
	Groups bool
}

// Currencies says that a total is taken of amounts in several currencies, of which
// each is totalled by itself.
type Currencies struct {
	Label string
	// By is the path of the field that names each amount's currency.
	By string
	// Count is how many there are among all kept records.
	Count int
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
