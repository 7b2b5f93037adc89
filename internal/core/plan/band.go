package plan

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/view"
)

// bandName names a band by its bounds: "under 31", "31 to 90" for whole numbers and
// dates, whose neighbours are known, "25.00 to under 50.00" for others, "90 and over".
func (k *checker) bandName(f catalog.Field, b view.Band) string {
	if len(b.Values) > 0 {
		return listOf(b.Values)
	}
	from, below := k.boundWords(f, b.From, 0), k.boundWords(f, b.Below, 0)
	dated := f.Type.Temporal()
	switch {
	case from == "":
		return pick(dated, "before ", "under ") + below
	case below == "":
		return from + pick(dated, " and later", " and over")
	case f.Type == catalog.Whole && !f.Approx || f.Type == catalog.Date:
		last := k.boundWords(f, b.Below, 1)
		if last == from {
			return from
		}
		return from + " to " + last
	}
	return from + " to " + pick(dated, "before ", "under ") + below
}

// boundWords writes a bound for people, moved down by so many of the smallest steps.
func (k *checker) boundWords(f catalog.Field, s string, down int64) string {
	if s == "" {
		return ""
	}
	w := format.NewWriter(format.People, k.cal)
	if f.Approx {
		v, err := ParseFloat(s)
		if err != nil {
			return s
		}
		return w.Float(v, f)
	}
	p, err := k.point(f, s)
	if err != nil || p.Lo == math.MinInt64 {
		return s
	}
	if f.Type == catalog.DateTime {
		p.Lo = k.cal.At(p.Lo)
	}
	return w.Number(p.Lo-down, f)
}

func listOf(values []string) string {
	if len(values) <= 3 {
		return strings.Join(values, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(values[:2], ", "), len(values)-2)
}

func pick(b bool, yes, no string) string {
	if b {
		return yes
	}
	return no
}

// Seam is a stretch between two bands that no band holds, or that two of them hold.
type Seam struct {
	// Bands are the places of the two bands, the lower one first.
	Bands [2]int
	// Gap says that no band holds it; otherwise both do, and the first has it.
	Gap bool
	// Words say it to people: "30 to 39".
	Words string
}

// Seams finds the gaps and overlaps between the bands of a bucket, in the order of
// the values. A bucket of texts has overlaps only, one for each value listed twice.
func (b *Bucket) Seams(w *format.Writer) []Seam {
	if b.Of.Field.Type == catalog.Text {
		return b.textSeams()
	}
	order := make([]int, len(b.Bands))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(x, y int) int {
		lo, lo2 := b.ends(x)[0], b.ends(y)[0]
		return lo.compare(lo2)
	})
	var out []Seam
	for i := 1; i < len(order); i++ {
		lower := order[i-1]
		for _, j := range order[:i-1] { // the band that reaches furthest so far
			if b.ends(lower)[1].compare(b.ends(j)[1]) < 0 {
				lower = j
			}
		}
		upper := order[i]
		end, start := b.ends(lower)[1], b.ends(upper)[0]
		switch c := end.compare(start); {
		case c < 0 && !end.meets(start):
			out = append(out, Seam{
				Bands: [2]int{lower, upper}, Gap: true, Words: end.after(w) + " to " + start.before(w),
			})
		case c >= 0:
			last := end
			if top := b.ends(upper)[1]; top.compare(end) < 0 {
				last = top
			}
			out = append(out, Seam{Bands: [2]int{lower, upper}, Words: start.words(w) + " to " + last.words(w)})
		}
	}
	return out
}

func (b *Bucket) textSeams() []Seam {
	var out []Seam
	first := map[string]int{}
	for i, band := range b.Bands {
		for _, t := range band.Texts {
			if at, ok := first[t]; ok {
				out = append(out, Seam{Bands: [2]int{at, i}, Words: t})
				continue
			}
			first[t] = i
		}
	}
	return out
}

// end is one end of a band, itself included.
type end struct {
	field catalog.Field
	int   int64
	float float64
}

func (b *Bucket) ends(i int) [2]end {
	band, f := b.Bands[i], b.Of.Field
	return [2]end{{f, band.Range.Lo, band.Float.Lo}, {f, band.Range.Hi, band.Float.Hi}}
}

func (e end) compare(o end) int {
	if e.field.Approx {
		return cmp.Compare(e.float, o.float)
	}
	return cmp.Compare(e.int, o.int)
}

// meets says that nothing lies between an end and the start of the next band.
func (e end) meets(start end) bool {
	if e.field.Approx {
		return math.Nextafter(e.float, math.Inf(1)) >= start.float
	}
	return e.int+1 == start.int
}

func (e end) words(w *format.Writer) string {
	if e.field.Approx {
		return w.Float(e.float, e.field)
	}
	return w.Number(e.int, e.field)
}

// after and before are the values next to an end, outside of the band.
func (e end) after(w *format.Writer) string  { e.int++; return e.words(w) }
func (e end) before(w *format.Writer) string { e.int--; return e.words(w) }
