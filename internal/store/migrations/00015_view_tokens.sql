-- +goose Up
ALTER TABLE tokens ADD COLUMN view_key text REFERENCES views (key) ON DELETE CASCADE;
COMMENT ON COLUMN tokens.view_key IS 'The one view that the token runs, which then may stand in an address; null runs every view.';

-- +goose Down
ALTER TABLE tokens DROP COLUMN view_key;
