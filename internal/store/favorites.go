package store

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"
)

// Whose says whose favorite a view is: with the zero value, the person's own.
type Whose struct {
	Everyone bool
	Group    int64
}

// SetFavorite makes a view somebody's favorite, or no longer.
func (s *Store) SetFavorite(ctx context.Context, person int64, key string, whose Whose, on bool) error {
	var who, group *int64
	switch {
	case whose.Group != 0:
		group = &whose.Group
	case !whose.Everyone:
		who = &person
	}
	query := `INSERT INTO favorites (view_id, person_id, group_id) SELECT id, $2::bigint, $3::bigint FROM views WHERE key = $1 ON CONFLICT DO NOTHING`
	if !on {
		query = `DELETE FROM favorites f USING views v WHERE f.view_id = v.id AND v.key = $1
			AND f.person_id IS NOT DISTINCT FROM $2::bigint AND f.group_id IS NOT DISTINCT FROM $3::bigint`
	}
	if _, err := s.pool.Exec(ctx, query, key, who, group); err != nil {
		return fmt.Errorf("store: favorite %s: %w", key, err)
	}
	return nil
}

// Arrange puts the favorites on a person's desk into an order.
func (s *Store) Arrange(ctx context.Context, person int64, keys []string) error {
	_, err := s.pool.Exec(ctx, `INSERT INTO favorite_places (person_id, view_id, place)
		SELECT $1, v.id, k.place FROM unnest($2::text[]) WITH ORDINALITY AS k (key, place) JOIN views v ON v.key = k.key
		ON CONFLICT (person_id, view_id) DO UPDATE SET place = excluded.place`, person, keys)
	if err != nil {
		return fmt.Errorf("store: arranging favorites: %w", err)
	}
	return nil
}

// PutAway takes a shared favorite off a person's desk, or brings it back.
func (s *Store) PutAway(ctx context.Context, person int64, key string, away bool) error {
	_, err := s.pool.Exec(ctx, `INSERT INTO favorite_places (person_id, view_id, hidden) SELECT $1, id, $3 FROM views WHERE key = $2
		ON CONFLICT (person_id, view_id) DO UPDATE SET hidden = excluded.hidden`, person, key, away)
	if err != nil {
		return fmt.Errorf("store: favorite %s: %w", key, err)
	}
	return nil
}

// KeepAnswers remembers what a person answered to a view's questions, as JSON.
func (s *Store) KeepAnswers(ctx context.Context, person int64, key string, answers []byte) error {
	_, err := s.pool.Exec(ctx, `INSERT INTO last_answers (person_id, view_id, answers) SELECT $1, id, $3 FROM views WHERE key = $2
		ON CONFLICT (person_id, view_id) DO UPDATE SET answers = excluded.answers`, person, key, answers)
	return err
}

// LastAnswers are those, or nil.
func (s *Store) LastAnswers(ctx context.Context, person int64, key string) ([]byte, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(
		ctx,
		"SELECT a.answers FROM last_answers a JOIN views v ON v.id = a.view_id WHERE a.person_id = $1 AND v.key = $2",
		person, key,
	)
	all, err := pgx.CollectRows(rows, pgx.RowTo[[]byte])
	if err != nil || len(all) == 0 {
		return nil, err
	}
	return all[0], nil
}
