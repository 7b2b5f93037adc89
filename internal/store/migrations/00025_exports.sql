-- +goose Up
-- Files that are made for people to fetch, from whichever server. They are of the hour: not logged, so that they cost
-- no more than the disk they lie on, and not there any more after a crash.
CREATE UNLOGGED TABLE exports (
  id text PRIMARY KEY,
  person_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  name text NOT NULL,
  media text NOT NULL,
  lines bigint NOT NULL,
  about text[] NOT NULL,
  state text NOT NULL DEFAULT 'making' CHECK (state IN ('making', 'ready', 'failed', 'lost')),
  done bigint NOT NULL DEFAULT 0,
  bytes bigint NOT NULL DEFAULT 0,
  failure text NOT NULL DEFAULT '',
  begun_at timestamptz NOT NULL DEFAULT clock_timestamp(),
  beat_at timestamptz NOT NULL DEFAULT clock_timestamp());
CREATE INDEX ON exports (person_id);
COMMENT ON TABLE exports IS 'Files that are made for people to fetch.';
COMMENT ON COLUMN exports.about IS 'What is in it, for the audit trail.';
COMMENT ON COLUMN exports.done IS 'How many of its lines are worked through.';
COMMENT ON COLUMN exports.beat_at IS 'When the server that makes it was last heard of, or when it ended.';

CREATE UNLOGGED TABLE export_parts (
  export text NOT NULL REFERENCES exports ON DELETE CASCADE,
  place int NOT NULL,
  content bytea NOT NULL,
  PRIMARY KEY (export, place));
ALTER TABLE export_parts ALTER COLUMN content SET STORAGE EXTERNAL;

-- +goose Down
DROP TABLE export_parts, exports;
