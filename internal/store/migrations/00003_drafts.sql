-- +goose Up
CREATE TABLE states (
  key text PRIMARY KEY,
  document jsonb NOT NULL,
  made_by bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  made_at timestamptz NOT NULL DEFAULT now());
CREATE INDEX states_made_at ON states (made_at);
COMMENT ON TABLE states IS 'Views as they stood at one moment of work: what links to unsaved views lead to.';

CREATE TABLE drafts (
  person_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  id text NOT NULL,
  place text NOT NULL,
  title text NOT NULL,
  base int NOT NULL,
  state text NOT NULL REFERENCES states,
  revision int NOT NULL,
  updated_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (person_id, id));
COMMENT ON COLUMN drafts.place IS 'Address of the bench it is made on.';
COMMENT ON COLUMN drafts.base IS 'Version of the saved view it was made from; 0 for a new view.';
COMMENT ON COLUMN drafts.revision IS 'Counts the writes, so that two tabs do not overwrite each other.';

-- +goose Down
DROP TABLE drafts, states;
