package pgreader

import (
	"context"
	"fmt"
	"slices"
	"sync"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// list is the records of a group, or without groups of a view, in the view's order. Stretches of it are
// asked for as somebody looks at them: by what comes behind a place, and never by leaving out what comes
// before.
type list struct {
	of    *question
	total int
	level int // of its lines

	mu sync.Mutex // protects following fields; one asks at a time
	// stretches are the latest ones, the last one last.
	stretches []*stretch
	marks     *marks
}

// stretch is records one behind the other.
type stretch struct {
	at, end int // places in the list
	lines   result.Result
	last    place // of the last one
}

const (
	// mostMarks is how many marks a list has, about; leastStep how many records lie between them at the least.
	mostMarks = 20_000
	leastStep = 10
)

// newList is that of a group in the result of a question.
func newList(of *question, within []inGroup, total int) *list {
	q := of.Reader.question(recordsOf(of.plan))
	q.oneByOne, q.shown, q.within = true, true, within
	return &list{of: q, total: total, level: len(of.plan.Groups) + 1}
}

// recordsOf is a plan as far as its records are concerned.
func recordsOf(p *plan.Plan) *plan.Plan {
	out := withoutTotals(*p)
	out.Columns = slices.Clone(p.Columns)
	var shown []catalog.Ref
	for i, c := range out.Columns {
		if out.Columns[i].Measure = -1; c.Values {
			shown = append(shown, c.Ref)
		}
	}
	for _, s := range p.Sort {
		shown = append(shown, s.Ref)
	}
	for _, g := range p.Groups { // which bands they are
		if d := p.Derived[g.Ref.Path]; d != nil && d.Bucket != nil {
			shown = append(shown, g.Ref)
		}
	}
	out.Derived = p.Making(shown...)
	return &out
}

// withoutTotals is a plan as far as it is about records alone. Its columns are as they were.
func withoutTotals(p plan.Plan) plan.Plan {
	p.Measures, p.Groups, p.Across, p.Compare, p.Chart = nil, nil, nil, nil, nil
	return p
}

// each calls do with the lines of the records at places lo to hi, as far as they are still there.
func (l *list) each(ctx context.Context, lo, hi int, do func(line result.Line) error) error {
	for lo < hi {
		s, err := l.stretch(ctx, lo, hi)
		if err != nil {
			return err
		}
		w, err := s.lines.Window(ctx, result.Open{}, lo-s.at, min(hi, s.end)-lo)
		if err != nil {
			return err
		}
		if len(w.Lines) == 0 {
			return nil
		}
		for _, line := range w.Lines {
			line.Level = l.level
			if err := do(line); err != nil {
				return err
			}
		}
		lo += len(w.Lines)
	}
	return nil
}

// stretch is one that has the record at lo, and some that come behind it.
func (l *list) stretch(ctx context.Context, lo, hi int) (*stretch, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for _, s := range l.stretches {
		if s.at <= lo && lo < s.end {
			return s, nil
		}
	}
	s, err := asking(ctx, func(ctx context.Context) (*stretch, error) { return l.ask(ctx, lo, hi) })
	if err != nil {
		return nil, err
	}
	l.stretches = append(l.stretches, s)
	for kept := l.kept(); len(l.stretches) > 1 && kept > l.of.opts.Few; kept = l.kept() {
		l.stretches = l.stretches[1:]
	}
	return s, nil
}

// kept is how many records the stretches have that are kept.
func (l *list) kept() (n int) {
	for _, s := range l.stretches {
		n += s.end - s.at
	}
	return n
}

// ask asks for a stretch from lo on, or from not far before it, that reaches to hi if that is not too far.
func (l *list) ask(ctx context.Context, lo, hi int) (*stretch, error) {
	q := *l.of
	q.uses = map[string]*use{}
	few := q.opts.Few
	if len(q.viewOrder()) == 0 {
		if l.total > q.opts.Lines {
			return nil, &Refused{
				fmt.Sprintf("%d %s in an order that the database does not know", l.total, q.plan.Many),
				"put them in the order of a number or a date of their own, or narrow the filter",
			}
		}
		return q.stretch(ctx, 0)
	}
	at := 0
	if i := slices.IndexFunc(l.stretches, func(s *stretch) bool { return s.end == lo }); i >= 0 {
		q.after, at = l.stretches[i].last, lo
	} else if lo > few/5 {
		var err error
		if q.after, at, err = l.before(ctx, lo); err != nil {
			return nil, err
		}
	}
	q.page, q.sample = true, lo-at+min(2*few, max(few/50, 2*(hi-lo)))
	if !singled(q.viewOrder()) { // up to a place, with all that share it
		var err error
		if q.until, err = q.ahead(ctx, q.after, q.sample); err != nil {
			return nil, err
		}
		q.sample = q.opts.Lines
	}
	return q.stretch(ctx, at)
}

// before is a place not far before the record at n, and how many come before it.
func (l *list) before(ctx context.Context, n int) (p place, at int, err error) {
	q := *l.of
	if l.marks == nil {
		if l.marks, err = q.mark(ctx, max(leastStep, q.opts.Few/50, l.total/mostMarks)); err != nil {
			return nil, 0, err
		}
	}
	return l.marks.before(n, func(p place) (int, error) { return q.upTo(ctx, p) })
}

// stretch asks for the records behind a place that so many come before.
func (q *question) stretch(ctx context.Context, at int) (*stretch, error) {
	res, got, err := q.finished(ctx)
	if err != nil {
		return nil, err
	}
	return &stretch{at: at, end: at + res.Summarize().Kept, lines: res, last: got.last}, nil
}

// bytes estimates the memory held.
func (l *list) bytes() (n int64) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for _, s := range l.stretches {
		n += s.lines.Bytes()
	}
	if l.marks != nil && len(l.marks.places) > 0 {
		n += int64(len(l.marks.places)) * int64(24+8*len(l.marks.places[0]))
	}
	return n
}
