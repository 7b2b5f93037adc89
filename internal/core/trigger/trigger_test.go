package trigger

import (
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
)

// An exact figure is past a bound as fractions say, whatever decimals either has.
func TestFiguresPastABound(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		scale := rapid.IntRange(0, 9).Draw(t, "scale")
		figure := rapid.OneOf(rapid.Int64Range(-200, 200), rapid.Int64Range(-1<<60, 1<<60)).Draw(t, "figure")
		bound := new(big.Rat).SetFrac64(
			rapid.OneOf(rapid.Int64Range(-200, 200), rapid.Int64Range(-1<<50, 1<<50)).Draw(t, "bound"), 1000,
		)
		value := new(big.Rat).SetFrac(big.NewInt(figure), new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(scale)), nil))
		c := cell.Cell{Kind: cell.Number, Int: figure, Scale: int8(scale)}
		for past, want := range map[Past]int{Over: 1, Under: -1} {
			met, err := (Trigger{On: Figure, Is: past, Bound: bound.FloatString(3)}).past(c)
			if err != nil {
				require.ErrorContains(t, err, "is too large")
				continue
			}
			require.Equal(t, value.Cmp(bound) == want, met, "%s is %s %s", value.FloatString(scale), past, bound.FloatString(3))
		}
	})
}

func TestFiguresThatAreNoNumbers(t *testing.T) {
	hour := cell.OfInt(calendar.Hour, catalog.Field{Type: catalog.Duration})
	for _, c := range []struct {
		of    cell.Cell
		is    Past
		bound string
		met   bool
		wrong string
	}{
		{of: hour, is: Over, bound: "0:59", met: true},
		{of: hour, is: Over, bound: "60 min"},
		{of: hour, is: Under, bound: "many", wrong: "not a duration"},
		{of: cell.OfFloat(0.5), is: Under, bound: "0.6", met: true},
		{of: cell.OfFloat(0.5), is: Over, bound: "half", wrong: "not a number"},
		{of: cell.Cell{}, is: Under, bound: "1"}, // a blank is neither
		{of: cell.Cell{}, is: Over, bound: "-1"},
	} {
		met, err := (Trigger{On: Figure, Is: c.is, Bound: c.bound}).past(c.of)
		if c.wrong != "" {
			require.ErrorContains(t, err, c.wrong)
			continue
		}
		require.NoError(t, err)
		require.Equal(t, c.met, met, strings.Join([]string{string(c.is), c.bound}, " "))
	}
}
