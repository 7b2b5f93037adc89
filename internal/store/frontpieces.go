package store

import (
	"context"
	"fmt"
	"io/fs"

	"github.com/jackc/pgx/v5"
)

// piecesKept is how long the pieces of a version are kept after it was started last.
const piecesKept = "30 days"

// KeepPieces keeps the files of a folder by their paths, for servers of other versions that are asked for
// them.
func (s *Store) KeepPieces(ctx context.Context, files fs.FS, folder string) error {
	var paths []string
	err := fs.WalkDir(files, folder, func(path string, d fs.DirEntry, err error) error {
		if err == nil && !d.IsDir() {
			paths = append(paths, path)
		}
		return err
	})
	if err != nil {
		return fmt.Errorf("store: pieces of the pages: %w", err)
	}
	err = s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		rows, _ := tx.Query(
			ctx, `UPDATE front_pieces SET served_at = clock_timestamp() WHERE path = ANY($1) RETURNING path`, paths,
		)
		known := map[string]bool{}
		var path string
		// ForEachRow returns the error of a query
		if _, err := pgx.ForEachRow(
			rows, []any{&path}, func() error { known[path] = true; return nil },
		); err != nil {
			return err
		}
		for _, path := range paths {
			if known[path] {
				continue
			}
			content, err := fs.ReadFile(files, path)
			if err != nil {
				return err
			}
			_, err = tx.Exec(
				ctx, "INSERT INTO front_pieces (path, content) VALUES ($1, $2) ON CONFLICT DO NOTHING", path, content,
			)
			if err != nil {
				return err
			}
		}
		_, err := tx.Exec(
			ctx, "DELETE FROM front_pieces WHERE served_at < clock_timestamp() - interval '"+piecesKept+"'",
		)
		return err
	})
	if err != nil {
		return fmt.Errorf("store: pieces of the pages: %w", err)
	}
	return nil
}

// Piece is a piece of a page by its path.
func (s *Store) Piece(ctx context.Context, path string) (content []byte, err error) {
	err = s.pool.QueryRow(ctx, "SELECT content FROM front_pieces WHERE path = $1", path).Scan(&content)
	return content, notFound(err)
}
