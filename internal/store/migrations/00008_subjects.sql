-- +goose Up
ALTER TABLE people ADD COLUMN subject text UNIQUE;
COMMENT ON COLUMN people.subject IS 'Issuer and number by which an identity provider knows the person.';

-- +goose Down
ALTER TABLE people DROP COLUMN subject;
