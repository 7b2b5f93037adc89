-- +goose Up
CREATE TABLE people (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  email text NOT NULL CHECK (email = lower(email)) UNIQUE,
  name text NOT NULL,
  administrator boolean NOT NULL DEFAULT false,
  password_hash text NOT NULL,
  created_at timestamptz NOT NULL DEFAULT now());

-- The shape is set by the session store.
CREATE TABLE sessions (
  token text PRIMARY KEY,
  data bytea NOT NULL,
  expiry timestamptz NOT NULL);
CREATE INDEX sessions_expiry ON sessions (expiry);

CREATE TABLE signin_failures (
  key text NOT NULL,
  at timestamptz NOT NULL DEFAULT now());
CREATE INDEX signin_failures_key ON signin_failures (key, at);

CREATE TABLE views (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  key text NOT NULL UNIQUE,
  owner_id bigint NOT NULL REFERENCES people,
  shared boolean NOT NULL DEFAULT false,
  version int NOT NULL);
COMMENT ON COLUMN views.key IS 'Lasting part of the view''s address.';
COMMENT ON COLUMN views.shared IS 'Everyone may see it; otherwise only its owner.';

CREATE TABLE view_versions (
  view_id bigint NOT NULL REFERENCES views ON DELETE CASCADE,
  version int NOT NULL,
  name text NOT NULL,
  description text NOT NULL,
  document jsonb NOT NULL,
  saved_by bigint NOT NULL REFERENCES people,
  saved_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (view_id, version));

CREATE TABLE favorites (
  view_id bigint NOT NULL REFERENCES views ON DELETE CASCADE,
  person_id bigint REFERENCES people ON DELETE CASCADE,
  added_at timestamptz NOT NULL DEFAULT now());
CREATE UNIQUE INDEX favorites_own ON favorites (view_id, person_id) WHERE person_id IS NOT NULL;
CREATE UNIQUE INDEX favorites_everyone ON favorites (view_id) WHERE person_id IS NULL;
COMMENT ON COLUMN favorites.person_id IS 'Whose favorite it is; null for everyone''s.';

CREATE TABLE set_aside (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  record_set text NOT NULL,
  file text NOT NULL,
  line bigint NOT NULL,
  reason text NOT NULL,
  content text NOT NULL,
  at timestamptz NOT NULL DEFAULT now());
COMMENT ON TABLE set_aside IS 'Rows of imported files that did not parse.';

-- +goose Down
DROP TABLE set_aside, favorites, view_versions, views, signin_failures, sessions, people;
