-- +goose Up
CREATE TABLE facts (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  record_set text NOT NULL,
  key text NOT NULL,
  body jsonb NOT NULL,
  version int NOT NULL DEFAULT 1,
  made_by text NOT NULL,
  made_at timestamptz NOT NULL DEFAULT clock_timestamp(),
  removed_at timestamptz,
  UNIQUE (record_set, key));
COMMENT ON TABLE facts IS 'Fields that people have added to record sets and fill in themselves.';
COMMENT ON COLUMN facts.removed_at IS 'A removed fact keeps its values, and can be brought back.';

CREATE TABLE fact_values (
  fact_id bigint NOT NULL REFERENCES facts,
  record_key text NOT NULL,
  value text NOT NULL,
  set_by text NOT NULL,
  set_at timestamptz NOT NULL,
  PRIMARY KEY (fact_id, record_key));
COMMENT ON TABLE fact_values IS 'What is filled in now.';
COMMENT ON COLUMN fact_values.record_key IS 'What the record is known by, in the field that the fact names.';

CREATE TABLE fact_changes (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  fact_id bigint NOT NULL REFERENCES facts,
  batch bigint NOT NULL,
  record_key text NOT NULL,
  before text,
  after text,
  set_by text NOT NULL,
  set_at timestamptz NOT NULL,
  person_id bigint NOT NULL REFERENCES people);
CREATE INDEX ON fact_changes (fact_id, record_key, id);
CREATE INDEX ON fact_changes (batch);
COMMENT ON TABLE fact_changes IS 'Who filled in what, in place of what, and when. Numbers ascend in the order of commits.';
COMMENT ON COLUMN fact_changes.batch IS 'What was filled in by one act; an undone act is a batch of its own.';
CREATE SEQUENCE fact_batches;

-- +goose Down
DROP SEQUENCE fact_batches;
DROP TABLE fact_changes;
DROP TABLE fact_values;
DROP TABLE facts;
