package plan

import (
	"maps"
	"slices"

	"gavrik/internal/core/catalog"
)

// Stored lists the stored fields that the plan reads, of all record sets, each once: those of
// its parts, and those that the fields it makes are made of.
func (p *Plan) Stored() []catalog.Ref {
	found := map[string]catalog.Ref{}
	p.stored(found)
	var out []catalog.Ref
	for _, path := range slices.Sorted(maps.Keys(found)) {
		out = append(out, found[path])
	}
	return out
}

// stored adds the stored fields by set and path.
func (p *Plan) stored(found map[string]catalog.Ref) {
	add := p.adder(found)
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
		d.reads(add)
	}
	p.drawn(func(l *LinkedValue) {
		add := l.There.adder(found)
		add(l.Of)
		add(l.Date)
		l.Where.stored(add)
	})
	for _, other := range p.Others() {
		other.stored(found)
	}
}

// adder adds a field that is not made by the plan.
func (p *Plan) adder(found map[string]catalog.Ref) func(catalog.Ref) {
	return func(ref catalog.Ref) {
		if ref.Path != "" && p.Derived[ref.Path] == nil {
			found[ref.Set+" "+ref.Path] = ref
		}
	}
}

// stored adds the fields that a condition tests. What it asks of linked records is found by
// drawn, but for what the chosen one of them must meet.
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
	if n.Linked != nil {
		n.Linked.Meets.stored(func(ref catalog.Ref) {
			if n.Linked.Value.There.Derived[ref.Path] == nil {
				add(ref)
			}
		})
	}
}

// reads adds what a field is made of, of the records that it is a field of.
func (d *Derived) reads(add func(catalog.Ref)) {
	if c := d.Calculation(); c != nil {
		for _, in := range c.Inputs {
			add(in)
		}
	}
	if d.Bucket != nil {
		add(d.Bucket.Of)
	}
	if b := d.Beside; b != nil {
		add(b.Of)
		for _, g := range b.Each {
			add(g.Ref)
		}
		for _, s := range b.By {
			add(s.Ref)
		}
		b.Among.stored(add)
	}
}

// Making are the fields that the plan makes, as far as some fields and its filter are made of them.
func (p *Plan) Making(of ...catalog.Ref) map[string]*Derived {
	out := map[string]*Derived{}
	var add func(ref catalog.Ref)
	add = func(ref catalog.Ref) {
		d := p.Derived[ref.Path]
		if d == nil || out[ref.Path] != nil {
			return
		}
		out[ref.Path] = d
		d.reads(add)
	}
	for _, ref := range of {
		add(ref)
	}
	p.Filter.stored(add)
	return out
}

// Others are the plans of the record sets that the plan draws values from.
func (p *Plan) Others() (out []*Plan) {
	for _, key := range slices.Sorted(maps.Keys(p.Derived)) {
		if there := p.Derived[key].There; there != nil {
			out = append(out, there)
		}
	}
	p.drawn(func(l *LinkedValue) { out = append(out, l.There) })
	return out
}

// SingleRecords says that the plan tells records apart which are alike: it sets them beside each other, or
// counts once what is worked out for each of a linked record, but for records that have none.
func (p *Plan) SingleRecords() bool {
	for _, m := range p.Measures {
		if m.PerLinked && len(m.Links) > len(m.Ref.Links) {
			return true
		}
	}
	for _, d := range p.Derived {
		if d.Beside != nil {
			return true
		}
	}
	return slices.ContainsFunc(p.Others(), (*Plan).SingleRecords)
}

// EachDrawn calls do with everything that is drawn from linked records, by the plan or on the way.
func (p *Plan) EachDrawn(do func(*LinkedValue)) { p.drawn(do) }

// drawn calls do with everything that is drawn from linked records, as a value or for a
// condition, by the plan or on the way.
func (p *Plan) drawn(do func(*LinkedValue)) {
	for _, key := range slices.Sorted(maps.Keys(p.Derived)) {
		p.Derived[key].Linked.drawn(do)
		if b := p.Derived[key].Beside; b != nil {
			b.Among.drawn(do)
		}
	}
	p.Filter.drawn(do)
	if p.Compare != nil {
		p.Compare.Filter.drawn(do)
	}
}

func (l *LinkedValue) drawn(do func(*LinkedValue)) {
	if l != nil {
		do(l)
		l.Where.drawn(do)
	}
}

func (n *Node) drawn(do func(*LinkedValue)) {
	if n == nil {
		return
	}
	for _, c := range n.Children {
		c.drawn(do)
	}
	if n.Linked != nil {
		n.Linked.Value.drawn(do)
		n.Linked.Meets.drawn(do)
	}
}
