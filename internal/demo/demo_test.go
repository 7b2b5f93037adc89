package demo_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/internal/localpg/pgtest"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// The same day gives the same records; another day shifts them.
func TestDemoIsTheSameEveryTime(t *testing.T) {
	sums := map[string]bool{}
	for i, day := range []time.Time{
		time.Date(2026, 11, 23, 5, 0, 0, 0, time.UTC), time.Date(2026, 11, 23, 21, 0, 0, 0, time.UTC),
		time.Date(2026, 11, 24, 5, 0, 0, 0, time.UTC),
	} {
		conn, err := pgx.Connect(t.Context(), pgtest.Database(t))
		require.NoError(t, err)
		defer conn.Close(t.Context())
		made, err := demo.Ensure(t.Context(), conn, day, demo.Size{
			Sailings: 300, Customers: 200, Bookings: 900, Claims: 100,
		})
		require.NoError(t, err)
		require.True(t, made)
		made, err = demo.Ensure(t.Context(), conn, day, demo.FullSize)
		require.NoError(t, err)
		require.False(t, made, "what is there is left alone")
		var sum string
		require.NoError(
			t,
			conn.QueryRow(
				t.Context(),
				`SELECT md5(string_agg(x, '')) FROM (SELECT b::text AS x FROM ferry.bookings b ORDER BY id) y`,
			).Scan(&sum),
		)
		sums[fmt.Sprint(sum)] = true
		require.Len(t, sums, 1+i/2)
	}
}
