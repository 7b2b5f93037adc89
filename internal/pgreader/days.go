package pgreader

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/calendar"
	"gavrik/internal/records"
)

// mostDays is how many days moments are put together by.
const mostDays = 40_000

// grain says how finely moments matter, the finest first.
type grain int

const (
	exactly grain = iota
	byQuarterHours
	byDays
)

// grainOf is how finely moments matter that are put together by a unit: the hour of a moment is that of its
// quarter of an hour, and all other units are of days.
func grainOf(unit calendar.Unit) grain {
	switch unit {
	case "":
		return exactly
	case calendar.ByHour:
		return byQuarterHours
	}
	return byDays
}

// coarser is a moment in the place of all of its day, or of its quarter of an hour.
func (d *deciding) coarser(ctx context.Context, c records.AwayColumn, by grain) (string, error) {
	if !d.away.Dialect().Stretches {
		return c.Expr, nil
	}
	finite := "true"
	if c.Infinite {
		finite = "isfinite(" + c.Expr + ")"
	}
	from, to, err := d.extent(ctx, c.Expr, finite)
	switch {
	case err != nil:
		return "", err
	case from == nil || to.Sub(*from) > mostDays*24*time.Hour || from.Year() < 1 || to.Year() > 9998:
		return c.Expr, nil
	case by == byDays:
		return d.byDays(c.Expr, finite, *from, *to), nil
	case !inQuarters(d.plan.Calendar.Zone, *from, *to):
		return c.Expr, nil
	}
	return fmt.Sprintf(
		"CASE WHEN %[2]s THEN date_bin('15 minutes', %[1]s, timestamptz '2000-01-01 00:00:00+00') END",
		c.Expr, finite,
	), nil
}

// inQuarters says that the clocks of a zone are whole quarters of an hour away from UTC all the while.
func inQuarters(zone *time.Location, from, to time.Time) bool {
	const quarter = 15 * 60
	for at := from.In(cmp.Or(zone, time.UTC)); ; {
		_, offset := at.Zone()
		_, end := at.ZoneBounds()
		last := end.IsZero() || end.After(to)
		if offset%quarter != 0 || !last && end.Unix()%quarter != 0 {
			return false
		}
		if last {
			return true
		}
		at = end
	}
}

// extent is the first and the last of the finite values of a column of moments; nil if there are none.
func (d *deciding) extent(ctx context.Context, expr, finite string) (from, to *time.Time, err error) {
	err = d.eachPart(ctx, func(of string) string {
		return fmt.Sprintf("SELECT min(%[1]s), max(%[1]s) FROM %[2]s WHERE %[3]s", expr, of, finite)
	}, func(row pgx.CollectableRow) error {
		var least, most *time.Time
		err := row.Scan(&least, &most)
		if least != nil && (from == nil || least.Before(*from)) {
			from = least
		}
		if most != nil && (to == nil || most.After(*to)) {
			to = most
		}
		return err
	})
	return from, to, err
}

// byDays is a moment in the place of all of its day: the first one of the stretch of time that the clock
// shows that day in. The calendar says where the days begin, so that no other knowledge of zones decides.
func (d *deciding) byDays(expr, finite string, from, to time.Time) string {
	cal := d.plan.Calendar
	var starts []int64
	for at := calendar.FloorDay(from.UnixMicro()) - 2; at <= calendar.FloorDay(to.UnixMicro())+2; at++ {
		for _, span := range cal.Moments(at*calendar.DayLen, (at+1)*calendar.DayLen-1) {
			starts = append(starts, span.From)
		}
	}
	slices.Sort(starts)
	texts := make([]string, len(starts))
	for i, v := range starts {
		texts[i] = "'" + moment(v) + "'"
	}
	array := "(ARRAY[" + strings.Join(texts, ",") + "]::timestamptz[])"
	return fmt.Sprintf(
		"CASE WHEN %[3]s THEN %[2]s[width_bucket(%[1]s, %[2]s)] END", expr, array, finite,
	)
}
