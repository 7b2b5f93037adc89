package plan

import (
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// Definitions are fields that all views of a record set share, by the set's key. A view uses
// one as it uses a field, by its key, and through links from other sets.
type Definitions map[string][]Definition

// Definition is one as it is stored.
type Definition = view.Made

// Add puts a definition among those of a record set.
func (d Definitions) Add(records string, one Definition) { d[records] = append(d[records], one) }

// DefinedBy are the fields that a document makes, as definitions.
func DefinedBy(doc view.Document) []Definition {
	var out []Definition
	for _, one := range doc.Makes() {
		out = append(out, one.Made)
	}
	return out
}

// Label is the label of a set's definition with a key, or "".
func (d Definitions) Label(records, key string) string {
	for _, one := range d[records] {
		if one.Key() == key {
			return one.Label()
		}
	}
	return ""
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
		for _, one := range d[stop.Set] {
			path := strings.Join(append(slices.Clone(stop.Links), one.Key()), ".")
			if made := k.derived(path); made != nil && !made.broken {
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
		if len(k.definitions[r.Set]) > 0 && (last < 0 || !slices.Equal(out[last].Links, r.Links)) {
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
	for _, one := range k.definitions[k.set] {
		if one.Key() == key {
			return k.guarded(step{k.set, key, true}, "definitions."+key, func(d *making, at string) {
				k.make(d, one, at)
				d.Definition = &one
			})
		}
	}
	return nil
}

// make resolves a field by what it is made of.
func (k *checker) make(d *making, one view.Made, at string) {
	d.Ref.Label = one.Label()
	switch {
	case one.Calculated != nil:
		k.calculated(d, *one.Calculated, at+".formula")
	case one.Bucket != nil:
		k.bucket(d, *one.Bucket, at)
	case one.Linked != nil:
		k.linkedValue(d, one.Linked, at)
	case one.Beside != nil:
		k.besideField(d, one.Beside, at)
	}
}

// linkedDefined resolves a definition of a linked set by its path, or returns nil.
func (k *checker) linkedDefined(path string) *making {
	keys := strings.Split(path, ".")
	links, key := keys[:len(keys)-1], keys[len(keys)-1]
	set, err := k.catalog.Follow(k.set, links)
	if err != nil || k.definitions.Label(set, key) == "" || k.catalog.Set(set).Field(key) != nil {
		return nil
	}
	there := k.there(set)
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
	if of := inner.Linked; of != nil && of.CurrencyBy != "" && inner.Ref.Field.CurrencyBy != "" {
		k.throughTo(there, links, inner.Ref.Field.CurrencyBy)
	}
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

// throughTo keeps a field that a definition of a linked set brings along.
func (k *checker) throughTo(there *checker, links []string, key string) {
	inner := there.made[key]
	ref, err := k.catalog.Through(k.set, links, inner.Ref.Field)
	if err != nil { // it was followed before
		return
	}
	k.keep(ref.Path, &making{Derived: &Derived{
		Ref: ref, There: there.plan, Original: key, Identity: strings.Join(links, ".") + " " + inner.Identity,
	}})
}

// Uses lists the definitions that the plan is made of, as set and key.
func (p *Plan) Uses() [][2]string {
	var out [][2]string
	for path, d := range p.Derived {
		if d.Definition != nil {
			out = append(out, [2]string{p.Records, path})
		}
	}
	for _, other := range p.Others() {
		out = append(out, other.Uses()...)
	}
	slices.SortFunc(out, func(a, b [2]string) int { return strings.Compare(a[0]+" "+a[1], b[0]+" "+b[1]) })
	return slices.Compact(out)
}
