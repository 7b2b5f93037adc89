package plan

import (
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// Definitions are calculated fields and buckets that all views of a record set share,
// by the set's key. A view uses one as it uses a field, by its key, and through links
// from other sets.
type Definitions map[string]*Defined

// Defined is what is defined for one record set.
type Defined struct {
	Calculated []view.Calculated
	Buckets    []view.Bucket
}

// Definition is one as it is stored; one of the two is set.
type Definition struct {
	Calculated *view.Calculated `json:"calculated,omitempty"`
	Bucket     *view.Bucket     `json:"bucket,omitempty"`
}

// Key is the key that views use it by.
func (d Definition) Key() string {
	switch {
	case d.Calculated != nil:
		return d.Calculated.Key
	case d.Bucket != nil:
		return d.Bucket.Key
	}
	return ""
}

// Add puts a definition among those of a record set.
func (d Definitions) Add(records string, one Definition) {
	of := d[records]
	if of == nil {
		of = &Defined{}
		d[records] = of
	}
	switch {
	case one.Calculated != nil:
		of.Calculated = append(of.Calculated, *one.Calculated)
	case one.Bucket != nil:
		of.Buckets = append(of.Buckets, *one.Bucket)
	}
}

// Label is the label of the definition with a key, or "".
func (d *Defined) Label(key string) string {
	if d == nil {
		return ""
	}
	for _, c := range d.Calculated {
		if c.Key == key {
			return c.Label
		}
	}
	for _, b := range d.Buckets {
		if b.Key == key {
			return b.Label
		}
	}
	return ""
}

// keys are the keys of all definitions, in their order.
func (d *Defined) keys() (keys []string) {
	if d == nil {
		return nil
	}
	for _, c := range d.Calculated {
		keys = append(keys, c.Key)
	}
	for _, b := range d.Buckets {
		keys = append(keys, b.Key)
	}
	return keys
}

// DefinedField is a definition as a field that a view can use.
type DefinedField struct {
	*Derived
	// Way is the labels of the links followed to it.
	Way []string
}

// Fields lists the definitions that views of a record set can use, of the set itself
// and of those linked from it. One with a fault is left out.
func (d Definitions) Fields(c *catalog.Catalog, set string, plan *Plan) []DefinedField {
	k := &checker{
		catalog: c, definitions: d, set: set, cal: plan.Calendar, plan: plan, faults: &Faults{},
		doc: &view.Document{Records: set}, made: map[string]*making{},
	}
	for path, have := range plan.Derived {
		k.made[path] = &making{Derived: have}
	}
	for path, held := range plan.Absent {
		k.made[path] = &making{Derived: &Derived{}, restricted: held, broken: true}
	}
	var out []DefinedField
	for _, stop := range k.stops() {
		for _, key := range d[stop.Set].keys() {
			if made := k.derived(strings.Join(
				append(slices.Clone(stop.Links), key), ".",
			)); made != nil && !made.broken {
				out = append(out, DefinedField{made.Derived, stop.Way})
			}
		}
	}
	return out
}

// stops are the set at hand and the sets linked from it that have definitions, the
// nearest first.
func (k *checker) stops() []catalog.Reached {
	var out []catalog.Reached
	for _, r := range k.reach() {
		last := len(out) - 1
		if len(k.definitions[r.Set].keys()) > 0 && (last < 0 || !slices.Equal(out[last].Links, r.Links)) {
			out = append(out, r)
		}
	}
	return out
}

func (k *checker) reach() []catalog.Reached {
	if k.reached == nil {
		k.reached = k.catalog.Reach(k.set, catalog.MaxLinks)
	}
	return k.reached
}

// defined resolves a definition of the set at hand, or returns nil if there is none.
func (k *checker) defined(key string) *making {
	own := k.definitions[k.set]
	if own == nil {
		return nil
	}
	at := "definitions." + key
	for _, c := range own.Calculated {
		if c.Key == key {
			return k.guarded(
				step{k.set, key, true}, at,
				func(d *making, at string) { k.calculated(d, c, at+".formula"); d.Defined = &c },
			)
		}
	}
	for _, b := range own.Buckets {
		if b.Key == key {
			return k.guarded(
				step{k.set, key, true}, at, func(d *making, at string) { k.bucket(d, b, at); d.Banded = &b },
			)
		}
	}
	return nil
}

// linkedDefined resolves a definition of a linked set by its path, or returns nil.
func (k *checker) linkedDefined(path string) *making {
	keys := strings.Split(path, ".")
	links, key := keys[:len(keys)-1], keys[len(keys)-1]
	set, err := k.catalog.Follow(k.set, links)
	if err != nil || k.definitions[set].Label(key) == "" || k.catalog.Set(set).Field(key) != nil {
		return nil
	}
	there := k.of(set)
	there.doc, there.deriving = &view.Document{Records: set}, k.deriving
	there.plan, there.made = newPlan(k.catalog.Set(set), k.cal), map[string]*making{}
	inner := there.derived(key)
	if inner.PerTotal() {
		k.fault(code.OfTotals, "definitions."+key,
			"%s is calculated from totals of %s, which a view of other records does not "+
				"have", inner.Ref.Label, there.plan.Many)
	}
	ref, err := k.catalog.Through(k.set, links, inner.Ref.Field)
	if err != nil { // it was followed above
		return nil
	}
	ref.Path = path
	d := &making{
		Derived: &Derived{
			Ref: ref, There: there.plan, Original: key,
			Identity: strings.Join(links, ".") + " " + inner.Identity,
		},
		links: inner.links, repeats: inner.repeats,
		broken: inner.broken || inner.PerTotal(), restricted: inner.restricted,
	}
	k.keep(path, d)
	return d
}

// Uses lists the definitions that the plan is made of, as set and key.
func (p *Plan) Uses() [][2]string {
	var out [][2]string
	for path, d := range p.Derived {
		switch {
		case d.There != nil:
			out = append(out, d.There.Uses()...)
		case d.Defined != nil || d.Banded != nil:
			out = append(out, [2]string{p.Records, path})
		}
	}
	slices.SortFunc(out, func(a, b [2]string) int { return strings.Compare(a[0]+" "+a[1], b[0]+" "+b[1]) })
	return slices.Compact(out)
}
