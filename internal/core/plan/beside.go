package plan

import (
	"fmt"
	"maps"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// Beside says how a record is set beside others.
type Beside struct {
	Take view.BesideTake
	// Of is the field that is looked at; none where records are counted.
	Of catalog.Ref
	// Each is what records of one group have in common; none makes one group of all.
	Each []Group
	// By is the order of the records of a group; ties keep the records' own.
	By []Sort
	// Among says which records there are; nil means all. What it leaves out has no value.
	Among *Node
	// Kept says that they are those which the view's other conditions keep.
	Kept bool
	// CurrencyBy is the path of the field that names the currency of what is put together, or
	// empty.
	CurrencyBy string
}

// ComparesKept says whether records are set beside those that the view's conditions keep.
func (p *Plan) ComparesKept() bool {
	for _, d := range p.Derived {
		if d.Beside != nil && d.Beside.Kept {
			return true
		}
	}
	return false
}

// Fields beside others are worked out among the records that the view's conditions keep, but for
// those conditions that ask about such fields: these are late, and see the records that the others
// keep. A condition can be made late as well.

// besideField resolves a field that sets a record beside others.
func (k *checker) besideField(d *making, b *view.Beside, at string) {
	faults := len(*k.faults)
	d.broken = true
	paths := []string{b.Field}
	for _, e := range b.Each {
		paths = append(paths, e.Field)
	}
	for _, s := range b.By {
		paths = append(paths, s.Field)
	}
	for _, path := range paths {
		if path != "" && d.restricted == nil {
			_, d.restricted = k.restricted(path)
		}
	}
	if d.restricted != nil {
		return
	}
	out := &Beside{Take: b.Take, Kept: b.Among == nil && !k.defining()}
	if !slices.Contains(view.BesideTakes(), b.Take) {
		k.fault(code.Choice, at+".take",
			"%q is nothing that can be taken; use %s", b.Take, view.Words(view.BesideTakes()))
		return
	}
	if b.Take.OfField() {
		k.lookedAt(out, b, at)
	}
	each := make([]view.Group, len(b.Each))
	for i, e := range b.Each {
		each[i] = view.Group{Field: e.Field, Unit: e.Unit}
	}
	out.Each = k.groups(each, at+".each")
	if b.Take.Ordered() && len(b.By) == 0 {
		k.fault(code.Beside, at+".by", "which record is before which is not said; name the field that they go by")
	}
	for i, s := range b.By {
		ref, ok := k.ref(s.Field, fmt.Sprintf("%s.by[%d].field", at, i))
		if ok && ref.Field.Type == catalog.Picture {
			k.fault(code.FieldType, fmt.Sprintf("%s.by[%d].field", at, i),
				"%s holds pictures, which have no order", ref.Label)
		}
		out.By = append(out.By, Sort{Ref: ref, Desc: s.Desc})
	}
	if b.Among != nil {
		out.Among = k.node(b.Among, at+".among")
		if k.isLate(out.Among) {
			k.fault(code.Beside, at+".among",
				"what decides which records there are beside each other cannot ask about fields that are worked out among them")
		}
	}
	if len(*k.faults) > faults {
		return
	}
	d.broken = false
	d.Beside, d.late = out, out.Kept
	for _, path := range paths {
		d.late = d.late || k.lateField(path)
	}
	d.Ref.Field = b.Take.Result(out.Of.Field)
	d.Ref.Field.Label, d.Ref.Field.CurrencyBy = d.Ref.Label, out.CurrencyBy
	d.Identity = k.besideIdentity(out)
}

// defining says whether the field in the making is a definition: it knows no view's conditions.
func (k *checker) defining() bool {
	return len(k.deriving) > 0 && k.deriving[len(k.deriving)-1].defined
}

// lookedAt resolves the field that is looked at.
func (k *checker) lookedAt(out *Beside, b *view.Beside, at string) {
	ref, ok := k.ref(b.Field, at+".field")
	if !ok {
		return
	}
	if d := k.derived(b.Field); d != nil && d.PerTotal() {
		k.fault(code.OfTotals, at+".field",
			"%s is calculated from totals of groups; single %s have no value of it", ref.Label, k.plan.Many)
		return
	}
	if !b.Take.Fits(ref.Field.Type) {
		k.fault(code.Total, at+".field", "%s is %s, which has no %s", ref.Label, ref.Field.Type.Word(), b.Take.Words())
		return
	}
	out.Of = ref
	if b.Take.Combines() && b.Take != view.GroupRank {
		out.CurrencyBy = ref.CurrencyPath()
	}
}

func (k *checker) besideIdentity(b *Beside) string {
	out := writtenDown(b) + "\x00" + k.inputIdentity(b.Of) + "\x00" + k.cal.Setting()
	for _, g := range b.Each {
		out += "\x00" + k.inputIdentity(g.Ref)
	}
	for _, s := range b.By {
		out += "\x00" + k.inputIdentity(s.Ref)
	}
	b.Among.eachRef(func(ref catalog.Ref) { out += "\x00" + k.inputIdentity(ref) })
	return out
}

// eachRef calls do with the fields of the record itself that a condition tests.
func (n *Node) eachRef(do func(catalog.Ref)) {
	if n == nil {
		return
	}
	if t := n.Predicate; t != nil {
		do(t.Ref)
		if t.Other != nil {
			do(*t.Other)
		}
	}
	for _, c := range n.Children {
		c.eachRef(do)
	}
}

// isLate says whether a condition asks about a field that is worked out among the records kept.
func (k *checker) isLate(n *Node) (late bool) {
	n.eachRef(func(ref catalog.Ref) { late = late || k.lateField(ref.Path) })
	return late
}

// lateField says whether a field is worked out among the records kept.
func (k *checker) lateField(path string) bool {
	d := k.made[path]
	return d != nil && d.late
}

// lateFields are those that the view makes, in the order of their paths.
func (k *checker) lateFields() (out []*making) {
	for _, path := range slices.Sorted(maps.Keys(k.made)) {
		if d := k.made[path]; d.late && !d.broken {
			out = append(out, d)
		}
	}
	return out
}

// settleBeside says, once the filter is resolved, among which records fields are worked out, and
// gives these fields and what is made of them the identity that follows.
func (k *checker) settleBeside() {
	late := k.lateFields()
	if len(late) == 0 {
		return
	}
	base := k.early()
	among := writtenDown(base) + k.cal.Setting()
	base.eachRef(func(ref catalog.Ref) { among += "\x00" + k.inputIdentity(ref) })
	base.drawn(func(l *LinkedValue) { among += "\x00" + l.Identity })
	for _, d := range late {
		if d.Beside != nil && d.Beside.Kept {
			d.Beside.Among = base
		}
		d.Identity = digest(d.Identity + "\x00" + among)
	}
}

// early is the filter without the conditions that are late; nil keeps all.
func (k *checker) early() *Node {
	n := k.plan.Filter
	if n == nil {
		return nil
	}
	if n.Kind != All {
		if k.isLate(n) || k.doc.Filter.After {
			return nil
		}
		return n
	}
	out := &Node{Path: n.Path, Kind: All}
	for _, c := range n.Children {
		if !k.isLate(c) && !k.doc.Filter.All[c.At].After {
			out.Children = append(out.Children, c)
		}
	}
	if len(out.Children) == 0 {
		return nil
	}
	return out
}

// comparesLate reports a comparison of fields that are worked out among the records kept: the
// other side has others.
func (k *checker) comparesLate() {
	if late := k.lateFields(); len(late) > 0 {
		k.fault(code.Beside, "compare",
			"%s is worked out among the records that are kept, and a comparison has others; "+
				"say among which records it is to be worked out, or take the comparison away", late[0].Ref.Label)
	}
}
