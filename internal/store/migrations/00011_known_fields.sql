-- +goose Up
CREATE TABLE known_fields (
  record_set text NOT NULL,
  field text NOT NULL,
  shown boolean NOT NULL,
  since timestamptz NOT NULL DEFAULT clock_timestamp(),
  PRIMARY KEY (record_set, field));
COMMENT ON TABLE known_fields IS 'Record sets (with an empty field) and fields that were loaded once. Restricted readers see those that are shown.';

-- +goose Down
DROP TABLE known_fields;
