package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"time"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/description"
)

// Described is what people say about one record set.
type Described struct {
	Set     string
	Body    *description.SetWords // never nil
	Said    map[string]Saying
	Version int
}

// Saying is who said something, and when.
type Saying struct {
	Who string    `json:"who"`
	At  time.Time `json:"at"`
}

const descriptionsSQL = "SELECT record_set, body, said, version FROM gavrik.descriptions"

// Descriptions lists all, by record set.
func (s *Store) Descriptions(ctx context.Context) ([]Described, error) {
	rows, _ := s.pool.Query(ctx, descriptionsSQL+" ORDER BY record_set") // CollectRows returns its error
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Described])
	if err != nil {
		return nil, fmt.Errorf("store: descriptions: %w", err)
	}
	return out, nil
}

// ReadDescriptions is Descriptions of a database that no store is opened on.
func ReadDescriptions(ctx context.Context, url string) ([]Described, error) {
	return readApart(ctx, url, "descriptions", pgx.RowToStructByPos[Described], descriptionsSQL)
}

// Whole are descriptions of record sets as one.
func Whole(all []Described) *description.Description {
	d := &description.Description{Gavrik: description.Version, Sets: map[string]*description.SetWords{}}
	for _, one := range all {
		if body := one.Body.Tidied(); body != nil {
			d.Sets[one.Set] = body
		}
	}
	return d
}

// Describe says something about a record set in place of version base, which is 0 for what
// nobody has described yet; nil says nothing any more. It returns what is different. ErrStale says
// that somebody else said something meanwhile; nothing is written then.
func (s *Store) Describe(
	ctx context.Context, who string, set string, base int, body *description.SetWords,
) (changed []string, err error) {
	err = s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		rows, _ := tx.Query(ctx, descriptionsSQL+" WHERE record_set = $1 FOR UPDATE", set) // CollectOneRow returns its error
		before, err := pgx.CollectOneRow(rows, pgx.RowToStructByPos[Described])
		if err != nil && !errors.Is(err, pgx.ErrNoRows) {
			return err
		}
		if before.Version != base {
			return ErrStale
		}
		if body = body.Tidied().Remember(before.Body); body == nil {
			body = &description.SetWords{}
		}
		changed = description.Changed(before.Body, body)
		said := map[string]Saying{}
		maps.Copy(said, before.Said)
		still := body.Said()
		for _, path := range changed {
			if delete(said, path); still[path] != "" {
				said[path] = Saying{who, time.Now().UTC()}
			}
		}
		text, err := json.Marshal(said)
		if err != nil {
			return err
		}
		if base > 0 {
			_, err = tx.Exec(ctx, `UPDATE descriptions SET body = $2, said = $3, version = version + 1, changed_at = clock_timestamp()
				WHERE record_set = $1`, set, body, text)
			return err
		}
		_, err = tx.Exec(ctx, "INSERT INTO descriptions (record_set, body, said, version) VALUES ($1, $2, $3, 1)", set, body, text)
		return err
	})
	switch {
	case errors.Is(err, ErrStale), taken(err): // two were the first
		return nil, ErrStale
	case err != nil:
		return nil, fmt.Errorf("store: describing %s: %w", set, err)
	}
	return changed, nil
}
