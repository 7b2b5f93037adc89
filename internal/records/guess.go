package records

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// kind is a type that a file's field can have.
type kind struct {
	name string // as --type takes it
	sql  string
	// parse turns a field's text into what COPY takes; the text is never empty.
	parse func(s string) (any, error)
}

var (
	wholePattern = regexp.MustCompile(`^[-+]?(0|[1-9]\d{0,17})$`)
	// As written where a comma parts the decimals and a point the thousands.
	commaPattern   = regexp.MustCompile(`^[-+]?(0|[1-9]\d{0,11}|[1-9]\d{0,2}(\.\d{3}){1,3})(,\d{1,6})?$`)
	decimalPattern = regexp.MustCompile(`^[-+]?(0|[1-9]\d{0,11}|[1-9]\d{0,2}(,\d{3}){1,3})(\.\d{1,6})?$`)
)

var textKind = kind{"text", "text", func(s string) (any, error) { return s, nil }}

// kinds are tried in this order; the first that fits all samples is the guess.
var kinds = []kind{
	{"yesno", "boolean", parseYesNo},
	{"whole", "bigint", func(s string) (any, error) {
		if !wholePattern.MatchString(s) {
			return nil, fmt.Errorf("%q is not a whole number", s)
		}
		return strconv.ParseInt(s, 10, 64)
	}},
	// Without a bound, so that no decimal is rounded away.
	{"decimal", "numeric", parseDecimal},
	{commaKind, "numeric", parseComma},
	dateKind("date", "2006-01-02"),
	dateKind("date (day.month.year)", "2.1.2006"),
	dateKind("date (day/month/year)", "2/1/2006"),
	dateKind("date (month/day/year)", "1/2/2006"),
	dateKind("date (2 Jan 2006)", "2 Jan 2006"),
	{"datetime", "timestamp", parseMoment},
	{"datetime with zone", "timestamptz", func(s string) (any, error) {
		t, err := time.Parse(time.RFC3339, s)
		if err != nil {
			return nil, fmt.Errorf("%q is not a date and time written like 2026-11-23T14:30:00Z", s)
		}
		return t, nil
	}},
	textKind,
}

func dateKind(name, layout string) kind {
	return kind{name, "date", func(s string) (any, error) {
		t, err := time.Parse(layout, s)
		if err != nil {
			return nil, fmt.Errorf(
				"%q is not a date written like %s", s, time.Date(2026, 11, 23, 0, 0, 0, 0, time.UTC).Format(layout),
			)
		}
		return t, nil
	}}
}

func parseYesNo(s string) (any, error) {
	switch strings.ToLower(s) {
	case "yes", "true", "y", "t":
		return true, nil
	case "no", "false", "n", "f":
		return false, nil
	}
	return nil, fmt.Errorf("%q is neither yes nor no", s)
}

func parseDecimal(s string) (any, error) {
	if !decimalPattern.MatchString(s) {
		return nil, fmt.Errorf("%q is not a number", s)
	}
	return strings.TrimPrefix(strings.ReplaceAll(s, ",", ""), "+"), nil
}

// commaKind is a decimal as it is written on much of the continent: 1.234,56.
const commaKind = "decimal (1.234,56)"

func parseComma(s string) (any, error) {
	if !commaPattern.MatchString(s) {
		return nil, fmt.Errorf("%q is not a number written like 1.234,56", s)
	}
	return strings.TrimPrefix(strings.ReplaceAll(strings.ReplaceAll(s, ".", ""), ",", "."), "+"), nil
}

func parseMoment(s string) (any, error) {
	for _, layout := range []string{"2006-01-02T15:04", "2006-01-02 15:04"} {
		for _, seconds := range []string{"", ":05", ":05.999999"} {
			if t, err := time.Parse(layout+seconds, s); err == nil {
				return t, nil
			}
		}
	}
	return nil, fmt.Errorf("%q is not a date and time written like 2026-11-23 14:30", s)
}

// kindNamed finds a kind by the name that --type takes.
func kindNamed(name string) (kind, error) {
	var known []string
	for _, k := range kinds {
		if k.name == name {
			return k, nil
		}
		known = append(known, k.name)
	}
	return kind{}, fmt.Errorf("there is no type %q; use one of %s", name, strings.Join(known, ", "))
}

// tolerated is the share of samples that may not fit a type that is guessed all
// the same: a stray word in a column of numbers is kept aside, not obeyed.
const tolerated = 0.02

// guess chooses the type of a field from samples, blanks left out.
func guess(samples []string) (k kind, note string) {
	if len(samples) == 0 {
		return textKind, ", no values"
	}
	best, fits, fewest := textKind, 0, 0
	var ambiguous []string
	for _, k := range kinds {
		misses := 0
		for _, s := range samples {
			if _, err := k.parse(s); err != nil {
				misses++
			}
		}
		if float64(misses) > tolerated*float64(len(samples)) || misses == len(samples) {
			continue
		}
		// What may be read in several ways is asked about, never taken: a day and a month, a
		// point before three digits. One value that can be read in one way only decides.
		if k.sql == "date" || k.sql == "numeric" && (fits == 0 || best.sql == "numeric") {
			switch {
			case len(ambiguous) == 0 || misses < fewest:
				ambiguous, fewest = []string{k.name}, misses
				if fits > 0 {
					best = k
				}
			case misses == fewest:
				ambiguous = append(ambiguous, k.name)
			}
		}
		if fits == 0 {
			best = k
		}
		fits++
	}
	if len(ambiguous) > 1 {
		return textKind, fmt.Sprintf(
			", because it could be any of: %s; say which with --type", strings.Join(ambiguous, ", "),
		)
	}
	return best, ""
}
