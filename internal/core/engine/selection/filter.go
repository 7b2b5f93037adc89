// Package selection says which records a plan's filter includes, one bit for each, and what each of
// its conditions did.
package selection

import (
	"encoding/binary"
	"fmt"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// maxUnmatched is how many unmatched values a step names.
const maxUnmatched = 20

// Select returns the records that a filter includes and what each of its steps did; a nil one
// includes all. The caller must not change the bits.
func Select(job *work.Job, of *fields.Fields, n *plan.Node) (kernel.Bitmap, []result.Step, error) {
	all := kernel.FullBitmap(of.Rows)
	if n == nil {
		return all, nil, nil
	}
	f := &filter{job: job, fields: of}
	b, err := f.node(n, all)
	if err != nil {
		return kernel.Bitmap{}, nil, err
	}
	f.steps[0].Left = of.Weights.Count(b)
	return b, f.steps, nil
}

// filter evaluates the conditions of one filter.
type filter struct {
	job    *work.Job
	fields *fields.Fields
	steps  []result.Step // in reading order, a combination before its parts
}

// node returns every record that meets the condition. Counts of its parts are
// taken within in, the records that reach it.
func (f *filter) node(n *plan.Node, in kernel.Bitmap) (kernel.Bitmap, error) {
	at := len(f.steps)
	f.steps = append(f.steps, result.Step{Path: n.Path})
	b, err := f.combine(n, in, at)
	if err != nil {
		return b, err
	}
	f.steps[at].Alone = f.fields.Records() - f.fields.Weights.Count(b)
	return b, nil
}

func (f *filter) combine(n *plan.Node, in kernel.Bitmap, at int) (kernel.Bitmap, error) {
	switch n.Kind {
	case plan.Leaf:
		return f.leaf(n.Predicate, &f.steps[at])
	case plan.Open: // the whole filter is one question
		return kernel.FullBitmap(f.fields.Rows), nil
	case plan.Links:
		return f.linked(n.Linked, &f.steps[at])
	case plan.Within:
		return f.within(n)
	case plan.Any:
		met, parts := kernel.NewBitmap(f.fields.Rows), 0
		for _, child := range n.Children {
			if child.Kind == plan.Open {
				continue
			}
			parts++
			mine := len(f.steps)
			b, err := f.node(child, in)
			if err != nil {
				return b, err
			}
			met.Or(b)
			f.steps[mine].Left = f.fields.Weights.CountAnd(met, in)
		}
		if parts == 0 {
			met.Not() // nothing is asked for
		}
		return met, nil
	}
	met, left := kernel.FullBitmap(f.fields.Rows), in.Clone()
	for _, child := range n.Children {
		if child.Kind == plan.Open {
			continue
		}
		mine := len(f.steps)
		b, err := f.node(child, left)
		if err != nil {
			return b, err
		}
		if n.Kind == plan.None {
			met.AndNot(b)
			left.AndNot(b)
		} else {
			met.And(b)
			left.And(b)
		}
		f.steps[mine].Left = f.fields.Weights.Count(left)
	}
	return met, nil
}

// leaf returns the records that meet one test, from the cache if it was asked
// before. The caller must not change the result's words; combinations copy.
func (f *filter) leaf(t *plan.Predicate, step *result.Step) (kernel.Bitmap, error) {
	positive := *t
	positive.Negate = false
	sel, err := fields.Keep(f.fields, f.testKey(t), func(of *fields.Fields) (selection, int64, error) {
		s, err := (&filter{job: f.job, fields: of}).test(&positive)
		return s, int64(len(s.met.Words)) * 8, err
	})
	if err != nil {
		return kernel.Bitmap{}, err
	}
	step.Dates = t.Dates
	step.UnmatchedCount = len(sel.unmatched)
	for _, i := range sel.unmatched[:min(len(sel.unmatched), maxUnmatched)] {
		step.Unmatched = append(step.Unmatched, t.Given[i])
	}
	if !t.Negate {
		return sel.met, nil
	}
	if t.Match != plan.MatchBlank && !t.Blank {
		step.BlanksKept = sel.blanks
	}
	b := sel.met.Clone()
	b.Not()
	return b, nil
}

// selection is the outcome of one test.
type selection struct {
	met       kernel.Bitmap
	blanks    int   // in the field tested
	unmatched []int // the places of the listed texts that no record has
}

// testKey names a test, its negation set aside, so that no other has the same
// name. Texts are written with their lengths.
func (f *filter) testKey(t *plan.Predicate) string {
	var b strings.Builder
	b.Grow(256 + 16*len(t.Texts))
	fmt.Fprintf(
		&b, "test %s %s %s %v %s %v %v %s %d %s", f.fields.Plan.Records, t.Ref.Path, t.Match,
		t.Blank, t.Compare, t.Ranges, t.Floats, t.Unit, t.Cycle, f.fields.Plan.Calendar.Setting(),
	)
	for _, ref := range []*catalog.Ref{&t.Ref, t.Other} {
		if ref != nil {
			fmt.Fprintf(&b, " %s", ref.Path)
			if d := f.fields.Plan.Derived[ref.Path]; d != nil {
				fmt.Fprintf(&b, " %q", d.Identity)
			}
		}
	}
	var head [4]byte
	for _, text := range t.Texts {
		b.Write(binary.LittleEndian.AppendUint32(head[:0], uint32(len(text))))
		b.WriteString(text)
	}
	return b.String()
}
