package store

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
)

// PartBytes is how large the parts of an upload are, but for the last.
const PartBytes = 4 << 20

// The bounds of uploads.
const (
	// MaxUpload is how many bytes a file may have.
	MaxUpload = 2 << 30
	// uploadsEach is how many files of one person may be on their way; the oldest makes room.
	uploadsEach = 5
	// uploadKept is how long one waits that nobody touches.
	uploadKept = "3 days"
	// lost is after how long a server that reads a file and says nothing is taken to be gone.
	lost = "20 seconds"
)

// The states of an upload.
const (
	Arriving = "arriving" // parts are missing
	Arrived  = "arrived"
	Reading  = "reading" // to the side
	Staged   = "read"    // and can be brought in
)

// Upload is a file on its way in.
type Upload struct {
	ID             string
	Person         int64
	File           string
	Size, Received int64
	State          string
	// Job is what it is read as, Outcome what came of it; as whoever reads it has written them.
	Job, Outcome []byte
	// Rows and Bytes are how far it is read.
	Rows, Bytes int64
	Failure     string
	// Lost says that the server which read it is gone: it can be begun again.
	Lost      bool
	TouchedAt time.Time
}

const uploadsSQL = `SELECT id, person_id, file, size, received, state, job, outcome, rows, bytes, failure,
	state = 'reading' AND coalesce(beat_at < clock_timestamp() - interval '` + lost + `', true), touched_at FROM gavrik.uploads`

// Uploads lists a person's, the newest first.
func (s *Store) Uploads(ctx context.Context, person int64) ([]Upload, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(ctx, uploadsSQL+" WHERE person_id = $1 ORDER BY touched_at DESC", person)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Upload])
}

// Upload finds one of a person's.
func (s *Store) Upload(ctx context.Context, person int64, id string) (Upload, error) {
	// CollectOneRow returns its error
	rows, _ := s.pool.Query(ctx, uploadsSQL+" WHERE person_id = $1 AND id = $2", person, id)
	u, err := pgx.CollectOneRow(rows, pgx.RowToStructByPos[Upload])
	return u, notFound(err)
}

// AddUpload makes room for a file. What nobody has touched for long goes, and so does the oldest of
// a person who has many; the ids of those are returned.
func (s *Store) AddUpload(
	ctx context.Context, person int64, file string, size int64,
) (id string, gone []string, err error) {
	id = "incoming_" + strings.ToLower(rand.Text())
	err = s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		rows, _ := tx.Query(ctx, `DELETE FROM uploads WHERE touched_at < clock_timestamp() - interval '`+uploadKept+`'
			OR id IN (SELECT id FROM uploads WHERE person_id = $1 AND state <> 'reading' ORDER BY touched_at DESC OFFSET $2) RETURNING id`,
			person, uploadsEach-1) // CollectRows returns its error
		var err error
		if gone, err = pgx.CollectRows(rows, pgx.RowTo[string]); err != nil {
			return err
		}
		_, err = tx.Exec(ctx, "INSERT INTO uploads (id, person_id, file, size) VALUES ($1, $2, $3, $4)", id, person, file, size)
		return err
	})
	return id, gone, err
}

// ErrPlace says that another part is to come next.
var ErrPlace = errors.New("store: another part is to come next")

// AddPart takes the part of a file that begins behind those received. A part that is here already is
// passed over, so that it can be sent again when nobody knows whether it arrived.
func (s *Store) AddPart(
	ctx context.Context, person int64, id string, at int64, content []byte,
) (received int64, err error) {
	err = s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		var size int64
		err := tx.QueryRow(ctx, "SELECT received, size FROM uploads WHERE person_id = $1 AND id = $2 FOR UPDATE", person, id).Scan(&received, &size)
		end := at + int64(len(content))
		switch {
		case err != nil:
			return notFound(err)
		case end <= received && at%PartBytes == 0:
			return nil
		case at != received || end > size || len(content) > PartBytes || end < size && len(content) < PartBytes:
			return ErrPlace
		}
		if _, err := tx.Exec(ctx, "INSERT INTO upload_parts VALUES ($1, $2, $3)", id, at/PartBytes, content); err != nil {
			return err
		}
		received = end
		_, err = tx.Exec(ctx, `UPDATE uploads SET received = $2, touched_at = clock_timestamp(),
			state = CASE WHEN $2 = size THEN 'arrived' ELSE state END WHERE id = $1`, id, end)
		return err
	})
	return received, err
}

// Part is a part of a file.
func (s *Store) Part(ctx context.Context, id string, place int64) (content []byte, err error) {
	err = s.pool.QueryRow(ctx, "SELECT content FROM upload_parts WHERE upload = $1 AND place = $2", id, place).Scan(&content)
	return content, notFound(err)
}

// BeginReading marks a file as being read, unless another server reads it: ErrTaken.
func (s *Store) BeginReading(ctx context.Context, id string, job any) error {
	text, err := json.Marshal(job)
	if err != nil {
		return fmt.Errorf("store: %w", err)
	}
	tag, err := s.pool.Exec(ctx, `UPDATE uploads SET state = 'reading', job = $2, outcome = NULL, rows = 0, bytes = 0, failure = '',
		stopping = false, beat_at = clock_timestamp(), touched_at = clock_timestamp() WHERE id = $1 AND received = size
		AND (state <> 'reading' OR coalesce(beat_at < clock_timestamp() - interval '`+lost+`', true))`, id, text)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrTaken
	}
	return err
}

// Beat says how far reading a file is, and hears whether it should stop.
func (s *Store) Beat(ctx context.Context, id string, rows, bytes int64) (stop bool, err error) {
	err = s.pool.QueryRow(ctx, `UPDATE uploads SET rows = $2, bytes = $3, beat_at = clock_timestamp() WHERE id = $1 AND state = 'reading'
		RETURNING stopping`, id, rows, bytes).Scan(&stop)
	if errors.Is(err, pgx.ErrNoRows) { // it was dropped
		return true, nil
	}
	return stop, err
}

// EndReading says what came of it: an outcome, or why there is none.
func (s *Store) EndReading(ctx context.Context, id string, outcome any, failure string) error {
	text, err := json.Marshal(outcome)
	if err != nil {
		return fmt.Errorf("store: %w", err)
	}
	state := Staged
	if outcome == nil {
		state, text = Arrived, nil
	}
	_, err = s.pool.Exec(ctx, `UPDATE uploads SET state = $2, outcome = $3, failure = $4, touched_at = clock_timestamp()
		WHERE id = $1 AND state = 'reading'`, id, state, text, failure)
	return err
}

// StopReading asks whoever reads a person's file to stop.
func (s *Store) StopReading(ctx context.Context, person int64, id string) error {
	tag, err := s.pool.Exec(ctx, "UPDATE uploads SET stopping = true WHERE person_id = $1 AND id = $2 AND state = 'reading'", person, id)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return err
}

// DropUpload takes a person's file away.
func (s *Store) DropUpload(ctx context.Context, person int64, id string) error {
	return s.change(ctx, "DELETE FROM uploads WHERE person_id = $1 AND id = $2", person, id)
}
