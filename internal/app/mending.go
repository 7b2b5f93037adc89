package app

import (
	"context"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/calendar"
	"gavrik/internal/records/files"
	"gavrik/internal/records/incoming"
	"gavrik/internal/store"
)

// DropAsides throws rows away that were kept aside.
func (a *App) DropAsides(ctx context.Context, set string, ids []int64) error {
	return a.apart(ctx, func(tx pgx.Tx) error {
		if _, err := store.DropAsides(ctx, tx, set, ids); err != nil {
			return err
		}
		b, err := store.LockBroughtIn(ctx, tx, set)
		if err != nil {
			return err
		}
		return store.KeepBroughtIn(ctx, tx, b, "")
	})
}

// Mend tries rows again that were kept aside, as somebody has mended them: those that can be read now
// come in, and the others stay with what is wrong with them. It returns how many came in.
func (a *App) Mend(ctx context.Context, set string, rows []store.Aside, cal calendar.Calendar) (int, error) {
	var table string
	var version int
	in := 0
	err := a.apart(ctx, func(tx pgx.Tx) error {
		b, err := store.LockBroughtIn(ctx, tx, set)
		if err != nil {
			return err
		}
		r, err := RecipeOf(b)
		if err != nil {
			return err
		}
		table, version = b.Table, b.Version+1
		convert, err := r.Converter(&files.File{Settings: r.Settings, Headings: b.Headings}, cal)
		if err != nil {
			return err
		}
		var mended []incoming.MendedRow
		var done []int64
		for _, one := range rows {
			row, err := files.Again(one.Content, b.Headings, r.Settings)
			var values []files.Value
			if err == nil {
				values, err = convert.Convert(row, nil)
			}
			if err != nil {
				one.Reason = err.Error()
				if err := store.ReasonAside(ctx, tx, set, one); err != nil {
					return err
				}
				continue
			}
			mended = append(mended, incoming.MendedRow{Line: int(one.Line), Values: values})
			done = append(done, one.ID)
		}
		if len(mended) == 0 {
			return nil
		}
		n, err := store.DropAsides(ctx, tx, set, done)
		if err != nil {
			return err
		}
		if int(n) != len(done) {
			return store.ErrStale // somebody else has mended one of them
		}
		if err := incoming.Append(ctx, tx, table, r, mended); err != nil {
			return err
		}
		if err := tx.QueryRow(ctx, "SELECT count(*) FROM "+incoming.Table(table)).Scan(&b.Rows); err != nil {
			return err
		}
		in = len(done)
		return store.KeepBroughtIn(ctx, tx, b, "")
	})
	if err != nil || in == 0 {
		return in, err
	}
	return in, a.loadFile(ctx, table, version)
}
