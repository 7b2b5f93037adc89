package reading

import (
	"slices"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
)

// As is a type that texts are read as, and the way.
type As struct {
	Type catalog.Type `json:"type" enum:"@types"`
	Way  string       `json:"way,omitempty" doc:"How values are written; empty for texts"`
}

// Guess is what some texts look like.
type Guess struct {
	As
	// Misfits counts those that cannot be read so: a stray word among numbers.
	Misfits int
	// Open are ways that fit as well and mean other values: a day and a month, a point before three
	// digits. Until somebody has chosen, they are texts.
	Open []As
}

// tolerated is the share of texts that may not fit a type that is guessed all the same; of a few, one
// may not.
const (
	tolerated = 0.02
	few       = 8
)

// guessed are tried in this order; the first type that fits wins.
var guessed = []catalog.Type{
	catalog.YesNo, catalog.Whole, catalog.Percent, catalog.Decimal, catalog.Date, catalog.DateTime,
}

// Guessed says what texts look like that are neither blank nor few of many: one value that can be
// read in one way only decides for all. Digits that begin with a zero are names, not numbers.
func Guessed(texts []string, cal calendar.Calendar) Guess {
	in := In(cal)
	plain := Guess{As: As{Type: catalog.Text}}
	if len(texts) == 0 {
		return plain
	}
	for _, to := range guessed {
		best, found := Guess{}, false
		for _, w := range Ways(catalog.Text, to) {
			misfits := 0
			for _, s := range texts {
				if _, err := w.text(s, in); err != nil || !looksLike(s, to, w) {
					misfits++
				}
			}
			as := As{to, w.Key}
			switch {
			case float64(misfits) > tolerated*float64(len(texts)) && (misfits > 1 || len(texts) < few) || misfits == len(texts):
			case !found || misfits < best.Misfits:
				best, found = Guess{As: as, Misfits: misfits, Open: []As{as}}, true
			case misfits == best.Misfits && differ(texts, best.As, as, in):
				best.Open = append(best.Open, as)
			}
		}
		switch {
		case len(best.Open) > 1:
			plain.Open = best.Open
			return plain
		case found:
			best.Open = nil
			return best
		}
	}
	return plain
}

// looksLike says whether somebody would take a text for a value of a type, beside that it can be
// read so.
func looksLike(s string, to catalog.Type, w Way) bool {
	switch to {
	case catalog.YesNo:
		return s != "0" && s != "1"
	case catalog.Percent:
		return strings.HasSuffix(s, "%")
	case catalog.Date:
		return w.Key != "yearmonthday"
	case catalog.Whole, catalog.Decimal:
		digits, _ := signed(s)
		return !(len(digits) > 1 && digits[0] == '0' && digits[1]-'0' <= 9) && !strings.HasSuffix(s, "%")
	}
	return true
}

// differ says whether two ways make different values of some text.
func differ(texts []string, a, b As, in Setting) bool {
	one, _ := Find(catalog.Text, a.Type, a.Way)
	other, _ := Find(catalog.Text, b.Type, b.Way)
	return slices.ContainsFunc(texts, func(s string) bool {
		x, err := one.text(s, in)
		y, also := other.text(s, in)
		if err != nil || also != nil {
			return false
		}
		scale := max(x.Scale, y.Scale)
		x, fits := x.At(scale)
		y, fitsToo := y.At(scale)
		return !fits || !fitsToo || x.Value != y.Value
	})
}
