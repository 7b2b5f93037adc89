// Package description is what people say about records beside what their database says: labels,
// meanings, types where the database's are too loose, what is hidden, links that no key declares.
//
// A description is plain data. Whatever it does not name is as the database has it; applied to the
// catalog and the records of one load, it gives those that people work with.
package description

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
)

// Version is that of the file format.
const Version = 1

// Description is what is said about all record sets, by key.
type Description struct {
	Gavrik int                  `json:"gavrik"`
	Sets   map[string]*SetWords `json:"sets"`
}

// SetWords is what is said about a record set. Nil and empty fields say nothing.
type SetWords struct {
	Label string `json:"label,omitempty" maxLength:"80" doc:"In the plural, as a heading"`
	One   string `json:"one,omitempty" maxLength:"80" doc:"One of them, in running text"`
	Many  string `json:"many,omitempty" maxLength:"80" doc:"Several, in running text"`
	Grain string `json:"grain,omitempty" maxLength:"400" doc:"What one row is, in a sentence"`
	Name  string `json:"name,omitempty" maxLength:"200" doc:"Key of the field that people know a record by"`
	Key   string `json:"key,omitempty" maxLength:"200" doc:"Key of a field that no two records share, which the database does not know"`
	// Order lists fields that come first; the others follow as the database has them.
	Order  []string `json:"order,omitempty" maxItems:"500" doc:"Keys of the fields that come first, in order"`
	Hidden bool     `json:"hidden,omitempty" doc:"Not offered where record sets are chosen"`
	// Formerly are other names that it had; see FieldWords.
	Formerly []string               `json:"formerly,omitempty" maxItems:"20" doc:"Keys of fields that people knew a record by before; kept by itself"`
	Fields   map[string]*FieldWords `json:"fields,omitempty" doc:"By key"`
	Links    map[string]*LinkWords  `json:"links,omitempty" doc:"By key; one that leads somewhere is added to those of the database"`
}

// FieldWords is what is said about a field.
type FieldWords struct {
	Label string `json:"label,omitempty" maxLength:"80"`
	// Formerly are labels that it had, so that formulas that name it so go on.
	Formerly []string     `json:"formerly,omitempty" maxItems:"20" doc:"Labels that it had before; kept by itself"`
	Meaning  *string      `json:"meaning,omitempty" maxLength:"400"`
	Type     catalog.Type `json:"type,omitempty" enum:"@types" doc:"What the values are, if not what the database says"`
	Read     string       `json:"read,omitempty" maxLength:"40" doc:"How its values are read as that type; see the ways that are offered"`
	// Currency is a code, or the path of the field that names the currency.
	Currency   string          `json:"currency,omitempty" maxLength:"3" doc:"ISO 4217 code"`
	CurrencyBy string          `json:"currencyBy,omitempty" maxLength:"200" doc:"Path of the field that names the currency of each amount"`
	Format     *catalog.Format `json:"format,omitempty"`
	Hidden     *bool           `json:"hidden,omitempty" doc:"Not offered where fields are looked for; views that use it go on"`
	Last       *bool           `json:"last,omitempty" doc:"Comes last where fields are looked for, as keys do"`
	Sensitive  *bool           `json:"sensitive,omitempty" doc:"In files only: kept from whoever may not see sensitive fields"`
}

// LinkWords is what is said about a link, or a link that is added.
type LinkWords struct {
	Label    string   `json:"label,omitempty" maxLength:"80"`
	Formerly []string `json:"formerly,omitempty" maxItems:"20" doc:"Labels that it had before; kept by itself"`
	Meaning  *string  `json:"meaning,omitempty" maxLength:"400"`
	Back     string   `json:"back,omitempty" maxLength:"80" doc:"What the records that link are called from there, in the plural: “Departures”"`
	Hidden   bool     `json:"hidden,omitempty"`
	Leads    *Leads   `json:"leads,omitempty" doc:"Of a link that is added"`
}

// Leads says where an added link leads: to the record of a set whose fields hold the same.
type Leads struct {
	To   string   `json:"to" maxLength:"200" doc:"Key of the record set"`
	By   []string `json:"by" minItems:"1" maxItems:"8" doc:"Keys of the fields here"`
	Into []string `json:"into" minItems:"1" maxItems:"8" doc:"Keys of those there that hold the same; together, no two records share them"`
}

// Parse reads a description from a file.
func Parse(data []byte) (*Description, error) {
	d := &Description{}
	decoder := json.NewDecoder(strings.NewReader(string(data)))
	decoder.DisallowUnknownFields()
	if err := decoder.Decode(d); err != nil {
		return nil, fmt.Errorf("the file is no description of records: %w", err)
	}
	if d.Gavrik != Version {
		return nil, fmt.Errorf("the file is of version %d of descriptions; this program reads version %d", d.Gavrik, Version)
	}
	for key, set := range d.Sets {
		if set == nil {
			return nil, fmt.Errorf("nothing is said about %q; take it out of the file", key)
		}
		for field, f := range set.Fields {
			if f == nil {
				return nil, fmt.Errorf("nothing is said about %q of %q; take it out of the file", field, key)
			}
		}
		for link, l := range set.Links {
			if l == nil {
				return nil, fmt.Errorf("nothing is said about %q of %q; take it out of the file", link, key)
			}
		}
	}
	return d, nil
}

// File writes a description as a file: keys in order, one statement per line.
func (d *Description) File() ([]byte, error) {
	text, err := json.MarshalIndent(d, "", "  ")
	if err != nil {
		return nil, fmt.Errorf("description: %w", err)
	}
	return append(text, '\n'), nil
}

// Said lists what a description of one set says: the path of each statement with its value as
// JSON. Paths are "label", "fields.booked_at.type", "links.vessel.back".
func (s *SetWords) Said() map[string]string {
	out := map[string]string{}
	if s == nil {
		return out
	}
	text, _ := json.Marshal(s) // plain data
	var parts map[string]json.RawMessage
	_ = json.Unmarshal(text, &parts) // what was just written
	for part, value := range parts {
		if part == "formerly" {
			continue
		}
		if part != "fields" && part != "links" {
			out[part] = string(value)
			continue
		}
		var each map[string]map[string]json.RawMessage
		_ = json.Unmarshal(value, &each)
		for key, one := range each {
			for property, value := range one {
				if property == "formerly" {
					continue // nobody says it
				}
				out[part+"."+key+"."+property] = string(value)
			}
		}
	}
	return out
}

// Tidied is a description of one set without what says nothing; nil if nothing is left.
func (s *SetWords) Tidied() *SetWords {
	if s == nil {
		return nil
	}
	out := *s
	out.Fields, out.Links = map[string]*FieldWords{}, map[string]*LinkWords{}
	for key, f := range s.Fields {
		if f != nil && !reflect.DeepEqual(*f, FieldWords{}) {
			out.Fields[key] = f
		}
	}
	for key, l := range s.Links {
		if l != nil && !reflect.DeepEqual(*l, LinkWords{}) {
			out.Links[key] = l
		}
	}
	if len(out.Fields)+len(out.Links)+len(out.Formerly) == 0 && len(out.Said()) == 0 {
		return nil
	}
	return &out
}

// maxFormer is how many earlier labels are kept.
const maxFormer = 20

// Remember notes in a description what was said in its place before: labels that formulas may still
// name fields by. It returns the description, which is nil if nothing is said and nothing was.
func (s *SetWords) Remember(before *SetWords) *SetWords {
	if before == nil {
		return s
	}
	out := &SetWords{}
	if s != nil {
		*out = *s
	}
	out.Fields, out.Links = maps.Clone(out.Fields), maps.Clone(out.Links)
	out.Formerly = former(out.Formerly, before.Formerly, before.Name, out.Name)
	for key, was := range before.Fields {
		now := FieldWords{}
		if f := out.Fields[key]; f != nil {
			now = *f
		}
		now.Formerly = former(now.Formerly, was.Formerly, was.Label, now.Label)
		if len(now.Formerly) > 0 {
			if out.Fields == nil {
				out.Fields = map[string]*FieldWords{}
			}
			out.Fields[key] = &now
		}
	}
	for key, was := range before.Links {
		now := LinkWords{}
		if l := out.Links[key]; l != nil {
			now = *l
		} else if was.Leads != nil {
			continue // it is gone
		}
		now.Formerly = former(now.Formerly, was.Formerly, was.Label, now.Label)
		if len(now.Formerly) > 0 {
			if out.Links == nil {
				out.Links = map[string]*LinkWords{}
			}
			out.Links[key] = &now
		}
	}
	return out.Tidied()
}

// former are earlier words, with the one that is given up now.
func former(said, before []string, was, now string) []string {
	var out []string
	for _, word := range slices.Concat(before, []string{was}, said) {
		if word != "" && word != now && !slices.Contains(out, word) {
			out = append(out, word)
		}
	}
	return out[max(0, len(out)-maxFormer):]
}

// Changed lists the paths that two descriptions of a set say differently, in order.
func Changed(before, after *SetWords) []string {
	a, b := before.Said(), after.Said()
	var out []string
	for path, value := range a {
		if b[path] != value {
			out = append(out, path)
		}
	}
	for path := range b {
		if _, was := a[path]; !was {
			out = append(out, path)
		}
	}
	slices.Sort(out)
	return out
}

// Apart is what is said about a set without the marks of sensitive fields, which are kept
// elsewhere, and those marks by field.
func (s *SetWords) Apart() (words *SetWords, sensitive map[string]bool) {
	sensitive = map[string]bool{}
	if s == nil {
		return nil, sensitive
	}
	copied := *s
	copied.Fields = map[string]*FieldWords{}
	for key, f := range s.Fields {
		if f.Sensitive != nil {
			sensitive[key] = *f.Sensitive
		}
		field := *f
		field.Sensitive = nil
		copied.Fields[key] = &field
	}
	return copied.Tidied(), sensitive
}
