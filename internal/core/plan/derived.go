package plan

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Derived is a field that a view makes of others: by a formula, by putting values into
// bands, or from the records that link to a record.
type Derived struct {
	Ref     catalog.Ref
	Formula *formula.Formula
	Bucket  *Bucket
	// Identity tells the values apart from those of any other derived field: the
	// formula or the bands, with all they are made of.
	Identity string
	// Linked draws it from the records that link to a record.
	Linked *LinkedValue `json:",omitempty"`
	// Beside sets a record beside others.
	Beside *Beside `json:",omitempty"`
	// Definition is the one it comes from; nil for what the view's own document makes.
	Definition *Definition
	// There, if set, reads another record set, of which Original is the key of a
	// definition; the values come through the links of Ref.
	There    *Plan
	Original string
}

// making is a derived field while a document is checked.
type making struct {
	*Derived
	// links lead to the record that the values belong to, if they are made of linked
	// records' alone; repeats is set where they are made of both.
	links   []string
	repeats bool

	// late says that it is worked out among the records that the view's conditions keep.
	late   bool
	broken bool // a fault was reported; what uses it need not report another
	// restricted, if set, says what it is made of that the reader may not see. It is broken
	// then, and no fault is reported before something needs it.
	restricted *catalog.RestrictedError
}

// PerTotal says whether the field is calculated from totals.
func (d *Derived) PerTotal() bool { return d.Formula != nil && d.Formula.PerTotal() }

// Calculation is what the formula works out for each record, or nil.
func (d *Derived) Calculation() *formula.Calculation {
	if d.Formula == nil {
		return nil
	}
	return d.Formula.Calculation
}

// Inner is the definition of another record set that the field shows, or nil.
func (d *Derived) Inner() *Derived {
	if d.There == nil {
		return nil
	}
	return d.There.Derived[d.Original]
}

// Bucket puts the values of a field into bands.
type Bucket struct {
	Of    catalog.Ref
	Bands []Band
	// Blank and Rest name what has no value, and what fits no band.
	Blank, Rest string
}

// Band is one band: a range of stored values, or a list of folded texts.
type Band struct {
	Label string
	Range Interval
	Float FloatInterval
	Texts []string
}

// derive resolves every field that the view makes, used or not.
func (k *checker) derive() {
	makes := k.doc.Makes()
	if n := len(makes); n > MaxDerived {
		k.fault(code.Many, "calculated", "%d fields are made in the view; at most %d can be", n, MaxDerived)
		return
	}
	seen, labels := map[string]bool{}, map[string]string{}
	check := func(key, label, at string) {
		switch {
		case key == "" || strings.ContainsAny(key, ". "):
			k.fault(code.Key, at+".key", "the key %q must be one word without dots", key)
		case seen[key]:
			k.fault(code.KeyTaken, at+".key", "the key %q is used twice", key)
		case k.catalog.Set(k.set).Field(key) != nil || k.catalog.Set(k.set).Link(key) != nil:
			k.fault(code.KeyTaken, at+".key", "%q is already a field of %s; choose another key", key, k.plan.Many)
		case strings.TrimSpace(label) == "":
			k.fault(code.Label, at+".label", "%q has no label", key)
		case labels[strings.ToLower(label)] != "":
			k.fault(code.LabelTwice, at+".label",
				"%q and %q have the same label, %q; give one of them another", labels[strings.ToLower(label)], key, label)
		}
		seen[key], labels[strings.ToLower(label)] = true, key
	}
	for _, one := range makes {
		check(one.Key(), one.Label(), one.At)
	}
	if len(*k.faults) > 0 {
		return
	}
	for _, one := range makes {
		k.derived(one.Key())
	}
	slices.SortFunc(*k.faults, func(a, b Fault) int { return strings.Compare(a.Path, b.Path) })
}

// derived resolves the calculated field or bucket of a key, or returns nil if
// there is none.
func (k *checker) derived(key string) *making {
	if d := k.made[key]; d != nil {
		return d
	}
	if strings.Contains(key, ".") {
		return k.linkedDefined(key)
	}
	for _, one := range k.doc.Makes() {
		if one.Key() == key {
			return k.guarded(
				step{k.set, key, false}, one.At, func(d *making, at string) { k.make(d, one.Made, at) },
			)
		}
	}
	return k.defined(key)
}

// step is a derived field that is being resolved: one of the view's document or, if defined
// is set, a definition.
type step struct {
	set, key string
	defined  bool
}

// guarded makes a derived field, unless that leads back to itself.
func (k *checker) guarded(place step, at string, do func(d *making, at string)) *making {
	key := place.key
	if i := slices.Index(k.deriving, place); i >= 0 {
		k.circle(at, k.deriving[i:])
		return &making{Derived: &Derived{Ref: catalog.Ref{Path: key, Label: key}}, broken: true}
	}
	k.deriving = append(k.deriving, place)
	defer func() { k.deriving = k.deriving[:len(k.deriving)-1] }()
	d := &making{Derived: &Derived{}}
	do(d, at)
	d.Ref.Path, d.Ref.Set, d.Ref.Field.Key = key, k.set, key
	d.Identity = digest(d.Identity)
	k.keep(key, d)
	return d
}

// keep puts a derived field among those of the plan, if there is nothing wrong with it.
func (k *checker) keep(path string, d *making) {
	k.made[path] = d
	switch {
	case d.restricted != nil:
		k.plan.Absent[path] = d.restricted
	case !d.broken:
		k.plan.Derived[path] = d.Derived
	}
}

func (k *checker) calculated(d *making, c view.Calculated, at string) {
	var held *catalog.RestrictedError
	f, err := formula.Check(c.Formula, func(name string) (formula.Found, error) {
		found, err := k.lookup(name)
		errors.As(err, &held)
		return found, err
	})
	if err != nil {
		d.broken, d.restricted = true, held
		if held == nil {
			k.formulaFaults(c.Label, at, err)
		}
		return
	}
	if err := f.Present(c.Unit, c.Currency, c.Decimals); err != nil {
		d.broken = true
		wrong := ".unit"
		if errors.Is(err, formula.ErrDecimals) {
			wrong = ".decimals"
		}
		k.fault(code.FormulaUnit, strings.TrimSuffix(at, ".formula")+wrong, "%s: %s", c.Label, err)
		return
	}
	d.Formula = f
	d.Ref.Field = f.Calculation.Type().Field(c.Key, c.Label)
	shown := string(c.Unit) + " " + c.Currency
	if c.Decimals != nil {
		shown += fmt.Sprint(" ", *c.Decimals)
	}
	d.Identity = k.identity(f.Tidy+"\x02"+shown, f.Calculation)
	d.links, d.repeats = k.heldBy(f.Calculation.Inputs)
	for _, in := range f.Calculation.Inputs {
		d.late = d.late || k.lateField(in.Path)
	}
}

// formulaFaults reports what is wrong with a formula; nothing, if that is reported already.
func (k *checker) formulaFaults(label, at string, err error) {
	var all formula.Errors
	var one *formula.Error
	switch {
	case errors.As(err, &all):
	case errors.As(err, &one):
		all = formula.Errors{one}
	}
	for _, e := range all {
		k.faults.Add(Fault{
			Path: at, Code: e.Code, Message: fmt.Sprintf("%s: %s", label, e), From: e.From, To: e.To,
		})
	}
}

// circle reports fields that are made of each other, once however it is come upon, and always
// in the same words: from the first of them in the alphabet on.
func (k *checker) circle(at string, around []step) {
	first := 0
	for i, s := range around {
		if s.key < around[first].key {
			first = i
		}
	}
	var way []string
	for _, s := range append(slices.Concat(around[first:], around[:first]), around[first]) {
		way = append(way, s.key)
	}
	words := fmt.Sprintf(
		"%q is made of itself: %s; take one of them out of the other", way[0], strings.Join(way, " uses "))
	if !slices.ContainsFunc(*k.faults, func(f Fault) bool { return f.Message == words }) {
		k.fault(code.Circle, at, "%s", words)
	}
}

// digest keeps an identity short: one of a field that is made of others holds theirs,
// and would double with each field that is made of two.
func digest(identity string) string {
	sum := sha256.Sum256([]byte(identity))
	return hex.EncodeToString(sum[:16])
}

// identity names a program by its source and by what its fields are made of.
func (k *checker) identity(source string, p *formula.Calculation) string {
	out := source
	for _, in := range p.Inputs {
		out += "\x00" + in.Path
		if d := k.made[in.Path]; d != nil {
			out += "\x01" + d.Identity
		}
	}
	out += "\x00" + k.cal.Setting()
	if p.UsesToday {
		out += fmt.Sprint("\x00today ", k.cal.Today())
	}
	if p.UsesNow {
		out += fmt.Sprint("\x00now ", k.cal.Now.UnixMicro())
	}
	return out
}

// found is the field as a formula takes it.
func (d *making) found() (formula.Found, error) {
	switch {
	case d.restricted != nil:
		return formula.Found{Ref: d.Ref}, d.restricted
	case d.broken:
		return formula.Found{Ref: d.Ref}, formula.ErrReported
	case d.PerTotal():
		return formula.Found{Ref: d.Ref, Totals: d.Formula}, nil
	}
	found := formula.Found{Ref: d.Ref}
	if c := d.Calculation(); c != nil {
		found.Least = c.LeastText()
	}
	return found, nil
}

// argument is the field that a total within a formula adds up: a plain field as
// it is, or the values of a program.
func (k *checker) argument(d *making, i int, t formula.Total) catalog.Ref {
	if t.Arg == nil {
		return catalog.Ref{}
	}
	if ref, ok := t.Arg.Plain(); ok {
		return ref
	}
	key := fmt.Sprintf("%s.%d", d.Ref.Path, i)
	if have := k.made[key]; have != nil {
		return have.Ref
	}
	made := &making{Derived: &Derived{
		Ref: catalog.Ref{
			Path: key, Set: k.set, Label: d.Ref.Label, Field: t.Arg.Type().Field(key, d.Ref.Label),
		},
		Formula:  &formula.Formula{Source: d.Formula.Source, Calculation: t.Arg},
		Identity: digest(k.identity(fmt.Sprintf("%d of %s", i, d.Formula.Tidy), t.Arg)),
	}}
	made.links, made.repeats = k.heldBy(t.Arg.Inputs)
	k.keep(key, made)
	return made.Ref
}

func (k *checker) bucket(d *making, b view.Bucket, at string) {
	d.Ref.Field = catalog.Field{Key: b.Key, Label: b.Label, Type: catalog.Text}
	if _, d.restricted = k.restricted(b.Of); d.restricted != nil {
		d.broken = true
		return
	}
	ref, ok := k.ref(b.Of, at+".of")
	if !ok {
		d.broken = true
		return
	}
	out := &Bucket{Of: ref, Blank: b.Blank, Rest: b.Rest}
	if out.Blank == "" {
		out.Blank = "Blank"
	}
	if out.Rest == "" {
		out.Rest = "Everything else"
	}
	d.Bucket = out
	d.links, _ = k.holder(ref)
	d.late = k.lateField(ref.Path)
	before := len(*k.faults)
	if ref.Field.Type == catalog.Picture || ref.Field.Type == catalog.YesNo {
		k.fault(code.FieldType, at+".of", "%s is %s, which has no bands", ref.Label, ref.Field.Type.Word())
		d.broken = true
		return
	}
	if len(b.Bands) == 0 {
		k.fault(code.Band, at+".bands", "the bucket has no bands; name at least one")
	}
	labels := map[string]bool{out.Blank: true, out.Rest: true}
	for i, band := range b.Bands {
		at := fmt.Sprintf("%s.bands[%d]", at, i)
		made := k.band(ref, band, at)
		if made.Label == "" {
			made.Label = k.bandName(ref.Field, band)
		}
		if labels[made.Label] {
			k.fault(code.LabelTwice, at+".label", "the name %q is used twice in the bucket", made.Label)
		}
		labels[made.Label] = true
		out.Bands = append(out.Bands, made)
	}
	d.broken = len(*k.faults) > before
	d.Identity = fmt.Sprintf("%+v\x00%s", *out, k.inputIdentity(ref))
}

func (k *checker) inputIdentity(ref catalog.Ref) string {
	if d := k.made[ref.Path]; d != nil {
		return d.Identity
	}
	return ref.Path
}

func (k *checker) band(ref catalog.Ref, b view.Band, at string) Band {
	out := Band{
		Label: b.Label, Range: Interval{lowest, math.MaxInt64},
		Float: FloatInterval{-math.MaxFloat64, math.MaxFloat64},
	}
	if ref.Field.Type == catalog.Text {
		if len(b.Values) == 0 || b.From != "" || b.Below != "" {
			k.fault(code.Band, at+".values", "a band of text lists the values that belong to it")
		}
		for _, v := range b.Values {
			out.Texts = append(out.Texts, table.Fold(v))
		}
		return out
	}
	if len(b.Values) > 0 || b.From == "" && b.Below == "" {
		k.fault(code.Band, at, "a band of %s has a bound: from, below or both", ref.Label)
		return out
	}
	t := &Predicate{Ref: ref}
	bound := func(s, where string, op view.Op) {
		if s == "" {
			return
		}
		k.rangeTest(t, op, []string{s}, at+where)
		if len(t.Ranges) == 1 {
			out.Range.Lo, out.Range.Hi = max(out.Range.Lo, t.Ranges[0].Lo), min(out.Range.Hi, t.Ranges[0].Hi)
		}
		if len(t.Floats) == 1 {
			out.Float.Lo, out.Float.Hi = max(out.Float.Lo, t.Floats[0].Lo), min(out.Float.Hi, t.Floats[0].Hi)
		}
		t.Ranges, t.Floats = nil, nil
	}
	bound(b.From, ".from", view.AtLeast)
	bound(b.Below, ".below", view.Under)
	if out.Range.Lo > out.Range.Hi || out.Float.Lo > out.Float.Hi {
		k.fault(code.Reversed, at+".below", "the band %q ends before it begins", b.Label)
	}
	return out
}
