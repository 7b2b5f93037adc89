package records

import (
	"encoding/base64"
	"encoding/binary"
	"errors"
	"math"
	"net/http"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/table"
)

// builder grows a column from PostgreSQL's binary values, one call for each row.
type builder interface {
	// reserve makes room for about so many rows.
	reserve(rows int)
	// add takes a value's bytes; nil is a null.
	add(value []byte)
	column() table.Column
	// refused counts values that cannot be kept and were left blank, and why.
	refused() (int, string)
}

// PostgreSQL counts days and microseconds from 2000-01-01.
var (
	epochDays   = calendar.FromDate(2000, 1, 1)
	epochMicros = epochDays * calendar.DayLen
)

var errLength = errors.New("records: a value of unexpected length; is this PostgreSQL 13 or later?")

// numbers keeps any fixed-width value, turned to its stored form by decode.
type numbers struct {
	values []int64
	decode func(b []byte) (v int64, ok bool)
	lost   int
	why    string
}

func (n *numbers) add(b []byte) {
	v := int64(table.Blank)
	if b != nil {
		var ok bool
		if v, ok = n.decode(b); !ok || v == table.Blank {
			v = table.Blank
			n.lost++
		}
	}
	n.values = append(n.values, v)
}
func (n *numbers) reserve(rows int)       { n.values = make([]int64, 0, rows) }
func (n *numbers) column() table.Column   { return table.NewNumbers(n.values) }
func (n *numbers) refused() (int, string) { return n.lost, n.why }

func int64Of(b []byte) int64 {
	if len(b) != 8 {
		panic(errLength)
	}
	return int64(binary.BigEndian.Uint64(b))
}

func newInts() builder {
	return &numbers{
		why: "are too small to keep", decode: func(b []byte) (int64, bool) { return int64Of(b), true },
	}
}

func newBools() builder {
	return &numbers{decode: func(b []byte) (int64, bool) { return int64(b[0]), true }}
}

func newDates() builder {
	return &numbers{why: "lie outside the calendar", decode: func(b []byte) (int64, bool) {
		d := int64(int32(binary.BigEndian.Uint32(b)))
		return d + epochDays, d != math.MaxInt32 && d != math.MinInt32 // infinity
	}}
}

func newMoments() builder {
	return &numbers{why: "lie outside the calendar", decode: func(b []byte) (int64, bool) {
		m := int64Of(b)
		return m + epochMicros, m != math.MaxInt64 && m != math.MinInt64 && m < math.MaxInt64-epochMicros
	}}
}

// newDurations counts a day of an interval as 24 hours and a month as 30 days,
// as PostgreSQL does when it compares intervals.
func newDurations() builder {
	return &numbers{why: "are too long to keep", decode: func(b []byte) (int64, bool) {
		if len(b) != 16 {
			panic(errLength)
		}
		micros := int64Of(b[:8])
		days := int64(int32(binary.BigEndian.Uint32(b[8:]))) + 30*int64(int32(binary.BigEndian.Uint32(b[12:])))
		const mostDays = math.MaxInt64 / calendar.DayLen / 2
		ok := days < mostDays && days > -mostDays && micros < math.MaxInt64/2 && micros > math.MinInt64/2
		return days*calendar.DayLen + micros, ok
	}}
}

// newDecimals keeps numerics scaled by ten to a fixed scale.
func newDecimals(scale int) builder {
	return &numbers{
		why:    "have too many digits to keep",
		decode: func(b []byte) (int64, bool) { return decodeNumeric(b, scale) },
	}
}

// asWritten refuses numerics that are written with more decimals than a scale, be they zeros.
func (n *numbers) asWritten(scale int) {
	decode := n.decode
	n.decode = func(b []byte) (int64, bool) {
		v, ok := decode(b)
		return v, ok && int(binary.BigEndian.Uint16(b[6:])) <= scale
	}
}

// decodeNumeric reads PostgreSQL's binary numeric: a count of base-10000 digits,
// the weight of the first, a sign and a display scale. ok is false when the
// value is not finite or does not fit in 64 bits at the scale.
func decodeNumeric(b []byte, scale int) (int64, bool) {
	digits := int(binary.BigEndian.Uint16(b))
	weight := int(int16(binary.BigEndian.Uint16(b[2:])))
	sign := binary.BigEndian.Uint16(b[4:])
	const positive, negative = 0x0000, 0x4000
	if sign != positive && sign != negative {
		return 0, false // not a number, or infinite
	}
	var v uint64
	for i := range digits {
		d := uint64(binary.BigEndian.Uint16(b[8+2*i:]))
		// This digit counts d × 10^exponent at our scale.
		exponent := 4*(weight-i) + scale
		if exponent < 0 {
			// What stands below the scale would be cut off.
			cut := tens[min(-exponent, len(tens)-1)]
			if d%cut != 0 {
				return 0, false
			}
			d /= cut
			exponent = 0
		}
		if exponent >= len(tens) {
			if d != 0 {
				return 0, false
			}
			continue
		}
		if d > math.MaxInt64/tens[exponent] || v > math.MaxInt64-d*tens[exponent] {
			return 0, false
		}
		v += d * tens[exponent]
	}
	if sign == negative {
		return -int64(v), true
	}
	return int64(v), true
}

var tens = func() (t [19]uint64) {
	t[0] = 1
	for i := 1; i < len(t); i++ {
		t[i] = 10 * t[i-1]
	}
	return t
}()

// floats keeps double precision; an infinity is refused as a blank.
type floats struct {
	values []float64
	lost   int
}

func newFloats() builder { return &floats{} }

func (f *floats) add(b []byte) {
	v := math.NaN()
	if b != nil {
		if v = math.Float64frombits(uint64(int64Of(b))); math.IsNaN(v) || math.IsInf(v, 0) {
			v = math.NaN()
			f.lost++
		}
	}
	f.values = append(f.values, v)
}
func (f *floats) reserve(rows int)       { f.values = make([]float64, 0, rows) }
func (f *floats) column() table.Column   { return table.NewFloats(f.values) }
func (f *floats) refused() (int, string) { return f.lost, "are not finite numbers" }

// texts keeps text as codes into a dictionary.
type texts struct {
	dict  *table.DictBuilder
	codes []uint32
	// convert, if set, turns a value's bytes into the text to keep.
	convert func(b []byte) []byte
}

func newTexts() builder { return &texts{dict: table.NewDictBuilder()} }

func (t *texts) add(b []byte) {
	if t.convert != nil && b != nil {
		b = t.convert(b)
	}
	t.codes = append(t.codes, t.dict.Code(b))
}
func (t *texts) reserve(rows int)     { t.codes = make([]uint32, 0, rows) }
func (t *texts) column() table.Column { return t.dict.Build(t.codes) }
func (t *texts) refused() (int, string) {
	if t.dict.Err() != nil {
		return 1, "and more are beyond 4 GB of text"
	}
	return 0, ""
}

// maxPicture is the size in bytes above which a bytea is left out.
const maxPicture = 256 << 10

// newPictures keeps a bytea that holds a picture as a data: address.
func newPictures() builder {
	return &texts{dict: table.NewDictBuilder(), convert: func(b []byte) []byte {
		kind := http.DetectContentType(b)
		if !strings.HasPrefix(kind, "image/") {
			return nil
		}
		return []byte("data:" + kind + ";base64," + base64.StdEncoding.EncodeToString(b))
	}}
}
