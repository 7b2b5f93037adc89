package description

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/reading"
	"gavrik/internal/core/table"
)

// Records are a catalog with the records that it describes.
type Records struct {
	Catalog  *catalog.Catalog
	Snapshot *table.Snapshot
}

// Read is what was worked out of columns, so that a further description, or a later load with the same
// columns, need not do it again. The zero value has nothing.
type Read struct {
	// columns were read as another type, links lead by what columns hold, and distinct says of columns
	// whether they tell records apart.
	columns  map[read]*reading.Result
	links    map[string]*table.Links
	distinct map[uint64]bool
}

func newRead() Read {
	return Read{map[read]*reading.Result{}, map[string]*table.Links{}, map[uint64]bool{}}
}

// read is a column and how it was read.
type read struct {
	column table.Column
	to     catalog.Type
	way    string
}

// Applied is what a description makes of a load.
type Applied struct {
	Records
	Problems []Problem
	// Read is what was worked out of the columns.
	Read Read
	// Led are the links that were added from or to records that stay in their databases: where those lead is
	// found when somebody asks.
	Led []Led
	// Keys are fields that tell records apart which stay, by their sets, as the description says: it was asked
	// of the database when somebody said so.
	Keys map[string]string
}

// Led is an added link by the fields that records are found by.
type Led struct {
	Key, From, To string
	By, Into      []string
}

// Apply gives records as they are described. What is not described is shared with the records
// as loaded. Statements that do not hold are passed over, and told; the error is that of a context
// that ended.
func Apply(
	ctx context.Context, from Records, d *Description, cal calendar.Calendar, before Read,
) (*Applied, error) {
	a := &applying{
		from: from, calendar: cal, before: before,
		out: &Applied{
			Records: Records{
				&catalog.Catalog{Notices: from.Catalog.Notices, Sources: from.Catalog.Sources},
				&table.Snapshot{AsOf: from.Snapshot.AsOf, Tables: map[string]*table.Table{}},
			},
			Read: newRead(), Keys: map[string]string{},
		},
	}
	for _, set := range from.Catalog.Sets {
		copied := *set
		copied.Fields, copied.Links = slices.Clone(set.Fields), slices.Clone(set.Links)
		copied.Standard = slices.Clone(set.Standard)
		a.out.Catalog.Sets = append(a.out.Catalog.Sets, &copied)
		a.out.Snapshot.Tables[set.Key] = from.Snapshot.Tables[set.Key]
	}
	for _, set := range a.out.Catalog.Sets {
		if said := d.Sets[set.Key]; said != nil {
			if err := a.set(ctx, set, said); err != nil {
				return nil, err
			}
		}
	}
	// Links last: they compare values as those are read.
	for _, set := range a.out.Catalog.Sets {
		if said := d.Sets[set.Key]; said != nil {
			if err := a.links(ctx, set, said); err != nil {
				return nil, err
			}
			a.settle(set, said)
		}
	}
	for key := range d.Sets {
		if from.Catalog.Set(key) == nil {
			a.out.Problems = append(a.out.Problems, Problem{key, "", fmt.Sprintf(
				"There is no record set %q any more; what is said about it waits for it to come back.", key,
			)})
		}
	}
	slices.SortFunc(a.out.Problems, func(x, y Problem) int {
		return strings.Compare(x.Set+"\x00"+x.Path, y.Set+"\x00"+y.Path)
	})
	return a.out, nil
}

type applying struct {
	from     Records
	calendar calendar.Calendar
	before   Read
	out      *Applied
}

func (a *applying) problem(set *catalog.RecordSet, path, format string, args ...any) {
	a.out.Problems = append(a.out.Problems, Problem{set.Key, path, fmt.Sprintf(format, args...)})
}

// set says the words of a record set and of its fields.
func (a *applying) set(ctx context.Context, set *catalog.RecordSet, said *SetWords) error {
	if said.Label != "" {
		set.Label = said.Label
		set.Many = catalog.LowerFirst(said.Label)
	}
	if said.Many != "" {
		set.Many = said.Many
	}
	if said.One != "" {
		set.One = said.One
	}
	if said.Grain != "" {
		set.Grain = said.Grain
	}
	set.Hidden, set.FormerNames = said.Hidden, slices.Clone(said.Formerly)
	for key, f := range said.Fields {
		i := slices.IndexFunc(set.Fields, func(f catalog.Field) bool { return f.Key == key })
		if i < 0 {
			a.problem(set, "fields."+key, "%s have no field %q any more; what is said about it waits for it to come back.",
				set.Label, key)
			continue
		}
		if err := a.field(ctx, set, &set.Fields[i], f); err != nil {
			return err
		}
	}
	a.sameLabels(set, said)
	return nil
}

// field says what is said about one field.
func (a *applying) field(ctx context.Context, set *catalog.RecordSet, f *catalog.Field, said *FieldWords) error {
	at := "fields." + f.Key + "."
	f.Former = said.Formerly
	if said.Label != "" && said.Label != f.Label {
		f.Former = append([]string{f.Label}, f.Former...)
		f.Label = said.Label
	}
	if said.Meaning != nil {
		f.Meaning = *said.Meaning
	}
	if said.Type != "" && said.Type != f.Type || said.Read != "" {
		if err := a.retype(ctx, set, f, said); err != nil {
			return err
		}
	}
	switch {
	case said.Currency == "" && said.CurrencyBy == "":
	case f.Type != catalog.Money:
		a.problem(set, at+"currency", "%s is %s, and has no currency; make it money first.", f.Label, f.Type.Word())
	case said.CurrencyBy != "":
		a.currencyBy(set, f, said.CurrencyBy)
	case !catalog.CurrencyCode(said.Currency):
		a.problem(set, at+"currency", "%q is no currency code; write three capitals, as EUR.", said.Currency)
	default:
		f.Currency, f.CurrencyBy = said.Currency, ""
	}
	if said.Format != nil {
		if fault := said.Format.Fault(f.Type); fault != "" {
			a.problem(set, at+"format", "%s: %s.", f.Label, fault)
		} else {
			f.Format = said.Format
		}
	}
	if said.Hidden != nil {
		f.Hidden = *said.Hidden
	}
	f.Last = said.Last
	return nil
}

func (a *applying) currencyBy(set *catalog.RecordSet, f *catalog.Field, path string) {
	by, err := a.from.Catalog.Resolve(set.Key, path)
	if err != nil || by.Field.Type != catalog.Text || len(by.Links) > 1 {
		a.problem(set, "fields."+f.Key+".currencyBy",
			"%q names no text of %s, or of a record that they link to, that could name the currency of %s.", path, set.Many, f.Label)
		return
	}
	f.Currency, f.CurrencyBy = "", path
}

// retype reads a field's values as another type.
func (a *applying) retype(ctx context.Context, set *catalog.RecordSet, f *catalog.Field, said *FieldWords) error {
	at := "fields." + f.Key + ".type"
	if set.Stays {
		a.problem(set, at, "%s stay in their database, where every field has its own type; have them in memory, or change %s there.",
			set.Label, f.Label)
		return nil
	}
	way, ok := reading.Find(f.Type, said.Type, said.Read)
	if !ok {
		a.problem(set, at, "%s is %s as the database has it, and cannot be read as %s%s.",
			f.Label, f.Type.Word(), said.Type.Word(), inWay(said.Read))
		return nil
	}
	t := a.out.Snapshot.Tables[set.Key]
	key := read{t.Column(f.Key), said.Type, way.Key}
	r := a.before.columns[key]
	if r == nil {
		var err error
		if r, err = reading.Column(ctx, key.column, *f, said.Type, way, a.calendar); err != nil {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			a.problem(set, at, "%s cannot be read as %s.", f.Label, said.Type.Word())
			return nil
		}
	}
	a.out.Read.columns[key] = r
	a.out.Snapshot.Tables[set.Key] = t.With(f.Key, r.Column)
	f.Type, f.Scale, f.Approx, f.Format = said.Type, r.Scale, r.Approx, nil
	f.Unique = f.Unique && r.Lost == 0 && a.distinct(r.Column)
	if f.Type != catalog.Money {
		f.Currency, f.CurrencyBy = "", ""
	}
	if r.Lost > 0 {
		f.Lost = fmt.Sprintf("%d values of %s of all %s are no %s (%s), and count as blank",
			r.Lost, f.Label, set.Many, f.Type.Info().Name, strings.Join(quoted(r.Examples), ", "))
	}
	return nil
}

func inWay(key string) string {
	if key == "" {
		return ""
	}
	return fmt.Sprintf(" in the way %q", key)
}

func quoted(texts []string) []string {
	out := make([]string, len(texts))
	for i, s := range texts {
		if runes := []rune(s); len(runes) > 30 {
			s = string(runes[:30]) + "…"
		}
		out[i] = "“" + s + "”"
	}
	return out
}

// sameLabels tells fields that would be called the same: a formula could not name one of them.
func (a *applying) sameLabels(set *catalog.RecordSet, said *SetWords) {
	for i := range set.Fields {
		f := &set.Fields[i]
		if said.Fields[f.Key] == nil || said.Fields[f.Key].Label == "" {
			continue
		}
		for j := range set.Fields {
			if j != i && strings.EqualFold(set.Fields[j].Label, f.Label) {
				a.problem(set, "fields."+f.Key+".label", "Two fields of %s would be called “%s”; choose another label.",
					set.Label, f.Label)
				break
			}
		}
	}
}

// settle says what a record is known by and what comes first.
func (a *applying) settle(set *catalog.RecordSet, said *SetWords) {
	if said.Key != "" {
		switch f := set.Field(said.Key); {
		case f == nil:
			a.problem(set, "key", "%s have no field %q that could tell them apart.", set.Label, said.Key)
		case set.Stays:
			f.Unique = true
			a.out.Keys[set.Key] = f.Key
		case !a.distinct(a.out.Snapshot.Tables[set.Key].Column(f.Key)):
			a.problem(set, "key", "%s does not tell %s apart: a value of it is blank, or two records share one.",
				f.Label, set.Many)
		default:
			f.Unique = true
		}
	}
	if said.Name != "" {
		if f := set.Field(said.Name); f == nil || f.Type == catalog.Picture {
			a.problem(set, "name", "%s have no field %q that they could be known by.", set.Label, said.Name)
		} else if before := set.Name; before != said.Name {
			set.FormerNames = append(set.FormerNames, before)
			set.Name = said.Name
			if i := slices.Index(set.Standard, said.Name); i >= 0 {
				set.Standard = slices.Delete(set.Standard, i, i+1)
			}
			set.Standard = slices.Insert(set.Standard, 0, said.Name)
		}
	}
	place := map[string]int{}
	for i, key := range said.Order {
		place[key] = i + 1
	}
	slices.SortStableFunc(set.Fields, func(x, y catalog.Field) int {
		px, py := place[x.Key], place[y.Key]
		switch {
		case px == 0 && py == 0:
			return 0
		case px == 0 || py == 0:
			return py - px // those without a place are behind
		}
		return px - py
	})
	set.Standard = slices.DeleteFunc(set.Standard, func(path string) bool {
		first, _, through := strings.Cut(path, ".")
		if through {
			l := set.Link(first)
			return l == nil || l.Hidden
		}
		f := set.Field(first)
		return path != set.Name && (f == nil || f.Hidden)
	})
}

// distinct is the function of that name, which looks at each column once.
func (a *applying) distinct(c table.Column) bool {
	if c == nil {
		return false
	}
	is, known := a.before.distinct[c.ID()]
	if !known {
		is = distinct(c)
	}
	a.out.Read.distinct[c.ID()] = is
	return is
}

// distinct says whether all rows of a column hold values, and none the same.
func distinct(c table.Column) bool {
	if c == nil || c.Blanks() > 0 {
		return false
	}
	switch c := c.(type) {
	case *table.Numbers:
		seen := make(map[int64]struct{}, len(c.Values))
		for _, v := range c.Values {
			seen[v] = struct{}{}
		}
		return len(seen) == len(c.Values)
	case *table.Texts:
		// A key tells records apart as people and links see it, and those do not see case.
		seen := make(map[string]struct{}, len(c.Codes))
		for _, code := range c.Codes {
			seen[c.Dict.Value(code)] = struct{}{}
		}
		return len(seen) == len(c.Codes)
	}
	return false
}
