package app

import (
	"context"
	"fmt"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/facts"
	"gavrik/internal/core/table"
	"gavrik/internal/store"
)

// MayFill says whether a person may fill a fact in.
func MayFill(p store.Person, f *facts.Fact) bool {
	rank := map[store.Role]int{store.Reader: 0, store.Analyst: 1, store.Administrator: 2}
	if rank[p.Role] >= rank[store.Role(f.Fill.Role)] {
		return true
	}
	return slices.ContainsFunc(p.Groups, func(g store.GroupName) bool { return slices.Contains(f.Fill.Groups, g.ID) })
}

// Typed is a value that somebody has typed or pasted for a record.
type Typed struct {
	// Record is what the record is opened by, or what else tells it apart; see Read.
	Record, Value string
	// Was is what stood there when she began, as it is kept; nil writes in any case.
	Was *string
}

// Look is what typed values come to, before anything is written.
type Look struct {
	Fills []store.Fill
	// Changes, New, Emptied and Same count the fills by what they do to what is there.
	Changes, New, Emptied, Same int
	// Missing are the places of typed values whose record is not there, or is not seen by her.
	Missing []int
	// Wrong are those that cannot be read, by their place.
	Wrong map[int]string
	// Twice are the places of values whose record came before.
	Twice []int
	// By is the field that the records were found by.
	By catalog.Field
}

// Read finds the records of typed values among those that the reader sees, and reads the values.
// Records are found by a field that no two share; by the one that finds the most of them, if none
// is named.
func (g *Scope) Read(ctx context.Context, f *store.Fact, typed []Typed, by string) (*Look, error) {
	set := g.Catalog.Set(f.Set)
	t := g.engine.Snapshot().Tables[f.Set]
	out := &Look{Wrong: map[int]string{}}
	keys := make([]string, len(typed))
	for i, v := range typed {
		keys[i] = v.Record
	}
	rows, err := g.find(ctx, set, t, keys, by, &out.By)
	if err != nil {
		return nil, err
	}
	known := t.Column(f.Body.By)
	seen := map[string]bool{}
	for i, v := range typed {
		row, found := rows[v.Record]
		record := ""
		if found {
			record = facts.KeyAt(known, row)
		}
		switch {
		case record == "":
			out.Missing = append(out.Missing, i)
			continue
		case seen[record]:
			out.Twice = append(out.Twice, i)
			continue
		}
		seen[record] = true
		value, err := f.Body.Read(v.Value, g.Calendar)
		if err != nil {
			out.Wrong[i] = err.Error()
			continue
		}
		was := g.Facts.Value(f.ID, record)
		switch {
		case was == value:
			out.Same++
		case was == "":
			out.New++
		case value == "":
			out.Emptied++
		default:
			out.Changes++
		}
		out.Fills = append(out.Fills, store.Fill{Record: record, Value: value, Was: v.Was})
	}
	return out, nil
}

// find finds records by the field named, or by the one that finds the most of them.
func (g *Scope) find(
	ctx context.Context, set *catalog.RecordSet, t *table.Table, keys []string, by string, found *catalog.Field,
) (map[string]int, error) {
	if by == "" && len(keys) == 1 {
		by = set.Address()
	}
	var best map[string]int
	for _, f := range set.Fields {
		if by != "" && f.Key != by || !f.Unique {
			continue
		}
		rows, err := facts.Rows(ctx, t.Column(f.Key), keys)
		if err != nil {
			return nil, err
		}
		if best == nil || len(rows) > len(best) {
			best, *found = rows, f
		}
	}
	return best, nil
}

// Keyable says by which field the values of a fact of a record set are kept; an error says why none
// can be.
func (g *Scope) Keyable(set *catalog.RecordSet) (string, error) {
	if set.Stays {
		return "", fmt.Errorf("%s stay in their database, where nothing can be filled in beside them", set.Many)
	}
	by := set.Address()
	if f := set.Field(by); f == nil || f.Type != catalog.Text && f.Type != catalog.Whole {
		return "", fmt.Errorf("nothing tells %s apart, so that a fact could be kept for one of them; say on Records which field does", set.Many)
	}
	return by, nil
}
