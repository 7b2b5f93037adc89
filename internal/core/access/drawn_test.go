package access

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

// A hidden child counts nowhere: what a limited reader draws from linked records, through two links,
// is what everybody draws from those that meet the rule. What is drawn from a hidden field, or asks
// about one, is left out as a column, and refused where the numbers would be others.
func TestLinkedValuesOfALimitedReader(t *testing.T) {
	rule := view.Condition{Field: "worth", Op: view.Over, Value: "0.50"}
	values := func(where *view.Condition) *view.Document {
		d := &view.Document{Gavrik: view.Version, Records: "berths"}
		for take, field := range map[view.Take]string{
			view.TakeCount: "", view.TakeAny: "", view.TakeSum: "worth", view.TakeLargest: "no", view.TakeJoined: "name",
			view.TakeDistinct: "boat.name",
		} {
			d.Linked = append(d.Linked, view.LinkedValue{
				Key: string(take), Label: string(take), Records: "trips", By: "boat.berth", Take: take, Field: field, Where: where,
			})
		}
		return d
	}
	rapid.Check(t, func(t *rapid.T) {
		snap, full := filled(t), harbour()
		all := engine.New(snap, full, engine.Options{Workers: 1})
		limits := Policy{}
		limits.Add("trips", Restriction{Rules: []*view.Document{where("trips", rule)}})
		cut, err := limits.Snapshot(t.Context(), all.Snapshot(), full, all.Kept, func(d *view.Document) (*plan.Plan, error) {
			return plan.Check(d, full, cal)
		}, nil, nil)
		require.NoError(t, err)
		seen := limits.Catalog(full)
		few := engine.New(cut.Snapshot, seen, engine.Options{Workers: 1})
		mine, err := plan.Check(values(nil), seen, cal)
		require.NoError(t, err)
		theirs, err := plan.Check(values(&rule), full, cal)
		require.NoError(t, err)
		for key, d := range mine.Derived {
			got, err := few.Reader().Values(t.Context(), mine, d.Ref, "", 1000)
			require.NoError(t, err)
			want, err := all.Reader().Values(t.Context(), theirs, theirs.Derived[key].Ref, "", 1000)
			require.NoError(t, err)
			require.Equal(t, want, got, key)
		}
	})
	limits := Policy{}
	limits.Add("trips", Restriction{Fields: []string{"worth"}})
	seen := limits.Catalog(harbour())
	for _, d := range []*view.Document{values(nil), values(&rule)} {
		d.Columns = []view.Column{{Field: "sum"}}
		p, err := plan.Check(d, seen, cal)
		require.NoError(t, err)
		require.Equal(t, []string{"sum"}, p.Restricted)
		require.Empty(t, p.Columns)
		d.Filter = &view.Condition{Field: "sum", Op: view.Over, Value: "1"}
		_, err = plan.Check(d, seen, cal)
		require.ErrorContains(t, err, "is kept from you")
	}
}
