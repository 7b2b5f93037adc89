package calendar

import "math"

// A zone's clocks are put forward and back. Local times are skipped then, or come twice;
// in a few zones this happens at midnight, so that a day begins at one o'clock, or its
// first minute comes before the last hour of the day before. What follows is therefore
// worked out from the bounds of the zone's offsets, not from single moments.

// Span is a run of moments, From and To included.
type Span struct{ From, To Micros }

// Lowest and Highest are the ends of what has no bound.
const (
	Lowest  Micros = math.MinInt64 + 1
	Highest Micros = math.MaxInt64
)

// reach is further than any two changes of a zone's offset move the clock.
const reach = 2 * DayLen

// Moments are the moments whose clock shows a time from one to another, both included;
// Lowest and Highest stand for no bound. They come in order.
func (c Calendar) Moments(from, to Micros) []Span {
	var out []Span
	later := c.since(from)
	for _, early := range c.until(to) {
		for _, late := range later {
			if s := (Span{max(early.From, late.From), min(early.To, late.To)}); s.From <= s.To {
				out = append(out, s)
			}
		}
	}
	return out
}

// since are the moments whose clock shows a local time or a later one.
func (c Calendar) since(local Micros) []Span {
	if local <= Lowest+2*reach {
		return []Span{{Lowest, Highest}}
	}
	var out []Span
	c.eachOffset(local, func(s Span, offset Micros) {
		out = appendSpan(out, Span{max(s.From, local-offset), s.To})
	})
	return appendSpan(out, Span{local + reach, Highest})
}

// until are the moments whose clock shows a local time or an earlier one.
func (c Calendar) until(local Micros) []Span {
	if local >= Highest-2*reach {
		return []Span{{Lowest, Highest}}
	}
	out := []Span{{Lowest, local - reach - 1}}
	c.eachOffset(local, func(s Span, offset Micros) {
		out = appendSpan(out, Span{s.From, min(s.To, local-offset)})
	})
	return out
}

// eachOffset calls do with the stretches of one offset that lie around a local time.
func (c Calendar) eachOffset(local Micros, do func(s Span, offset Micros)) {
	clock := c.Clock()
	for at := local - reach; at < local+reach; {
		_, to, offset := clock.Offset(at)
		end := min(to, local+reach)
		do(Span{at, end - 1}, offset)
		at = end
	}
}

// appendSpan adds a span behind others, joined to the last if nothing lies between.
func appendSpan(out []Span, s Span) []Span {
	if s.From > s.To {
		return out
	}
	if last := len(out) - 1; last >= 0 && out[last].To+1 == s.From {
		out[last].To = s.To
		return out
	}
	return append(out, s)
}

// At is the moment at which the clock shows a local time: the first of two, and behind a
// gap as much later as the clock was put forward, as PostgreSQL has it.
func (c Calendar) At(local Micros) Micros {
	if spans := c.Moments(local, local); len(spans) > 0 {
		return spans[0].From
	}
	// In a gap: the offset before it.
	before := Micros(0)
	c.eachOffset(local, func(s Span, offset Micros) {
		if s.From+offset <= local {
			before = offset
		}
	})
	return local - before
}

// DaysBetween are the first and the last day that the clock shows between two moments,
// both included.
func (c Calendar) DaysBetween(from, to Micros) (first, last Day) {
	clock := c.Clock()
	first, last = FloorDay(clock.Local(from)), FloorDay(clock.Local(to))
	// Only a change of offset near an end can bring in a day that the end itself is not on.
	for at := from; at <= min(to, from+reach); {
		first = min(first, FloorDay(clock.Local(at)))
		_, at, _ = clock.Offset(at)
	}
	for at := to; at >= max(from, to-reach); {
		last = max(last, FloorDay(clock.Local(at)))
		start, _, _ := clock.Offset(at)
		if start <= Lowest {
			break
		}
		at = start - 1
	}
	return first, last
}
