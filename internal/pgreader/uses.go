package pgreader

import (
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/records"
)

// question is one plan on its way to an answer.
type question struct {
	*Reader
	plan  *plan.Plan
	away  *records.Away
	links []records.AwayLink
	// uses are the columns that the engine needs, by name.
	uses map[string]*use
	// oneByOne asks for amounts one by one that are else added up by the database.
	oneByOne bool
}

// use is what a column is needed for.
type use struct {
	// alone says that records are told apart by it; else its values are added up for those that are not told
	// apart, which is as good for sums, averages and counts.
	alone bool
	// byDay says that of a moment nothing but its day matters.
	byDay bool
}

// needs notes a field that records are told apart by; days says that of a moment its day is enough.
func (q *question) needs(ref catalog.Ref, days bool) error {
	if d := q.plan.Derived[ref.Path]; d != nil {
		return q.needsMade(d)
	}
	if ref.Path == "" {
		return nil
	}
	if len(ref.Links) > 0 {
		return q.needsLink(ref)
	}
	if _, ok := q.away.Column(ref.Field.Key); !ok {
		return refused("%s is not a field of the database's own", ref.Label)
	}
	u, there := q.uses[ref.Field.Key]
	switch {
	case !there:
		q.uses[ref.Field.Key] = &use{alone: true, byDay: days && ref.Field.Type == catalog.DateTime}
	default:
		u.alone, u.byDay = true, u.alone && u.byDay && days
	}
	return nil
}

// needsLink notes what the first link of a path goes by; further ones are followed in memory.
func (q *question) needsLink(ref catalog.Ref) error {
	at := q.plan.Records
	for i, key := range ref.Links {
		links := q.links
		if i > 0 {
			links = q.loaded.LinksOf(at)
		}
		n := slices.IndexFunc(links, func(l records.AwayLink) bool { return l.Key == key })
		if n < 0 {
			return refused("%s is reached by a link that the database does not declare", ref.Label)
		}
		at = links[n].To
		if q.loaded.Away[at] != nil {
			return refused("%s belongs to other records that stay in the database", ref.Label)
		}
		for _, name := range links[n].Columns {
			if i == 0 {
				q.uses[name] = &use{alone: true}
			}
		}
	}
	return nil
}

// needsMade notes what a field that the view makes is made of.
func (q *question) needsMade(d *plan.Derived) error {
	switch {
	case d.Beside != nil:
		return refused("%s sets records beside each other", d.Ref.Label)
	case d.Linked != nil:
		return refused("%s is drawn from records that link to these", d.Ref.Label)
	case d.There != nil:
		return q.needsLink(d.Ref)
	case d.Bucket != nil:
		return q.needs(d.Bucket.Of, false)
	}
	if c := d.Calculation(); c != nil && !d.PerTotal() {
		for _, in := range c.Inputs {
			if err := q.needs(in, false); err != nil {
				return err
			}
		}
	}
	return nil
}

// addsUp says whether a measure is as good from amounts that were added up.
func (q *question) addsUp(m plan.Measure) bool {
	f := m.Ref.Field
	return !q.oneByOne && q.plan.Derived[m.Ref.Path] == nil && len(m.Ref.Links) == 0 && !f.Approx && f.Type.Numeric() &&
		len(m.Currencies) == 0 && !m.PerLinked && m.Each == "" &&
		slices.Contains([]view.Fn{view.Sum, view.Average, view.CountFilled, view.Blanks}, m.Fn)
}

// settle finds what the plan needs, but for its conditions.
func (q *question) settle() error {
	p := q.plan
	for _, m := range p.Measures {
		if m.Show != "" || m.Formula != nil || m.Fn == view.Records {
			continue // it is made of other measures
		}
		if m.Fn == view.First || m.Fn == view.Last {
			return refused("%s depends on the order of the records", m.Label)
		}
		if q.addsUp(m) {
			if q.uses[m.Ref.Field.Key] == nil {
				q.uses[m.Ref.Field.Key] = &use{}
			}
			continue
		}
		if err := q.needs(m.Ref, false); err != nil {
			return err
		}
		for _, path := range m.Currencies {
			ref, err := p.Field(q.loaded.Catalog, path)
			if err == nil {
				err = q.needs(ref, false)
			}
			if err != nil {
				return err
			}
		}
	}
	for _, g := range slices.Concat(p.Groups, p.Across) {
		if g.Empty && g.Unit == "" {
			return refused("groups of %s that have no records", catalog.LowerFirst(g.Label()))
		}
		if err := q.needs(g.Ref, g.Unit != "" && !hourly(g)); err != nil {
			return err
		}
	}
	for _, d := range p.Derived { // what fails is counted, used or not
		if d.Bucket == nil && !d.PerTotal() {
			if err := q.needsMade(d); err != nil {
				return err
			}
		}
	}
	return nil
}

// needsConditions notes the fields that conditions test which the engine has to decide.
func (q *question) needsConditions(n *plan.Node) error {
	if n == nil {
		return nil
	}
	if n.Linked != nil {
		return refused("a condition on records that link to %s", q.plan.Many)
	}
	if t := n.Predicate; t != nil && n.Kind != plan.Open {
		if err := q.needs(t.Ref, false); err != nil {
			return err
		}
		if t.Other != nil {
			if err := q.needs(*t.Other, false); err != nil {
				return err
			}
		}
	}
	for _, c := range n.Children {
		if err := q.needsConditions(c); err != nil {
			return err
		}
	}
	return nil
}
