// Package catalog describes what can be asked for: record sets, their fields
// and the links between them. It holds no records.
package catalog

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"
)

// Field is one value of every record of a set.
type Field struct {
	Key     string `json:"key"`
	Label   string `json:"label"`
	Meaning string `json:"meaning,omitempty"`
	Type    Type   `json:"type"`
	// Scale is the number of decimals kept exactly. For a duration it is 0 if all
	// values are whole minutes and 1 if seconds matter.
	Scale int `json:"scale,omitempty"`
	// Approx marks a binary floating-point field, whose values are not exact.
	Approx bool `json:"approx,omitempty"`
	// Currency is an ISO 4217 code, or empty if the amounts name none.
	Currency string `json:"currency,omitempty"`
	// CurrencyBy is the key of the field beside it that names each amount's currency; of
	// what is calculated, the path of that field.
	CurrencyBy string `json:"currencyBy,omitempty"`
	// Lost says how many values could not be kept as they are and why, or is empty.
	Lost string `json:"lost,omitempty"`
	// Unique marks a field that no two records share.
	Unique bool `json:"unique,omitempty"`
	// Format is how a column of it is written, if not as usual.
	Format *Format `json:"format,omitempty"`
	// Hidden fields are not offered; what uses them goes on.
	Hidden bool `json:"hidden,omitempty"`
	// Former are labels that it had before it got its own: formulas that name it so go on.
	Former []string `json:"former,omitempty"`
	// Last, if set, says whether it comes last where fields are looked for; see Technical.
	Last *bool `json:"last,omitempty"`
}

// Technical tells keys that only the database needs from what people know a record by, unless
// people have said so themselves.
func (f Field) Technical() bool {
	if f.Last != nil {
		return *f.Last
	}
	key := strings.ToLower(f.Key)
	named := key == "id" || key == "uuid" || strings.HasSuffix(key, "_id") || strings.HasSuffix(key, "_uuid")
	return named || f.Unique && f.Type == Whole
}

// Link leads from each record of a set to at most one record of another.
type Link struct {
	Key     string `json:"key"`
	Label   string `json:"label"`
	Meaning string `json:"meaning,omitempty"`
	To      string `json:"to"`
	// By are the fields that a link goes by which people have added: it is kept from whoever may
	// not see one of them.
	By []string `json:"-"`
	// Former are labels that it had before.
	Former []string `json:"-"`
	// Back is what the records that link are called from there, in the plural; empty if
	// they are called as ever.
	Back string `json:"back,omitempty" doc:"What the records that link are called from there"`
	// Hidden links are not offered; what goes through them goes on.
	Hidden bool `json:"hidden,omitempty" doc:"Not offered where fields are looked for"`
	// Added says that people made it, and no key of the database.
	Added bool `json:"added,omitempty" doc:"People made it, and no key of the database"`
}

// RecordSet is a kind of record; one row of a view is one record of a set.
type RecordSet struct {
	Key   string `json:"key"`
	Label string `json:"label"` // in the plural: "Booking lines"
	// File says that somebody brought it in as a file.
	File bool `json:"file,omitempty"`
	// Stays says that its records are not in memory, and are asked for where they are.
	Stays bool   `json:"stays,omitempty"`
	One   string `json:"one"`  // in running text: "booking line"
	Many  string `json:"many"` // in running text: "booking lines"
	// Grain says what one row is, in a sentence.
	Grain  string  `json:"grain"`
	Fields []Field `json:"fields"`
	Links  []Link  `json:"links"`
	// Name is the key of the field that tells one record from another on screen.
	Name string `json:"name"`
	// FormerNames are keys of fields that were Name before.
	FormerNames []string `json:"-"`
	// Standard lists the paths of the columns a new view starts with.
	Standard []string `json:"standard"`
	// Hidden record sets are not offered; views of them go on.
	Hidden bool `json:"-"`
	// Source is the database that it comes from; empty for the first.
	Source string `json:"-"`
	// Restricted are the fields and links that the reader may not see.
	Restricted Restricted `json:"-"`
}

// Noun is the word for n records: "claim" for 1, "claims" for others.
func (r *RecordSet) Noun(n int) string {
	if n == 1 {
		return r.One
	}
	return r.Many
}

// Field finds a field by key, or returns nil.
func (r *RecordSet) Field(key string) *Field {
	if r == nil {
		return nil
	}
	for i := range r.Fields {
		if r.Fields[i].Key == key {
			return &r.Fields[i]
		}
	}
	return nil
}

// Address is the key of the field that a record is opened by: its name if no other record
// has it, or the likeliest of those that tell records apart; empty if there is none.
func (r *RecordSet) Address() string {
	if f := r.Field(r.Name); f != nil && f.Unique {
		return f.Key
	}
	other := ""
	for _, f := range r.Fields {
		switch {
		case f.Unique && f.Type == Text:
			return f.Key
		case f.Unique && other == "":
			other = f.Key
		}
	}
	return other
}

// Link finds a link by key, or returns nil.
func (r *RecordSet) Link(key string) *Link {
	for i := range r.Links {
		if r.Links[i].Key == key {
			return &r.Links[i]
		}
	}
	return nil
}

// Catalog is every record set of a workspace.
type Catalog struct {
	Sets []*RecordSet `json:"sets"`
	// Notices say what was found in the database but could not be offered, and
	// how to mend it.
	Notices []string `json:"notices,omitempty"`
	// Sources are the databases that the records come from.
	Sources []Source `json:"-"`
	// Restricted are the record sets that the reader may not see.
	Restricted []*RecordSet `json:"-"`
}

// Source is one of the databases that records come from.
type Source struct {
	// Name is empty for the first.
	Name string
	// AsOf is the moment of its records.
	AsOf time.Time
}

// Set finds a record set by key, or returns nil.
func (c *Catalog) Set(key string) *RecordSet {
	for _, s := range c.Sets {
		if s.Key == key {
			return s
		}
	}
	return nil
}

// Stem is a date's label without its closing "at" or "on"; verbal says that it had
// one, so that "Opened" can stand before "in the last month" as a verb.
func (r Ref) Stem() (label string, verbal bool) {
	if !r.Field.Type.Temporal() {
		return r.Label, false
	}
	for _, suffix := range []string{" at", " on"} {
		if rest, ok := strings.CutSuffix(r.Label, suffix); ok {
			return rest, true
		}
	}
	return r.Label, false
}

// MaxLinks is how many links a path may follow.
const MaxLinks = 5

// Ref is a field found through a path of links.
type Ref struct {
	// Path is the keys joined by dots: "booking.sailing.route.name".
	Path string
	// Links are the keys of the links to follow, in order; empty for a field of
	// the record itself.
	Links []string
	// Set is the record set that holds the field.
	Set string
	// Via names the last record on the way in running text: "route".
	Via string
	// Label says the field with as much of its path as a reader needs.
	Label string
	Field Field
}

// CurrencyPath is the path of the field that names the currency of each value, or empty.
func (r Ref) CurrencyPath() string {
	if r.Field.CurrencyBy == "" || len(r.Links) == 0 {
		return r.Field.CurrencyBy
	}
	return strings.Join(r.Links, ".") + "." + r.Field.CurrencyBy
}

// PathFault is why a path leads nowhere.
type PathFault int

// The reasons.
const (
	NoSet PathFault = iota
	NoLink
	NoField
	IsLink // the path ends with a link
	TooFar // more than MaxLinks
)

// PathError says why a path leads nowhere, in words for its author.
type PathError struct {
	Fault   PathFault
	Message string
}

func (e *PathError) Error() string { return e.Message }

func wrongPath(fault PathFault, format string, args ...any) error {
	return &PathError{fault, fmt.Sprintf(format, args...)}
}

// Resolve follows a path from a record set.
func (c *Catalog) Resolve(set, path string) (Ref, error) {
	at := c.Set(set)
	if at == nil {
		return Ref{}, c.unknownSet(set)
	}
	if name, ok := strings.CutSuffix(path, "."+Each); ok {
		return c.each(set, name)
	}
	keys := strings.Split(path, ".")
	if len(keys)-1 > MaxLinks {
		return Ref{}, wrongPath(TooFar,
			"the path %q follows more than %d links; choose a nearer field", path, MaxLinks)
	}
	ref := Ref{Path: path, Links: keys[:len(keys)-1]}
	var last *Link
	for _, key := range ref.Links {
		link := at.Link(key)
		if link == nil {
			if held := at.restrictedLink(key); held != nil {
				return Ref{}, held
			}
			return Ref{}, wrongPath(NoLink,
				"%s have no link %q in the path %q%s", at.Label, key, path, Suggest(key, linkKeys(at)))
		}
		last, at = link, c.Set(link.To)
	}
	key := keys[len(keys)-1]
	f := at.Field(key)
	if f == nil {
		if held := at.restrictedField(key); held != nil {
			return Ref{}, held
		}
		if link := at.Link(key); link != nil {
			to := c.Set(link.To)
			return Ref{}, wrongPath(IsLink, "%q is a link to %s, not a field; choose one of its fields, such as %s.%s",
				path, to.Many, path, cmp.Or(to.Name, "…"))
		}
		return Ref{}, wrongPath(NoField,
			"%s have no field %q%s", at.Label, key, Suggest(key, append(fieldKeys(at), linkKeys(at)...)))
	}
	ref.Set, ref.Field, ref.Label = at.Key, *f, f.Label
	if last != nil {
		ref.Via = strings.ToLower(last.Label)
		ref.Label = linkedLabel(last, at, f)
	}
	return ref, nil
}

// Through is the Ref of a field that is none of the catalog's, in the record set that
// links lead to. Its path ends with the field's key.
func (c *Catalog) Through(set string, links []string, f Field) (Ref, error) {
	to, err := c.Follow(set, links)
	if err != nil {
		return Ref{}, err
	}
	ref := Ref{
		Path: strings.Join(append(append([]string(nil), links...), f.Key), "."), Links: links, Set: to,
		Label: f.Label, Field: f,
	}
	if len(links) > 0 {
		from, _ := c.Follow(set, links[:len(links)-1]) // it was followed above
		last := c.Set(from).Link(links[len(links)-1])
		ref.Via, ref.Label = strings.ToLower(last.Label), linkedLabel(last, c.Set(to), &f)
	}
	return ref, nil
}

// formerLabels are what a field was called before, seen through a link or, with a nil one, itself.
func formerLabels(l *Link, to *RecordSet, f *Field) (out []string) {
	if l == nil {
		return f.Former
	}
	if len(l.Former)+len(f.Former)+len(to.FormerNames) == 0 {
		return nil
	}
	now := linkedLabel(l, to, f)
	add := func(label string) {
		if label != now && !slices.Contains(out, label) {
			out = append(out, label)
		}
	}
	for _, link := range append([]string{l.Label}, l.Former...) {
		if f.Key == to.Name || slices.Contains(to.FormerNames, f.Key) {
			add(link)
		}
		for _, label := range append([]string{f.Label}, f.Former...) {
			add(link + " " + LowerFirst(label))
		}
	}
	return out
}

// linkedLabel is "Route" for the name of a linked route and "Route distance"
// for another field of it.
func linkedLabel(l *Link, to *RecordSet, f *Field) string {
	if f.Key == to.Name {
		return l.Label
	}
	if strings.HasPrefix(strings.ToLower(f.Label), strings.ToLower(l.Label)) {
		return f.Label
	}
	return l.Label + " " + LowerFirst(f.Label)
}

// LowerFirst lowers a label's first letter for running text, unless the label
// starts with an abbreviation such as "ID".
func LowerFirst(s string) string {
	first, n := utf8.DecodeRuneInString(s)
	second, _ := utf8.DecodeRuneInString(s[n:])
	if s == "" || first == utf8.RuneError || unicode.IsUpper(second) {
		return s
	}
	return strings.ToLower(s[:n]) + s[n:]
}

// Article puts the indefinite article before a noun: "a vessel", "an inspection".
func Article(noun string) string {
	if noun != "" && strings.ContainsRune("aeiou", unicode.ToLower(rune(noun[0]))) {
		return "an " + noun
	}
	return "a " + noun
}

// Plural is a noun's plural by the plain rules of English.
func Plural(noun string) string {
	switch {
	case strings.HasSuffix(noun, "s"), strings.HasSuffix(noun, "x"), strings.HasSuffix(noun, "ch"),
		strings.HasSuffix(noun, "sh"):
		return noun + "es"
	case strings.HasSuffix(noun, "y") && !strings.HasSuffix(noun, "ay") && !strings.HasSuffix(noun, "ey") &&
		!strings.HasSuffix(noun, "oy"):
		return noun[:len(noun)-1] + "ies"
	}
	return noun + "s"
}

// UpperFirst raises a text's first letter, at the beginning of a sentence or a label.
func UpperFirst(s string) string {
	_, n := utf8.DecodeRuneInString(s)
	return strings.ToUpper(s[:n]) + s[n:]
}

func (c *Catalog) unknownSet(key string) error {
	for _, s := range c.Restricted {
		if s.Key == key {
			return &RestrictedError{s.Label}
		}
	}
	keys := make([]string, len(c.Sets))
	for i, s := range c.Sets {
		keys[i] = s.Key
	}
	return wrongPath(NoSet, "there is no record set %q%s", key, Suggest(key, keys))
}

func fieldKeys(r *RecordSet) []string {
	keys := make([]string, len(r.Fields))
	for i, f := range r.Fields {
		keys[i] = f.Key
	}
	return keys
}

func linkKeys(r *RecordSet) []string {
	keys := make([]string, len(r.Links))
	for i, l := range r.Links {
		keys[i] = l.Key
	}
	return keys
}

// Follow returns the key of the record set that a chain of links leads to.
func (c *Catalog) Follow(set string, links []string) (string, error) {
	if len(links) > MaxLinks {
		return "", wrongPath(TooFar,
			"the path %q follows more than %d links; choose a nearer one", strings.Join(links, "."), MaxLinks)
	}
	at := c.Set(set)
	if at == nil {
		return "", c.unknownSet(set)
	}
	for _, key := range links {
		link := at.Link(key)
		if link == nil {
			if held := at.restrictedLink(key); held != nil {
				return "", held
			}
			return "", wrongPath(NoLink, "%s have no link %q%s", at.Label, key, Suggest(key, linkKeys(at)))
		}
		at = c.Set(link.To)
	}
	return at.Key, nil
}

// KeyOf makes a key of words: small letters and digits, with lines between them; empty if there are
// none.
func KeyOf(words string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(words), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r)
	}), "_")
}
