-- +goose Up
CREATE TABLE rounds (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  key text NOT NULL UNIQUE,
  view_id bigint NOT NULL REFERENCES views ON DELETE CASCADE,
  owner_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  rule jsonb NOT NULL,
  answers jsonb NOT NULL DEFAULT '{}',
  trigger jsonb NOT NULL DEFAULT '{}',
  each_looks boolean NOT NULL,
  by_seeing boolean NOT NULL,
  begun_at timestamptz NOT NULL);
CREATE INDEX ON rounds (view_id);
CREATE INDEX ON rounds (owner_id);
COMMENT ON TABLE rounds IS 'Views that are to be looked at again and again.';
COMMENT ON COLUMN rounds.each_looks IS 'Everyone has to look; else the look of one puts it away for all.';
COMMENT ON COLUMN rounds.by_seeing IS 'Having seen the view puts it away; else it is put away by hand.';
COMMENT ON COLUMN rounds.begun_at IS 'What was due before does not count.';

CREATE TABLE round_people (
  round_id bigint NOT NULL REFERENCES rounds ON DELETE CASCADE,
  person_id bigint REFERENCES people ON DELETE CASCADE,
  group_id bigint REFERENCES groups ON DELETE CASCADE,
  CHECK ((person_id IS NULL) <> (group_id IS NULL)));
CREATE UNIQUE INDEX round_people_one ON round_people (round_id, coalesce(person_id, 0), coalesce(group_id, 0));
CREATE INDEX ON round_people (person_id);
CREATE INDEX ON round_people (group_id);

CREATE TABLE looks (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  round_id bigint NOT NULL REFERENCES rounds ON DELETE CASCADE,
  person_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  at timestamptz NOT NULL,
  due_at timestamptz,
  by_seeing boolean NOT NULL,
  note text NOT NULL DEFAULT '',
  digest text NOT NULL DEFAULT '');
CREATE INDEX ON looks (round_id, at DESC);
CREATE INDEX ON looks (person_id);
CREATE UNIQUE INDEX looks_one ON looks (round_id, person_id, due_at);
COMMENT ON COLUMN looks.due_at IS 'Since when it had been due; null for a look before it was. Each is counted once.';
COMMENT ON COLUMN looks.digest IS 'Tells what the view said then from what it says later.';

CREATE TABLE calendar_feeds (
  person_id bigint PRIMARY KEY REFERENCES people ON DELETE CASCADE,
  hash bytea NOT NULL UNIQUE,
  made_at timestamptz NOT NULL DEFAULT now());
COMMENT ON TABLE calendar_feeds IS 'Private addresses that give a person''s rounds to a calendar. Only their hashes are kept.';

-- +goose Down
DROP TABLE calendar_feeds, looks, round_people, rounds;
