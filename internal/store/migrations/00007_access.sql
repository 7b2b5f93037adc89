-- +goose Up
ALTER TABLE people
  ADD COLUMN role text NOT NULL DEFAULT 'analyst' CHECK (role IN ('reader', 'analyst', 'administrator')),
  ADD COLUMN traits jsonb NOT NULL DEFAULT '{}',
  ADD COLUMN left_at timestamptz;
UPDATE people SET role = 'administrator' WHERE administrator;
ALTER TABLE people DROP COLUMN administrator;
COMMENT ON COLUMN people.traits IS 'What rules ask of a person, such as her ports: name to text.';
COMMENT ON COLUMN people.left_at IS 'Since when she cannot sign in any more.';

CREATE TABLE groups (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  name text NOT NULL,
  description text NOT NULL DEFAULT '',
  sensitive boolean NOT NULL DEFAULT false,
  rest boolean NOT NULL DEFAULT false,
  limits jsonb NOT NULL DEFAULT '[]',
  version int NOT NULL DEFAULT 1);
CREATE UNIQUE INDEX groups_name ON groups (lower(name));
CREATE UNIQUE INDEX groups_rest ON groups (rest) WHERE rest;
COMMENT ON COLUMN groups.sensitive IS 'Its members see fields that are marked as sensitive.';
COMMENT ON COLUMN groups.rest IS 'Stands for the people who are in no other group.';
COMMENT ON COLUMN groups.limits IS 'What its members do not see, by record set.';
INSERT INTO groups (name, description, rest) VALUES ('People in no group', 'Holds for whoever is in none of the others, such as somebody new.', true);

CREATE TABLE memberships (
  group_id bigint NOT NULL REFERENCES groups ON DELETE CASCADE,
  person_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  PRIMARY KEY (group_id, person_id));
CREATE INDEX memberships_person ON memberships (person_id);

CREATE TABLE sensitive_fields (
  record_set text NOT NULL,
  field text NOT NULL,
  marked_at timestamptz NOT NULL DEFAULT clock_timestamp(),
  PRIMARY KEY (record_set, field));

CREATE TABLE view_shares (
  view_id bigint NOT NULL REFERENCES views ON DELETE CASCADE,
  role text CHECK (role IN ('reader', 'analyst', 'administrator')),
  group_id bigint REFERENCES groups ON DELETE CASCADE,
  edit boolean NOT NULL DEFAULT false,
  CHECK (role IS NULL OR group_id IS NULL));
CREATE UNIQUE INDEX view_shares_one ON view_shares (view_id, coalesce(role, ''), coalesce(group_id, 0));
COMMENT ON TABLE view_shares IS 'Who sees a view beside its owner: a role, a group or, without either, everyone.';
INSERT INTO view_shares (view_id) SELECT id FROM views WHERE shared;
ALTER TABLE views DROP COLUMN shared;

-- What a person may do with a view: 3 own it, 2 save over it, 1 see it, 0 nothing.
-- +goose StatementBegin
CREATE FUNCTION view_right(view_id bigint, owner_id bigint, person bigint) RETURNS int LANGUAGE sql STABLE AS $$
  SELECT CASE WHEN $2 = $3 THEN 3 ELSE coalesce((
    SELECT max(CASE WHEN s.edit AND p.role <> 'reader' THEN 2 ELSE 1 END)
    FROM gavrik.view_shares s CROSS JOIN gavrik.people p
    WHERE s.view_id = $1 AND p.id = $3 AND (s.role IS NULL AND s.group_id IS NULL OR s.role = p.role
      OR EXISTS (SELECT FROM gavrik.memberships m WHERE m.group_id = s.group_id AND m.person_id = $3))), 0) END
$$;
-- +goose StatementEnd

ALTER TABLE favorites ADD COLUMN group_id bigint REFERENCES groups ON DELETE CASCADE, ADD CHECK (person_id IS NULL OR group_id IS NULL);
DROP INDEX favorites_everyone;
CREATE UNIQUE INDEX favorites_everyone ON favorites (view_id) WHERE person_id IS NULL AND group_id IS NULL;
CREATE UNIQUE INDEX favorites_group ON favorites (view_id, group_id) WHERE group_id IS NOT NULL;
COMMENT ON COLUMN favorites.person_id IS 'Whose favorite it is; with no group either, everyone''s.';

CREATE TABLE favorite_places (
  person_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  view_id bigint NOT NULL REFERENCES views ON DELETE CASCADE,
  place int NOT NULL DEFAULT 0,
  hidden boolean NOT NULL DEFAULT false,
  PRIMARY KEY (person_id, view_id));
COMMENT ON TABLE favorite_places IS 'How a person has arranged her desk.';

CREATE TABLE standards (
  record_set text PRIMARY KEY,
  columns jsonb,
  document jsonb,
  set_by bigint NOT NULL REFERENCES people,
  set_at timestamptz NOT NULL DEFAULT now());
COMMENT ON TABLE standards IS 'What new views of a record set start with, where administrators have said so.';

CREATE TABLE last_answers (
  person_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  view_id bigint NOT NULL REFERENCES views ON DELETE CASCADE,
  answers jsonb NOT NULL,
  PRIMARY KEY (person_id, view_id));

CREATE TABLE tokens (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  person_id bigint NOT NULL REFERENCES people ON DELETE CASCADE,
  name text NOT NULL,
  hash bytea NOT NULL UNIQUE,
  made_at timestamptz NOT NULL DEFAULT now(),
  used_at timestamptz,
  ends_at timestamptz NOT NULL);
COMMENT ON COLUMN tokens.hash IS 'SHA-256 of the token, which is stored nowhere.';

CREATE TABLE audit (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
  at timestamptz NOT NULL DEFAULT clock_timestamp(),
  who text NOT NULL,
  what text NOT NULL,
  about text NOT NULL,
  address text NOT NULL);
CREATE INDEX audit_at ON audit (at);
COMMENT ON TABLE audit IS 'Who signed in, shared, exported and changed permissions. Names are kept as they were.';

-- +goose Down
DROP TABLE audit, tokens, last_answers, standards, favorite_places;
DROP INDEX favorites_group, favorites_everyone;
DELETE FROM favorites WHERE group_id IS NOT NULL;
ALTER TABLE favorites DROP COLUMN group_id;
CREATE UNIQUE INDEX favorites_everyone ON favorites (view_id) WHERE person_id IS NULL;
DROP FUNCTION view_right;
ALTER TABLE views ADD COLUMN shared boolean NOT NULL DEFAULT false;
UPDATE views SET shared = true WHERE id IN (SELECT view_id FROM view_shares WHERE role IS NULL AND group_id IS NULL);
DROP TABLE view_shares, sensitive_fields, memberships, groups;
ALTER TABLE people ADD COLUMN administrator boolean NOT NULL DEFAULT false;
UPDATE people SET administrator = role = 'administrator';
ALTER TABLE people DROP COLUMN role, DROP COLUMN traits, DROP COLUMN left_at;
