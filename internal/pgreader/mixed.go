package pgreader

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/records"
)

// reach is how a plan about records in memory comes by those of a set that stays.
type reach struct {
	// all says that values are drawn from any of them, and not only from those that others lead to.
	all bool
	// from are the links that lead to it from records in memory.
	from []records.AwayLink
	// fields are those that are asked of it, by, and links from it that are followed.
	fields []catalog.Ref
	links  []string
	// back says that a field is looked at by way of it that the plan itself is about.
	back bool
}

// reached are the sets that stay which a plan about another one asks for.
func (r *Reader) reached(p *plan.Plan, more []catalog.Ref) map[string]*reach {
	out := map[string]*reach{}
	starts := r.starts(p, out)
	for _, ref := range slices.Concat(p.Stored(), more) {
		if p.Derived[ref.Path] != nil { // what it is made of is among those that are stored
			ref.Field = catalog.Field{}
		}
		for _, start := range starts {
			r.follow(start, ref, out)
		}
	}
	return out
}

// inCircles says that a plan about records that stay looks at them from others, too, or from each other.
func (r *Reader) inCircles(p *plan.Plan, reached map[string]*reach) bool {
	of := reached[p.Records]
	return r.Loaded.Away[p.Records] != nil && of != nil && of.back
}

// starts are the sets whose records a plan is about, or draws from, and reaches those of them that stay.
func (r *Reader) starts(p *plan.Plan, out map[string]*reach) []string {
	all := []string{p.Records}
	for _, d := range p.Derived {
		if d.There == nil {
			continue
		}
		r.follow(p.Records, catalog.Ref{Links: d.Ref.Links}, out)
		for _, made := range d.There.Derived {
			if made.Beside != nil && r.Loaded.Away[d.There.Records] != nil { // beside others, which are not led to
				reachOf(out, d.There.Records).all = true
			}
		}
	}
	for _, there := range p.Others() {
		for _, set := range r.starts(there, out) {
			if !slices.Contains(all, set) {
				all = append(all, set)
			}
		}
	}
	p.EachDrawn(func(l *plan.LinkedValue) { // what is drawn goes through links, and perhaps to a further record
		if r.Loaded.Away[l.There.Records] != nil {
			reachOf(out, l.There.Records).all = true
		}
		for _, links := range [][]string{l.Links, l.Once} {
			r.follow(l.There.Records, catalog.Ref{Links: links}, out)
		}
	})
	return all
}

func reachOf(all map[string]*reach, set string) *reach {
	if all[set] == nil {
		all[set] = &reach{}
	}
	return all[set]
}

// follow goes along the links of a field from a record set, if they start there, and notes those that stay.
func (r *Reader) follow(start string, ref catalog.Ref, out map[string]*reach) {
	type stop struct {
		set string
		by  records.AwayLink
	}
	at, stops := start, []stop{{set: start}}
	for _, key := range ref.Links {
		links := r.linksOf(at)
		i := slices.IndexFunc(links, func(l records.AwayLink) bool { return l.Key == key })
		if i < 0 {
			return
		}
		at = links[i].To
		stops = append(stops, stop{at, links[i]})
	}
	if ref.Set != "" && ref.Set != at {
		return
	}
	for i, s := range stops {
		if r.Loaded.Away[s.set] == nil {
			continue
		}
		of := reachOf(out, s.set)
		if i > 0 {
			of.from, of.back = append(of.from, s.by), of.back || ref.Set != ""
		}
		if rest := ref.Links[i:]; len(rest) > 0 {
			of.links = append(of.links, rest[0])
		} else if ref.Field.Key != "" {
			if _, ok := catalog.Named(ref.Field.Key); ok {
				of.all = true // what the others are called matters, too
			}
			own := ref
			own.Path, own.Links = ref.Field.Key, nil
			of.fields = append(of.fields, own)
		}
	}
}

// memoryFor is an engine over the records in memory, with those beside them that a plan about them asks for and
// that stay: the ones that records in memory lead to, or all that something is drawn from.
func (r *Reader) memoryFor(ctx context.Context, p *plan.Plan, more ...catalog.Ref) (*engine.Engine, error) {
	memory := r.Memory.Snapshot()
	snap, err := r.withOthers(ctx, p, more, memory, map[string]map[string]table.Column{})
	if err != nil {
		return nil, err
	}
	if snap == memory {
		return r.Memory, nil
	}
	return engine.New(snap, r.Catalog, r.opts.Engine), nil
}

// withOthers are records with those of sets that stay which a plan about others asks for: such first as are led to
// from what is there.
func (r *Reader) withOthers(
	ctx context.Context, p *plan.Plan, more []catalog.Ref, snap *table.Snapshot, stood map[string]map[string]table.Column,
) (*table.Snapshot, error) {
	left := r.others(p, more)
	reached := r.reached(p, more)
	if r.inCircles(p, reached) {
		return nil, refused("%s that are looked at from others, or from each other, and stay in the database", p.Many)
	}
	waits := func(set string) bool {
		return slices.ContainsFunc(reached[set].from, func(l records.AwayLink) bool {
			return l.From != set && slices.Contains(left, l.From)
		})
	}
	for len(left) > 0 {
		i := slices.IndexFunc(left, func(set string) bool { return !waits(set) })
		if i < 0 {
			return nil, refused("%s, which lead to each other, and stay in the database", strings.Join(left, " and "))
		}
		got, err := r.beside(ctx, p, left[i], reached[left[i]], stood)
		if err != nil {
			return nil, err
		}
		if got != nil {
			if snap, err = got.snapshot(ctx, snap); err != nil {
				return nil, err
			}
		}
		left = slices.Delete(left, i, i+1)
	}
	return snap, nil
}

// beside asks for the records of a set that stays which a plan about others needs; nil if it needs none.
func (r *Reader) beside(
	ctx context.Context, p *plan.Plan, set string, by *reach, stood map[string]map[string]table.Column,
) (*standing, error) {
	words := r.Catalog.Set(set)
	q := r.question(&plan.Plan{Records: set, One: words.One, Many: words.Many, Calendar: p.Calendar})
	q.stood = stood
	for _, ref := range by.fields {
		if err := q.needs(ref, false); err != nil {
			return nil, err
		}
	}
	for _, key := range by.links {
		if err := q.needsLink(catalog.Ref{Label: words.Label, Links: []string{key}}); err != nil {
			return nil, err
		}
	}
	var only []string
	for _, link := range by.from {
		if slices.ContainsFunc(q.linking, func(l records.AwayLink) bool { return l.From == link.From && l.Key == link.Key }) {
			continue
		}
		if r.Loaded.Away[link.From] != nil && stood[link.From][link.Columns[0]] == nil {
			continue // nothing that is asked for now goes by it
		}
		if len(link.Columns) != 1 {
			return nil, refused("%s that %s lead to by several columns", words.Many, link.From)
		}
		text, err := q.led(link)
		if err != nil {
			return nil, refused("more %s are led to than can be listed", words.Many)
		}
		only = append(only, text)
		q.linking = append(q.linking, link)
	}
	if !by.all {
		if len(only) == 0 {
			return nil, nil
		}
		q.only = "(" + strings.Join(only, " OR ") + ")"
	}
	d := &deciding{question: q, by: map[*plan.Node]int{}}
	got, err := d.bring(ctx)
	if err != nil {
		return nil, err
	}
	return &standing{lines: got.lines, deciding: d}, nil
}

// led says in SQL that a link from records in memory leads to a record, which is told apart by what the link
// goes by.
func (q *question) led(link records.AwayLink) (string, error) {
	c, ok := q.away.Column(link.ToColumns[0])
	column := q.held(link.From, link.Columns[0])
	if !ok || column == nil {
		return "", &undecided{"a link by what is not kept"}
	}
	keys, err := differentKeys(column)
	if err != nil {
		return "", err
	}
	if q.uses[link.ToColumns[0]] == nil {
		q.uses[link.ToColumns[0]] = &use{}
	}
	u := q.uses[link.ToColumns[0]]
	u.alone, u.byDay, u.among = true, false, ""
	return fmt.Sprintf("(%s) = ANY(%s)", c.Expr, keys), nil
}
