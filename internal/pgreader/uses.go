package pgreader

import (
	"fmt"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
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
	// each tells every record apart and keeps them in the order of their key, whose columns are key: what
	// depends on single records, or on their order, is worked out so.
	each bool
	key  []string
	// sample, if not 0, asks for so many of the first records alone, in no order if anyOrder is set. prices are
	// what a sample said of the plan's averages, by their places among its measures.
	sample   int
	anyOrder bool
	// page says that the sample are records in the order of the view: its first ones, or those behind a place,
	// and not behind another one.
	page         bool
	after, until place
	prices       map[int]bool
	// ordered says that totals depend on the order of the view.
	ordered bool
	// shown asks for the records as well, and not only for what they come to.
	shown bool
	// all says that records count which no condition keeps.
	all bool
	// empties are the groups that are shown without records, too.
	empties []plan.Group
	// looked are fields that are looked at by themselves, of moments as finely as grain says.
	looked []catalog.Ref
	grain  grain
	// counted says that records are counted, too, which the filter does not keep.
	counted bool
	// single says that each record has a row of its own, and not all that are alike one together.
	single bool
	// stood are columns of sets that stay whose records stand already, for others that they lead to.
	stood stood
	// only, if set, says in SQL which records alone are asked for; within are groups that they lie in.
	only   string
	within []inGroup
	// linking are the links from records in memory that the plan asks for.
	linking []records.AwayLink
}

// stood are columns of records that stand, by their set and the column's name.
type stood map[string]map[string]table.Column

// use is what a column is needed for.
type use struct {
	// alone says that records are told apart by it; else its values are added up for those that are not told
	// apart, which is as good for sums, averages and counts.
	alone bool
	// grain says how finely moments matter.
	grain grain
	// everywhere says that the values matter, too, of records that no filter keeps: groups are shown of them.
	everywhere bool
	// among, if set, says in SQL of which records alone it is needed.
	among string
}

// needs notes a field that records are told apart by, and of moments, how finely.
func (q *question) needs(ref catalog.Ref, by grain) error {
	if d := q.plan.Derived[ref.Path]; d != nil {
		return q.needsMade(d)
	}
	if ref.Path == "" {
		return nil
	}
	if len(ref.Links) > 0 {
		return q.needsLink(ref)
	}
	if name, ok := catalog.Named(ref.Field.Key); ok { // by what others are called, too, which are not kept
		q.all = true
		set := q.Catalog.Set(q.plan.Records)
		for _, key := range []string{name, set.Address()} {
			if f := set.Field(key); f != nil {
				if err := q.needs(catalog.Ref{Path: key, Set: set.Key, Label: f.Label, Field: *f}, exactly); err != nil {
					return err
				}
			}
		}
		return nil
	}
	if _, ok := q.away.Column(ref.Field.Key); !ok {
		return refused("%s is not a field of the database's own", ref.Label)
	}
	u, there := q.uses[ref.Field.Key]
	if !there {
		q.uses[ref.Field.Key] = &use{alone: true, grain: by}
		return nil
	}
	if u.among = ""; u.alone {
		by = min(u.grain, by)
	}
	u.alone, u.grain = true, by
	return nil
}

// needsWhole notes a column that all records are told apart by, as it is.
func (q *question) needsWhole(name string) {
	if q.uses[name] == nil {
		q.uses[name] = &use{}
	}
	u := q.uses[name]
	u.alone, u.grain, u.among = true, exactly, ""
}

// needsLink notes what the first link of a path goes by; further ones are followed in memory.
func (q *question) needsLink(ref catalog.Ref) error {
	at := q.plan.Records
	for i, key := range ref.Links {
		link, ok := q.linkOf(at, key)
		if !ok {
			return refused("%s is reached by a link that the database does not declare", ref.Label)
		}
		if at = link.To; i == 0 {
			for _, name := range link.Columns {
				q.needsWhole(name)
			}
		}
		if q.Loaded.Away[at] != nil {
			return nil // those that are led to are asked for next
		}
	}
	return nil
}

// needsMade notes what a field that the view makes is made of.
func (q *question) needsMade(d *plan.Derived) error {
	switch {
	case d.Beside != nil:
		return q.needsBeside(d.Beside)
	case d.Linked != nil:
		return q.needsLinking(d.Linked)
	case d.There != nil:
		return q.needsLink(d.Ref)
	case d.Bucket != nil:
		return q.needs(d.Bucket.Of, exactly)
	}
	if c := d.Calculation(); c != nil && !d.PerTotal() {
		for _, in := range c.Inputs {
			if err := q.needs(in, exactly); err != nil {
				return err
			}
		}
	}
	return nil
}

// needsBeside notes what sets records beside each other: every record, and what they are set beside each
// other by.
func (q *question) needsBeside(b *plan.Beside) error {
	q.all = true
	err := q.needsEach()
	if err == nil {
		err = q.needs(b.Of, exactly)
	}
	for _, g := range b.Each {
		if err == nil {
			err = q.needs(g.Ref, exactly)
		}
	}
	for _, s := range b.By {
		if err == nil {
			err = q.needs(s.Ref, exactly)
		}
	}
	if err == nil {
		err = q.needsConditions(b.Among)
	}
	return err
}

// needsEverywhere notes a group that is shown without records, too: of which values there are is for all
// records to say.
func (q *question) needsEverywhere(g plan.Group) {
	q.empties = append(q.empties, g)
	switch {
	case q.plan.Derived[g.Ref.Path] != nil: // its bands are known
	case len(g.Ref.Links) == 0:
		q.uses[g.Ref.Field.Key].everywhere = true
	default:
		link, _ := q.linkOf(q.plan.Records, g.Ref.Links[0])
		for _, name := range link.Columns {
			q.uses[name].everywhere = true
		}
	}
}

// needsEach tells every record apart.
func (q *question) needsEach() error {
	if q.key = q.keyOf(); len(q.key) == 0 {
		return refused("what depends on single records of %s, which have no primary key", q.plan.Many)
	}
	q.each = true
	for _, name := range q.key {
		q.needsWhole(name)
	}
	return nil
}

// needsLinking notes the records in memory that link to these. Those that any links to are told apart by what
// the link goes by; the engine links them as ever.
func (q *question) needsLinking(l *plan.LinkedValue) error {
	there := l.There
	at := there.Records
	for i, key := range l.Links {
		link, ok := q.linkOf(at, key)
		if !ok {
			return refused("%s are linked by what the database does not declare", there.Many)
		}
		if at = link.To; i < len(l.Links)-1 {
			continue
		}
		if len(link.Columns) != 1 {
			return refused("%s are linked by several columns", there.Many)
		}
		if q.Loaded.Away[link.From] != nil { // they are asked for next, and linked then
			q.needsWhole(link.ToColumns[0])
			continue
		}
		column := q.held(link.From, link.Columns[0])
		c, ok := q.away.Column(link.ToColumns[0])
		if column == nil || !ok {
			return refused("%s are linked by what is not kept", there.Many)
		}
		keys, err := differentKeys(column)
		if err != nil {
			return refused("more %s are drawn from than can be listed", there.Many)
		}
		q.linking = append(q.linking, link)
		among := fmt.Sprintf("(%s) = ANY(%s)", c.Expr, keys)
		if u := q.uses[link.ToColumns[0]]; u == nil {
			q.uses[link.ToColumns[0]] = &use{alone: true, among: among}
		} else if u.among != "" {
			u.among += " OR " + among
		}
	}
	for _, ref := range there.Stored() {
		if ref.Set == q.plan.Records {
			return refused("%s is looked at from records that link to it", ref.Label)
		}
	}
	return nil
}

// addsUp says whether a measure is as good from amounts that were added up.
func (q *question) addsUp(m plan.Measure, priced bool) bool {
	f := m.Ref.Field
	_, named := catalog.Named(f.Key)
	if q.oneByOne || priced || q.plan.Derived[m.Ref.Path] != nil || len(m.Ref.Links) > 0 || named ||
		f.Approx || len(m.Currencies) > 0 || m.PerLinked || m.Each != "" {
		return false
	}
	counts := m.Fn == view.CountFilled || m.Fn == view.Blanks
	return counts && f.Type != catalog.Picture || f.Type.Numeric() && (m.Fn == view.Sum || m.Fn == view.Average)
}

// settle finds what the plan needs, but for its conditions.
func (q *question) settle() error {
	p := q.plan
	for i, m := range p.Measures {
		if m.Show != "" || m.Formula != nil || m.Fn == view.Records {
			continue // it is made of other measures
		}
		if m.Fn == view.First || m.Fn == view.Last {
			if err := q.needsEach(); err != nil {
				return err
			}
			by := p.Sort // the order of the view decides
			if q.ordered = q.ordered || m.By == nil; m.By != nil {
				by = []plan.Sort{{Ref: *m.By}}
			}
			for _, s := range by {
				if err := q.needs(s.Ref, exactly); err != nil {
					return err
				}
			}
		}
		if q.addsUp(m, q.prices[i]) {
			if q.uses[m.Ref.Field.Key] == nil {
				q.uses[m.Ref.Field.Key] = &use{}
			}
			continue
		}
		if err := q.needs(m.Ref, exactly); err != nil {
			return err
		}
		for _, path := range m.Currencies {
			ref, err := p.Field(q.Catalog, path)
			if err == nil {
				err = q.needs(ref, exactly)
			}
			if err != nil {
				return err
			}
		}
	}
	for _, g := range slices.Concat(p.Groups, p.Across) {
		if err := q.needs(g.Ref, grainOf(g.Unit)); err != nil {
			return err
		}
		if g.Empty {
			q.needsEverywhere(g)
		}
	}
	if len(q.looked) > 0 {
		return nil
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
		if err := q.needsLinking(n.Linked.Value); err != nil {
			return err
		}
	}
	if t := n.Predicate; t != nil && n.Kind != plan.Open {
		by := exactly
		switch {
		case t.Match == plan.MatchCycle:
			by = grainOf(t.Unit)
		case t.Days != nil: // whole ones
			by = byDays
		}
		if err := q.needs(t.Ref, by); err != nil {
			return err
		}
		if t.Other != nil {
			if err := q.needs(*t.Other, exactly); err != nil {
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

// settleShown finds what is shown of records, and what they are ordered and opened by.
func (q *question) settleShown() error {
	if len(q.keyOf()) > 0 {
		if err := q.needsEach(); err != nil {
			return err
		}
	}
	for _, c := range q.plan.Columns {
		if c.Values {
			if err := q.needs(c.Ref, exactly); err != nil {
				return err
			}
		}
	}
	for _, s := range q.plan.Sort {
		if err := q.needs(s.Ref, exactly); err != nil {
			return err
		}
	}
	if _, ok := q.away.Column(q.plan.Address); ok {
		q.needsWhole(q.plan.Address)
	}
	return nil
}
