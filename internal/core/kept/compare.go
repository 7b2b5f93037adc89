package kept

import (
	"context"
	"errors"
	"reflect"

	"gavrik/internal/core/cell"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/result"
	"gavrik/internal/core/turn"
)

// Difference is what became of the records of one result in another of the same view, by what the
// records are opened by.
type Difference struct {
	// Columns are those that both have, by their heads: what is in no one of them is not compared.
	Columns []Pair
	// Totals are the figures that both have.
	Totals []Pair
	// Came are the places of records of the later result that the earlier one has not, Went those of
	// the earlier that the later one has not; each in the order shown.
	Came, Went []int
	// Changed are the records of both that differ, in the order of the later.
	Changed []Changed
	// Same is how many of both do not differ.
	Same int
}

// Pair is a column in the earlier and in the later result.
type Pair struct{ Before, Now int }

// Changed is a record that differs.
type Changed struct {
	// Before and Now are its places.
	Before, Now int
	// Columns are the places among those of the difference.
	Columns []int
}

// ErrNoKeys says that records cannot be told from each other.
var ErrNoKeys = errors.New("these records have nothing that tells one from another, so they cannot be compared one by one")

// Compare finds what became of the records of a result.
func Compare(ctx context.Context, before, now *Result) (*Difference, error) {
	if before.sum.Plan.Records != now.sum.Plan.Records || before.sum.Plan.Address != now.sum.Plan.Address {
		return nil, errors.New("these are results of different records, which cannot be compared")
	}
	if now.sum.Plan.Address == "" && before.rows+now.rows > 0 {
		return nil, ErrNoKeys
	}
	mine := turn.Of(ctx)
	defer mine.Rest()
	d := &Difference{Columns: pairs(before, now, true), Totals: pairs(before, now, false)}
	places := make(map[cell.Cell]int, before.rows)
	for row := range before.rows {
		places[before.addresses.at(row)] = row
	}
	met := make([]bool, before.rows)
	for row := range now.rows {
		if row%look == 0 {
			if err := mine.Wait(ctx); err != nil {
				return nil, kernel.Stopped(err)
			}
		}
		was, ok := places[now.addresses.at(row)]
		if !ok {
			d.Came = append(d.Came, row)
			continue
		}
		met[was] = true
		changed := Changed{Before: was, Now: row}
		for i, p := range d.Columns {
			if !same(before.records[p.Before].at(was), now.records[p.Now].at(row)) {
				changed.Columns = append(changed.Columns, i)
			}
		}
		if changed.Columns == nil {
			d.Same++
		} else {
			d.Changed = append(d.Changed, changed)
		}
	}
	for row, is := range met {
		if !is {
			d.Went = append(d.Went, row)
		}
	}
	return d, nil
}

// same says whether two values are one; amounts of several currencies are compared one by one.
func same(a, b cell.Cell) bool {
	if a.More == nil && b.More == nil {
		return a == b
	}
	return reflect.DeepEqual(a, b)
}

// name is what a head shows, whatever its heading and place: values of a field or a total of it, on
// one side of a comparison. A crosstab's columns are named by their groups as well.
type name struct {
	path, total, across string
	part                result.Part
}

func (k *Result) nameOf(h result.Head) name {
	c := k.sum.Plan.Columns[h.Column]
	out := name{path: c.Ref.Path, across: h.AcrossPath, part: h.Part}
	if c.Measure >= 0 {
		m := k.sum.Plan.Measures[c.Measure]
		out.total = string(m.Fn) + " " + string(m.Show) + " " + m.Label
	}
	return out
}

// pairs are the columns that both results have: of values of records or, else, of totals.
func pairs(before, now *Result, values bool) (out []Pair) {
	shows := func(k *Result, h result.Head) bool {
		c := k.sum.Plan.Columns[h.Column]
		if values {
			return c.Values && h.Part == result.Own && len(k.sum.Plan.Across) == 0
		}
		return c.Measure >= 0
	}
	there := map[name]int{}
	for i, h := range before.sum.Heads {
		if _, known := there[before.nameOf(h)]; shows(before, h) && !known {
			there[before.nameOf(h)] = i
		}
	}
	for i, h := range now.sum.Heads {
		if at, ok := there[now.nameOf(h)]; ok && shows(now, h) {
			out = append(out, Pair{at, i})
			delete(there, now.nameOf(h))
		}
	}
	return out
}

// Record is the line of a record at its place in the order shown.
func (k *Result) Record(row int) result.Line {
	return k.record(row, make([]cell.Cell, len(k.sum.Heads)))
}
