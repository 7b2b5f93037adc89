-- +goose Up
CREATE TABLE descriptions (
  record_set text PRIMARY KEY,
  body jsonb NOT NULL,
  said jsonb NOT NULL,
  version int NOT NULL,
  changed_at timestamptz NOT NULL DEFAULT clock_timestamp());
COMMENT ON TABLE descriptions IS 'What people say about record sets beside what their database says.';
COMMENT ON COLUMN descriptions.said IS 'Who said each part of it, and when: by its path.';

CREATE TABLE set_keys (
  source text NOT NULL,
  schema text NOT NULL,
  table_name text NOT NULL,
  record_set text NOT NULL UNIQUE,
  PRIMARY KEY (source, schema, table_name));
COMMENT ON TABLE set_keys IS 'Keys of the record sets of tables: a table keeps its own, whatever comes beside it.';

-- +goose Down
DROP TABLE set_keys;
DROP TABLE descriptions;
