// Package facts holds what people know of records and the application does not: fields that they
// add to a record set and fill in record by record.
//
// Values are kept as plain texts, by what the record is known by; see Fact.Read. Laid over the
// records of a load they are a field like any other.
package facts

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/reading"
)

// Fact is a field that people fill in.
type Fact struct {
	Key     string       `json:"key,omitempty" maxLength:"60" doc:"Made of the label, if left out"`
	Label   string       `json:"label" minLength:"1" maxLength:"80"`
	Meaning string       `json:"meaning,omitempty" maxLength:"400"`
	Type    catalog.Type `json:"type" enum:"text,decimal,money,date,yesno"`
	// Decimals is how many digits numbers and money have behind the point.
	Decimals int    `json:"decimals,omitempty" minimum:"0" maximum:"6"`
	Currency string `json:"currency,omitempty" maxLength:"3" doc:"ISO 4217 code, of money"`
	// Choices are the only texts that can be filled in, if there are any.
	Choices []string `json:"choices,omitempty" maxItems:"200" doc:"The only values that there can be, of text"`
	// By is the key of the field that tells the records apart whose values are kept.
	By string `json:"by,omitempty" maxLength:"200" doc:"Key of the field that records are known by here"`
	// Fill says who may fill it in.
	Fill Fillers `json:"fill"`
}

// Fillers are those who may fill a fact in.
type Fillers struct {
	Role   string  `json:"role" enum:"reader,analyst,administrator" doc:"Everybody of this role or a higher one"`
	Groups []int64 `json:"groups,omitempty" maxItems:"100" doc:"And the members of these groups"`
}

// Lengths of texts.
const (
	maxText   = 1000
	maxChoice = 120
)

// Check says what is wrong with a fact, or nothing: the place in it, and words.
func (f *Fact) Check() (place, words string) {
	seen := map[string]bool{}
	for i, c := range f.Choices {
		at := fmt.Sprintf("choices[%d]", i)
		switch folded := strings.ToLower(c); {
		case strings.TrimSpace(c) == "" || len(c) > maxChoice:
			return at, "A choice has a word or a few, up to 120 letters."
		case seen[folded]:
			return at, fmt.Sprintf("“%s” is there twice; take one of them out.", c)
		default:
			seen[folded] = true
		}
	}
	switch {
	case strings.TrimSpace(f.Label) == "":
		return "label", "Say what the fact is called."
	case len(f.Choices) > 0 && f.Type != catalog.Text:
		return "choices", "Only a text is one of a list."
	case f.Currency != "" && f.Type != catalog.Money:
		return "currency", "Only money has a currency."
	case f.Currency != "" && !catalog.CurrencyCode(f.Currency):
		return "currency", fmt.Sprintf("%q is no currency code; write three capitals, as EUR.", f.Currency)
	case f.Decimals != 0 && f.Type != catalog.Decimal && f.Type != catalog.Money:
		return "decimals", "Only numbers and money have decimals."
	case f.Decimals < 0 || f.Decimals > 6:
		return "decimals", "A number has up to six decimals."
	case !slices.Contains([]catalog.Type{catalog.Text, catalog.Decimal, catalog.Money, catalog.Date, catalog.YesNo}, f.Type):
		return "type", "A fact is text, a number, money, a date, or yes or no."
	}
	return "", ""
}

// Field is the field that the fact is among the others of its record set.
func (f *Fact) Field() catalog.Field {
	out := catalog.Field{Key: f.Key, Label: f.Label, Meaning: f.Meaning, Type: f.Type, Currency: f.Currency}
	if f.Type == catalog.Decimal || f.Type == catalog.Money {
		if out.Scale = f.Decimals; f.Decimals == 0 && f.Type == catalog.Decimal {
			out.Type = catalog.Whole
		}
	}
	return out
}

// Read makes the text that is kept of one that was typed or pasted: dates as 2026-11-23, numbers
// as 1234.50, yes and no, choices as they are written in the list. An empty text is no value. The
// error says what is wrong with it.
func (f *Fact) Read(typed string, cal calendar.Calendar) (string, error) {
	s := strings.TrimSpace(typed)
	if s == "" {
		return "", nil
	}
	switch f.Type {
	case catalog.Text:
		return f.readText(s)
	case catalog.Date:
		v, err := meant(s, catalog.Date, cal, "2026-11-23")
		if err != nil {
			return "", err
		}
		y, m, d := calendar.Date(v.Value)
		return fmt.Sprintf("%04d-%02d-%02d", y, int(m), d), nil
	case catalog.YesNo:
		v, err := meant(s, catalog.YesNo, cal, "yes or no")
		if err != nil {
			return "", fmt.Errorf("“%s” is neither yes nor no", s)
		}
		return [2]string{"no", "yes"}[v.Value], nil
	}
	v, err := meant(s, catalog.Decimal, cal, "1234.5")
	if err != nil {
		return "", err
	}
	scaled, ok := v.At(f.Decimals)
	if !ok {
		return "", fmt.Errorf("“%s” has more than %d decimals, or too many digits", s, f.Decimals)
	}
	return plain(scaled), nil
}

func (f *Fact) readText(s string) (string, error) {
	if len(f.Choices) == 0 {
		if len(s) > maxText {
			return "", fmt.Errorf("the text is longer than %d letters", maxText)
		}
		return s, nil
	}
	for _, c := range f.Choices {
		if strings.EqualFold(c, s) {
			return c, nil
		}
	}
	return "", fmt.Errorf("“%s” is none of the choices: %s", s, strings.Join(f.Choices, ", "))
}

// meant reads a text in the one way that fits it; what fits several with different outcomes is
// asked about and not guessed.
func meant(s string, to catalog.Type, cal calendar.Calendar, example string) (reading.Exact, error) {
	outcomes := reading.Outcomes(s, to, cal)
	if to == catalog.Date && len(outcomes) > 1 {
		return reading.Exact{}, fmt.Errorf("“%s” may be two days; write it as %s", s, example)
	}
	switch len(outcomes) {
	case 0:
		return reading.Exact{}, fmt.Errorf("“%s” is not %s; write it as %s", s, to.Word(), example)
	case 1:
		return outcomes[0], nil
	}
	return reading.Exact{}, fmt.Errorf("“%s” may be two numbers; write it as %s", s, example)
}

// plain writes an exact number without marks between thousands.
func plain(e reading.Exact) string {
	if e.Scale == 0 {
		return strconv.FormatInt(e.Value, 10)
	}
	digits := fmt.Sprintf("%0*d", e.Scale+1, max(e.Value, -e.Value))
	sign := ""
	if e.Value < 0 {
		sign = "-"
	}
	return sign + digits[:len(digits)-e.Scale] + "." + digits[len(digits)-e.Scale:]
}

var errKey = errors.New("no key can be made of the label; use a letter or a digit")

// MakeKey makes the key of a new fact from its label, one that no other field or link has.
func (f *Fact) MakeKey(taken func(key string) bool) error {
	stem := catalog.KeyOf(cmp.Or(f.Key, f.Label))
	if stem == "" {
		return errKey
	}
	f.Key = stem
	for n := 2; taken(f.Key); n++ {
		f.Key = fmt.Sprintf("%s_%d", stem, n)
	}
	return nil
}
