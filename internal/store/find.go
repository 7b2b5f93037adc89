package store

import (
	"context"
	"fmt"
	"strings"
	"unicode"

	"github.com/jackc/pgx/v5"
)

// Part is something that a view, or a record set, says of itself and is found by.
type Part struct {
	Kind  PartKind
	Words string
}

// PartKind says where the words stand.
type PartKind string

// The kinds of parts, the weightiest first.
const (
	NamePart    PartKind = "name"
	LabelPart   PartKind = "label"
	AboutPart   PartKind = "description"
	FieldPart   PartKind = "field"
	ValuePart   PartKind = "value"
	FormulaPart PartKind = "formula"
	SaysPart    PartKind = "sentence"
)

// Found is a view or a record set that some of the words lead to.
type Found struct {
	// View says that Key is a view's, not a record set's.
	View bool
	Key  string
	// Matches tell for each word where it was met.
	Matches []Match
}

// Match is one word that was met.
type Match struct {
	Word  string   `json:"word"`
	Part  PartKind `json:"part"`
	Words string   `json:"words"` // what stands there
}

// Unparted lists the views that a person may see and that nobody has told the parts of.
func (s *Store) Unparted(ctx context.Context, person int64) ([]View, error) {
	return s.views(
		ctx, " AND NOT EXISTS (SELECT FROM view_parts p WHERE p.view_id = v.id AND p.version = v.version)",
		pgx.NamedArgs{"person": person},
	)
}

// SetParts tells the parts of a version of a view, in place of those of others.
func (s *Store) SetParts(ctx context.Context, key string, version int, parts []Part) error {
	kinds, words := make([]string, len(parts)), make([]string, len(parts))
	for i, p := range parts {
		kinds[i], words[i] = string(p.Kind), p.Words
	}
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		// One at a time for a view, so that two do not both add theirs.
		var id int64
		if err := tx.QueryRow(ctx, "SELECT id FROM views WHERE key = $1 FOR UPDATE", key).Scan(&id); err != nil {
			return notFound(err)
		}
		if _, err := tx.Exec(ctx, "DELETE FROM view_parts WHERE view_id = $1", id); err != nil {
			return err
		}
		_, err := tx.Exec(
			ctx,
			"INSERT INTO view_parts (view_id, version, part, words) SELECT $1, $2, k, w FROM unnest($3::text[], $4::text[]) AS x (k, w)",
			id, version, kinds, words,
		)
		return err
	})
}

// findSQL meets each word with the parts of views and of the record sets that are
// given: as a word of the language or the beginning of one, else by what it looks like.
// Of each word the best place counts. What most words lead to comes first; of equals, that
// whose name is most like the question.
const findSQL = `
WITH asked AS (SELECT w, to_tsquery('english', w || ':*') AS q FROM unnest(@words::text[]) AS x (w) WHERE numnode(plainto_tsquery('english', w)) > 0),
met AS (
  SELECT true AS view, v.key, a.w, p.part, p.words, CASE WHEN p.lexemes @@ a.q THEN 1 ELSE word_similarity(a.w, p.words) * 0.8 END AS near
  FROM asked a JOIN view_parts p ON p.lexemes @@ a.q OR p.words %> a.w JOIN views v ON v.id = p.view_id
  WHERE view_right(v.id, v.owner_id, @person) > 0 AND v.binned_at IS NULL
  UNION ALL
  SELECT false, s.key, a.w, s.part, s.words, CASE WHEN to_tsvector('english', s.words) @@ a.q THEN 1 ELSE word_similarity(a.w, s.words) * 0.8 END
  FROM asked a JOIN unnest(@keys::text[], @kinds::text[], @texts::text[]) AS s (key, part, words) ON to_tsvector('english', s.words) @@ a.q OR s.words %> a.w),
best AS (
  SELECT DISTINCT ON (view, key, w) view, key, w, part, words, near * CASE part WHEN 'name' THEN 4 WHEN 'label' THEN 3 WHEN 'description' THEN 2.5 WHEN 'sentence' THEN 1 ELSE 2 END AS weight
  FROM met ORDER BY view, key, w, weight DESC, length(words))
SELECT view, key, json_agg(json_build_object('word', w, 'part', part, 'words', words) ORDER BY weight DESC, w)
FROM best GROUP BY view, key
ORDER BY count(*) DESC, sum(weight) + coalesce(max(similarity(words, @text)) FILTER (WHERE part = 'name'), 0) DESC, view DESC, key LIMIT @limit`

// Find looks for views that a person may see, and for record sets whose parts are given
// by their keys, by words. Words that say nothing, such as "by", do not count.
func (s *Store) Find(
	ctx context.Context, person int64, text string, sets map[string][]Part, limit int,
) ([]Found, error) {
	var keys, kinds, texts []string
	for key, parts := range sets {
		for _, p := range parts {
			keys, kinds, texts = append(keys, key), append(kinds, string(p.Kind)), append(texts, p.Words)
		}
	}
	// CollectRows returns its error
	rows, _ := s.pool.Query(ctx, findSQL, pgx.NamedArgs{
		"words": Words(text), "text": text, "person": person, "keys": keys, "kinds": kinds, "texts": texts,
		"limit": limit,
	})
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Found])
	if err != nil {
		return nil, fmt.Errorf("store: find: %w", err)
	}
	return out, nil
}

// maxWords is how many words of a question are looked for.
const maxWords = 12

// Words cuts a question into its words, in small letters, each once.
func Words(text string) []string {
	out, seen := []string{}, map[string]bool{}
	for _, w := range strings.FieldsFunc(strings.ToLower(text), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r)
	}) {
		if !seen[w] && len(out) < maxWords {
			seen[w] = true
			out = append(out, w)
		}
	}
	return out
}
