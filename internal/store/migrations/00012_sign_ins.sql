-- +goose Up
DROP TABLE sessions, signin_failures;
ALTER TABLE people DROP COLUMN signed_out_at;
ALTER TABLE people ADD COLUMN changing boolean NOT NULL DEFAULT false;
COMMENT ON COLUMN people.changing IS 'Somebody else has set the password; it must be changed before anything else.';

CREATE TABLE sign_ins (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  hash bytea NOT NULL UNIQUE,
  person_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  way text NOT NULL,
  address text NOT NULL,
  agent text NOT NULL,
  begun_at timestamptz NOT NULL DEFAULT now(),
  seen_at timestamptz NOT NULL DEFAULT now());
CREATE INDEX sign_ins_person ON sign_ins (person_id);
COMMENT ON TABLE sign_ins IS 'Sessions. A row is there only while its person is signed in.';
COMMENT ON COLUMN sign_ins.hash IS 'SHA-256 of what the cookie holds, which is stored nowhere.';

CREATE TABLE devices (
  hash bytea PRIMARY KEY,
  person_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  seen_at timestamptz NOT NULL DEFAULT now());
CREATE INDEX devices_person ON devices (person_id);
COMMENT ON TABLE devices IS 'Browsers that a person has signed in with: wrong passwords from elsewhere do not keep her out of them.';

CREATE TABLE attempts (
  key text PRIMARY KEY,
  tries int NOT NULL,
  since timestamptz NOT NULL DEFAULT now(),
  until timestamptz NOT NULL DEFAULT now());
COMMENT ON TABLE attempts IS 'Tries to sign in, by account and address; until says when the next is let through.';

ALTER TABLE views ADD COLUMN request text;
CREATE UNIQUE INDEX views_request ON views (owner_id, request) WHERE request IS NOT NULL;
COMMENT ON COLUMN views.request IS 'Key of the request that made it: sent again, it makes no second view.';

-- +goose Down
ALTER TABLE views DROP COLUMN request;
DROP TABLE attempts, devices, sign_ins;
ALTER TABLE people DROP COLUMN changing, ADD COLUMN signed_out_at timestamptz NOT NULL DEFAULT 'epoch';
CREATE TABLE sessions (token text PRIMARY KEY, data bytea NOT NULL, expiry timestamptz NOT NULL);
CREATE TABLE signin_failures (key text NOT NULL, at timestamptz NOT NULL DEFAULT now());
CREATE INDEX signin_failures_key ON signin_failures (key, at);
