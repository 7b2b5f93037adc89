package pgreader

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// standing puts each line in the place of as many records as it stands for.
type standing struct {
	*lines
	*deciding
	// decided says that the database has decided which records are kept.
	decided bool
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

// snapshot is one with the records that the lines stand for, too.
func (s *standing) snapshot(ctx context.Context, memory *table.Snapshot) (*table.Snapshot, error) {
	var rows []int32
	var first []bool // of those that stand for a line: the first of them
	var kept, other []int64
	compared, flagged := s.decided && s.plan.Compare != nil, s.flagged()
	order, err := s.order(ctx)
	if err != nil {
		return nil, err
	}
	n, booked := int64(0), int64(0)
	perRecord := int64(4 + 8*len(s.uses) + 9)
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
		if n += many; n*perRecord > s.opts.Bytes || n > 1<<31-1 {
			return nil, &result.LimitError{
				Step: fmt.Sprintf(
					"the view is of more than %d records of the database", n-many,
				), Mend: "narrow the filter",
			}
		}
		if n > booked {
			more := max(n-booked, bookedAtOnce)
			if err := book(ctx, more*perRecord); err != nil {
				return nil, err
			}
			booked += more
		}
		rows, first = slices.Grow(rows, int(many)), slices.Grow(first, int(many))
		for i := range many {
			rows, first = append(rows, int32(line)), append(first, i == 0)
			if flagged {
				kept, other = append(kept, yes(is)), append(other, yes(also))
			}
		}
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
	}
	t := table.New(s.plan.Records, len(rows))
	columns := map[string]table.Column{}
	for name, c := range s.alone {
		columns[name] = c.Gather(rows)
	}
	for name := range s.sum {
		columns[name] = s.spread(name, rows, first)
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
	if flagged {
		t.Add(keptFlag, table.NewNumbers(kept))
		t.Add(otherFlag, table.NewNumbers(other))
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
	if !s.each {
		if s.sample > 0 {
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
	for line := range s.many {
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
		return nil, refused("what depends on single records of %s, several of which have one key", s.plan.Many)
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
// first, and nothing to the others. Sums, averages and counts of them are the same.
func (s *standing) spread(name string, rows []int32, first []bool) table.Column {
	out := make([]int64, len(rows))
	left := int64(0)
	for i, line := range rows {
		if first[i] {
			left = s.filled[name][line]
			if out[i] = table.Blank; left > 0 {
				out[i] = s.sum[name][line]
			}
		} else if out[i] = table.Blank; left > 0 {
			out[i] = 0
		}
		left--
	}
	return table.NewNumbers(out)
}
