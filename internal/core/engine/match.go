package engine

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// test marks the rows that meet a test, its negation set aside.
func (f *filterRun) test(t *plan.Predicate) (selection, error) {
	if t.Match == plan.MatchFailed {
		return f.failed(f.plan.Derived[t.Ref.Path])
	}
	col, err := f.column(t.Ref)
	if err != nil {
		return selection{}, err
	}
	s := selection{met: kernel.NewBitmap(f.table.Rows), blanks: col.Blanks()}
	if t.Match == plan.MatchField {
		other, err := f.column(*t.Other)
		if err != nil {
			return s, err
		}
		return s, f.compareFields(s.met, t, col, other)
	}
	var mark func(words []uint64, lo, hi int)
	switch c := col.(type) {
	case *table.Texts:
		if _, unique := c.RowOf(1); unique && t.Match == plan.MatchSet && !t.Blank {
			return s, f.markUnique(&s, c, t)
		}
		meets, unmatched, err := f.textTable(c.Dict, t)
		if err != nil {
			return s, err
		}
		s.unmatched = unmatched
		mark = func(words []uint64, lo, hi int) { markTable(words, c.Codes[lo:hi], meets) }
	case *table.Numbers:
		mark = markNumbers(c.Values, t)
		if t.Match == plan.MatchCycle {
			mark = f.markCycle(c.Values, t)
		}
	case *table.Floats:
		mark = markFloats(c.Values, t)
	default:
		return s, fmt.Errorf("engine: a condition on %s cannot be carried out", t.Ref.Label)
	}
	return s, f.mark(s.met, mark)
}

// failed marks the rows whose formula could not be worked out, for any reason.
func (f *filterRun) failed(d *plan.Derived) (selection, error) {
	s := selection{met: kernel.NewBitmap(f.table.Rows)}
	made, err := f.derive(d)
	if err != nil || made.failed == nil {
		return s, err
	}
	for _, marked := range made.failed.Rows {
		for i, word := range marked {
			s.met.Words[i] |= word
		}
	}
	return s, nil
}

// mark fills a bitmap block by block; do ORs into the words of rows lo to hi.
func (f *filterRun) mark(b kernel.Bitmap, do func(words []uint64, lo, hi int)) error {
	return kernel.EachBlock(f.ctx, b.N, f.e.opts.Workers, func(lo, hi int) {
		do(b.Words[lo/64:(hi+63)/64], lo, hi)
	})
}

// textTable decides a test once for every distinct text: 1 for the codes that
// meet it. It also returns the wanted values that no record has.
func (f *filterRun) textTable(d *table.Dict, t *plan.Predicate) (meets []uint8, unmatched []int, err error) {
	meets = make([]uint8, d.Len())
	if t.Match == plan.MatchBlank || t.Blank {
		meets[0] = 1
	}
	if t.Match == plan.MatchSet {
		var mu sync.Mutex // protects meets: a text may be listed twice
		unmatched, err = f.findTexts(d, t, func(codes []uint32) {
			mu.Lock()
			defer mu.Unlock()
			for _, code := range codes {
				meets[code] = 1
			}
		})
		return meets, unmatched, err
	}
	var hit func(s string) bool
	switch t.Match {
	case plan.MatchContains:
		return meets, nil, kernel.EachBlock(f.ctx, d.Len(), f.e.opts.Workers, func(lo, hi int) {
			d.EachFoldedWithin(t.Texts[0], uint32(max(lo, 1)), uint32(hi), func(code uint32) { meets[code] = 1 })
		})
	case plan.MatchStarts:
		hit = func(s string) bool { return strings.HasPrefix(s, t.Texts[0]) }
	case plan.MatchEnds:
		hit = func(s string) bool { return strings.HasSuffix(s, t.Texts[0]) }
	case plan.MatchLike:
		hit = newLike(t.Texts[0]).matches
	default:
		return meets, nil, nil
	}
	return meets, nil, kernel.EachShare(f.ctx, d.Len(), max(kernel.BlockRows, d.Len()/f.e.opts.Workers+1), func(lo, hi int, stopped func() bool) {
		for code := max(lo, 1); code < hi; code++ {
			if code%likeTexts == 0 && stopped() {
				return
			}
			if hit(d.Folded(uint32(code))) {
				meets[code] = 1
			}
		}
	})
}

// likeTexts is after how many texts their matching looks up from its work.
const likeTexts = 256

// markUnique marks the one row of each listed text.
func (f *filterRun) markUnique(s *selection, c *table.Texts, t *plan.Predicate) (err error) {
	var mu sync.Mutex // protects s.met
	s.unmatched, err = f.findTexts(c.Dict, t, func(codes []uint32) {
		mu.Lock()
		defer mu.Unlock()
		for _, code := range codes {
			row, _ := c.RowOf(code)
			s.met.Words[row/64] |= 1 << (row % 64)
		}
	})
	return err
}

// findTexts looks listed texts up and calls do with the codes found, some at a
// time, perhaps from several goroutines. It returns the places of those that no
// record has.
func (f *filterRun) findTexts(d *table.Dict, t *plan.Predicate, do func(codes []uint32)) (unmatched []int, err error) {
	missing := make([]bool, len(t.Texts))
	if d.FindsQuickly() || len(t.Texts) == 1 {
		share := max(fewTexts, len(t.Texts)/f.e.opts.Workers+1)
		err = kernel.EachShare(f.ctx, len(t.Texts), share, func(lo, hi int, _ func() bool) {
			do(d.FindEach(nil, t.Texts[lo:hi], func(i int) { missing[lo+i] = true }))
		})
	} else {
		err = f.findAmongAll(d, t, missing, do)
	}
	for i, m := range missing {
		if m {
			unmatched = append(unmatched, i)
		}
	}
	return unmatched, err
}

// findAmongAll is findTexts for a dictionary in no order: every text of it is
// looked up in the list.
func (f *filterRun) findAmongAll(d *table.Dict, t *plan.Predicate, missing []bool, do func(codes []uint32)) error {
	places := make(map[string][]int, len(t.Texts))
	for i, text := range t.Texts {
		places[text] = append(places[text], i)
		missing[i] = true
	}
	var mu sync.Mutex // protects missing
	return kernel.EachBlock(f.ctx, d.Len(), f.e.opts.Workers, func(lo, hi int) {
		var codes []uint32
		for code := uint32(max(lo, 1)); code < uint32(hi); code++ {
			if at, ok := places[d.Folded(code)]; ok {
				codes = append(codes, code)
				mu.Lock()
				for _, i := range at {
					missing[i] = false
				}
				mu.Unlock()
			}
		}
		do(codes)
	})
}

func markTable(words []uint64, codes []uint32, meets []uint8) {
	full := len(codes) / 64
	for w := range full {
		block := (*[64]uint32)(codes[w*64:])
		var word uint64
		// Eight at a time: shifts by a constant are free, by a variable not.
		for i := 0; i < 64; i += 8 {
			c := (*[8]uint32)(block[i:])
			word |= (uint64(meets[c[0]]) | uint64(meets[c[1]])<<1 | uint64(meets[c[2]])<<2 | uint64(meets[c[3]])<<3 |
				uint64(meets[c[4]])<<4 | uint64(meets[c[5]])<<5 | uint64(meets[c[6]])<<6 | uint64(meets[c[7]])<<7) << i
		}
		words[w] |= word
	}
	markFunc(words[full:], codes[full*64:], func(c uint32) bool { return meets[c] != 0 })
}

// markRange marks lo <= v <= hi. A blank lies in no range: Blank is below every
// lo, and a NaN compares false.
func markRange[T int64 | float64](words []uint64, vals []T, lo, hi T) {
	in := func(v T) uint64 { return kernel.Bit(v >= lo) & kernel.Bit(v <= hi) }
	full := len(vals) / 64
	for w := range full {
		block := (*[64]T)(vals[w*64:])
		var word uint64
		for i := 0; i < 64; i += 8 {
			v := (*[8]T)(block[i:])
			word |= (in(v[0]) | in(v[1])<<1 | in(v[2])<<2 | in(v[3])<<3 | in(v[4])<<4 | in(v[5])<<5 | in(v[6])<<6 | in(v[7])<<7) << i
		}
		words[w] |= word
	}
	markFunc(words[full:], vals[full*64:], func(v T) bool { return v >= lo && v <= hi })
}

func markFunc[T any](words []uint64, vals []T, meets func(T) bool) {
	for i, v := range vals {
		words[i/64] |= kernel.Bit(meets(v)) << (i % 64)
	}
}

// fewTexts is how many listed texts one goroutine looks up at the least.
const fewTexts = 256

// fewRanges is up to where one pass for each range beats a look-up in a set.
const fewRanges = 8

func markNumbers(vals []int64, t *plan.Predicate) func(words []uint64, lo, hi int) {
	ranges := t.Ranges
	if t.Match == plan.MatchBlank || t.Blank {
		ranges = append(slices.Clone(ranges), plan.Interval{Lo: table.Blank, Hi: table.Blank})
	}
	if len(ranges) > fewRanges {
		in := inRanges(ranges)
		return func(words []uint64, lo, hi int) { markFunc(words, vals[lo:hi], in) }
	}
	return func(words []uint64, lo, hi int) {
		for _, r := range ranges {
			markRange(words, vals[lo:hi], r.Lo, r.Hi)
		}
	}
}

// inRanges says of values whether one of many ranges holds them: single values are looked up in
// a set; whole days of moments are put in order, joined where they meet, and searched.
func inRanges(ranges []plan.Interval) func(v int64) bool {
	if !slices.ContainsFunc(ranges, func(r plan.Interval) bool { return r.Lo < r.Hi }) {
		wanted := make(map[int64]struct{}, len(ranges))
		for _, r := range ranges {
			if r.Lo == r.Hi { // a range turned round holds nothing
				wanted[r.Lo] = struct{}{}
			}
		}
		return func(v int64) bool { _, ok := wanted[v]; return ok }
	}
	ordered := slices.DeleteFunc(slices.Clone(ranges), func(r plan.Interval) bool { return r.Lo > r.Hi })
	slices.SortFunc(ordered, func(a, b plan.Interval) int { return cmp.Compare(a.Lo, b.Lo) })
	apart := ordered[:0]
	for _, r := range ordered {
		if last := len(apart) - 1; last >= 0 && r.Lo <= apart[last].Hi {
			apart[last].Hi = max(apart[last].Hi, r.Hi)
		} else {
			apart = append(apart, r)
		}
	}
	return func(v int64) bool {
		// The first that ends at or after the value is the only one that may hold it.
		i, _ := slices.BinarySearchFunc(apart, v, func(r plan.Interval, v int64) int { return cmp.Compare(r.Hi, v) })
		return i < len(apart) && apart[i].Lo <= v
	}
}

// markCycle marks the dates or moments that fall on certain weekdays or hours.
func (f *filterRun) markCycle(vals []int64, t *plan.Predicate) func(words []uint64, lo, hi int) {
	return func(words []uint64, lo, hi int) {
		clock := f.plan.Calendar.Clock()
		markFunc(words, vals[lo:hi], func(v int64) bool { return v != table.Blank && t.MeetsCycle(v, f.plan.Calendar, clock) })
	}
}

func markFloats(vals []float64, t *plan.Predicate) func(words []uint64, lo, hi int) {
	return func(words []uint64, lo, hi int) {
		if t.Match == plan.MatchBlank || t.Blank {
			markFunc(words, vals[lo:hi], math.IsNaN)
		}
		for _, r := range t.Floats {
			markRange(words, vals[lo:hi], r.Lo, r.Hi)
		}
	}
}

// compareFields marks the rows where two fields compare as asked. A blank on
// either side meets nothing.
func (f *filterRun) compareFields(b kernel.Bitmap, t *plan.Predicate, left, right table.Column) error {
	compare, err := comparer(t, left, right)
	if err != nil {
		return err
	}
	days := t.Ref.Field.Type != t.Other.Field.Type && t.Ref.Field.Type.Temporal()
	return f.mark(b, func(words []uint64, lo, hi int) {
		compare := compare
		if days {
			compare = f.dayComparer(t, left, right) // its clock is this goroutine's own
		}
		for row := lo; row < hi; row++ {
			c, ok := compare(row)
			words[(row-lo)/64] |= kernel.Bit(ok && holds(t.Compare, c)) << (row % 64)
		}
	})
}

// dayComparer compares a date and a moment, by the day that the moment is on.
func (f *filterRun) dayComparer(t *plan.Predicate, left, right table.Column) func(row int) (c int, ok bool) {
	clock := f.plan.Calendar.Clock()
	day := func(of catalog.Field, col table.Column) func(row int) int64 {
		values := col.(*table.Numbers).Values
		if of.Type == catalog.Date {
			return func(row int) int64 { return values[row] }
		}
		return func(row int) int64 {
			if v := values[row]; v != table.Blank {
				return calendar.FloorDay(clock.Local(v))
			}
			return table.Blank
		}
	}
	a, b := day(t.Ref.Field, left), day(t.Other.Field, right)
	return func(row int) (int, bool) {
		x, y := a(row), b(row)
		return cmp.Compare(x, y), x != table.Blank && y != table.Blank
	}
}

func holds(op view.Op, c int) bool {
	switch op {
	case view.Over:
		return c > 0
	case view.AtLeast:
		return c >= 0
	case view.Under:
		return c < 0
	case view.AtMost:
		return c <= 0
	}
	return c == 0
}

// comparer returns a function that compares the two fields of a row; ok is
// false when either is blank.
func comparer(t *plan.Predicate, left, right table.Column) (func(row int) (c int, ok bool), error) {
	switch l := left.(type) {
	case *table.Texts:
		if r, is := right.(*table.Texts); is {
			return func(row int) (int, bool) {
				a, b := l.Codes[row], r.Codes[row]
				return table.CompareNatural(l.Dict.Folded(a), r.Dict.Folded(b)), a != 0 && b != 0
			}, nil
		}
	case *table.Numbers:
		if r, is := right.(*table.Numbers); is {
			if t.Ref.Field.Type == catalog.Duration || t.Ref.Field.Scale == t.Other.Field.Scale {
				return func(row int) (int, bool) {
					a, b := l.Values[row], r.Values[row]
					return cmp.Compare(a, b), a != table.Blank && b != table.Blank
				}, nil
			}
			return func(row int) (int, bool) {
				a, b := l.Values[row], r.Values[row]
				return compareScaled(a, t.Ref.Field.Scale, b, t.Other.Field.Scale), a != table.Blank && b != table.Blank
			}, nil
		}
	}
	a, okA := asFloats(left, t.Ref.Field.Scale)
	b, okB := asFloats(right, t.Other.Field.Scale)
	if !okA || !okB {
		return nil, fmt.Errorf("engine: %s and %s cannot be compared", t.Ref.Label, t.Other.Label)
	}
	return func(row int) (int, bool) {
		x, y := a(row), b(row)
		return cmp.Compare(x, y), x == x && y == y
	}, nil
}

// compareScaled compares decimals of different scales exactly.
func compareScaled(a int64, scaleA int, b int64, scaleB int) int {
	if scaleA < scaleB {
		return kernel.Wide(a).Times(table.Pow10(scaleB - scaleA)).Compare(kernel.Wide(b))
	}
	return kernel.Wide(a).Compare(kernel.Wide(b).Times(table.Pow10(scaleA - scaleB)))
}

// asFloats reads a column of numbers as approximate values.
func asFloats(c table.Column, scale int) (func(row int) float64, bool) {
	switch c := c.(type) {
	case *table.Floats:
		return func(row int) float64 { return c.Values[row] }, true
	case *table.Numbers:
		unit := math.Pow10(scale)
		return func(row int) float64 {
			if v := c.Values[row]; v != table.Blank {
				return float64(v) / unit
			}
			return math.NaN()
		}, true
	}
	return nil, false
}
