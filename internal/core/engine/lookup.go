// Records by their keys.

package engine

import (
	"context"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// Lookup reads records by their keys, which are values of the plan's Address: for each the
// values of the plan's columns, or nil where no record has it.
func (e *Engine) Lookup(ctx context.Context, p *plan.Plan, keys []cell.Cell) ([][]cell.Cell, error) {
	return within(e, ctx, p, func(r *run) ([][]cell.Cell, error) {
		set := e.catalog.Set(p.Records)
		if set == nil || set.Field(p.Address) == nil {
			return nil, &result.NotThereError{What: "field that tells the " + p.Many + " apart"}
		}
		found, err := r.rowsOfKeys(*set.Field(p.Address), keys)
		if err != nil {
			return nil, err
		}
		columns := make([]table.Column, len(p.Columns))
		for i, c := range p.Columns {
			if c.Values {
				if columns[i], err = r.fields.Column(c.Ref); err != nil {
					return nil, err
				}
			}
		}
		out := make([][]cell.Cell, len(keys))
		for i, row := range found {
			if row < 0 {
				continue
			}
			out[i] = make([]cell.Cell, len(columns))
			for c, col := range columns {
				out[i][c] = fields.Cell(col, p.Columns[c].Ref.Field, row)
			}
		}
		return out, nil
	})
}

// rowsOfKeys finds the row of each value of a field that tells records apart; -1 for those that
// no record has. It looks through the field once, however many are asked for.
func (r *run) rowsOfKeys(f catalog.Field, keys []cell.Cell) ([]int32, error) {
	col, err := r.fields.Stored(r.fields.Plan.Records, f.Key)
	if err != nil {
		return nil, err
	}
	out := slices.Repeat([]int32{-1}, len(keys))
	asked := map[cell.Cell][]int{}
	for i, k := range keys {
		if k.More = nil; k.Kind != cell.Blank {
			asked[k] = append(asked[k], i)
		}
	}
	if c, ok := col.(*table.Texts); ok && uniqueTexts(c, f, asked, out) {
		return out, nil
	}
	for row := range int32(col.Len()) {
		if row%kernel.BlockRows == 0 {
			if err := r.job.Stopped(); err != nil {
				return nil, err
			}
		}
		for _, i := range asked[fields.Cell(col, f, row)] {
			out[i] = row
		}
	}
	return out, nil
}

// uniqueTexts is rowsOfKeys by the index of a column whose texts lead to their rows; false if
// it has none.
func uniqueTexts(c *table.Texts, f catalog.Field, asked map[cell.Cell][]int, out []int32) bool {
	if _, unique := c.RowOf(1); !unique {
		return false
	}
	for k, places := range asked {
		for _, code := range c.Dict.FindFolded(nil, table.Fold(k.Text)) {
			if cell.OfText(c.Dict.Value(code), f) != k {
				continue // alike but for case or accents
			}
			row, _ := c.RowOf(code)
			for _, i := range places {
				out[i] = row
			}
		}
	}
	return true
}
