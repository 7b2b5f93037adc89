// Package overview says in words what is out of the ordinary about the values of a field.
package overview

import (
	"fmt"
	"strconv"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
)

// Kind tells remarks apart for programs.
type Kind string

// The kinds.
const (
	Empty       Kind = "empty"       // no record has a value
	OneValue    Kind = "one-value"   // all have the same
	NearlyKey   Kind = "nearly-key"  // nearly every value stands on one record alone
	KeyBlank    Kind = "key-blank"   // some have nothing in a field that tells them apart
	NameBlank   Kind = "name-blank"  // some have nothing that people could know them by
	FarDate     Kind = "far-date"    // dates long ago or long ahead
	Negative    Kind = "negative"    // few are under nothing where the others are not
	Alike       Kind = "alike"       // texts that differ in capitals, accents or spaces alone
	Placeholder Kind = "placeholder" // texts that stand for nothing
	Looser      Kind = "looser"      // texts that are all of a stricter type
	NotKept     Kind = "not-kept"    // values that could not be kept
)

// Remark is one thing that is out of the ordinary.
type Remark struct {
	Kind  Kind
	Words string
}

const (
	// enough is how many values there must be before few of them are called few.
	enough = 50
	// rare is the share, in percent, up to which they are.
	rare = 1
)

// Of are the remarks about a field of a record set, the gravest first.
func Of(set *catalog.RecordSet, f catalog.Field, p *result.Profile, cal calendar.Calendar) []Remark {
	var out []Remark
	add := func(kind Kind, format string, args ...any) {
		out = append(out, Remark{kind, fmt.Sprintf(format, args...)})
	}
	filled := p.Records - p.Blank
	records := func(n int) string { return fmt.Sprintf("%s %s", grouped(n), set.Noun(n)) }
	has := func(n int) string {
		if n == 1 {
			return "has"
		}
		return "have"
	}
	if f.Lost != "" {
		add(NotKept, "%s.", f.Lost)
	}
	switch {
	case p.Records == 0:
		return out
	case filled == 0:
		add(Empty, "No record has a value.")
		return out
	case f.Unique && p.Blank > 0:
		add(KeyBlank, "%s %s none, though it tells %s apart.", records(p.Blank), has(p.Blank), set.Many)
	case f.Key == set.Name && p.Blank > 0:
		add(NameBlank, "%s %s none, though it is what people know them by.", records(p.Blank), has(p.Blank))
	}
	if f.Type == catalog.Picture {
		return out
	}
	if p.Distinct == 1 && p.Blank == 0 && p.Records > 1 {
		add(OneValue, "All hold the same.")
	}
	if twice := p.Distinct - p.Once; !f.Unique && p.Once < p.Distinct && filled >= enough &&
		twice*100 <= p.Distinct*rare && !f.Type.Temporal() && (!f.Type.Numeric() || f.Type == catalog.Whole) {
		add(NearlyKey, "%s of %s values %s on more than one record; all others on one alone.",
			grouped(twice), grouped(p.Distinct), map[bool]string{true: "stands", false: "stand"}[twice == 1])
	}
	if p.Early > 0 {
		add(FarDate, "%s %s a date of more than a hundred years ago.", records(p.Early), has(p.Early))
	}
	if p.Late > 0 {
		add(FarDate, "%s %s a date more than ten years ahead.", records(p.Late), has(p.Late))
	}
	if p.Negative > 0 && filled >= enough && p.Negative*100 <= filled*rare {
		add(Negative, "%s %s less than nothing; all others do not.", records(p.Negative), has(p.Negative))
	}
	if p.Alike > 0 {
		more := ""
		if p.Alike > 1 {
			more = fmt.Sprintf(", and %s more pairs", grouped(p.Alike-1))
		}
		add(Alike, "“%s” and “%s” differ in capitals, accents or spaces alone%s.", p.Likes[0], p.Likes[1], more)
	}
	if len(p.Placeholders) > 0 {
		var words []string
		n := 0
		for _, v := range p.Placeholders {
			words = append(words, "“"+format.NewWriter(format.People, cal).Cell(v.Value, f)+"”")
			n += v.Kept
		}
		add(Placeholder, "%s %s %s, which may stand for nothing.", records(n), has(n), strings.Join(words, " or "))
	}
	if p.ReadAs != "" {
		add(Looser, "All values could be read as %s; an administrator can say so.", p.ReadAs.Word())
	}
	return out
}

func grouped(n int) string { return format.Thousands(strconv.Itoa(n)) }
