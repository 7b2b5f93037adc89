package reading

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strconv"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

// Result is a column as it is read.
type Result struct {
	Column table.Column
	// Scale and Approx are those of catalog.Field.
	Scale  int
	Approx bool
	// Lost counts the values that cannot be read so, which are blank; Examples are the first few.
	Lost     int
	Examples []string
	// Samples are the first few rows that hold a value which can.
	Samples []int
}

const (
	// maxScale is the most decimals that are kept exactly.
	maxScale = 9
	examples = 5
	// block is how many rows are read between two looks at the context.
	block = 1 << 14
)

// Column reads a column of a field as values of another type.
func Column(
	ctx context.Context, col table.Column, f catalog.Field, to catalog.Type, w Way, cal calendar.Calendar,
) (*Result, error) {
	in := In(cal)
	r := &reader{way: w, in: in, to: to, from: f, out: &Result{}}
	switch c := col.(type) {
	case *table.Texts:
		if w.text == nil {
			break
		}
		return r.out, r.texts(ctx, c)
	case *table.Numbers:
		switch {
		case w.spelled:
			return r.out, r.spell(ctx, c)
		case w.number != nil:
			return r.out, r.numbers(ctx, c)
		}
	case *table.Floats:
		switch {
		case w.approx != nil:
			return r.out, r.floats(ctx, c)
		case w.number != nil:
			return r.out, r.rounded(ctx, c)
		}
	}
	return nil, fmt.Errorf("reading: %s cannot be read as %s", f.Type.Word(), to.Word())
}

type reader struct {
	way  Way
	in   Setting
	from catalog.Field
	to   catalog.Type
	out  *Result
}

// lose counts a value that cannot be read.
func (r *reader) lose(value func() string) {
	r.out.Lost++
	if len(r.out.Examples) == examples {
		return
	}
	if text := value(); !slices.Contains(r.out.Examples, text) {
		r.out.Examples = append(r.out.Examples, text)
	}
}

func (r *reader) sample(row int) {
	if len(r.out.Samples) < examples {
		r.out.Samples = append(r.out.Samples, row)
	}
}

// texts reads each text once, however many rows hold it.
func (r *reader) texts(ctx context.Context, c *table.Texts) error {
	read := make([]Exact, c.Dict.Len())
	good := make([]bool, c.Dict.Len())
	for code := 1; code < len(read); code++ {
		if code%block == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		v, err := r.way.text(c.Dict.Value(uint32(code)), r.in)
		read[code], good[code] = v, err == nil && v.Value != table.Blank
		if good[code] {
			r.out.Scale = max(r.out.Scale, min(v.Scale, maxScale))
		}
	}
	for code := range read {
		if good[code] {
			read[code], good[code] = read[code].At(r.out.Scale)
		}
	}
	values := make([]int64, len(c.Codes))
	for row, code := range c.Codes {
		if row%block == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		switch {
		case code == 0:
			values[row] = table.Blank
		case good[code]:
			values[row] = read[code].Value
			r.sample(row)
		default:
			values[row] = table.Blank
			r.lose(func() string { return c.Dict.Value(code) })
		}
	}
	r.keep(values)
	return nil
}

// keep makes the column of exact values.
func (r *reader) keep(values []int64) {
	r.out.Column = table.NewNumbers(values)
	if r.to == catalog.Duration {
		r.out.Scale = DurationScale(values)
	}
}

// DurationScale is the scale of a field of durations: 0 if all are whole minutes, and 1 if seconds
// matter.
func DurationScale(values []int64) int {
	for _, v := range values {
		if v != table.Blank && v%calendar.Minute != 0 {
			return 1
		}
	}
	return 0
}

func (r *reader) numbers(ctx context.Context, c *table.Numbers) error {
	scale := 0
	if probe, ok := r.way.number(Exact{0, r.from.Scale}, r.in); ok {
		scale = min(probe.Scale, maxScale)
	}
	values := make([]int64, len(c.Values))
	for row, v := range c.Values {
		if row%block == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		values[row] = table.Blank
		if v == table.Blank {
			continue
		}
		e, ok := r.way.number(Exact{v, r.from.Scale}, r.in)
		if ok {
			e, ok = e.At(scale)
		}
		if !ok {
			r.lose(func() string { return spelled(v, r.from.Scale) })
			continue
		}
		values[row] = e.Value
		r.sample(row)
	}
	r.out.Scale = scale
	r.keep(values)
	return nil
}

func (r *reader) floats(ctx context.Context, c *table.Floats) error {
	values := make([]float64, len(c.Values))
	for row, x := range c.Values {
		if row%block == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		if values[row] = r.way.approx(x); !math.IsNaN(x) {
			r.sample(row)
		}
	}
	r.out.Column, r.out.Approx = table.NewFloats(values), true
	return nil
}

// rounded reads approximate numbers as exact ones, to six decimals.
func (r *reader) rounded(ctx context.Context, c *table.Floats) error {
	const scale = 6
	values := make([]int64, len(c.Values))
	for row, x := range c.Values {
		if row%block == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		switch scaled := math.Round(x * 1e6); {
		case math.IsNaN(x):
			values[row] = table.Blank
		case math.Abs(scaled) >= 1<<62:
			r.lose(func() string { return strconv.FormatFloat(x, 'g', -1, 64) })
			values[row] = table.Blank
		default:
			values[row] = int64(scaled)
		}
	}
	r.from.Scale = scale
	return r.numbers(ctx, table.NewNumbers(values))
}

// spell makes texts of the digits of whole numbers.
func (r *reader) spell(ctx context.Context, c *table.Numbers) error {
	dict := table.NewDictBuilder()
	codes := make([]uint32, len(c.Values))
	for row, v := range c.Values {
		if row%block == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		if v != table.Blank {
			codes[row] = dict.CodeOf(strconv.FormatInt(v, 10))
			r.sample(row)
		}
	}
	r.out.Column = dict.Build(codes)
	return dict.Err()
}

// spelled writes a number for a message.
func spelled(v int64, scale int) string {
	if scale == 0 {
		return strconv.FormatInt(v, 10)
	}
	return strconv.FormatFloat(float64(v)/float64(table.Pow10(scale)), 'f', -1, 64)
}
