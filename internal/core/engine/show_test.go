package engine

import (
	"math/big"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Whatever the groups and their order, what is shown in place of a sum follows from
// the sums of the lines around it.
func TestShownFiguresFollowFromTheirNeighbours(t *testing.T) {
	shows := []view.Show{
		view.ShowFigure, view.ShareAll, view.ShareGroup, view.Running, view.Rank, view.Difference, view.Change,
	}
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		d := &view.Document{Gavrik: 1, Records: "crossings"}
		for range rapid.IntRange(1, 2).Draw(t, "levels") {
			d.Groups = append(d.Groups, drawGroup(t, w))
		}
		path := rapid.SampledFrom([]string{"seats", "rebate"}).Draw(t, "path")
		for _, s := range shows {
			d.Columns = append(d.Columns, view.Column{Field: path, Totals: []view.Total{{Fn: view.Sum, Show: s}}})
		}
		res := runWorld(t, w, w.engine(2), d)
		grand := number(grand(res, format.Plain).Cells[0])
		// By the path of the group around; that of none is empty.
		sums := map[string]*big.Rat{"": grand}
		before := map[string]*big.Rat{}
		running := map[string]*big.Rat{}
		siblings := map[string][]*big.Rat{}
		lines := window(t, res, result.Open{Depth: len(d.Groups) - 1}, 0, 1<<20, format.Plain).Lines
		around := []string{""}
		parentOf := make([]string, len(lines))
		for i, l := range lines {
			around = append(around[:l.Level], l.Group)
			parentOf[i] = around[l.Level-1]
			sums[l.Group] = number(lines[i].Cells[0])
			siblings[parentOf[i]] = append(siblings[parentOf[i]], sums[l.Group])
		}
		for i := range lines {
			cells, own, parent := lines[i].Cells, number(lines[i].Cells[0]), parentOf[i]
			require.Equal(t, share(own, grand), cells[1], "share of all: %s", described(d))
			require.Equal(t, share(own, sums[parent]), cells[2], "share of group")
			if own != nil {
				if running[parent] == nil {
					running[parent] = new(big.Rat)
				}
				running[parent].Add(running[parent], own)
			}
			require.Equal(t, decimals(running[parent], w.field(path).Scale), cells[3], "running")
			require.Equal(t, rankAmong(own, siblings[parent]), cells[4], "rank")
			want, change := "", ""
			if own != nil && before[parent] != nil {
				step := new(big.Rat).Sub(own, before[parent])
				want = decimals(step, w.field(path).Scale)
				change = share(step, new(big.Rat).Abs(before[parent]))
			}
			require.Equal(t, want, cells[5], "difference")
			require.Equal(t, change, cells[6], "change")
			before[parent] = own
		}
	})
}

func number(cell string) *big.Rat {
	if r, ok := new(big.Rat).SetString(cell); ok {
		return r
	}
	return nil
}

func decimals(r *big.Rat, scale int) string {
	if r == nil {
		return ""
	}
	return r.FloatString(scale)
}

// share is one figure in percent of another, halves away from zero.
func share(part, whole *big.Rat) string {
	if part == nil || whole == nil || whole.Sign() == 0 {
		return ""
	}
	r := new(big.Rat).Quo(part, whole)
	r.Mul(r, big.NewRat(10_000, 1))
	return new(big.Rat).SetFrac(roundRat(r), big.NewInt(100)).FloatString(2)
}

func rankAmong(own *big.Rat, all []*big.Rat) string {
	if own == nil {
		return ""
	}
	larger := slices.DeleteFunc(slices.Clone(all), func(r *big.Rat) bool { return r == nil || r.Cmp(own) <= 0 })
	return big.NewInt(int64(len(larger) + 1)).String()
}

// Moved in time and moved back, each side's figures are those of a view of its own.
func TestMovedGroupsKeepTheirFigures(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		w := drawWorld(t)
		month := rapid.IntRange(2, 6).Draw(t, "month")
		stretch := func(m int) view.Condition {
			return view.Condition{Field: "day", Op: view.Between, Value: monthDay(m, 1), To: monthDay(m, 28)}
		}
		own, other := stretch(month), stretch(month-1)
		groups := []view.Group{{Field: "day"}}
		columns := []view.Column{{Field: "seats", Totals: []view.Total{{Fn: view.Sum}, {Fn: view.Median}}}}
		compared := &view.Document{Gavrik: 1, Records: "crossings", Filter: &own, Groups: groups, Columns: columns,
			Compare: &view.Compare{With: view.OtherPeriod, From: monthDay(month-1, 1), To: monthDay(month-1, 28)}}
		alone := &view.Document{Gavrik: 1, Records: "crossings", Filter: &other, Groups: groups, Columns: columns}
		e := w.engine(2)
		both, apart := runWorld(t, w, e, compared), runWorld(t, w, e, alone)
		found := map[string][]string{}
		for _, l := range window(t, both, result.Open{}, 0, 1000, format.Plain).Lines {
			if l.Others > 0 {
				found[l.Label] = []string{l.Cells[1], l.Cells[5]} // the other side's sum and median
			}
		}
		lines := window(t, apart, result.Open{}, 0, 1000, format.Plain).Lines
		require.Len(t, found, len(lines))
		for _, l := range lines {
			moved := monthDay(month, int((l.Label[8]-'0')*10+l.Label[9]-'0'))
			require.Equal(t, l.Cells, found[moved], "%s beside %s", l.Label, moved)
		}
		require.Equal(t, apart.Kept, both.Others)
	})
}

func monthDay(month, day int) string {
	return "2026-" + string([]byte{'0', byte('0' + month), '-', byte('0' + day/10), byte('0' + day%10)})
}
