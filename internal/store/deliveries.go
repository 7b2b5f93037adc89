package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// Delivery is a view that is sent, once or again and again.
type Delivery struct {
	Key       string
	OwnerID   int64
	OwnerName string
	// OwnerLeft says that its owner cannot sign in any more.
	OwnerLeft bool
	// View is its view, Document that view's newest version, as JSON.
	View, ViewName string
	// Kind says whether it is a view's or a board's.
	Kind     Kind
	Document []byte
	// Sees says that its owner may see the view; Binned that nobody can at present.
	Sees, Binned bool
	DeliveryTerms
	People []PersonName
	Groups []GroupName
	// Sensitive says that an administrator lets sensitive fields leave with it.
	Sensitive bool
	// NextAt is nil for never again.
	NextAt    *time.Time
	PausedAt  *time.Time
	PausedWhy string
	// LastAt is when it was carried out last, nil for never; Sent, Failed and Waiting are how many
	// letters there were then.
	LastAt                *time.Time
	Sent, Failed, Waiting int
}

// DeliveryTerms are what its owner says of a delivery.
type DeliveryTerms struct {
	// Rule is nil for one that is sent once; Rule, Answers, Trigger and Content are JSON.
	Rule, Answers, Trigger, Content []byte
	// Addresses are those outside, in small letters.
	Addresses []string
	// Hook is an HTTPS address that it is posted to, HookSecret what that is signed with; or empty.
	Hook, HookSecret string
}

const deliverySQL = `
SELECT d.key, d.owner_id, o.name, o.left_at IS NOT NULL, v.key, n.name, v.kind, n.document,
       view_right(v.id, v.owner_id, d.owner_id) > 0, v.binned_at IS NOT NULL,
       d.rule, d.answers, d.trigger, d.content, d.addresses, d.hook, d.hook_secret,
       (SELECT coalesce(json_agg(json_build_object('id', p.id, 'name', p.name) ORDER BY p.name), '[]') FROM delivery_people w JOIN people p ON p.id = w.person_id WHERE w.delivery_id = d.id),
       (SELECT coalesce(json_agg(json_build_object('id', p.id, 'name', p.name) ORDER BY p.name), '[]') FROM delivery_people w JOIN groups p ON p.id = w.group_id WHERE w.delivery_id = d.id),
       d.sensitive, d.next_at, d.paused_at, d.paused_why, last.at,
       coalesce(became.sent, 0), coalesce(became.failed, 0), coalesce(became.waiting, 0)
FROM deliveries d
JOIN views v ON v.id = d.view_id JOIN view_versions n ON n.view_id = v.id AND n.version = v.version
JOIN people o ON o.id = d.owner_id
LEFT JOIN LATERAL (
  SELECT r.id, r.at FROM delivery_runs r WHERE r.delivery_id = d.id AND r.what IN ('due', 'now') ORDER BY r.at DESC, r.id DESC LIMIT 1) last ON true
LEFT JOIN LATERAL (
  SELECT count(*) FILTER (WHERE l.state = 'sent')::int AS sent, count(*) FILTER (WHERE l.state IN ('failed', 'kept'))::int AS failed,
         count(*) FILTER (WHERE l.state IN ('waiting', 'sending'))::int AS waiting
  FROM letters l WHERE l.run_id = last.id) became ON true
WHERE true`

func (s *Store) deliveries(ctx context.Context, which string, args pgx.NamedArgs) ([]Delivery, error) {
	rows, _ := s.pool.Query(ctx, deliverySQL+which, args) // CollectRows returns its error
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Delivery])
	if err != nil {
		return nil, fmt.Errorf("store: deliveries: %w", err)
	}
	return out, nil
}

// Deliveries lists a person's, or those of everybody, the newest first.
func (s *Store) Deliveries(ctx context.Context, person int64, everybodys bool) ([]Delivery, error) {
	return s.deliveries(ctx, " AND (@all OR d.owner_id = @person) ORDER BY d.id DESC", pgx.NamedArgs{
		"person": person, "all": everybodys,
	})
}

// DueDeliveries are those that are to be carried out by a moment, the longest due first.
func (s *Store) DueDeliveries(ctx context.Context, now time.Time, most int) ([]Delivery, error) {
	return s.deliveries(ctx, " AND d.next_at <= @now AND d.paused_at IS NULL ORDER BY d.next_at, d.id LIMIT @most",
		pgx.NamedArgs{"now": now, "most": most})
}

// Delivery is one by its key, whosever it is; ErrNotFound if there is none.
func (s *Store) Delivery(ctx context.Context, key string) (Delivery, error) {
	all, err := s.deliveries(ctx, " AND d.key = @key", pgx.NamedArgs{"key": key})
	if err == nil && len(all) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Delivery{}, err
	}
	return all[0], nil
}

// AddDelivery keeps a person's delivery of a view that she may see, and returns its key. It is
// carried out first at next; nil for never.
func (s *Store) AddDelivery(
	ctx context.Context, person int64, view string, t DeliveryTerms, people, groups []int64, now time.Time,
	next *time.Time,
) (string, error) {
	key := newKey()
	err := s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		var id int64
		err := tx.QueryRow(ctx, `INSERT INTO deliveries (key, view_id, owner_id, rule, answers, trigger, content, addresses, hook, hook_secret, made_at, next_at)
			SELECT $1, v.id, $2, $4, $5, $6, $7, $8, $9, $10, $11, $12 FROM views v
			WHERE v.key = $3 AND v.binned_at IS NULL AND view_right(v.id, v.owner_id, $2) > 0 RETURNING id`,
			key, person, view, t.Rule, t.Answers, t.Trigger, t.Content, t.Addresses, t.Hook, t.HookSecret, now, next).Scan(&id)
		if err != nil {
			return notFound(err)
		}
		return deliveredTo(ctx, tx, id, people, groups)
	})
	return key, err
}

// SetDelivery writes what a delivery is. What an administrator has allowed of it does not hold for
// other addresses or another content: it is to be allowed again.
func (s *Store) SetDelivery(
	ctx context.Context, key string, t DeliveryTerms, people, groups []int64, next *time.Time,
) error {
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		var id int64
		err := tx.QueryRow(ctx, `UPDATE deliveries SET sensitive = sensitive AND $6::text[] <@ addresses AND answers = $3 AND content = $5 AND $7 IN ('', hook),
			rule = $2, answers = $3, trigger = $4, content = $5, addresses = $6, hook = $7, hook_secret = $8, next_at = $9
			WHERE key = $1 RETURNING id`,
			key, t.Rule, t.Answers, t.Trigger, t.Content, t.Addresses, t.Hook, t.HookSecret, next).Scan(&id)
		if err != nil {
			return notFound(err)
		}
		if _, err := tx.Exec(ctx, "DELETE FROM delivery_people WHERE delivery_id = $1", id); err != nil {
			return err
		}
		return deliveredTo(ctx, tx, id, people, groups)
	})
}

func deliveredTo(ctx context.Context, tx pgx.Tx, delivery int64, people, groups []int64) error {
	return nameAll(ctx, tx, "delivery_people", delivery, people, groups)
}

// PauseDelivery lets a delivery rest; why is empty if somebody wanted it so.
func (s *Store) PauseDelivery(ctx context.Context, key, why string, now time.Time) error {
	return s.change(
		ctx, "UPDATE deliveries SET paused_at = $3, paused_why = $2 WHERE key = $1 AND paused_at IS NULL", key, why, now,
	)
}

// ResumeDelivery lets one go on, next at a moment; what came meanwhile is not made up for.
func (s *Store) ResumeDelivery(ctx context.Context, key string, next *time.Time) error {
	return s.change(
		ctx, "UPDATE deliveries SET paused_at = NULL, paused_why = '', next_at = $2 WHERE key = $1", key, next,
	)
}

// AllowSensitive lets sensitive fields leave with a delivery to addresses outside, or not.
func (s *Store) AllowSensitive(ctx context.Context, key string, allowed bool) error {
	return s.change(ctx, "UPDATE deliveries SET sensitive = $2 WHERE key = $1", key, allowed)
}

// HandDelivery makes a delivery another's; an administrator's word on it does not go along.
// ErrNotFound says that the other may not see its view, or is a reader.
func (s *Store) HandDelivery(ctx context.Context, key string, to int64) error {
	return s.change(ctx, `UPDATE deliveries d SET owner_id = $2, sensitive = false FROM views v, people p
		WHERE d.key = $1 AND v.id = d.view_id AND p.id = $2 AND p.left_at IS NULL AND p.role <> 'reader'
		AND view_right(v.id, v.owner_id, $2) > 0`, key, to)
}

// EndDelivery takes a delivery away, with what is known of its letters.
func (s *Store) EndDelivery(ctx context.Context, key string) error {
	return s.change(ctx, "DELETE FROM deliveries WHERE key = $1", key)
}

// StopDelivery says that an address does not want a delivery any more, or wants it again.
func (s *Store) StopDelivery(ctx context.Context, key, address string, stop bool) error {
	query := `INSERT INTO delivery_stops (delivery_id, address) SELECT id, lower($2) FROM deliveries WHERE key = $1 ON CONFLICT DO NOTHING`
	if !stop {
		query = `DELETE FROM delivery_stops s USING deliveries d WHERE d.id = s.delivery_id AND d.key = $1 AND s.address = lower($2)`
	}
	_, err := s.pool.Exec(ctx, query, key, address)
	return err
}

// Stopped says whether an address does not want a delivery any more.
func (s *Store) Stopped(ctx context.Context, key, address string) (stopped bool, err error) {
	err = s.pool.QueryRow(ctx, `SELECT EXISTS (SELECT FROM delivery_stops s JOIN deliveries d ON d.id = s.delivery_id
		WHERE d.key = $1 AND s.address = lower($2))`, key, address).Scan(&stopped)
	return stopped, err
}
