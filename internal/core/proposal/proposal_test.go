package proposal_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/proposal"
)

func TestCutsBecomeRound(t *testing.T) {
	assert.Equal(t, []int64{1000, 2500, 5000, 10000},
		proposal.Round([]int64{1240, 2530, 4790, 10320}, catalog.Money))
	assert.Equal(t, []int64{0}, proposal.Round([]int64{0}, catalog.Whole))
	minute := int64(60_000_000)
	assert.Equal(t, []int64{10 * minute, 60 * minute},
		proposal.Round([]int64{11*minute + 7, 58*minute + 1}, catalog.Duration))
}

// Whatever the cuts are, those proposed stay in order, are no more, and lie near.
func TestRoundCutsStayInOrder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		cuts := rapid.SliceOfNDistinct(rapid.Int64Range(-1<<50, 1<<50), 1, 40, rapid.ID[int64]).Draw(t, "cuts")
		slices.Sort(cuts)
		of := rapid.SampledFrom([]catalog.Type{catalog.Whole, catalog.Money, catalog.Duration}).Draw(t, "type")
		round := proposal.Round(cuts, of)
		require.NotEmpty(t, round)
		require.LessOrEqual(t, len(round), len(cuts))
		require.True(t, slices.IsSorted(round))
		require.Equal(t, round, slices.Compact(slices.Clone(round)), "no two are the same")
		if len(cuts) > 1 {
			width := cuts[len(cuts)-1] - cuts[0]
			require.LessOrEqual(t, max(cuts[0]-round[0], round[0]-cuts[0]), width)
		}
	})
}

func TestTheUnitThatCanBeRead(t *testing.T) {
	of := func(day, week, month, quarter, year int) map[calendar.Unit]int {
		return map[calendar.Unit]int{calendar.ByDay: day, calendar.ByWeek: week, calendar.ByMonth: month,
			calendar.ByQuarter: quarter, calendar.ByYear: year}
	}
	assert.Equal(t, calendar.ByMonth, proposal.Unit(of(400, 60, 14, 5, 2)))
	assert.Equal(t, calendar.ByWeek, proposal.Unit(of(80, 12, 3, 1, 1)))
	assert.Equal(t, calendar.ByDay, proposal.Unit(of(20, 4, 1, 1, 1)))
	assert.Equal(t, calendar.ByQuarter, proposal.Unit(of(1500, 210, 50, 17, 5)))
	assert.Equal(t, calendar.ByYear, proposal.Unit(of(9000, 1300, 300, 100, 30)))
	assert.Equal(t, calendar.ByDay, proposal.Unit(of(3, 1, 1, 1, 1)))
	assert.Contains(t, proposal.Units(), proposal.Unit(of(0, 0, 0, 0, 0)))
}
