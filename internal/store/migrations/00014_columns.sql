-- +goose Up
-- Documents that were made without columns were written with null in their place, which the
-- strict reader does not take.
UPDATE groups SET limits = (
  SELECT jsonb_agg(CASE WHEN l->'rule'->'columns' = 'null' THEN jsonb_set(l, '{rule,columns}', '[]') ELSE l END ORDER BY at)
  FROM jsonb_array_elements(limits) WITH ORDINALITY x(l, at))
WHERE jsonb_path_exists(limits, '$[*].rule.columns ? (@ == null)');
UPDATE view_versions SET document = jsonb_set(document, '{columns}', '[]') WHERE document->'columns' = 'null';
UPDATE states SET document = jsonb_set(document, '{columns}', '[]') WHERE document->'columns' = 'null';
UPDATE standards SET document = jsonb_set(document, '{columns}', '[]') WHERE document->'columns' = 'null';

-- +goose Down
SELECT 1;
