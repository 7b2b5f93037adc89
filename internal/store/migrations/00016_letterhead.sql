-- +goose Up
CREATE TABLE letterhead (
  one boolean PRIMARY KEY DEFAULT true CHECK (one),
  name text NOT NULL DEFAULT '',
  address text NOT NULL DEFAULT '',
  logo bytea);
COMMENT ON TABLE letterhead IS 'What stands at the head of paper: one row, or none.';
COMMENT ON COLUMN letterhead.address IS 'Lines, each on its own.';
COMMENT ON COLUMN letterhead.logo IS 'PNG, drawn anew from what was sent.';

-- +goose Down
DROP TABLE letterhead;
