package records

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/localpg/pgtest"
)

// A network that stalls in the middle: a load ends with an error in time, the records of before stay, and
// nothing is missed once it goes on.
func TestANetworkThatStalls(t *testing.T) {
	direct := pgtest.Database(t)
	conn := connect(t, direct)
	run(t, conn, followedSchema)
	_, err := Publish(t.Context(), Database(direct, "public")[0], "gavrik_e")
	require.NoError(t, err)
	w, through := pgtest.NewWire(t, direct)
	f := Follow(
		Database(through, "public"),
		FollowOptions{Publication: "gavrik_e", Slot: "gavrik_e_1", Patience: time.Second},
	)
	t.Cleanup(func() { f.Close(context.Background()) })
	set := Settings{Zone: "UTC", EagerViews: true}
	before, err := f.Load(t.Context(), set, Asked{})
	require.NoError(t, err)
	require.True(t, f.States()[0].Streamed)

	w.Hold()
	run(t, conn, "UPDATE trips SET fare = 77 WHERE id < 20")
	bounded, cancel := context.WithTimeout(t.Context(), 15*time.Second)
	defer cancel()
	_, err = f.Load(bounded, set, Asked{})
	require.Error(t, err)
	require.NoError(t, bounded.Err(), "it gives up by itself")
	require.Same(t, before, f.last)
	w.GoOn()

	require.Eventually(t, func() bool {
		got, err := f.Load(t.Context(), set, Asked{})
		if err != nil {
			return false
		}
		want, err := Load(t.Context(), Database(direct, "public"), set)
		require.NoError(t, err)
		sameRecords(t, want, got, "it goes on")
		return true
	}, 30*time.Second, 100*time.Millisecond)
}
