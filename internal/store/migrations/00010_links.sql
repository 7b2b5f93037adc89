-- +goose Up
ALTER TABLE states ADD COLUMN lasting boolean NOT NULL DEFAULT false;
COMMENT ON COLUMN states.lasting IS 'Somebody has copied a link to it: it is kept for good.';

-- +goose Down
ALTER TABLE states DROP COLUMN lasting;
