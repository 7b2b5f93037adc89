// Package reading turns values as an application keeps them into those that are meant: texts that
// hold dates or numbers, whole numbers that count seconds or cents, shares that are percentages.
//
// What a value cannot be read as is blank in the result, and counted.
package reading

import (
	"slices"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
)

// Way is one way in which values of one type stand for values of another.
type Way struct {
	// Key names it in descriptions: "day.month.year".
	Key string
	// Words say it by an example: "as 23.11.2026".
	Words string

	from, to []catalog.Type
	// One of these reads a value. text reads a written one; number reads one kept exactly, at
	// its scale.
	text   func(s string, in Setting) (Exact, error)
	number func(v Exact, in Setting) (Exact, bool)
	// approx reads an approximate number; nil if this way does not fit those.
	approx func(x float64) float64
	// spelled says that numbers become texts of their digits.
	spelled bool
}

// Exact is a number scaled by ten to a scale: 1250 at scale 2 is 12.5. Days, moments, durations
// and yes or no have scale 0; their units are those of table.Numbers.
type Exact struct {
	Value int64
	Scale int
}

// Setting is what reading depends on beside the value.
type Setting struct {
	Calendar calendar.Calendar
	clock    *calendar.Clock
}

// In is the setting of a calendar.
func In(cal calendar.Calendar) Setting { return Setting{Calendar: cal, clock: cal.Clock()} }

// Written reads a written value; the error says in words what is wrong with it. It is for ways
// from texts alone.
func (w Way) Written(s string, in Setting) (Exact, error) { return w.text(s, in) }

var numbers = []catalog.Type{catalog.Decimal, catalog.Money, catalog.Percent}

var ways = slices.Concat(textWays, numberWays)

// Ways are those in which values of a type can be read as another, the likeliest first; none if
// they cannot. A type is not read as itself.
func Ways(from, to catalog.Type) []Way {
	var out []Way
	for _, w := range ways {
		if from != to && slices.Contains(w.from, from) && slices.Contains(w.to, to) {
			out = append(out, w)
		}
	}
	return out
}

// Find finds a way by its key; an empty key is the likeliest.
func Find(from, to catalog.Type, key string) (Way, bool) {
	for _, w := range Ways(from, to) {
		if w.Key == key || key == "" {
			return w, true
		}
	}
	return Way{}, false
}

// Targets are the types that values of a type can be read as, beside itself.
func Targets(from catalog.Type) []catalog.Type {
	var out []catalog.Type
	for _, info := range catalog.Types() {
		if len(Ways(from, info.Type)) > 0 {
			out = append(out, info.Type)
		}
	}
	return out
}
