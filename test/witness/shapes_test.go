package witness

// Questions about what is worked out: calculated fields, buckets, top groups,
// groups without records, crosstabs, comparisons, linked records.
var shapes = []question{
	{
		name: "bucketed calculated amount with a ratio of sums", totals: true,
		view: `{"gavrik":1,"records":"bookings","columns":[{"field":"net","totals":[{"fn":"sum"}]},{"field":"kept"}],"groups":[{"field":"size"}],
			"calculated":[{"key":"net","label":"Net","formula":"Fare * (1 - COALESCE(Discount; 0))"},{"key":"kept","label":"Kept","formula":"ROUND(SUM(net) / SUM(Fare); 4)"}],
			"buckets":[{"key":"size","label":"Size","of":"net","bands":[{"label":"small","below":"60"},{"label":"medium","below":"150"},{"label":"large","below":"400"}]}]}`,
		sql: `SELECT (1 - grouping(size))::text, coalesce(size, ''), count(*)::text, sum(net)::numeric(20,6)::text, round(sum(net) / sum(fare), 4)::text
			FROM (SELECT fare, net, CASE WHEN net < 60 THEN 'small' WHEN net < 150 THEN 'medium' WHEN net < 400 THEN 'large' ELSE 'Everything else' END AS size
				FROM (SELECT fare, fare * (1 - coalesce(discount, 0) / 100) AS net FROM bookings) b) x GROUP BY ROLLUP (size)`,
	},
	{
		name: "percentiles, spreads and variances", totals: true,
		view: `{"gavrik":1,"records":"bookings","columns":[{"field":"fare","totals":[{"fn":"percentile","percent":"90"},{"fn":"percentile","percent":"12.5"}]},{"field":"spread"},{"field":"variance"}],"groups":[{"field":"channel"}],
			"calculated":[{"key":"spread","label":"Spread","formula":"ROUND(STDEV(Fare); 3)"},{"key":"variance","label":"Variance","formula":"ROUND(VAR(Passengers); 3)"}]}`,
		sql: `SELECT (1 - grouping(channel))::text, coalesce(channel, ''), count(*)::text, round((percentile_cont(0.9) WITHIN GROUP (ORDER BY fare))::numeric, 2)::text,
			round((percentile_cont(0.125) WITHIN GROUP (ORDER BY fare))::numeric, 2)::text, round(stddev_samp(fare), 3)::text, round(var_samp(passengers), 3)::text FROM bookings GROUP BY ROLLUP (channel)`,
	},
	{
		name: "first and last by a date", totals: true,
		view: `{"gavrik":1,"records":"claims","columns":[{"field":"ref","totals":[{"fn":"first","by":"opened_at"},{"fn":"last","by":"closed_at"}]}],"groups":[{"field":"category"}]}`,
		sql: `SELECT '1', category, count(*)::text, (array_agg(ref ORDER BY opened_at, id))[1], (array_agg(ref ORDER BY closed_at DESC, id DESC) FILTER (WHERE closed_at IS NOT NULL))[1] FROM claims GROUP BY category
			UNION ALL SELECT '0', '', count(*)::text, (array_agg(ref ORDER BY opened_at, id))[1], (array_agg(ref ORDER BY closed_at DESC, id DESC) FILTER (WHERE closed_at IS NOT NULL))[1] FROM claims`,
	},
	{
		name: "top five with the rest as one", totals: true, ordered: true,
		view: `{"gavrik":1,"records":"bookings","columns":[{"field":"fare","totals":[{"fn":"sum"}]},{"field":"customer.country","totals":[{"fn":"distinct"}]}],
			"groups":[{"field":"sailing.route.name","top":5,"rest":"Others","order":{"by":"total","field":"fare","fn":"sum","desc":true}}]}`,
		sql: `WITH b AS (SELECT r.name, fare, c.country FROM bookings b JOIN sailings s ON s.id = sailing_id JOIN routes r ON r.id = route_id JOIN customers c ON c.id = customer_id),
			t AS (SELECT name, row_number() OVER (ORDER BY sum(fare) DESC) AS n FROM b GROUP BY name)
			SELECT lv, name, n, fare, countries FROM (
				SELECT '1' AS lv, CASE WHEN t.n <= 5 THEN b.name ELSE 'Others' END AS name, min(t.n) AS at, count(*)::text AS n, sum(fare)::text AS fare, count(DISTINCT country)::text AS countries
				FROM b JOIN t USING (name) GROUP BY 2
				UNION ALL SELECT '0', '', 999, count(*)::text, sum(fare)::text, count(DISTINCT country)::text FROM b) x ORDER BY at`,
	},
	{
		name: "weekdays, and hours without sailings", totals: true, ordered: true,
		view: `{"gavrik":1,"records":"sailings","columns":[],"groups":[{"field":"departs_at","unit":"weekday"},{"field":"departs_at","unit":"hour","empty":true}]}`,
		sql: `WITH d AS (SELECT extract(isodow FROM departs_at)::int - 1 AS w, extract(hour FROM departs_at)::int AS h FROM sailings), g AS (SELECT w, h FROM generate_series(0, 6) w, generate_series(0, 23) h WHERE w IN (SELECT w FROM d))
			SELECT lv, CASE WHEN w = '' THEN '' ELSE to_char(date '2024-01-01' + w::int, 'FMDay') END, h, n FROM (
				SELECT '1' AS lv, w::text, '' AS h, count(*)::text AS n, w AS a, -1 AS b FROM d GROUP BY w
				UNION ALL SELECT '2', g.w::text, g.h::text, count(d.w)::text, g.w, g.h FROM g LEFT JOIN d ON d.w = g.w AND d.h = g.h GROUP BY g.w, g.h
				UNION ALL SELECT '0', '', '', count(*)::text, 99, 0 FROM d) x ORDER BY a, b`,
	},
	{
		name: "vessels without inspections that failed are shown, too", totals: true, ordered: true,
		view: `{"gavrik":1,"records":"inspections","columns":[],"filter":{"field":"passed","op":"is","value":"no"},"groups":[{"field":"vessel.name","empty":true,"order":{"by":"count","desc":true}}]}`,
		sql: `SELECT lv, name, n FROM (SELECT '1' AS lv, name, n::text FROM (SELECT v.name, count(i.id) AS n FROM vessels v LEFT JOIN inspections i ON i.vessel_id = v.id AND NOT passed GROUP BY v.name) x
			UNION ALL SELECT '0', '', count(*)::text FROM inspections WHERE NOT passed) y ORDER BY lv DESC, n::int DESC, name`,
	},
	{
		name: "crosstab of route by channel with shares of the line", totals: true,
		view: `{"gavrik":1,"records":"bookings","columns":[{"field":"fare","totals":[{"fn":"sum"},{"fn":"sum","show":"share_row"}]},{"field":"customer.country","totals":[{"fn":"distinct"}]}],
			"groups":[{"field":"sailing.route.name"}],"across":[{"field":"channel"}]}`,
		sql: `WITH b AS (SELECT r.name, channel, fare, c.country FROM bookings b JOIN sailings s ON s.id = sailing_id JOIN routes r ON r.id = route_id JOIN customers c ON c.id = customer_id),
			cell AS (SELECT grouping(name) AS g, name, grouping(channel) AS a, channel, count(*) AS n, sum(fare) AS f, count(DISTINCT country) AS d FROM b GROUP BY CUBE (name, channel))
			SELECT array_to_string(ARRAY[(1 - l.g)::text, coalesce(l.name, ''), l.n::text] || array_agg(concat_ws('|', coalesce(x.f::text, ''), coalesce(round(100 * x.f / l.f, 2)::text, ''), coalesce(x.d::text, '')) ORDER BY c.a, c.channel), '|')
			FROM cell l CROSS JOIN (SELECT DISTINCT a, channel FROM cell) c LEFT JOIN cell x ON x.g = l.g AND x.name IS NOT DISTINCT FROM l.name AND x.a = c.a AND x.channel IS NOT DISTINCT FROM c.channel
			WHERE l.a = 1 GROUP BY l.g, l.name, l.n`,
	},
	{
		name: "a month beside the month before", totals: true,
		view: `{"gavrik":1,"records":"sailings","columns":[{"field":"passengers","totals":[{"fn":"sum"}]}],"filter":{"field":"departs_at","op":"in","period":{"which":"last","unit":"month"}},
			"groups":[{"field":"route.name"}],"compare":{"with":"before"}}`,
		sql: `WITH s AS (SELECT r.name, date_trunc('month', departs_at)::date AS m, s.passengers AS p FROM sailings s JOIN routes r ON r.id = route_id),
			x AS (SELECT coalesce(name, '') AS name, grouping(name) AS g, count(*) FILTER (WHERE m = '2026-10-01') AS a, count(*) FILTER (WHERE m = '2026-09-01') AS b,
				sum(p) FILTER (WHERE m = '2026-10-01') AS pa, sum(p) FILTER (WHERE m = '2026-09-01') AS pb FROM s WHERE m IN ('2026-10-01', '2026-09-01') GROUP BY ROLLUP (name))
			SELECT (1 - g)::text, name, a::text, b::text, coalesce(pa::text, ''), coalesce(pb::text, ''), coalesce((pa - pb)::text, ''), coalesce(round(100.0 * (pa - pb) / nullif(pb, 0), 2)::text, '') FROM x`,
	},
	{
		name: "at least two linked records of a kind", totals: true,
		view: `{"gavrik":1,"records":"vessels","columns":[],"filter":{"linked":{"records":"inspections","by":"vessel","test":"at_least","n":2,"where":{"field":"passed","op":"is","value":"no"}}}}`,
		sql:  `SELECT '0', count(*)::text FROM vessels v WHERE (SELECT count(*) FROM inspections i WHERE i.vessel_id = v.id AND NOT passed) >= 2`,
	},
	{
		name: "the latest linked record meets a condition",
		view: `{"gavrik":1,"records":"vessels","columns":[{"field":"name"}],"filter":{"linked":{"records":"inspections","by":"vessel","test":"latest","date":"inspected_on","meets":{"field":"score","op":"at_least","value":"80"}}}}`,
		sql:  `SELECT name FROM vessels v WHERE (SELECT score FROM inspections i WHERE i.vessel_id = v.id ORDER BY inspected_on DESC, id DESC LIMIT 1) >= 80`,
	},
	{
		name: "sums of records linked two links away", totals: true,
		view: `{"gavrik":1,"records":"sailings","columns":[{"field":"delay","totals":[{"fn":"sum"}]}],"filter":{"all":[
			{"linked":{"records":"claims","by":"booking.sailing","test":"sum","field":"claimed","op":"over","value":"100"}},
			{"linked":{"records":"bookings","by":"sailing","test":"none","where":{"field":"status","op":"is","value":"No-show"}}}]}}`,
		sql: `SELECT '0', count(*)::text, coalesce(hms(sum(delay)), '') FROM sailings s WHERE (SELECT sum(claimed) FROM claims c JOIN bookings b ON b.id = booking_id WHERE b.sailing_id = s.id) > 100
			AND NOT EXISTS (SELECT 1 FROM bookings b WHERE b.sailing_id = s.id AND b.status = 'No-show')`,
	},
	{
		name: "two of one name stay two", totals: true,
		view: `{"gavrik":1,"records":"bookings","columns":[{"field":"fare","totals":[{"fn":"sum"}]}],"groups":[{"field":"customer.name.each"}]}`,
		sql: `WITH c AS (SELECT id, CASE WHEN count(*) OVER (PARTITION BY translate(lower(name), 'éëö', 'eeo')) > 1 THEN name || ' · ' || ref ELSE name END AS each FROM customers)
			SELECT (1 - grouping(each))::text, coalesce(each, ''), count(*)::text, sum(fare)::text FROM bookings LEFT JOIN c ON c.id = customer_id GROUP BY ROLLUP (each)`,
	},
	{
		name: "what is paid of a booking against its fare, beside its claims", totals: true,
		view: `{"gavrik":1,"records":"bookings","linked":[
				{"key":"paid","label":"Paid","records":"payments","by":"booking","take":"sum","field":"amount"},
				{"key":"claimed","label":"Claimed back","records":"claims","by":"booking","take":"sum","field":"claimed"}],
			"calculated":[{"key":"open","label":"Open","formula":"Fare - Paid"}],
			"filter":{"field":"paid","op":"under","other":"fare"},
			"columns":[{"field":"paid","totals":[{"fn":"sum"}]},{"field":"open","totals":[{"fn":"sum"}]},{"field":"claimed","totals":[{"fn":"sum"}]}],
			"groups":[{"field":"channel"}]}`,
		sql: `WITH p AS (SELECT booking_id, sum(amount) AS paid FROM payments GROUP BY 1), c AS (SELECT booking_id, sum(claimed) AS claimed FROM claims GROUP BY 1),
			b AS (SELECT channel, fare, coalesce(p.paid, 0) AS paid, CASE WHEN c.booking_id IS NULL THEN 0 ELSE c.claimed END AS claimed
				FROM bookings b LEFT JOIN p ON p.booking_id = b.id LEFT JOIN c ON c.booking_id = b.id)
			SELECT (1 - grouping(channel))::text, coalesce(channel, ''), count(*)::text, sum(paid)::text, sum(fare - paid)::text, sum(claimed)::numeric(20,2)::text
			FROM b WHERE paid < fare GROUP BY ROLLUP (channel)`,
	},
	{
		name: "routes whose fares are over a bound, the others left out", totals: true,
		view: `{"gavrik":1,"records":"bookings","columns":[{"field":"fare","totals":[{"fn":"sum"}]}],"groups":[{"field":"sailing.route.name","keep":{"field":"fare","fn":"sum","op":"over","value":"150000"}},{"field":"channel","keep":{"op":"at_least","value":"400"}}]}`,
		sql: `WITH b AS (SELECT r.name, channel, fare, sum(fare) OVER (PARTITION BY r.name) AS whole, count(*) OVER (PARTITION BY r.name, channel) AS n
				FROM bookings b JOIN sailings s ON s.id = sailing_id JOIN routes r ON r.id = route_id)
			SELECT (2 - grouping(name) - grouping(channel))::text, coalesce(name, ''), coalesce(channel, ''), count(*)::text, sum(fare)::text
			FROM b WHERE whole > 150000 AND n >= 400 GROUP BY ROLLUP (name, channel)`,
	},
	{
		name: "the customers that make up half of the fares, the others as one", totals: true,
		view: `{"gavrik":1,"records":"bookings","columns":[{"field":"fare","totals":[{"fn":"sum"}]}],"groups":[{"field":"customer.ref","rest":"Rest","keep":{"field":"fare","fn":"sum","share":"50","others":"rest"}}]}`,
		sql: `WITH c AS (SELECT c.ref, count(*) AS n, sum(fare) AS f FROM bookings b JOIN customers c ON c.id = customer_id GROUP BY c.ref),
			o AS (SELECT *, sum(f) OVER (ORDER BY f DESC, ref) - f AS before, sum(f) OVER () AS whole FROM c),
			k AS (SELECT CASE WHEN before < whole / 2 THEN ref ELSE 'Rest' END AS ref, n, f FROM o)
			SELECT (1 - grouping(ref))::text, coalesce(ref, ''), sum(n)::text, sum(f)::text FROM k GROUP BY ROLLUP (ref)`,
	},
	{
		name: "each booking beside its channel, and beside the one before of the same customer",
		view: `{"gavrik":1,"records":"bookings","filter":{"all":[{"field":"status","op":"is","value":"Travelled"},{"field":"rank","op":"at_most","value":"3"}]},
			"beside":[{"key":"share","label":"Share","take":"share","field":"fare","each":[{"field":"channel"},{"field":"booked_at","unit":"month"}]},
				{"key":"rank","label":"Rank","take":"rank","field":"fare","each":[{"field":"customer.ref"}]},
				{"key":"far","label":"Far","take":"from_average","field":"fare","each":[{"field":"channel"}]},
				{"key":"step","label":"Step","take":"change","field":"fare","each":[{"field":"customer.ref"}],"by":[{"field":"booked_at"}]},
				{"key":"run","label":"Run","take":"running","field":"fare","each":[{"field":"customer.ref"}],"by":[{"field":"booked_at"}]}],
			"columns":[{"field":"ref"},{"field":"share"},{"field":"rank"},{"field":"far"},{"field":"step"},{"field":"run"}]}`,
		sql: `WITH b AS (SELECT ref, fare, rank() OVER (PARTITION BY customer_id ORDER BY fare DESC) AS rank,
				round(100 * fare / sum(fare) OVER (PARTITION BY channel, date_trunc('month', booked_at)), 2) AS share,
				fare - round(avg(fare) OVER (PARTITION BY channel), 2) AS far,
				fare - lag(fare) OVER (PARTITION BY customer_id ORDER BY booked_at, id) AS step,
				sum(fare) OVER (PARTITION BY customer_id ORDER BY booked_at, id) AS run
				FROM bookings WHERE status = 'Travelled')
			SELECT ref, share::text, rank::text, far::text, coalesce(step::text, ''), run::text FROM b WHERE rank <= 3`,
	},
	{
		name: "a crosstab beside another, cell by cell", totals: true,
		view: `{"gavrik":1,"records":"claims","columns":[{"field":"claimed","totals":[{"fn":"sum"}]}],"filter":{"field":"status","op":"is","value":"Open"},
			"groups":[{"field":"category"}],"across":[{"field":"booking.channel"}],"compare":{"with":"filter","filter":{"field":"status","op":"is","value":"Settled"}}}`,
		sql: `WITH b AS (SELECT category, channel, claimed, c.status = 'Open' AS own FROM claims c JOIN bookings b ON b.id = booking_id WHERE c.status IN ('Open', 'Settled')),
			x AS (SELECT category, channel, grouping(category) AS g, grouping(channel) AS a, count(*) FILTER (WHERE own) AS n, count(*) FILTER (WHERE NOT own) AS m,
				sum(claimed) FILTER (WHERE own) AS f, sum(claimed) FILTER (WHERE NOT own) AS o FROM b GROUP BY CUBE (category, channel))
			SELECT array_to_string(ARRAY[(1 - l.g)::text, coalesce(l.category, ''), l.n::text, l.m::text] || array_agg(concat_ws('|', coalesce(c.f::text, ''), coalesce(c.o::text, ''),
				coalesce((c.f - c.o)::text, ''), coalesce(round(100 * (c.f - c.o) / c.o, 2)::text, '')) ORDER BY h.a, h.channel), '|')
			FROM x l CROSS JOIN (SELECT DISTINCT a, channel FROM x) h LEFT JOIN x c ON c.g = l.g AND c.category IS NOT DISTINCT FROM l.category AND c.a = h.a AND c.channel IS NOT DISTINCT FROM h.channel
			WHERE l.a = 1 GROUP BY l.g, l.category, l.n, l.m`,
	},
}
