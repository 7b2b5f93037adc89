package bench

import (
	"fmt"
	"strings"
)

// question is asked of both. Shape says what is compared: the group lines and the
// grand total, or a window of the lines.
type question struct {
	name string
	view string // the view document but for its head
	sql  string
	// totals compares every group line and the grand total, in any order.
	totals bool
	// offset and limit are the window read; with totals they do not matter.
	offset, limit int
	depth         int
}

// pasted is how many references the membership question lists; one in fifty is
// not there.
const pasted = 5_000

func questions(rows int) []question {
	deep := min(500_000, rows/2)
	refs := make([]string, pasted)
	for i := range refs {
		refs[i] = fmt.Sprintf("MB-%08d", (i*7919)%(rows+rows/50)+1)
	}
	list := `"` + strings.Join(refs, `","`) + `"`
	return []question{
		{
			name: "filtered count", totals: true,
			view: `"columns":[],"filter":{"all":[{"field":"status","op":"none_of","values":["Cancelled","Quoted"]},{"field":"fare","op":"over","value":"120"},{"field":"channel","op":"is","value":"Web"}]}`,
			sql:  `SELECT '0', count(*)::text FROM bookings WHERE status NOT IN ('Cancelled', 'Quoted') AND fare > 120 AND channel = 'Web'`,
		},
		{
			name: "two-level group", totals: true,
			view: `"columns":[{"field":"fare","totals":[{"fn":"sum"},{"fn":"average"}]}],"groups":[{"field":"route"},{"field":"status"}]`,
			sql: `SELECT (2 - grouping(route) - grouping(status))::text, coalesce(route, ''), coalesce(status, ''), count(*)::text, sum(fare)::text, round(avg(fare), 2)::text
				FROM bookings GROUP BY ROLLUP (route, status)`,
		},
		{
			name: "three-level group", totals: true,
			view: `"columns":[{"field":"fare","totals":[{"fn":"sum"}]},{"field":"passengers","totals":[{"fn":"sum"}]}],"groups":[{"field":"route"},{"field":"departs","unit":"month"},{"field":"channel"}]`,
			sql: `SELECT (3 - grouping(route) - grouping(m) - grouping(channel))::text, coalesce(route, ''), coalesce(m::date::text, ''), coalesce(channel, ''), count(*)::text, sum(fare)::text, sum(passengers)::text
				FROM (SELECT *, date_trunc('month', departs) AS m FROM bookings) x GROUP BY ROLLUP (route, m, channel)`,
		},
		{
			name: fmt.Sprintf("two-key sort at %d", deep), offset: deep, limit: 200,
			view: `"columns":[{"field":"ref"},{"field":"fare"},{"field":"departs"}],"sort":[{"field":"fare","desc":true},{"field":"departs"},{"field":"ref"}]`,
			sql:  fmt.Sprintf(`SELECT ref, fare::text, to_char(departs, 'YYYY-MM-DD"T"HH24:MI:SS') FROM bookings ORDER BY bookings.fare DESC, bookings.departs, ref COLLATE "C" LIMIT 200 OFFSET %d`, deep),
		},
		{
			name: "distinct customers per route", totals: true,
			view: `"columns":[{"field":"customer","totals":[{"fn":"distinct"}]}],"groups":[{"field":"route"}]`,
			sql:  `SELECT (1 - grouping(route))::text, coalesce(route, ''), count(*)::text, count(DISTINCT customer)::text FROM bookings GROUP BY ROLLUP (route)`,
		},
		{
			name: "median per route", totals: true,
			view: `"columns":[{"field":"fare","totals":[{"fn":"median"}]}],"groups":[{"field":"route"}]`,
			sql: `SELECT (1 - grouping(route))::text, coalesce(route, ''), count(*)::text, round((percentile_cont(0.5) WITHIN GROUP (ORDER BY fare))::numeric, 2)::text
				FROM bookings GROUP BY ROLLUP (route)`,
		},
		{
			name: "text contains", totals: true,
			view: `"columns":[],"filter":{"field":"note","op":"contains","value":"beef"}`,
			sql:  `SELECT '0', count(*)::text FROM bookings WHERE note ILIKE '%beef%'`,
		},
		{
			name: fmt.Sprintf("membership in %d references", pasted), totals: true,
			view: `"columns":[{"field":"fare","totals":[{"fn":"sum"}]}],"filter":{"field":"ref","op":"one_of","values":[` + list + `]}`,
			sql:  `SELECT '0', count(*)::text, sum(fare)::text FROM bookings WHERE ref = ANY(ARRAY[` + strings.ReplaceAll(list, `"`, `'`) + `])`,
		},
		{
			name: "top 50 customers by fare", limit: 50,
			view: `"columns":[{"field":"fare","totals":[{"fn":"sum"}]}],"groups":[{"field":"customer","order":{"by":"total","field":"fare","fn":"sum","desc":true}}]`,
			sql:  `SELECT customer, count(*)::text, sum(fare)::text FROM bookings GROUP BY customer ORDER BY sum(fare) DESC, length(customer), customer LIMIT 50`,
		},
	}
}
