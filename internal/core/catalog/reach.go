package catalog

import "slices"

// Reached is a field that a view of some record set can use, with the words of
// the way to it.
type Reached struct {
	Ref
	// Way is the labels of the links followed: ["Booking", "Sailing"].
	Way []string
	// Former are labels that it had before; see Field.Former.
	Former []string
	// Hidden says that it is not offered: itself, or because a link on the way is not, which
	// HiddenWay says.
	Hidden, HiddenWay bool
}

// Reach lists the fields of a record set and of the records linked from it, the
// nearest first, down to a depth of links. A way that would come back to a set it has
// passed stops there: the fields it would add are already nearer. A link from a set to
// itself is followed once, to the fields of that record.
func (c *Catalog) Reach(set string, depth int) []Reached {
	type stop struct {
		set    string
		path   string
		way    []string
		passed []string
		ends   bool
		hidden bool
		last   *Link
	}
	queue := []stop{{set: set, passed: []string{set}}}
	var out []Reached
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		r := c.Set(at.set)
		if r == nil {
			continue
		}
		for i := range r.Fields {
			f := &r.Fields[i]
			if ref, err := c.Resolve(set, at.path+f.Key); err == nil {
				out = append(out, Reached{
					Ref: ref, Way: at.way, Former: formerLabels(at.last, r, f),
					Hidden: at.hidden || f.Hidden, HiddenWay: at.hidden,
				})
			}
		}
		if len(at.way) == depth || at.ends {
			continue
		}
		for i := range r.Links {
			l := &r.Links[i]
			if itself := l.To == at.set; itself || !slices.Contains(at.passed, l.To) {
				queue = append(queue, stop{
					set: l.To, path: at.path + l.Key + ".", ends: itself, hidden: at.hidden || l.Hidden, last: l,
					way: appended(at.way, l.Label), passed: appended(at.passed, l.To),
				})
			}
		}
	}
	return out
}

// appended copies, because branches of the search share a prefix.
func appended(list []string, s string) []string {
	return append(append(make([]string, 0, len(list)+1), list...), s)
}
