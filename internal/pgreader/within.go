package pgreader

import (
	"context"
	"fmt"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/records"
)

// inGroup is a group of a level, and those beside it if it is the rest of them.
type inGroup struct {
	Level  plan.Group
	Key    result.Key
	Beside []result.Key
}

// groupsTo are those that lead to one in a result, and that one, the outermost first.
func groupsTo(ctx context.Context, r result.Result, line result.GroupLine) (out []inGroup, err error) {
	parent := ""
	for i, key := range line.Keys[:line.Level] {
		in := inGroup{Level: r.Summarize().Plan.Groups[i], Key: key}
		if key.Joined > 0 {
			err = r.EachGroup(ctx, result.Groups{Within: parent, Levels: i + 1, Heads: []int{}},
				func(line result.GroupLine) error {
					if line.Level == i+1 && line.Keys[i].Joined == 0 {
						in.Beside = append(in.Beside, line.Keys[i])
					}
					return nil
				})
			if err != nil {
				return nil, err
			}
		}
		out = append(out, in)
		parent = result.AncestorOf(line.Group, i+1)
	}
	return out, nil
}

// inGroup says in SQL that a record lies in a group.
func (d *deciding) inGroup(ctx context.Context, in inGroup) (string, error) {
	if in.Key.Joined == 0 {
		return d.hasValue(ctx, in.Level, in.Key.Value)
	}
	others := in.Beside
	if in.Key.Gone != nil {
		for _, v := range in.Key.Gone.Values {
			others = append(others[:len(others):len(others)], result.Key{Value: v})
		}
	}
	var any []string
	for _, key := range others {
		is, err := d.hasValue(ctx, in.Level, key.Value)
		if err != nil {
			return "", err
		}
		any = append(any, is)
	}
	return "NOT " + anyOf(any), nil
}

// hasValue says in SQL, and never with a null, that a record has a value by which it is grouped.
func (d *deciding) hasValue(ctx context.Context, by plan.Group, v cell.Cell) (string, error) {
	ref := by.Ref
	made := d.plan.Derived[ref.Path]
	if made != nil && made.Bucket != nil {
		return d.inBand(ctx, made.Bucket, v.Text)
	}
	if made != nil || by.Unit.Cyclic() {
		return "", &undecided{"a group that is worked out"}
	}
	t := &plan.Predicate{Ref: ref, Match: plan.MatchSet}
	switch {
	case v.Kind == cell.Blank:
		t.Match = plan.MatchBlank
	case by.Unit != "":
		first, behind := v.Int, d.plan.Calendar.Add(by.Unit, v.Int, 1)
		if t.Ranges = []plan.Interval{{Lo: first, Hi: behind - 1}}; ref.Field.Type == catalog.DateTime {
			t.Ranges = nil
			for _, s := range d.plan.Calendar.Moments(first*calendar.DayLen, behind*calendar.DayLen-1) {
				t.Ranges = append(t.Ranges, plan.Interval{Lo: s.From, Hi: s.To})
			}
		}
	case ref.Field.Type == catalog.Text:
		return d.hasText(ctx, ref, v.Text)
	case v.Kind == cell.Approximate:
		t.Floats = []plan.FloatInterval{{Lo: v.Float(), Hi: v.Float()}}
	default:
		t.Ranges = []plan.Interval{{Lo: v.Int, Hi: v.Int}}
	}
	test, err := d.leaf(ctx, t)
	if err != nil {
		return "", err
	}
	return test.met, nil
}

// hasText says in SQL that a record has a text, which is told from others by case and accents, too.
func (d *deciding) hasText(ctx context.Context, ref catalog.Ref, text string) (string, error) {
	if _, named := catalog.Named(ref.Field.Key); named { // no two are alike but for these
		given := []string{text}
		test, err := d.leaf(ctx, &plan.Predicate{
			Ref: ref, Match: plan.MatchSet, Given: given, Texts: table.FoldAll(given),
		})
		if err != nil {
			return "", err
		}
		return test.met, nil
	}
	if len(ref.Links) == 0 {
		c, ok := d.away.Column(ref.Field.Key)
		if !ok {
			return "", &undecided{"a field that is not in the database"}
		}
		return anyOf([]string{"(" + c.Expr + ") = " + records.Literal(text)}), nil
	}
	link, ok := d.linkOf(d.away.Set, ref.Links[0])
	if !ok || len(link.Columns) != 1 || d.leadsAway(ref) {
		return "", &undecided{"a link of several columns, or to records that are not in memory"}
	}
	c, ok := d.away.Column(link.Columns[0])
	keys := d.held(link.To, link.ToColumns[0])
	values, err := d.through(link.To, ref.Links[1:], ref.Field.Key)
	if !ok || keys == nil || err != nil {
		return "", &undecided{"a link by what is not kept"}
	}
	var rows []int32
	for row, code := range values.Codes {
		if values.Dict.Value(code) == text {
			rows = append(rows, int32(row))
		}
	}
	list, err := keysOf(keys, rows)
	if err != nil {
		return "", err
	}
	return anyOf([]string{fmt.Sprintf("(%s) = ANY(%s)", c.Expr, list)}), ctx.Err()
}

// through are the texts that records in memory lead to.
func (q *question) through(set string, links []string, field string) (*table.Texts, error) {
	of := q.Memory.Snapshot().Tables[set]
	if of == nil {
		return nil, &undecided{"records that are not in memory"}
	}
	if len(links) > 0 {
		link := of.Link(links[0])
		if link == nil {
			return nil, &undecided{"a link that is not in memory"}
		}
		there, err := q.through(link.To, links[1:], field)
		if err != nil {
			return nil, err
		}
		return there.Gather(link.Rows).(*table.Texts), nil
	}
	texts, ok := of.Column(field).(*table.Texts)
	if !ok {
		return nil, &undecided{"a field that is not in memory"}
	}
	return texts, nil
}

// tellsGroups says that the database tells the records of any group of the plan.
func (q *question) tellsGroups() bool {
	for _, g := range q.plan.Groups {
		ref := g.Ref
		if made := q.plan.Derived[ref.Path]; made != nil {
			if made.Bucket == nil {
				return false
			}
			ref = made.Bucket.Of
		}
		if g.Unit.Cyclic() || !q.tells(ref) {
			return false
		}
	}
	return true
}

// tells says that the database tells values of a field from others.
func (q *question) tells(ref catalog.Ref) bool {
	if q.plan.Derived[ref.Path] != nil {
		return false
	}
	if len(ref.Links) == 0 {
		c, ok := q.away.Column(ref.Field.Key)
		return ok && (ref.Field.Type == catalog.Text || c.Whole || bounded(c.Type))
	}
	link, ok := q.linkOf(q.away.Set, ref.Links[0])
	return ok && len(link.Columns) == 1 && !q.leadsAway(ref) && q.held(link.To, link.ToColumns[0]) != nil
}
