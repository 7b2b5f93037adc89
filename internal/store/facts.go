package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/facts"
)

// Fact is a field that people fill in.
type Fact struct {
	ID      int64
	Set     string
	Body    *facts.Fact
	Version int
	MadeBy  string
	MadeAt  time.Time
	Removed bool
}

// Filling is one change of a fact's value.
type Filling struct {
	ID     int64
	Fact   int64
	Record string
	// Before and After are nil for no value.
	Before, After *string
	By            string
	At            time.Time
}

const factsSQL = "SELECT id, record_set, body, version, made_by, made_at, removed_at IS NOT NULL FROM gavrik.facts"

// Facts lists all, removed ones included, in the order in which they were made.
func (s *Store) Facts(ctx context.Context) ([]Fact, error) {
	rows, _ := s.pool.Query(ctx, factsSQL+" ORDER BY id") // CollectRows returns its error
	return namedFacts(pgx.CollectRows(rows, pgx.RowToStructByPos[Fact]))
}

func namedFacts(all []Fact, err error) ([]Fact, error) {
	if err != nil {
		return nil, fmt.Errorf("store: facts: %w", err)
	}
	return all, nil
}

// FactValue is what is filled in for a record.
type FactValue struct {
	Fact          int64
	Record, Value string
}

// FactValues lists all values as of the newest change that it returns.
func (s *Store) FactValues(ctx context.Context) (values []FactValue, last int64, err error) {
	err = pgx.BeginTxFunc(ctx, s.pool.Pool, pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly}, func(tx pgx.Tx) error {
		if err := tx.QueryRow(ctx, "SELECT coalesce(max(id), 0) FROM fact_changes").Scan(&last); err != nil {
			return err
		}
		rows, _ := tx.Query(ctx, "SELECT fact_id, record_key, value FROM fact_values") // CollectRows returns its error
		values, err = pgx.CollectRows(rows, pgx.RowToStructByPos[FactValue])
		return err
	})
	if err != nil {
		return nil, 0, fmt.Errorf("store: values of facts: %w", err)
	}
	return values, last, nil
}

const fillingsSQL = "SELECT id, fact_id, record_key, before, after, set_by, set_at FROM fact_changes"

// FillingsSince lists the changes behind one, in order.
func (s *Store) FillingsSince(ctx context.Context, last int64) ([]Filling, error) {
	rows, _ := s.pool.Query(ctx, fillingsSQL+" WHERE id > $1 ORDER BY id", last) // CollectRows returns its error
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Filling])
}

// FillingsOf lists what was filled in for a record, the newest first.
func (s *Store) FillingsOf(ctx context.Context, fact int64, record string, limit int) ([]Filling, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(ctx, fillingsSQL+" WHERE fact_id = $1 AND record_key = $2 ORDER BY id DESC LIMIT $3", fact, record, limit)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Filling])
}

// AddFact adds one; ErrTaken says that the record set has, or had, one of its key.
func (s *Store) AddFact(ctx context.Context, who, set string, f *facts.Fact) error {
	_, err := s.pool.Exec(ctx, "INSERT INTO facts (record_set, key, body, made_by) VALUES ($1, $2, $3, $4)", set, f.Key, f, who)
	if taken(err) {
		return ErrTaken
	}
	return err
}

// ChangeFact changes one from version base on; ErrStale says that there is a newer one.
func (s *Store) ChangeFact(ctx context.Context, set string, base int, f *facts.Fact) error {
	tag, err := s.pool.Exec(ctx, `UPDATE facts SET body = $4, version = version + 1
		WHERE record_set = $1 AND key = $2 AND version = $3`, set, f.Key, base, f)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrStale
	}
	return err
}

// RemoveFact takes one away, or brings it back with its values.
func (s *Store) RemoveFact(ctx context.Context, set, key string, away bool) error {
	tag, err := s.pool.Exec(ctx, `UPDATE facts SET removed_at = CASE WHEN $3 THEN clock_timestamp() END, version = version + 1
		WHERE record_set = $1 AND key = $2`, set, key, away)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return err
}

// Fill is a value that somebody fills in.
type Fill struct {
	Record string
	// Value is empty for none. Was is what stood there when she began; nil writes in any case.
	Value string
	Was   *string
}

// Filled says what became of some values.
type Filled struct {
	// Batch names what was written, to undo it; 0 if nothing was.
	Batch   int64
	Written int
	// Held are values that somebody else has filled in meanwhile; they were not written.
	Held []Filling
}

// FillIn writes values of a fact. What somebody else has filled in meanwhile stays.
func (s *Store) FillIn(ctx context.Context, who Person, fact int64, fills []Fill) (*Filled, error) {
	out := &Filled{}
	err := s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		return s.fillIn(ctx, tx, who, fact, fills, out)
	})
	if err != nil {
		return nil, fmt.Errorf("store: filling in: %w", err)
	}
	return out, nil
}

// fillings is the lock that lets one fill in at a time, so that changes are numbered in the order
// in which they are committed.
const fillings = 7_301_966

func (s *Store) fillIn(ctx context.Context, tx pgx.Tx, who Person, fact int64, fills []Fill, out *Filled) error {
	if _, err := tx.Exec(ctx, "SELECT pg_advisory_xact_lock($1)", fillings); err != nil {
		return err
	}
	keys := make([]string, len(fills))
	for i, f := range fills {
		keys[i] = f.Record
	}
	// CollectRows returns its error
	rows, _ := tx.Query(ctx, `SELECT 0::bigint, fact_id, record_key, value, value, set_by, set_at FROM fact_values
		WHERE fact_id = $1 AND record_key = ANY($2)`, fact, keys)
	now, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Filling])
	if err != nil {
		return err
	}
	there := map[string]Filling{}
	for _, v := range now {
		there[v.Record] = v
	}
	var records, values, before []string
	for _, f := range fills {
		had, has := there[f.Record]
		was := ""
		if has {
			was = *had.After
		}
		switch {
		case was == f.Value:
			continue
		case f.Was != nil && *f.Was != was:
			if !has { // it was emptied
				had = Filling{Fact: fact, Record: f.Record}
				if last, err := lastOf(ctx, tx, fact, f.Record); err == nil {
					had = last
				}
			}
			out.Held = append(out.Held, had)
			continue
		}
		records, values, before = append(records, f.Record), append(values, f.Value), append(before, was)
	}
	if out.Written = len(records); out.Written == 0 {
		return nil
	}
	if err := tx.QueryRow(ctx, "SELECT nextval('fact_batches')").Scan(&out.Batch); err != nil {
		return err
	}
	for _, step := range []struct {
		sql  string
		args []any
	}{
		{"DELETE FROM fact_values WHERE fact_id = $1 AND record_key = ANY($2)", []any{fact, records}},
		{`INSERT INTO fact_values (fact_id, record_key, value, set_by, set_at)
			SELECT $1, record, value, $2, clock_timestamp() FROM unnest($3::text[], $4::text[]) AS x (record, value)
			WHERE value <> ''`, []any{fact, who.Name, records, values}},
		{`INSERT INTO fact_changes (fact_id, batch, record_key, before, after, set_by, set_at, person_id)
			SELECT $1, $2, record, nullif(before, ''), nullif(value, ''), $3, clock_timestamp(), $4
			FROM unnest($5::text[], $6::text[], $7::text[]) AS x (record, before, value)`,
			[]any{fact, out.Batch, who.Name, who.ID, records, before, values}},
	} {
		if _, err := tx.Exec(ctx, step.sql, step.args...); err != nil {
			return err
		}
	}
	return nil
}

func lastOf(ctx context.Context, tx pgx.Tx, fact int64, record string) (Filling, error) {
	// CollectOneRow returns its error
	rows, _ := tx.Query(ctx, fillingsSQL+" WHERE fact_id = $1 AND record_key = $2 ORDER BY id DESC LIMIT 1", fact, record)
	return pgx.CollectOneRow(rows, pgx.RowToStructByPos[Filling])
}

// UndoFilling puts back what a batch of a fact replaced, where nobody has filled in anything since.
// ErrNotFound says that there is no such batch of hers.
func (s *Store) UndoFilling(ctx context.Context, who Person, fact, batch int64) (*Filled, error) {
	out := &Filled{}
	err := s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		// CollectRows returns its error
		rows, _ := tx.Query(ctx, fillingsSQL+" WHERE batch = $1 AND fact_id = $2 AND person_id = $3", batch, fact, who.ID)
		done, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Filling])
		if err != nil {
			return err
		}
		if len(done) == 0 {
			return ErrNotFound
		}
		fills := make([]Fill, len(done))
		for i, d := range done {
			was := textOf(d.After)
			fills[i] = Fill{Record: d.Record, Value: textOf(d.Before), Was: &was}
		}
		return s.fillIn(ctx, tx, who, fact, fills, out)
	})
	if errors.Is(err, ErrNotFound) {
		return nil, err
	}
	if err != nil {
		return nil, fmt.Errorf("store: undoing: %w", err)
	}
	return out, nil
}

func textOf(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

// ReadFacts lists the facts that are not removed, and their values, of a database that no store is
// opened on.
func ReadFacts(ctx context.Context, url string) ([]Fact, []FactValue, error) {
	all, err := namedFacts(readApart(ctx, url, "facts", pgx.RowToStructByPos[Fact], factsSQL+" ORDER BY id"))
	if err != nil {
		return nil, nil, err
	}
	values, err := readApart(ctx, url, "fact_values", pgx.RowToStructByPos[FactValue],
		"SELECT fact_id, record_key, value FROM gavrik.fact_values")
	if err != nil {
		return nil, nil, fmt.Errorf("store: values of facts: %w", err)
	}
	return all, values, nil
}
