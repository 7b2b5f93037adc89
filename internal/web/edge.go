package web

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/view"
)

// maxStored bounds a view document that is kept. The database writes it with more spaces,
// and what it writes must be read again: see view.MaxBytes.
const maxStored = view.MaxBytes / 2

// stored is a document as it is kept, or the problem if it is too large to be.
func stored(doc any) ([]byte, error) {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(doc); err != nil {
		return nil, fmt.Errorf("web: %w", err)
	}
	if b.Len() > maxStored {
		return nil, huma.NewError(http.StatusRequestEntityTooLarge, fmt.Sprintf(
			"This view is too large to be kept: %d MB, where %d MB are the most. Shorten its longest list of values; a condition on a linked record, or on the records of another view, may say the same.", b.Len()>>20, maxStored>>20))
	}
	return b.Bytes(), nil
}

// errNUL is said of a character that no database text can hold.
var errNUL = errors.New("the text holds a character with the code 0, which cannot be kept; take it out")

// readJSON reads a body. One that holds the character U+0000 is refused as a whole:
// PostgreSQL has no text with it, and nobody types it.
func readJSON(data []byte, into any) error {
	if holdsNUL(data) {
		return errNUL
	}
	return json.Unmarshal(data, into)
}

// holdsNUL says whether the texts of a JSON document hold U+0000, which is written
// \u0000 there; behind a backslash that is itself escaped it is plain text.
func holdsNUL(data []byte) bool {
	for at := 0; ; {
		i := bytes.Index(data[at:], []byte(`\u0000`))
		if i < 0 {
			return false
		}
		at += i
		before := len(data[:at]) - len(bytes.TrimRight(data[:at], `\`))
		if before%2 == 0 {
			return true
		}
		at += len(`\u0000`)
	}
}

// cleanAddress refuses addresses that are no text: with a character of the code 0, or
// not in UTF-8.
func cleanAddress(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		query, err := url.QueryUnescape(r.URL.RawQuery)
		if err != nil || strings.ContainsRune(r.URL.Path+query, 0) ||
			!utf8.ValidString(r.URL.Path) || !utf8.ValidString(query) {
			problem(
				w, http.StatusBadRequest,
				"This address holds characters that are no text. Open Gavrik from its first page, and try again.",
			)
			return
		}
		next.ServeHTTP(w, r)
	})
}
