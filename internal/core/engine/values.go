// The different values of a field with their counts, and the facts of a field.

package engine

import (
	"context"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/engine/numbering"
	"gavrik/internal/core/engine/selection"
	"gavrik/internal/core/format"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// under readies a look at one field: its column, and the records that the plan's
// filter keeps.
func (r *run) under(ref catalog.Ref) (table.Column, kernel.Bitmap, error) {
	col, err := r.fields.Column(ref)
	if err != nil {
		return nil, kernel.Bitmap{}, err
	}
	kept, _, err := selection.Select(r.job, r.fields, r.fields.Plan.Filter)
	return col, kept, err
}

// Values lists a field's values with their counts under the plan's filter. Only
// values that hold the search text, without regard to case and accents, are
// listed, and at most limit of them.
func (e *Engine) Values(
	ctx context.Context, p *plan.Plan, ref catalog.Ref, search string, limit int,
) (*result.Values, error) {
	return within(e, ctx, p, func(r *run) (*result.Values, error) { return r.values(ref, search, limit) })
}

func (r *run) values(ref catalog.Ref, search string, limit int) (*result.Values, error) {
	col, kept, err := r.under(ref)
	if err != nil {
		return nil, err
	}
	keys, inAll, inKept, err := r.counted(col, kept, "listing the values of "+catalog.LowerFirst(ref.Label))
	if err != nil {
		return nil, err
	}
	out := &result.Values{BlankKept: inKept[0], BlankAll: inAll[0]}
	return out, r.pick(out, keys, ref.Field, inAll, inKept, table.Fold(search), limit)
}

// counted counts the records of each value of a column, by its number: all, and those kept.
func (r *run) counted(
	col table.Column, kept kernel.Bitmap, doing string,
) (keys *numbering.Keys, inAll, inKept []int, err error) {
	all := kernel.Rows{N: r.fields.Rows}
	if keys, err = numbering.Values(r.job, col, all); err != nil {
		return nil, nil, nil, err
	}
	if err := r.job.Need(24*int64(keys.Card), doing); err != nil {
		return nil, nil, nil, err
	}
	inAll, inKept = make([]int, keys.Card), make([]int, keys.Card)
	for lo := 0; lo < all.N; lo += kernel.BlockRows {
		if err := r.job.Stopped(); err != nil {
			return nil, nil, nil, err
		}
		for i, key := range keys.At(all, lo, min(lo+kernel.BlockRows, all.N), nil) {
			row := lo + i
			many := int(r.fields.Weights.At(int32(row)))
			inAll[key] += many
			inKept[key] += many * int(kept.Words[row/64]>>(row%64)&1)
		}
	}
	return keys, inAll, inKept, nil
}

func (r *run) pick(
	v *result.Values, k *numbering.Keys, f catalog.Field, all, kept []int, search string, limit int,
) error {
	people := format.NewWriter(format.People, r.fields.Plan.Calendar)
	var found []uint32
	for key := uint32(1); key < uint32(k.Card); key++ {
		if key%kernel.BlockRows == 0 && r.job.IsStopped() {
			return r.job.Stopped()
		}
		if all[key] == 0 {
			continue
		}
		v.Distinct++
		if search == "" || strings.Contains(
			k.Folded(key, func() string { return k.Text(people, key, f) }), search,
		) {
			found = append(found, key)
		}
	}
	v.Found = len(found)
	slices.SortStableFunc(found, func(a, b uint32) int {
		if c := kept[b] - kept[a]; c != 0 {
			return c
		}
		return all[b] - all[a]
	})
	listed := min(limit, len(found))
	for _, key := range found[listed:] {
		v.RestKept, v.RestAll = v.RestKept+kept[key], v.RestAll+all[key]
	}
	for _, key := range found[:listed] {
		v.List = append(v.List, result.ValueCount{Value: k.Value(key, f), Kept: kept[key], All: all[key]})
	}
	return nil
}

// sampleRows is how many rows are looked through for so many samples.
const (
	sampleRows = 500
	samples    = 12
)

// CellAt is the value of a field in a row of its column.
func CellAt(col table.Column, f catalog.Field, row int) cell.Cell {
	return fields.Cell(col, f, int32(row))
}

// Facts tells a field's fullness and a few of its values: of a stored one in its own record
// set, of one that the plan makes over the plan's records.
func (e *Engine) Facts(ctx context.Context, p *plan.Plan, ref catalog.Ref) (result.Facts, error) {
	if p == nil || p.Derived[ref.Path] == nil {
		col, err := e.source.Stored(ref.Set, ref.Field.Key)
		if err != nil {
			return result.Facts{}, err
		}
		return factsOf(col, ref), nil
	}
	return within(e, ctx, p, func(r *run) (result.Facts, error) {
		col, err := r.fields.Column(ref)
		if err != nil {
			return result.Facts{}, err
		}
		return factsOf(col, ref), nil
	})
}

func factsOf(col table.Column, ref catalog.Ref) result.Facts {
	f := result.Facts{Rows: col.Len(), Blanks: col.Blanks()}
	if ref.Field.Type == catalog.Picture {
		return f
	}
	for row := 0; row < min(col.Len(), sampleRows) && len(f.Samples) < samples; row++ {
		c := fields.Cell(col, ref.Field, int32(row))
		if c.Kind != cell.Blank && !slices.Contains(f.Samples, c) {
			f.Samples = append(f.Samples, c)
		}
	}
	return f
}
