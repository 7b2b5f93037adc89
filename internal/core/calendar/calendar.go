// Package calendar turns moments into days and relative periods into dates.
//
// Nothing here reads a clock: a Calendar is given its now, its zone, the day a
// week starts on and the month a fiscal year starts in. Days are counted from
// 1970-01-01 in the proleptic Gregorian calendar; moments are microseconds
// since 1970-01-01 00:00 UTC.
package calendar

import (
	"encoding/json"
	"fmt"
	"time"
)

// Day counts days since 1970-01-01.
type Day = int64

// Micros counts microseconds: of a duration, or since 1970-01-01 00:00 UTC.
type Micros = int64

// Lengths in microseconds.
const (
	Second Micros = 1_000_000
	Minute        = 60 * Second
	Hour          = 60 * Minute
	DayLen        = 24 * Hour
)

// Calendar is the setting in which dates are read.
type Calendar struct {
	// Now is the moment the view runs.
	Now time.Time
	// Zone is the workspace's; nil means UTC.
	Zone *time.Location
	// WeekStart is the first day of a week. Zero is Sunday, as in package time;
	// the workspace's default is Monday.
	WeekStart time.Weekday
	// FiscalStart is the first month of a fiscal year. Zero means January.
	FiscalStart time.Month
}

func (c Calendar) zone() *time.Location {
	if c.Zone == nil {
		return time.UTC
	}
	return c.Zone
}

// Setting names all that dates are read by but the moment. What is worked out under one
// setting says nothing about another.
func (c Calendar) Setting() string {
	_, offset := c.Now.In(c.zone()).Zone() // zones that are made up may share a name
	return fmt.Sprintf("%s %d %d %d", c.zone(), offset, c.WeekStart, c.fiscalStart())
}

func (c Calendar) fiscalStart() time.Month {
	if c.FiscalStart == 0 {
		return time.January
	}
	return c.FiscalStart
}

// Today is the day of Now in the zone.
func (c Calendar) Today() Day {
	y, m, d := c.Now.In(c.zone()).Date()
	return FromDate(y, m, d)
}

// FromDate is the day of a date; months and days out of range are carried over
// as package time does.
func FromDate(y int, m time.Month, d int) Day {
	return time.Date(y, m, d, 0, 0, 0, 0, time.UTC).Unix() / 86400
}

// Date is the date of a day.
func Date(d Day) (int, time.Month, int) { return time.Unix(d*86400, 0).UTC().Date() }

// ParseDay reads a date as YYYY-MM-DD.
func ParseDay(s string) (Day, error) {
	t, err := time.Parse("2006-01-02", s)
	if err != nil {
		return 0, fmt.Errorf("%q is not a date; write it as 2026-11-23", s)
	}
	return t.Unix() / 86400, nil
}

// ParseLocal reads a local date and time, YYYY-MM-DDThh:mm with optional seconds, as
// microseconds of the clock on the wall since 1970-01-01 00:00.
func ParseLocal(s string) (Micros, error) {
	for _, layout := range []string{
		"2006-01-02T15:04", "2006-01-02T15:04:05", "2006-01-02 15:04", "2006-01-02 15:04:05",
	} {
		if t, err := time.Parse(layout, s); err == nil {
			return t.UnixMicro(), nil
		}
	}
	return 0, fmt.Errorf("%q is not a date and time; write it as 2026-11-23T14:30", s)
}

// Clock converts moments to local time quickly: offsets change only twice a
// year, and neighbouring rows mostly share one. A Clock belongs to one goroutine.
type Clock struct {
	zone     *time.Location
	from, to Micros // the bounds in which offset holds
	offset   Micros
}

// Clock returns a fresh converter for the zone.
func (c Calendar) Clock() *Clock { return &Clock{zone: c.zone(), from: 1, to: 0} }

// Local shifts a moment by the zone's offset at that moment.
func (k *Clock) Local(m Micros) Micros {
	if m < k.from || m >= k.to {
		k.find(m)
	}
	return m + k.offset
}

// Offset returns the zone's offset at a moment, and the moments between which it
// holds, to left out.
func (k *Clock) Offset(m Micros) (from, to, offset Micros) {
	if m < k.from || m >= k.to {
		k.find(m)
	}
	return k.from, k.to, k.offset
}

func (k *Clock) find(m Micros) {
	t := time.UnixMicro(m).In(k.zone)
	_, seconds := t.Zone()
	start, end := t.ZoneBounds()
	k.offset = Micros(seconds) * Second
	k.from, k.to = -1<<63, 1<<63-1
	if !start.IsZero() {
		k.from = start.UnixMicro()
	}
	if !end.IsZero() {
		k.to = end.UnixMicro()
	}
}

// FloorDay is the day of local microseconds, rounding towards the past.
func FloorDay(local Micros) Day {
	d := local / DayLen
	if local%DayLen < 0 {
		d--
	}
	return d
}

// written is a calendar as JSON: the zone goes by its name.
type written struct {
	Now         time.Time
	Zone        string `json:",omitempty"`
	WeekStart   time.Weekday
	FiscalStart time.Month
}

// MarshalJSON writes the calendar down.
func (c Calendar) MarshalJSON() ([]byte, error) {
	out := written{c.Now, "", c.WeekStart, c.FiscalStart}
	if c.Zone != nil {
		out.Zone = c.Zone.String()
	}
	return json.Marshal(out)
}

// UnmarshalJSON reads a calendar back; its zone must be one of the time zone database.
func (c *Calendar) UnmarshalJSON(text []byte) error {
	var in written
	if err := json.Unmarshal(text, &in); err != nil {
		return err
	}
	*c = Calendar{Now: in.Now, WeekStart: in.WeekStart, FiscalStart: in.FiscalStart}
	if in.Zone == "" {
		return nil
	}
	zone, err := time.LoadLocation(in.Zone)
	c.Zone = zone
	return err
}
