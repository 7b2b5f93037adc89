package catalog

import (
	"testing"

	"github.com/stretchr/testify/require"
)

var ferry = &Catalog{Sets: []*RecordSet{
	{
		Key: "claims", Label: "Claims", One: "claim", Many: "claims", Name: "ref",
		Fields: []Field{{Key: "ref", Label: "Ref", Type: Text}},
		Links: []Link{
			{Key: "booking", Label: "Booking", To: "bookings"}, {Key: "handler", Label: "Handler", To: "staff"},
		},
	},
	{
		Key: "bookings", Label: "Bookings", Name: "ref",
		Fields: []Field{
			{Key: "ref", Label: "Ref", Type: Text}, {Key: "booked_at", Label: "Booked at", Type: DateTime},
			{Key: "booking_fee", Label: "Booking fee", Type: Money},
		},
		Links: []Link{{Key: "agent", Label: "Agent", To: "staff"}},
	},
	{
		Key: "staff", Label: "Staff", Name: "name",
		Fields: []Field{
			{Key: "name", Label: "Name", Type: Text}, {Key: "started_on", Label: "Started on", Type: Date},
		},
		Links: []Link{{Key: "manager", Label: "Manager", To: "staff"}},
	},
}}

func TestPathsAreSaidWithAsMuchOfTheWayAsIsNeeded(t *testing.T) {
	for path, want := range map[string]string{
		"ref": "Ref", "booking.ref": "Booking", "booking.booking_fee": "Booking fee",
		"booking.booked_at": "Booking booked at",
		"handler.name":      "Handler", "booking.agent.name": "Agent",
		"booking.agent.started_on":     "Agent started on",
		"handler.manager.manager.name": "Manager",
	} {
		ref, err := ferry.Resolve("claims", path)
		require.NoError(t, err)
		require.Equal(t, want, ref.Label, path)
	}
	ref, err := ferry.Resolve("claims", "booking.agent.started_on")
	require.NoError(t, err)
	require.Equal(t, "agent", ref.Via)
	stem, verbal := ref.Stem()
	require.Equal(t, []any{"Agent started", true}, []any{stem, verbal})
}

func TestReachGoesNearFirstAndNeverInACircle(t *testing.T) {
	var paths []string
	for _, r := range ferry.Reach("claims", 4) {
		paths = append(paths, r.Path)
	}
	require.Equal(t, []string{"ref", "booking.ref", "booking.booked_at", "booking.booking_fee", "handler.name", "handler.started_on", "booking.agent.name", "booking.agent.started_on",
		"handler.manager.name", "handler.manager.started_on", "booking.agent.manager.name", "booking.agent.manager.started_on"}, paths)
	require.Len(t, ferry.Reach("claims", 0), 1)
}

func TestNearestNames(t *testing.T) {
	for typed, want := range map[string]string{"reff": "ref", "re": "ref", "bokked_at": "", "zzz": ""} {
		_, err := ferry.Resolve("claims", typed)
		if want == "" {
			require.NotContains(t, err.Error(), "did you mean")
		} else {
			require.ErrorContains(t, err, `did you mean "`+want+`"?`)
		}
	}
	require.Equal(t, 3, editDistance("sitting", "kitten"))
	require.Equal(t, 4, editDistance("", "four"))
}
