package view

import (
	"cmp"
	"slices"

	"gavrik/internal/core/catalog"
)

// fits says for which types something can be chosen, and in which place among the choices:
// the likeliest has the lowest. Of 0, it does not fit.
type fits struct {
	number   int // whole, decimal, money
	percent  int
	duration int
	date     int
	moment   int
	text     int
	yesNo    int
	picture  int
}

// place is that among the choices for a type, or 0.
func (f fits) place(t catalog.Type) int {
	switch t {
	case catalog.Percent:
		return f.percent
	case catalog.Duration:
		return f.duration
	case catalog.Date:
		return f.date
	case catalog.DateTime:
		return f.moment
	case catalog.Text:
		return f.text
	case catalog.YesNo:
		return f.yesNo
	case catalog.Picture:
		return f.picture
	}
	return f.number
}

// everyNumber fits all numeric types in one place.
func everyNumber(place int) fits { return fits{number: place, percent: place, duration: place} }

// always fits every type in one place.
func always(place int) fits {
	return fits{place, place, place, place, place, place, place, place}
}

// dates adds a place for dates and moments.
func (f fits) dates(place int) fits { f.date, f.moment = place, place; return f }

// texts adds a place for texts.
func (f fits) texts(place int) fits { f.text = place; return f }

// truths adds a place for yes or no.
func (f fits) truths(place int) fits { f.yesNo = place; return f }

// fitting lists those of a table that fit a type, in their places.
func fitting[I any, T any](table []I, t catalog.Type, of func(I) (T, fits)) []T {
	type choice struct {
		value T
		place int
	}
	var found []choice
	for _, info := range table {
		if value, f := of(info); f.place(t) > 0 {
			found = append(found, choice{value, f.place(t)})
		}
	}
	slices.SortStableFunc(found, func(a, b choice) int { return cmp.Compare(a.place, b.place) })
	out := make([]T, len(found))
	for i, c := range found {
		out[i] = c.value
	}
	return out
}
