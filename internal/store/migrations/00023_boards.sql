-- +goose Up
ALTER TABLE views ADD kind text NOT NULL DEFAULT 'view' CHECK (kind IN ('view', 'board'));
COMMENT ON COLUMN views.kind IS 'What its documents are: a view, or a board of views. Both are saved, shared and found alike.';

-- +goose Down
DELETE FROM views WHERE kind = 'board';
ALTER TABLE views DROP kind;
