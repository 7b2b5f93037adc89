package catalog

import "strings"

// Each stands behind the path of a text and makes it tell records apart: "customer.name.each" is each
// customer, by name, and where several have that name by their address as well, so that two of
// one name stay two.
const Each = "each"

// Apart says whether a field of the set can tell its records apart so.
func (r *RecordSet) Apart(field string) bool {
	f := r.Field(field)
	return f != nil && f.Type == Text && !f.Unique && r.Address() != "" && r.Address() != field
}

// Named is the key of the text whose records a key of Each tells apart; ok is false for any
// other key.
func Named(key string) (field string, ok bool) { return strings.CutSuffix(key, "."+Each) }

// each resolves the path of a text that is to tell records apart.
func (c *Catalog) each(set, path string) (Ref, error) {
	ref, err := c.Resolve(set, path)
	if err != nil {
		return ref, err
	}
	of := c.Set(ref.Set)
	if !of.Apart(ref.Field.Key) {
		return Ref{}, wrongPath(NoField,
			"%s already tells %s apart, or nothing else does; take .%s away from the path", ref.Label, of.Many, Each)
	}
	one := of.One
	if ref.Via != "" {
		one = ref.Via
	}
	label := "Each " + one + " by " + LowerFirst(ref.Field.Label)
	ref.Path, ref.Label = path+"."+Each, label
	ref.Field = Field{
		Key: ref.Field.Key + "." + Each, Label: label, Type: Text,
		Meaning: "Every " + of.One + " by itself: its " + LowerFirst(ref.Field.Label) + ", with its " +
			LowerFirst(of.Field(of.Address()).Label) + " where several have that.",
	}
	return ref, nil
}
