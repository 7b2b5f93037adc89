package engine

import (
	"context"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// ValueCount is one distinct value of a field.
type ValueCount struct {
	// Value is written as a condition's operand takes it; Label for people.
	Value, Label string
	// Kept counts the records that have it under the filter, All without one.
	Kept, All int
}

// Values are the distinct values of a field, the commonest first.
type Values struct {
	// Distinct counts the values before the search; Found after it. Neither
	// counts the blank.
	Distinct, Found int
	List            []ValueCount
	// RestKept and RestAll count the records of the values found and not listed.
	RestKept, RestAll int
	BlankKept         int
	BlankAll          int
}

// under readies a look at one field: its column, and the records that the plan's
// filter keeps.
func (r *run) under(ref catalog.Ref) (table.Column, bitmap, error) {
	col, err := r.column(ref)
	if err != nil {
		return nil, bitmap{}, err
	}
	kept, _, err := r.filter(r.plan.Filter)
	return col, kept, err
}

// Values lists a field's values with their counts under the plan's filter. Only
// values that hold the search text, without regard to case and accents, are
// listed, and at most limit of them.
func (e *Engine) Values(ctx context.Context, p *plan.Plan, ref catalog.Ref, search string, limit int) (*Values, error) {
	return within(e, ctx, p, func(r *run) (*Values, error) { return r.values(ref, search, limit) })
}

func (r *run) values(ref catalog.Ref, search string, limit int) (*Values, error) {
	col, kept, err := r.under(ref)
	if err != nil {
		return nil, err
	}
	all := rows{n: r.table.Rows}
	keys, err := r.numberValues(col, all)
	if err != nil {
		return nil, err
	}
	if err := r.need(24*int64(keys.card), "listing the values of "+catalog.LowerFirst(ref.Label)); err != nil {
		return nil, err
	}
	inAll, inKept := make([]int, keys.card), make([]int, keys.card)
	for lo := 0; lo < all.n; lo += blockRows {
		if err := r.stopped(); err != nil {
			return nil, err
		}
		for i, key := range keys.at(all, lo, min(lo+blockRows, all.n), nil) {
			row := lo + i
			inAll[key]++
			inKept[key] += int(kept.words[row/64] >> (row % 64) & 1)
		}
	}
	out := &Values{BlankKept: inKept[0], BlankAll: inAll[0]}
	return out, out.pick(r, keys, ref.Field, inAll, inKept, table.Fold(search), limit)
}

func (v *Values) pick(r *run, k *levelKeys, f catalog.Field, all, kept []int, search string, limit int) error {
	people, plain := format.NewWriter(format.People, r.plan.Calendar), format.NewWriter(format.Plain, r.plan.Calendar)
	var found []uint32
	for key := uint32(1); key < uint32(k.card); key++ {
		if key%blockRows == 0 && r.isStopped() {
			return r.stopped()
		}
		if all[key] == 0 {
			continue
		}
		v.Distinct++
		if search == "" || strings.Contains(k.folded(key, func() string { return k.text(people, key, f) }), search) {
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
		value := k.text(plain, key, f)
		if f.Type == catalog.YesNo {
			value = strings.ToLower(k.text(people, key, f))
		}
		v.List = append(v.List, ValueCount{Value: value, Label: k.text(people, key, f), Kept: kept[key], All: all[key]})
	}
	return nil
}

// folded is a value's text without case and accents; label writes it if no
// dictionary holds it.
func (k *levelKeys) folded(key uint32, label func() string) string {
	if k.dict != nil {
		return k.dict.Folded(key)
	}
	return table.Fold(label())
}

// Facts are what a field holds over its whole record set.
type Facts struct {
	Rows, Blanks int
	// Samples are up to three different values, in table order.
	Samples []string
}

// sampleRows is how many rows are looked through for samples.
const sampleRows = 500

// Facts tells a field's fullness and a few of its values, in its own record set.
func (e *Engine) Facts(ref catalog.Ref, w *format.Writer) (Facts, error) {
	col, err := e.stored(ref.Set, ref.Field.Key)
	if err != nil {
		return Facts{}, err
	}
	return factsOf(col, ref, w), nil
}

// DerivedFacts are Facts of a field that a plan makes, over the plan's records.
func (e *Engine) DerivedFacts(ctx context.Context, p *plan.Plan, ref catalog.Ref, w *format.Writer) (Facts, error) {
	return within(e, ctx, p, func(r *run) (Facts, error) {
		col, err := r.column(ref)
		if err != nil {
			return Facts{}, err
		}
		return factsOf(col, ref, w), nil
	})
}

func factsOf(col table.Column, ref catalog.Ref, w *format.Writer) Facts {
	f := Facts{Rows: col.Len(), Blanks: col.Blanks()}
	if ref.Field.Type == catalog.Picture {
		return f
	}
	p := &pen{w: w}
	for row := 0; row < min(col.Len(), sampleRows) && len(f.Samples) < 3; row++ {
		if s := p.cell(col, ref.Field, int32(row)); s != "" && !slices.Contains(f.Samples, s) {
			f.Samples = append(f.Samples, s)
		}
	}
	return f
}
