-- +goose Up
CREATE TABLE uploads (
  id text PRIMARY KEY,
  person_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  file text NOT NULL,
  size bigint NOT NULL,
  received bigint NOT NULL DEFAULT 0,
  state text NOT NULL DEFAULT 'arriving' CHECK (state IN ('arriving', 'arrived', 'reading', 'read')),
  job jsonb,
  rows bigint NOT NULL DEFAULT 0,
  bytes bigint NOT NULL DEFAULT 0,
  outcome jsonb,
  failure text NOT NULL DEFAULT '',
  stopping boolean NOT NULL DEFAULT false,
  beat_at timestamptz,
  touched_at timestamptz NOT NULL DEFAULT clock_timestamp());
CREATE INDEX ON uploads (person_id);
COMMENT ON TABLE uploads IS 'Files on their way in: they arrive in parts, are read to the side, and go once their records are in place.';
COMMENT ON COLUMN uploads.beat_at IS 'When the server that reads it was last heard of; another may begin again some time after.';
COMMENT ON COLUMN uploads.outcome IS 'What was read, and what it would change.';

CREATE TABLE upload_parts (
  upload text NOT NULL REFERENCES uploads ON DELETE CASCADE,
  place int NOT NULL,
  content bytea NOT NULL,
  PRIMARY KEY (upload, place));
ALTER TABLE upload_parts ALTER COLUMN content SET STORAGE EXTERNAL;

CREATE TABLE brought_in (
  record_set text PRIMARY KEY,
  table_name text NOT NULL UNIQUE,
  owner_id bigint REFERENCES people ON DELETE SET NULL,
  recipe jsonb NOT NULL,
  headings jsonb NOT NULL,
  file text NOT NULL,
  rows bigint NOT NULL,
  version int NOT NULL DEFAULT 1,
  by_name text NOT NULL,
  at timestamptz NOT NULL DEFAULT clock_timestamp());
COMMENT ON TABLE brought_in IS 'Record sets that people brought in as files. Without shares, one is its owner''s alone.';
COMMENT ON COLUMN brought_in.headings IS 'Those of the last file: rows that were kept aside are written by them.';

CREATE TABLE brought_in_shares (
  record_set text NOT NULL REFERENCES brought_in ON DELETE CASCADE ON UPDATE CASCADE,
  role text CHECK (role IN ('reader', 'analyst', 'administrator')),
  group_id bigint REFERENCES groups ON DELETE CASCADE,
  CHECK (role IS NULL OR group_id IS NULL));
CREATE UNIQUE INDEX brought_in_shares_one ON brought_in_shares (record_set, coalesce(role, ''), coalesce(group_id, 0));
COMMENT ON TABLE brought_in_shares IS 'Who sees a brought-in record set beside its owner: a role, a group or, without either, everyone.';

ALTER TABLE set_aside ADD COLUMN upload text;
CREATE INDEX ON set_aside (record_set, line);
CREATE INDEX ON set_aside (upload) WHERE upload IS NOT NULL;
COMMENT ON COLUMN set_aside.upload IS 'The file that is not brought in yet; null once it is.';

-- +goose Down
DELETE FROM set_aside WHERE upload IS NOT NULL;
ALTER TABLE set_aside DROP COLUMN upload;
DROP INDEX set_aside_record_set_line_idx;
DROP TABLE brought_in_shares, brought_in, upload_parts, uploads;
