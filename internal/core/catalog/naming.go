package catalog

import (
	"regexp"
	"strings"
)

// Labels are made from the names that an application gives its tables and columns.

// LabelOf is "Booked at" for "booked_at" or "bookedAt".
func LabelOf(name string) string {
	words := strings.FieldsFunc(camel.ReplaceAllString(name, "${1}_${2}"), func(r rune) bool {
		return r == '_' || r == '-' || r == ' '
	})
	for i, w := range words {
		if abbreviation := strings.ToUpper(w); abbreviations[abbreviation] {
			words[i] = abbreviation
		} else {
			words[i] = strings.ToLower(w)
		}
	}
	s := strings.Join(words, " ")
	if s == "" {
		return name
	}
	return UpperFirst(s)
}

var (
	camel         = regexp.MustCompile(`([\p{Ll}0-9])(\p{Lu})`)
	abbreviations = map[string]bool{"ID": true, "VAT": true, "IBAN": true, "URL": true, "PDF": true, "IP": true}
)
