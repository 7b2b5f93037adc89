// Package demo makes the application database of Marrowby Sound Ferries, a
// made-up ferry line, from a fixed seed relative to a given day: the same day
// gives the same rows. All names are invented.
package demo

import (
	"context"
	_ "embed"
	"fmt"
	"math/rand/v2"
	"time"

	"github.com/jackc/pgx/v5"
)

// Schema is the database schema the demo lives in.
const Schema = "ferry"

var (
	//go:embed schema.sql
	schemaSQL string
	//go:embed links.sql
	linksSQL string
)

// Size is how many records to make of the large sets; the others follow.
type Size struct {
	Sailings, Customers, Bookings, Claims int
}

// FullSize is the demo's.
var FullSize = Size{Sailings: 9_000, Customers: 38_000, Bookings: 120_000, Claims: 8_000}

// Ensure makes the database's demo schema if it is absent and says whether it
// did. All of it is made in one transaction: there is no half a demo.
func Ensure(ctx context.Context, conn *pgx.Conn, today time.Time, size Size) (bool, error) {
	var there bool
	err := conn.QueryRow(ctx, "SELECT EXISTS (SELECT FROM pg_namespace WHERE nspname = $1)", Schema).Scan(&there)
	if err != nil || there {
		return false, err
	}
	tx, err := conn.Begin(ctx)
	if err != nil {
		return false, fmt.Errorf("demo: %w", err)
	}
	defer func() { _ = tx.Rollback(context.WithoutCancel(ctx)) }() // does nothing after a commit
	if _, err := tx.Exec(ctx, schemaSQL); err != nil {
		return false, fmt.Errorf("demo: schema: %w", err)
	}
	f := generate(today, size)
	for _, t := range f.tables() {
		if _, err := tx.CopyFrom(ctx, pgx.Identifier{
			Schema, t.name,
		}, t.columns, pgx.CopyFromRows(t.rows)); err != nil {
			return false, fmt.Errorf("demo: %s: %w", t.name, err)
		}
	}
	if _, err := tx.Exec(ctx, linksSQL); err != nil {
		return false, fmt.Errorf("demo: links: %w", err)
	}
	if err := tx.Commit(ctx); err != nil {
		return false, fmt.Errorf("demo: %w", err)
	}
	_, err = conn.Exec(ctx, "ANALYZE")
	return true, err
}

// ferry is everything made so far; later tables draw on earlier ones.
type ferry struct {
	*rand.Rand
	today    time.Time
	size     Size
	sailings []sailing
	bookings []booking
	rows     map[string][][]any
}

type sailing struct {
	route     int
	departs   time.Time
	cancelled bool
	late      time.Duration
}

type booking struct {
	sailing int
	booked  time.Time
	fare    int // in hundredths
}

func generate(today time.Time, size Size) *ferry {
	y, m, d := today.Date()
	f := &ferry{
		Rand:  rand.New(rand.NewPCG(1837, 42)),
		today: time.Date(y, m, d, 0, 0, 0, 0, today.Location()),
		size:  size,
		rows:  map[string][][]any{},
	}
	f.makePorts()
	f.makeFleet()
	f.makeStaff()
	f.makeSailings()
	f.makeCustomers()
	f.makeBookings()
	f.makeClaims()
	return f
}

func (f *ferry) add(table string, row ...any) { f.rows[table] = append(f.rows[table], row) }

// pick takes one of several by weight.
func pick[T any](f *ferry, weights []int, of []T) T {
	total := 0
	for _, w := range weights {
		total += w
	}
	n := f.IntN(total)
	for i, w := range weights {
		if n -= w; n < 0 {
			return of[i]
		}
	}
	return of[len(of)-1]
}

func one[T any](f *ferry, of []T) T { return of[f.IntN(len(of))] }

// maybe returns v, or a null in share of the cases.
func maybe(f *ferry, share float64, v any) any {
	if f.Float64() < share {
		return nil
	}
	return v
}

type tableRows struct {
	name    string
	columns []string
	rows    [][]any
}

func (f *ferry) tables() []tableRows {
	columns := []struct {
		name    string
		columns []string
	}{
		{"ports", []string{"id", "code", "name", "country", "berths", "opened_on"}},
		{
			"routes",
			[]string{"id", "code", "name", "from_port_id", "to_port_id", "distance_nm", "crossing", "seasonal"},
		},
		{
			"vessels",
			[]string{
				"id", "name", "picture", "built_on", "passengers", "car_deck_m", "certificate_expires_on", "in_service",
			},
		},
		{"inspections", []string{"id", "ref", "vessel_id", "kind", "inspected_on", "score", "passed", "note"}},
		{"staff", []string{"id", "name", "role", "port_id", "started_on", "email"}},
		{
			"sailings",
			[]string{
				"id", "ref", "route_id", "vessel_id", "master_id", "departs_at", "departed_at", "arrived_at", "delay",
				"status", "weather", "wind", "car_deck_free_m", "passengers",
			},
		},
		{"customers", []string{"id", "ref", "name", "email", "kind", "country", "joined_on", "newsletter"}},
		{
			"bookings",
			[]string{
				"id", "ref", "customer_id", "sailing_id", "agent_id", "channel", "status", "booked_at", "passengers",
				"fare", "discount", "note",
			},
		},
		{
			"booking_lines",
			[]string{"id", "booking_id", "kind", "item", "quantity", "unit_price", "amount", "refunded"},
		},
		{"payments", []string{"id", "ref", "booking_id", "method", "paid_at", "amount"}},
		{
			"claims",
			[]string{
				"id", "ref", "booking_id", "category", "status", "opened_at", "closed_at", "claimed", "paid",
				"handler_id", "note",
			},
		},
	}
	out := make([]tableRows, len(columns))
	for i, c := range columns {
		out[i] = tableRows{c.name, c.columns, f.rows[c.name]}
	}
	return out
}
