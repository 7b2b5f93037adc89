package incoming

import (
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/catalog"
	"gavrik/internal/records/files"
)

func wrapped(err error) error {
	if err == nil {
		return nil
	}
	return fmt.Errorf("incoming: %w", err)
}

func quote(name string) string { return pgx.Identifier{name}.Sanitize() }

// quoted lists columns of a table.
func quoted(columns []string, of string) string {
	out := make([]string, len(columns))
	for i, c := range columns {
		if out[i] = quote(c); of != "" {
			out[i] = of + "." + out[i]
		}
	}
	return strings.Join(out, ", ")
}

func Literal(s string) string { return "'" + strings.ReplaceAll(s, "'", "''") + "'" }

func staged(id string) string { return pgx.Identifier{Schema, id}.Sanitize() }

// asideOf is the table of the keys of rows that were kept aside.
func asideOf(id string) string { return pgx.Identifier{Schema, id + "_aside"}.Sanitize() }

// sqlType is how values of a type are kept.
func sqlType(t catalog.Type) string {
	switch t {
	case catalog.Whole:
		return "bigint"
	case catalog.Decimal, catalog.Money, catalog.Percent:
		return "numeric" // without a bound, so that no decimal is rounded away
	case catalog.Date:
		return "date"
	case catalog.DateTime:
		return "timestamptz"
	case catalog.Duration:
		return "interval"
	case catalog.YesNo:
		return "boolean"
	}
	return "text"
}

// hint is the comment that tells amounts and percentages from other numbers.
func hint(f files.RecipeField) string {
	switch {
	case f.Type == catalog.Money && f.Currency != "":
		return "(money, " + f.Currency + ")"
	case f.Type == catalog.Money:
		return "(money)"
	case f.Type == catalog.Percent:
		return "(percent)"
	}
	return ""
}
