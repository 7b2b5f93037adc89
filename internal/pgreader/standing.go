package pgreader

import (
	"context"
	"fmt"
	"maps"
	"math"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// standing puts rows in the place of the records that lines stand for.
type standing struct {
	*lines
	*deciding
	// decided says that the database has decided which records are kept.
	decided bool
	// last is the place of the last of a stretch of the view.
	last place
}

// flagged says that records stand, too, which the filter does not keep.
func (s *standing) flagged() bool {
	return s.decided && (s.plan.Compare != nil || len(s.empties) > 0 || s.counted)
}

// The fields by which records are told apart that a filter keeps, and that the other side of a comparison
// does.
const (
	keptFlag  = "\x00kept"
	otherFlag = "\x00other"
)

// flag is the condition that one of them is set.
func (s *standing) flag(key string) *plan.Node {
	return &plan.Node{Path: "filter", Kind: plan.Leaf, Predicate: &plan.Predicate{
		Ref: catalog.Ref{
			Path: key, Set: s.plan.Records, Label: key, Field: catalog.Field{Key: key, Type: catalog.YesNo},
		},
		Match: plan.MatchSet, Ranges: []plan.Interval{{Lo: 1, Hi: 1}},
	}}
}

// meets says whether the records of a line meet a filter.
func (s *standing) meets(n *plan.Node, line int) bool {
	switch {
	case n == nil || n.Kind == plan.Open:
		return true
	case n.Kind == plan.Leaf:
		i := s.by[n]
		return (s.met[i][line] == 1) != s.tests[i].of.Negate
	}
	parts := 0
	for _, c := range n.Children {
		if c.Kind == plan.Open {
			continue
		}
		parts++
		is := s.meets(c, line)
		switch {
		case n.Kind == plan.Any && is:
			return true
		case n.Kind == plan.None && is:
			return false
		case n.Kind != plan.Any && n.Kind != plan.None && !is:
			return false
		}
	}
	return n.Kind != plan.Any || parts == 0
}

// rows are those that stand for the records of the lines.
type rows struct {
	lines []int32
	// places are where among the records of its line a row begins, and weights how many of them it stands for.
	places, weights []int64
	// kept and other are flags; see keptFlag.
	kept, other []int64
}

// rows lists them: as few as tell the records apart or, of a plan that looks at single ones, one for each.
func (s *standing) rows(ctx context.Context) (*rows, error) {
	out := &rows{}
	compared, flagged := s.decided && s.plan.Compare != nil, s.flagged()
	order, err := s.order(ctx)
	if err != nil {
		return nil, err
	}
	each, booked := int64(4+8*len(s.uses)+32), int64(0)
	for _, line := range order {
		many := s.many[line]
		is, also := true, false
		if s.decided {
			is = s.meets(s.plan.Filter, line)
			also = compared && s.meets(s.plan.Compare.Filter, line)
		}
		if !is && !also && !s.counted {
			if len(s.empties) == 0 {
				continue
			}
			many = 1 // for what there is of it
		}
		need := many
		if !s.single {
			need = min(many, int64(1+2*len(s.filled)))
		}
		if n := int64(len(out.lines)) + need; n*each > s.opts.Bytes || n > math.MaxInt32 {
			return nil, &result.LimitError{
				Step: fmt.Sprintf("the view is of more than %d records of the database", len(out.lines)),
				Mend: "narrow the filter",
			}
		} else if n > booked {
			more := max(n-booked, bookedAtOnce)
			if err := book(ctx, more*each); err != nil {
				return nil, err
			}
			booked += more
		}
		for at := int64(0); at < many; {
			next := s.next(line, at, many)
			out.lines, out.places = append(out.lines, int32(line)), append(out.places, at)
			out.weights = append(out.weights, next-at)
			if flagged {
				out.kept, out.other = append(out.kept, yes(is)), append(out.other, yes(also))
			}
			at = next
		}
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
	}
	return out, nil
}

// next is the first place behind one from which records of a line are not like that at it: one of their
// amounts is another.
func (s *standing) next(line int, at, many int64) int64 {
	if s.single {
		return at + 1
	}
	next := many
	for _, counts := range s.filled {
		if filled := counts[line]; at == 0 && filled > 0 {
			next = 1
		} else if filled > at {
			next = min(next, filled)
		}
	}
	return next
}

// snapshot is one with the records that the lines stand for, too.
func (s *standing) snapshot(ctx context.Context, memory *table.Snapshot) (*table.Snapshot, error) {
	stand, err := s.rows(ctx)
	if err != nil {
		return nil, err
	}
	rows := stand.lines
	t := table.New(s.plan.Records, len(rows))
	columns := map[string]table.Column{}
	for name, c := range s.alone {
		columns[name] = c.Gather(rows)
	}
	for name := range s.filled {
		columns[name] = s.spread(name, stand)
	}
	set := s.Catalog.Set(s.plan.Records)
	for _, f := range set.Fields {
		if c := columns[f.Key]; c != nil {
			t.Add(f.Key, c)
		}
	}
	if set.Field(s.plan.Address) != nil && t.Column(s.plan.Address) == nil {
		t.Add(s.plan.Address, blanks(set.Field(s.plan.Address), len(rows)))
	}
	if s.flagged() {
		t.Add(keptFlag, table.NewNumbers(stand.kept))
		t.Add(otherFlag, table.NewNumbers(stand.other))
	}
	if !s.shown && !s.single {
		t.Weights = stand.weights
	}
	for _, link := range s.links {
		var here, there []table.Column
		for i, name := range link.Columns {
			here, there = append(here, columns[name]), append(there, s.held(link.To, link.ToColumns[i]))
		}
		if slices.Contains(here, nil) || slices.Contains(there, nil) || memory.Tables[link.To] == nil {
			continue // nothing asks for it, or may
		}
		to, _, err := table.Match(ctx, here, there)
		if err != nil {
			return nil, err
		}
		t.AddLink(link.Key, &table.Links{To: link.To, Rows: to})
	}
	s.stand(columns)
	out := &table.Snapshot{AsOf: s.asOf, Tables: maps.Clone(memory.Tables)}
	out.Tables[s.plan.Records] = t
	for _, link := range s.linking {
		here, there := s.held(link.From, link.Columns[0]), columns[link.ToColumns[0]]
		to, shared, err := table.Match(ctx, []table.Column{here}, []table.Column{there})
		if err == nil && shared >= 0 {
			err = refused("several %s are known by one %s", s.plan.Many, link.ToColumns[0])
		}
		if err != nil {
			return nil, err
		}
		out.Tables[link.From] = out.Tables[link.From].WithLink(link.Key, &table.Links{To: link.To, Rows: to})
	}
	return out, ctx.Err()
}

// bookedAtOnce is for how many records memory is booked together.
const bookedAtOnce = 1 << 16

// order is that of the lines: of the key, where every record is told apart, and any otherwise.
func (s *standing) order(ctx context.Context) ([]int, error) {
	out := make([]int, len(s.many))
	for i := range out {
		out[i] = i
	}
	if s.page {
		var err error
		if out, err = s.inView(); err != nil {
			return nil, err
		}
	}
	if !s.each {
		if s.sample > 0 && !s.page {
			out = out[:min(len(out), s.sample)]
		}
		return out, nil
	}
	columns := make([]table.Column, len(s.key))
	for i, name := range s.key {
		columns[i] = s.alone[name]
	}
	// Those that no filter keeps have no key.
	var kept []int32
	var others []int
	slices.Sort(out)
	for _, line := range out {
		if keyless(columns, line) {
			others = append(others, line)
		} else {
			kept = append(kept, int32(line))
		}
	}
	for i, c := range columns {
		columns[i] = table.Reordered(c, kept)
	}
	key, ok := table.NewKey(columns)
	if !ok {
		return nil, refused("what depends on the order of %s, which have no key that orders them", s.plan.Many)
	}
	order, ok := key.Order()
	if !ok {
		return nil, s.oneKey()
	}
	out = out[:0]
	for i := range kept {
		at := int32(i)
		if order != nil {
			at = order[i]
		}
		if out = append(out, int(kept[at])); len(out) == s.sample && !s.page {
			return out, ctx.Err()
		}
	}
	if len(s.empties) > 0 { // of which values there are is for all records to say
		out = append(out, others...)
	}
	return out, ctx.Err()
}

func keyless(columns []table.Column, line int) bool {
	for _, c := range columns {
		switch c := c.(type) {
		case *table.Numbers:
			if c.Values[line] == table.Blank {
				return true
			}
		case *table.Texts:
			if c.Codes[line] == 0 {
				return true
			}
		}
	}
	return false
}

func yes(is bool) int64 {
	if is {
		return 1
	}
	return 0
}

// blanks is a column without a value.
func blanks(f *catalog.Field, n int) table.Column {
	if f.Type == catalog.Text || f.Type == catalog.Picture {
		return table.NewDictBuilder().Build(make([]uint32, n))
	}
	values := make([]int64, n)
	for i := range values {
		values[i] = table.Blank
	}
	return table.NewNumbers(values)
}

// spread gives records values that come to what those of their line do, and are as many: all of it to the
// first, and nothing to the others. Sums, averages and counts of them are the same. Of what is no number, any
// value is as good as another.
func (s *standing) spread(name string, of *rows) table.Column {
	out, sum := make([]int64, len(of.lines)), s.sum[name]
	for i, line := range of.lines {
		switch place, filled := of.places[i], s.filled[name][line]; {
		case place >= filled:
			out[i] = table.Blank
		case place == 0 && sum != nil:
			out[i] = sum[line]
		}
	}
	if c, _ := s.away.Column(name); c.Field.Type != catalog.Text && c.Field.Type != catalog.Picture {
		return table.NewNumbers(out)
	}
	dict, codes := table.NewDictBuilder(), make([]uint32, len(out))
	for i, v := range out {
		if v != table.Blank {
			codes[i] = dict.CodeOf("a value")
		}
	}
	return dict.Build(codes)
}
