package records

import (
	"cmp"
	"fmt"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
	"gavrik/internal/records/incoming"
)

// columnReading says how a column is fetched and kept.
type columnReading struct {
	column sourceColumn
	// expr is what the SELECT asks for.
	expr  string
	build func() builder
	field *catalog.Field // nil: fetched for a key or a link only
}

// builder makes a builder for about so many rows. Texts that the database knows to
// differ need not be compared with each other.
func (r columnReading) builder(rows int, unique bool) builder {
	b := r.build()
	b.reserve(rows)
	if t, ok := b.(*texts); ok && unique &&
		(r.column.Type == "text" || r.column.Type == "varchar" || r.column.Type == "uuid") {
		t.dict = table.NewUniqueBuilder(rows)
	}
	return b
}

// Settings of a workspace that reading depends on.
type Settings struct {
	// Zone is the IANA name of the zone in which times without one are meant.
	Zone string
	// Progress, if set, is told how far a load is.
	Progress *Progress
	// Most is how many bytes of records may be read, about as many as they take in memory; 0 means no bound.
	Most int64
	// EagerViews reads views again whenever their tables have changed, however long it takes.
	EagerViews bool
	// Keys are the keys that tables' record sets had before; they keep them.
	Keys map[TableName]string
	// Away are the keys of record sets whose records stay in their databases.
	Away []string
	// StayBeyond lets tables stay in their databases that would otherwise take more than Most.
	StayBeyond bool
}

// read decides how a column is fetched from its type.
func read(c sourceColumn, set Settings, scale func(column string) int) columnReading {
	name := quote(c.Name)
	meaning, hinted, currency := readComment(c.Comment)
	f := &catalog.Field{Key: c.Name, Label: catalog.LabelOf(c.Name), Meaning: meaning, Type: catalog.Text}
	r := columnReading{column: c, expr: name, field: f}
	switch c.Type {
	case "int2", "int4", "int8":
		f.Type, r.expr, r.build = catalog.Whole, name+"::int8", newInts
	case "numeric", "money":
		f.Type, f.Scale = catalog.Decimal, scale(c.Name)
		if c.Type == "money" {
			f.Type, f.Scale, r.expr = catalog.Money, 2, name+"::numeric"
		}
		r.build = func() builder { return newDecimals(f.Scale) }
	case "float4", "float8":
		f.Type, f.Approx, r.expr, r.build = catalog.Decimal, true, name+"::float8", newFloats
		if c.Type == "float4" {
			// By way of text, 9.1 stays 9.1 and does not become 9.10000038.
			r.expr = name + "::text::float8"
		}
	case "bool":
		f.Type, r.build = catalog.YesNo, newBools
	case "date":
		f.Type, r.build = catalog.Date, newDates
	case "timestamptz":
		f.Type, r.build = catalog.DateTime, newMoments
	case "timestamp":
		f.Type, r.build = catalog.DateTime, newMoments
		r.expr = fmt.Sprintf("(%s AT TIME ZONE %s)", name, Literal(set.Zone))
	case "interval":
		f.Type, r.build = catalog.Duration, newDurations
	case "bytea":
		f.Type, r.build = catalog.Picture, newPictures
		r.expr = fmt.Sprintf("CASE WHEN octet_length(%s) <= %d THEN %s END", name, maxPicture, name)
	case "bpchar":
		r.expr, r.build = "rtrim("+name+"::text)", newTexts
	default:
		r.expr, r.build = name+"::text", newTexts
	}
	if hinted != "" && (f.Type == catalog.Decimal || f.Type == catalog.Whole) {
		f.Type = hinted
		if currency == strings.ToUpper(currency) {
			f.Currency = currency
		} else {
			f.CurrencyBy = currency
		}
	}
	return r
}

// declaredScale is the number of decimals in a numeric's type modifier; ok is
// false for a numeric without bounds.
func declaredScale(mod int32) (int, bool) {
	if mod < 0 {
		return 0, false
	}
	// The scale is in the low 11 bits, in two's complement since PostgreSQL 15.
	scale := int(mod-4) & 0x7ff
	if scale > 1023 {
		scale = 0 // a negative scale: rounded to tens and more
	}
	return scale, true
}

// describe turns the tables into a catalog. readings[i] are those of sources[i].
func describe(
	sources []*source, readings [][]columnReading,
) (c *catalog.Catalog, notices []string) {
	c = &catalog.Catalog{}
	for i, s := range sources {
		many := catalog.LowerFirst(catalog.LabelOf(s.name))
		set := &catalog.RecordSet{
			Key: s.set, Label: catalog.LabelOf(s.name), Many: many, One: Singular(many), Grain: s.comment, Source: s.full.Source,
			File: s.full.Schema == incoming.FilesSchema, Stays: s.away,
		}
		if s.set != s.name { // another schema or database has a table of that name
			of := " (" + catalog.LabelOf(s.apart(sources)) + ")"
			set.Label, set.Many, set.One = set.Label+of, set.Many+of, set.One+of
		}
		if set.Grain == "" {
			set.Grain = "One row per " + set.One + "."
		}
		linked := map[string]bool{}
		for _, l := range s.links {
			if column := l.inPlaceOf(); column != "" {
				linked[column] = true
			}
		}
		for _, r := range readings[i] {
			if !linked[r.column.Name] {
				f := *r.field
				f.Unique = s.unique[f.Key]
				set.Fields = append(set.Fields, f)
			}
		}
		set.Name = nameField(s, set)
		c.Sets = append(c.Sets, set)
	}
	for i, s := range sources {
		set := c.Sets[i]
		for j := range s.links {
			l := &s.links[j]
			to := c.Set(l.to.set)
			stem := cmp.Or(l.inPlaceOf(), Singular(l.to.name))
			key := linkKey(stem)
			if set.Link(key) != nil || set.Field(key) != nil {
				key = stem
			}
			for n := 2; set.Link(key) != nil || set.Field(key) != nil; n++ { // a column may lead to several tables
				key = fmt.Sprintf("%s_%d", stem, n)
			}
			l.key = key
			meaning, _, _ := readComment(s.column(l.inPlaceOf()).Comment)
			set.Links = append(set.Links, catalog.Link{Key: key, Label: catalog.LabelOf(key), Meaning: meaning, To: to.Key})
		}
	}
	for i, s := range sources {
		notices = append(notices, currencies(s, c, c.Sets[i])...)
	}
	for i, s := range sources {
		c.Sets[i].Standard = standard(s, c, c.Sets[i])
	}
	return c, notices
}

// currencies finds the texts that name the currencies of amounts: in a field beside them, or
// in the record that a link leads to.
func currencies(s *source, c *catalog.Catalog, set *catalog.RecordSet) (notices []string) {
	for i := range set.Fields {
		f := &set.Fields[i]
		if f.CurrencyBy == "" {
			continue
		}
		if by := set.Field(f.CurrencyBy); by != nil && by.Type == catalog.Text {
			continue
		}
		named := f.CurrencyBy
		f.CurrencyBy = ""
		for _, l := range s.links {
			if l.inPlaceOf() != named || l.key == "" {
				continue
			}
			if by := c.Set(l.to.set).Field(l.toColumns[0]); by != nil && by.Type == catalog.Text {
				f.CurrencyBy = l.key + "." + by.Key
			}
		}
		if f.CurrencyBy == "" {
			notices = append(notices, fmt.Sprintf("The comment of %s.%s names %q for its currencies, which is no column of texts beside it; "+
				"its amounts are taken to be in one currency.", set.Key, f.Key, named))
		}
	}
	return notices
}

// apart is what tells a table from others of its name: the database, the schema, or both.
func (s *source) apart(sources []*source) string {
	if s.full.Source == "" {
		return s.full.Schema
	}
	for _, other := range sources {
		if other != s && other.name == s.name && other.full.Source == s.full.Source {
			return s.full.Source + " " + s.full.Schema
		}
	}
	return s.full.Source
}

func (s *source) column(name string) sourceColumn {
	for _, c := range s.columns {
		if c.Name == name {
			return c
		}
	}
	return sourceColumn{}
}

func quote(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

// Literal is a text as SQL writes it.
func Literal(s string) string { return "'" + strings.ReplaceAll(s, "'", "''") + "'" }
