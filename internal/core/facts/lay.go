package facts

import (
	"context"
	"fmt"
	"strconv"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/description"
	"gavrik/internal/core/reading"
	"gavrik/internal/core/table"
)

// Filled is a fact of a record set with its values, by what the records are known by.
type Filled struct {
	Set    string
	Fact   *Fact
	Values map[string]string
	// Version tells the fact and its values from what they were; empty for not known.
	Version string
}

// laid tells a laid fact from others: by the column that its records are known by, and its values.
type laid struct {
	by                uint64
	version, key, set string
}

// Laid is what facts make of records.
type Laid struct {
	description.Records
	// columns are those of the facts, for a later load whose records are the same.
	columns map[laid]table.Column
	// Problems say which facts wait for something to come back.
	Problems []description.Problem
}

// block is how many rows are laid between two looks at the context.
const block = 1 << 14

// Lay lays facts over records; all else is shared. A fact whose record set or key is gone waits for
// it to come back, and so do the values of records that are gone.
//
// before, if not nil, is what they made of an earlier load, of which what is the same is taken over.
func Lay(ctx context.Context, from description.Records, all []Filled, before *Laid) (*Laid, error) {
	out := &Laid{columns: map[laid]table.Column{}, Records: description.Records{
		Catalog: &catalog.Catalog{Notices: from.Catalog.Notices, Sources: from.Catalog.Sources},
		Snapshot: &table.Snapshot{
			AsOf: from.Snapshot.AsOf, Tables: map[string]*table.Table{},
		},
	}}
	sets := map[string]*catalog.RecordSet{}
	for _, set := range from.Catalog.Sets {
		copied := *set
		out.Catalog.Sets = append(out.Catalog.Sets, &copied)
		sets[set.Key], out.Snapshot.Tables[set.Key] = &copied, from.Snapshot.Tables[set.Key]
	}
	for _, f := range all {
		problem := func(format string, args ...any) {
			out.Problems = append(out.Problems, description.Problem{
				Set: f.Set, Path: "facts." + f.Fact.Key, Message: fmt.Sprintf(format, args...),
			})
		}
		set := sets[f.Set]
		switch {
		case set == nil:
			problem("The fact “%s” is of %q, and there is no such record set any more; it waits for it to come back.", f.Fact.Label, f.Set)
			continue
		case set.Field(f.Fact.Key) != nil || set.Link(f.Fact.Key) != nil:
			problem("%s have a field %q of their own now, so the fact “%s” is not shown; remove it, or the field.",
				set.Label, f.Fact.Key, f.Fact.Label)
			continue
		case set.Field(f.Fact.By) == nil:
			problem("The fact “%s” goes by the field %q of %s, which is not there any more; it waits for it to come back.",
				f.Fact.Label, f.Fact.By, set.Many)
			continue
		}
		if set.Stays {
			problem("%s stay in their database, where nothing can be filled in beside them; the fact “%s” waits for them to be in memory.",
				set.Label, f.Fact.Label)
			continue
		}
		t := out.Snapshot.Tables[f.Set]
		at := laid{t.Column(f.Fact.By).ID(), f.Version, f.Fact.Key, f.Set}
		var col table.Column
		if before != nil && f.Version != "" {
			col = before.columns[at]
		}
		if col == nil {
			var err error
			if col, err = column(ctx, f, t.Column(f.Fact.By)); err != nil {
				return nil, err
			}
		}
		out.columns[at] = col
		out.Snapshot.Tables[f.Set] = t.With(f.Fact.Key, col)
		field := f.Fact.Field()
		// The copy's list is the original's: it must grow elsewhere.
		set.Fields = append(set.Fields[:len(set.Fields):len(set.Fields)], field)
	}
	return out, nil
}

// column is the values of a fact in the order of the records, which a column tells apart.
func column(ctx context.Context, f Filled, by table.Column) (table.Column, error) {
	row := finder(f.Values, by)
	if f.Fact.Type == catalog.Text {
		dict := table.NewDictBuilder()
		codes := make([]uint32, by.Len())
		for i := range codes {
			if i%block == 0 && ctx.Err() != nil {
				return nil, ctx.Err()
			}
			codes[i] = dict.CodeOf(row(i))
		}
		return dict.Build(codes), dict.Err()
	}
	values := make([]int64, by.Len())
	for i := range values {
		if i%block == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		values[i] = f.Fact.stored(row(i))
	}
	return table.NewNumbers(values), nil
}

// finder finds the value of each row. Texts that tell records apart are looked up once each.
func finder(values map[string]string, by table.Column) func(row int) string {
	switch c := by.(type) {
	case *table.Texts:
		if !c.Dict.FindsQuickly() {
			return func(row int) string { return values[c.Dict.Value(c.Codes[row])] }
		}
		// The few keys are looked up in the dictionary, not the many records among the keys.
		place := make([]uint32, c.Dict.Len())
		list := []string{""}
		var found []uint32
		for key, value := range values {
			found = c.Dict.FindFolded(found[:0], table.Fold(key))
			for _, code := range found {
				if c.Dict.Value(code) == key {
					place[code] = uint32(len(list))
					list = append(list, value)
				}
			}
		}
		return func(row int) string { return list[place[c.Codes[row]]] }
	case *table.Numbers:
		wanted := make(map[int64]string, len(values))
		for key, value := range values {
			if n, err := strconv.ParseInt(key, 10, 64); err == nil {
				wanted[n] = value
			}
		}
		return func(row int) string { return wanted[c.Values[row]] }
	}
	return func(int) string { return "" }
}

// stored is a kept text as table.Numbers hold it.
func (f *Fact) stored(text string) int64 {
	if text == "" {
		return table.Blank
	}
	switch f.Type {
	case catalog.Date:
		if d, err := calendar.ParseDay(text); err == nil {
			return d
		}
	case catalog.YesNo:
		if text == "yes" {
			return 1
		}
		return 0
	default:
		if e, ok := reading.Number(text); ok {
			if e, ok = e.At(f.Decimals); ok {
				return e.Value
			}
		}
	}
	return table.Blank
}

// KeyAt is the text by which a record is known in a column; empty for a blank.
func KeyAt(by table.Column, row int) string {
	switch c := by.(type) {
	case *table.Texts:
		return c.Dict.Value(c.Codes[row])
	case *table.Numbers:
		if v := c.Values[row]; v != table.Blank {
			return strconv.FormatInt(v, 10)
		}
	}
	return ""
}

// Rows finds the rows that are known by some keys in a column; what is not there is left out.
func Rows(ctx context.Context, by table.Column, keys []string) (map[string]int, error) {
	wanted := make(map[string]string, len(keys))
	for _, key := range keys {
		wanted[key] = key
	}
	key := finder(wanted, by)
	out := make(map[string]int, len(keys))
	for row := range by.Len() {
		if row%block == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if k := key(row); k != "" {
			out[k] = row
		}
	}
	return out, nil
}

// Cell is a kept text as a value of the fact's field.
func (f *Fact) Cell(kept string) cell.Cell {
	field := f.Field()
	if f.Type == catalog.Text {
		return cell.OfText(kept, field)
	}
	if v := f.stored(kept); v != table.Blank {
		return cell.OfInt(v, field)
	}
	return cell.Cell{}
}
