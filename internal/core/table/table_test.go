package table

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestNaturalOrder(t *testing.T) {
	ordered := []string{
		"", "-1", "02 berths", "2 berths", "10 berths", "cabin", "route", "route 2", "route 2 north", "route 010",
		"route 10", "route 99999999999999999999", "route x",
	}
	for i, a := range ordered {
		for j, b := range ordered {
			require.Equal(t, sign(i-j), CompareNatural(a, b), "%q and %q", a, b)
		}
	}
}

func TestNaturalOrderIsATotalOrder(t *testing.T) {
	text := rapid.StringOfN(rapid.SampledFrom([]rune("ab019 é")), 0, 8, -1)
	rapid.Check(t, func(t *rapid.T) {
		a, b, c := text.Draw(t, "a"), text.Draw(t, "b"), text.Draw(t, "c")
		require.Equal(t, -CompareNatural(b, a), CompareNatural(a, b))
		require.Equal(t, a == b, CompareNatural(a, b) == 0)
		if CompareNatural(a, b) <= 0 && CompareNatural(b, c) <= 0 {
			require.LessOrEqual(t, CompareNatural(a, c), 0)
		}
	})
}

func TestFold(t *testing.T) {
	for given, want := range map[string]string{
		"Café": "cafe", "CAFE\u0301": "cafe", "Søren": "søren", "Zoë NYSTRÖM": "zoe nystrom", "plain": "plain",
		"": "", "İ": "i", "ﬁ": "ﬁ",
	} {
		require.Equal(t, want, Fold(given), "%q", given)
	}
	rapid.Check(t, func(t *rapid.T) {
		s := rapid.String().Draw(t, "s")
		require.Equal(t, Fold(s), Fold(Fold(s)), "folding twice changes nothing")
		list := rapid.SliceOf(rapid.OneOf(rapid.String(), rapid.StringMatching("[A-Za-z0-9 ]*"))).Draw(t, "list")
		for i, folded := range FoldAll(list) {
			require.Equal(t, Fold(list[i]), folded)
		}
	})
}

// A built dictionary says the same texts as were given, in order of codes.
func TestDictionary(t *testing.T) {
	text := rapid.SampledFrom([]string{"", "b", "B", "é", "E", "e", "r 2", "r 10", "R 2", "x"})
	rapid.Check(t, func(t *rapid.T) {
		given := rapid.SliceOf(text).Draw(t, "given")
		b, codes := NewDictBuilder(), make([]uint32, len(given))
		for i, s := range given {
			codes[i] = b.Code([]byte(s))
		}
		col := b.Build(codes)
		for i, s := range given {
			require.Equal(t, s, col.Dict.Value(col.Codes[i]))
			require.Equal(t, Fold(s), col.Dict.Folded(col.Codes[i]))
		}
		for code := 2; code < col.Dict.Len(); code++ {
			before, at := uint32(code-1), uint32(code)
			c := CompareNatural(col.Dict.Folded(before), col.Dict.Folded(at))
			require.True(t, c < 0 || c == 0 && col.Dict.Value(before) < col.Dict.Value(at))
		}
		want := text.Draw(t, "want")
		var found []string
		for _, code := range col.Dict.FindFolded(nil, Fold(want)) {
			found = append(found, col.Dict.Value(code))
		}
		distinct := slices.Compact(slices.Sorted(slices.Values(given)))
		matching := slices.DeleteFunc(distinct, func(s string) bool { return s == "" || Fold(s) != Fold(want) })
		if want == "" {
			matching = nil
		}
		require.ElementsMatch(t, matching, found)
		require.Equal(t, len(given)-len(nonEmpty(given)), col.Blanks())
	})
}

func nonEmpty(list []string) []string {
	return slices.DeleteFunc(slices.Clone(list), func(s string) bool { return s == "" })
}

func TestGatherFollowsLinksAndBlanks(t *testing.T) {
	rows := []int32{2, -1, 0}
	numbers := NewNumbers([]int64{7, Blank, 9}).Gather(rows).(*Numbers)
	require.Equal(t, []int64{9, Blank, 7}, numbers.Values)
	require.Equal(t, 1, numbers.Blanks())
	lo, hi, ok := numbers.Bounds()
	require.Equal(t, []any{int64(7), int64(9), true}, []any{lo, hi, ok})
	floats := NewFloats([]float64{0.5, 1, math.NaN()}).Gather(rows).(*Floats)
	require.Equal(t, 2, floats.Blanks())
	require.Equal(t, 0.5, floats.Values[2])
	b := NewDictBuilder()
	texts := b.Build([]uint32{b.Code([]byte("x")), b.Code([]byte("y")), 0}).Gather(rows).(*Texts)
	require.Equal(t, []uint32{0, 0, 1}, texts.Codes)
	require.Panics(t, func() { New("crossings", 2).Add("x", numbers) })
	require.Panics(t, func() { New("crossings", 2).AddLink("x", &Links{Rows: rows}) })
}

// The keys that texts are sorted by compare as CompareNatural does, and a search
// through all texts at once finds what a search of each finds.
func TestKeysAndSearchOverManyTexts(t *testing.T) {
	text := rapid.StringOfN(rapid.SampledFrom([]rune("a0019b -:é")), 0, 24, -1)
	rapid.Check(t, func(t *rapid.T) {
		b := NewDictBuilder()
		given := append(
			rapid.SliceOfN(text, 0, 60).Draw(t, "given"), strings.Repeat("1", 300), strings.Repeat("2", 299),
		)
		codes := make([]uint32, len(given))
		for i, s := range given {
			codes[i] = b.Code([]byte(s))
		}
		d := b.Build(codes).Dict
		for code := uint32(2); code < uint32(d.Len()); code++ {
			require.LessOrEqual(
				t, CompareNatural(d.Folded(code-1), d.Folded(code)), 0, "%q and %q", d.Folded(code-1), d.Folded(code),
			)
		}
		want := rapid.StringOfN(rapid.SampledFrom([]rune("a01b-")), 1, 3, -1).Draw(t, "want")
		var found, expected []uint32
		middle := uint32(rapid.IntRange(1, d.Len()).Draw(t, "middle"))
		d.EachFoldedWithin(want, 1, middle, func(code uint32) { found = append(found, code) })
		d.EachFoldedWithin(want, middle, uint32(d.Len()), func(code uint32) { found = append(found, code) })
		for code := uint32(1); code < uint32(d.Len()); code++ {
			if strings.Contains(d.Folded(code), want) {
				expected = append(expected, code)
			}
		}
		require.Equal(t, expected, found)
	})
}

func TestDivisorsEqualDivision(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.OneOf(rapid.Uint64Range(1, 2000), rapid.Uint64Range(1, math.MaxUint64)).Draw(t, "n")
		x := rapid.OneOf(rapid.Uint64Range(0, 5000), rapid.Uint64()).Draw(t, "x")
		if rapid.Bool().Draw(t, "multiple") {
			x = x / n * n
		}
		d := newDivisor(n)
		require.Equal(t, x%n == 0, d.divides(x))
	})
	c := NewNumbers([]int64{-90, Blank, 30, 1230})
	require.Equal(t, int64(120), c.Step())
	require.Equal(t, int64(1), NewNumbers([]int64{5, 5}).Step())
}

// Many texts: found by their hash whatever their case, in the order of labels or,
// if they are long, as they came until an order is asked for.
func TestLargeDictionaries(t *testing.T) {
	long := strings.Repeat(" At The Quay", 4)
	for name, suffix := range map[string]string{"short": "", "long": long} {
		t.Run(name, func(t *testing.T) {
			const n = manyTexts + 100
			b, codes := NewDictBuilder(), make([]uint32, 0, 2*n)
			for i := range n {
				s := fmt.Sprintf("Ref %d%s", i*7919%n, suffix)
				codes = append(codes, b.CodeOf(s))
			}
			codes = append(codes, b.CodeOf("ref 17"+suffix), 0) // differs in case alone
			c := b.Build(codes)
			require.Equal(t, suffix == "", c.Dict.FindsQuickly())
			require.Equal(t, []string{
				"Ref 17" + suffix, "ref 17" + suffix,
			}, valuesOf(c.Dict, c.Dict.FindFolded(nil, Fold("REF 17"+suffix))))
			wanted := []string{Fold("Ref 5" + suffix), "nowhere", Fold("Ref 3" + suffix)}
			var missing []int
			found := c.Dict.FindEach(nil, wanted, func(i int) { missing = append(missing, i) })
			require.Equal(t, []int{1}, missing)
			require.Equal(t, []string{"Ref 5" + suffix, "Ref 3" + suffix}, valuesOf(c.Dict, found))
			ordered := c.InOrder()
			for _, row := range []int{0, 1, 17, n - 1, n, n + 1} {
				require.Equal(t, c.Dict.Value(c.Codes[row]), ordered.Dict.Value(ordered.Codes[row]))
			}
			require.Equal(t, "Ref 2"+suffix, ordered.Dict.Value(3))
			_, unique := c.RowOf(1)
			require.False(t, unique, "one is blank")
		})
	}
}

func valuesOf(d *Dict, codes []uint32) (out []string) {
	for _, c := range codes {
		out = append(out, d.Value(c))
	}
	return out
}

func TestUniqueTextsKnowTheirRows(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		given := rapid.SliceOfDistinct(rapid.StringMatching("[A-Zé0-9]{1,12}"), rapid.ID[string]).Draw(t, "given")
		b, codes := NewUniqueBuilder(len(given)), make([]uint32, len(given))
		for i, s := range given {
			codes[i] = b.CodeOf(s)
		}
		c := b.Build(codes)
		for i, s := range given {
			require.Equal(t, s, c.Dict.Value(c.Codes[i]))
			row, ok := c.RowOf(c.Codes[i])
			require.True(t, ok)
			require.Equal(t, int32(i), row)
		}
	})
}

// Many texts are looked up at once, whether all are of one length or not: each finds
// every way that it is written, and those that are not there are named.
func TestLookingManyTextsUp(t *testing.T) {
	for _, format := range []string{"MB-%06d", "MB-%d"} {
		b := NewDictBuilder()
		var codes []uint32
		for i := range 3 * fewIndexed {
			codes = append(codes, b.CodeOf(fmt.Sprintf(format, i*7)))
			if i%5 == 0 {
				codes = append(codes, b.CodeOf(strings.ToLower(fmt.Sprintf(format, i*7))))
			}
		}
		d := b.Build(codes).Dict
		require.True(t, d.FindsQuickly())
		require.Equal(t, format == "MB-%06d", d.index.width > 0)
		rapid.Check(t, func(t *rapid.T) {
			wanted := rapid.SliceOfN(rapid.IntRange(-5, 22*fewIndexed), 0, 90).Draw(t, "wanted")
			texts, missing := make([]string, len(wanted)), map[int]bool{}
			want := map[string]int{}
			for i, n := range wanted {
				texts[i] = Fold(fmt.Sprintf(format, n))
				switch {
				case n < 0 || n%7 != 0 || n/7 >= 3*fewIndexed:
					missing[i] = true
				case n/7%5 == 0:
					want[texts[i]] += 2
				default:
					want[texts[i]]++
				}
			}
			absent, got := map[int]bool{}, map[string]int{}
			for _, code := range d.FindEach(nil, texts, func(i int) { absent[i] = true }) {
				got[d.Folded(code)]++
			}
			require.Equal(t, missing, absent)
			require.Equal(t, want, got)
		})
	}
}
