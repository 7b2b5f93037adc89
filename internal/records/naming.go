package records

import (
	"regexp"
	"strings"

	"gavrik/internal/core/catalog"
)

// Singular is a noun's singular by the plain rules of English; an unusual one
// stays as it is, which reads oddly but is not wrong.
func Singular(many string) string {
	switch {
	case strings.HasSuffix(many, "ies") && len(many) > 4:
		return many[:len(many)-3] + "y"
	case strings.HasSuffix(many, "sses"), strings.HasSuffix(many, "xes"), strings.HasSuffix(many, "ches"), strings.HasSuffix(many, "shes"):
		return many[:len(many)-2]
	case strings.HasSuffix(many, "s") && !strings.HasSuffix(many, "ss") && !strings.HasSuffix(many, "us"):
		return many[:len(many)-1]
	}
	return many
}

// linkKey is "booking" for the column "booking_id".
func linkKey(column string) string {
	for _, suffix := range []string{"_id", "_code", "_ref", "_key", "_no", "Id"} {
		if rest, ok := strings.CutSuffix(column, suffix); ok && rest != "" {
			return rest
		}
	}
	return column
}

// hint is a comment's closing bracket that says what kind of number it is:
// "(money)", "(money, EUR)" or "(percent)".
var hint = regexp.MustCompile(`\s*\((money|percent)(?:,\s*([A-Z]{3}|[a-z_][a-z0-9_]*))?\)\.?\s*$`)

// readComment splits a comment into the meaning and what its hint says: the currency
// is a code of three capitals, or the name of the column that holds each row's.
func readComment(comment string) (meaning string, t catalog.Type, currency string) {
	m := hint.FindStringSubmatch(comment)
	if m == nil {
		return comment, "", ""
	}
	return strings.TrimSpace(comment[:len(comment)-len(m[0])]), catalog.Type(m[1]), m[2]
}

// nameColumns are what applications call the column that people know a record by.
var nameColumns = []string{"ref", "reference", "name", "number", "code", "title", "label"}

// nameField chooses the field that tells one record from another on screen.
func nameField(s *source, set *catalog.RecordSet) string {
	for _, unique := range []bool{true, false} {
		for _, name := range nameColumns {
			if f := set.Field(name); f != nil && (s.unique[name] || !unique) {
				return name
			}
		}
	}
	for _, f := range set.Fields {
		if f.Type == catalog.Text && f.Unique {
			return f.Key
		}
	}
	if len(s.key) > 0 && set.Field(s.key[0]) != nil {
		return s.key[0]
	}
	if len(set.Fields) > 0 {
		return set.Fields[0].Key
	}
	return ""
}

// standardColumns is how many columns a new view starts with.
const standardColumns = 8

// standard lists a new view's columns: the name, then the fields and links in
// the order of the table, without machine numbers, pictures and notes.
func standard(s *source, c *catalog.Catalog, set *catalog.RecordSet) []string {
	out := []string{set.Name}
	links := map[string]string{}
	for _, l := range s.links {
		if column := l.inPlaceOf(); column != "" {
			links[column] = l.key
		}
	}
	for _, col := range s.columns {
		path := col.Name
		if key := links[col.Name]; key != "" {
			to := c.Set(set.Link(key).To)
			path = key + "." + to.Name
		} else if f := set.Field(col.Name); f == nil || f.Key == set.Name || f.Type == catalog.Picture ||
			s.isMachineKey(col.Name) || isNote(col.Name) {
			continue
		}
		if len(out) < standardColumns {
			out = append(out, path)
		}
	}
	return out
}

func (s *source) isMachineKey(column string) bool { return len(s.key) == 1 && s.key[0] == column }

func isNote(column string) bool {
	return strings.Contains(column, "note") || strings.Contains(column, "comment") || strings.Contains(
		column, "description",
	)
}
