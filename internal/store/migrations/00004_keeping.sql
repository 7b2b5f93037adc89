-- +goose Up
ALTER TABLE views
  ADD COLUMN label text NOT NULL DEFAULT '',
  ADD COLUMN mark text NOT NULL DEFAULT '',
  ADD COLUMN binned_at timestamptz;
COMMENT ON COLUMN views.label IS 'A word of its owner''s that views are put together by.';
COMMENT ON COLUMN views.mark IS 'Name of a colour, or none.';
COMMENT ON COLUMN views.binned_at IS 'When its owner put it into the bin, from where it can be taken back.';

CREATE TABLE view_openings (
  view_id bigint NOT NULL REFERENCES views ON DELETE CASCADE,
  person_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  day date NOT NULL DEFAULT current_date,
  times int NOT NULL DEFAULT 1,
  last_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (view_id, person_id, day));

-- +goose Down
DROP TABLE view_openings;
ALTER TABLE views DROP COLUMN label, DROP COLUMN mark, DROP COLUMN binned_at;
