package plan

import (
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/formula"
)

// A name in a formula is a field's label, its key, or its path. It means the nearest field
// that has it: first those of the record at hand, made by the view, defined for all views or
// stored, then those of linked records, the fewer links the nearer. Of equally near ones, a
// field whose label or path is written exactly so goes before one that differs in capitals.
// A field being made is no candidate for itself. What then could still mean two fields is a
// fault that names both. What no field is called now may be what one was called before it
// got another label.

// candidate is a field that a name may mean.
type candidate struct {
	label, path string
	far         int // links away
	find        func() (formula.Found, error)
	former      []string
}

// lookup finds the field that a name in a formula means.
func (k *checker) lookup(name string) (formula.Found, error) {
	matches, self := k.meant(name)
	switch {
	case len(matches) == 1:
		return matches[0].find()
	case len(matches) > 1:
		return formula.Found{}, k.doubt(name, matches)
	case self != nil:
		return self.find() // it is made of itself, and says so
	}
	// What lies further off than is offered can still be named by its path.
	if strings.Contains(name, ".") {
		if ref, err := k.catalog.Resolve(k.set, name); err == nil {
			return formula.Found{Ref: ref}, nil
		}
	}
	if err := k.catalog.RestrictedNamed(k.set, name, catalog.MaxLinks); err != nil {
		return formula.Found{}, err
	}
	var labels []string
	for _, c := range k.candidates() {
		labels = append(labels, c.label)
	}
	return formula.Found{}, fmt.Errorf("there is no field '%s'%s", name, catalog.Suggest(name, labels))
}

// meant are the nearest fields of a name; self is the field being made, if it has that name.
func (k *checker) meant(name string) (matches []candidate, self *candidate) {
	making := ""
	if n := len(k.deriving); n > 0 {
		making = k.deriving[n-1].key
	}
	for _, same := range []func(candidate) bool{
		func(c candidate) bool { return c.label == name },
		func(c candidate) bool { return strings.EqualFold(c.label, name) },
		func(c candidate) bool {
			return slices.ContainsFunc(c.former, func(s string) bool { return strings.EqualFold(s, name) })
		},
	} {
		for _, c := range k.candidates() {
			switch {
			case !same(c) && c.path != name:
			case c.path == making:
				self = &c
			case len(matches) == 0 || c.far < matches[0].far:
				matches = []candidate{c}
			case c.far == matches[0].far && matches[0].path != c.path:
				matches = append(matches, c)
			}
		}
		if len(matches) > 0 && k.nearest(name, matches[0].far) {
			return matches, self
		}
	}
	return matches, self
}

// nearest says whether no field nearer than so many links has a name but for its capitals.
func (k *checker) nearest(name string, far int) bool {
	return !slices.ContainsFunc(k.candidates(), func(c candidate) bool {
		return c.far < far && strings.EqualFold(c.label, name)
	})
}

// doubt names two fields that a name may mean, and how to tell them apart.
func (k *checker) doubt(name string, matches []candidate) error {
	a, b := matches[0], matches[1]
	words := fmt.Sprintf("'%s' may be %s (%s) or %s (%s)", name, a.label, a.path, b.label, b.path)
	for _, c := range []candidate{a, b} {
		if alone, _ := k.meant(c.path); len(alone) != 1 || alone[0].path != c.path {
			return doubtful(words + "; give one of them another label")
		}
	}
	return doubtful(fmt.Sprintf("%s; write '%s' or '%s'", words, a.path, b.path))
}

// doubtful is a formula.ErrDoubt in words.
type doubtful string

func (d doubtful) Error() string        { return string(d) }
func (d doubtful) Is(target error) bool { return target == formula.ErrDoubt }

// candidates are all fields that a formula can name. A definition does not know the fields
// that a view makes for itself.
func (k *checker) candidates() []candidate {
	making := len(k.deriving) > 0 && k.deriving[len(k.deriving)-1].defined
	if have := k.named[making]; have != nil {
		return have
	}
	var out []candidate
	add := func(label, path string, far int) {
		out = append(out, candidate{label: label, path: path, far: far, find: func() (formula.Found, error) {
			return k.derived(path).found()
		}})
	}
	if !making {
		for _, one := range k.doc.Makes() {
			add(one.Label(), one.Key(), 0)
		}
	}
	for _, one := range k.definitions[k.set] {
		key := one.Key()
		if making || k.madeAt(key) == "" { // else the view has a field of that key in its place
			out = append(out, candidate{label: one.Label(), path: key, find: func() (formula.Found, error) {
				return k.ownDefinition(key)
			}})
		}
	}
	for _, r := range k.reach() {
		out = append(out, candidate{
			label: r.Label, path: r.Path, far: len(r.Links), former: r.Former,
			find: func() (formula.Found, error) { return formula.Found{Ref: r.Ref}, nil },
		})
	}
	for _, stop := range k.stops() {
		for _, one := range k.definitions[stop.Set] {
			field := catalog.Field{Key: one.Key(), Label: one.Label()}
			if ref, err := k.catalog.Through(k.set, stop.Links, field); err == nil && len(stop.Links) > 0 {
				add(ref.Label, ref.Path, len(stop.Links))
			}
		}
	}
	if k.named == nil {
		k.named = map[bool][]candidate{}
	}
	k.named[making] = out
	return out
}

// ownDefinition is a definition of the set at hand, also where the view takes its key for a
// field of its own: then nothing can be made of it there.
func (k *checker) ownDefinition(key string) (formula.Found, error) {
	if at := k.madeAt(key); at != "" {
		return formula.Found{}, fmt.Errorf("the view has a field of its own with the key %q (%s); "+
			"give it another key to use the definition %s", key, at, k.definitions.Label(k.set, key))
	}
	return k.derived(key).found()
}

// madeAt is the place in the document of what the view itself makes under a key, or empty.
func (k *checker) madeAt(key string) string {
	for _, one := range k.doc.Makes() {
		if one.Key() == key {
			return one.At
		}
	}
	return ""
}
