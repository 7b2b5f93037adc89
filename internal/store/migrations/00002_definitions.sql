-- +goose Up
CREATE TABLE definitions (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  record_set text NOT NULL,
  key text NOT NULL,
  owner_id bigint NOT NULL REFERENCES people,
  version int NOT NULL,
  UNIQUE (record_set, key));
COMMENT ON TABLE definitions IS 'Calculated fields and buckets that all views of a record set share.';

CREATE TABLE definition_versions (
  definition_id bigint NOT NULL REFERENCES definitions ON DELETE CASCADE,
  version int NOT NULL,
  body jsonb NOT NULL,
  saved_by bigint NOT NULL REFERENCES people,
  saved_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (definition_id, version));
COMMENT ON COLUMN definition_versions.body IS 'As in a view document: {"calculated": …} or {"bucket": …}.';

-- +goose Down
DROP TABLE definition_versions, definitions;
