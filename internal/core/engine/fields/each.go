// Records told apart: their names, with their addresses where names are shared.

package fields

import (
	"context"
	"fmt"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/table"
)

// mostRounds bounds how often names are looked through again: one that is told apart could, in
// theory, look like another that was not.
const mostRounds = 3

// each is the records of a set as texts, by one of their fields, no two of them alike but for case
// and accents.
func (s *Source) each(set, field string) (table.Column, error) {
	r := s.Catalog.Set(set)
	if r == nil || !r.Apart(field) {
		return nil, fmt.Errorf("fields: %s does not tell the records of %s apart", field, set)
	}
	name, err := s.Stored(set, field)
	if err != nil {
		return nil, err
	}
	address, err := s.Stored(set, r.Address())
	if err != nil {
		return nil, err
	}
	return keep(context.Background(), s, "each "+set+" "+field, func(s *Source) (table.Column, int64, error) {
		s.reads.note(place{set: set, field: field}, name.ID())
		s.reads.note(place{set: set, field: r.Address()}, address.ID())
		w := format.NewWriter(format.Plain, calendar.Calendar{})
		text := func(col table.Column, f catalog.Field, row int) string {
			return w.Cell(Cell(col, f, int32(row)), f)
		}
		texts := make([]string, name.Len())
		for row := range texts {
			texts[row] = text(name, *r.Field(field), row)
		}
		for range mostRounds {
			shared := sharedTexts(texts)
			if len(shared) == 0 {
				break
			}
			for _, row := range shared {
				if texts[row] != "" {
					texts[row] += " · "
				}
				texts[row] += text(address, *r.Field(r.Address()), row)
			}
		}
		dict, codes := table.NewDictBuilder(), make([]uint32, len(texts))
		for row, t := range texts {
			codes[row] = dict.CodeOf(t)
		}
		if err := dict.Err(); err != nil {
			return nil, 0, fmt.Errorf("fields: telling the records of %s apart: %w", set, err)
		}
		col := dict.Build(codes)
		return col, col.Bytes(), nil
	})
}

// sharedTexts are the rows whose text is empty or another's, but for case and accents.
func sharedTexts(texts []string) (rows []int) {
	seen := make(map[string]int32, len(texts))
	for _, t := range texts {
		seen[table.Fold(t)]++
	}
	for row, t := range texts {
		if t == "" || seen[table.Fold(t)] > 1 {
			rows = append(rows, row)
		}
	}
	return rows
}
