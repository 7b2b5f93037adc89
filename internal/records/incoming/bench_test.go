package incoming

import (
	"bytes"
	"fmt"
	"io"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/localpg/pgtest"
	"gavrik/internal/records/files"
	"gavrik/internal/store"
)

// BenchmarkStage reads a file of fifteen columns into the database, as a file that a person drops
// is read. 2,000,000 rows: -benchtime 2000000x.
func BenchmarkStage(b *testing.B) {
	url := pgtest.Database(b)
	state, err := store.Open(b.Context(), url)
	require.NoError(b, err)
	defer state.Close()
	conn, err := pgx.Connect(b.Context(), url)
	require.NoError(b, err)
	defer conn.Close(b.Context())
	text := tickets(b.N)
	cal := calendar.Calendar{Zone: time.UTC}
	f, err := files.Open(b.Context(), io.NewSectionReader(bytes.NewReader(text), 0, int64(len(text))), "tickets.csv", files.Settings{})
	require.NoError(b, err)
	look, err := f.Look(b.Context(), nil, cal)
	require.NoError(b, err)
	look.Recipe.By = []string{"ref"}
	b.SetBytes(int64(len(text) / b.N))
	b.ReportAllocs()
	b.ResetTimer()
	report, err := Stage(b.Context(), conn, "incoming_bench", f, look.Recipe, cal, &Progress{})
	require.NoError(b, err)
	b.StopTimer()
	require.Equal(b, b.N, report.Rows)
	b.ReportMetric(float64(b.N)/b.Elapsed().Seconds(), "rows/s")
}

// tickets are so many rows of fifteen columns of all types.
func tickets(n int) []byte {
	r := rand.New(rand.NewPCG(1, 2))
	var b bytes.Buffer
	b.WriteString("Ref,Sold on,Sold at,Counter,Item,Quantity,Price EUR,Amount EUR,Discount,Refunded,Passenger,Deck,Weight,Note,Season\n")
	items := []string{"Adult", "Child", "Car up to 5 m", "Bicycle", "Day cabin", "Supper"}
	for i := range n {
		at := time.Date(2026, 1, 1, 6, 0, 0, 0, time.UTC).Add(time.Duration(i) * 7 * time.Second)
		quantity, price := 1+r.IntN(4), 500+r.IntN(9000)
		fmt.Fprintf(&b, "T-%08d,%s,%s,Counter %d,%s,%d,%d.%02d,%d.%02d,%d.%d%%,%s,P%06d,%d,%d.%03d,%s,%s\n",
			i, at.Format("2006-01-02"), at.Format("2006-01-02 15:04:05"), r.IntN(9), items[r.IntN(len(items))], quantity,
			price/100, price%100, quantity*price/100, quantity*price%100, r.IntN(30), r.IntN(10), []string{"yes", "no"}[r.IntN(2)],
			r.IntN(400_000), r.IntN(8), r.IntN(900), r.IntN(1000), []string{"", "", "by the window"}[r.IntN(3)],
			[]string{"low", "mid", "high"}[r.IntN(3)])
	}
	return b.Bytes()
}

func TestMain(m *testing.M) { pgtest.Main(m) }
