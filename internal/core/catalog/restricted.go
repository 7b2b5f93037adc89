package catalog

import (
	"slices"
	"strings"
)

// Restricted are the parts of a record set that the reader may not see. They are known
// by name, so that a view that uses them can say what it lacks.
type Restricted struct {
	Fields []Field
	Links  []Link
}

// RestrictedError says that something is there, and restricted for the reader.
type RestrictedError struct {
	// Label names it.
	Label string
}

func (e *RestrictedError) Error() string {
	return "“" + e.Label + "” is kept from you; ask an administrator if you need it"
}

// The functions below return nil of the interface type if nothing of the key is restricted.

func (r *RecordSet) restrictedField(key string) error {
	if i := slices.IndexFunc(r.Restricted.Fields, func(f Field) bool { return f.Key == key }); i >= 0 {
		return &RestrictedError{r.Restricted.Fields[i].Label}
	}
	return nil
}

func (r *RecordSet) restrictedLink(key string) error {
	if i := slices.IndexFunc(r.Restricted.Links, func(l Link) bool { return l.Key == key }); i >= 0 {
		return &RestrictedError{r.Restricted.Links[i].Label}
	}
	return nil
}

// RestrictedNamed finds what a formula names and the reader may not see: a field of a set
// or of one linked from it within a depth, or anything beyond a link that is restricted.
func (c *Catalog) RestrictedNamed(set, name string, depth int) error {
	type stop struct {
		set   *RecordSet
		links []string
	}
	queue := []stop{{set: c.Set(set)}}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		if at.set == nil {
			continue
		}
		for _, f := range at.set.Restricted.Fields {
			ref, err := c.Through(set, at.links, f)
			if err == nil && (strings.EqualFold(ref.Label, name) || ref.Path == name) {
				return &RestrictedError{ref.Label}
			}
		}
		for _, l := range at.set.Restricted.Links {
			if len(name) >= len(l.Label) && strings.EqualFold(name[:len(l.Label)], l.Label) {
				return &RestrictedError{name}
			}
		}
		if len(at.links) == depth {
			continue
		}
		for _, l := range at.set.Links {
			if !slices.Contains(at.links, l.Key) {
				queue = append(queue, stop{c.Set(l.To), appended(at.links, l.Key)})
			}
		}
	}
	return nil
}
