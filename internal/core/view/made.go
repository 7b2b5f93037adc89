package view

import "fmt"

// Made is a field that a document makes for itself; one of the pointers is set.
type Made struct {
	Calculated *Calculated  `json:"calculated,omitempty"`
	Bucket     *Bucket      `json:"bucket,omitempty"`
	Linked     *LinkedValue `json:"linked,omitempty"`
	Beside     *Beside      `json:"beside,omitempty"`
}

// Kinds is how many of the pointers are set.
func (m Made) Kinds() (n int) {
	for _, is := range []bool{m.Calculated != nil, m.Bucket != nil, m.Linked != nil, m.Beside != nil} {
		if is {
			n++
		}
	}
	return n
}

// Key is what the rest of the document uses the field by.
func (m Made) Key() string {
	key, _ := m.named()
	return key
}

// Label names the field for people.
func (m Made) Label() string {
	_, label := m.named()
	return label
}

func (m Made) named() (key, label string) {
	switch {
	case m.Calculated != nil:
		return m.Calculated.Key, m.Calculated.Label
	case m.Bucket != nil:
		return m.Bucket.Key, m.Bucket.Label
	case m.Linked != nil:
		return m.Linked.Key, m.Linked.Label
	case m.Beside != nil:
		return m.Beside.Key, m.Beside.Label
	}
	return "", ""
}

// Bare is the field with nothing said of how it is made.
func (m Made) Bare() Made {
	key, label := m.named()
	switch {
	case m.Calculated != nil:
		return Made{Calculated: &Calculated{Key: key, Label: label}}
	case m.Bucket != nil:
		return Made{Bucket: &Bucket{Key: key, Label: label}}
	case m.Linked != nil:
		return Made{Linked: &LinkedValue{Key: key, Label: label}}
	case m.Beside != nil:
		return Made{Beside: &Beside{Key: key, Label: label}}
	}
	return m
}

// MadeAt is a field that a document makes, and its place there: "buckets[1]".
type MadeAt struct {
	Made
	At string
}

// Makes lists the fields that the document makes. They point into it.
func (d *Document) Makes() []MadeAt {
	var out []MadeAt
	for i := range d.Calculated {
		out = append(out, MadeAt{Made{Calculated: &d.Calculated[i]}, fmt.Sprintf("calculated[%d]", i)})
	}
	for i := range d.Buckets {
		out = append(out, MadeAt{Made{Bucket: &d.Buckets[i]}, fmt.Sprintf("buckets[%d]", i)})
	}
	for i := range d.Linked {
		out = append(out, MadeAt{Made{Linked: &d.Linked[i]}, fmt.Sprintf("linked[%d]", i)})
	}
	for i := range d.Beside {
		out = append(out, MadeAt{Made{Beside: &d.Beside[i]}, fmt.Sprintf("beside[%d]", i)})
	}
	return out
}

// Make adds a field to those that the document makes.
func (d *Document) Make(m Made) {
	switch {
	case m.Calculated != nil:
		d.Calculated = append(d.Calculated, *m.Calculated)
	case m.Bucket != nil:
		d.Buckets = append(d.Buckets, *m.Bucket)
	case m.Linked != nil:
		d.Linked = append(d.Linked, *m.Linked)
	case m.Beside != nil:
		d.Beside = append(d.Beside, *m.Beside)
	}
}

// Selection is a document that keeps the same records and makes the same fields, and shows
// nothing.
func (d *Document) Selection() *Document {
	return &Document{
		Gavrik: Version, Records: d.Records, Calculated: d.Calculated, Buckets: d.Buckets, Linked: d.Linked,
		Beside: d.Beside, Filter: d.Filter,
	}
}
