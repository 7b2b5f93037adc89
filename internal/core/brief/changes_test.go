package brief

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

func version(t *testing.T, doc string) Version {
	t.Helper()
	d, err := view.Parse([]byte(`{"gavrik":1,"records":"claims",` + doc + `}`))
	require.NoError(t, err)
	p, err := plan.Check(d, ferry, calendar.Calendar{Now: time.Date(2026, 11, 23, 9, 0, 0, 0, time.UTC)})
	require.NoError(t, err)
	return Version{Doc: d, Plan: p, Set: ferry.Set("claims")}
}

func TestChangesInWords(t *testing.T) {
	const plain = `"columns":[{"field":"ref"},{"field":"claimed","totals":[{"fn":"sum"}]}]`
	for _, c := range []struct {
		before, after string
		want          []string
	}{
		{plain, plain, nil},
		{plain + `,"filter":{"all":[{"field":"claimed","op":"over","value":"25"},{"field":"status","op":"is","value":"Open"}]}`,
			plain + `,"filter":{"all":[{"field":"claimed","op":"over","value":"50"}]}`,
			[]string{"claimed is over 25.00 became claimed is over 50.00", "no longer only where status is Open"}},
		{
			plain,
			plain + `,"filter":{"any":[{"field":"urgent","op":"is","value":"yes"},{"field":"paid","op":"blank"}]}`,
			[]string{"only where urgent is yes or paid is blank"},
		},
		{
			plain, `"columns":[{"field":"claimed","totals":[{"fn":"sum"}]},{"field":"ref"}]`,
			[]string{"columns in another order: Claimed, Ref"},
		},
		{plain,
			`"columns":[{"field":"ref","heading":"Claim","hidden":true},{"field":"claimed","totals":[{"fn":"average"}],"bars":true,"width":90},{"field":"paid","totals":[{"fn":"sum"},{"fn":"median"}]}]`,
			[]string{
				"column Paid added with total and median", "column Ref headed “Claim”", "column Claim hidden",
				"average of claimed, not total", "bars behind Claimed", "width of Claimed",
			}},
		{plain, `"columns":[{"field":"ref"}]`, []string{"column Claimed taken out"}},
		{plain + `,"groups":[{"field":"status"},{"field":"opened_at","unit":"month"}]`,
			plain + `,"groups":[{"field":"opened_at","unit":"month"},{"field":"status"}]`,
			[]string{"grouped by month opened then status"}},
		{plain + `,"groups":[{"field":"status"}]`,
			plain + `,"groups":[{"field":"status","top":3,"order":{"by":"count","desc":true}}],"across":[{"field":"urgent"}]`,
			[]string{
				"grouped by status (the first 3, the rest as one), most claims first, not status", "across by urgent",
			}},
		{plain + `,"sort":[{"field":"paid"}],"compare":{"with":"year_ago","field":"opened_at"},"filter":{"all":[{"field":"opened_at","op":"in","period":{"which":"this","unit":"month"}}]}`, plain + `,"chart":{},"calculated":[{"key":"net","label":"Net","formula":"='Claimed' - 'Paid'"}]`,
			[]string{
				"no longer only where opened in this month", "Net is 'Claimed' - 'Paid'", "no longer smallest paid first",
				"no longer compared with year ago", "chart added",
			}},
	} {
		got := Changes(version(t, c.before), version(t, c.after))
		require.Equal(t, c.want, got)
	}
}
