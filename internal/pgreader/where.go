package pgreader

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/records"
)

// test is a condition as the database decides it.
type test struct {
	of *plan.Predicate
	// met says, in SQL and never with a null, that a record meets it, its negation set aside; blank, that the field
	// has no value.
	met, blank string
	// step says which listed values no record has.
	step result.Step
}

// deciding turns the conditions of a plan into SQL.
type deciding struct {
	*question
	tx    pgx.Tx
	tests []*test
	by    map[*plan.Node]int
	known []part // of the table
}

// undecided says that the database cannot decide a condition exactly; the engine will.
type undecided struct{ why string }

func (e *undecided) Error() string { return "pgreader: " + e.why }

// tree decides all conditions of a filter.
func (d *deciding) tree(ctx context.Context, n *plan.Node) error {
	switch {
	case n == nil || n.Kind == plan.Open:
		return nil
	case n.Kind == plan.Links:
		return &undecided{"linked records"}
	case n.Kind == plan.Leaf:
		t, err := d.leaf(ctx, n.Predicate)
		if err != nil {
			return err
		}
		d.by[n] = len(d.tests)
		d.tests = append(d.tests, t)
		return nil
	}
	for _, c := range n.Children {
		if err := d.tree(ctx, c); err != nil {
			return err
		}
	}
	return nil
}

// whole is a filter over the outcomes of its tests, which are called c0, c1 and so on.
func (d *deciding) whole(n *plan.Node) string {
	switch {
	case n == nil || n.Kind == plan.Open:
		return "true"
	case n.Kind == plan.Leaf:
		i := d.by[n]
		if d.tests[i].of.Negate {
			return fmt.Sprintf("NOT c%d", i)
		}
		return fmt.Sprintf("c%d", i)
	}
	var parts []string
	for _, c := range n.Children {
		if c.Kind != plan.Open {
			parts = append(parts, d.whole(c))
		}
	}
	switch {
	case len(parts) == 0:
		return "true"
	case n.Kind == plan.Any:
		return "(" + strings.Join(parts, " OR ") + ")"
	case n.Kind == plan.None:
		return "NOT (" + strings.Join(parts, " OR ") + ")"
	}
	return "(" + strings.Join(parts, " AND ") + ")"
}

// leaf decides one condition.
func (d *deciding) leaf(ctx context.Context, t *plan.Predicate) (*test, error) {
	if d.plan.Derived[t.Ref.Path] != nil {
		return nil, &undecided{"a field that the view makes"}
	}
	if len(t.Ref.Links) > 0 {
		return d.linked(ctx, t)
	}
	c, ok := d.away.Column(t.Ref.Field.Key)
	if !ok {
		return nil, &undecided{"a field that is not in the database"}
	}
	out := &test{of: t, blank: "(" + c.Expr + ") IS NULL"}
	if c.Field.Type == catalog.Text {
		return out, d.text(ctx, out, c.Expr, t)
	}
	if !c.Whole && !bounded(c.Type) {
		return nil, &undecided{"numbers that may be beyond what is kept"}
	}
	if lo := least[c.Type]; lo != "" {
		out.blank = fmt.Sprintf("CASE WHEN (%s) BETWEEN %s AND %s THEN false ELSE true END", c.Expr, lo, cmp.Or(most[c.Type], "9223372036854775807"))
	}
	if c.Type == "date" || strings.HasPrefix(c.Type, "timestamp") {
		out.blank = fmt.Sprintf("((%[1]s) IS NULL OR NOT isfinite(%[1]s))", c.Expr)
	}
	var parts []string
	switch t.Match {
	case plan.MatchBlank:
		parts = append(parts, out.blank)
	case plan.MatchSet:
		for _, r := range t.Ranges {
			part, err := within(c, r)
			if err != nil {
				return nil, err
			}
			parts = append(parts, part)
		}
		for _, r := range t.Floats {
			parts = append(parts, fmt.Sprintf("(%s) BETWEEN %s AND %s", c.Expr, float(r.Lo), float(r.Hi)))
		}
		if t.Blank {
			parts = append(parts, out.blank)
		}
	default:
		return nil, &undecided{"a condition of its kind"}
	}
	out.met = anyOf(parts)
	return out, nil
}

// bounded says of a type that all of its values but the infinite ones are kept, and those lie beyond all bounds.
func bounded(kind string) bool {
	return kind == "date" || kind == "timestamptz" || kind == "timestamp" || kind == "int8" || kind == "money"
}

// anyOf is true if one of some parts is, and false otherwise.
func anyOf(parts []string) string {
	if len(parts) == 0 {
		return "false"
	}
	// More servers carry out a CASE for another one than a coalesce.
	return "CASE WHEN " + strings.Join(parts, " OR ") + " THEN true ELSE false END"
}

// What lies beyond these is kept by no load: a database's NaN, its infinities, the one bigint that stands for a blank.
var (
	least = map[string]string{"numeric": "(-1e18)", "int8": "(-9223372036854775807)"}
	most  = map[string]string{"numeric": "1e18"}
)

// within says that a column's value lies in a range of stored values.
func within(c records.AwayColumn, r plan.Interval) (string, error) {
	if r.Lo > r.Hi {
		return "false", nil
	}
	lo, err := stored(c, max(r.Lo, math.MinInt64+1))
	if err != nil {
		return "", err
	}
	hi, err := stored(c, r.Hi)
	if err != nil {
		return "", err
	}
	lo, hi = cmp.Or(lo, least[c.Type]), cmp.Or(hi, most[c.Type])
	switch {
	case lo == hi && lo != "":
		return fmt.Sprintf("(%s) = %s", c.Expr, lo), nil
	case lo == "" && hi == "":
		return fmt.Sprintf("(%s) IS NOT NULL", c.Expr), nil
	case lo == "":
		return fmt.Sprintf("(%s) <= %s", c.Expr, hi), nil
	case hi == "":
		return fmt.Sprintf("(%s) >= %s", c.Expr, lo), nil
	}
	return fmt.Sprintf("(%s) BETWEEN %s AND %s", c.Expr, lo, hi), nil
}

// The days within which days are written, and what PostgreSQL knows of beyond: the infinite ones lie further.
var (
	firstDay = calendar.FromDate(1, 1, 1)
	lastDay  = calendar.FromDate(9999, 12, 31)
)

const (
	earliestDate, latestDate     = "date '4714-11-24 BC'", "date '5874897-12-31'"
	earliestMoment, latestMoment = "timestamptz '4714-11-24 00:00:00+00 BC'", "timestamptz '294276-12-31 23:59:59.999999+00'"
)

// stored is a stored value as SQL; empty for one beyond which nothing lies.
func stored(c records.AwayColumn, v int64) (string, error) {
	first, last := v <= math.MinInt64+1, v == math.MaxInt64
	switch c.Field.Type {
	case catalog.YesNo:
		return []string{"false", "true"}[min(max(v, 0), 1)], nil
	case catalog.Date:
		switch {
		case first:
			return earliestDate, nil
		case last:
			return latestDate, nil
		case v >= firstDay && v <= lastDay:
			return "date '" + day(v) + "'", nil
		}
	case catalog.DateTime:
		switch {
		case first:
			return earliestMoment, nil
		case last:
			return latestMoment, nil
		case v >= firstDay*calendar.DayLen && v < (lastDay+1)*calendar.DayLen:
			return "timestamptz '" + moment(v) + "'", nil
		}
	case catalog.Duration:
		if first || last {
			return "", nil
		}
		return fmt.Sprintf("interval '%d microseconds'", v), nil
	case catalog.Whole, catalog.Decimal, catalog.Money, catalog.Percent:
		if first || last {
			return "", nil
		}
		return decimal(v, c.Field.Scale), nil
	}
	return "", &undecided{"a bound that cannot be written"}
}

func day(d int64) string {
	y, m, dd := calendar.Date(d)
	return fmt.Sprintf("%04d-%02d-%02d", y, m, dd)
}

func moment(v int64) string {
	at := time.UnixMicro(v).UTC()
	return fmt.Sprintf("%04d-%02d-%02d %02d:%02d:%02d.%06d+00",
		at.Year(), at.Month(), at.Day(), at.Hour(), at.Minute(), at.Second(), at.Nanosecond()/1000)
}

// decimal writes a scaled number.
func decimal(v int64, scale int) string {
	text, minus := strconv.FormatInt(v, 10), ""
	if v < 0 {
		text, minus = text[1:], "-"
	}
	if scale > 0 {
		text = strings.Repeat("0", max(0, scale+1-len(text))) + text
		text = text[:len(text)-scale] + "." + text[len(text)-scale:]
	}
	return "(" + minus + text + ")"
}

func float(v float64) string {
	return "'" + strconv.FormatFloat(v, 'g', -1, 64) + "'::float8"
}

func literal(text string) string { return "'" + strings.ReplaceAll(text, "'", "''") + "'" }

// listed is an array of texts.
func listed(texts []string) string {
	out := make([]string, len(texts))
	for i, text := range texts {
		out[i] = literal(text)
	}
	return "ARRAY[" + strings.Join(out, ",") + "]::text[]"
}

// mostListed is how many different values a condition is decided by.
const mostListed = 20_000

// mostKeys is how many records are named by their keys.
const mostKeys = 200_000

// text decides a condition on a text by the different values there are, which the engine tells apart: how texts are
// compared is its to say.
func (d *deciding) text(ctx context.Context, out *test, expr string, t *plan.Predicate) error {
	if t.Match == plan.MatchField {
		return &undecided{"two fields"}
	}
	out.blank = "CASE WHEN (" + expr + ") <> '' THEN false ELSE true END"
	if t.Match == plan.MatchBlank {
		out.met = out.blank
		return nil
	}
	values, err := d.different(ctx, expr, t)
	if err != nil {
		return err
	}
	met, step, err := decided(ctx, t, values)
	if err != nil {
		return err
	}
	out.step = step
	var parts []string
	if len(met) > 0 {
		parts = append(parts, "("+expr+") = ANY("+listed(met)+")")
	}
	if t.Blank {
		parts = append(parts, out.blank)
	}
	out.met = anyOf(parts)
	return nil
}

// different are the values of a text column that a condition may be met by: all there are, if those are few.
func (d *deciding) different(ctx context.Context, expr string, t *plan.Predicate) ([]string, error) {
	many, err := d.manyValues(ctx, expr)
	if err != nil {
		return nil, err
	}
	values := make([]string, mostListed+1)
	if !many {
		if values, err = d.values(ctx, expr, ""); err != nil || len(values) <= mostListed {
			return values, err
		}
	}
	// Of texts that are plain in small letters, whatever the database's language, it tells as well which can be meant;
	// the others are looked at in any case.
	plain := "lower(" + expr + ")"
	where := ""
	switch {
	case slices.ContainsFunc(t.Texts, func(s string) bool { return !ascii(s) }):
	case t.Match == plan.MatchSet:
		where = fmt.Sprintf("%s = ANY(%s)", plain, listed(t.Texts))
	case t.Match == plan.MatchContains:
		where = fmt.Sprintf("strpos(%s, %s) > 0", plain, literal(t.Texts[0]))
	case t.Match == plan.MatchStarts:
		where = fmt.Sprintf("left(%s, %d) = %s", plain, len(t.Texts[0]), literal(t.Texts[0]))
	case t.Match == plan.MatchEnds:
		where = fmt.Sprintf("right(%s, %d) = %s", plain, len(t.Texts[0]), literal(t.Texts[0]))
	}
	if where != "" {
		values, err = d.values(ctx, expr, fmt.Sprintf(" WHERE %s OR octet_length(%s) <> length(%s)", where, plain, plain))
	}
	if err == nil && len(values) > mostListed {
		err = &undecided{"more different texts than can be listed"}
	}
	return values, err
}

// manyValues says whether the first records of a part alone have more different values than can be listed.
func (d *deciding) manyValues(ctx context.Context, expr string) (bool, error) {
	parts, err := d.parts(ctx)
	if err != nil {
		return false, err
	}
	var n int
	err = d.tx.QueryRow(ctx, fmt.Sprintf(
		"SELECT count(DISTINCT v) FROM (SELECT %s AS v FROM %s LIMIT %d) s", expr, parts[0].table, 5*mostListed,
	)).Scan(&n)
	if err != nil {
		return false, d.failed(ctx, parts[0], err)
	}
	return n > mostListed, nil
}

// values are the different ones of a text column, and some more than can be listed if there are that many.
func (d *deciding) values(ctx context.Context, expr, where string) ([]string, error) {
	seen := map[string]bool{}
	var out []string
	err := d.eachPart(ctx, func(of string) string {
		return fmt.Sprintf("SELECT (%s)::text FROM %s%s GROUP BY 1 LIMIT %d", expr, of, where, mostListed+1)
	}, func(row pgx.CollectableRow) error {
		var text pgtype.Text // a null is the blank
		err := row.Scan(&text)
		if err == nil && !seen[text.String] {
			seen[text.String] = true
			out = append(out, text.String)
		}
		return err
	})
	return out, err
}

func ascii(s string) bool {
	for i := range len(s) {
		if s[i] >= 0x80 {
			return false
		}
	}
	return true
}

// decided are the values among some that meet a condition, its negation set aside, as the engine decides it; step
// says what it says of the condition.
func decided(ctx context.Context, t *plan.Predicate, values []string) (met []string, step result.Step, err error) {
	dict, codes := table.NewDictBuilder(), make([]uint32, len(values))
	for i, v := range values {
		codes[i] = dict.CodeOf(v)
	}
	of := table.New("values", len(values))
	of.Add("value", dict.Build(codes))
	ref := catalog.Ref{Path: "value", Set: "values", Label: t.Ref.Label, Field: t.Ref.Field}
	ref.Field.Key = "value"
	set := &catalog.RecordSet{Key: "values", Fields: []catalog.Field{ref.Field}}
	e := engine.New(
		&table.Snapshot{Tables: map[string]*table.Table{"values": of}},
		&catalog.Catalog{Sets: []*catalog.RecordSet{set}}, engine.Options{Workers: 1},
	)
	rows, step, err := metBy(ctx, e, calendar.Calendar{}, "values", ref, t)
	for _, row := range rows {
		if values[row] != "" {
			met = append(met, values[row])
		}
	}
	return met, step, err
}

// metBy are the rows of a set that meet a condition on a field of theirs, its negation set aside.
func metBy(
	ctx context.Context, e *engine.Engine, cal calendar.Calendar, set string, ref catalog.Ref, t *plan.Predicate,
) (rows []int32, step result.Step, err error) {
	positive := *t
	positive.Ref, positive.Negate = ref, false
	p := &plan.Plan{Records: set, Calendar: cal, Filter: &plan.Node{Kind: plan.Leaf, Predicate: &positive}}
	if rows, err = e.Kept(ctx, p); err != nil {
		return nil, step, err
	}
	res, err := e.Run(ctx, p)
	if err != nil {
		return nil, step, err
	}
	return rows, res.Steps[0], nil
}

// linked decides a condition on a field of linked records by the records in memory that meet it, of which the
// database is told the keys.
func (d *deciding) linked(ctx context.Context, t *plan.Predicate) (*test, error) {
	if t.Match == plan.MatchField {
		return nil, &undecided{"two fields"}
	}
	i := slices.IndexFunc(d.links, func(l records.AwayLink) bool { return l.Key == t.Ref.Links[0] })
	if i < 0 || len(d.links[i].Columns) != 1 || d.loaded.Away[d.links[i].To] != nil {
		return nil, &undecided{"a link of several columns, or to records that are not in memory"}
	}
	link := d.links[i]
	c, ok := d.away.Column(link.Columns[0])
	keys := d.loaded.Held(link.To, link.ToColumns[0])
	if !ok || keys == nil {
		return nil, &undecided{"a link by what is not kept"}
	}
	ref, err := d.loaded.Catalog.Resolve(link.To, strings.TrimPrefix(t.Ref.Path, link.Key+"."))
	if err != nil {
		return nil, &undecided{err.Error()}
	}
	e := engine.New(d.loaded.Snapshot, d.loaded.Catalog, d.opts.Engine)
	out := &test{of: t}
	rows, step, err := metBy(ctx, e, d.plan.Calendar, link.To, ref, t)
	if err != nil {
		return nil, err
	}
	out.step = step
	met, err := keysOf(keys, rows)
	if err != nil {
		return nil, err
	}
	empty, _, err := metBy(ctx, e, d.plan.Calendar, link.To, ref, &plan.Predicate{Match: plan.MatchBlank})
	if err != nil {
		return nil, err
	}
	without, err := keysOf(keys, empty)
	if err != nil {
		return nil, err
	}
	none := "(" + c.Expr + ") IS NULL"
	if !link.Checked {
		every := make([]int32, keys.Len())
		for i := range every {
			every[i] = int32(i)
		}
		all, err := keysOf(keys, every)
		if err != nil {
			return nil, err
		}
		none = fmt.Sprintf("CASE WHEN (%s) = ANY(%s) THEN false ELSE true END", c.Expr, all)
	}
	out.blank = fmt.Sprintf("CASE WHEN %s OR (%s) = ANY(%s) THEN true ELSE false END", none, c.Expr, without)
	if t.Match == plan.MatchBlank {
		out.met = out.blank
		return out, nil
	}
	out.met = anyOf([]string{fmt.Sprintf("(%s) = ANY(%s)", c.Expr, met)})
	if t.Blank {
		out.met = fmt.Sprintf("(%s OR %s)", out.met, none)
	}
	return out, nil
}

// keysOf are the values of some rows of a key, as an array of SQL.
func keysOf(keys table.Column, rows []int32) (string, error) {
	if len(rows) > mostKeys {
		return "", &undecided{"more linked records than can be listed"}
	}
	switch c := keys.(type) {
	case *table.Numbers:
		out := make([]string, 0, len(rows))
		for _, row := range rows {
			if v := c.Values[row]; v != table.Blank {
				out = append(out, strconv.FormatInt(v, 10))
			}
		}
		return "ARRAY[" + strings.Join(out, ",") + "]::int8[]", nil
	case *table.Texts:
		out := make([]string, 0, len(rows))
		for _, row := range rows {
			if text := c.Dict.Value(c.Codes[row]); text != "" {
				out = append(out, text)
			}
		}
		return listed(out), nil
	}
	return "", &undecided{"a key of its kind"}
}

// differentKeys are the different values of a column, as an array of SQL.
func differentKeys(c table.Column) (string, error) {
	seen := map[any]bool{}
	var rows []int32
	for row := range c.Len() {
		var v any
		switch c := c.(type) {
		case *table.Numbers:
			v = c.Values[row]
		case *table.Texts:
			v = c.Codes[row]
		default:
			return "", &undecided{"a key of its kind"}
		}
		if !seen[v] {
			seen[v] = true
			if rows = append(rows, int32(row)); len(rows) > mostKeys {
				break
			}
		}
	}
	return keysOf(c, rows)
}
