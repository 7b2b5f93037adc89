-- +goose Up
ALTER TABLE people ADD COLUMN signed_out_at timestamptz NOT NULL DEFAULT 'epoch';
COMMENT ON COLUMN people.signed_out_at IS 'Sessions that were begun before are worth nothing.';

-- +goose Down
ALTER TABLE people DROP COLUMN signed_out_at;
