-- +goose Up
ALTER TABLE view_shares ADD totals int NOT NULL DEFAULT 0 CHECK (totals = 0 OR totals BETWEEN 2 AND 1000);
COMMENT ON COLUMN view_shares.totals IS 'They see groups of this many records at least with their totals, and no record; 0 for everything.';

-- Of how many records at least what a person is told of a view has to be: 0 for everything, else she sees no record.
-- +goose StatementBegin
CREATE FUNCTION view_least(view_id bigint, owner_id bigint, person bigint) RETURNS int LANGUAGE sql STABLE AS $$
  SELECT CASE WHEN $2 = $3 THEN 0 ELSE coalesce((
    SELECT min(s.totals)
    FROM gavrik.view_shares s CROSS JOIN gavrik.people p
    WHERE s.view_id = $1 AND p.id = $3 AND (s.role IS NULL AND s.group_id IS NULL OR s.role = p.role
      OR EXISTS (SELECT FROM gavrik.memberships m WHERE m.group_id = s.group_id AND m.person_id = $3))), 0) END
$$;
-- +goose StatementEnd

-- +goose Down
DROP FUNCTION view_least;
ALTER TABLE view_shares DROP totals;
