package plan

import (
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// LinkedValue says how a value is drawn from the records that link to a record.
type LinkedValue struct {
	// There is the plan of those records; the fields spoken of here are its.
	There *Plan
	// Links lead from one of them to the record that has the value; One names that record.
	Links []string
	One   string
	// Way says the links in running text where they do not go by the name of that record alone.
	Way string
	// Where says which of them count; nil counts all.
	Where *Node
	Take  view.Take
	// Of is the field that is taken; none where records are counted.
	Of catalog.Ref
	// Once, if not empty, are the links from one of them to a further record, whose number goes
	// in once however many of them share it.
	Once []string
	// Date decides which is the latest or the earliest.
	Date catalog.Ref
	// CurrencyBy is the path of the field that names the currency of what is taken, or empty.
	// ItsCurrency says that this currency is the value, in place of the amount.
	CurrencyBy  string
	ItsCurrency bool
	// Counted tells which records count, Chosen as well which of them a date chooses, and
	// Identity all that the value depends on.
	Counted, Chosen, Identity string
}

// CurrencyPart is what the path of a linked amount's currency has behind that of the amount.
const CurrencyPart = "currency"

// Field describes the values.
func (l *LinkedValue) Field() catalog.Field {
	f := l.Of.Field
	switch {
	case l.ItsCurrency:
		return catalog.Field{Type: catalog.Text}
	case l.Take == view.TakeCount:
		return catalog.Field{Type: catalog.Whole}
	case l.Take == view.TakeAny:
		return catalog.Field{Type: catalog.YesNo}
	case l.Take == view.TakeJoined:
		return catalog.Field{Type: catalog.Text}
	case l.Take.Fn() != "":
		f = l.Take.Fn().Result(f)
	}
	f.Unique, f.Lost, f.Meaning = false, "", ""
	return f
}

// OrderedBy names what decides which record a value is taken from, in running text; empty if
// nothing does.
func (d *Derived) OrderedBy() string {
	switch {
	case d.There != nil:
		return d.Inner().OrderedBy()
	case d.Linked != nil && d.Linked.Take.ByDate():
		return catalog.LowerFirst(d.Linked.Date.Label)
	case d.Beside != nil && len(d.Beside.By) > 0:
		return catalog.LowerFirst(d.Beside.By[len(d.Beside.By)-1].Ref.Label)
	}
	return ""
}

// linkedValue resolves a field that is drawn from linked records.
func (k *checker) linkedValue(d *making, v *view.LinkedValue, at string) {
	d.broken = true
	all := k.faults
	defer func(outer **catalog.RestrictedError) { k.faults, k.held = all, outer }(k.held)
	k.faults, k.held = &Faults{}, &d.restricted
	value := k.resolveLinked(v, at)
	switch {
	case d.restricted != nil: // it is left out, or a fault of whatever needs it
		return
	case len(*k.faults) > 0:
		*all = append(*all, *k.faults...)
		return
	}
	d.broken = false
	d.Linked, d.Identity = value, value.Identity
	d.Ref.Field = value.Field()
	d.Ref.Field.Label, d.Ref.Field.CurrencyBy = d.Ref.Label, ""
	if value.CurrencyBy != "" {
		d.Ref.Field.CurrencyBy = k.itsCurrency(v, value)
	}
}

// resolveLinked resolves what a linked value is drawn from, and reports its faults.
func (k *checker) resolveLinked(v *view.LinkedValue, at string) *LinkedValue {
	if !slices.Contains(view.Takes(), v.Take) {
		k.fault(code.Choice, at+".take", "%q is nothing that can be taken; use %s", v.Take, view.Words(view.Takes()))
		return nil
	}
	value, there := k.drawnFrom(v.Records, v.By, v.Where, at)
	if value == nil {
		return nil
	}
	value.Take = v.Take
	if v.Take.OfField() {
		there.taken(value, v.Field, at)
	}
	if v.Take.ByDate() {
		there.dated(value, v.Date, at)
	}
	there.settle(value)
	return value
}

// itsCurrency makes the field that names the currency of a linked amount.
func (k *checker) itsCurrency(v *view.LinkedValue, of *LinkedValue) (path string) {
	path = v.Key + "." + CurrencyPart
	currency := *of
	currency.ItsCurrency = true
	field := currency.Field()
	field.Key, field.Label = path, v.Label+" currency"
	k.keep(path, &making{Derived: &Derived{
		Ref: catalog.Ref{Path: path, Set: k.set, Label: field.Label, Field: field}, Linked: &currency,
		Identity: digest("currency of " + of.Identity),
	}})
	return path
}

// drawnFrom resolves which records are drawn from; nil if there are none such.
func (k *checker) drawnFrom(records, by string, where *view.Condition, at string) (*LinkedValue, *checker) {
	set := k.catalog.Set(records)
	if set == nil {
		_, err := k.catalog.Resolve(records, "")
		k.unresolved(at+".records", err)
		return nil, nil
	}
	out := &LinkedValue{Links: strings.Split(by, "."), One: k.catalog.Set(k.set).One}
	if to, err := k.catalog.Follow(records, out.Links); err != nil {
		k.unresolved(at+".by", err)
		return nil, nil
	} else if to != k.set {
		k.fault(code.Link, at+".by", "%q leads from %s to %s, not to %s", by, set.Many, to, k.set)
		return nil, nil
	}
	out.Way = k.wayBack(records, out.Links)
	there := k.there(records)
	out.There = there.plan
	if where != nil {
		out.Where = there.node(where, at+".where")
	}
	return out, there
}

// wayBack says links that lead to the set at hand, if there is more to say than its name.
func (k *checker) wayBack(from string, links []string) string {
	var labels []string
	for at, key := range links {
		set, _ := k.catalog.Follow(from, links[:at]) // it was followed before
		labels = append(labels, strings.ToLower(k.catalog.Set(set).Link(key).Label))
	}
	if len(labels) == 1 && labels[0] == strings.ToLower(k.catalog.Set(k.set).One) {
		return ""
	}
	return strings.Join(labels, " › ")
}

// dated resolves the date that decides which record is the latest or the earliest.
func (k *checker) dated(out *LinkedValue, path, at string) {
	ref, ok := k.ref(path, at+".date")
	if ok && !ref.Field.Type.Temporal() {
		k.fault(code.FieldType, at+".date",
			"%s is %s; the %s record is found by a date", ref.Label, ref.Field.Type.Word(), out.Take)
	}
	out.Date = ref
}

// taken resolves the field that is taken.
func (k *checker) taken(out *LinkedValue, path, at string) bool {
	ref, ok := k.ref(path, at+".field")
	if !ok {
		return false
	}
	if d := k.derived(path); d != nil && d.PerTotal() {
		k.fault(code.OfTotals, at+".field",
			"%s is calculated from totals of groups; single %s have no value of it", ref.Label, k.plan.Many)
		return false
	}
	if !slices.Contains(view.TakesFor(ref.Field.Type), out.Take) {
		k.fault(code.Total, at+".field", "%s is %s, which has no %s", ref.Label, ref.Field.Type.Word(), out.Take)
		return false
	}
	out.Of = ref
	if fn := out.Take.Fn(); fn.Info().DistinctPerLinked {
		out.Once, _ = k.holder(ref)
	}
	if combines := out.Take.ByDate() || out.Take.Fn().Info().Combines; combines {
		out.CurrencyBy = ref.CurrencyPath()
	}
	return true
}

// settle gives the value its identity: what it is drawn from, and how.
func (k *checker) settle(v *LinkedValue) {
	v.Counted = digest(fmt.Sprintf("%s\x00%s\x00%s\x00%s\x00%s", v.There.Records, strings.Join(v.Links, "."),
		writtenDown(v.Where), k.plan.Fingerprint(), k.cal.Setting()))
	v.Chosen = digest(fmt.Sprintf("%s\x00%s\x00%s", v.Counted, v.Take, k.inputIdentity(v.Date)))
	v.Identity = digest(fmt.Sprintf("%s\x00%s", v.Chosen, k.inputIdentity(v.Of)))
}
