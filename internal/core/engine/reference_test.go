package engine

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"math/big"
	"slices"
	"strings"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// The reference reads a document one record at a time, with big rationals and
// package time, and shares with the engine only the order of texts. It is slow,
// plain, and what the engine is held against.

// meets decides a condition for one record.
func (w *world) meets(c *view.Condition, row map[string]any) bool {
	switch {
	case c.All != nil:
		return !slices.ContainsFunc(c.All, func(p view.Condition) bool { return !w.meets(&p, row) })
	case c.Any != nil:
		return len(c.Any) == 0 || slices.ContainsFunc(c.Any, func(p view.Condition) bool {
			return w.meets(&p, row)
		})
	case c.None != nil:
		return !slices.ContainsFunc(c.None, func(p view.Condition) bool { return w.meets(&p, row) })
	case c.Within != nil:
		return w.meets(c.Within.Filter, row)
	}
	value, f := row[c.Field], w.field(c.Field)
	op, negative := c.Op.Negative()
	switch {
	case op == view.IsBlank:
		return value == nil
	case op == view.Filled:
		return value != nil
	case c.Other != "":
		other := row[c.Other]
		if b, ok := value.(band); ok {
			value = b.label
		}
		of := w.field(c.Other)
		if f.Type.Temporal() && of.Type != f.Type { // by the day
			for v, typ := range map[*any]catalog.Type{&value: f.Type, &other: of.Type} {
				if *v != nil && typ == catalog.DateTime {
					*v = dayOf((*v).(int64), w.cal.Zone)
				}
			}
		}
		met := value != nil && other != nil && holds(op, compareValues(value, f, other, of))
		return met != negative
	case op == view.OneOf:
		met := slices.ContainsFunc(c.Values, func(s string) bool {
			return s == "" && value == nil || s != "" && value != nil && w.meetsValue(view.Is, s, "", value, f)
		})
		return met != negative
	case op == view.Weekday || op == view.Hour:
		return (value != nil && slices.Contains(c.Values, w.cycleOf(op, value.(int64), f))) != negative
	case op == view.In:
		return (value != nil && w.inPeriod(*c.Period, value.(int64), f)) != negative
	}
	return (value != nil && w.meetsValue(op, c.Value, c.To, value, f)) != negative
}

// cycleOf is the weekday's name or the hour of a date or moment.
func (w *world) cycleOf(op view.Op, value int64, f catalog.Field) string {
	at := time.Unix(value*86400, 0).UTC()
	if f.Type == catalog.DateTime {
		at = time.UnixMicro(value).In(w.cal.Zone)
	}
	if op == view.Hour {
		return fmt.Sprint(at.Hour())
	}
	return at.Weekday().String()
}

// isLike matches a pattern character by character.
func isLike(s, pattern []rune) bool {
	switch {
	case len(pattern) == 0:
		return len(s) == 0
	case pattern[0] == '*':
		return isLike(s, pattern[1:]) || len(s) > 0 && isLike(s[1:], pattern)
	case pattern[0] == '\\' && len(pattern) > 1 && strings.ContainsRune(`*?\`, pattern[1]):
		pattern = pattern[1:]
	case pattern[0] == '?':
		return len(s) > 0 && isLike(s[1:], pattern[1:])
	}
	return len(s) > 0 && s[0] == pattern[0] && isLike(s[1:], pattern[1:])
}

// meetsValue compares a value that is not blank with an operand.
func (w *world) meetsValue(op view.Op, operand, to string, value any, f catalog.Field) bool {
	if f.Type == catalog.Text {
		s, want := table.Fold(textOf(value)), table.Fold(operand)
		switch op {
		case view.Contains:
			return strings.Contains(s, want)
		case view.Starts:
			return strings.HasPrefix(s, want)
		case view.Ends:
			return strings.HasSuffix(s, want)
		case view.Like:
			return isLike([]rune(s), []rune(want))
		}
		return s == want
	}
	// An operand is a stretch of values: a day of moments, a minute, or a point. Moments are
	// what the clock shows.
	lo, hi := w.operand(operand, f)
	x := rational(value, f)
	if f.Type == catalog.DateTime {
		x.SetInt64(w.clock(value.(int64)))
	}
	switch op {
	case view.Over:
		return x.Cmp(hi) > 0
	case view.AtLeast:
		return x.Cmp(lo) >= 0
	case view.Under:
		return x.Cmp(lo) < 0
	case view.AtMost:
		return x.Cmp(hi) <= 0
	case view.Between:
		_, end := w.operand(to, f)
		return x.Cmp(lo) >= 0 && x.Cmp(end) <= 0
	}
	return x.Cmp(lo) >= 0 && x.Cmp(hi) <= 0
}

// rational is a value as the number it stands for.
func rational(value any, f catalog.Field) *big.Rat {
	if v, ok := value.(float64); ok {
		return new(big.Rat).SetFloat64(v)
	}
	r := new(big.Rat).SetInt64(value.(int64))
	if f.Type == catalog.Duration {
		return r
	}
	return r.Quo(r, new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(f.Scale)), nil)))
}

func (w *world) operand(s string, f catalog.Field) (lo, hi *big.Rat) {
	whole := func(a, b int64) (*big.Rat, *big.Rat) {
		return new(big.Rat).SetInt64(a), new(big.Rat).SetInt64(b)
	}
	switch f.Type {
	case catalog.YesNo:
		v := int64(strings.Index("no yes", s) / 3)
		return whole(v, v)
	case catalog.Date:
		t, _ := time.Parse("2006-01-02", s)
		return whole(t.Unix()/86400, t.Unix()/86400)
	case catalog.DateTime:
		if t, err := time.Parse("2006-01-02", s); err == nil {
			return whole(t.UnixMicro(), t.UnixMicro()+calendar.DayLen-1)
		}
		t, _ := time.Parse("2006-01-02T15:04", s)
		return whole(t.UnixMicro(), t.UnixMicro()+calendar.Minute-1)
	case catalog.Duration:
		var h, m int64
		_, _ = fmt.Sscanf(s, "%d:%d", &h, &m)
		v := (h*60 + m) * calendar.Minute
		return whole(v, v)
	}
	r, _ := new(big.Rat).SetString(s)
	if f.Approx { // such a field is compared as what it is
		x, _ := r.Float64()
		r.SetFloat64(x)
	}
	return r, r
}

func (w *world) inPeriod(p calendar.Period, value int64, f catalog.Field) bool {
	day := value
	if f.Type == catalog.DateTime {
		day = dayOf(value, w.cal.Zone)
	}
	r := w.cal.Resolve(p)
	return (r.OpenFrom || day >= r.From) && (r.OpenTo || day <= r.To)
}

// clock is what the clock shows at a moment, as if it were in UTC.
func (w *world) clock(micros int64) int64 {
	t := time.UnixMicro(micros).In(w.cal.Zone)
	return time.Date(
		t.Year(), t.Month(), t.Day(), t.Hour(), t.Minute(), t.Second(), t.Nanosecond(), time.UTC,
	).UnixMicro()
}

func dayOf(micros int64, zone *time.Location) int64 {
	y, m, d := time.UnixMicro(micros).In(zone).Date()
	return time.Date(y, m, d, 0, 0, 0, 0, time.UTC).Unix() / 86400
}

// compareValues orders two values that are not blank.
func compareValues(a any, fa catalog.Field, b any, fb catalog.Field) int {
	if x, ok := a.(band); ok {
		return cmp.Compare(x.index, b.(band).index)
	}
	if s, ok := a.(string); ok {
		return table.CompareNatural(table.Fold(s), table.Fold(b.(string)))
	}
	if fa.Approx != fb.Approx { // then both are compared as approximate
		x, _ := rational(a, fa).Float64()
		y, _ := rational(b, fb).Float64()
		return new(big.Rat).SetFloat64(x).Cmp(new(big.Rat).SetFloat64(y))
	}
	return rational(a, fa).Cmp(rational(b, fb))
}

// total works a total out over some records in their order: the value, nil for a
// blank, and the field that says how it is written.
func (w *world) total(path string, t view.Total, rows []int) (any, catalog.Field) {
	f := w.field(path)
	if rate, ok := w.rates[path]; ok {
		return rate.figure(w, rows), f
	}
	if f.CurrencyBy == "" || !t.Fn.Info().Combines {
		return w.alone(path, t, rows)
	}
	by := w.coinOf(path)
	coins, figures := w.coins(by, rows, path), []coined(nil)
	_, f = w.alone(path, t, rows)
	if len(coins) < 2 {
		v, _ := w.alone(path, t, rows)
		return oneOf(append(figures, coined{strings.Join(coins, ""), v})), f
	}
	for _, coin := range coins {
		v, _ := w.alone(path, t, w.inCoin(by, coin, rows))
		figures = append(figures, coined{coin, v})
	}
	return oneOf(figures), f
}

// coined is a figure of one currency.
type coined struct {
	coin string
	v    any
}

// oneOf is a single figure, or several of different currencies.
func oneOf(figures []coined) any {
	figures = slices.DeleteFunc(figures, func(c coined) bool { return c.v == nil })
	switch len(figures) {
	case 0:
		return nil
	case 1:
		return figures[0]
	}
	return figures
}

// bare is a figure without its currency; nil for several.
func bare(v any) any {
	if c, ok := v.(coined); ok {
		return c.v
	}
	if _, ok := v.([]coined); ok {
		return nil
	}
	return v
}

// coinOf is the path of the currencies of a field's amounts.
func (w *world) coinOf(path string) string {
	return path[:strings.LastIndex(path, ".")+1] + w.field(path).CurrencyBy
}

// coins are the currencies of the amounts that rows have, or of all rows.
func (w *world) coins(by string, rows []int, paths ...string) []string {
	seen := map[string]bool{}
	for _, i := range rows {
		if len(paths) == 0 || slices.ContainsFunc(paths, func(p string) bool { return w.rows[i][p] != nil }) {
			coin, _ := w.rows[i][by].(string)
			seen[coin] = true
		}
	}
	return slices.Sorted(maps.Keys(seen))
}

func (w *world) inCoin(by, coin string, rows []int) []int {
	return slices.DeleteFunc(slices.Clone(rows), func(i int) bool {
		c, _ := w.rows[i][by].(string)
		return c != coin
	})
}

// alone is a total of amounts of one currency.
func (w *world) alone(path string, t view.Total, rows []int) (any, catalog.Field) {
	f := w.field(path)
	if t.Fn == view.First || t.Fn == view.Last {
		return w.endOf(path, t, rows), f
	}
	values := w.values(path, t.Fn, rows)
	filled := slices.DeleteFunc(slices.Clone(values), func(v any) bool { return v == nil })
	counts := catalog.Field{Type: catalog.Whole}
	switch t.Fn {
	case view.CountFilled:
		return int64(len(filled)), counts
	case view.Blanks:
		return int64(len(values) - len(filled)), counts
	case view.Distinct:
		seen := map[any]bool{}
		for _, v := range filled {
			seen[v] = true
		}
		return int64(len(seen)), counts
	}
	if len(filled) == 0 {
		return nil, f
	}
	order := func(a, b any) int { return compareBlankLast(a, b, f, false) }
	switch t.Fn {
	case view.Mode:
		times, most := map[any]int{}, 0
		for _, v := range filled {
			times[v]++
			most = max(most, times[v])
		}
		rarer := func(v any) bool { return times[v] < most }
		return slices.MinFunc(slices.DeleteFunc(filled, rarer), order), f
	case view.Smallest:
		return slices.MinFunc(filled, order), f
	case view.Largest:
		return slices.MaxFunc(filled, order), f
	case view.Spread, view.Variance:
		return spreadOf(filled, t.Fn, f)
	}
	slices.SortFunc(filled, order)
	if f.Approx {
		return floatTotal(filled, t), f
	}
	n := int64(len(filled))
	sum := new(big.Rat)
	switch t.Fn {
	case view.Median, view.Percentile:
		k, part := rankOf(t, len(filled))
		lower, upper := rational(filled[k], f), rational(filled[min(k+1, len(filled)-1)], f)
		sum.Add(lower, new(big.Rat).Mul(part, new(big.Rat).Sub(upper, lower)))
		n = 1
	default:
		for _, v := range filled {
			sum.Add(sum, rational(v, f))
		}
	}
	if t.Fn != view.Sum {
		sum.Quo(sum, new(big.Rat).SetInt64(n))
		if f.Type != catalog.Duration {
			f.Type, f.Scale = catalog.Decimal, max(f.Scale, 2)
		}
	}
	return stored(sum, f), f
}

// rankOf is where a percentile lies among n sorted values, and how far it goes on
// to the next.
func rankOf(t view.Total, n int) (int, *big.Rat) {
	percent := t.Percent
	if t.Fn == view.Median {
		percent = "50"
	}
	at, _ := new(big.Rat).SetString(percent)
	at.Mul(at, big.NewRat(int64(n-1), 100))
	whole := new(big.Int).Quo(at.Num(), at.Denom())
	return int(whole.Int64()), at.Sub(at, new(big.Rat).SetInt(whole))
}

// spreadOf is the variance of a sample by its definition, or its root.
func spreadOf(filled []any, fn view.Fn, f catalog.Field) (any, catalog.Field) {
	out := catalog.Field{Type: catalog.Decimal, Approx: true}
	if f.Type == catalog.Duration {
		out = f
	}
	if len(filled) < 2 {
		return nil, out
	}
	mean, n := new(big.Rat), big.NewRat(int64(len(filled)), 1)
	for _, v := range filled {
		mean.Add(mean, new(big.Rat).Quo(rational(v, f), n))
	}
	squares := new(big.Rat)
	for _, v := range filled {
		d := new(big.Rat).Sub(rational(v, f), mean)
		squares.Add(squares, d.Mul(d, d))
	}
	x, _ := squares.Quo(squares, big.NewRat(int64(len(filled)-1), 1)).Float64()
	if fn == view.Spread {
		x = math.Sqrt(x)
	}
	if f.Type == catalog.Duration {
		return int64(math.Round(x)), out
	}
	return x, out
}

// endOf is the first or last value in the order of the rows or of another field.
func (w *world) endOf(path string, t view.Total, rows []int) any {
	rows = slices.Clone(rows)
	if t.By != "" {
		slices.Sort(rows)
		rows = slices.DeleteFunc(rows, func(i int) bool { return w.rows[i][t.By] == nil })
		slices.SortStableFunc(rows, func(a, b int) int {
			return compareBlankLast(w.rows[a][t.By], w.rows[b][t.By], w.field(t.By), false)
		})
	}
	rows = slices.DeleteFunc(rows, func(i int) bool { return w.rows[i][path] == nil })
	switch {
	case len(rows) == 0:
		return nil
	case t.Fn == view.First:
		return w.rows[rows[0]][path]
	}
	return w.rows[rows[len(rows)-1]][path]
}

// stored rounds half away from zero to the field's scale; what does not fit in
// 64 bits is blank.
func stored(r *big.Rat, f catalog.Field) any {
	unit := int64(1)
	if f.Type != catalog.Duration {
		unit = table.Pow10(f.Scale)
	}
	v := roundRat(new(big.Rat).Mul(r, new(big.Rat).SetInt64(unit)))
	if !v.IsInt64() || v.Int64() == math.MinInt64 {
		return nil
	}
	return v.Int64()
}

// values are the field's values for a total: of every record, or of every linked
// record once.
func (w *world) values(path string, fn view.Fn, rows []int) []any {
	if !fn.Info().DistinctPerLinked {
		out := make([]any, len(rows))
		for at, i := range rows {
			out[at] = w.rows[i][path]
		}
		return out
	}
	return w.once(path, rows)
}

// once are the values of every linked record once; what is made without one counts.
func (w *world) once(path string, rows []int) (out []any) {
	links := w.linksOf(path)
	seen := map[int]bool{}
	for _, i := range rows {
		if links != "" {
			held := w.holder(links, i)
			if held >= 0 && seen[held] {
				continue
			}
			seen[held] = true
		}
		out = append(out, w.rows[i][path])
	}
	return out
}

// linksOf are the links to the record that a value belongs to: what all fields have in
// common that it is made of.
func (w *world) linksOf(path string) string {
	made, ok := w.madeOf[path]
	if !ok {
		made = []string{path}
	}
	var common []string
	for i, of := range made {
		links := strings.Split(of, ".")
		links = links[:len(links)-1]
		if i == 0 {
			common = links
		}
		n := 0
		for n < min(len(common), len(links)) && common[n] == links[n] {
			n++
		}
		common = common[:n]
	}
	return strings.Join(common, ".")
}

// floatTotal adds quarters, which binary numbers hold exactly, so that the order
// of addition does not matter here. The values come sorted.
func floatTotal(filled []any, t view.Total) float64 {
	vals := make([]float64, len(filled))
	sum := 0.0
	for i, v := range filled {
		vals[i] = v.(float64)
		sum += vals[i]
	}
	n := len(vals)
	switch t.Fn {
	case view.Average:
		return sum / float64(n)
	case view.Median, view.Percentile:
		k, part := rankOf(t, n)
		share, _ := part.Float64()
		return vals[k]*(1-share) + vals[min(k+1, n-1)]*share
	}
	return sum
}

func roundRat(r *big.Rat) *big.Int {
	half := big.NewRat(1, 2)
	if r.Sign() < 0 {
		half.Neg(half)
	}
	x := new(big.Rat).Add(r, half)
	return new(big.Int).Quo(x.Num(), x.Denom()) // towards zero
}

// cell writes a value as a plain cell.
func (w *world) cell(v any, f catalog.Field) string {
	switch x := v.(type) {
	case nil:
		return ""
	case coined:
		return strings.TrimSpace(w.cell(x.v, f) + " " + x.coin)
	case []coined:
		parts := make([]string, len(x))
		for i, c := range x {
			parts[i] = w.cell(c, f)
		}
		return strings.Join(parts, " + ")
	case string:
		return x
	case band:
		return x.label
	case float64:
		if x == 0 {
			return "0"
		}
		return fmt.Sprint(x)
	case int64:
		switch f.Type {
		case catalog.YesNo:
			return fmt.Sprint(x == 1)
		case catalog.Date:
			return time.Unix(x*86400, 0).UTC().Format("2006-01-02")
		case catalog.DateTime:
			return time.UnixMicro(x).In(w.cal.Zone).Format("2006-01-02T15:04:05")
		}
		if f.Type == catalog.Duration {
			return plainDuration(x)
		}
		return new(big.Rat).SetFrac64(x, table.Pow10(f.Scale)).FloatString(f.Scale)
	}
	return "?"
}

func plainDuration(micros int64) string {
	sign := ""
	if micros < 0 {
		sign, micros = "-", -micros
	}
	s := (micros + calendar.Second/2) / calendar.Second
	if s == 0 {
		sign = ""
	}
	return fmt.Sprintf("%s%d:%02d:%02d", sign, s/3600, s/60%60, s%60)
}

// holds says whether a comparison comes out as a test asks.
func holds(op view.Op, c int) bool {
	wanted := map[view.Op][]int{
		view.Over: {1}, view.AtLeast: {0, 1}, view.Under: {-1}, view.AtMost: {-1, 0}, view.Is: {0},
	}
	return slices.Contains(wanted[op], c)
}
