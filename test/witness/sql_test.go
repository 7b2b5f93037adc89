package witness

import (
	"fmt"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

// translator says a view document in SQL. It is a second reader of the same
// documents, written without the engine, so that random ones can be held against
// PostgreSQL's answers.
type translator struct {
	catalog *catalog.Catalog
	cal     calendar.Calendar
	joins   []string // in the order they are needed
	aliases map[string]string
}

const foldSQL = `
CREATE FUNCTION fold(x text) RETURNS text LANGUAGE sql IMMUTABLE AS $$ SELECT translate(lower(x), 'éëö', 'eeo') $$;`

// table returns the alias of the table that a path of links leads to.
func (tr *translator) table(set string, links []string) string {
	path := strings.Join(links, ".")
	if alias, ok := tr.aliases[path]; ok {
		return alias
	}
	from, at := tr.table(set, links[:len(links)-1]), tr.catalog.Set(set)
	for _, l := range links[:len(links)-1] {
		at = tr.catalog.Set(at.Link(l).To)
	}
	last := links[len(links)-1]
	alias := fmt.Sprintf("t%d", len(tr.aliases))
	tr.aliases[path] = alias
	tr.joins = append(
		tr.joins, fmt.Sprintf("LEFT JOIN %s %s ON %s.id = %s.%s_id", at.Link(last).To, alias, alias, from, last),
	)
	return alias
}

// column is a field as an SQL expression.
func (tr *translator) column(set, path string) (string, catalog.Ref) {
	ref, err := tr.catalog.Resolve(set, path)
	if err != nil {
		panic(err)
	}
	return tr.table(set, ref.Links) + "." + ref.Field.Key, ref
}

// condition is true or false for every record, never null.
func (tr *translator) condition(set string, c *view.Condition) string {
	list := func(parts []view.Condition, join, empty string) string {
		if len(parts) == 0 {
			return empty
		}
		var out []string
		for i := range parts {
			out = append(out, tr.condition(set, &parts[i]))
		}
		return "(" + strings.Join(out, join) + ")"
	}
	switch {
	case c.All != nil:
		return list(c.All, " AND ", "true")
	case c.Any != nil:
		return list(c.Any, " OR ", "true")
	case c.None != nil:
		return "NOT " + list(c.None, " OR ", "false")
	}
	x, ref := tr.column(set, c.Field)
	op, negative := c.Op.Negative()
	test := tr.test(set, c, op, x, ref.Field)
	if negative {
		return "NOT coalesce(" + test + ", false)"
	}
	return "coalesce(" + test + ", false)"
}

func (tr *translator) test(set string, c *view.Condition, op view.Op, x string, f catalog.Field) string {
	switch {
	case op == view.IsBlank:
		return x + " IS NULL"
	case op == view.Filled:
		return x + " IS NOT NULL"
	case c.Other != "":
		other, _ := tr.column(set, c.Other)
		return x + symbols[op] + other
	case op == view.In:
		r := tr.cal.Resolve(*c.Period)
		from, to := "'-infinity'", "'infinity'"
		if !r.OpenFrom {
			from = "'" + isoDay(r.From) + "'"
		}
		if !r.OpenTo {
			to = "'" + isoDay(r.To+1) + "'"
		}
		return fmt.Sprintf("(%s >= %s AND %s < %s)", x, from, x, to)
	case op == view.Weekday:
		return "to_char(" + x + ", 'FMDay') IN ('" + strings.Join(c.Values, "', '") + "')"
	case op == view.Hour:
		return "extract(hour FROM " + x + ") IN (" + strings.Join(c.Values, ", ") + ")"
	case op == view.OneOf:
		var out []string
		for _, v := range c.Values {
			if v == "" {
				out = append(out, x+" IS NULL")
			} else {
				out = append(out, "coalesce("+compare(x, view.Is, v, f)+", false)")
			}
		}
		return "(" + strings.Join(out, " OR ") + ")"
	case op == view.Between:
		return "(" + compare(x, view.AtLeast, c.Value, f) + " AND " + compare(x, view.AtMost, c.To, f) + ")"
	}
	return compare(x, op, c.Value, f)
}

var symbols = map[view.Op]string{
	view.Is: " = ", view.Over: " > ", view.AtLeast: " >= ", view.Under: " < ", view.AtMost: " <= ",
}

func compare(x string, op view.Op, v string, f catalog.Field) string {
	switch f.Type {
	case catalog.Text:
		patterns := map[view.Op]string{view.Contains: "%%%s%%", view.Starts: "%s%%", view.Ends: "%%%s"}
		if op == view.Like {
			return fmt.Sprintf("fold(%s) LIKE fold('%s')", x, strings.NewReplacer("*", "%", "?", "_").Replace(v))
		}
		if p, ok := patterns[op]; ok {
			return fmt.Sprintf("fold(%s) LIKE fold('"+p+"')", x, v)
		}
		return fmt.Sprintf("fold(%s) = fold('%s')", x, v)
	case catalog.YesNo:
		return fmt.Sprintf("%s = '%s'", x, v)
	case catalog.DateTime: // the operand is a whole day
		start, end := "date '"+v+"'", "(date '"+v+"' + 1)"
		switch op {
		case view.Over:
			return x + " >= " + end
		case view.AtLeast:
			return x + " >= " + start
		case view.Under:
			return x + " < " + start
		case view.AtMost:
			return x + " < " + end
		}
		return fmt.Sprintf("(%s >= %s AND %s < %s)", x, start, x, end)
	case catalog.Duration:
		return x + symbols[op] + "interval '" + v + "'"
	}
	return x + symbols[op] + v
}

// label is a group's value as the plain cells have it.
func (tr *translator) label(set string, g view.Group) string {
	x, ref := tr.column(set, g.Field)
	switch {
	case g.Unit == calendar.ByFiscalYear:
		return "(date_trunc('year', " + x + " - interval '3 months') + interval '3 months')::date::text"
	case g.Unit == calendar.ByFiscalQuarter: // fiscal years start in April
		return "date_trunc('quarter', " + x + ")::date::text"
	case g.Unit == calendar.ByWeekday:
		return "to_char(" + x + ", 'FMDay')"
	case g.Unit == calendar.ByHour:
		return "extract(hour FROM " + x + ")::int::text"
	case g.Unit != "":
		return "date_trunc('" + string(g.Unit) + "', " + x + ")::date::text"
	case ref.Field.Type == catalog.YesNo:
		return x + "::text"
	}
	return x
}

// total works a total out of the base's columns v<i> and, for linked records
// counted once, the marks n<i>.
func total(i int, t view.Total, ref catalog.Ref) string {
	fn := t.Fn
	v := fmt.Sprintf("v%d", i)
	once := ""
	if len(ref.Links) > 0 && fn.Info().DistinctPerLinked {
		once = fmt.Sprintf(" FILTER (WHERE n%d = 1)", i)
	}
	text := func(x string) string {
		switch ref.Field.Type {
		case catalog.Duration:
			return "coalesce(hms(" + x + "), '')"
		case catalog.DateTime:
			return "coalesce(to_char(" + x + ", 'YYYY-MM-DD\"T\"HH24:MI:SS'), '')"
		}
		return "coalesce((" + x + ")::text, '')"
	}
	switch fn {
	case view.Sum:
		return text("sum(" + v + ")" + once)
	case view.Average:
		return text("round(avg(" + v + ")" + once + ", 2)")
	case view.Median, view.Percentile:
		percent := t.Percent
		if percent == "" {
			percent = "50"
		}
		return text(
			"round((percentile_cont(" + percent + "/100.0) WITHIN GROUP (ORDER BY " + v + ")" + once + ")::numeric, 2)",
		)
	case view.Mode:
		return text("mode() WITHIN GROUP (ORDER BY " + v + ")")
	case view.Smallest:
		return text("min(" + v + ")")
	case view.Largest:
		return text("max(" + v + ")")
	case view.Distinct:
		return "count(DISTINCT " + v + ")::text"
	case view.CountFilled:
		return "count(" + v + ")::text"
	}
	return "(count(*) - count(" + v + "))::text"
}

// totals is one query for the group lines of every level and the grand total.
func (tr *translator) totals(d *view.Document) string {
	tr.aliases = map[string]string{"": "t0"}
	where := "true"
	if d.Filter != nil {
		where = tr.condition(d.Records, d.Filter)
	}
	var labels []string
	for i, g := range d.Groups {
		labels = append(labels, fmt.Sprintf("coalesce(%s, '') AS g%d", tr.label(d.Records, g), i))
	}
	var levels []string
	for level := 0; level <= len(d.Groups); level++ {
		var by, base, out []string
		for i := range d.Groups {
			if i < level {
				by = append(by, fmt.Sprintf("g%d", i))
				out = append(out, fmt.Sprintf("g%d", i))
			} else {
				out = append(out, "''")
			}
		}
		out = append(append([]string{fmt.Sprintf("'%d'", level)}, out...), "count(*)::text")
		n := 0
		for _, c := range d.Columns {
			x, ref := tr.column(d.Records, c.Field)
			for _, t := range c.Totals {
				base = append(base, fmt.Sprintf("%s AS v%d", x, n))
				if len(ref.Links) > 0 {
					id := tr.table(d.Records, ref.Links) + ".id"
					parts := append(exprs(labels[:level]), id)
					base = append(
						base,
						fmt.Sprintf(
							"CASE WHEN %s IS NOT NULL THEN row_number() OVER (PARTITION BY %s) END AS n%d", id,
							strings.Join(parts, ", "), n,
						),
					)
				}
				out = append(out, total(n, t, ref))
				n++
			}
		}
		q := fmt.Sprintf("SELECT %s FROM (SELECT %s FROM %s t0 %s WHERE %s) x", strings.Join(out, ", "),
			strings.Join(
				append(append([]string{"1 AS one"}, labels[:level]...), base...), ", ",
			), d.Records, strings.Join(tr.joins, " "), where)
		if len(by) > 0 {
			q += " GROUP BY " + strings.Join(by, ", ")
		}
		levels = append(levels, q)
	}
	return strings.Join(levels, "\nUNION ALL\n")
}

// exprs are selected expressions without their names.
func exprs(named []string) []string {
	var out []string
	for _, s := range named {
		out = append(out, s[:strings.LastIndex(s, " AS ")])
	}
	return out
}

func isoDay(d calendar.Day) string {
	y, m, day := calendar.Date(d)
	return fmt.Sprintf("%04d-%02d-%02d", y, m, day)
}
