package kernel

import (
	"cmp"
	"math"
	"math/big"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Sums, products and quotients of 128 bits equal those of big integers.
func TestWideArithmetic(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		values := rapid.SliceOfN(rapid.Int64(), 1, 40).Draw(t, "values")
		sum, want := Int128{}, new(big.Int)
		for _, v := range values {
			sum = sum.Plus(Wide(v))
			want.Add(want, big.NewInt(v))
		}
		require.Equal(t, want.String(), sum.Big().String())
		require.Equal(t, new(big.Int).Neg(want).String(), sum.Negated().Big().String())
		other := rapid.Int64().Draw(t, "other")
		require.Equal(t, want.Cmp(big.NewInt(other)), sum.Compare(Wide(other)))
		v, fits := sum.Narrow()
		require.Equal(t, want.IsInt64() && want.Int64() != math.MinInt64, fits)
		if fits {
			require.Equal(t, want.Int64(), v)
		}
		k := rapid.Int64Range(-1e18, 1e18).Draw(t, "k")
		require.Equal(
			t, new(big.Int).Mul(big.NewInt(other), big.NewInt(k)).String(), Wide(other).Times(k).Big().String(),
		)
		n := rapid.Int64Range(1, math.MaxInt64).Draw(t, "n")
		scale := rapid.SampledFrom([]int64{1, 100, 1e9}).Draw(t, "scale")
		exact := new(big.Rat).SetFrac(new(big.Int).Mul(want, big.NewInt(scale)), big.NewInt(n))
		quotient, _ := new(big.Int).SetString(exact.FloatString(0), 10) // halves away from zero
		got, ok := sum.Ratio(n, scale)
		if ok {
			require.Equal(t, quotient.Int64(), got)
		} else {
			require.Equal(t, 1, new(big.Int).Abs(quotient).Cmp(big.NewInt(math.MaxInt64)))
		}
	})
}

func TestRadixSortIsAStableSort(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		keys := rapid.SliceOf(rapid.OneOf(rapid.Uint64Range(0, 3), rapid.Uint64())).Draw(t, "keys")
		given := []Pair{}
		for i, k := range keys {
			given = append(given, Pair{k, int32(i)})
		}
		want := slices.Clone(given)
		slices.SortStableFunc(want, func(a, b Pair) int { return cmp.Compare(a.Key, b.Key) })
		require.Equal(
			t, want, SortParts(slices.Clone(given), make([]Pair, len(given)), 64, 3, func() bool { return false }),
		)
		got, unused := SortPairs(given, make([]Pair, len(given)), 64, func() bool { return false })
		require.Equal(t, want, got)
		require.Len(t, unused, len(got))
	})
}

func TestTwoNeighboursOfAList(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		vals := rapid.SliceOfN(rapid.OneOf(rapid.Int64Range(0, 4), rapid.Int64()), 1, 200).Draw(t, "vals")
		sorted := slices.Sorted(slices.Values(vals))
		k := rapid.IntRange(0, len(vals)-1).Draw(t, "k")
		lower, upper := TwoFrom(vals, k)
		require.Equal(t, sorted[k], lower)
		require.Equal(t, sorted[min(k+1, len(vals)-1)], upper)
		slices.Sort(vals)
		require.Equal(t, sorted, vals, "values are moved, not changed")
	})
}

func TestOrderedBits(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a, b := rapid.Float64().Draw(t, "a"), rapid.Float64().Draw(t, "b")
		require.Equal(t, a < b, OrderedBits(a) < OrderedBits(b))
		require.Equal(t, a, FromOrderedBits(OrderedBits(a)))
	})
	require.Equal(t, int64(math.MinInt64), OrderedBits(math.NaN()))
	require.Equal(t, OrderedBits(0), OrderedBits(math.Copysign(0, -1)))
}
