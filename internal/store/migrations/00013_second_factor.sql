-- +goose Up
ALTER TABLE people
  ADD COLUMN second_secret text NOT NULL DEFAULT '',
  ADD COLUMN second_on boolean NOT NULL DEFAULT false,
  ADD COLUMN second_step bigint NOT NULL DEFAULT 0;
COMMENT ON COLUMN people.second_secret IS 'Shared with the app that makes codes (RFC 6238).';
COMMENT ON COLUMN people.second_on IS 'A code is asked for beside the password.';
COMMENT ON COLUMN people.second_step IS 'The step of the last code that was taken: none is taken twice.';

CREATE TABLE spare_codes (
  person_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  hash bytea NOT NULL,
  PRIMARY KEY (person_id, hash));
COMMENT ON TABLE spare_codes IS 'For whoever has lost the app; each is taken once.';

CREATE TABLE settings (name text PRIMARY KEY, value jsonb NOT NULL, set_at timestamptz NOT NULL DEFAULT clock_timestamp());
COMMENT ON TABLE settings IS 'What administrators have settled for all.';

-- +goose Down
DROP TABLE settings, spare_codes;
ALTER TABLE people DROP COLUMN second_secret, DROP COLUMN second_on, DROP COLUMN second_step;
