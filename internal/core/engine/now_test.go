package engine

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// What is kept between runs is never that of another moment, zone or week.
func TestWhatIsKeptNamesItsSetting(t *testing.T) {
	w := &world{catalog: worldCatalog, cal: worldCalendar}
	for i := range 3 {
		at := time.Date(2026, 11, 22, 21+i, 30, 0, 0, time.UTC) // a Sunday evening, and Monday
		w.rows = append(w.rows, map[string]any{"ref": string(rune('a' + i)), "at": at.UnixMicro()})
	}
	w.build()
	e := w.engine(2)
	calendars := map[string]calendar.Calendar{"usual": worldCalendar}
	add := func(name string, change func(c *calendar.Calendar)) {
		c := worldCalendar
		change(&c)
		calendars[name] = c
	}
	add("a minute later", func(c *calendar.Calendar) { c.Now = c.Now.Add(time.Minute) })
	add("a day later", func(c *calendar.Calendar) { c.Now = c.Now.AddDate(0, 0, 1) })
	add("another zone", func(c *calendar.Calendar) { c.Zone = zoneOf("Asia/Kolkata") })
	add("another week", func(c *calendar.Calendar) { c.WeekStart = time.Sunday })
	add("another fiscal year", func(c *calendar.Calendar) { c.FiscalStart = time.July })
	for _, formula := range []string{
		"NOW() - 'Left at'", "MAX(NOW() - 'Left at')", "HOURS(MAX(IF(TRUE; NOW())) - MIN('Left at'))",
		"DAYS(TODAY(); 'Left at')",
		"HOUR('Left at')", "'Left at' & \"\"", "DATEVALUE('Left at')",
	} {
		for _, cond := range []*view.Condition{
			nil, {Field: "at", Op: view.Weekday, Values: view.Values{"Sunday"}},
			{Field: "at", Op: view.Hour, Values: view.Values{"22"}},
		} {
			d := &view.Document{Gavrik: 1, Records: "crossings", Filter: cond, Columns: []view.Column{{Field: "x"}},
				Calculated: []view.Calculated{
					{Key: "x", Label: "X", Formula: formula},
				}, Groups: []view.Group{{Field: "at", Unit: calendar.ByWeekday}}}
			for range 2 {
				for name, cal := range calendars {
					p, err := plan.Check(d, w.catalog, cal)
					require.NoError(t, err)
					show := func(e *Engine) []string {
						res, err := e.Run(context.Background(), p)
						require.NoError(t, err)
						return written(append(
							window(t, res, result.Open{Depth: 1}, 0, 10, format.Plain).Lines, grand(res, format.Plain),
						))
					}
					require.Equal(t, show(w.engine(2)), show(e), "%s: %s", name, formula)
				}
			}
		}
	}
}
