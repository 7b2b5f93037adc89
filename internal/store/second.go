package store

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"
)

// SetSecond keeps the secret of an app that is about to make somebody's codes; it is not
// asked for before it was confirmed.
func (s *Store) SetSecond(ctx context.Context, person int64, secret string) error {
	tag, err := s.pool.Exec(
		ctx, "UPDATE people SET second_secret = $2, second_step = 0 WHERE id = $1 AND NOT second_on", person,
		secret,
	)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrTaken
	}
	return err
}

// TurnSecondOn asks for codes from now on, and keeps the hashes of spare ones.
func (s *Store) TurnSecondOn(ctx context.Context, person int64, spare [][]byte) error {
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "DELETE FROM spare_codes WHERE person_id = $1", person); err != nil {
			return err
		}
		if _, err := tx.Exec(
			ctx, "INSERT INTO spare_codes (person_id, hash) SELECT $1, unnest($2::bytea[])", person, spare,
		); err != nil {
			return fmt.Errorf("store: spare codes: %w", err)
		}
		_, err := tx.Exec(ctx, "UPDATE people SET second_on = true WHERE id = $1", person)
		return err
	})
}

// TurnSecondOff asks for no codes any more.
func (s *Store) TurnSecondOff(ctx context.Context, person int64) error {
	_, err := s.pool.Exec(ctx, `WITH gone AS (DELETE FROM spare_codes WHERE person_id = $1)
		UPDATE people SET second_on = false, second_secret = '', second_step = 0 WHERE id = $1`, person)
	return err
}

// TakeStep takes a code of a step; false if one of it, or of a later one, was taken
// before.
func (s *Store) TakeStep(ctx context.Context, person, step int64) (bool, error) {
	tag, err := s.pool.Exec(
		ctx, "UPDATE people SET second_step = $2 WHERE id = $1 AND second_step < $2", person, step,
	)
	return err == nil && tag.RowsAffected() == 1, err
}

// TakeSpare takes a spare code by its hash; false if there is none such any more.
func (s *Store) TakeSpare(ctx context.Context, person int64, hash []byte) (bool, error) {
	tag, err := s.pool.Exec(ctx, "DELETE FROM spare_codes WHERE person_id = $1 AND hash = $2", person, hash)
	return err == nil && tag.RowsAffected() == 1, err
}

// secondRequired is the setting that everybody with a password needs a second factor.
const secondRequired = "second factor required"

// SecondRequired says whether administrators ask everybody for a second factor.
func (s *Store) SecondRequired(ctx context.Context) (on bool, err error) {
	return s.switched(ctx, secondRequired)
}

// RequireSecond settles it.
func (s *Store) RequireSecond(ctx context.Context, on bool) error {
	return s.turn(ctx, secondRequired, on)
}
