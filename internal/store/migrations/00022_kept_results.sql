-- +goose Up
CREATE TABLE kept_results (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  key text NOT NULL UNIQUE,
  view_id bigint NOT NULL REFERENCES views ON DELETE CASCADE,
  person_id bigint REFERENCES people ON DELETE SET NULL,
  by_name text NOT NULL,
  name text NOT NULL DEFAULT '',
  version int NOT NULL,
  at timestamptz NOT NULL,
  as_of timestamptz NOT NULL,
  sentence text NOT NULL,
  records bigint NOT NULL,
  about jsonb NOT NULL,
  content bytea NOT NULL);
ALTER TABLE kept_results ALTER COLUMN content SET STORAGE EXTERNAL;
CREATE INDEX ON kept_results (view_id, as_of DESC);
CREATE INDEX ON kept_results (person_id);
COMMENT ON TABLE kept_results IS 'What views said at a moment, which does not change any more.';
COMMENT ON COLUMN kept_results.about IS 'The document with its answers, its record set, what its keeper did not see, which fields it is made of, its totals.';
COMMENT ON COLUMN kept_results.content IS 'Records, groups and totals, compressed (RFC 8878).';

CREATE TABLE keepings (
  view_id bigint NOT NULL REFERENCES views ON DELETE CASCADE,
  owner_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  rule jsonb NOT NULL,
  answers jsonb NOT NULL DEFAULT '{}',
  hold int NOT NULL CHECK (hold BETWEEN 1 AND 1000),
  next_at timestamptz,
  paused_why text NOT NULL DEFAULT '',
  PRIMARY KEY (view_id, owner_id));
CREATE INDEX ON keepings (next_at) WHERE paused_why = '';
CREATE INDEX ON keepings (owner_id);
COMMENT ON TABLE keepings IS 'Results of views that are kept again and again.';
COMMENT ON COLUMN keepings.hold IS 'How many of those that were kept by it are held on to.';
ALTER TABLE kept_results ADD COLUMN by_plan boolean NOT NULL DEFAULT false;
COMMENT ON COLUMN kept_results.by_plan IS 'It was kept by a plan of its person, which lets go of the oldest.';

-- +goose Down
DROP TABLE keepings, kept_results;
