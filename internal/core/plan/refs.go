package plan

import (
	"maps"
	"slices"

	"gavrik/internal/core/catalog"
)

// Stored lists the stored fields that the plan reads, each once, by their paths: those of
// its parts, and those that its calculated fields and buckets are made of.
func (p *Plan) Stored() []catalog.Ref {
	found := map[string]catalog.Ref{}
	add := func(ref catalog.Ref) {
		if ref.Path != "" && p.Derived[ref.Path] == nil {
			found[ref.Path] = ref
		}
	}
	for _, c := range p.Columns {
		add(c.Ref)
	}
	for _, g := range slices.Concat(p.Groups, p.Across) {
		add(g.Ref)
	}
	for _, s := range p.Sort {
		add(s.Ref)
	}
	for _, m := range p.Measures {
		add(m.Ref)
		if m.By != nil {
			add(*m.By)
		}
	}
	p.Filter.stored(add)
	if p.Compare != nil {
		p.Compare.Filter.stored(add)
	}
	for _, d := range p.Derived {
		if c := d.Calculation(); c != nil {
			for _, in := range c.Inputs {
				add(in)
			}
		}
		if d.Bucket != nil {
			add(d.Bucket.Of)
		}
		if d.There != nil {
			for _, ref := range d.There.Stored() {
				found[d.Ref.Path+" "+ref.Path] = ref
			}
		}
	}
	var out []catalog.Ref
	for _, path := range slices.Sorted(maps.Keys(found)) {
		out = append(out, found[path])
	}
	return out
}

// stored adds the fields that a condition tests, of linked records, too.
func (n *Node) stored(add func(catalog.Ref)) {
	if n == nil {
		return
	}
	if t := n.Predicate; t != nil {
		add(t.Ref)
		if t.Other != nil {
			add(*t.Other)
		}
	}
	for _, c := range n.Children {
		c.stored(add)
	}
	if l := n.Linked; l != nil {
		add(l.Of)
		add(l.Date)
		l.Where.stored(add)
		l.Meets.stored(add)
	}
}
