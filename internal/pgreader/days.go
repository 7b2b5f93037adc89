package pgreader

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/plan"
	"gavrik/internal/records"
)

// mostDays is how many days moments are put together by.
const mostDays = 40_000

// byDays is a moment in the place of all of its day: the first one of the stretch of time that the clock
// shows that day in. The calendar says where the days begin, so that no other knowledge of zones decides.
func (d *deciding) byDays(ctx context.Context, c records.AwayColumn) (string, error) {
	if !d.away.Dialect().Stretches {
		return c.Expr, nil
	}
	finite := "true"
	if c.Infinite {
		finite = "isfinite(" + c.Expr + ")"
	}
	var from, to *time.Time
	err := d.eachPart(ctx, func(of string) string {
		return fmt.Sprintf("SELECT min(%[1]s), max(%[1]s) FROM %[2]s WHERE %[3]s", c.Expr, of, finite)
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
	if err != nil {
		return "", err
	}
	if from == nil || to.Sub(*from) > mostDays*24*time.Hour || from.Year() < 1 || to.Year() > 9998 {
		return c.Expr, nil
	}
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
		"CASE WHEN %[3]s THEN %[2]s[width_bucket(%[1]s, %[2]s)] END", c.Expr, array, finite,
	), nil
}

// hourly says that groups are by the hour.
func hourly(g plan.Group) bool { return g.Unit == calendar.ByHour }
