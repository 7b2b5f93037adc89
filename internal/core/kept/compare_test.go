package kept

import (
	"context"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// row is a record as a test has it: its key and its values by field.
type row struct {
	key    string
	values map[string]int64
}

// of is a result that shows some fields of rows.
func of(fields []string, rows []row) *Result {
	p := &plan.Plan{Records: "crossings", Address: "ref"}
	k := &Result{sum: result.Summary{Plan: p, Kept: len(rows)}, rows: len(rows)}
	for i, f := range fields {
		p.Columns = append(p.Columns, plan.Column{Ref: catalog.Ref{Path: f}, Values: true, Measure: -1})
		k.sum.Heads = append(k.sum.Heads, result.Head{Column: i})
		var c column
		for _, r := range rows {
			v, ok := r.values[f]
			if ok {
				c.add(cell.Cell{Kind: cell.Number, Int: v})
			} else {
				c.add(cell.Cell{})
			}
		}
		k.records = append(k.records, c)
	}
	for _, r := range rows {
		k.addresses.add(cell.Cell{Kind: cell.Text, Text: r.key})
	}
	return k
}

// What became of records is what a look at each by itself says, whatever their order and whatever
// columns either result has.
func TestWhatBecameOfRecords(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		fields := rapid.SliceOfDistinct(rapid.SampledFrom([]string{"seats", "fare", "wind", "delay"}), rapid.ID)
		had, has := fields.Draw(t, "had"), fields.Draw(t, "has")
		rows := func(label string) []row {
			keys := rapid.SliceOfDistinct(rapid.IntRange(0, 12), rapid.ID).Draw(t, label)
			out := make([]row, len(keys))
			for i, key := range keys {
				values := rapid.MapOf(rapid.SampledFrom([]string{"seats", "fare", "wind", "delay"}), rapid.Int64Range(0, 2))
				out[i] = row{fmt.Sprint("MS-", key), values.Draw(t, "values")}
			}
			return out
		}
		before, now := rows("before"), rows("now")
		d, err := Compare(context.Background(), of(had, before), of(has, now))
		require.NoError(t, err)
		place := func(list []row, key string) int {
			return slices.IndexFunc(list, func(r row) bool { return r.key == key })
		}
		var both []string
		for _, f := range has {
			if slices.Contains(had, f) {
				both = append(both, f)
			}
		}
		require.Len(t, d.Columns, len(both))
		var want Difference
		for i, r := range now {
			was := place(before, r.key)
			if was < 0 {
				want.Came = append(want.Came, i)
				continue
			}
			c := Changed{Before: was, Now: i}
			for at, f := range both {
				x, hadOne := before[was].values[f]
				y, hasOne := r.values[f]
				if x != y || hadOne != hasOne {
					c.Columns = append(c.Columns, at)
				}
			}
			if c.Columns == nil {
				want.Same++
			} else {
				want.Changed = append(want.Changed, c)
			}
		}
		for i, r := range before {
			if place(now, r.key) < 0 {
				want.Went = append(want.Went, i)
			}
		}
		want.Columns = d.Columns
		require.Equal(t, &want, d)
	})
}

func TestResultsThatCannotBeCompared(t *testing.T) {
	crossings := of([]string{"seats"}, []row{{"MS-1", nil}})
	others := of([]string{"seats"}, nil)
	others.sum.Plan.Records = "claims"
	_, err := Compare(context.Background(), crossings, others)
	require.ErrorContains(t, err, "different records")
	for _, k := range []*Result{crossings, others} {
		k.sum.Plan.Records, k.sum.Plan.Address = "crossings", ""
	}
	_, err = Compare(context.Background(), crossings, others)
	require.ErrorIs(t, err, ErrNoKeys)
}

// A column gives back every cell as it was put in.
func TestColumnsKeepEveryCell(t *testing.T) {
	cells := rapid.Custom(func(t *rapid.T) cell.Cell {
		kind := rapid.SampledFrom([]cell.Kind{
			cell.Blank, cell.Number, cell.Approximate, cell.Text, cell.Date, cell.Moment, cell.Duration, cell.YesNo, cell.Picture, cell.Several,
		}).Draw(t, "kind")
		c := cell.Cell{Kind: kind}
		switch kind {
		case cell.Blank:
		case cell.Text, cell.Picture:
			c.Text = rapid.SampledFrom([]string{"Oxley", "Tarn Head", "Ø", "quay\x1f"}).Draw(t, "text")
		case cell.Several:
			c.More = &cell.More{Amounts: []cell.Amount{{Currency: "EUR", Value: cell.Cell{Kind: cell.Number, Int: 1, Scale: 2}}}}
		default:
			c.Int, c.Scale = rapid.Int64().Draw(t, "number"), int8(rapid.IntRange(0, 3).Draw(t, "scale"))
			if rapid.IntRange(0, 9).Draw(t, "more") == 0 {
				c.More = &cell.More{Times: 3, Currency: "GBP"}
			}
		}
		return c
	})
	rapid.Check(t, func(t *rapid.T) {
		in := rapid.SliceOf(cells).Draw(t, "cells")
		var c column
		for _, one := range in {
			c.add(one)
		}
		require.True(t, c.whole(len(in)))
		for i, one := range in {
			require.Equal(t, one, c.at(i))
		}
	})
}
