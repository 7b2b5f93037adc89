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
	// totals compares every group line and the grand total, in any order; cells
	// every cell of a crosstab.
	totals, cells bool
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
			name: "bucketed amount, ratio of sums", totals: true,
			view: `"calculated":[{"key":"net","label":"Net","formula":"Fare * (100 - Discount)%"},{"key":"kept","label":"Kept","formula":"ROUND(SUM(net) / SUM(Fare); 4)"}],
				"buckets":[{"key":"size","label":"Size","of":"net","bands":[{"label":"to 25","below":"25"},{"label":"to 50","below":"50"},{"label":"to 100","below":"100"},{"label":"to 200","below":"200"},{"label":"to 400","below":"400"}],"rest":"more"}],
				"columns":[{"field":"net","totals":[{"fn":"sum"}]},{"field":"kept"}],"groups":[{"field":"size"}]`,
			sql: `SELECT (1 - grouping(size))::text, coalesce(size, ''), count(*)::text, sum(net)::numeric(20,6)::text, round(sum(net) / sum(fare), 4)::text FROM (SELECT fare, net,
				CASE WHEN net < 25 THEN 'to 25' WHEN net < 50 THEN 'to 50' WHEN net < 100 THEN 'to 100' WHEN net < 200 THEN 'to 200' WHEN net < 400 THEN 'to 400' ELSE 'more' END AS size
				FROM (SELECT fare, fare * (100 - discount) / 100 AS net FROM bookings) b) x GROUP BY ROLLUP (size)`,
		},
		{
			name: "crosstab of route by month", cells: true,
			view: `"columns":[{"field":"fare","totals":[{"fn":"sum"},{"fn":"sum","show":"share_row"}]}],"groups":[{"field":"route"}],"across":[{"field":"departs","unit":"month"}]`,
			sql: `SELECT coalesce(route, ''), coalesce(to_char(m, 'Mon YYYY'), ''), f::text, round(100 * f / max(f) FILTER (WHERE m IS NULL) OVER (PARTITION BY route), 2)::text
				FROM (SELECT route, m, sum(fare) AS f FROM (SELECT route, date_trunc('month', departs) AS m, fare FROM bookings) b GROUP BY CUBE (route, m)) x`,
		},
		{
			name: fmt.Sprintf("two-key sort at %d", deep), offset: deep, limit: 200,
			view: `"columns":[{"field":"ref"},{"field":"fare"},{"field":"departs"}],"sort":[{"field":"fare","desc":true},{"field":"departs"},{"field":"ref"}]`,
			sql: fmt.Sprintf(
				`SELECT ref, fare::text, to_char(departs, 'YYYY-MM-DD"T"HH24:MI:SS') FROM bookings ORDER BY bookings.fare DESC, bookings.departs, ref COLLATE "C" LIMIT 200 OFFSET %d`,
				deep,
			),
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
