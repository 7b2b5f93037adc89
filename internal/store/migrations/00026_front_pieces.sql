-- +goose Up
CREATE TABLE front_pieces (
  path text PRIMARY KEY,
  content bytea NOT NULL,
  served_at timestamptz NOT NULL DEFAULT clock_timestamp());
COMMENT ON TABLE front_pieces IS 'Pieces of the pages of the versions that ran lately, named by their content: a page that is open, or another server has given, finds its own.';

-- +goose Down
DROP TABLE front_pieces;
