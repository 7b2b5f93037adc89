package reading

import (
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
)

// fewest is how many different texts must be there before they are taken to be another type.
const fewest = 3

// Likely is a type that all of some different texts could be read as, in one way; empty if there
// is none. Digits that begin with a zero are names, not numbers.
func Likely(texts []string, cal calendar.Calendar) catalog.Type {
	if len(texts) < fewest {
		return ""
	}
	in := In(cal)
	for _, to := range []catalog.Type{catalog.Whole, catalog.Decimal, catalog.Date, catalog.DateTime} {
		for _, w := range Ways(catalog.Text, to) {
			if all(texts, func(s string) bool {
				v, err := w.text(s, in)
				named := to.Numeric() && strings.HasPrefix(s, "0") && v.Scale == 0 && v.Value != 0
				return err == nil && !named
			}) {
				return to
			}
		}
	}
	return ""
}

func all(texts []string, is func(string) bool) bool {
	for _, s := range texts {
		if !is(s) {
			return false
		}
	}
	return true
}
