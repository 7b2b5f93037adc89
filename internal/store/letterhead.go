package store

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"
)

// Letterhead is what stands at the head of paper.
type Letterhead struct {
	Name, Address string
	// Logo is a PNG, or nil.
	Logo []byte
}

const letterheadSQL = "SELECT name, address, logo FROM gavrik.letterhead"

// Letterhead returns it; the zero one, if none was made.
func (s *Store) Letterhead(ctx context.Context) (Letterhead, error) {
	rows, _ := s.pool.Query(ctx, letterheadSQL) // CollectRows returns its error
	return onlyLetterhead(pgx.CollectRows(rows, pgx.RowToStructByPos[Letterhead]))
}

// ReadLetterhead is Letterhead of a database that no store is opened on.
func ReadLetterhead(ctx context.Context, url string) (Letterhead, error) {
	return onlyLetterhead(readApart(ctx, url, "letterhead", pgx.RowToStructByPos[Letterhead], letterheadSQL))
}

func onlyLetterhead(all []Letterhead, err error) (Letterhead, error) {
	if err != nil {
		return Letterhead{}, fmt.Errorf("store: letterhead: %w", err)
	}
	if len(all) == 0 {
		return Letterhead{}, nil
	}
	return all[0], nil
}

// SetLetterhead keeps one in place of that before.
func (s *Store) SetLetterhead(ctx context.Context, l Letterhead) error {
	_, err := s.pool.Exec(ctx, `INSERT INTO letterhead (name, address, logo) VALUES ($1, $2, $3)
		ON CONFLICT (one) DO UPDATE SET name = excluded.name, address = excluded.address, logo = excluded.logo`,
		l.Name, l.Address, l.Logo)
	if err != nil {
		return fmt.Errorf("store: letterhead: %w", err)
	}
	return nil
}
