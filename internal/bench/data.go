// Package bench asks the same questions of Gavrik and of PostgreSQL over the same
// rows, in one run, checks that the answers are the same, and compares the times.
package bench

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"
)

// schema is the database schema of the rows.
const schema = "bench"

// columns are those of the table.
const columns = `id int NOT NULL, ref text NOT NULL, status text NOT NULL, route text NOT NULL, vessel text NOT NULL, customer text NOT NULL,
  agent text NOT NULL, channel text NOT NULL, departs timestamptz NOT NULL, booked date NOT NULL, delay interval,
  fare numeric(10,2) NOT NULL, discount numeric(5,2) NOT NULL, passengers int NOT NULL, note text NOT NULL`

// makeRows fills a table of n bookings with 15 columns: a unique reference, status
// of 7, route of 18, vessel of 11, customer of 80,000, agent of 240, channel of 4,
// a date-time, a date, a delay with blanks, fare, discount, passengers and a free
// note of some 65 characters. The seed is fixed; skew comes from powers of random
// numbers.
func makeRows(ctx context.Context, conn *pgx.Conn, n int) error {
	_, err := conn.Exec(ctx, fmt.Sprintf(`
CREATE SCHEMA %[1]s;
SET search_path = %[1]s;
CREATE TABLE bookings (%[3]s, PRIMARY KEY (id), UNIQUE (ref));
SELECT setseed(0.42);
INSERT INTO bookings
SELECT i, 'MB-' || lpad(i::text, 8, '0'),
  (ARRAY['Travelled','Confirmed','Cancelled','No-show','Waiting list','Rebooked','Quoted'])[1 + floor(7 * power(random(), 2.5))::int],
  'Route ' || (1 + floor(18 * power(random(), 1.6)))::int, 'Vessel ' || (1 + floor(11 * random()))::int,
  'Customer ' || (1 + floor(80000 * power(random(), 1.8)))::int, 'Agent ' || (1 + floor(240 * random()))::int,
  (ARRAY['Web','Counter','Phone','Agency'])[1 + floor(4 * power(random(), 2))::int],
  timestamptz '2024-01-01 UTC' + floor(random() * 1096 * 86400)::int * interval '1 second', date '2023-11-01' + floor(random() * 1096)::int,
  CASE WHEN random() < 0.85 THEN floor(power(random(), 4) * 14400)::int * interval '1 second' END,
  (10 + floor(power(random(), 3) * 90000) / 100)::numeric(10,2), (5 * floor(power(random(), 3) * 6))::numeric(5,2), 1 + floor(power(random(), 4) * 40)::int,
  (ARRAY['Wheelchair place','Travels with a dog','Trailer of 4.2 m','Asks for port side','Invoice to the office','Bringing bicycles'])[1 + floor(6 * random())::int]
    || ', ' || md5(random()::text) || ' at the counter.'
FROM generate_series(1, %[2]d) i;`, schema, n, columns))
	if err != nil {
		return fmt.Errorf("bench: making rows: %w", err)
	}
	_, err = conn.Exec(ctx, "VACUUM ANALYZE bench.bookings")
	return err
}
