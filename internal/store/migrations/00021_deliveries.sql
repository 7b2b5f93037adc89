-- +goose Up
CREATE TABLE deliveries (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  key text NOT NULL UNIQUE,
  view_id bigint NOT NULL REFERENCES views ON DELETE CASCADE,
  owner_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  rule jsonb,
  answers jsonb NOT NULL DEFAULT '{}',
  trigger jsonb NOT NULL DEFAULT '{}',
  content jsonb NOT NULL,
  addresses text[] NOT NULL DEFAULT '{}',
  hook text NOT NULL DEFAULT '',
  hook_secret text NOT NULL DEFAULT '',
  sensitive boolean NOT NULL DEFAULT false,
  made_at timestamptz NOT NULL,
  next_at timestamptz,
  paused_at timestamptz,
  paused_why text NOT NULL DEFAULT '');
CREATE INDEX ON deliveries (next_at) WHERE paused_at IS NULL;
CREATE INDEX ON deliveries (view_id);
CREATE INDEX ON deliveries (owner_id);
COMMENT ON TABLE deliveries IS 'Views that are sent, once or again and again.';
COMMENT ON COLUMN deliveries.rule IS 'When they are sent; null for one that was sent once.';
COMMENT ON COLUMN deliveries.sensitive IS 'An administrator has allowed sensitive fields to leave with it to addresses outside.';
COMMENT ON COLUMN deliveries.next_at IS 'Null for never again.';

CREATE TABLE delivery_people (
  delivery_id bigint NOT NULL REFERENCES deliveries ON DELETE CASCADE,
  person_id bigint REFERENCES people ON DELETE CASCADE,
  group_id bigint REFERENCES groups ON DELETE CASCADE,
  CHECK ((person_id IS NULL) <> (group_id IS NULL)));
CREATE UNIQUE INDEX delivery_people_one ON delivery_people (delivery_id, coalesce(person_id, 0), coalesce(group_id, 0));
CREATE INDEX ON delivery_people (person_id);
CREATE INDEX ON delivery_people (group_id);

CREATE TABLE delivery_stops (
  delivery_id bigint NOT NULL REFERENCES deliveries ON DELETE CASCADE,
  address text NOT NULL,
  at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (delivery_id, address));
COMMENT ON TABLE delivery_stops IS 'Who does not want to get a delivery any more.';

CREATE TABLE delivery_runs (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  delivery_id bigint NOT NULL REFERENCES deliveries ON DELETE CASCADE,
  due_at timestamptz,
  at timestamptz NOT NULL,
  what text NOT NULL CHECK (what IN ('due', 'now', 'me', 'notice')),
  UNIQUE (delivery_id, due_at));
COMMENT ON COLUMN delivery_runs.due_at IS 'Each due moment is carried out once, whatever the clocks do; null for one by hand.';

CREATE TABLE letters (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  run_id bigint NOT NULL REFERENCES delivery_runs ON DELETE CASCADE,
  channel text NOT NULL CHECK (channel IN ('mail', 'hook')),
  person_id bigint REFERENCES people ON DELETE SET NULL,
  name text NOT NULL,
  address text NOT NULL,
  notice text NOT NULL DEFAULT '',
  state text NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'sending', 'sent', 'idle', 'kept', 'failed')),
  tries int NOT NULL DEFAULT 0,
  why text NOT NULL DEFAULT '',
  bytes bigint NOT NULL DEFAULT 0,
  records bigint NOT NULL DEFAULT 0,
  digest text NOT NULL DEFAULT '',
  at timestamptz NOT NULL,
  UNIQUE (run_id, channel, address));
CREATE INDEX ON letters (person_id);
COMMENT ON COLUMN letters.state IS 'idle: what it waits for was not so. kept: it must not be sent to whom it was for. failed: for good.';
COMMENT ON COLUMN letters.digest IS 'Tells what was sent from what is to be sent next.';

-- +goose Down
DROP TABLE letters, delivery_runs, delivery_stops, delivery_people, deliveries;
