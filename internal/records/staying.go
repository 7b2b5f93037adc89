package records

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/records/incoming"
)

// size is what the planner believes that a table holds.
type size struct{ rows, bytes int64 }

// planned asks the planner about a table, or all that may be read of it. It knows of tables that are spread
// over others, and of those that nobody has counted.
func planned(ctx context.Context, tx pgx.Tx, s *source) (size, error) {
	if !s.from.dialect.Catalogs {
		return counted(ctx, tx, s)
	}
	columns := make([]string, len(s.columns))
	for i, c := range s.columns {
		columns[i] = quote(c.Name)
	}
	query := fmt.Sprintf(
		"EXPLAIN (FORMAT JSON) SELECT %s FROM %s", cmp.Or(strings.Join(columns, ", "), "1"), s.identifier(),
	)
	var text []byte
	if err := tx.QueryRow(ctx, query).Scan(&text); err != nil {
		return size{}, fmt.Errorf("records: %s: %w", s, err)
	}
	var said []struct {
		Plan struct {
			Rows  int64 `json:"Plan Rows"`
			Width int64 `json:"Plan Width"`
		}
	}
	if err := json.Unmarshal(text, &said); err != nil || len(said) != 1 {
		return size{}, fmt.Errorf("records: %s: the planner is not understood: %w", s, err)
	}
	p := said[0].Plan
	return size{p.Rows, p.Rows * p.Width}, nil
}

// stayed says that the record sets that stay are those that stayed before.
func (l *Loaded) stayed(away []string) bool {
	for _, set := range away {
		if l.Catalog.Set(set) != nil && l.Away[set] == nil {
			return false
		}
	}
	for set, a := range l.Away {
		if !a.Unasked && !slices.Contains(away, set) {
			return false
		}
	}
	return true
}

// stay decides which tables stay in their databases: those that are to, and, if what is left would take more
// than it may, the largest of the others until it does not. Tables that stayed before for that go on to.
func (l *loader) stay(
	ctx context.Context, tables []*source, set Settings, before *Loaded,
) (notices []string, err error) {
	for _, key := range set.Away {
		if !slices.ContainsFunc(tables, func(s *source) bool { return s.set == key }) {
			notices = append(notices, fmt.Sprintf(
				"There is no record set “%s” that could stay in its database (--in-database).", key,
			))
		}
	}
	left := int64(0)
	var others []*source
	for _, s := range tables {
		was := (*Away)(nil)
		if before != nil {
			was = before.Away[s.set]
		}
		if s.away = slices.Contains(set.Away, s.set) || was != nil && was.Unasked ||
			!s.from.dialect.Catalogs; s.away {
			s.unasked = !slices.Contains(set.Away, s.set)
			if s.size, err = planned(ctx, s.from.tx, s); err != nil {
				return nil, s.from.blamed(err)
			}
			continue
		}
		// What was loaded fitted; a view is as large as it turns out to be.
		if set.StayBeyond && before == nil && s.kind != "v" {
			if s.size, err = planned(ctx, s.from.tx, s); err != nil {
				return nil, s.from.blamed(err)
			}
			if left += s.size.bytes; s.full.Schema != incoming.FilesSchema { // what came in a file is small
				others = append(others, s)
			}
		}
	}
	slices.SortStableFunc(others, func(a, b *source) int { return cmp.Compare(b.size.bytes, a.size.bytes) })
	for _, s := range others {
		if set.Most == 0 || left <= set.Most {
			break
		}
		s.away, s.unasked = true, true
		left -= s.size.bytes
		notices = append(notices, fmt.Sprintf(
			"%s would take some %d MB, and stays in its database: with it the records would be more than the %d MB that they may take "+
				"(--memory-records).", s, s.size.bytes>>20, set.Most>>20,
		))
	}
	return notices, nil
}
