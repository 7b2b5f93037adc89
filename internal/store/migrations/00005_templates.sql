-- +goose Up
ALTER TABLE views ADD COLUMN template boolean NOT NULL DEFAULT false;
COMMENT ON COLUMN views.template IS 'Opening it makes a copy of one''s own.';

-- +goose Down
ALTER TABLE views DROP COLUMN template;
