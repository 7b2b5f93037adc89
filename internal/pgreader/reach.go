package pgreader

import (
	"maps"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/records"
)

// reach is how a plan about records in memory comes by those of a set that stays.
type reach struct {
	// all says that values are drawn from any of them, and not only from those that others lead to.
	all bool
	// from are the links that lead to it from records in memory.
	from []records.AwayLink
	// fields are those that are asked of it, and links the ones from it that are followed.
	fields []catalog.Ref
	links  []string
	// back says that a field is looked at by way of it that the plan itself is about.
	back bool
}

// reached are the sets that stay which a plan asks for, and fields beside it; those of its own among them, where
// others lead there.
func (r *Reader) reached(p *plan.Plan, more []catalog.Ref) map[string]*reach {
	if len(r.Loaded.Away) == 0 {
		return nil
	}
	out := map[string]*reach{}
	starts := r.starts(p, out)
	all := p.Stored()
	for _, ref := range more {
		if p.Derived[ref.Path] != nil { // what it is made of is stored
			ref.Field = catalog.Field{}
		}
		all = append(all, ref)
	}
	for _, ref := range all {
		for _, start := range starts {
			r.follow(start, ref, out)
		}
	}
	return out
}

// others are the sets that are reached besides a plan's own, in order.
func others(reached map[string]*reach, own string) []string {
	return slices.DeleteFunc(slices.Sorted(maps.Keys(reached)), func(set string) bool { return set == own })
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
		link, ok := r.linkOf(at, key)
		if !ok {
			return
		}
		at = link.To
		stops = append(stops, stop{at, link})
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
