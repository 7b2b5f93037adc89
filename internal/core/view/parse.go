package view

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"strings"

	"gavrik/internal/core/code"
)

// MaxBytes bounds a document: room for 100,000 pasted values, not for a file
// given by mistake.
const MaxBytes = 8 << 20

// MaxDepth bounds the nesting of conditions.
const MaxDepth = 256

// Parse reads a document. It takes what the published JSON Schema takes; the error is
// Faults, and names everything that does not fit it, with the place in the document. Check
// says whether it makes sense by itself, package plan whether it fits a catalog.
func Parse(data []byte) (*Document, error) {
	doc := &Document{}
	if err := Decode(data, doc, `a view document is wanted, an object: { "gavrik": 1, "records": … }`); err != nil {
		return nil, err
	}
	return doc, nil
}

// Decode fills the struct that to points to with a JSON object, as Parse does: it takes exactly what the
// struct's types and tags say. wanted says what the object is, for whatever else comes.
func Decode(data []byte, to any, wanted string) error {
	root, err := readTree(data)
	if err != nil {
		return err
	}
	var s strict
	if root.kind != jsonObject {
		s.faults.add("", code.JSON, "%s stands where %s", root.words(), wanted)
		return s.faults
	}
	s.fill(reflect.ValueOf(to).Elem(), root, "", "")
	return s.faults.orNil()
}

// UnmarshalJSON is Parse for documents within other JSON.
func (d *Document) UnmarshalJSON(text []byte) error {
	doc, err := Parse(text)
	if err == nil {
		*d = *doc
	}
	return err
}

// MarshalJSON writes a document so that it can be read again: its columns are a list, also if
// there are none.
func (d Document) MarshalJSON() ([]byte, error) {
	type plain Document // without this method
	if d.Columns == nil {
		d.Columns = []Column{}
	}
	var out bytes.Buffer
	write := json.NewEncoder(&out)
	write.SetEscapeHTML(false) // whoever wants it escaped escapes it further on
	err := write.Encode(plain(d))
	return out.Bytes(), err
}

// Check reports what is wrong with a document by itself, without a catalog. The error is
// Faults.
func (d *Document) Check() error {
	var faults Faults
	switch {
	case d.Gavrik < 1:
		faults.add("gavrik", code.Version, `the document names no version; put "gavrik": 1 at its start`)
	case d.Gavrik > Version:
		faults.add("gavrik", code.Version,
			"the document has version %d; this program reads up to %d: install a newer one", d.Gavrik, Version)
	}
	if d.Filter != nil {
		d.Filter.check(&faults, "filter", 0)
	}
	asked := map[string]bool{}
	for _, q := range d.questions() {
		if asked[q.Parameter.Name] {
			faults.add(q.path+".ask.name", code.TwoParameters,
				"two questions are called %q; give one of them another name", q.Parameter.Name)
		}
		asked[q.Parameter.Name] = true
	}
	for i, l := range d.Linked {
		l.Where.checkIn(&faults, fmt.Sprintf("linked[%d].where", i), 0)
	}
	for i, b := range d.Beside {
		b.Among.checkIn(&faults, fmt.Sprintf("beside[%d].among", i), 0)
	}
	if d.Compare != nil && d.Compare.Filter != nil {
		d.Compare.Filter.check(&faults, "compare.filter", 0)
	}
	return faults.orNil()
}

func (c *Condition) check(faults *Faults, path string, depth int) {
	if depth > MaxDepth {
		faults.add(path, code.Depth, "conditions are nested more than %d deep", MaxDepth)
		return
	}
	var kinds []string
	for _, of := range c.lists() {
		if of.list == nil {
			continue
		}
		kinds = append(kinds, of.name)
		for i := range of.list {
			of.list[i].check(faults, fmt.Sprintf("%s.%s[%d]", path, of.name, i), depth+1)
		}
	}
	if c.Field != "" || c.Op != "" {
		kinds = append(kinds, "a test of a field")
	}
	if c.Linked != nil {
		kinds = append(kinds, "linked")
		c.Linked.Where.checkIn(faults, path+".linked.where", depth)
		c.Linked.Meets.checkIn(faults, path+".linked.meets", depth)
	}
	if c.Within != nil {
		kinds = append(kinds, "within")
		c.Within.Filter.checkIn(faults, path+".within.filter", depth)
	}
	if len(kinds) > 1 {
		faults.add(path, code.Several, "a condition is one of all, any, none, linked, within or a test of a field; "+
			"this one is %s at once", strings.Join(kinds, " and "))
	}
	if c.Other != "" && (c.Value != "" || c.To != "" || len(c.Values) > 0 || c.Period != nil) {
		faults.add(path+".other", code.TwoValues,
			"the test compares with the field %q and has an operand as well; keep one of the two", c.Other)
	}
	if own := depth == 0 || depth == 1 && strings.HasPrefix(path, "filter.all["); c.After && !own {
		faults.add(path+".after", code.Beside,
			"only a condition that stands by itself in the filter can be tested after the others; take it out of its combination")
	}
	c.checkAsk(faults, path)
}

func (c *Condition) checkIn(faults *Faults, path string, depth int) {
	if c != nil {
		c.check(faults, path, depth+1)
	}
}

// part is one of a condition's lists.
type part struct {
	name string
	list []Condition
}

// lists are the parts of a combination by name, always in the same order.
func (c *Condition) lists() []part { return []part{{"all", c.All}, {"any", c.Any}, {"none", c.None}} }
