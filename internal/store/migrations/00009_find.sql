-- +goose Up
CREATE EXTENSION IF NOT EXISTS pg_trgm;

CREATE TABLE view_parts (
  view_id bigint NOT NULL REFERENCES views ON DELETE CASCADE,
  version int NOT NULL,
  part text NOT NULL,
  words text NOT NULL,
  lexemes tsvector NOT NULL GENERATED ALWAYS AS (to_tsvector('english', words)) STORED);
CREATE INDEX view_parts_view ON view_parts (view_id, version);
CREATE INDEX view_parts_lexemes ON view_parts USING gin (lexemes);
CREATE INDEX view_parts_words ON view_parts USING gin (words gin_trgm_ops);
COMMENT ON TABLE view_parts IS 'What views say of themselves, as they are looked for by words. Made anew from the views where it is missing.';

-- +goose Down
DROP TABLE view_parts;
