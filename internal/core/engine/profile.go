// What a field holds, looked over as a whole.

package engine

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine/numbering"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/reading"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// Profile says what a field holds under the plan's filter: how full it is, how many different
// values it has, the commonest of them, how they are spread in so many bins, and what of them
// is out of the ordinary.
func (e *Engine) Profile(
	ctx context.Context, p *plan.Plan, ref catalog.Ref, common, bins int,
) (*result.Profile, error) {
	return within(e, ctx, p, func(r *run) (*result.Profile, error) { return r.profile(ref, common, bins) })
}

func (r *run) profile(ref catalog.Ref, common, bins int) (*result.Profile, error) {
	col, kept, err := r.under(ref)
	if err != nil {
		return nil, err
	}
	out := &result.Profile{Records: r.fields.Weights.Count(kept)}
	if ref.Field.Type == catalog.Picture {
		blank := table.BlankTest(col)
		for row := range r.fields.Rows {
			if kept.Has(row) && blank(int32(row)) {
				out.Blank += int(r.fields.Weights.At(int32(row)))
			}
		}
		return out, nil
	}
	keys, _, counts, err := r.counted(col, kept, "looking over "+catalog.LowerFirst(ref.Label))
	if err != nil {
		return nil, err
	}
	f := &profiler{run: r, of: ref.Field, keys: keys, counts: counts, out: out}
	out.Blank = counts[0]
	if err := f.values(common); err != nil {
		return nil, err
	}
	if keys.Dict != nil {
		if err := f.texts(); err != nil {
			return nil, err
		}
	}
	if ref.Field.Type != catalog.Text && ref.Field.Type != catalog.YesNo {
		out.Spread, err = r.distribution(ref, bins)
	}
	return out, err
}

// profiler looks at the values of a field, by their numbers.
type profiler struct {
	*run
	of     catalog.Field
	keys   *numbering.Keys
	counts []int // kept records of each value
	out    *result.Profile
}

// Years around today that a date is expected in.
const (
	longAgo   = 100
	longAhead = 10
)

func (f *profiler) values(common int) error {
	cal := f.fields.Plan.Calendar
	early, late := cal.Today()-longAgo*365, cal.Today()+longAhead*365
	if f.of.Type == catalog.DateTime {
		early, late = early*calendar.DayLen, late*calendar.DayLen
	}
	var most []uint32 // the commonest so far, in order
	for key := uint32(1); key < uint32(len(f.counts)); key++ {
		if key%kernel.BlockRows == 0 && f.job.IsStopped() {
			return f.job.Stopped()
		}
		n := f.counts[key]
		if n == 0 {
			continue
		}
		if f.out.Distinct++; n == 1 {
			f.out.Once++
		}
		switch {
		case f.of.Type.Temporal():
			if v := f.keys.Number(key); v < early {
				f.out.Early += n
			} else if v > late {
				f.out.Late += n
			}
		case f.keys.Floats != nil && f.keys.Float(key) < 0, f.keys.Values != nil && f.keys.Number(key) < 0:
			f.out.Negative += n
		}
		if len(most) < common || n > f.counts[most[len(most)-1]] {
			at, _ := slices.BinarySearchFunc(most, n, func(k uint32, n int) int {
				return cmp.Or(cmp.Compare(n, f.counts[k]), -1) // behind those that are as common
			})
			most = slices.Insert(most, at, key)
			most = most[:min(len(most), common)]
		}
	}
	for _, key := range most {
		f.out.Commonest = append(f.out.Commonest, f.count(key))
	}
	return nil
}

func (f *profiler) count(key uint32) result.ValueCount {
	return result.ValueCount{Value: f.keys.Value(key, f.of), Kept: f.counts[key]}
}

// placeholders are texts that people write where there is nothing to write, folded.
var placeholders = []string{
	"?", "-", "--", "---", "n/a", "na", "n.a.", "none", "null", "nil", "unknown", "tbd", "tba", "tbc", "todo", "test", "xxx", "x",
}

const (
	// readTexts is how many different texts are tried as other types.
	readTexts = 2000
	// tidyTexts is up to how many different texts are compared without their spaces.
	tidyTexts = 500_000
)

// texts finds what is out of the ordinary about texts.
func (f *profiler) texts() error {
	alike := map[string]uint32{}
	if f.out.Distinct <= tidyTexts {
		if err := f.job.Need(96*int64(f.out.Distinct), "comparing texts"); err != nil {
			return err
		}
	} else {
		alike = nil
	}
	var some []string
	for key := uint32(1); key < uint32(len(f.counts)); key++ {
		if key%kernel.BlockRows == 0 && f.job.IsStopped() {
			return f.job.Stopped()
		}
		if f.counts[key] == 0 {
			continue
		}
		text := f.keys.Dict.Value(key)
		if len(some) < readTexts {
			some = append(some, text)
		}
		tidy := strings.Join(strings.Fields(f.keys.Dict.Folded(key)), " ")
		if slices.Contains(placeholders, tidy) {
			f.out.Placeholders = append(f.out.Placeholders, f.count(key))
		}
		if alike == nil {
			continue
		}
		if other, found := alike[tidy]; found {
			if f.out.Alike == 0 {
				f.out.Likes = [2]string{f.keys.Dict.Value(other), text}
			}
			f.out.Alike++
			continue
		}
		alike[tidy] = key
	}
	f.out.ReadAs = reading.Likely(some, f.fields.Plan.Calendar)
	return nil
}
