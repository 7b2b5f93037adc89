package engine

import (
	"context"
	"fmt"
	"math/big"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/explain"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

func drawBeside(t *rapid.T, w *world, take view.BesideTake) view.Beside {
	b := view.Beside{Key: "side", Label: "Side", Take: take}
	if b.Take.OfField() {
		b.Field = rapid.SampledFrom(slices.DeleteFunc(slices.Clone(worldPaths), func(p string) bool {
			return !b.Take.Fits(w.field(p).Type)
		})).Draw(t, "looked at")
	}
	for range rapid.IntRange(0, 2).Draw(t, "each") {
		g := drawGroup(t, w)
		b.Each = append(b.Each, view.BesideEach{Field: g.Field, Unit: g.Unit})
	}
	if b.Take.Ordered() || rapid.Bool().Draw(t, "ordered anyway") {
		for range rapid.IntRange(1, 2).Draw(t, "by") {
			b.By = append(b.By, view.Sort{
				Field: rapid.SampledFrom(worldPaths).Draw(t, "order"), Desc: rapid.Bool().Draw(t, "desc"),
			})
		}
	}
	if rapid.IntRange(0, 2).Draw(t, "among") == 0 {
		c := drawCondition(t, w, 1)
		b.Among = &c
	}
	return b
}

// sides works a field beside others out among some records: its values by row, and how many of
// them a tie decided.
func (w *world) sides(b view.Beside, f catalog.Field, among []int) (map[int]any, map[int]bool) {
	groups := map[string][]int{}
	for _, i := range among {
		key := ""
		for _, e := range b.Each {
			key += fmt.Sprint(w.groupValue(view.Group{Field: e.Field, Unit: e.Unit}, i), "\x00")
		}
		groups[key] = append(groups[key], i)
	}
	out, tied := map[int]any{}, map[int]bool{}
	for _, rows := range groups {
		rows = slices.Clone(rows)
		slices.SortStableFunc(rows, func(a, c int) int { return w.compareRows(b.By, a, c) })
		if b.Take.Ordered() {
			for at := 1; at < len(rows); at++ {
				same := !slices.ContainsFunc(b.By, func(s view.Sort) bool {
					return compareBlankLast(w.rows[rows[at-1]][s.Field], w.rows[rows[at]][s.Field], w.field(s.Field), false) != 0
				})
				if same {
					tied[rows[at-1]], tied[rows[at]] = true, true
				}
			}
		}
		if b.Take.Combines() && b.Take != view.GroupRank && w.field(b.Field).CurrencyBy != "" &&
			len(w.coins(w.coinOf(b.Field), rows, b.Field)) > 1 {
			continue
		}
		for at, i := range rows {
			if v := w.side(b, f, rows, at); v != nil {
				out[i] = v
			}
		}
	}
	return out, tied
}

// side is the value of the record at a place of its group.
func (w *world) side(b view.Beside, result catalog.Field, rows []int, at int) any {
	var f catalog.Field
	if b.Field != "" {
		f = w.field(b.Field)
	}
	own := w.rows[rows[at]][b.Field]
	number := func(v any) *big.Rat { return rational(v, f) }
	far := func(a, c any) any {
		switch {
		case a == nil || c == nil:
			return nil
		case f.Approx:
			return a.(float64) - c.(float64)
		}
		x := new(big.Int).Sub(big.NewInt(a.(int64)), big.NewInt(c.(int64)))
		if !x.IsInt64() || x.Int64() == table.Blank {
			return nil
		}
		return x.Int64()
	}
	filled := slices.DeleteFunc(slices.Clone(rows), func(i int) bool { return w.rows[i][b.Field] == nil })
	each := func(fn view.Fn) any { // of every record of the group, also of linked ones
		sum := new(big.Rat)
		for _, i := range filled {
			sum.Add(sum, number(w.rows[i][b.Field]))
		}
		if len(filled) == 0 {
			return nil
		}
		if fn == view.Average {
			sum.Quo(sum, big.NewRat(int64(len(filled)), 1))
		}
		if f.Approx {
			x, _ := sum.Float64()
			return x
		}
		return stored(sum, result)
	}
	switch b.Take {
	case view.GroupCount:
		return int64(len(rows))
	case view.Position:
		return int64(at + 1)
	case view.GroupTotal:
		return each(view.Sum)
	case view.GroupAverage:
		return each(view.Average)
	case view.FromAverage:
		mean := each(view.Average)
		if own == nil || mean == nil {
			return nil
		}
		if f.Approx {
			return own.(float64) - mean.(float64)
		}
		x := new(big.Rat).Sub(number(own), rational(mean, result))
		return stored(x, result)
	case view.GroupShare:
		if own == nil {
			return nil
		}
		total := new(big.Rat)
		for _, i := range filled {
			total.Add(total, number(w.rows[i][b.Field]))
		}
		whole := stored(total, f)
		if f.Approx {
			whole = total
		}
		if total.Sign() == 0 || whole == nil {
			return nil
		}
		return stored(new(big.Rat).Quo(new(big.Rat).Mul(number(own), big.NewRat(100, 1)), total), result)
	case view.GroupRank:
		if own == nil {
			return nil
		}
		rank := int64(1)
		for _, i := range filled {
			if compareValues(w.rows[i][b.Field], f, own, f) > 0 {
				rank++
			}
		}
		return rank
	case view.Previous:
		if at > 0 {
			return w.rows[rows[at-1]][b.Field]
		}
	case view.Next:
		if at+1 < len(rows) {
			return w.rows[rows[at+1]][b.Field]
		}
	case view.PreviousChange, view.SincePrevious:
		if at > 0 {
			return far(own, w.rows[rows[at-1]][b.Field])
		}
	case view.RunningTotal:
		sum := new(big.Rat)
		for _, i := range rows[:at+1] {
			if v := w.rows[i][b.Field]; v != nil {
				sum.Add(sum, number(v))
			}
		}
		if f.Approx {
			x, _ := sum.Float64()
			return x
		}
		return stored(sum, f)
	case view.FirstOfEach:
		if len(filled) > 0 {
			return w.rows[filled[0]][b.Field]
		}
	case view.LastOfEach:
		if len(filled) > 0 {
			return w.rows[filled[len(filled)-1]][b.Field]
		}
	}
	return nil
}

// A record beside its group and beside the one before it, as a column, among the records that the
// other conditions keep, and as a condition that sees those.
func TestBesideEqualsReference(t *testing.T) {
	for _, take := range view.BesideTakes() {
		t.Run(string(take), func(t *testing.T) {
			rapid.Check(t, func(t *rapid.T) { besideEqualsReference(t, take) })
		})
	}
}

func besideEqualsReference(t *rapid.T, take view.BesideTake) {
	w := drawWorld(t)
	w.derived = map[string]catalog.Field{}
	early := drawCondition(t, w, 1)
	b := drawBeside(t, w, take)
	d := &view.Document{
		Gavrik: 1, Records: "crossings", Beside: []view.Beside{b},
		Columns: []view.Column{{Field: "ref"}, {Field: "side"}},
		Filter:  &view.Condition{All: []view.Condition{early}},
	}
	p, err := plan.Check(d, w.catalog, w.cal)
	if err != nil {
		require.ErrorContains(t, err, "the range ends before it begins", described(d))
		t.Skip("a range the wrong way round")
	}
	f := p.Derived["side"].Ref.Field
	w.derived["side"] = f
	if rapid.Bool().Draw(t, "asked about") && !f.Approx {
		op := view.Filled
		if f.Type.Numeric() {
			op = rapid.SampledFrom([]view.Op{view.Over, view.AtMost, view.IsBlank, view.Filled}).Draw(t, "op")
		}
		late := view.Condition{Field: "side", Op: op}
		if op == view.Over || op == view.AtMost {
			late.Value = drawOperand(t, w, f)
		}
		// It may stand first, and is decided last all the same.
		d.Filter.All = append([]view.Condition{late}, early)
	}
	after := rapid.Bool().Draw(t, "one after")
	if after {
		d.Filter.All = append(d.Filter.All, view.Condition{Field: "late", Op: view.Is, Value: "yes", After: true})
	}
	var among []int
	for i, row := range w.rows {
		if b.Among != nil && w.meets(b.Among, row) || b.Among == nil && w.meets(&early, row) {
			among = append(among, i)
		}
	}
	sides, tied := w.sides(b, f, among)
	var want []string
	ties := 0
	for i, row := range w.rows {
		row["side"] = sides[i]
		if w.meets(d.Filter, row) {
			want = append(want, fmt.Sprint("1||0|", w.cell(row["ref"], catalog.Field{}), "|", w.cell(row["side"], f)))
			if tied[i] {
				ties++
			}
		}
	}
	res := runWorld(t, w, w.engine(rapid.IntRange(1, 3).Draw(t, "workers")), d)
	require.Equal(t, want, written(whole(t, res).Lines), described(d))
	told := 0
	for _, tie := range res.Ties {
		told += tie.Count
	}
	require.Equal(t, ties, told, described(d))
}

// What leads from a group to its records keeps beside which records each stands: the three dearest of
// each state are those three still when one state is looked at.
func TestRecordsBehindAGroupStandBesideTheSameOthers(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		d := &view.Document{
			Gavrik: 1, Records: "crossings", Columns: []view.Column{{Field: "ref"}, {Field: "rank"}},
			Beside: []view.Beside{{Key: "rank", Label: "Rank", Take: view.GroupRank, Field: "seats"}},
			Groups: []view.Group{{Field: "late"}},
			Filter: &view.Condition{All: []view.Condition{{Field: "rank", Op: view.AtMost, Value: "9"}}},
		}
		e := w.engine(2)
		res := runWorld(t, w, e, d)
		for _, l := range whole(t, res).Lines {
			if l.Group == "" {
				continue
			}
			through, err := explain.DrillThrough(t.Context(), res, l.Group, -1)
			require.NoError(t, err)
			behind := *d
			behind.Groups = nil
			behind.Filter = &view.Condition{All: append(slices.Clone(d.Filter.All), through.Conditions...)}
			require.Equal(t, l.Count, runWorld(t, w, e, &behind).Kept, described(&behind))
		}
	})
}

// A formula of what is worked out among the records kept follows a filter that changes, though the
// engine keeps what it has worked out.
func TestBesideFollowsTheFilter(t *testing.T) {
	w := &world{catalog: worldCatalog, cal: worldCalendar}
	for i, seats := range []int64{10, 30, 60} {
		w.rows = append(w.rows, map[string]any{"ref": fmt.Sprint("C-", i), "seats": seats})
	}
	w.build()
	e := w.engine(2)
	lines := func(filter *view.Condition) []string {
		d := &view.Document{
			Gavrik: 1, Records: "crossings", Columns: []view.Column{{Field: "half"}}, Filter: filter,
			Beside:     []view.Beside{{Key: "whole", Label: "Whole", Take: view.GroupTotal, Field: "seats"}},
			Calculated: []view.Calculated{{Key: "half", Label: "Half", Formula: "Seats * 10 + Whole"}},
		}
		p, err := plan.Check(d, w.catalog, w.cal)
		require.NoError(t, err)
		res, err := e.Run(context.Background(), readBack(t, p))
		require.NoError(t, err)
		return written(window(t, res, result.Open{}, 0, 9, 1).Lines)
	}
	require.Equal(t, []string{"1||0|200", "1||0|400", "1||0|700"}, lines(nil))
	require.Equal(t, []string{"1||0|390", "1||0|690"}, lines(&view.Condition{Field: "seats", Op: view.Over, Value: "20"}))
	d := &view.Document{
		Gavrik: 1, Records: "crossings", Columns: []view.Column{},
		Beside: []view.Beside{
			{Key: "a", Label: "A", Take: view.GroupRank, Field: "seats", Among: &view.Condition{Field: "b", Op: view.Over, Value: "1"}},
			{Key: "b", Label: "B", Take: view.GroupShare, Field: "seats"},
			{Key: "c", Label: "C", Take: view.Position},
		},
	}
	_, err := plan.Check(d, w.catalog, w.cal)
	require.ErrorContains(t, err, "beside[0].among: what decides which records there are beside each other")
	require.ErrorContains(t, err, "beside[2].by: which record is before which is not said")
}
